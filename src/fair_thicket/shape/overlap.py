"""Which areas share paper, and how much of it."""

import math
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
COUNT_PX_PER_MM = 4.0
"""Of such the pixels are counted: shared areas of ferns, 50 mm2 on average, come out 0.3 mm2 beside."""
WORD_PX, MOST_WORDS, MOST_LOOKS = 64, 1.2e7, 8e7
"""Pixels are counted by words: no more than so many (100 MB), looked at no more often; else on a coarser grid."""


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
    """Count the pixels that pairs share, on one grid for all, mm2; 64 columns of pixels are packed into a word."""
    bounds = np.nan_to_num(shapely.bounds(shapes))
    corner = np.maximum(bounds[first, :2], bounds[second, :2]).min(axis=0)  # where there is anything to share
    end = np.minimum(bounds[first, 2:], bounds[second, 2:]).max(axis=0)
    sides = np.maximum(end - corner, 1.0)
    boxes_mm2 = np.prod(bounds[:, 2:] - bounds[:, :2], axis=1)
    looked_mm2 = float(np.minimum(boxes_mm2[first], boxes_mm2[second]).sum()) + 1.0
    px_per_mm = min(
        COUNT_PX_PER_MM,
        math.sqrt(MOST_WORDS * WORD_PX / (len(shapes) * float(np.prod(sides)))),
        math.sqrt(MOST_LOOKS * WORD_PX / looked_mm2),
    )
    low = np.floor((np.clip(bounds[:, :2], corner, end) - corner) * px_per_mm).astype(int)
    high = np.ceil((np.clip(bounds[:, 2:], corner, end) - corner) * px_per_mm).astype(int)
    low[:, 0] //= WORD_PX  # columns by words from here on
    high[:, 0] = -(-high[:, 0] // WORD_PX)
    columns, rows = high.max(axis=0).tolist()
    words = np.zeros((len(shapes), rows, columns), np.uint64)
    boxes = [
        (slice(top, bottom), slice(left, right))
        for (left, top), (right, bottom) in zip(low.tolist(), high.tolist(), strict=True)
    ]

    for index, (down, across) in enumerate(boxes):  # so small that threads would only be in each other's way
        size = (down.stop - down.start, (across.stop - across.start) * WORD_PX)
        left, top = across.start * WORD_PX / px_per_mm + corner[0], down.start / px_per_mm + corner[1]
        inside = fill(shapes[index], size, px_per_mm, left=left, top=top)
        words[index, down, across] = np.packbits(inside, axis=1).view(np.uint64)
    sizes = np.prod(high - low, axis=1)  # a pair is counted in the smaller box of the two
    own, other = np.where(sizes[first] <= sizes[second], [first, second], [second, first])
    pairs_of = np.split(np.argsort(own, kind="stable"), np.cumsum(np.bincount(own, minlength=len(shapes)))[:-1])
    pixels = np.zeros(len(first), np.float64)

    def count(index: int) -> None:
        pairs = pairs_of[index]
        shared = words[(other[pairs], *boxes[index])]
        np.bitwise_and(shared, words[(index, *boxes[index])], out=shared)
        pixels[pairs] = np.bitwise_count(shared).sum(axis=(1, 2), dtype=np.uint32)

    with ThreadPoolExecutor() as pool:  # numpy works outside the interpreter's lock
        list(pool.map(count, np.unique(own).tolist()))
    return pixels / px_per_mm**2


def _forms(shapes: NDArray[np.object_]) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Return areas of one form, wherever they lie, one number; also where each lies, (n, 2) float, mm."""
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
