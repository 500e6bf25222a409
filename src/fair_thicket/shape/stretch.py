"""Stretches along a closed outline, measured from its first vertex.

Glossary
--------
share
    A place on the outline, 0..1 of the way round. Equal outlines that were turned or moved have equal shares.
stretch
    A pair (start, end) of shares, start < end; one that runs over the first vertex is kept as two.
"""

import itertools
from collections.abc import Iterable, Sequence

import numpy as np
import shapely
from shapely.geometry import LineString, Point
from shapely.geometry.base import BaseGeometry

from fair_thicket.shape.outline import FloatArray
from fair_thicket.shape.prepared import prepared

Stretch = tuple[float, float]


def stretches_within(ring: FloatArray, area: BaseGeometry) -> tuple[Stretch, ...]:
    """Return the stretches of a closed ring that lie within an area.

    Parameters
    ----------
    ring : (n, 2) float, mm
        Vertices without the closing point (a closing point does no harm).
    area : Polygon or MultiPolygon, mm

    Notes
    -----
    Each edge is intersected with the area by itself, so that the place along the ring is known without a search
    even where a ring meets itself.
    """
    closed = np.vstack([ring, ring[:1]])
    starts = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    total = float(starts[-1])
    if total <= 0 or area.is_empty:
        return ()
    area = prepared(area)
    edges = np.asarray(shapely.linestrings(np.stack([closed[:-1], closed[1:]], axis=1)), dtype=object)
    inside = shapely.covers(area, edges)
    crossing = shapely.intersects(area, edges) & ~inside
    found = [(starts[k], starts[k + 1]) for k in np.flatnonzero(inside)]
    for k in np.flatnonzero(crossing):
        origin = Point(closed[k])
        for part in shapely.get_parts(shapely.intersection(edges[k], area)):
            if isinstance(part, LineString) and part.length > 0:
                ends = sorted(origin.distance(Point(point)) for point in part.coords)
                found.append((starts[k] + ends[0], starts[k] + ends[-1]))
    return merge((start / total, end / total) for start, end in found)


def merge(stretches: Iterable[Stretch]) -> tuple[Stretch, ...]:
    """Join stretches that meet or overlap; sorted. Nothing in, nothing out."""
    merged: list[Stretch] = []
    for start, end in sorted(stretches):
        if merged and start <= merged[-1][1] + 1e-9:
            merged[-1] = (merged[-1][0], max(end, merged[-1][1]))
        else:
            merged.append((start, end))
    return tuple(merged)


def measure(stretches: Sequence[Stretch]) -> float:
    """Add up merged stretches, as a share 0..1 of the outline."""
    return sum(end - start for start, end in merge(stretches))


def split_by_owner(owned: Sequence[Sequence[Stretch]]) -> dict[frozenset[int], float]:
    """Cut the outline where anyone's stretch begins or ends, and add up the pieces by who owns them.

    Parameters
    ----------
    owned : sequence of stretches
        One entry an owner.

    Returns
    -------
    dict
        Set of owners (indices) to the share of the outline that exactly they own.
    """
    cuts = sorted({share for stretches in owned for stretch in stretches for share in stretch})
    shares: dict[frozenset[int], float] = {}
    for start, end in itertools.pairwise(cuts):
        middle = (start + end) / 2
        owners = frozenset(
            index for index, stretches in enumerate(owned) if any(a <= middle <= b for a, b in stretches)
        )
        if owners:
            shares[owners] = shares.get(owners, 0.0) + end - start
    return shares


def along(ring: FloatArray, stretch: Stretch) -> FloatArray:
    """Return the points of a stretch of a ring, its ends included, (m, 2) float, mm."""
    closed = np.vstack([ring, ring[:1]])
    starts = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    low, high = (share * starts[-1] for share in stretch)
    between = starts[(starts > low) & (starts < high)]
    wanted = np.concatenate([[low], between, [high]])
    return np.stack([np.interp(wanted, starts, closed[:, axis]) for axis in (0, 1)], axis=1)


def length_of(ring: FloatArray) -> float:
    """Length of a closed ring, mm."""
    return float(np.hypot(*(np.roll(ring, -1, axis=0) - ring).T).sum())
