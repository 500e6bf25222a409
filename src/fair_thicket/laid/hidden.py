"""What hides a piece, and what of its paper nobody will see."""

import numpy as np
import shapely

from fair_thicket.laid.stack import Leaf, stack
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Border, Impression, Wash, is_glued
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.shape.outline import Area, only_areas, turn_points
from fair_thicket.shape.paper import local_area, place

GLUE_MM = 6.0
"""Hidden paper that is left on for the glue (common practice)."""
LEAST_MM2 = 0.05


def fronts_of(leaves: tuple[Leaf, ...], key: str) -> Area:
    """Return what hides a piece: all opaque leaves in front of it, mm on the panel."""
    at = next(index for index, leaf in enumerate(leaves) if leaf.key == key)
    return only_areas(shapely.union_all([leaf.area for leaf in leaves[at + 1 :] if leaf.hides]))


def spare_foot(work: Work, piece: Border, leaves: tuple[Leaf, ...] | None = None) -> float:
    """How much may be cut off a border's foot because it is hidden, mm: the overlap for the glue is left on."""
    leaves = stack(work) if leaves is None else leaves
    own = next(leaf.area for leaf in leaves if leaf.key == piece.id)
    seen = shapely.difference(own, fronts_of(leaves, piece.id))
    points = shapely.get_coordinates(only_areas(seen))
    if not len(points) or own.is_empty:
        return 0.0
    lowest = float(np.max(turn_points(points - (piece.x, piece.y), -piece.angle_deg, 0, 0)[:, 1]))
    _, _, _, bottom = local_area(piece, work.stash).bounds
    return max(0.0, bottom - lowest - GLUE_MM)


def hiders_of(work: Work, piece: Border, at_mm: float) -> tuple[str, ...]:
    """Ids of the pieces that hide a joint of a border with all of its overlap; none when some of it is in sight.

    Parameters
    ----------
    at_mm : float
        Of the joint, from the border's left end.
    """
    leaves = stack(work)
    at = next(index for index, leaf in enumerate(leaves) if leaf.key == piece.id)
    _, top, _, bottom = local_area(piece, work.stash).bounds
    x = at_mm - piece.length_mm / 2
    x = -x if piece.flipped else x
    zone = place(shapely.box(x - GLUE_MM, top, x + GLUE_MM, bottom), piece)
    seen = shapely.intersection(leaves[at].area, zone)
    hiders = []
    for leaf in reversed(leaves[at + 1 :]):
        if leaf.hides and shapely.intersection(seen, leaf.area).area > LEAST_MM2:
            hiders.append(leaf.piece.id)
            seen = shapely.difference(seen, leaf.area)
    return tuple(dict.fromkeys(hiders)) if seen.area < LEAST_MM2 else ()


def covers_of(work: Work, leaves: tuple[Leaf, ...]) -> dict[str, Area]:
    """Return what will be glued over each surface that is inked on, by the surface's id; mm on the panel.

    Sheets that let light through cover nothing, nor does what the surface itself lies on.
    """
    covers: dict[str, Area] = {}
    for surface in {piece.on for piece in work.card.pieces if isinstance(piece, Impression | Wash)}:
        at = [index for index, leaf in enumerate(leaves) if leaf.piece.id == surface]
        over = [leaf.area for leaf in leaves[at[-1] + 1 if at else 0 :] if leaf.hides and is_glued(leaf.piece)]
        whole = only_areas(shapely.union_all(over))
        if whole.area > OVERLAP_MM2:
            covers[surface] = whole
    return covers
