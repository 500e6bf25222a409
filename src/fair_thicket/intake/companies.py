"""Companies of parts on a page that grow into images; what speaks for and against joining two is in `signs`.

Glossary
--------
company
    Parts that are taken to be of one image so far; in the beginning each part with what lies within its hull.
body
    Longer side of the largest single part of a company: a handful of small parts has no body.
pause
    Distance from one larger company to the next larger one.
line
    Mean width of a company's lines: its ink to half the length of its borders.
look
    A page is looked at twice: at first its images are not known yet, and only its parts tell how large they are; the
    second look knows the sizes and pauses of what the first has grouped.
"""

import math
from collections.abc import Collection, Iterable, Iterator, Sequence
from typing import NamedTuple

import cv2
import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

LOOK_MM = 16.0
"""Parts farther from each other are not asked whether they belong together."""
LARGE_SHARE = 0.4
"""What is at least this share of the page's large images is no mere part, by its body."""
LEAST_LARGE_MM = 6.0
USUAL_PAUSE_MM = 6.0
LIKELY = 0.5
"""What looks so likely one image is taken for one."""
MOST_GAP_MM = 8.0
"""Wider gaps are never bridged, however likely that looks."""
ROOM_MM, ROOM_SHARE = 4.5, 0.15
"""Room that is left for cutting between stamped images (common practice: about 5 mm), and between large ones that are
drawn in parts, as a share of them."""
WHOLE_MM, WHOLE_SHARE = 9.0, 0.5
"""A part whose shorter side is of this size, and of this share of the page's large images, could be an image."""
TWIN_SPAN_MM, TWIN_SIDE_MM, TWIN_SHARE = 12.0, 6.5, 0.5
"""Two that are alike and at least so long, so broad, and this share of the page's usual image are one stamp, stamped
twice: smaller ones may be eyes, wheels or stars of one image."""
TWIN_GAP_MM = 1.0
TWIN_APART_MM, TWIN_INK_APART, TWIN_OVERLAP = 0.6, 0.15, 0.93
"""What is alike differs by no more than this in its sides and in the logarithm of its ink, and its hulls agree."""
FACING_MM = 0.6
"""What lies no farther than this beyond the least gap faces the other."""
LEAST_MM, LEAST_INK_MM2, LEAST_BORDER_MM = 0.05, 0.01, 0.2
"""Gaps, inks and borders below these are compared as if they were these."""
EVEN_SHARE = (15, 85)
"""Percentiles between which a page's lines spread."""

Hull = NDArray[np.float32]
"""Corners of a convex outline, (n, 2), mm."""
Box = tuple[float, float, float, float]


class Near(NamedTuple):
    """How two companies lie to each other: least gap, and how much of their outlines is about as near, mm.

    `parts` are the two that are so near, one of each.
    """

    gap_mm: float
    facing_mm: float = 0.0
    parts: tuple[int, int] = (0, 0)


class Survey(NamedTuple):
    """How large the images of a page are, how far from each other, mm, and how unlike their lines (a logarithm)."""

    large_mm: float = LEAST_LARGE_MM
    usual_mm: float = LEAST_LARGE_MM
    pause_mm: float = USUAL_PAUSE_MM
    short_pause_mm: float = USUAL_PAUSE_MM
    line_spread: float = 0.0
    is_second: bool = False


class Company(msgspec.Struct, frozen=True):
    """Parts that are taken to be of one image so far.

    Attributes
    ----------
    parts : list of int
    box, hull
        Round all of them, mm.
    area_mm2, round_mm : float
        Of the hull, and the way round it.
    inner_mm : float
        Widest gap that was bridged within it.
    body_mm, core_mm : float
        Longer side of the largest single part, and shorter side of the part whose shorter side is greatest.
    ink_mm2, border_mm : float
        Its ink, and the length of all borders of it.
    evenness : float
        How even its hull is left to right or top to bottom, 0..1; see `evenness_of`.
    """

    parts: list[int]
    box: Box
    hull: Hull
    area_mm2: float
    round_mm: float
    inner_mm: float
    body_mm: float
    core_mm: float
    ink_mm2: float
    border_mm: float
    evenness: float

    @property
    def span_mm(self) -> float:
        """Longer side of its box."""
        return span_of(self.box)

    @property
    def line_mm(self) -> float:
        """Mean width of its lines."""
        return line_of(self.ink_mm2, self.border_mm)

    @property
    def solidity(self) -> float:
        """Share of its hull that is ink, at most 1.5."""
        return min(self.ink_mm2 / max(self.area_mm2, 0.1), 1.5)

    @property
    def detail(self) -> float:
        """Its borders to the way round its hull."""
        return self.border_mm / max(self.round_mm, 0.5)


class Companies:
    """The companies of a page.

    Attributes
    ----------
    members : dict of int to Company
        By their leading parts.
    near : dict of int to dict of int to Near
        How each lies to those nearby.
    own : list of Company
        What each part is alone.
    """

    def __init__(
        self,
        boxes: NDArray[np.float64],
        hulls: Sequence[Hull],
        inks: NDArray[np.float64],
        pairs: Iterable[tuple[int, int, Near]],
    ) -> None:
        """Begin with every part that is in a pair or named by `stand`; `inks` are areas in mm2 and borders in mm."""
        self.own = [
            _alone(part, box, hull, ink, border)
            for part, (box, hull, (ink, border)) in enumerate(zip(boxes.tolist(), hulls, inks.tolist(), strict=True))
        ]
        self.members: dict[int, Company] = {}
        self.near: dict[int, dict[int, Near]] = {}
        self._leader: dict[int, int] = {}
        for a, b, near in pairs:
            self.stand(a)
            self.stand(b)
            self.near[a][b] = self.near[b][a] = near
        self.page = Survey()
        self._large: tuple[int, Survey, int] = (-1, self.page, 0)

    def stand(self, part: int) -> None:
        """Let a part be a company of its own."""
        if part not in self.members:
            self.members[part], self.near[part], self._leader[part] = self.own[part], {}, part

    def lead(self, part: int) -> int:
        """Return the leading part of a part's company."""
        while self._leader[part] != part:
            self._leader[part] = self._leader[self._leader[part]]
            part = self._leader[part]
        return part

    def join(self, first: int, second: int, *, is_nested: bool = False) -> int:
        """Join two companies by their leads; the lead of both."""
        is_first = len(self.members[first].parts) >= len(self.members[second].parts)
        kept, gone = (first, second) if is_first else (second, first)
        gap = 0.0 if is_nested else self.near[kept].get(gone, Near(0.0)).gap_mm
        self._leader[gone] = kept
        self.members[kept] = _both(self.members[kept], self.members.pop(gone), gap)
        for other, near in self.near.pop(gone).items():
            self.near[other].pop(gone, None)
            if other != kept:
                before = self.near[kept].get(other)
                self.near[kept][other] = self.near[other][kept] = near if before is None else _nearer(before, near)
        return kept

    def survey(self, without: Collection[int] = ()) -> Survey:
        """Learn from the page how large its images are and how far from each other; `without` those that are words."""
        spans = {lead: one.span_mm for lead, one in self.members.items() if lead not in without}
        if not spans:
            return self.page
        large_mm = max(LEAST_LARGE_MM, float(np.percentile(list(spans.values()), 90)))
        large = {lead for lead, span in spans.items() if span >= LARGE_SHARE * large_mm}
        usual_mm = max(LEAST_LARGE_MM, float(np.median([spans[lead] for lead in large] or [large_mm])))
        pause, short = (float(value) for value in np.percentile(self._pauses(large) or [USUAL_PAUSE_MM], (50, 20)))
        lines = [math.log(self.members[lead].line_mm) for lead in large] or [0.0]
        finest, broadest = (float(value) for value in np.percentile(lines, EVEN_SHARE))
        return Survey(large_mm, usual_mm, pause, short, broadest - finest)

    def _pauses(self, large: Collection[int]) -> list[float]:
        """From each large company to the next, mm."""
        return [
            min((near.gap_mm for other, near in self.near[lead].items() if other in large), default=LOOK_MM)
            for lead in large
        ]

    def is_large(self, lead: int) -> bool:
        """Say whether a company is no mere part, by its body."""
        return self.members[lead].body_mm >= LARGE_SHARE * self.page.large_mm

    def count_large(self) -> int:
        """Count the large companies; asked for every pair, counted once for each state of the page."""
        size, page, count = self._large
        if size != len(self.members) or page is not self.page:
            count = sum(self.is_large(lead) for lead in self.members)
            self._large = (len(self.members), self.page, count)
        return count

    def may_join(self, first: int, second: int) -> bool:
        """Say whether two companies are near enough to be one image: two whole bodies nearer than others.

        Two large ones that are the same, the same way up, are one stamp that was stamped twice.
        """
        one, other, gap_mm = self.members[first], self.members[second], self.near[first][second].gap_mm
        whole = max(WHOLE_MM, WHOLE_SHARE * self.page.large_mm)
        is_both_whole = min(one.core_mm, other.core_mm) >= whole
        room = min(MOST_GAP_MM, max(ROOM_MM, ROOM_SHARE * self.page.large_mm))
        if gap_mm > (room if is_both_whole else MOST_GAP_MM):
            return False
        is_large = min(one.span_mm, other.span_mm) >= max(TWIN_SPAN_MM, TWIN_SHARE * self.page.usual_mm)
        may_be_twins = is_large and min(one.core_mm, other.core_mm) >= TWIN_SIDE_MM and gap_mm >= TWIN_GAP_MM
        return not (may_be_twins and are_twins(one, other))

    def pairs(self) -> Iterator[tuple[int, int]]:
        """Companies near each other, each pair once."""
        for first, near in self.near.items():
            yield from ((first, second) for second in near if first < second)


def _alone(part: int, box: list[float], hull: Hull, ink_mm2: float, border_mm: float) -> Company:
    left, top, right, bottom = box
    return Company(
        [part], (left, top, right, bottom), hull, area_of(hull), cv2.arcLength(hull, True), 0.0,
        max(right - left, bottom - top), min(right - left, bottom - top), ink_mm2, border_mm, evenness_of(hull),
    )  # fmt: skip


def _both(kept: Company, gone: Company, gap_mm: float) -> Company:
    hull = hull_round(kept.hull, gone.hull)
    return Company(
        kept.parts + gone.parts,
        box_round(kept.box, gone.box),
        hull,
        area_of(hull),
        cv2.arcLength(hull, True),
        max(kept.inner_mm, gone.inner_mm, gap_mm),
        max(kept.body_mm, gone.body_mm),
        max(kept.core_mm, gone.core_mm),
        kept.ink_mm2 + gone.ink_mm2,
        kept.border_mm + gone.border_mm,
        evenness_of(hull),
    )


def _nearer(first: Near, second: Near) -> Near:
    """How a company lies to two that are joined: what faces it of the farther one counts if it is about as near."""
    near, far = sorted((first, second))
    facing = near.facing_mm + (far.facing_mm if far.gap_mm <= near.gap_mm + FACING_MM else 0.0)
    return near._replace(facing_mm=facing)


def are_twins(one: Company, other: Company) -> bool:
    """Whether two companies are the same but for their place: size, ink, borders and hull."""
    shift = np.array(other.box) - one.box
    inks = math.log(max(one.ink_mm2, LEAST_INK_MM2) / max(other.ink_mm2, LEAST_INK_MM2))
    borders = math.log(max(one.border_mm, LEAST_BORDER_MM) / max(other.border_mm, LEAST_BORDER_MM))
    is_of_a_size = float(np.abs(shift[:2] - shift[2:]).max()) <= TWIN_APART_MM
    if not is_of_a_size or max(abs(inks), abs(borders)) > TWIN_INK_APART or min(len(one.hull), len(other.hull)) < 3:
        return False
    moved = shapely.Polygon(one.hull.astype(np.float64) + (shift[:2] + shift[2:]) / 2)
    still = shapely.Polygon(other.hull)  # OpenCV's own overlap fails where hulls all but coincide
    return float(moved.intersection(still).area) >= TWIN_OVERLAP * float(moved.union(still).area)


def hull_round(first: Hull, second: Hull) -> Hull:
    """Return the hull round two hulls."""
    return np.asarray(cv2.convexHull(np.concatenate([first, second]))[:, 0, :], np.float32)


def area_of(hull: Hull) -> float:
    """Area of a hull, mm2; nothing for a point or a line."""
    return float(cv2.contourArea(hull))


def shared_area(first: Hull, second: Hull) -> float:
    """Area that two hulls share, mm2."""
    if min(len(first), len(second)) < 3:
        return 0.0
    return float(cv2.intersectConvexConvex(first, second)[0])


def evenness_of(hull: Hull) -> float:
    """How much of a hull its own mirror image covers, left to right or top to bottom, whichever is more; 0..1."""
    area = area_of(hull)
    if area <= 0:
        return 1.0
    least, greatest = hull.min(axis=0), hull.max(axis=0)
    both = least + greatest
    across = np.stack([both[0] - hull[:, 0], hull[:, 1]], axis=1)[::-1]
    down = np.stack([hull[:, 0], both[1] - hull[:, 1]], axis=1)[::-1]
    return min(1.0, max(shared_area(hull, across), shared_area(hull, down)) / area)


def line_of(ink_mm2: float, border_mm: float) -> float:
    """Mean width of lines, mm: along a line its border runs twice."""
    return 2 * max(ink_mm2, LEAST_INK_MM2) / max(border_mm, LEAST_BORDER_MM)


def span_of(box: Box) -> float:
    """Longer side of a box."""
    return max(box[2] - box[0], box[3] - box[1])


def box_round(first: Box, second: Box) -> Box:
    """Return the box round two boxes."""
    return (min(first[0], second[0]), min(first[1], second[1]), max(first[2], second[2]), max(first[3], second[3]))
