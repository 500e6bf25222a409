"""Rings of points made into polygons, and put in place on a panel."""

import math
from collections.abc import Iterable, Sequence
from typing import TypeVar

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from fair_thicket.model.basics import Point, Ring
from fair_thicket.model.errors import GeometryError
from fair_thicket.model.pieces import Impression
from fair_thicket.model.stash import Stamp

Area = Polygon | MultiPolygon
NOTHING = Polygon()
FloatArray = NDArray[np.float64]
Shape = TypeVar("Shape", bound=shapely.Geometry)


def to_area(ring: Sequence[Point] | FloatArray, holes: Iterable[Sequence[Point]] = ()) -> Area:
    """Make the area that a ring of points encloses.

    Parameters
    ----------
    ring : (n, 2) float, mm
        Either direction; closing point optional; repeated points are fine.
    holes : rings
        Openings in it.

    Returns
    -------
    Polygon or MultiPolygon
        Valid. A ring that crosses itself is taken even-odd.

    Raises
    ------
    GeometryError
        When there are fewer than three points, a coordinate is not finite, or nothing is enclosed.

    Examples
    --------
    >>> to_area([(0, 0), (2, 0), (2, 1)]).area
    1.0
    """
    points = _checked(ring)
    area: BaseGeometry = Polygon(points, [_checked(hole) for hole in holes])
    return _enclosed(area if area.is_valid else shapely.make_valid(area))


def polygons_of(area: BaseGeometry) -> list[Polygon]:
    """Return the polygons of an area, empty ones left out."""
    return [part for part in shapely.get_parts(area) if isinstance(part, Polygon) and not part.is_empty]


def _checked(ring: Sequence[Point] | FloatArray) -> FloatArray:
    points = np.asarray(ring, dtype=np.float64)
    if points.ndim != 2 or points.shape[0] < 3 or points.shape[1] != 2:
        raise GeometryError("An outline needs at least three points, each with an x and a y.")
    if not np.isfinite(points).all():
        raise GeometryError("An outline has a coordinate that is not a number; every x and y must be finite.")
    return points


def only_areas(shape: shapely.Geometry) -> Area:
    """Return what of a shape is area; an empty polygon where nothing is."""
    if isinstance(shape, Polygon | MultiPolygon):
        return shape
    parts = [part for part in shapely.get_parts(shape) if isinstance(part, Polygon) and part.area > 0]
    if not parts:
        return NOTHING
    whole = shapely.union_all(parts)
    return whole if isinstance(whole, Polygon | MultiPolygon) else NOTHING


def _enclosed(shape: shapely.Geometry) -> Area:
    parts = [part for part in shapely.get_parts(shape) if isinstance(part, Polygon)]
    area = parts[0] if len(parts) == 1 else shapely.union_all(parts)
    if not isinstance(area, Polygon | MultiPolygon) or area.is_empty or area.area <= 0:
        raise GeometryError("An outline encloses nothing: its points lie on one line or in one place.")
    return area


def turn_points(points: Sequence[Point] | FloatArray, angle_deg: float, x: float, y: float) -> FloatArray:
    """Turn points clockwise as seen about the origin, then move them by (x, y); (n, 2) float, mm; none stay none."""
    angle = math.radians(angle_deg)
    cosine, sine = math.cos(angle), math.sin(angle)
    # y runs down, so this matrix turns clockwise as seen
    matrix = np.array([[cosine, sine], [-sine, cosine]])
    placed: FloatArray = np.asarray(points, dtype=np.float64).reshape(-1, 2) @ matrix + (x, y)
    return placed


def turn_area(area: Shape, angle_deg: float, x: float, y: float) -> Shape:
    """Turn an area as `turn_points` does.

    Where a narrow place crosses itself by the rounding of turned coordinates it is parted there: set operations refuse
    areas that cross themselves.
    """
    return _sound(shapely.transform(area, lambda points: turn_points(points, angle_deg, x, y)))


def turn_area_back(area: Shape, angle_deg: float, x: float, y: float) -> Shape:
    """Bring an area back from where `turn_area` laid it."""
    return _sound(shapely.transform(area, lambda points: turn_points(points - (x, y), -angle_deg, 0, 0)))


def _sound(area: Shape) -> Shape:
    if not isinstance(area, Polygon | MultiPolygon) or shapely.is_valid(area):
        return area
    # openings stay open: the other method would take the crossing lines alone, and fill what they enclose
    mended = shapely.make_valid(area, method="structure", keep_collapsed=False)
    return mended if isinstance(mended, Polygon | MultiPolygon) else shapely.MultiPolygon()  # type: ignore[return-value]


def placed_outline(piece: Impression, stamp: Stamp) -> FloatArray:
    """Outline of an impression in place on its panel, (n, 2) float, mm, vertex for vertex the stamp's."""
    return turn_points(stamp.outline, piece.angle_deg, piece.x, piece.y)


def open_pockets(stamp: Stamp) -> tuple[Ring, ...]:
    """Return the pockets of an image that show what is behind it; of what a die cuts, its openings, all of them."""
    if stamp.kind.is_plain or not stamp.pockets:
        return stamp.pockets
    marks = [shapely.Point(at) for at in stamp.marks.open_at]
    return tuple(ring for ring in stamp.pockets if marks and shapely.covers(to_area(ring), marks).any())


def image_area(stamp: Stamp) -> Area:
    """Return what scissors leave of an image: what its outline holds but for the pockets that are open."""
    return to_area(stamp.outline, open_pockets(stamp))


def to_outline(area: shapely.Geometry) -> tuple[Ring, tuple[Ring, ...]]:
    """Outer ring and holes of an area as plain values; of several parts the largest is told.

    Raises
    ------
    ValueError
        For an empty area.
    """
    largest = max((part for part in shapely.get_parts(area) if isinstance(part, Polygon)), key=lambda part: part.area)
    outer, *holes = (
        tuple((x, y) for x, y in shapely.get_coordinates(ring)[:-1].tolist())
        for ring in (largest.exterior, *largest.interiors)
    )
    return outer, tuple(holes)


def to_rings(area: shapely.Geometry) -> tuple[Ring, ...]:
    """Outer rings of an area as plain values, without the closing point; empty for an empty area."""
    parts = [part for part in shapely.get_parts(area) if isinstance(part, Polygon) and not part.is_empty]
    return tuple(tuple((x, y) for x, y in shapely.get_coordinates(part.exterior)[:-1].tolist()) for part in parts)
