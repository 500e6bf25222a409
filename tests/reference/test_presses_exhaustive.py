"""Presses and masks against an exhaustive search written apart from the planner.

The definitions are those of the shell interface's documentation (docs/shell.md). The search tries every assignment of
presses and every way to share masks, on scenes small enough for it. The lower bound on presses is Mirsky's theorem
(L. Mirsky, A dual of Dilworth's decomposition theorem, American Mathematical Monthly 78, 1971): the longest chain.
"""

import itertools
import random
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely.affinity import rotate, translate

from fair_thicket.masks import Problem, Stamping, plan_problem, pose_bare
from making import some_of

SHAPES = [
    ((0, 0), (14, 0), (14, 10), (0, 10)),
    ((0, 0), (18, 4), (10, 16), (4, 9)),
    ((0, 0), (9, 0), (9, 9), (20, 9), (20, 14), (0, 14)),
]
Scene = tuple[list[tuple[str, str, shapely.Polygon]], dict[str, int]]


def random_scene(seed: int, most: int) -> Scene:
    chance = random.Random(seed)
    kinds = [f"s{k}" for k in range(chance.randint(1, 4))]
    shapes = {kind: shapely.Polygon(chance.choice(SHAPES)) for kind in kinds}
    impressions = []
    for number in range(chance.randint(2, most)):
        kind = chance.choice(kinds)
        placed = rotate(shapes[kind], chance.choice([0, 15, 90, 180, 200]), origin=(0, 0))
        placed = translate(placed, chance.uniform(0, 55), chance.uniform(0, 40))
        impressions.append((f"i{number}", kind, placed))
    return impressions, {kind: 2 for kind in kinds if chance.random() < 0.2}


def as_bare(scene: Scene):
    impressions, copies = scene
    rows = [(key, kind, tuple(area.exterior.coords[:-1]), ()) for key, kind, area in impressions]
    return pose_bare(rows, copies)


class Exhaustive:
    """Tries everything. Its own geometry: plain shapely on the same polygons, stretches by fine sampling."""

    samples = 4000

    def __init__(self, scene: Scene) -> None:
        self.impressions, self.copies = scene
        count = len(self.impressions)
        areas = [area for _, _, area in self.impressions]
        self.over = [
            [j for j in range(i + 1, count) if areas[i].intersection(areas[j]).area > 0.05] for i in range(count)
        ]
        self.near: list[frozenset[int]] = []
        for i, behind in enumerate(self.over):
            reach = shapely.union_all([areas[j].buffer(3.0, quad_segs=64) for j in behind])
            self.near.append(_samples_within(areas[i], reach, self.samples) if behind else frozenset())

    def schedules(self, presses: int) -> Iterator[tuple[int, ...]]:
        """Every press for every impression that paper allows."""
        count = len(self.impressions)

        def extend(times: list[int]) -> Iterator[tuple[int, ...]]:
            j = len(times)
            if j == count:
                yield tuple(times)
                return
            kind = self.impressions[j][1]
            earliest = max((times[i] + 1 for i in range(j) if j in self.over[i]), default=0)
            for press in range(earliest, presses):
                same = sum(times[i] == press and self.impressions[i][1] == kind for i in range(j))
                if same < self.copies.get(kind, 1):
                    yield from extend([*times, press])

        return extend([])

    def fewest(self) -> int:
        return next(k for k in itertools.count(1) if next(self.schedules(k), None) is not None)

    def best(self) -> tuple[int, float, int, int]:
        presses = self.fewest()
        return min((presses, *self.masks(times), self.pile(times)) for times in set(self.schedules(presses)))

    def pile(self, times: Sequence[int]) -> int:
        """Most masks over one spot under any stamp: masks of all that is stamped already and stands in front of it."""
        deepest = 0
        for j, (_, _, area) in enumerate(self.impressions):
            lying = [i for i in range(len(self.impressions)) if j in self.over[i] and times[i] < times[j]]
            for size in range(deepest + 1, len(lying) + 1):
                for group in itertools.combinations(lying, size):
                    common = area
                    for i in group:
                        common = common.intersection(self.impressions[i][2])
                    if common.area > 0.05:
                        deepest = size
                        break
        return deepest

    def masks(self, times: Sequence[int]) -> tuple[float, int]:
        """Least careful length, then least placements, for given presses: stamp by stamp, all partitions."""
        careful, placements = 0.0, 0
        for kind in {kind for _, kind, _ in self.impressions}:
            members = [i for i, (_, own, _) in enumerate(self.impressions) if own == kind and self.over[i]]
            options = [self.cost(groups, times) for groups in partitions(members)]
            best = min(option for option in options if option is not None)
            careful, placements = careful + best[0], placements + best[1]
        return careful, placements

    def cost(self, groups: list[list[int]], times: Sequence[int]) -> tuple[float, int] | None:
        careful, placements = 0.0, 0
        for group in groups:
            needs = sorted((times[j], i) for i in group for j in set(self.over[i]))
            needs = sorted(set(needs))
            if any(a[0] == b[0] and a[1] != b[1] for a, b in itertools.combinations(needs, 2)):
                return None
            placements += sum(k == 0 or needs[k - 1][1] != i for k, (_, i) in enumerate(needs))
            near = frozenset().union(*(self.near[i] for i in group))
            careful += len(near) / self.samples * self.impressions[group[0]][2].exterior.length
        return round(careful, 9), placements


def _samples_within(area: shapely.Polygon, reach: shapely.Geometry, samples: int) -> frozenset[int]:
    """Which of evenly spaced places along an edge lie within reach."""
    corners = np.asarray(area.exterior.coords)
    far = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(corners, axis=0).T))])
    steps = (np.arange(samples) + 0.5) / samples * far[-1]
    shapely.prepare(reach)
    inside = shapely.contains_xy(reach, np.interp(steps, far, corners[:, 0]), np.interp(steps, far, corners[:, 1]))
    return frozenset(np.flatnonzero(inside).tolist())


def partitions(members: list[int]) -> Iterator[list[list[int]]]:
    if not members:
        yield []
        return
    first, rest = members[0], members[1:]
    for smaller in partitions(rest):
        for k in range(len(smaller)):
            yield [*smaller[:k], [first, *smaller[k]], *smaller[k + 1 :]]
        yield [[first], *smaller]


@pytest.mark.parametrize("block", some_of(10))
def test_the_plan_equals_an_exhaustive_search_on_fifty_random_scenes(block: int) -> None:
    for seed in range(block * 50, block * 50 + 50):
        scene = random_scene(seed, 7)
        made = plan_problem(as_bare(scene), seconds=60)
        presses, careful, placements, pile = Exhaustive(scene).best()
        assert made.optimal, seed
        assert len(made.presses) == presses, seed
        assert made.careful_mm == pytest.approx(careful, abs=0.15), seed  # the search samples every 0.02 mm
        assert made.placements == placements, seed
        assert made.deepest_pile == pile, seed


def test_every_plan_obeys_the_laws_of_paper() -> None:
    for seed in range(300, 360):
        scene = random_scene(seed, 12)
        impressions, copies = scene
        made = plan_problem(as_bare(scene), seconds=60)
        where = {key: p for p, press in enumerate(made.presses) for key in press.impressions}
        assert sorted(where) == sorted(key for key, _, _ in impressions)
        for (i, (front, _, area)), (j, (back, _, other)) in itertools.combinations(enumerate(impressions), 2):
            assert i < j
            if area.intersection(other).area > 0.05:
                assert where[front] < where[back]
                assert front in made.presses[where[back]].masked
        for press in made.presses:
            kinds = [kind for key, kind, _ in impressions if key in press.impressions]
            assert all(kinds.count(kind) <= copies.get(kind, 1) for kind in kinds)
            for mask in made.masks:
                assert sum(key in press.masked for key in mask.serves) <= 1


def longest_chain(impressions: Sequence[tuple[str, str, shapely.Polygon]]) -> int:
    """Longest chain of overlaps, front to back, by plain recursion over pairs."""
    areas = [area for _, _, area in impressions]
    best = [1] * len(areas)
    for j in range(len(areas)):
        for i in range(j):
            if areas[i].intersection(areas[j]).area > 0.05:
                best[j] = max(best[j], best[i] + 1)
    return max(best, default=0)


def wide_scene(seed: int, count: int) -> Scene:
    """Scatter impressions of eight stamps over a panel that grows with their number."""
    chance = random.Random(seed)
    shapes = {f"s{k}": shapely.Polygon(chance.choice(SHAPES)) for k in range(8)}
    side = 55 * (count / 10) ** 0.5
    impressions = []
    for number in range(count):
        kind = chance.choice(list(shapes))
        placed = rotate(shapes[kind], chance.choice([0, 15, 90, 180, 200]), origin=(0, 0))
        placed = translate(placed, chance.uniform(0, side), chance.uniform(0, side * 0.75))
        impressions.append((f"i{number}", kind, placed))
    return impressions, {}


@pytest.mark.parametrize("block", some_of(5))
def test_thirty_impressions_take_the_longest_chain_or_repeats_of_a_stamp_are_proven_to_be_why_not(block: int) -> None:
    for seed in range(600 + block * 10, 610 + block * 10):
        impressions, _ = wide_scene(seed, 30)
        made = plan_problem(as_bare((impressions, {})), seconds=60)
        chain = longest_chain(impressions)
        assert made.optimal
        assert len(made.presses) == made.fewest_presses
        if len(made.presses) > chain:
            # with a copy of its own for every impression the chain alone decides: the repeats were the reason
            plenty = plan_problem(as_bare((impressions, {f"s{k}": 30 for k in range(8)})), seconds=60)
            assert len(plenty.presses) == chain, seed
        else:
            assert len(made.presses) == chain, seed


class WithWash(Exhaustive):
    """The same search with a wash: coloured impressions lie under masks once more, after all presses."""

    def __init__(self, scene: Scene, wash: shapely.Polygon, coloured: set[int]) -> None:
        super().__init__(scene)
        self.inked = {i for i in coloured if self.impressions[i][2].intersection(wash).area > 0.05}
        for i in self.inked:
            self.near[i] |= _samples_within(self.impressions[i][2], wash.buffer(3.0, quad_segs=64), self.samples)

    def masks(self, times: Sequence[int]) -> tuple[float, int]:
        careful, placements = 0.0, 0
        for kind in {kind for _, kind, _ in self.impressions}:
            members = [
                i for i, (_, own, _) in enumerate(self.impressions) if own == kind and (self.over[i] or i in self.inked)
            ]
            best = min(cost for groups in partitions(members) if (cost := self.cost(groups, times)) is not None)
            careful, placements = careful + best[0], placements + best[1]
        return careful, placements

    def cost(self, groups: list[list[int]], times: Sequence[int]) -> tuple[float, int] | None:
        careful, placements = 0.0, 0
        for group in groups:
            needs = {(times[j], i) for i in group for j in self.over[i]} | {(99, i) for i in group if i in self.inked}
            if len({time for time, _ in needs}) < len(needs):
                return None
            turns = [i for _, i in sorted(needs)]
            placements += sum(k == 0 or turns[k - 1] != i for k, i in enumerate(turns))
            near = frozenset().union(*(self.near[i] for i in group))
            careful += len(near) / self.samples * self.impressions[group[0]][2].exterior.length
        return round(careful, 9), placements


@pytest.mark.parametrize("block", range(4))
def test_plans_with_a_wash_equal_an_exhaustive_search(block: int) -> None:
    for seed in range(700 + block * 10, 710 + block * 10):
        scene = random_scene(seed, 6)
        chance = random.Random(seed)
        wash = shapely.box(0, 0, chance.uniform(20, 75), chance.uniform(15, 60))
        coloured = {i for i in range(len(scene[0])) if chance.random() < 0.5}
        bare = as_bare(scene)
        stampings = tuple(replace(one, shuns_wash=i in coloured) for i, one in enumerate(bare.stampings))
        sky = Stamping("sky", "sky", np.empty((0, 2)), wash, is_wash=True)
        made = plan_problem(Problem((*stampings, sky), bare.copies), seconds=60)
        presses, careful, placements, pile = WithWash(scene, wash, coloured).best()
        assert made.optimal, seed
        assert (made.press_count, made.placements, made.deepest_pile) == (presses, placements, pile), seed
        assert made.careful_mm == pytest.approx(careful, abs=0.15), seed
        assert made.presses[-1].is_ink
