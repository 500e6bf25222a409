"""Regions that look alike: four paws, every second stripe. They are coloured as one part."""

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

AREA_SHARE, ROUND_SHARE, LONG_SHARE = 0.25, 0.12, 0.15
"""How much likes may differ in area, in how round they are, and in how long they are for their width."""
MOST_SHARE = 0.15
"""A region that takes more of the whole has no likes: bodies are not alike by chance."""


def find_parts(areas: Sequence[BaseGeometry]) -> tuple[tuple[int, ...], ...]:
    """Group regions into parts: likes together, every other region for itself.

    Parameters
    ----------
    areas : sequence of areas, mm

    Returns
    -------
    tuple of tuples of int
        Places of regions, each in one part; parts in the order of their first region.

    Notes
    -----
    Alike is who has about the same area, the same perimeter for it, and the same length for its width: turned or
    mirrored copies are.
    """
    if not areas:
        return ()
    signs = np.array([_signs(area) for area in areas])
    whole = float(signs[:, 0].sum())
    parts: list[list[int]] = []
    for index, own in enumerate(signs):
        home = next((part for part in parts if _are_alike(signs[part[0]], own, whole)), None)
        if home is None:
            parts.append([index])
        else:
            home.append(index)
    return tuple(tuple(part) for part in parts)


def _are_alike(one: NDArray[np.float64], other: NDArray[np.float64], whole: float) -> bool:
    if max(one[0], other[0]) > MOST_SHARE * whole:
        return False
    near = np.abs(one - other) / np.maximum(np.maximum(one, other), 1e-9)
    return bool(near[0] <= AREA_SHARE and near[1] <= ROUND_SHARE and near[2] <= LONG_SHARE)


def _signs(area: BaseGeometry) -> NDArray[np.float64]:
    """Area, mm2; perimeter squared over it; length over width of the narrowest box round it."""
    box = shapely.minimum_rotated_rectangle(area)
    corners = shapely.get_coordinates(box)
    sides = np.hypot(*np.diff(corners[:3], axis=0).T) if len(corners) > 3 else np.ones(2)
    return np.array([area.area, area.length**2 / max(area.area, 1e-9), sides.max() / max(sides.min(), 1e-6)])
