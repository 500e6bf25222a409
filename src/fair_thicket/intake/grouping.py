"""Which separate bits of ink belong to one image.

Glossary
--------
part
    A connected bit of ink.
gap
    Least distance between two parts.
dust
    A part so small that it cannot stand for itself; it counts only inside something larger.
"""

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

LEAST_GAP_MM, PLAIN_GAP_MM, MOST_GAP_MM = 1.0, 2.0, 6.5
LOOK_MM = 16.0
PLAINLY_FARTHER = 1.8
DUST_MM = 0.5
LEAST_IMAGE_MM = 3.0


def group_parts(parts: list[NDArray[np.float64]], *, gap_mm: float | None = None) -> list[list[int]]:
    """Group parts into images.

    Parameters
    ----------
    parts : list of (n, 2) float, mm
        Outer contour of each part.
    gap_mm : float or None
        Parts nearer than this belong together; None finds the widest pause between the gaps within images and those
        between them.

    Returns
    -------
    list of lists of indices
        Each image's parts; dust and groups smaller than 3 mm are left out.
    """
    if not parts:
        return []
    lines = np.array([_line(points) for points in parts], dtype=object)
    spans = np.array([max(np.ptp(points, axis=0)) for points in parts])
    real = np.flatnonzero(spans >= DUST_MM)
    hulls = shapely.convex_hull(lines)
    first, second, gaps = _near_pairs(lines, hulls, real)
    reach = gap_mm if gap_mm is not None else _widest_pause(first, second, gaps, len(parts))
    leader = list(range(len(parts)))

    def lead(index: int) -> int:
        while leader[index] != index:
            leader[index] = leader[leader[index]]
            index = leader[index]
        return index

    for a, b, gap in zip(first.tolist(), second.tolist(), gaps.tolist(), strict=True):
        if gap <= reach or _nests(hulls[a], hulls[b]):
            leader[lead(a)] = lead(b)
    groups: dict[int, list[int]] = {}
    for index in real.tolist():
        groups.setdefault(lead(index), []).append(index)
    kept = [members for members in groups.values() if _span(parts, members) >= LEAST_IMAGE_MM]
    _take_in_dust(kept, hulls, np.flatnonzero(spans < DUST_MM))
    return kept


def _line(points: NDArray[np.float64]) -> shapely.Geometry:
    if len(points) < 3:
        return shapely.MultiPoint(points)
    return shapely.LinearRing(points)


def _near_pairs(
    lines: NDArray[np.object_], hulls: NDArray[np.object_], real: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.float64]]:
    """Pairs that lie near each other or one round the other, ascending by gap."""
    shapes = lines[real]
    near = shapely.STRtree(shapes).query(shapes, predicate="dwithin", distance=LOOK_MM)
    round_it = shapely.STRtree(hulls[real]).query(hulls[real], predicate="intersects")
    pairs = np.unique(np.concatenate([near, round_it], axis=1), axis=1)
    a, b = pairs[:, pairs[0] < pairs[1]]
    gaps = shapely.distance(shapes[a], shapes[b])
    order = np.argsort(gaps, kind="stable")
    return real[a][order], real[b][order], np.asarray(gaps[order], np.float64)


def _nests(hull: BaseGeometry, other: BaseGeometry) -> bool:
    """Say whether one part lies (mostly) within the hull of the other, as an eye in a face or a drop under a cloud."""
    small, large = sorted((hull, other), key=lambda shape: shape.area)
    if small.area <= 0:
        return bool(large.intersects(small))
    return bool(shapely.intersection(small, large).area > 0.5 * small.area)


def _widest_pause(first: NDArray[np.int64], second: NDArray[np.int64], gaps: NDArray[np.float64], count: int) -> float:
    """Find the distance that best parts the gaps within images from those between them.

    Notes
    -----
    Only the gaps that a spanning tree of the parts needs are looked at (`gaps` ascending). They are cut
    into two classes with the greatest variance between them (Otsu 1979, as for thresholds of grey). The cut counts
    only when the far class is plainly farther; else parts are taken to stand for themselves.
    """
    leader = list(range(count))

    def lead(index: int) -> int:
        while leader[index] != index:
            index = leader[index]
        return index

    needed = []
    for a, b, gap in zip(first.tolist(), second.tolist(), gaps.tolist(), strict=True):
        low, high = lead(a), lead(b)
        if low != high:
            leader[low] = high
            needed.append(max(gap, LEAST_GAP_MM / 2))
    if not needed:
        return PLAIN_GAP_MM
    ascending = np.asarray(needed)
    best, reach = 0.0, min(PLAIN_GAP_MM, needed[0] * 0.75)
    for cut in range(1, len(ascending)):
        near, far = ascending[:cut], ascending[cut:]
        between = len(near) * len(far) * (far.mean() - near.mean()) ** 2
        is_plain = far.mean() > PLAINLY_FARTHER * near.mean() and near[-1] < MOST_GAP_MM and far[0] > LEAST_GAP_MM
        if is_plain and between > best:
            best, reach = float(between), math.sqrt(near[-1] * far[0])
    return float(min(max(reach, LEAST_GAP_MM), MOST_GAP_MM))


def _span(parts: list[NDArray[np.float64]], members: list[int]) -> float:
    points = np.concatenate([parts[index] for index in members])
    return float(max(np.ptp(points, axis=0)))


def _take_in_dust(groups: list[list[int]], hulls: NDArray[np.object_], dust: NDArray[np.int64]) -> None:
    """Give each group the tiny parts that lie within its hull: they may be eyes; outside they are dust."""
    if not groups or not len(dust):
        return
    bodies = [shapely.convex_hull(shapely.GeometryCollection([hulls[index] for index in group])) for group in groups]
    inside, which = shapely.STRtree(hulls[dust]).query(bodies, predicate="contains")
    for group, speck in zip(inside.tolist(), which.tolist(), strict=True):
        groups[group].append(int(dust[speck]))
