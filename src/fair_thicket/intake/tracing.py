"""One image's ink turned into a single outline and its pockets, mm."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from fair_thicket.intake.joining import STEP_PX, join_parts
from fair_thicket.intake.shaping import AS_FOUND, Shaping
from fair_thicket.intake.silhouette import fill, find_silhouette
from fair_thicket.model.basics import Ring
from fair_thicket.model.tolerance import OUTLINE_MM
from fair_thicket.shape.outline import to_rings

LINE_SHARE = 0.5
"""The edge of a line is where its ink passes this share of its full strength."""
SPECK_MM2 = 0.01
MOST_BODIES = 150
MOST_BITS = 60
"""An impression of more bits than this is closed over small gaps first: by these, one after the other, mm."""
CLOSED_MM = (0.5, 1.0, 2.0)
WORDS_MM = 5.0
"""Gaps between letters and words that the outline of a greeting passes over."""
FINE_MM = 0.012
"""How far a traced contour may be simplified before anything is measured on it."""


@dataclass(frozen=True)
class Traced:
    """An image's shape on its own patch, mm from the patch's top left corner.

    Attributes
    ----------
    box : (left, top, right, bottom)
        Bounding box of the ink.
    outline : ring
        One closed line round everything: the scissors' line.
    pockets : rings
        Paper within that line that is no part of the body.
    doubt : float
        Share of the body that might as well be none; see `silhouette`.
    """

    box: tuple[float, float, float, float]
    outline: Ring
    pockets: tuple[Ring, ...]
    doubt: float = 0.0


def trace(
    inked: NDArray[np.float32], px_per_mm: float, *, loose: bool = False, shaping: Shaping = AS_FOUND
) -> Traced | None:
    """Trace the ink of one image.

    Parameters
    ----------
    inked : (rows, columns) float32
        How much ink, 0..1 of the darkest; the edge of a line is where it passes a half.
    px_per_mm : float
    loose : bool
        For words: the outline runs round all of them as a band, not into every letter.
    shaping : Shaping
        What the maker said of it, its places in mm from the picture's top left corner; nothing for words.

    Returns
    -------
    Traced or None
        None when there is no ink.

    Notes
    -----
    Contours at three times the pixel grid, so that the half-way line is found to a fraction of a pixel; ink that has
    broken into very many bits has no line that is worth it, and is traced on the grid itself.
    """
    bits = cv2.connectedComponents((inked >= LINE_SHARE).astype(np.uint8), connectivity=8)[0] - 1
    finer = 1 if bits > MOST_BITS else 3 if px_per_mm < 14 else 2
    mask = (cv2.resize(inked, None, fx=finer, fy=finer, interpolation=cv2.INTER_LINEAR) >= LINE_SHARE).astype(np.uint8)
    scale = px_per_mm * finer
    lines = _closed_over(mask, scale)
    inner = cv2.findContours(lines, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0]
    if not inner:
        return None
    fine_px = STEP_PX if finer == 1 else FINE_MM * scale
    points = np.concatenate(inner)[:, 0, :]
    (left, top), (right, bottom) = points.min(axis=0) / scale, (points.max(axis=0) + 1) / scale
    body, doubt = (fill(lines), 0.0) if loose else find_silhouette(inked, lines, px_per_mm, shaping)
    contours, tree = cv2.findContours(body, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    outer = [one for one, node in zip(contours, tree[0], strict=True) if node[3] < 0]
    bodies = _that_matter(outer, scale)
    if len(bodies) == 1:
        (outline,) = _to_areas(bodies, scale, 1, fine_px)
    else:
        filled = cv2.drawContours(np.zeros_like(mask), bodies, -1, 1, cv2.FILLED)
        joined = join_parts(filled, scale, least_mm=WORDS_MM if loose else 0.0)
        outline = shapely.transform(joined, lambda corners: corners / scale)
    box = (float(left), float(top), float(right), float(bottom))
    holes = [one for one, node in zip(contours, tree[0], strict=True) if node[3] >= 0]
    return Traced(box, _outer_ring(outline), _pockets(holes, scale, fine_px), doubt)


def _pockets(holes: Sequence[NDArray[np.int32]], scale: float, fine_px: float) -> tuple[Ring, ...]:
    """Return the openings of a body."""
    openings = _to_areas(holes, scale, -1, fine_px)
    return tuple(ring for opening in openings if not opening.is_empty for ring in _thin(opening))


def _closed_over(mask: NDArray[np.uint8], scale: float) -> NDArray[np.uint8]:
    """Close ink over small gaps, where a faint impression has broken into very many bits."""
    for gap_mm in CLOSED_MM:
        if cv2.connectedComponents(mask, connectivity=8)[0] - 1 <= MOST_BITS:
            break
        reach = gap_mm / 2 * scale
        room = int(reach) + 2
        grown = cv2.distanceTransform(np.pad(1 - mask, room, constant_values=1), cv2.DIST_L2, 5) <= reach
        kept = cv2.distanceTransform(grown.astype(np.uint8), cv2.DIST_L2, 5) > reach
        mask = np.maximum(mask, kept[room:-room, room:-room].astype(np.uint8))
    return mask


def _that_matter(contours: Sequence[NDArray[np.int32]], scale: float) -> list[NDArray[np.int32]]:
    """Leave out specks of grain, and of very many parts all but the largest: an outline need not run round them."""
    # a contour runs along the middles of its dots
    areas = np.array([cv2.contourArea(one) + cv2.arcLength(one, True) / 2 + 1 for one in contours]) / scale**2
    large = np.argsort(-areas, kind="stable")[:MOST_BODIES]
    return [contours[index] for index in np.sort(large[areas[large] >= min(SPECK_MM2, float(areas.max()))])]


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


def _outer_ring(area: BaseGeometry) -> Ring:
    """Ring round the largest part of an area."""
    largest = max((part for part in shapely.get_parts(area) if isinstance(part, Polygon)), key=shapely.area)
    return _thin(Polygon(largest.exterior))[0]


def _thin(area: BaseGeometry) -> tuple[Ring, ...]:
    """Rings of an area with no more points than the outline's tolerance needs."""
    quick = shapely.simplify(area, OUTLINE_MM, preserve_topology=False)
    # the quick way may cross a line or lose a sliver; then the careful one is taken
    whole = quick.is_valid and not quick.is_empty and len(shapely.get_parts(quick)) == len(shapely.get_parts(area))
    return to_rings(quick if whole else shapely.simplify(area, OUTLINE_MM))
