"""Spanning against an exhaustive search written apart from it: every way of cutting and joining, on small dies.

The definitions are those of docs/shell.md: columns are sets of heights; at a joint one cut goes on under the other for
the overlap; a joint costs the differing edge over the window beside it, and what of the lower cut peeks out.
"""

import itertools
import random
from collections.abc import Iterator

import numpy as np
import pytest

from fair_thicket.backdrop import Joining, Profile, span
from making import some_of

Column = frozenset[int]
Seen = tuple[tuple[int, int, bool], ...]


def random_die(seed: int) -> list[Column]:
    """Columns of heights, some with holes, mostly a ragged edge over a foot."""
    dice = random.Random(seed)
    columns = []
    for _ in range(dice.randint(6, 9)):
        top = dice.randint(1, 5)
        column = set(range(top))
        if dice.random() < 0.3:
            column.discard(dice.randrange(top))
        columns.append(frozenset(column))
    return columns


def as_profile(columns: list[Column]) -> Profile:
    paper = np.array([[height in column for height in range(6)] for column in columns])
    return Profile(1.0, paper, np.ones(6))


class Search:
    """Tries everything."""

    def __init__(self, columns: list[Column], overlap: int, window: int, may_flip: bool) -> None:
        self.overlap, self.window = overlap, window
        self.ways = {False: columns, True: columns[::-1]} if may_flip else {False: columns}
        self.n = len(columns)

    def joint(self, left: tuple[int, bool], right: tuple[int, bool]) -> float | None:
        """Cost of the cheaper of the two ways to overlap; None where neither reaches."""
        (u, f), (v, g) = left, right
        found = []
        if u >= self.overlap and v >= self.overlap:  # the left cut on top
            pairs = [(self.ways[f][u - k], self.ways[g][v - k]) for k in range(1, self.overlap + 1)]
            found.append(self.cost(pairs, lower=1))
        if u + self.overlap <= self.n and v + self.overlap <= self.n:  # the right cut on top
            pairs = [(self.ways[f][u + k], self.ways[g][v + k]) for k in range(self.overlap)]
            found.append(self.cost(pairs, lower=0))
        return min(found, default=None)

    def cost(self, pairs: list[tuple[Column, Column]], *, lower: int) -> float:
        differ = sum(len(a ^ b) for a, b in pairs[: self.window])
        peek = sum(len(pair[lower] - pair[1 - lower]) for pair in pairs)
        return differ + peek

    def spans(self, wanted: int, count: int) -> Iterator[float]:
        """Cost of every way to reach with so many cuts, each seen for the overlap at least."""
        parts = [
            (low, high, way)
            for way in self.ways
            for low in range(self.n + 1)
            for high in range(low + self.overlap, self.n + 1)
        ]

        def extend(before: tuple[int, int, bool], reached: int, cost: float, left: int) -> Iterator[float]:
            if left == 0:
                if reached == wanted:
                    yield cost
                return
            for part in parts:
                total = reached + part[1] - part[0]
                if total <= wanted - (left - 1) * self.overlap:
                    joined = self.joint((before[1], before[2]), (part[0], part[2]))
                    if joined is not None:
                        yield from extend(part, total, cost + joined, left - 1)

        for part in parts:
            yield from extend(part, part[1] - part[0], 0.0, count - 1)

    def best(self, wanted: int) -> tuple[int, float]:
        for count in itertools.count(2):
            costs = list(self.spans(wanted, count))
            if costs:
                return count, min(costs)
        raise AssertionError


@pytest.mark.parametrize("block", some_of(10))
def test_two_hundred_random_dies_span_as_well_as_trying_everything(block: int) -> None:
    for seed in range(block * 20, block * 20 + 20):
        dice = random.Random(1000 + seed)
        columns = random_die(seed)
        overlap, window = dice.choice([(1, 1), (2, 1), (2, 2)])
        may_flip = dice.random() < 0.5
        wanted = len(columns) + dice.randint(1, len(columns) + (3 if seed % 4 == 0 else -3))
        found = span(as_profile(columns), float(wanted), Joining(may_flip, float(overlap), float(window)))
        count, cost = Search(columns, overlap, window, may_flip).best(wanted)
        assert (len(found.cuts), found.cost_mm2) == (count, pytest.approx(cost)), seed
        told = sum(joint.mismatch_mm * window + joint.peek_mm2 for joint in found.joints)
        assert told == pytest.approx(cost), seed


class HiddenSearch(Search):
    """Tries everything where some joints are hidden: both ends may be trimmed, so places matter."""

    def best_behind(self, wanted: int, count: int, hidden: list[tuple[int, int]]) -> float | None:
        def is_hidden(at: int) -> bool:
            return any(start + self.overlap <= at <= end - self.overlap for start, end in hidden)

        def extend(v: int, way: bool, at: int, cost: float, left: int) -> Iterator[float]:
            """A cut seen from v, beginning at a place; all that may follow."""
            if left == 1:
                if wanted - at >= self.overlap and v + wanted - at <= self.n:
                    yield cost
                return
            for u in range(v + self.overlap, self.n + 1):
                place = at + u - v
                if place > wanted - (left - 1) * self.overlap:
                    break
                for after in self.ways:
                    for begin in range(self.n + 1):
                        joined = self.joint((u, way), (begin, after))
                        if joined is not None:
                            free = 0.0 if is_hidden(place) else joined
                            yield from extend(begin, after, place, cost + free, left - 1)

        starts = [(low, way) for low in range(self.n) for way in self.ways]
        return min((cost for low, way in starts for cost in extend(low, way, 0, 0.0, count)), default=None)


@pytest.mark.parametrize("block", some_of(6))
def test_spans_behind_something_equal_trying_every_place(block: int) -> None:
    differ = 0
    for seed in range(block * 20, block * 20 + 20):
        dice = random.Random(7000 + seed)
        columns = random_die(seed)
        overlap, window = dice.choice([(1, 1), (2, 1)])
        may_flip = dice.random() < 0.5
        n = len(columns)
        wanted = n + dice.randint(1, n - 2 * overlap) if seed % 3 else 2 * n - overlap + dice.randint(1, 2)
        start = dice.randint(0, wanted - 2 * overlap - 1)
        hidden = [(start, min(wanted, start + 2 * overlap + dice.randint(0, 2)))]
        joining = Joining(may_flip, float(overlap), float(window))
        search = HiddenSearch(columns, overlap, window, may_flip)
        plain = span(as_profile(columns), float(wanted), joining)
        found = span(as_profile(columns), float(wanted), joining, [(float(a), float(b)) for a, b in hidden])
        assert len(found.cuts) == len(plain.cuts), seed
        assert found.cost_mm2 == pytest.approx(search.best_behind(wanted, len(found.cuts), hidden)), seed
        assert found.optimal
        differ += found.cost_mm2 < plain.cost_mm2 - 1e-9
    assert differ  # the hidden stretch did help somewhere
