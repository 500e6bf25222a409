"""Which separate bits of ink belong to one image.

Glossary
--------
part
    A connected bit of ink.
gap
    Least distance between two parts.
dust
    A part so small that it cannot stand for itself; it counts only inside something larger.
company
    Parts that are taken to be of one image so far (see `companies`).
crumb
    What is more than dust and too small for an image: a bit of a line that a blotchy impression has broken off.
"""

import heapq
from collections.abc import Callable, Sequence

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.intake.companies import LIKELY, LOOK_MM, Companies, Hull
from fair_thicket.intake.likelihood import shipped
from fair_thicket.intake.nearness import Pairs, facing_of, fewer_pairs, near_pairs
from fair_thicket.intake.signs import signs
from fair_thicket.intake.words import find_lines

PLAIN_GAP_MM = 2.0
DUST_MM = 0.7
"""Specks of up to 0.4 mm show blurred and a scan's pixel wider."""
LEAST_IMAGE_MM = 3.0
CRUMB_INK_MM2, CRUMB_LINE = 0.25, 0.2
"""A crumb has as much ink, and lines not finer than this share of its image's; less is dust."""
CRUMB_NEAR_MM, LARGE_CRUMB_MM2, LARGE_CRUMB_NEAR_MM = 2.5, 0.8, 4.0
"""How far from its image a crumb lies at the most, and one of more ink, which is surely no dust."""
MANY_PARTS, BROKEN_GAP_MM = 400, 4.0
"""On a page of more parts ink has broken into specks: they are taken together by plain distance, for to think about
each pair would take a minute; the maker can change the distance (our own guess)."""

Judge = Callable[[Companies, Sequence[tuple[int, int]]], Sequence[float]]
"""How likely each of some pairs of companies is one image, 0..1."""


class Grouping(msgspec.Struct, frozen=True):
    """Parts grouped into images.

    Attributes
    ----------
    groups : tuple of tuples of int
        Parts of each image; dust and groups smaller than 3 mm are left out.
    greetings : frozenset of int
        Indices of the groups that are lines of words.
    reach_mm : float
        The widest gap that was bridged within an image.
    """

    groups: tuple[tuple[int, ...], ...]
    greetings: frozenset[int]
    reach_mm: float


def group_parts(
    parts: Sequence[NDArray[np.float64]],
    inks: NDArray[np.float64] | None = None,
    *,
    gap_mm: float | None = None,
    judge: Judge | None = None,
) -> Grouping:
    """Group parts into images.

    Parameters
    ----------
    parts : sequence of (n, 2) float, mm
        Outer contour of each part.
    inks : (n, 2) float, mm2 and mm, or None
        Ink of each part, and the length of its border with that of its holes; None for parts that are filled.
    gap_mm : float or None
        Parts nearer than this belong together; None lets the page decide.
    judge : callable or None
        How likely companies are of one image; None takes what ships with the program.

    Notes
    -----
    Lines of glyphs are told first and are images of their own. A part inside the hull of another belongs to it. The
    rest grows together: of all neighbouring companies the likeliest to be one image are joined, and their neighbours
    judged anew, until none is more likely one than two. What is likely is learnt: gaps are held against the sizes of
    both, against the gaps within them and to all others near, and against the page's usual sizes and pauses; likeness,
    alignment, evenness, the lines they are drawn with, and the room that others take in between count as well
    (`signs`). The page is looked at twice: what the first look has grouped tells the second how large the page's
    images are. About n log n for n parts.
    """
    if not parts:
        return Grouping((), frozenset(), gap_mm or PLAIN_GAP_MM)
    lines = np.array([_line(points) for points in parts], dtype=object)
    boxes = shapely.bounds(lines)
    spans = np.maximum(boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1])
    real = np.flatnonzero(spans >= DUST_MM)
    if gap_mm is None and len(real) > MANY_PARTS:
        gap_mm = BROKEN_GAP_MM
    hulls = shapely.convex_hull(lines)
    pairs = near_pairs(lines, hulls, real, LOOK_MM if gap_mm is None else gap_mm)
    if gap_mm is None:
        pairs = fewer_pairs(pairs, len(parts))
        pairs = msgspec.structs.replace(pairs, facing=facing_of(parts, pairs))
    start = _tell_what_is_sure(boxes, hulls, pairs, real, _filled(lines) if inks is None else inks)
    companies = _look_twice(start, judge or judge_by_signs) if gap_mm is None else _join_by_distance(start, gap_mm)
    _take_in_crumbs(companies, start.closed(companies))
    kept, reach = _that_are_images(companies)
    _take_in_dust(kept, hulls, np.flatnonzero(spans < DUST_MM))
    groups = tuple(tuple(members) for members in kept)
    return Grouping(groups, start.greetings_in(kept), reach if gap_mm is None else gap_mm)


def _take_in_crumbs(companies: Companies, closed: set[int]) -> None:
    """Join what a blotchy impression has broken off to the nearest image, the nearest first."""
    crumbs = {
        lead for lead, one in companies.members.items() if one.span_mm < LEAST_IMAGE_MM and one.ink_mm2 >= CRUMB_INK_MM2
    }
    images = {lead for lead, one in companies.members.items() if one.span_mm >= LEAST_IMAGE_MM} - closed

    def near(lead: int) -> list[tuple[float, int, int]]:
        """List what may be a crumb of an image."""
        whole = companies.members[lead]
        return [
            (other.gap_mm, crumb, lead)
            for crumb, other in companies.near[lead].items()
            if crumb in crumbs
            and other.gap_mm <= _crumb_reach_mm(companies.members[crumb].ink_mm2)
            and companies.members[crumb].line_mm >= CRUMB_LINE * whole.line_mm
        ]

    queue = [found for lead in images for found in near(lead)]
    heapq.heapify(queue)
    while queue:
        _, crumb, lead = heapq.heappop(queue)
        if crumb in crumbs:
            crumbs.remove(crumb)
            lead = companies.join(companies.lead(lead), crumb)
            for found in near(lead):
                heapq.heappush(queue, found)


def _crumb_reach_mm(ink_mm2: float) -> float:
    return CRUMB_NEAR_MM if ink_mm2 < LARGE_CRUMB_MM2 else LARGE_CRUMB_NEAR_MM


def _that_are_images(companies: Companies) -> tuple[list[list[int]], float]:
    """Return the parts of each company that is no speck, in order, and the widest gap bridged within one, mm."""
    large = [one for one in companies.members.values() if one.span_mm >= LEAST_IMAGE_MM]
    return sorted(sorted(one.parts) for one in large), max([PLAIN_GAP_MM, *(one.inner_mm for one in large)])


class Start(msgspec.Struct, frozen=True):
    """A page's parts, before anything is weighed: who are near, who are together for sure, and the lines of words."""

    boxes: NDArray[np.float64]
    corners: list[Hull]
    pairs: Pairs
    real: NDArray[np.int64]
    sure: list[tuple[int, int]]
    words: list[list[int]]
    inks: NDArray[np.float64]

    def begin(self) -> Companies:
        """Set up companies anew."""
        companies = Companies(self.boxes, self.corners, self.inks, self.pairs.listed())
        for part in self.real.tolist():
            companies.stand(part)
        for a, b in self.sure:
            _join(companies, a, b, is_nested=True)
        return companies

    def greetings_in(self, groups: Sequence[Sequence[int]]) -> frozenset[int]:
        """Which of some groups of parts are lines of words."""
        glyphs = {index for line in self.words for index in line}
        return frozenset(index for index, members in enumerate(groups) if members[0] in glyphs)

    def closed(self, companies: Companies) -> set[int]:
        """Companies that are lines of words: nothing joins them."""
        return {companies.lead(line[0]) for line in self.words}


def _tell_what_is_sure(
    boxes: NDArray[np.float64],
    hulls: NDArray[np.object_],
    pairs: Pairs,
    real: NDArray[np.int64],
    inks: NDArray[np.float64],
) -> Start:
    """Find lines of glyphs, and parts that lie within others."""
    spans = np.maximum(boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1])
    nested = list(pairs.only(pairs.nested).listed())
    inner = {a if spans[a] < spans[b] else b for a, b, _ in nested}
    words = [list(line) for line in find_lines(boxes, [index for index in real.tolist() if index not in inner])]
    in_words = frozenset(index for line in words for index in line)
    sure = [(line[0], index) for line in words for index in line[1:]]
    sure += [(a, b) for a, b, _ in nested if not (a in in_words and b in in_words)]
    corners = [np.asarray(shapely.get_coordinates(hull), np.float32) for hull in hulls]
    return Start(boxes, corners, pairs, real, sure, words, inks)


def judge_by_signs(companies: Companies, pairs: Sequence[tuple[int, int]]) -> Sequence[float]:
    """Judge as was learnt."""
    chances: list[float] = shipped()(np.array([signs(companies, a, b) for a, b in pairs])).tolist()
    return chances


def _join(companies: Companies, a: int, b: int, *, is_nested: bool = False) -> None:
    low, high = companies.lead(a), companies.lead(b)
    if low != high:
        companies.join(low, high, is_nested=is_nested)


def _join_by_distance(start: Start, gap_mm: float) -> Companies:
    """Join all that is nearer to each other than a gap."""
    companies = start.begin()
    closed = start.closed(companies)
    for a, b, near in start.pairs.listed():
        if near.gap_mm <= gap_mm and not closed & {companies.lead(a), companies.lead(b)}:
            _join(companies, a, b)
    return companies


def _look_twice(start: Start, judge: Judge) -> Companies:
    """Group a page, learn from that how large its images are and how far from each other, and group it anew."""
    companies = start.begin()
    for is_second in (False, True):
        page = companies.survey(start.closed(companies))
        companies = start.begin()
        companies.page = page._replace(is_second=is_second)
        _join_likely(companies, start.closed(companies), judge)
    return companies


def _join_likely(companies: Companies, closed: set[int], judge: Judge) -> None:
    """Join the likeliest pair of companies, judge its neighbours anew, and go on until no pair is likely one."""
    ages = dict.fromkeys(companies.members, 0)
    queue: list[tuple[float, int, int, int, int]] = []

    def ask(pairs: Sequence[tuple[int, int]]) -> None:
        if pairs:
            for (a, b), chance in zip(pairs, judge(companies, pairs), strict=True):
                if chance >= LIKELY:
                    heapq.heappush(queue, (-chance, a, b, ages[a], ages[b]))

    ask([(a, b) for a, b in companies.pairs() if not closed & {a, b} and companies.may_join(a, b)])
    while queue:
        _, a, b, age_a, age_b = heapq.heappop(queue)
        if ages.get(a) != age_a or ages.get(b) != age_b:
            continue  # one of them has grown, or gone, since it was judged
        lead = companies.join(a, b)
        ages[a + b - lead] = -1
        ages[lead] += 1
        near = [other for other in companies.near[lead] if other not in closed]
        ask([(lead, other) for other in near if companies.may_join(lead, other)])


def _line(points: NDArray[np.float64]) -> shapely.Geometry:
    if len(points) < 3:
        return shapely.MultiPoint(points)
    return shapely.LinearRing(points)


def _filled(lines: NDArray[np.object_]) -> NDArray[np.float64]:
    """Ink and border of parts without holes."""
    areas = [shapely.Polygon(line).area if line.geom_type == "LinearRing" else 0.0 for line in lines]
    return np.stack([np.array(areas), shapely.length(lines)], axis=1)


def _take_in_dust(groups: list[list[int]], hulls: NDArray[np.object_], dust: NDArray[np.int64]) -> None:
    """Give each group the tiny parts that lie within its hull: they may be eyes; outside they are dust."""
    if not groups or not len(dust):
        return
    bodies = [shapely.convex_hull(shapely.GeometryCollection([hulls[index] for index in group])) for group in groups]
    inside, which = shapely.STRtree(hulls[dust]).query(bodies, predicate="contains")
    for group, speck in zip(inside.tolist(), which.tolist(), strict=True):
        groups[group].append(int(dust[speck]))
