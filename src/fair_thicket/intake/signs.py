"""What speaks for and against two companies being one image, in numbers for `likelihood`.

Lengths are compared by the logarithm of their ratio, so that the scale of the drawings does not matter.
"""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fair_thicket.intake.companies import (
    LEAST_MM,
    LOOK_MM,
    Box,
    Companies,
    Company,
    Near,
    area_of,
    box_round,
    evenness_of,
    hull_round,
    shared_area,
    span_of,
)

ALIKE = 0.2
"""Sides that differ by less than this share are alike."""
SMALL_SHARE = 0.6
"""What is smaller than this share of a company may have its like among the company's own parts."""
SHORT_MM = 0.3
"""Lengths below this are compared as if they were this long: they are not measured better."""
NO_INNER = 4.0
"""Stands for how far a gap is from the inner ones where there are none."""
ABOUT = 1.3
"""What lies within so many times a gap is about as near."""


class Pair(NamedTuple):
    """Two companies, the one of the longer side first."""

    greater: int
    lesser: int
    great: Company
    less: Company
    near: Near

    @property
    def gap_mm(self) -> float:
        """Least gap, never nothing."""
        return max(self.near.gap_mm, LEAST_MM)


SIGNS = (
    "alike within", "alike beside", "off middle", "overlap", "alignment", "apart to lesser", "is apart",
    "overlap in mm", "intrusion", "intrusion before",
    "gap", "gap to lesser", "gap to greater", "gap in mm", "gap to both", "gap to pause", "gap to short pause",
    "gap to nearest other", "gap to farther other", "gap to next large", "next large to pause",
    "gap to any large other", "about as near to greater", "about as near to lesser",
    "gap to inner", "has inner", "inner to pause", "gap beside inner", "parts of greater", "parts of lesser",
    "span of both", "span of greater", "span of lesser", "span of both to usual", "span of greater to usual",
    "span of lesser to usual", "span in mm", "usual to large", "body of greater", "body of lesser",
    "is second look", "companies", "large companies",
    "fullness", "area to area", "shape of lesser", "shape of greater", "shape of both", "evenness of both",
    "evenness of lesser", "evenness of greater", "gain of evenness", "overlap of hulls", "middles across",
    "middles along", "facing to lesser", "facing to gap",
    "line to line", "line apart", "line apart from likest", "line spread", "gap to finer line", "gap to broader line",
    "solidity of lesser", "solidity of greater", "least solidity", "ink to ink", "detail of lesser",
    "detail of greater", "detail apart",
    "nearest apart in size", "nearest apart in line", "nearest off middle", "nearest to lesser", "nearest to greater",
)  # fmt: skip
"""What `signs` tells, in order."""


def signs(companies: Companies, first: int, second: int) -> list[float]:
    """Tell what speaks for and against two companies near each other being one image; see `SIGNS`."""
    one, other = companies.members[first], companies.members[second]
    near = companies.near[first][second]
    if one.span_mm >= other.span_mm:
        pair = Pair(first, second, one, other, near)
    else:
        pair = Pair(second, first, other, one, near)
    return [
        *_signs_of_place(companies, pair),
        *_signs_of_gap(companies, pair),
        *_signs_of_size(companies, pair),
        *_signs_of_shape(pair),
        *_signs_of_ink(companies, pair),
        *_signs_of_nearest(companies, pair),
    ]


def _signs_of_place(companies: Companies, pair: Pair) -> list[float]:
    """How the two lie to each other and to others like them."""
    great, less = pair.great.box, pair.less.box
    (wide, high), (width, height) = _sides(great), _sides(less)
    beside = max(great[0], less[0]) - min(great[2], less[2])
    above = max(great[1], less[1]) - min(great[3], less[3])
    lap_x, lap_y = max(-beside, 0) / max(min(wide, width), 0.1), max(-above, 0) / max(min(high, height), 0.1)
    off_middle = min(
        abs(great[0] + great[2] - less[0] - less[2]) / max(wide, width, LEAST_MM),
        abs(great[1] + great[3] - less[1] - less[3]) / max(high, height, LEAST_MM),
    )
    return [
        _alike_within(companies, pair),
        float(min(_alike_beside(companies, pair), 4)),
        off_middle / 2,
        min(lap_x, lap_y),
        min(max(lap_x, lap_y), 1.5),
        max(beside, above) / max(width, height, 0.5),
        float(max(beside, above) > 0),
        math.log(max(min(beside, above), -40) + 41),
        *_intrusions(companies, pair),
    ]


def _signs_of_gap(companies: Companies, pair: Pair) -> list[float]:
    """How wide the gap is, against all that it can be held against."""
    gap, page = pair.gap_mm, companies.page
    pause, short_pause = max(page.pause_mm, SHORT_MM), max(page.short_pause_mm, SHORT_MM)
    others = [_next(companies, pair.greater, pair.lesser), _next(companies, pair.lesser, pair.greater)]
    next_large = _next(companies, pair.lesser, pair.greater, only_large=True)
    any_large = min(next_large, _next(companies, pair.greater, pair.lesser, only_large=True))
    inner = max(pair.great.inner_mm, pair.less.inner_mm)
    about = [
        sum(near.gap_mm <= ABOUT * gap for near in companies.near[lead].values())
        for lead in (pair.greater, pair.lesser)
    ]
    return [
        math.log(gap),
        math.log(gap / max(pair.less.span_mm, SHORT_MM)),
        math.log(gap / max(pair.great.span_mm, SHORT_MM)),
        gap / 10,
        math.log(gap / max(span_of(box_round(pair.great.box, pair.less.box)), SHORT_MM)),
        math.log(gap / pause),
        math.log(gap / short_pause),
        math.log(gap / min(others)),
        math.log(gap / max(others)),
        math.log(gap / next_large),
        math.log(next_large / pause),
        math.log(gap / any_large),
        *(float(count) for count in about),
        math.log(gap / max(inner, SHORT_MM)),
        float(inner > 0),
        math.log(max(inner, SHORT_MM) / pause),
        abs(math.log(gap / inner)) if inner > 0 else NO_INNER,
        math.log(len(pair.great.parts)),
        math.log(len(pair.less.parts)),
    ]


def _signs_of_size(companies: Companies, pair: Pair) -> list[float]:
    """How large they are, for this page."""
    page = companies.page
    both = span_of(box_round(pair.great.box, pair.less.box))
    span, short = max(pair.great.span_mm, SHORT_MM), max(pair.less.span_mm, SHORT_MM)
    return [
        math.log(both / page.large_mm),
        math.log(span / page.large_mm),
        math.log(short / page.large_mm),
        math.log(both / page.usual_mm),
        math.log(span / page.usual_mm),
        math.log(short / page.usual_mm),
        both / 60,
        math.log(page.usual_mm / page.large_mm),
        math.log(max(pair.great.body_mm, SHORT_MM) / page.large_mm),
        math.log(max(pair.less.body_mm, SHORT_MM) / page.large_mm),
        float(page.is_second),
        math.log(len(companies.members)),
        math.log(1 + companies.count_large()),
    ]


def _signs_of_shape(pair: Pair) -> list[float]:
    """Tell what outline they have, alone and together."""
    great, less = pair.great, pair.less
    (wide, high), (width, height) = _sides(great.box), _sides(less.box)
    sides = _sides(box_round(great.box, less.box))
    hull = hull_round(great.hull, less.hull)
    even = evenness_of(hull)
    middle, other = great.hull.mean(axis=0), less.hull.mean(axis=0)
    return [
        (great.area_mm2 + less.area_mm2) / max(area_of(hull), 0.1),
        math.log(max(less.area_mm2, LEAST_MM) / max(great.area_mm2, LEAST_MM)),
        math.log(max(width, SHORT_MM) / max(height, SHORT_MM)),
        min(wide, high) / max(wide, high, 0.1),
        math.log(max(min(sides), SHORT_MM) / max(*sides, SHORT_MM)),
        even,
        less.evenness,
        great.evenness,
        even - great.evenness,
        shared_area(great.hull, less.hull) / max(less.area_mm2, 0.1),
        float(abs(middle[0] - other[0])) / max(wide, SHORT_MM),
        float(abs(middle[1] - other[1])) / max(high, SHORT_MM),
        pair.near.facing_mm / max(less.span_mm, SHORT_MM),
        math.log(max(pair.near.facing_mm, 0.1) / pair.gap_mm),
    ]


def _signs_of_ink(companies: Companies, pair: Pair) -> list[float]:
    """With what lines they are drawn: one image is drawn with one pen, or filled."""
    great, less, gap = pair.great, pair.less, pair.gap_mm
    line, other = less.line_mm, great.line_mm
    likest = min(abs(math.log(line / companies.own[part].line_mm)) for part in great.parts)
    return [
        math.log(line / other),
        abs(math.log(line / other)),
        likest,
        companies.page.line_spread,
        math.log(gap / min(line, other)),
        math.log(gap / max(line, other)),
        less.solidity,
        great.solidity,
        min(less.solidity, great.solidity),
        less.ink_mm2 / max(great.ink_mm2, 0.01),
        less.detail,
        great.detail,
        abs(less.detail - great.detail),
    ]


def _signs_of_nearest(companies: Companies, pair: Pair) -> list[float]:
    """Tell how alike the two parts are that are nearest, and how much of their companies they are: rows go on."""
    one, other = (companies.own[part] for part in pair.near.parts)
    (wide, high), (width, height) = ((max(side, SHORT_MM) for side in _sides(box)) for box in (one.box, other.box))
    return [
        abs(math.log(wide / width)) + abs(math.log(high / height)),
        abs(math.log(one.line_mm / other.line_mm)),
        min(
            abs(one.box[0] + one.box[2] - other.box[0] - other.box[2]) / max(wide, width),
            abs(one.box[1] + one.box[3] - other.box[1] - other.box[3]) / max(high, height),
        ),
        math.log(max(min(one.span_mm, other.span_mm), SHORT_MM) / max(pair.less.span_mm, SHORT_MM)),
        math.log(max(one.span_mm, other.span_mm, SHORT_MM) / max(pair.great.span_mm, SHORT_MM)),
    ]


def _sides(box: Box) -> tuple[float, float]:
    return box[2] - box[0], box[3] - box[1]


def _next(companies: Companies, lead: int, without: int, *, only_large: bool = False) -> float:
    """Gap to the nearest company but one."""
    gaps = (
        near.gap_mm
        for other, near in companies.near[lead].items()
        if other != without and (not only_large or companies.is_large(other))
    )
    return max(min(gaps, default=LOOK_MM), LEAST_MM)


def _intrusions(companies: Companies, pair: Pair) -> tuple[float, float]:
    """How much of another company at most would lie in the box round both, and lies in one of theirs already."""
    around = companies.near[pair.greater].keys() | companies.near[pair.lesser].keys()
    boxes = np.array([companies.members[other].box for other in around if other not in (pair.greater, pair.lesser)])
    if not len(boxes):
        return 0.0, 0.0
    would = _most_within(boxes, box_round(pair.great.box, pair.less.box))
    return would, max(_most_within(boxes, pair.great.box), _most_within(boxes, pair.less.box))


def _alike_within(companies: Companies, pair: Pair) -> float:
    """1 where a small company has its like among the parts of the greater one; 0.5 for two that are alike."""
    box = pair.less.box
    if pair.less.span_mm >= SMALL_SHARE * pair.great.span_mm:
        return 0.5 * _are_alike(box, pair.great.box)
    return float(any(_are_alike(box, companies.own[part].box) for part in pair.great.parts))


def _alike_beside(companies: Companies, pair: Pair) -> int:
    """Count the companies like the lesser one that lie about as far from the greater one."""
    box, gap = pair.less.box, pair.gap_mm
    return sum(
        abs(near.gap_mm - gap) <= 0.25 * max(near.gap_mm, gap) and _are_alike(box, companies.members[other].box)
        for other, near in companies.near[pair.greater].items()
        if other != pair.lesser
    )


def _most_within(boxes: NDArray[np.float64], frame: Box) -> float:
    """Return the greatest share of any box that lies within a frame."""
    low, high = boxes[:, :2], boxes[:, 2:]
    shared = np.maximum(np.minimum(high, frame[2:]) - np.maximum(low, frame[:2]), 0.0).prod(axis=1)
    return float((shared / np.maximum((high - low).prod(axis=1), 0.5)).max())


def _are_alike(first: Box, second: Box) -> bool:
    return all(
        abs(one - other) <= ALIKE * max(one, other, 1.0)
        for one, other in zip(_sides(first), _sides(second), strict=True)
    )
