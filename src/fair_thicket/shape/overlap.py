"""Which areas share paper, and how much of it."""

from collections.abc import Sequence

import numpy as np
import shapely

from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.shape.outline import Area


def find_overlaps(areas: Sequence[Area], *, least_mm2: float = OVERLAP_MM2) -> dict[tuple[int, int], float]:
    """Find every pair of areas that overlap.

    Parameters
    ----------
    areas : sequence of areas, mm
    least_mm2 : float
        Pairs that share this or less do not count.

    Returns
    -------
    dict
        (i, j) with i < j to the shared area in mm2.

    Notes
    -----
    Candidates from a tree of bounding boxes, then exact intersection (GEOS).
    """
    if len(areas) < 2:
        return {}
    shapes = np.array(list(areas), dtype=object)
    first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    keep = first < second
    first, second = first[keep], second[keep]
    shared = shapely.area(shapely.intersection(shapes[first], shapes[second]))
    pairs = zip(first.tolist(), second.tolist(), shared.tolist(), strict=True)
    return {(i, j): area for i, j, area in sorted(pairs) if area > least_mm2}
