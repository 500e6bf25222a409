"""One image's ink turned into a single outline, its pockets and a clean picture."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString, Polygon

from fair_thicket.model.stash import Ring
from fair_thicket.model.tolerance import OUTLINE_MM
from fair_thicket.shape.outline import to_rings

BRIDGE_MM = 0.6
LEAST_POCKET_MM2 = 1.0
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
        One closed line round everything.
    pockets : rings
        Paper wholly enclosed by ink.
    """

    box: tuple[float, float, float, float]
    outline: Ring
    pockets: tuple[Ring, ...]


def trace(inked: NDArray[np.float32], px_per_mm: float) -> Traced | None:
    """Trace the ink of one image.

    Parameters
    ----------
    inked : (rows, columns) float32
        How much ink, 0..1 of the darkest; the edge of a line is where it passes a half.
    px_per_mm : float

    Returns
    -------
    Traced or None
        None when there is no ink.

    Notes
    -----
    Contours at four times the pixel grid, so that the half-way line is found to a fraction of a pixel.
    """
    finer = 4 if px_per_mm < 14 else 2
    large = cv2.resize(inked, None, fx=finer, fy=finer, interpolation=cv2.INTER_LINEAR)
    contours, tree = cv2.findContours((large >= 0.5).astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    if not contours:
        return None
    scale = px_per_mm * finer
    # findContours gives the middles of border pixels: outer contours grow, openings shrink by half a pixel
    half = 0.5 / scale
    bodies, openings = [], []
    for dense, (_, _, _, parent) in zip(contours, tree[0], strict=True):
        contour = cv2.approxPolyDP(dense, FINE_MM * scale, True)  # exact polygons want few points
        points = (contour[:, 0, :].astype(np.float64) + 0.5) / scale
        if len(points) < 3:
            if parent < 0:
                bodies.append(shapely.buffer(shapely.MultiPoint(points), half, cap_style="square"))
        elif parent < 0:
            bodies.append(shapely.buffer(shapely.make_valid(Polygon(points)), half, join_style="mitre"))
        else:
            openings.append(shapely.buffer(shapely.make_valid(Polygon(points)), -half, join_style="mitre"))
    ink = shapely.union_all(bodies)
    whole = _one_piece(bodies)
    outline = to_rings(shapely.simplify(whole, OUTLINE_MM))[0]
    pockets = [
        ring
        for opening in openings
        if opening.area >= LEAST_POCKET_MM2
        for ring in to_rings(shapely.simplify(opening, OUTLINE_MM))
    ]
    left, top, right, bottom = (float(value) for value in ink.bounds)
    return Traced((left, top, right, bottom), outline, tuple(pockets))


def _one_piece(bodies: Sequence[shapely.Geometry]) -> Polygon:
    """Join loose parts by closing the gaps between them; what is still apart gets a narrow bridge of paper."""
    joined = _filled(shapely.union_all(bodies))
    while len(parts := shapely.get_parts(joined)) > 1:
        gap = min(shapely.distance(parts[0], other) for other in parts[1:])
        closing = gap / 2 + 0.05
        coarse = shapely.simplify(joined, OUTLINE_MM / 2)
        closed = shapely.buffer(shapely.buffer(coarse, closing, quad_segs=6), -closing, quad_segs=6)
        joined_more = _filled(shapely.union(joined, closed))
        if len(shapely.get_parts(joined_more)) >= len(parts):
            near = min(parts[1:], key=lambda other: shapely.distance(parts[0], other))
            bridge: LineString = shapely.shortest_line(parts[0], near)
            joined_more = _filled(shapely.union(joined_more, shapely.buffer(bridge, BRIDGE_MM / 2)))
        joined = joined_more
    one: Polygon = shapely.get_parts(joined)[0]
    return one


def _filled(shape: shapely.Geometry) -> shapely.Geometry:
    return shapely.union_all([Polygon(part.exterior) for part in shapely.get_parts(shape) if isinstance(part, Polygon)])
