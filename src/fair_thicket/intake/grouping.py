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
from collections.abc import Collection, Mapping, Sequence

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from fair_thicket.intake.words import find_lines

LEAST_GAP_MM, PLAIN_GAP_MM, MOST_GAP_MM = 1.0, 2.0, 6.5
LOOK_MM = 16.0
PLAINLY_FARTHER = 1.8
DUST_MM = 0.5
LEAST_IMAGE_MM = 3.0
WHOLE_MM = 9.0
WHOLE_SHARE = 0.5
"""Two bodies of this size, or of this share of what is large on the page, could each be an image of its own."""
MUCH_NEARER = 1.8
LONELY_MM = 3.99
SAME_STEP = 1.35
MOST_IMAGE_MM = 70.0
MOST_COMPANY = 60
TOUCH_MM = 1.2
"""Bodies nearer than this all but touch: a stamp's line that did not print."""


class Grouping(msgspec.Struct, frozen=True):
    """Parts grouped into images.

    Attributes
    ----------
    groups : tuple of tuples of int
        Parts of each image; dust and groups smaller than 3 mm are left out.
    greetings : frozenset of int
        Indices of the groups that are lines of words.
    reach_mm : float
        Parts nearer than this were taken together.
    """

    groups: tuple[tuple[int, ...], ...]
    greetings: frozenset[int]
    reach_mm: float


def group_parts(parts: Sequence[NDArray[np.float64]], *, gap_mm: float | None = None) -> Grouping:
    """Group parts into images.

    Parameters
    ----------
    parts : sequence of (n, 2) float, mm
        Outer contour of each part.
    gap_mm : float or None
        Parts nearer than this belong together; None finds the widest pause between the gaps within images and those
        between them, and then keeps two bodies apart that could each be an image, unless they all but touch.

    Notes
    -----
    Lines of glyphs are told first and are images of their own. A part inside the hull of another belongs to it. The
    rest is joined from the nearest pair on.
    """
    if not parts:
        return Grouping((), frozenset(), gap_mm or PLAIN_GAP_MM)
    lines = np.array([_line(points) for points in parts], dtype=object)
    boxes = shapely.bounds(lines)
    spans = np.maximum(boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1])
    real = np.flatnonzero(spans >= DUST_MM)
    hulls = shapely.convex_hull(lines)
    first, second, gaps = _near_pairs(lines, hulls, real)
    nested = np.array([_nests(hulls[a], hulls[b]) for a, b in zip(first, second, strict=True)], dtype=bool)
    inner = {int(a if spans[a] < spans[b] else b) for a, b in zip(first[nested], second[nested], strict=True)}
    words = find_lines(boxes, [index for index in real.tolist() if index not in inner])
    in_words = {index: number for number, line in enumerate(words) for index in line}
    free = np.array([a not in in_words and b not in in_words for a, b in zip(first, second, strict=True)], dtype=bool)
    reach = gap_mm if gap_mm is not None else _widest_pause(first[free], second[free], gaps[free], len(parts))
    forest = _Forest(boxes)
    for line in words:
        for index in line[1:]:
            forest.join(line[0], index)
    for a, b in zip(first[nested].tolist(), second[nested].tolist(), strict=True):
        if not (a in in_words and b in in_words):
            forest.join(a, b)
    pairs = list(zip(first[free].tolist(), second[free].tolist(), gaps[free].tolist(), strict=True))
    whole_mm = max(WHOLE_MM, WHOLE_SHARE * float(np.percentile(spans[real], 90)))
    for a, b, gap in pairs:
        if gap <= reach and (gap_mm is not None or gap <= TOUCH_MM or not forest.are_both_whole(a, b, whole_mm)):
            forest.join(a, b)
    if gap_mm is None:
        _join_lonely(forest, pairs, whole_mm)
    groups: dict[int, list[int]] = {}
    for index in real.tolist():
        groups.setdefault(forest.lead(index), []).append(index)
    kept = [members for members in groups.values() if forest.span(members[0]) >= LEAST_IMAGE_MM]
    _take_in_dust(kept, hulls, np.flatnonzero(spans < DUST_MM))
    greetings = frozenset(index for index, members in enumerate(kept) if members[0] in in_words)
    return Grouping(tuple(tuple(members) for members in kept), greetings, reach)


class _Forest:
    """Parts joined into trees; each root knows the box round its tree, and the size of the largest part."""

    def __init__(self, boxes: NDArray[np.float64]) -> None:
        self._leader = list(range(len(boxes)))
        self._boxes = boxes.copy()
        self._bodies = np.minimum(boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1])
        self._members = [[index] for index in range(len(boxes))]

    def lead(self, index: int) -> int:
        while self._leader[index] != index:
            self._leader[index] = self._leader[self._leader[index]]
            index = self._leader[index]
        return index

    def join(self, a: int, b: int) -> None:
        low, high = self.lead(a), self.lead(b)
        if low != high:
            self._leader[low] = high
            self._members[high] += self._members[low]
            self._bodies[high] = max(self._bodies[high], self._bodies[low])
            self._boxes[high, :2] = np.minimum(self._boxes[low, :2], self._boxes[high, :2])
            self._boxes[high, 2:] = np.maximum(self._boxes[low, 2:], self._boxes[high, 2:])

    def span(self, index: int) -> float:
        left, top, right, bottom = self._boxes[self.lead(index)]
        return float(max(right - left, bottom - top))

    def members(self, lead: int) -> list[int]:
        """Parts of a tree."""
        return self._members[lead]

    def body(self, index: int) -> float:
        """Lesser side of the largest single part of a tree: a handful of small parts has no body."""
        return float(self._bodies[self.lead(index)])

    def are_both_whole(self, a: int, b: int, least_mm: float) -> bool:
        """Say whether two trees each have a body that could be an image."""
        return min(self.body(a), self.body(b)) >= least_mm

    def span_of(self, leads: Collection[int]) -> float:
        """Longer side of the box round several trees."""
        boxes = self._boxes[list(leads)]
        return float((boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)).max())


def _join_lonely(forest: _Forest, pairs: Sequence[tuple[int, int, float]], whole_mm: float) -> None:
    """Join what lies much nearer to each other than to anything else, whatever the page's usual pauses are.

    From each pair that is still apart a company is gathered: all that is reached in steps about as long as the pair's
    gap. It is one image when nothing else is near, and when at most one of it could be an image of its own.
    """
    near: dict[int, list[tuple[int, float]]] = {}
    for a, b, gap in pairs:
        near.setdefault(a, []).append((b, gap))
        near.setdefault(b, []).append((a, gap))
    for a, b, gap in pairs:
        if gap > LONELY_MM:
            break
        if forest.lead(a) == forest.lead(b):
            continue
        company = _gather(forest, near, (a, b), gap, whole_mm)
        for lead in company:
            forest.join(lead, a)


def _gather(
    forest: _Forest,
    near: Mapping[int, Sequence[tuple[int, float]]],
    start: tuple[int, int],
    gap: float,
    whole_mm: float,
) -> set[int]:
    """Gather the trees within steps of a start; nothing when that is no single image (see `_join_lonely`)."""
    company = {forest.lead(index) for index in start}
    waiting = list(company)
    outside: list[tuple[int, float]] = []
    while waiting:
        bodies = sum(forest.body(lead) >= whole_mm for lead in company)
        if bodies > 1 or len(company) > MOST_COMPANY or forest.span_of(company) > MOST_IMAGE_MM:
            return set()
        for part in forest.members(waiting.pop()):
            for other, distance in near.get(part, ()):
                lead = forest.lead(other)
                if lead in company:
                    continue
                if distance <= gap * SAME_STEP:
                    company.add(lead)
                    waiting.append(lead)
                else:
                    outside.append((lead, distance))
    alone = all(distance >= MUCH_NEARER * gap for lead, distance in outside if lead not in company)
    return company if alone else set()


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


def _take_in_dust(groups: list[list[int]], hulls: NDArray[np.object_], dust: NDArray[np.int64]) -> None:
    """Give each group the tiny parts that lie within its hull: they may be eyes; outside they are dust."""
    if not groups or not len(dust):
        return
    bodies = [shapely.convex_hull(shapely.GeometryCollection([hulls[index] for index in group])) for group in groups]
    inside, which = shapely.STRtree(hulls[dust]).query(bodies, predicate="contains")
    for group, speck in zip(inside.tolist(), which.tolist(), strict=True):
        groups[group].append(int(dust[speck]))
