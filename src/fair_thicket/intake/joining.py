"""One outline round all the loose parts of an image: words are closed on dots, what is still apart gets a bridge.

Exact polygons of so many ragged bits would take seconds; on dots it takes as long whatever the ink looks like.
"""

import math

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import minimum_spanning_tree
from shapely.geometry import Polygon

BRIDGE_MM = 0.6
"""How wide the paper stays that holds loose parts of an image together."""
STEP_PX = 0.75
"""How far an outline may be simplified before anything is measured on it: the steps of the dots are no shape."""
MOST_DOTS = 1.5e5
"""Gaps are closed on no more dots than these: on dots of 0.08 mm for an image of 30 mm."""
CLOSE_ENOUGH_PX = 0.25
BEYOND_PX = 1.0
"""What is closed stays so far within, so that it never reaches beyond its own ink."""
LEAST_GAP = 1e-9
PARTS_OF_PX_BITS = 4
PARTS_OF_PX = 1 << PARTS_OF_PX_BITS

Dots = NDArray[np.uint8]


def join_parts(ink: Dots, px_per_mm: float, *, least_mm: float = 0.0) -> Polygon:
    """Return one outline round all parts of an image.

    Parameters
    ----------
    ink : (rows, columns) uint8
        1 where there is ink, 0 elsewhere; there is some.
    px_per_mm : float
    least_mm : float
        Where this is more than nothing gaps are closed first: those up to this, and more until all is one.

    Returns
    -------
    Polygon
        Without openings, pixels from the picture's top left corner.

    Notes
    -----
    What is apart gets narrow bridges of paper along the shortest way through all parts.
    """
    whole = ink.copy()
    if least_mm > 0:
        close_gaps(whole, px_per_mm, least_mm=least_mm)
    parts = outlines_of(whole)
    if len(parts) > 1:
        wide = max(1, round(BRIDGE_MM * px_per_mm))
        for one, other, _ in spanning_tree(np.array(parts, dtype=object)):
            line = shapely.get_coordinates(shapely.shortest_line(parts[one], parts[other]))
            start, end = np.floor(line).astype(int).tolist()
            cv2.line(whole, start, end, 1, wide)
        parts = outlines_of(whole)
    return max(parts, key=shapely.area)


def close_gaps(ink: Dots, px_per_mm: float, *, least_mm: float = 0.0) -> None:
    """Grow parts until they are one and shrink them again, and fill what lies within; in place."""
    step = max(1, math.ceil(math.sqrt(ink.size / MOST_DOTS)))
    coarse = _coarser(ink, step)
    reach = max(least_mm / 2 * px_per_mm / step, _reach_that_joins(coarse)) + 0.05 * px_per_mm / step
    room = math.ceil(reach) + 2
    wide = cv2.copyMakeBorder(coarse, room, room, room, room, cv2.BORDER_CONSTANT, value=0)
    grown = cv2.distanceTransform(1 - wide, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) <= reach
    kept = cv2.distanceTransform(grown.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE) > reach + BEYOND_PX
    contours, _ = cv2.findContours(kept.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    for dense in contours:
        corners = (cv2.approxPolyDP(dense, STEP_PX, True)[:, 0, :] - room + 0.5) * step - 0.5
        cv2.fillPoly(ink, [np.rint(corners * PARTS_OF_PX).astype(np.int32)], 1, shift=PARTS_OF_PX_BITS)


def _coarser(ink: Dots, step: int) -> Dots:
    """Return ink on larger dots: such a dot is ink where any of its own dots is."""
    if step == 1:
        return ink
    down, right = (-side % step for side in ink.shape)
    whole = cv2.copyMakeBorder(ink * 255, 0, down, 0, right, cv2.BORDER_CONSTANT, value=0)
    size = (whole.shape[1] // step, whole.shape[0] // step)
    return np.asarray(cv2.resize(whole, size, interpolation=cv2.INTER_AREA) > 0, np.uint8)


def _reach_that_joins(bits: Dots) -> float:
    """How far all bits must grow until they are one, pixels: half the widest gap that has to be crossed."""
    far = cv2.distanceTransform(1 - bits, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    low, high = 0.0, 1.0
    while not _is_one(far <= high):
        low, high = high, 2 * high
    while high - low > CLOSE_ENOUGH_PX:
        middle = (low + high) / 2
        low, high = (low, middle) if _is_one(far <= middle) else (middle, high)
    return high


def _is_one(grown: NDArray[np.bool_]) -> bool:
    return cv2.connectedComponents(grown.astype(np.uint8), connectivity=8)[0] <= 2


def outlines_of(ink: Dots) -> list[Polygon]:
    """Outer outlines of ink, filled, along the outer edge of its dots, pixels."""
    contours, _ = cv2.findContours(ink, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    found: list[Polygon] = []
    for dense in contours:
        corners = cv2.approxPolyDP(dense, STEP_PX, True)[:, 0, :].astype(np.float64) + 0.5
        line = shapely.LineString(corners) if len(corners) > 1 else shapely.Point(corners[0])
        # a line of one dot is an area only when it is grown by half of it
        area = shapely.make_valid(Polygon(corners)) if len(corners) > 2 else line
        grown = shapely.buffer(area, 0.5, cap_style="square", join_style="mitre")
        found += [Polygon(part.exterior) for part in shapely.get_parts(grown)]
    return found


def spanning_tree(parts: NDArray[np.object_]) -> list[tuple[int, int, float]]:
    """Least spanning tree of the distances between parts.

    Returns
    -------
    list of (int, int, float)
        Indices of two parts and the gap between them, in the parts' unit; one fewer than there are parts.
    """
    one, other = np.triu_indices(len(parts), 1)
    # the library takes nothing for no edge, and parts may touch
    gaps = np.maximum(shapely.distance(parts[one], parts[other]), LEAST_GAP)
    tree = minimum_spanning_tree(coo_array((gaps, (one, other)), shape=(len(parts), len(parts))).tocsr()).tocoo()
    return list(zip(tree.row.tolist(), tree.col.tolist(), tree.data.tolist(), strict=True))
