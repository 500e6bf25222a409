"""Bringing one piece past another and past nothing else; where that closes a ring, the two ways out that paper has.

Glossary
--------
ring
    Pieces each of which is to be in front of the next, and the last in front of the first: no pile of paper is so.
"""

import itertools
from collections.abc import Sequence

import msgspec
import shapely

from fair_thicket.edits.flaps import send_part, to_local
from fair_thicket.edits.order import settle
from fair_thicket.edits.pieces import place_pieces, set_order
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout, Impression, Piece, as_cut
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.shape.outline import to_rings
from fair_thicket.shape.overlap import find_overlaps
from fair_thicket.shape.paper import footprint

ROOM_MM = 0.6
"""A flap reaches this far beyond what it is to cover, so that its root lies clear of it."""


class RingError(PaperError):
    """A wanted order that closes a ring.

    Attributes
    ----------
    ring : tuple of str
        Ids: each is in front of the next, and the last is to be in front of the first.
    """

    def __init__(self, words: str, ring: tuple[str, ...]) -> None:
        self.ring = ring
        super().__init__(words)


def bring_past_only(work: Work, front: str, back: str) -> Work:
    """Bring a piece in front of another, and leave all other overlaps as they are.

    Raises
    ------
    RingError
        When that closes a ring, with the ring.
    PaperError
        When the two do not overlap, or paper does not let them.
    """
    leaves = [leaf for leaf in stack(work) if leaf.key == leaf.piece.id]
    ids = [leaf.key for leaf in leaves]
    over: dict[str, set[str]] = {key: set() for key in ids}  # who must lie in front of whom
    for i, j in find_overlaps([leaf.area for leaf in leaves]):
        over[ids[i]].add(ids[j])
    names = name_pieces(work)
    if back in over[front]:  # front lies behind now
        over[front].discard(back)
        over[back].add(front)
    elif front not in over[back]:
        raise PaperError(f"The {names[front]} and the {names[back]} do not overlap: their order shows nowhere.")
    chain = _way(over, front, back)
    if chain:
        pairs = itertools.pairwise(chain)
        told = ", ".join(f"the {names[one]} behind the {names[other]}" for one, other in pairs)
        raise RingError(
            f"The {names[front]} cannot come in front of the {names[back]}: {told} is to stay so, and that closes a "
            "ring. A pile of paper has no rings; one flap or one cut-out makes it possible.",
            tuple(reversed(chain)),
        )
    return set_order(work, _sorted([piece.id for piece in work.card.pieces], over))


def _way(over: dict[str, set[str]], start: str, end: str) -> list[str]:
    """Find a chain from start forward to end, each behind the next; empty when there is none."""
    came: dict[str, str] = {}
    frontier = [start]
    while frontier:
        at = frontier.pop(0)
        if at == end:
            chain = [end]
            while chain[-1] != start:
                chain.append(came[chain[-1]])
            return chain[::-1]
        for other in sorted(over[at]):
            if other not in came and other != start:
                came[other] = at
                frontier.append(other)
    return []


def _sorted(ids: Sequence[str], over: dict[str, set[str]]) -> list[str]:
    """Order from the back to the front as wanted, as near to the present order as may be."""
    waiting = {key: sum(key in fronts for fronts in over.values()) for key in ids}
    rest, order = list(ids), []
    while rest:
        key = next(key for key in rest if waiting[key] == 0)
        rest.remove(key)
        order.append(key)
        for other in over[key]:
            waiting[other] -= 1
    return order


def ring_with_flap(work: Work, ring: Sequence[str]) -> Work:
    """Make a ring with one flap: all of it cut out, the last's part that meets the first lifted over it.

    Raises
    ------
    PaperError
        When a piece of the ring cannot be cut out or parted.
    """
    first, last = ring[0], ring[-1]
    for key in ring:
        piece = work.card.find(key)
        if isinstance(piece, Impression):
            work = settle(_with(work, as_cut(piece)))
    ids = [piece.id for piece in work.card.pieces]
    places = sorted(ids.index(key) for key in ring)
    order = list(ids)
    for place, key in zip(places, reversed(ring), strict=True):  # the last of the ring lies at the bottom
        order[place] = key
    work = set_order(work, order)
    lifted, covered = work.card.find(last), work.card.find(first)
    meeting = _meeting(work, lifted, covered)
    part = to_rings(shapely.buffer(shapely.convex_hull(meeting), ROOM_MM, join_style="mitre"))[0]
    local = tuple(to_local(lifted, part))
    return send_part(work, last, local, past=first, side="over", name="part")


def ring_with_cutout(work: Work, ring: Sequence[str]) -> Work:
    """Make a ring with one cut-out: the first cut out and trimmed along the last, so that it seems to be behind it.

    Raises
    ------
    PaperError
        When the first is no image.
    """
    first, last = work.card.find(ring[0]), work.card.find(ring[-1])
    if isinstance(first, Impression):
        first = as_cut(first)
    if not isinstance(first, Cutout):
        raise PaperError(
            f"The {name_pieces(work)[ring[0]]} is no image that could be cut out; change another of the ring."
        )
    meeting = _meeting(work, first, last)
    # grown by a hair's breadth, so that no sliver of paper is left at the edge
    grown = shapely.buffer(meeting, 0.01, join_style="mitre")
    away = tuple(tuple(to_local(first, one)) for one in to_rings(grown))
    cut = msgspec.structs.replace(first, cut_away=(*first.cut_away, *away))
    return settle(_with(work, cut))


def _meeting(work: Work, one: Piece, other: Piece) -> shapely.Geometry:
    """Area that two pieces share.

    Raises
    ------
    PaperError
        When they do not overlap: then they are in no ring.
    """
    meeting = shapely.intersection(footprint(one, work.stash), footprint(other, work.stash))
    if meeting.area < OVERLAP_MM2:
        names = name_pieces(work)
        raise PaperError(f"The {names[one.id]} and the {names[other.id]} do not overlap, so they are in no ring.")
    return meeting


def _with(work: Work, piece: Cutout) -> Work:
    return msgspec.structs.replace(work, card=place_pieces(work.card, (piece,)))
