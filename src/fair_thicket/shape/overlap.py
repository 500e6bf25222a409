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
SAME_MM = 1e-8
"""Areas whose points lie to each other within this are of one form: it changes no shared area by 1e-5 mm2."""


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
    Candidates from a tree of bounding boxes, then exact intersection (GEOS). Of very many pairs those that lie to each
    other as another pair does (rows of one die, a grid of one stamp) are worked out once, the rest on several
    processors.
    """
    if len(areas) < 2:
        return {}
    shapes = np.array(list(areas), dtype=object)
    first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    keep = first < second
    first, second = first[keep], second[keep]
    shared = _shared_areas(shapes, first, second)
    pairs = zip(first.tolist(), second.tolist(), shared.tolist(), strict=True)
    return {(i, j): area for i, j, area in sorted(pairs) if area > least_mm2}


def _shared_areas(
    shapes: NDArray[np.object_], first: NDArray[np.intp], second: NDArray[np.intp]
) -> NDArray[np.float64]:
    if len(first) < MANY:
        return np.asarray(shapely.area(shapely.intersection(shapes[first], shapes[second])), np.float64)
    form, at = _forms(shapes)
    _, kept, like = np.unique(
        np.column_stack([form[first], form[second], np.round((at[second] - at[first]) / SAME_MM)]),
        axis=0,
        return_index=True,
        return_inverse=True,
    )
    parts = os.cpu_count() or 1
    with ThreadPoolExecutor(parts) as pool:  # GEOS works outside the interpreter's lock
        found = pool.map(
            lambda pairs: shapely.area(shapely.intersection(shapes[first[pairs]], shapes[second[pairs]])),
            np.array_split(kept, 4 * parts),
        )
        return np.concatenate(list(found))[like.ravel()]


def _forms(shapes: NDArray[np.object_]) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Give areas of one form, wherever they lie, one number; also where each lies, (n, 2) float, mm."""
    at = np.nan_to_num(shapely.bounds(shapes)[:, :2])
    known: dict[bytes, int] = {}
    form = np.empty(len(shapes), np.int64)
    for index, area in enumerate(shapes):
        sizes: list[int] = []
        for part in shapely.get_parts(area):
            sizes += (-len(part.exterior.coords), *(len(ring.coords) for ring in part.interiors))
        places = np.round((shapely.get_coordinates(area) - at[index]) / SAME_MM).astype(np.int64)
        form[index] = known.setdefault(np.array(sizes).tobytes() + places.tobytes(), len(known))
    return form, at
