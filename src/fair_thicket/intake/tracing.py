"""One image's ink turned into a single outline, its pockets and a clean picture."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from fair_thicket.model.basics import Ring
from fair_thicket.model.tolerance import OUTLINE_MM
from fair_thicket.shape.outline import to_rings

BRIDGE_MM = 0.6
LEAST_POCKET_MM2 = 1.0
SPECK_MM2 = 0.01
MOST_BODIES = 150
MOST_BITS = 60
"""An impression of more bits than this is closed over small gaps first: by these, one after the other, mm."""
CLOSED_MM = (0.5, 1.0, 2.0)
WORDS_MM = 5.0
"""Gaps between letters and words that the outline of a greeting passes over."""
FINE_MM = 0.012
"""How far a traced contour may be simplified before anything is measured on it."""
FINEST_PX_PER_MM, MOST_CLOSED_PX = 35.0, 2.5e6
"""Gaps are closed on dots no finer than this, and no more of them."""
PARTS_OF_PX_BITS = 4
PARTS_OF_PX = 1 << PARTS_OF_PX_BITS
STEP_PX = 0.75
"""As far for one of broken ink: the steps of its grid are no shape."""


@dataclass(frozen=True)
class Traced:
    """An image's shape on its own patch, mm from the patch's top left corner.

    Attributes
    ----------
    box : (left, top, right, bottom)
        Bounding box of the ink.
    outline : ring
        One closed line round everything.
    pockets : rings
        Paper wholly enclosed by ink.
    """

    box: tuple[float, float, float, float]
    outline: Ring
    pockets: tuple[Ring, ...]


def trace(inked: NDArray[np.float32], px_per_mm: float, *, loose: bool = False) -> Traced | None:
    """Trace the ink of one image.

    Parameters
    ----------
    inked : (rows, columns) float32
        How much ink, 0..1 of the darkest; the edge of a line is where it passes a half.
    px_per_mm : float
    loose : bool
        For words: the outline runs round all of them as a band, not into every letter.

    Returns
    -------
    Traced or None
        None when there is no ink.

    Notes
    -----
    Contours at three times the pixel grid, so that the half-way line is found to a fraction of a pixel; ink that has
    broken into very many bits has no line that is worth it, and is traced on the grid itself.
    """
    bits = cv2.connectedComponents((inked >= 0.5).astype(np.uint8), connectivity=8)[0] - 1
    finer = 1 if bits > MOST_BITS else 3 if px_per_mm < 14 else 2
    mask = (cv2.resize(inked, None, fx=finer, fy=finer, interpolation=cv2.INTER_LINEAR) >= 0.5).astype(np.uint8)
    scale = px_per_mm * finer
    fine_px = STEP_PX if finer == 1 else FINE_MM * scale
    contours, tree = _contours_of(mask, scale)
    if not contours:
        return None
    inner = tree[0][:, 3] >= 0
    # findContours gives the middles of border pixels: outer contours grow, openings shrink by half a pixel
    bodies = _to_areas([one for one, is_inner in zip(contours, inner, strict=True) if not is_inner], scale, 1, fine_px)
    large = [  # small openings are no pockets: not worth a polygon
        one
        for one, is_inner in zip(contours, inner, strict=True)
        if is_inner and cv2.contourArea(one) >= LEAST_POCKET_MM2 * scale**2
    ]
    openings = _to_areas(large, scale, -1, fine_px)
    left, top, right, bottom = (float(value) for value in shapely.total_bounds(bodies))
    bodies = _that_matter(bodies)
    pockets = [ring for opening in openings if opening.area >= LEAST_POCKET_MM2 for ring in _thin(opening)]
    return Traced(
        (left, top, right, bottom), _thin(_one_piece(bodies, least_mm=WORDS_MM if loose else 0.0))[0], tuple(pockets)
    )


def _contours_of(mask: NDArray[np.uint8], scale: float) -> tuple[Sequence[NDArray[np.int32]], NDArray[np.int32]]:
    """Contours of ink; where a faint impression has broken into very many bits, of those closed over small gaps."""
    contours, tree = cv2.findContours(mask, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    for gap_mm in CLOSED_MM:
        if sum(1 for node in tree[0] if node[3] < 0) <= MOST_BITS if contours else True:
            break
        reach = gap_mm / 2 * scale
        room = int(reach) + 2
        grown = cv2.distanceTransform(np.pad(1 - mask, room, constant_values=1), cv2.DIST_L2, 5) <= reach
        kept = cv2.distanceTransform(grown.astype(np.uint8), cv2.DIST_L2, 5) > reach
        mask = np.maximum(mask, kept[room:-room, room:-room].astype(np.uint8))
        contours, tree = cv2.findContours(mask, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    return contours, tree


def _that_matter(bodies: NDArray[np.object_]) -> NDArray[np.object_]:
    """Leave out specks of grain, and of very many parts all but the largest: an outline need not run round them."""
    areas = shapely.area(bodies)
    large = np.argsort(-areas, kind="stable")[:MOST_BODIES]
    kept = large[areas[large] >= min(SPECK_MM2, float(areas.max()))]
    return bodies[np.sort(kept)]


def _to_areas(contours: Sequence[NDArray[np.int32]], scale: float, grow: int, fine_px: float) -> NDArray[np.object_]:
    """Make the areas of contours (pixels), grown or shrunk by half a pixel, mm."""
    half = 0.5 / scale
    areas: list[BaseGeometry] = []
    for dense in contours:
        # exact polygons want few points
        points = (cv2.approxPolyDP(dense, fine_px, True)[:, 0, :].astype(np.float64) + 0.5) / scale
        if len(points) < 3:
            if grow > 0:
                areas.append(shapely.buffer(shapely.MultiPoint(points), half, cap_style="square"))
            continue
        area: BaseGeometry = Polygon(points)
        area = area if area.is_valid else shapely.make_valid(area)
        areas.append(shapely.buffer(area, grow * half, join_style="mitre"))
    return np.array(areas, dtype=object)


def _thin(area: BaseGeometry) -> tuple[Ring, ...]:
    """Rings of an area with no more points than the outline's tolerance needs."""
    quick = shapely.simplify(area, OUTLINE_MM, preserve_topology=False)
    # the quick way may cross a line or lose a sliver; then the careful one is taken
    whole = quick.is_valid and not quick.is_empty and len(shapely.get_parts(quick)) == len(shapely.get_parts(area))
    return to_rings(quick if whole else shapely.simplify(area, OUTLINE_MM))


def _one_piece(bodies: NDArray[np.object_], *, least_mm: float = 0.0) -> Polygon:
    """Join loose parts by closing the gaps between them; what is still apart gets a narrow bridge of paper.

    Gaps up to `least_mm` are closed in any case.

    Notes
    -----
    The widest gap that has to be closed is the longest edge of the parts' least spanning tree: one closing by half of
    it (grow, then shrink) joins all that can be joined that way.
    """
    joined = _filled(bodies)
    parts = shapely.get_parts(joined)
    if len(parts) > 1:
        coarse = shapely.simplify(joined, OUTLINE_MM / 2)
        widest = max(gap for _, _, gap in spanning_tree(shapely.get_parts(coarse)))
        closed = _close(shapely.get_parts(coarse), max(least_mm, widest) / 2 + 0.05)
        joined = _filled(np.array([joined, *closed], dtype=object))
        parts = shapely.get_parts(joined)
    if len(parts) > 1:
        lines = [shapely.shortest_line(parts[a], parts[b]) for a, b, _ in spanning_tree(parts)]
        bridges = shapely.buffer(np.array(lines, dtype=object), BRIDGE_MM / 2)
        joined = _filled(np.array([joined, *bridges], dtype=object))
    one: Polygon = max(shapely.get_parts(joined), key=shapely.area)
    return one


def _close(parts: NDArray[np.object_], reach_mm: float) -> list[Polygon]:
    """Grow parts and shrink them again, which closes gaps of up to twice the reach; what lies within is filled.

    On dots of 0.07 mm for an image of 100 mm, of 0.03 mm for a small one: exact polygons of ragged ink would take
    seconds. The parts come out up to a dot smaller, so that they never reach beyond their own ink.
    """
    left, top, right, bottom = (float(side) for side in shapely.total_bounds(parts))
    margin = reach_mm + 0.5
    sides = np.array([right - left, bottom - top]) + 2 * margin
    scale = min(FINEST_PX_PER_MM, math.sqrt(MOST_CLOSED_PX / float(np.prod(sides))))
    corner = np.array([left, top]) - margin  # of the grid, and a pixel's middle
    columns, rows = (math.ceil(side * scale) + 1 for side in sides)
    mask = np.ones((rows, columns), np.uint8)
    rings = [(shapely.get_coordinates(part.exterior) - corner) * scale * PARTS_OF_PX for part in parts]
    for ring in rings:
        cv2.fillPoly(mask, [np.rint(ring).astype(np.int32)], 0, shift=PARTS_OF_PX_BITS)
    grown = cv2.distanceTransform(mask, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) <= reach_mm * scale
    kept = cv2.distanceTransform(grown.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE) > reach_mm * scale + 1
    contours, _ = cv2.findContours(kept.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    outlines = [cv2.approxPolyDP(dense, STEP_PX, True)[:, 0, :] for dense in contours]
    areas = [shapely.make_valid(Polygon(corners / scale + corner)) for corners in outlines if len(corners) >= 3]
    return [part for area in areas for part in shapely.get_parts(area) if isinstance(part, Polygon)]


def spanning_tree(parts: NDArray[np.object_]) -> list[tuple[int, int, float]]:
    """Least spanning tree of the distances between parts (Prim, 1957).

    Returns
    -------
    list of (int, int, float)
        Indices of two parts and the gap between them, mm; one fewer than there are parts.
    """
    gaps = shapely.distance(parts[0], parts)
    nearest_of = np.zeros(len(parts), dtype=int)
    waiting = np.ones(len(parts), dtype=bool)
    waiting[0] = False
    edges = []
    while waiting.any():
        nearest = int(np.where(waiting, gaps, np.inf).argmin())
        edges.append((int(nearest_of[nearest]), nearest, float(gaps[nearest])))
        waiting[nearest] = False
        left = np.flatnonzero(waiting)
        found = shapely.distance(parts[nearest], parts[left])
        closer = left[found < gaps[left]]
        gaps[closer] = found[found < gaps[left]]
        nearest_of[closer] = nearest
    return edges


def _filled(shapes: NDArray[np.object_]) -> BaseGeometry:
    """Union of shapes without their openings; parts that lie in another's opening vanish in it."""
    whole = [Polygon(part.exterior) for part in shapely.get_parts(shapes) if isinstance(part, Polygon)]
    if len(whole) == 1:
        return whole[0]
    boxes = shapely.bounds(whole)
    outer = []
    for index, (part, box) in enumerate(zip(whole, boxes, strict=True)):
        around = np.flatnonzero((boxes[:, :2] <= box[:2]).all(axis=1) & (boxes[:, 2:] >= box[2:]).all(axis=1))
        x, y = part.exterior.coords[0]
        within = (  # of two that are the same the first stays
            (whole[other].area, -other) > (part.area, -index)
            and shapely.contains_xy(whole[other], x, y)
            and shapely.contains(whole[other], part)
            for other in around.tolist()
        )
        if not any(within):
            outer.append(part)
    return outer[0] if len(outer) == 1 else shapely.union_all(outer)
