"""How much of a surface each ink is needed on, and what of a wash may stay bare because it will be covered."""

import msgspec
import numpy as np
import shapely

from fair_thicket.ink.gradients import is_blended, wash_shares
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import WASH, AnyWash, Colour, is_glued, is_stepped
from fair_thicket.shape.outline import NOTHING, Area, only_areas, turn_area
from fair_thicket.shape.raster import fill
from fair_thicket.shape.washes import lay_area, list_lays

PX_PER_MM = 4.0
"""Fine enough for shares of a blend: areas are told to a tenth of a square centimetre."""


class InkNeed(msgspec.Struct, frozen=True):
    """Area on which an ink is needed, mm2; of a blend every place counts by the ink's share there."""

    ink: Colour
    area_mm2: float


def bare_area(work: Work, piece: AnyWash) -> Area:
    """Return what of a wash needs no ink: all that lies under glued, opaque paper farther in than the card's margin."""
    leaves = stack(work)
    at = next(index for index, leaf in enumerate(leaves) if leaf.piece.id == piece.id)
    own = leaves[at].area
    over = [leaf.area for leaf in leaves[at + 1 :] if is_glued(leaf.piece) and leaf.hides and leaf.area.intersects(own)]
    covered = shapely.buffer(shapely.union_all(over), -work.card.limits.ink_margin_mm) if over else NOTHING
    return only_areas(shapely.intersection(own, covered))


def needed_area(work: Work, piece: AnyWash) -> Area:
    """Return what of a wash is to be inked: the part that is seen, and a margin under what covers it."""
    own = next(leaf.area for leaf in stack(work) if leaf.piece.id == piece.id)
    return only_areas(shapely.difference(own, bare_area(work, piece)))


def ink_needs(work: Work, piece: AnyWash) -> tuple[InkNeed, ...]:
    """Say on how much each ink of a wash is needed, in the order of the inks."""
    needed = needed_area(work, piece)
    needs: dict[Colour, float] = {}
    if is_stepped(piece):
        for lay, laid in zip(piece.lays, list_lays(piece, work.stash), strict=True):
            placed = turn_area(lay_area(laid), piece.angle_deg, piece.x, piece.y)
            ink = lay.ink or piece.colour or WASH
            needs[ink] = needs.get(ink, 0.0) + float(shapely.intersection(placed, needed).area)
    elif is_blended(piece) and not needed.is_empty:
        left, top, right, bottom = needed.bounds
        size = (int(np.ceil((bottom - top) * PX_PER_MM)), int(np.ceil((right - left) * PX_PER_MM)))
        inside = fill(needed, size, PX_PER_MM, left=left, top=top)
        shares = wash_shares(piece, (left, top), size, PX_PER_MM)[inside]
        for number, ink in enumerate(piece.inks):
            needs[ink] = needs.get(ink, 0.0) + float(shares[:, number].sum()) / PX_PER_MM**2
    else:
        ink = (piece.inks[0] if piece.inks else piece.colour) or WASH
        needs[ink] = float(needed.area)
    return tuple(InkNeed(ink, round(area, 1)) for ink, area in needs.items())
