"""Companies of parts on a page that grow into images, and what speaks for and against joining two of them.

Glossary
--------
company
    Parts that are taken to be of one image so far; in the beginning each part with what lies within its hull.
body
    Longer side of the largest single part of a company: a handful of small parts has no body.
pause
    Distance from one larger company to the next larger one.
look
    A page is looked at twice: at first its images are not known yet, and only its parts tell how large they are; the
    second look knows the sizes and pauses of what the first has grouped.
"""

import math
from collections.abc import Collection, Iterable, Iterator
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

LOOK_MM = 16.0
"""Parts farther from each other are not asked whether they belong together."""
LARGE_SHARE = 0.4
"""What is at least this share of the page's large images is no mere part, by its body."""
LEAST_LARGE_MM = 6.0
ALIKE = 0.2
"""Sides that differ by less than this share are alike."""
SMALL_SHARE = 0.6
"""What is smaller than this share of a company may have its like among the company's own parts."""
LEAST_MM = 0.05
USUAL_PAUSE_MM = 6.0
LIKELY, PLAINLY, LIKELY_PART = 0.7, 0.99, 0.5
PART_SHARE = 0.5
"""What is smaller than this share of the page's large images is sooner a part of one than one by itself."""
MOST_GAP_MM = 8.0
"""Wider gaps are never bridged, however likely that looks."""
TOUCH_MM = 1.2
WHOLE_MM = 9.0
WHOLE_SHARE = 0.5
"""A part whose lesser side is of this size, and of this share of the page's large images, could be an image."""

Box = tuple[float, float, float, float]
SIGNS = (
    "alike within", "alike beside", "gap to next large", "next large to pause", "off middle",
    "gap", "gap to lesser", "gap to greater", "span of both", "span of greater", "span of lesser",
    "body of greater", "body of lesser", "gap to pause", "gap to short pause", "gap to nearest other",
    "gap to farther other", "gap to inner", "has inner", "inner to pause", "apart to lesser", "is apart",
    "overlap", "alignment", "fullness", "intrusion", "intrusion before", "parts of greater", "parts of lesser",
    "overlap in mm", "shape of lesser", "shape of greater", "area to area", "span in mm", "gap in mm",
    "span of both to usual", "span of greater to usual", "span of lesser to usual", "usual to large", "is second look",
)  # fmt: skip
"""What `Companies.signs` tells of two companies, in order."""


class Survey(NamedTuple):
    """How large the images of a page are, and how far from each other, mm."""

    large_mm: float = LEAST_LARGE_MM
    usual_mm: float = LEAST_LARGE_MM
    pause_mm: float = USUAL_PAUSE_MM
    short_pause_mm: float = USUAL_PAUSE_MM
    is_second: bool = False


class Companies:
    """The companies of a page.

    Attributes
    ----------
    members : dict of int to list of int
        Parts of each company, by its leading part.
    near : dict of int to dict of int to float
        Gaps in mm to the companies nearby.
    """

    def __init__(
        self, boxes: NDArray[np.float64], hulls: NDArray[np.object_], pairs: Iterable[tuple[int, int, float]]
    ) -> None:
        """Begin with every part that is in a pair or named by `stand`; `pairs` are near ones with gaps in mm."""
        self._own_boxes: list[Box] = [(left, top, right, bottom) for left, top, right, bottom in boxes.tolist()]
        self.members: dict[int, list[int]] = {}
        self.near: dict[int, dict[int, float]] = {}
        self._boxes: dict[int, Box] = {}
        self._hulls: dict[int, BaseGeometry] = {}
        self._areas: dict[int, float] = {}
        self._inner: dict[int, float] = {}
        self._bodies: dict[int, float] = {}
        self._cores: dict[int, float] = {}  # lesser side of the largest single part
        self._leader: dict[int, int] = {}
        self._all_hulls = hulls
        for a, b, gap in pairs:
            self.stand(a)
            self.stand(b)
            self.near[a][b] = self.near[b][a] = gap
        self.page = Survey()

    def stand(self, part: int) -> None:
        """Let a part be a company of its own."""
        if part in self.members:
            return
        self.members[part], self.near[part], self._leader[part] = [part], {}, part
        self._boxes[part], self._hulls[part] = self._own_boxes[part], self._all_hulls[part]
        self._areas[part], self._inner[part] = float(self._all_hulls[part].area), 0.0
        left, top, right, bottom = self._own_boxes[part]
        self._bodies[part], self._cores[part] = max(right - left, bottom - top), min(right - left, bottom - top)

    def lead(self, part: int) -> int:
        """Give the leading part of a part's company."""
        while self._leader[part] != part:
            self._leader[part] = self._leader[self._leader[part]]
            part = self._leader[part]
        return part

    def span(self, lead: int) -> float:
        """Longer side of a company's box, mm."""
        return _span(self._boxes[lead])

    def inner(self, lead: int) -> float:
        """Widest gap that was bridged within a company, mm."""
        return self._inner[lead]

    def join(self, first: int, second: int, *, is_nested: bool = False) -> int:
        """Join two companies by their leads; the lead of both."""
        kept, gone = (first, second) if len(self.members[first]) >= len(self.members[second]) else (second, first)
        gap = 0.0 if is_nested else self.near[kept].get(gone, 0.0)
        self._leader[gone] = kept
        self.members[kept] += self.members.pop(gone)
        self._boxes[kept] = _round_both(self._boxes[kept], self._boxes.pop(gone))
        both = shapely.GeometryCollection([self._hulls[kept], self._hulls.pop(gone)])
        self._hulls[kept] = shapely.convex_hull(both)
        self._areas[kept] = float(self._hulls[kept].area)
        self._areas.pop(gone)
        self._inner[kept] = max(self._inner[kept], self._inner.pop(gone), gap)
        self._bodies[kept] = max(self._bodies[kept], self._bodies.pop(gone))
        self._cores[kept] = max(self._cores[kept], self._cores.pop(gone))
        for other, distance in self.near.pop(gone).items():
            self.near[other].pop(gone, None)
            if other != kept:
                least = min(distance, self.near[kept].get(other, math.inf))
                self.near[kept][other] = self.near[other][kept] = least
        return kept

    def survey(self, without: Collection[int] = ()) -> Survey:
        """Learn from the page how large its images are and how far from each other; `without` those that are words."""
        spans = [self.span(lead) for lead in self.members if lead not in without]
        if not spans:
            return self.page
        large_mm = max(LEAST_LARGE_MM, float(np.percentile(spans, 90)))
        least = LARGE_SHARE * large_mm
        large = {lead for lead in self.members if lead not in without and self.span(lead) >= least}
        usual_mm = max(LEAST_LARGE_MM, float(np.median([self.span(lead) for lead in large] or [large_mm])))
        pauses = [
            min((gap for other, gap in self.near[lead].items() if other in large), default=LOOK_MM) for lead in large
        ]
        pause, short = (float(value) for value in np.percentile(pauses or [USUAL_PAUSE_MM], (50, 20)))
        return Survey(large_mm, usual_mm, pause, short)

    def _is_large(self, lead: int) -> bool:
        return self._bodies[lead] >= LARGE_SHARE * self.page.large_mm

    def least_likely(self, first: int, second: int) -> float:
        """How likely two companies must look one image to be taken for one; above 1 for never.

        Two that each have a body that could stand for an image must look it plainly, unless they all but touch: then a
        stamp's line between them did not print.
        """
        gap = self.near[first][second]
        if gap > MOST_GAP_MM:
            return 2.0
        whole = max(WHOLE_MM, WHOLE_SHARE * self.page.large_mm)
        is_both_whole = min(self._cores[first], self._cores[second]) >= whole
        if is_both_whole and gap > TOUCH_MM:
            return PLAINLY
        return LIKELY_PART if min(self.span(first), self.span(second)) < PART_SHARE * self.page.large_mm else LIKELY

    def signs(self, first: int, second: int) -> list[float]:
        """Tell what speaks for and against two companies being one image; see `SIGNS`.

        Lengths are compared by the logarithm of their ratio, so that the scale of the drawings does not matter.
        """
        greater, lesser = (first, second) if self.span(first) >= self.span(second) else (second, first)
        great, less = self._boxes[greater], self._boxes[lesser]
        wide, high, width, height = great[2] - great[0], great[3] - great[1], less[2] - less[0], less[3] - less[1]
        both = _round_both(great, less)
        gap = max(self.near[greater][lesser], LEAST_MM)
        others = [self._next(greater, lesser), self._next(lesser, greater)]
        next_large = self._next(lesser, greater, only_large=True)
        beside = max(great[0], less[0]) - min(great[2], less[2])
        above = max(great[1], less[1]) - min(great[3], less[3])
        lap_x, lap_y = (max(-beside, 0) / max(min(wide, width), 0.1), max(-above, 0) / max(min(high, height), 0.1))
        hull = shapely.convex_hull(shapely.GeometryCollection([self._hulls[greater], self._hulls[lesser]]))
        inner = max(self._inner[greater], self._inner[lesser])
        span, little = max(wide, high), max(width, height)
        short = max(little, 0.3)
        intrusion, before = self._intrusions(greater, lesser, both)
        off_middle = min(
            abs(great[0] + great[2] - less[0] - less[2]) / max(wide, width, LEAST_MM),
            abs(great[1] + great[3] - less[1] - less[3]) / max(high, height, LEAST_MM),
        )
        pause, short_pause = max(self.page.pause_mm, 0.3), max(self.page.short_pause_mm, 0.3)
        return [
            self._alike_within(greater, lesser),
            float(min(self._alike_beside(greater, lesser, gap), 4)),
            math.log(gap / next_large),
            math.log(next_large / pause),
            off_middle / 2,
            math.log(gap),
            math.log(gap / short),
            math.log(gap / max(span, 0.3)),
            math.log(_span(both) / self.page.large_mm),
            math.log(max(span, 0.3) / self.page.large_mm),
            math.log(short / self.page.large_mm),
            math.log(max(self._bodies[greater], 0.3) / self.page.large_mm),
            math.log(max(self._bodies[lesser], 0.3) / self.page.large_mm),
            math.log(gap / pause),
            math.log(gap / short_pause),
            math.log(gap / min(others)),
            math.log(gap / max(others)),
            math.log(gap / max(inner, 0.3)),
            float(inner > 0),
            math.log(max(inner, 0.3) / pause),
            max(beside, above) / max(little, 0.5),
            float(max(beside, above) > 0),
            min(lap_x, lap_y),
            min(max(lap_x, lap_y), 1.5),
            (self._areas[greater] + self._areas[lesser]) / max(float(hull.area), 0.1),
            intrusion,
            before,
            math.log(len(self.members[greater])),
            math.log(len(self.members[lesser])),
            math.log(max(min(beside, above), -40) + 41),
            math.log(max(width, 0.3) / max(height, 0.3)),
            min(wide, high) / max(span, 0.1),
            math.log(max(self._areas[lesser], LEAST_MM) / max(self._areas[greater], LEAST_MM)),
            _span(both) / 60,
            gap / 10,
            math.log(_span(both) / self.page.usual_mm),
            math.log(max(span, 0.3) / self.page.usual_mm),
            math.log(short / self.page.usual_mm),
            math.log(self.page.usual_mm / self.page.large_mm),
            float(self.page.is_second),
        ]

    def _next(self, lead: int, without: int, *, only_large: bool = False) -> float:
        """Gap to the nearest company but one."""
        gaps = (
            gap
            for other, gap in self.near[lead].items()
            if other != without and (not only_large or self._is_large(other))
        )
        return max(min(gaps, default=LOOK_MM), LEAST_MM)

    def _intrusions(self, greater: int, lesser: int, both: Box) -> tuple[float, float]:
        """How much of another company at most would lie in the box round both, and lies in one of theirs already."""
        would = does = 0.0
        for other in self.near[greater].keys() | self.near[lesser].keys():
            if other not in (greater, lesser):
                box = self._boxes[other]
                would = max(would, _share_within(box, both))
                does = max(does, _share_within(box, self._boxes[greater]), _share_within(box, self._boxes[lesser]))
        return would, does

    def _alike_within(self, greater: int, lesser: int) -> float:
        """1 where a small company has its like among the parts of the greater one; 0.5 for two that are alike."""
        box = self._boxes[lesser]
        if _span(box) >= SMALL_SHARE * self.span(greater):
            return 0.5 * _are_alike(box, self._boxes[greater])
        return float(any(_are_alike(box, self._own_boxes[part]) for part in self.members[greater]))

    def _alike_beside(self, greater: int, lesser: int, gap: float) -> int:
        """Count the companies like the lesser one that lie about as far from the greater one."""
        box = self._boxes[lesser]
        return sum(
            abs(distance - gap) <= 0.25 * max(distance, gap) and _are_alike(box, self._boxes[other])
            for other, distance in self.near[greater].items()
            if other != lesser
        )

    def pairs(self) -> Iterator[tuple[int, int]]:
        """Companies near each other, each pair once."""
        for first, near in self.near.items():
            yield from ((first, second) for second in near if first < second)


def _span(box: Box) -> float:
    return max(box[2] - box[0], box[3] - box[1])


def _round_both(first: Box, second: Box) -> Box:
    return (min(first[0], second[0]), min(first[1], second[1]), max(first[2], second[2]), max(first[3], second[3]))


def _share_within(box: Box, frame: Box) -> float:
    width = max(min(box[2], frame[2]) - max(box[0], frame[0]), 0.0)
    height = max(min(box[3], frame[3]) - max(box[1], frame[1]), 0.0)
    return width * height / max((box[2] - box[0]) * (box[3] - box[1]), 0.5)


def _are_alike(first: Box, second: Box) -> bool:
    return all(
        abs(one - other) <= ALIKE * max(one, other, 1.0)
        for one, other in ((first[2] - first[0], second[2] - second[0]), (first[3] - first[1], second[3] - second[1]))
    )
