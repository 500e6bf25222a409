"""Outlines of what is set, dabbed, drawn or tied on last, about the middle of the piece."""

import math
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from types import MappingProxyType

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.affinity import scale, translate
from shapely.geometry import Point, Polygon

from fair_thicket.model.finishes import Finish, Spot, find_finish
from fair_thicket.shape.outline import Area, only_areas

QUAD_SEGS = 16


def spots_area(shape: Finish, size: float, spots: Sequence[tuple[float, float]]) -> Area:
    """Return the area of all spots of a finish, mm; of what is drawn or tied along them, the line's."""
    kind = find_finish(shape)
    return _spots(kind.spot, size, tuple(spots), kind.is_line)


@lru_cache(maxsize=256)
def _spots(spot: Spot, size: float, spots: tuple[tuple[float, float], ...], is_line: bool) -> Area:
    if is_line and len(spots) > 1:
        return only_areas(shapely.buffer(shapely.LineString(spots), size / 2, quad_segs=6))
    one = OUTLINES[spot](size / 2)
    return only_areas(shapely.union_all([translate(one, x, y) for x, y in spots]))


def _round(reach: NDArray[np.float64], turns: NDArray[np.float64]) -> Polygon:
    return Polygon(np.stack([reach * np.cos(turns), reach * np.sin(turns)], axis=1))


def _disc(radius: float) -> Area:
    return Point(0, 0).buffer(radius, quad_segs=QUAD_SEGS)


def _star(radius: float) -> Area:
    return _round(np.where(np.arange(10) % 2 == 0, radius, radius * 0.45), np.arange(10) * math.pi / 5 - math.pi / 2)


def _corners(radius: float, corners: int) -> Area:
    return _round(np.full(corners, radius), (np.arange(corners) + 0.5) * 2 * math.pi / corners)


def _dab(radius: float) -> Area:
    """Return a dab, which is never quite round."""
    turns = np.linspace(0, 2 * math.pi, 48, endpoint=False)
    return _round(radius * (0.88 + 0.08 * np.sin(3 * turns + 0.7) + 0.04 * np.sin(5 * turns)), turns)


def _drop(radius: float) -> Area:
    """Return a drop two thirds of the size across, with a tip at the top."""
    low = translate(scale(_disc(radius), 0.66, 0.66), 0, radius * 0.34)
    tip = Polygon([(-radius * 0.6, radius * 0.1), (0, -radius), (radius * 0.6, radius * 0.1)])
    return only_areas(shapely.union(low, tip))


def _bow(radius: float) -> Area:
    """Return a bow of two loops, two ends and a knot, so wide as twice the radius."""
    wide = radius * 0.14
    parts: list[shapely.Geometry] = [Point(0, 0).buffer(radius * 0.2, quad_segs=6)]
    for side in (-1.0, 1.0):
        turns = np.linspace(0, 2 * math.pi, 25)
        loop = np.stack([side * radius * 0.52 * (1 - np.cos(turns)) * 0.9, -radius * 0.34 * np.sin(turns)], axis=1)
        parts.append(shapely.LineString(loop - [0, radius * 0.12]).buffer(wide, quad_segs=4))
        tail = [(0, 0), (side * radius * 0.3, radius * 0.45), (side * radius * 0.62, radius * 0.8)]
        parts.append(shapely.LineString(tail).buffer(wide, quad_segs=4))
    return only_areas(shapely.union_all(parts))


OUTLINES: Mapping[Spot, Callable[[float], Area]] = MappingProxyType(
    {
        "disc": _disc,
        "star": _star,
        "drop": _drop,
        "octagon": lambda radius: _corners(radius, 8),
        "hexagon": lambda radius: _corners(radius, 6),
        "dab": _dab,
        "bow": _bow,
    }
)
"""Outline of one spot of a radius, mm."""
