"""Borders and strips that reach from edge to edge, upright or tilted; and borders slid along themselves.

Notes
-----
All lengths are of the strip itself. A strip of height h that is tilted by t across a sheet w wide must be
w / cos t + h tan t long, so that no corner of the sheet's edge shows beside its ends: here it is read off the sheet's
own outline, as seen from the strip, so that a sheet of any shape will do.
"""

from typing import NamedTuple

import msgspec
import shapely

from fair_thicket.backdrop.joining import Joining
from fair_thicket.backdrop.rows import trim_cuts
from fair_thicket.backdrop.spanning import span_area
from fair_thicket.laid.stack import paper_of, stack
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import CARD_EDGE, Border, Strip
from fair_thicket.model.spans import Cut
from fair_thicket.shape.outline import Area, to_area, turn_area_back, turn_points
from fair_thicket.shape.paper import local_area, reaches

ROUND_MM = 1 / 64 * 25.4
"""A strip is cut so much longer than needed, and trimmed flush."""
MOST_MM = 1900.0


class Reach(NamedTuple):
    """How far a sheet stretches along a strip, mm from the strip's middle, to the right."""

    left: float
    right: float

    @property
    def length(self) -> float:
        """Length of strip that the sheet takes."""
        return self.right - self.left


def sheet_under(work: Work, piece: Border | Strip) -> Area:
    """Return the paper that a piece lies on, mm on the panel."""
    if not piece.on:
        return paper_of(work.card)
    return next(leaf.sheet for leaf in stack(work) if leaf.piece.id == piece.on)


def reach_of(work: Work, piece: Border | Strip) -> Reach:
    """Say how far the sheet under a strip stretches along it, over the strip's whole height.

    Raises
    ------
    PaperError
        When the strip does not lie on its sheet.
    """
    sheet = sheet_under(work, piece)
    seen = turn_area_back(sheet, piece.angle_deg, piece.x, piece.y)
    own = local_area(piece, work.stash)
    if own.is_empty or sheet.is_empty:
        raise PaperError(f"Nothing is left of the {name_pieces(work)[piece.id]} or of its sheet; trim less of it.")
    _, top, _, bottom = own.bounds
    band = shapely.intersection(seen, shapely.box(-MOST_MM, top, MOST_MM, bottom))
    if band.is_empty:
        raise PaperError(f"The {name_pieces(work)[piece.id]} does not lie on its sheet; move it there first.")
    left, _, right, _ = band.bounds
    return Reach(left, right)


def reach_across(work: Work, piece: Border | Strip) -> Border | Strip:
    """Make a border or strip reach across its sheet from edge to edge, trimmed flush there.

    Raises
    ------
    PaperError
        When it does not lie on its sheet, or its die cannot be joined that long.
    """
    reach = reach_of(work, piece)
    length = round(reach.length + ROUND_MM, 4)
    ((x, y),) = turn_points([((reach.left + reach.right) / 2, 0.0)], piece.angle_deg, piece.x, piece.y).tolist()
    fields = {"x": round(x, 3), "y": round(y, 3), "trim_to": piece.on or CARD_EDGE}
    if isinstance(piece, Strip):
        return msgspec.structs.replace(piece, width_mm=length, **fields)
    cuts: tuple[Cut, ...] = ()
    if reaches(piece.cuts, piece.length_mm) or length > work.stash.find(piece.stamp).width_mm + 0.05:
        cuts = window_of(work, piece, length, 0.0)
    return msgspec.structs.replace(piece, length_mm=length, cuts=cuts, flipped=piece.flipped and not cuts, **fields)


def window_of(work: Work, piece: Border, length_mm: float, step_mm: float) -> tuple[Cut, ...]:
    """Return the cuts of a border of a length that begins a step along the best span of its die.

    Raises
    ------
    PaperError
        When the die cannot be joined that long.
    """
    stamp = work.stash.find(piece.stamp)
    whole = span_area(to_area(stamp.outline, stamp.pockets), length_mm + step_mm, Joining(may_flip=stamp.may_flip))
    return trim_cuts(whole.cuts, step_mm, step_mm + length_mm)


def slide_border(work: Work, piece: Border, step_mm: float) -> Border:
    """Slide a border along itself to the left, or to the right by less than 0; its place and length are kept.

    One that is joined of several cuts is joined anew for it: a window of the best span of its die.

    Raises
    ------
    PaperError
        When its die does not reach, or cannot be joined that long.
    """
    stamp = work.stash.find(piece.stamp)
    by = -step_mm if piece.flipped else step_mm
    if not reaches(piece.cuts, piece.length_mm):
        return msgspec.structs.replace(piece, start_mm=round((piece.start_mm + by) % stamp.width_mm, 4))
    if len(piece.cuts) > 1:
        return msgspec.structs.replace(piece, cuts=window_of(work, piece, piece.length_mm, abs(step_mm)), flipped=False)
    (cut,) = piece.cuts
    by = -by if cut.flipped else by
    moved = msgspec.structs.replace(cut, from_mm=round(cut.from_mm + by, 4), to_mm=round(cut.to_mm + by, 4))
    if moved.from_mm < 0 or moved.to_mm > stamp.width_mm:
        raise PaperError(f"The die of the {stamp.name} ends there; it can be slid less far.")
    return msgspec.structs.replace(piece, cuts=(moved,))
