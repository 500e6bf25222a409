"""How likely it is that two companies of parts are of one image: boosted trees, learnt from drawn pages.

The trees are the sum of many small ones (J. H. Friedman, Greedy function approximation, 2001), learnt by
`setup/learn_grouping.py` from pages of open drawings; that file tells which. Here they are only looked up.
"""

from collections.abc import Mapping
from functools import cache
from importlib import resources
from typing import Any

import numpy as np
from numpy.typing import NDArray

TREES = "grouping_trees.npz"


class Trees:
    """Trees as tables.

    Parameters
    ----------
    sign : (trees, nodes) int
        Which sign a node asks for.
    least : (trees, nodes) float
        Up to this value a node goes to its first child, else to its second; infinite at a leaf.
    child : (trees, nodes, 2) int
        A leaf's children are itself.
    value : (trees, nodes) float
        What a leaf adds to the log-odds.
    start : float
        Log-odds before any tree.
    depth : int
        Most steps from a root to a leaf.
    """

    def __init__(
        self,
        sign: NDArray[np.int64],
        least: NDArray[np.float64],
        child: NDArray[np.int64],
        value: NDArray[np.float64],
        *,
        start: float,
        depth: int,
    ) -> None:
        self._sign, self._least, self._child, self._value = sign, least, child, value
        self._start, self._depth = start, depth
        self._trees = np.arange(len(sign))[None, :]

    @classmethod
    def of(cls, table: Mapping[str, NDArray[Any]]) -> "Trees":
        """Make trees of what stands in a file, each table under its name."""
        return cls(
            table["sign"].astype(np.int64),
            table["least"].astype(np.float64),
            table["child"].astype(np.int64),
            table["value"].astype(np.float64),
            start=float(table["start"]),
            depth=int(table["depth"]),
        )

    def __call__(self, signs: NDArray[np.float64]) -> NDArray[np.float64]:
        """Give the likelihood 0..1 for each row of signs."""
        rows = np.arange(len(signs))[:, None]
        nodes = np.zeros((len(signs), len(self._sign)), np.int64)
        for _ in range(self._depth):
            is_beyond = signs[rows, self._sign[self._trees, nodes]] > self._least[self._trees, nodes]
            nodes = self._child[self._trees, nodes, is_beyond.astype(np.int64)]
        log_odds = self._start + self._value[self._trees, nodes].sum(axis=1)
        return np.asarray(1 / (1 + np.exp(-log_odds)))


@cache
def shipped() -> Trees:
    """Give the trees that ship with the program."""
    with resources.as_file(resources.files(__package__) / TREES) as path, np.load(path, allow_pickle=False) as table:
        return Trees.of(table)
