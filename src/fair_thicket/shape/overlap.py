"""Which areas share paper, and how much of it."""

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.shape.outline import Area

MANY = 2000
"""Pairs that are worth sharing out."""


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
    Candidates from a tree of bounding boxes, then exact intersection (GEOS); very many of them on several processors.
    """
    if len(areas) < 2:
        return {}
    shapes = np.array(list(areas), dtype=object)
    first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    keep = first < second
    first, second = first[keep], second[keep]
    shared = _shared_areas(shapes[first], shapes[second])
    pairs = zip(first.tolist(), second.tolist(), shared.tolist(), strict=True)
    return {(i, j): area for i, j, area in sorted(pairs) if area > least_mm2}


def _shared_areas(first: NDArray[np.object_], second: NDArray[np.object_]) -> NDArray[np.float64]:
    if len(first) < MANY:
        return np.asarray(shapely.area(shapely.intersection(first, second)), np.float64)
    parts = os.cpu_count() or 1
    with ThreadPoolExecutor(parts) as pool:  # GEOS works outside the interpreter's lock
        found = pool.map(
            lambda pair: shapely.area(shapely.intersection(*pair)),
            zip(np.array_split(first, 4 * parts), np.array_split(second, 4 * parts), strict=True),
        )
        return np.concatenate(list(found))
