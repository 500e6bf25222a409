"""Which areas share paper, and how much of it."""

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.shape.outline import Area
from fair_thicket.shape.raster import fill

MANY = 2000
"""Pairs that are worth sharing out."""
SAME_MM = 1e-8
"""Areas whose points lie to each other within this are of one form: it changes no shared area by 1e-5 mm2."""
CROWDED = 6000
"""Pairs, each of its own form, that are too many to be worked out exactly while somebody looks on."""
COUNT_PX_PER_MM = 5.0
"""Of such the pixels are counted: shared areas of ferns, 200 mm2 on average, come out 0.2 mm2 beside, at most 2."""
WORD_PX = 64


def find_overlaps(
    areas: Sequence[Area], *, least_mm2: float = OVERLAP_MM2, may_count: bool = False
) -> dict[tuple[int, int], float]:
    """Find every pair of areas that overlap.

    Parameters
    ----------
    areas : sequence of areas, mm
    least_mm2 : float
        Pairs that share this or less do not count.
    may_count : bool
        Whether pixels may be counted where pairs are too many (`CROWDED`); a plan is never made from such figures.

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
    tree = shapely.STRtree(shapes)
    first, second = tree.query(shapes)
    if not may_count or len(first) < 2 * CROWDED:
        first, second = tree.query(shapes, predicate="intersects")
    keep = first < second
    first, second = first[keep], second[keep]
    shared = _shared_areas(shapes, first, second, may_count=may_count)
    pairs = zip(first.tolist(), second.tolist(), shared.tolist(), strict=True)
    return {(i, j): area for i, j, area in sorted(pairs) if area > least_mm2}


def _shared_areas(
    shapes: NDArray[np.object_], first: NDArray[np.intp], second: NDArray[np.intp], *, may_count: bool
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
    if may_count and len(kept) > CROWDED:
        return _count_shared(shapes, first[kept], second[kept])[like.ravel()]
    parts = os.cpu_count() or 1
    with ThreadPoolExecutor(parts) as pool:  # GEOS works outside the interpreter's lock
        found = pool.map(
            lambda pairs: shapely.area(shapely.intersection(shapes[first[pairs]], shapes[second[pairs]])),
            np.array_split(kept, 4 * parts),
        )
        return np.concatenate(list(found))[like.ravel()]


def _count_shared(
    shapes: NDArray[np.object_], first: NDArray[np.intp], second: NDArray[np.intp]
) -> NDArray[np.float64]:
    """Count the pixels that pairs share, on one grid for all, mm2."""
    bounds = np.nan_to_num(shapely.bounds(shapes)) * COUNT_PX_PER_MM
    low, high = np.floor(bounds[:, :2]).astype(int), np.ceil(bounds[:, 2:]).astype(int)
    low[:, 0] //= WORD_PX  # columns by words from here on
    high[:, 0] = -(-high[:, 0] // WORD_PX)
    words = [_words(area, *corner) for area, *corner in zip(shapes, low.tolist(), high.tolist(), strict=True)]
    lefts_tops, rights_bottoms = np.maximum(low[first], low[second]), np.minimum(high[first], high[second])
    pixels = np.zeros(len(first), np.float64)
    corners, lows = zip(lefts_tops.tolist(), rights_bottoms.tolist(), strict=True), low.tolist()
    for index, (i, j, ((left, top), (right, bottom))) in enumerate(
        zip(first.tolist(), second.tolist(), corners, strict=True)
    ):
        if left < right and top < bottom:
            (x, y), (their_x, their_y) = lows[i], lows[j]
            one = words[i][top - y : bottom - y, left - x : right - x]
            other = words[j][top - their_y : bottom - their_y, left - their_x : right - their_x]
            pixels[index] = np.bitwise_count(one & other).sum()
    return pixels / COUNT_PX_PER_MM**2


def _words(area: Area, low: Sequence[int], high: Sequence[int]) -> NDArray[np.uint64]:
    """Fill an area and pack 64 columns of it into a word."""
    size = (high[1] - low[1], (high[0] - low[0]) * WORD_PX)
    left, top = low[0] * WORD_PX / COUNT_PX_PER_MM, low[1] / COUNT_PX_PER_MM
    inside = fill(area, size, COUNT_PX_PER_MM, left=left, top=top)
    return np.packbits(inside, axis=1).view(np.uint64)


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
