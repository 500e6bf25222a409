"""The card as it is after each step: what has landed on it by then."""

from collections.abc import Sequence

from fair_thicket.assembly.operation import Operation
from fair_thicket.assembly.planning import Assembly
from fair_thicket.model.keys import image_key

LANDED = frozenset({"press", "ink", "glue", "set"})
"""Kinds of step after which something more is on the card."""


def landed_after(made: Assembly, index: int) -> frozenset[str]:
    """Ids of pieces of the front that are on the card after a step; what is stamped on a panel comes with the panel.

    What the step itself is about counts as well, so that it is seen.
    """
    steps = made.schedule.steps[: index + 1]
    landing = [one.operation for one in steps if lands(one.operation)]
    every, now = _pieces_of(landing), _pieces_of(landing[-1:] if steps and lands(steps[-1].operation) else [])
    glued = _pieces_of([one for one in landing if one.kind in {"glue", "set"}])
    front = next(side for side in made.sides if side.name == "front").work
    on = {piece.id: piece.on for piece in front.card.pieces}
    return frozenset(key for key in every if not on.get(key) or on[key] in glued or key in now)


def lands(operation: Operation) -> bool:
    """Whether something more is on the front after an operation."""
    return operation.kind in LANDED and not operation.key.startswith("inside ")


def _pieces_of(operations: Sequence[Operation]) -> frozenset[str]:
    return frozenset(image_key(key) for one in operations for key in one.pieces)
