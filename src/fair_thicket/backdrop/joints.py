"""A joint moved by hand: the cuts stay where they lie, only where one ends and the other begins is another place."""

from dataclasses import dataclass
from itertools import pairwise

import msgspec

from fair_thicket.backdrop.joining import OVERLAP_MM
from fair_thicket.backdrop.judging import measure_joints
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Border
from fair_thicket.model.spans import Cut, Joint
from fair_thicket.model.stash import Stamp


@dataclass(frozen=True)
class Room:
    """How far a joint may be moved, mm from the border's left end."""

    low: float
    high: float


def joint_places(cuts: tuple[Cut, ...]) -> list[float]:
    """Middle of every overlap, from the left, mm from the border's left end."""
    return [(right.at_mm + left.at_mm + left.to_mm - left.from_mm) / 2 for left, right in pairwise(cuts)]


def room_of(stamp: Stamp, cuts: tuple[Cut, ...], number: int) -> Room:
    """Say between which places the middle of an overlap may lie, so that both cuts stay on the die and are seen.

    Parameters
    ----------
    number : int
        Of the joint, from 0.
    """
    left, right = cuts[number], cuts[number + 1]
    half = OVERLAP_MM / 2
    # how far the die itself reaches beyond what is cut of it now
    reach = left.at_mm + (left.to_mm - left.from_mm) + _spare(stamp, left, at_right=True)
    begin = right.at_mm - _spare(stamp, right, at_right=False)
    places = joint_places(cuts)
    low = (places[number - 1] if number else 0.0) + 2 * OVERLAP_MM
    end = right.at_mm + right.to_mm - right.from_mm
    high = (places[number + 1] if number + 1 < len(places) else end) - 2 * OVERLAP_MM
    return Room(max(low, begin + half), min(high, reach - half))


def _spare(stamp: Stamp, cut: Cut, *, at_right: bool) -> float:
    """Length of die beyond a cut's right or left end as it lies."""
    is_far_end = at_right != cut.flipped
    return stamp.width_mm - cut.to_mm if is_far_end else cut.from_mm


def move_joint(stamp: Stamp, piece: Border, number: int, at_mm: float) -> tuple[Border, Joint]:
    """Move a joint, so that the middle of its overlap lies at a place; gives the border and what the joint is then.

    Raises
    ------
    PaperError
        When the die does not reach there.
    """
    room = room_of(stamp, piece.cuts, number)
    if not room.low - 1e-6 <= at_mm <= room.high + 1e-6:
        raise PaperError(
            f"That joint can lie between {room.low:.0f} and {room.high:.0f} mm from the left end; beyond, one of the "
            "cuts would end."
        )
    left, right = piece.cuts[number], piece.cuts[number + 1]
    by_left = at_mm + OVERLAP_MM / 2 - (left.at_mm + left.to_mm - left.from_mm)
    by_right = at_mm - OVERLAP_MM / 2 - right.at_mm
    cuts = list(piece.cuts)
    cuts[number] = _grow(left, by_left, at_right=True)
    cuts[number + 1] = _grow(right, -by_right, at_right=False)
    moved = msgspec.structs.replace(piece, cuts=tuple(cuts))
    return moved, measure_joints(stamp, moved)[number]


def _grow(cut: Cut, by: float, *, at_right: bool) -> Cut:
    """Make a cut longer, or shorter, at its right or left end as it lies; what stays lies where it lay."""
    fields: dict[str, float] = {}
    if at_right != cut.flipped:
        fields["to_mm"] = round(cut.to_mm + by, 4)
    else:
        fields["from_mm"] = round(cut.from_mm - by, 4)
    if not at_right:
        fields["at_mm"] = round(cut.at_mm - by, 4)
    return msgspec.structs.replace(cut, **fields)
