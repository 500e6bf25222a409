"""The order of fetching markers against trying every order."""

import itertools

import numpy as np
import pytest

from fair_thicket.colour.fetching import fetch_order


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
