"""Actions in the order of the composed card, where no order of the work is known."""

from fair_thicket.model.card import Work
from fair_thicket.model.keys import piece_key
from fair_thicket.model.performance import Action
from fair_thicket.model.pieces import Cutout, Impression, Strip, is_glued
from fair_thicket.model.plan import MaskPlan


def as_composed(work: Work, plan: MaskPlan) -> list[Action]:
    """Return what is done to a card.

    Images that are stamped on a surface are coloured right before its first wash, or at the end; then all is glued from
    the back forward.
    """
    pieces = work.card.pieces
    words = [Action("words", piece.id) for piece in pieces if isinstance(piece, Strip) and piece.words]
    cut = [Action("colour", piece.id) for piece in pieces if isinstance(piece, Cutout)]
    glued = [Action("glue", piece.id) for piece in pieces if is_glued(piece)]
    by_hand = [Action("press", press=p) for p, press in enumerate(plan.presses) if press.by_hand]
    return [*words, *_on_table(work, plan), *cut, *glued, *by_hand]


def _on_table(work: Work, plan: MaskPlan) -> list[Action]:
    """Return presses and washes, each surface's images coloured before its first wash."""
    coloured = {piece.id for piece in work.card.pieces if isinstance(piece, Impression) and piece.is_coloured}
    actions: list[Action] = []
    waiting: dict[str, dict[str, Action]] = {}
    for p, press in enumerate(plan.presses):
        if press.by_hand:
            continue
        if press.is_ink:
            actions += waiting.pop(press.surface, {}).values()
        actions.append(Action("press", press=p))
        for key in sorted(coloured.intersection(map(piece_key, press.impressions))):
            waiting.setdefault(press.surface, {})[key] = Action("colour", key)
    return [*actions, *(action for known in waiting.values() for action in known.values())]
