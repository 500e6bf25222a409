"""What is trimmed, and when: before it is glued, with the whole flat scene, at the card's edge, the base at the end.

Glossary
--------
re-cut
    A panel cut once more with its own die or trimmer when a scene is glued on it that is still flat: all of it ends
    exactly at the panel's edge.
"""

from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import NamedTuple, TypeGuard

from fair_thicket.assembly.operation import After, Operation
from fair_thicket.laid.cutting import tool_of
from fair_thicket.laid.heights import Glued, Heights
from fair_thicket.model.card import Work, carried_by, name_pieces
from fair_thicket.model.keys import is_flap, piece_key
from fair_thicket.model.pieces import CARD_EDGE, Embellishment, PaperPiece, Piece
from fair_thicket.model.units import say_length, say_size

TRIM_MIN, SHORTEN_MIN = 0.7, 2.0
"""A cut at an edge; the base marked and cut along a ruler (our own guesses)."""
FLAT_THEN_CUT = "the whole scene is still flat when it is cut again"
CUT_THEN_RAISED = "the flat scene is cut again before anything is raised on it"
CUT_THEN_GLUED = "it is glued on when it is cut again: it could not be laid into its die any more"
TRIMMED_THEN_GLUED = "trimmed to fit before it is glued"
TRIMMED_THEN_RAISED = "a flat scene is trimmed before anything is raised: the cutter presses"
OVER_THE_EDGE = "glued with its end over the edge, turned over, cut along the card"
FINISHED = "the front is finished before the base is shortened to equal borders"


class Trims(NamedTuple):
    """How the pieces of a side are trimmed.

    Attributes
    ----------
    again : mapping of str to tuple of str
        For every panel that is cut once more the ids of what lies flat on it by then, from the back forward.
    first : tuple of str
        Ids of pieces that are trimmed before they are glued.
    flat_at_edge : tuple of str
        Ids of flat pieces that are cut at the card's edge when they are glued.
    """

    again: Mapping[str, tuple[str, ...]]
    first: tuple[str, ...]
    flat_at_edge: tuple[str, ...]

    def is_cut_with(self, key: str, panel: str) -> bool:
        """Whether a panel is cut again with a piece on it."""
        return key in self.again.get(panel, ())


def find_trims(work: Work, heights: Heights) -> Trims:
    """Find out how the pieces of a side are trimmed."""
    flat = _flat(heights)
    papers = {one.id: one for one in work.card.pieces if _is_cut(one)}
    again = _cut_again(work, flat, papers)
    known = {key for keys in again.values() for key in keys}
    first = [key for key, one in papers.items() if one.trim_to in papers.keys() - {key} and key not in known]
    high = _carried_high(work, papers)
    edge = [key for key, one in papers.items() if one.trim_to == CARD_EDGE and key in flat - high]
    return Trims(again, tuple(first), tuple(edge))


def _is_cut(piece: Piece) -> TypeGuard[Glued]:
    return isinstance(piece, PaperPiece) and not isinstance(piece, Embellishment)


def _cut_again(work: Work, flat: Collection[str], papers: Mapping[str, Glued]) -> dict[str, tuple[str, ...]]:
    """Return the panels that something flat on them is trimmed with, and all that lies flat on each."""
    panels = dict.fromkeys(
        one.on for key, one in papers.items() if one.trim_to and one.trim_to == one.on in papers and key in flat
    )
    again = {}
    for panel in panels:
        on_it = set(carried_by(work.card.pieces, panel))
        again[panel] = tuple(key for key in papers if key in on_it and key in flat)
    return again


def _carried_high(work: Work, papers: Mapping[str, Glued]) -> set[str]:
    """Ids of what is on foam, or on something that is."""
    raised = {key for key, one in papers.items() if one.lift_mm}
    return raised | {key for one in raised for key in carried_by(work.card.pieces, one)}


def _flat(heights: Heights) -> set[str]:
    """Ids of pieces that are glued flat, with nothing raised under them but what carries them all."""
    flat: set[str] = set()
    by_id = {rest.piece.id: rest for rest in heights.rests if not is_flap(rest.key)}
    for rest in heights.rests:
        piece = rest.piece
        if is_flap(rest.key) or piece.lift_mm or rest.how in {"bridging", "tipping"}:
            continue
        under = {piece_key(key) for key in rest.under} - {piece.id}
        carriers = set()
        at = piece.on
        while at in by_id and at not in carriers:
            carriers.add(at)
            at = by_id[at].piece.on
        if under - carriers <= flat:
            flat.add(piece.id)
    return flat


def list_trims(work: Work, trims: Trims, prefix: str, found: Sequence[Operation]) -> Iterator[Operation]:
    """List the cuts of a side; `found` has its other operations."""
    names, keys = name_pieces(work), {one.key for one in found}
    hold = work.card.assembly.hold_min
    for key in trims.first:
        piece = work.card.find(key)
        if f"{prefix}glue {key}" in keys:
            along = names.get(piece.trim_to, piece.trim_to)
            words = f"Lay the {names[key]} on dry, mark it along the {along}, take it off and trim it"
            cuts = (f"{prefix}cut {key}", f"{prefix}cut {piece.trim_to}")
            after = tuple(After(one, "cut out, then trimmed to what it meets") for one in cuts if one in keys)
            yield Operation(f"{prefix}trim {key}", "trim", words, (key,), TRIM_MIN, "scissors", after)
    for panel, flat in trims.again.items():
        piece = work.card.find(panel)
        if not isinstance(piece, PaperPiece):
            continue
        tool = tool_of(piece, work.stash)
        words = (
            f"Cut the {names[panel]} once more with its {tool}, the whole scene on it still flat; the blade is sharp, "
            "its maker's word comes first"
        )
        after = tuple(After(f"{prefix}glue {one}", FLAT_THEN_CUT, hold) for one in flat)
        yield Operation(f"{prefix}cut again {panel}", "trim", words, (panel, *flat), TRIM_MIN, tool, after)
    for piece in work.card.pieces:
        if piece.trim_to == CARD_EDGE and f"{prefix}glue {piece.id}" in keys:
            after = (After(f"{prefix}glue {piece.id}", OVER_THE_EDGE),)
            words = f"Turn the card over and cut the {names[piece.id]} off along its edge"
            yield Operation(f"{prefix}trim {piece.id}", "trim", words, (piece.id,), TRIM_MIN, "scissors", after)


def shorten(work: Work, found: Sequence[Operation]) -> Operation | None:
    """Cut the base to its last size when all that is glued holds; None where it has that size from the start."""
    card = work.card
    if not card.assembly.shortened_mm:
        return None
    words = (
        f"Trim {say_length(card.assembly.shortened_mm, card.unit)} off the foot of the base, front and back "
        f"together, to {say_size(*card.panel, card.unit)}: ruler and knife, no trimmer that presses on what is raised; "
        "cut away from yourself"
    )
    after = tuple(
        After(one.key, FINISHED, card.assembly.hold_min if one.kind == "glue" else 0.0)
        for one in found
        if one.kind in {"glue", "trim", "press", "ink"}
    )
    return Operation("shorten", "trim", words, (), SHORTEN_MIN, "knife", after)
