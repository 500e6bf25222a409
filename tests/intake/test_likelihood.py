"""The trees that say what is one image: all nodes asked at once come to the leaves that walking comes to."""

from collections.abc import Mapping
from importlib import resources

import numpy as np
import pytest

from fair_thicket.intake.likelihood import TREES, Trees, shipped
from fair_thicket.intake.signs import SIGNS


def walked(table: Mapping[str, np.ndarray], row: np.ndarray) -> float:
    """Log-odds of one row, tree by tree and step by step."""
    total = float(table["start"])
    for tree in range(len(table["sign"])):
        node = 0
        while np.isfinite(table["least"][tree, node]):
            is_beyond = row[table["sign"][tree, node]] > float(table["least"][tree, node])
            node = int(table["child"][tree, node, int(is_beyond)])
        total += float(table["value"][tree, node])
    return total


def test_what_ships_is_as_likely_as_walking_every_tree_says() -> None:
    with resources.as_file(resources.files("fair_thicket.intake") / TREES) as path, np.load(path) as file:
        table = {name: file[name] for name in file.files}
    rows = np.random.default_rng(4).normal(0, 1.5, (6, len(SIGNS)))
    expected = [1 / (1 + np.exp(-walked(table, row))) for row in rows]
    assert shipped()(rows) == pytest.approx(np.array(expected))
    assert len({round(value, 6) for value in expected}) == len(expected)


def test_a_tree_by_hand() -> None:
    """Is sign 0 above 2? If not, is sign 1 above -1? The numbers of the nodes are in no order."""
    inf = np.inf
    table = {
        "sign": np.array([[0, 0, 1, 0, 0, 0]]),
        "least": np.array([[2.0, inf, -1.0, inf, inf, inf]]),
        "child": np.array([[[2, 1], [1, 1], [4, 3], [3, 3], [4, 4], [0, 0]]]),
        "value": np.array([[0.0, 3.0, 0.0, 2.0, 1.0, 9.0]]),  # the last stands behind the tree
        "start": np.array(-1.0),
    }
    rows = np.array([[0.0, -1.0], [0.0, 0.0], [2.0, 5.0], [2.1, -5.0]])
    assert Trees.of(table)(rows) == pytest.approx(1 / (1 + np.exp(1 - np.array([1.0, 2.0, 2.0, 3.0]))))


def test_more_leaves_than_are_counted_are_refused() -> None:
    count = 33  # a chain: every node has a leaf first
    child = [[2 * k + 1, 2 * k + 2] if k < count - 1 else [0, 0] for k in range(count)]
    nodes = 2 * count - 1
    table = np.zeros((1, nodes, 2), np.int64)
    least = np.full((1, nodes), np.inf)
    for k in range(count - 1):
        table[0, 2 * k], least[0, 2 * k] = child[k], 0.0
    with pytest.raises(ValueError, match="33 leaves; 32 are the most"):
        Trees(np.zeros((1, nodes), np.int64), least, table, np.zeros((1, nodes)), start=0.0)
