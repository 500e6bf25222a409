"""What hides a piece, and what of its paper nobody will see."""

import numpy as np
import shapely

from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Border
from fair_thicket.shape.outline import turn_points
from fair_thicket.shape.paper import Local, local_area, only_areas
from fair_thicket.shape.stack import Leaf, stack

GLUE_MM = 6.0
"""Hidden paper that is left on for the glue (common practice)."""


def fronts_of(leaves: tuple[Leaf, ...], key: str) -> Local:
    """Give what hides a piece: all opaque leaves in front of it, mm on the panel."""
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
