"""The order of fetching markers against trying every order."""

import itertools

import numpy as np
import pytest

from fair_thicket.colour.fetching import fetch_order
from fair_thicket.colour.listing import _fetch, laid_in_order
from fair_thicket.model.colouring import ColouredPart, Shade


def serves(row: tuple[str, ...], run: tuple[str, ...]) -> bool:
    """Whether a run is found in a row, in its order."""
    rest = iter(row)
    return all(mark in rest for mark in run)


def least_by_trying(runs: list[tuple[str, ...]]) -> int:
    """Length of the shortest row, by trying all rows of every length."""
    marks = sorted({mark for run in runs for mark in run})
    for length in itertools.count(len(marks)):
        if any(all(serves(row, run) for run in runs) for row in itertools.product(marks, repeat=length)):
            return length
    raise AssertionError


@pytest.mark.parametrize("seed", range(200))
def test_no_order_needs_fewer_fetches(seed: int) -> None:
    chance = np.random.default_rng(seed)
    marks = "abcd"[: int(chance.integers(2, 5))]
    runs = [
        tuple(chance.permutation(list(marks))[: int(chance.integers(1, len(marks) + 1))].tolist())
        for _ in range(int(chance.integers(1, 4)))
    ]
    row, is_least = fetch_order(runs)
    assert is_least
    assert all(serves(row, run) for run in runs)
    assert len(row) == least_by_trying(runs)


def test_runs_from_dark_to_light_take_each_marker_once() -> None:
    row, is_least = fetch_order([("fern 4", "fern 3", "fern 2"), ("fern 3", "fern 1"), ("fern 4", "fern 2", "fern 1")])
    assert is_least
    assert sorted(row) == ["fern 1", "fern 2", "fern 3", "fern 4"]
    assert fetch_order([]) == ((), True)


def test_shades_are_laid_undertone_first_and_dots_last_dark_or_light_first() -> None:
    run = tuple(Shade(colour) for colour in ("#111111", "#444444", "#777777", "#aaaaaa"))
    under, dots = Shade("#ffeedd"), Shade("#553311")
    part = ColouredPart((1,), run, undertone=under, dots=dots)
    assert laid_in_order(part, "dark first") == (under, *run, dots)
    assert laid_in_order(part, "light first") == (under, *reversed(run), dots)
    assert laid_in_order(ColouredPart((1,), run), "light first") == tuple(reversed(run))


def test_minutes_of_a_fetch_are_those_of_fetching_and_of_the_parts_areas() -> None:
    """A run of three over 300 mm2: each shade is fetched in 1/4 min and laid at 90 mm2 a minute, 1.4 times a third."""
    run = tuple(Shade(colour) for colour in ("#111111", "#777777", "#dddddd"))
    lines, is_least = _fetch({("a", 0): run}, {("a", 0): 300.0}, {})
    assert is_least
    assert [line.shade for line in lines] == list(run)
    assert [line.minutes for line in lines] == pytest.approx([0.25 + 300 / 90 / 3 * 1.4] * 3)
    (small,) = _fetch({("a", 0): run[:1]}, {("a", 0): 1.0}, {})[0]
    assert small.minutes == pytest.approx(0.25 + 0.1), "a tiny part takes its least time"
    both, _ = _fetch({("a", 0): run[:1], ("b", 0): run[:1]}, {("a", 0): 90.0, ("b", 0): 180.0}, {})
    assert [line.minutes for line in both] == pytest.approx([0.25 + 1.4 + 2.8])
