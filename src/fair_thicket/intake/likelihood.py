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

TREES = "grouping_trees.zip"
"""Arrays as NumPy keeps them in an archive."""
MOST_LEAVES = 32
ALL_LEAVES = (1 << MOST_LEAVES) - 1


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

    Notes
    -----
    No tree is walked. Every node that sends a row on to its second child rules out the leaves under its first; of the
    leaves that are left the first is where the row ends (C. Lucchese and others, QuickScorer, 2015). All nodes of all
    trees are asked at once, and a tree's leaves are the bits of one number.
    """

    def __init__(
        self,
        sign: NDArray[np.int64],
        least: NDArray[np.float64],
        child: NDArray[np.int64],
        value: NDArray[np.float64],
        *,
        start: float,
    ) -> None:
        self._start = start
        trees = np.arange(len(sign))[:, None]
        is_leaf = np.isinf(least)
        first, second = child[:, :, 0], child[:, :, 1]
        count = is_leaf.astype(np.int64)  # leaves under each node; counted from the leaves up, a level a pass
        begin = np.zeros_like(count)  # which leaf comes first under it, those of first children before the others
        for _ in range(sign.shape[1]):
            grown = np.where(is_leaf, 1, count[trees, first] + count[trees, second])
            if np.array_equal(grown, count):
                break
            count = grown
        if count[:, 0].max(initial=0) > MOST_LEAVES:
            raise ValueError(f"A tree has {count[:, 0].max()} leaves; {MOST_LEAVES} are the most.")
        level = np.zeros(is_leaf.shape, bool)
        level[:, 0] = True
        is_reached = level.copy()  # what stands behind a tree's last node only fills the table
        while (level & ~is_leaf).any():
            tree, node = np.nonzero(level & ~is_leaf)
            level = np.zeros_like(level)
            one, other = first[tree, node], second[tree, node]
            begin[tree, one], begin[tree, other] = begin[tree, node], begin[tree, node] + count[tree, one]
            level[tree, one] = level[tree, other] = True
            is_reached |= level
        under_first = ((np.uint64(1) << count[trees, first].astype(np.uint64)) - np.uint64(1)) << begin.astype(
            np.uint64
        )
        most = max(1, int((~is_leaf).sum(axis=1).max(initial=0)))
        inner = np.argsort(is_leaf, axis=1, kind="stable")[:, :most]  # those that ask something
        # nodes first, so that all trees are put together at once
        self._sign = np.ascontiguousarray(sign[trees, inner].T, np.int32)
        self._least = np.ascontiguousarray(least[trees, inner].T, np.float32)  # as exact as what they were learnt from
        self._kept = np.ascontiguousarray((~under_first[trees, inner]).T.astype(np.uint32))
        self._value = np.zeros((len(sign), MOST_LEAVES))
        tree, node = np.nonzero(is_leaf & is_reached)
        self._value[tree, begin[tree, node]] = value[tree, node]
        self._trees = trees.T

    @classmethod
    def of(cls, table: Mapping[str, NDArray[Any]]) -> "Trees":
        """Make trees of what stands in a file, each table under its name."""
        return cls(
            table["sign"].astype(np.int64),
            table["least"].astype(np.float64),
            table["child"].astype(np.int64),
            table["value"].astype(np.float64),
            start=float(table["start"]),
        )

    def __call__(self, signs: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return the likelihood 0..1 for each row of signs."""
        is_beyond = np.take(signs.astype(np.float32), self._sign, axis=1) > self._least
        left = np.bitwise_and.reduce(np.where(is_beyond, self._kept, np.uint32(ALL_LEAVES)), axis=1)
        first = left & (~left + np.uint32(1))  # the lowest bit alone
        leaves = np.frexp(first.astype(np.float64))[1] - 1
        log_odds = self._start + self._value[self._trees, leaves].sum(axis=1)
        return np.asarray(1 / (1 + np.exp(-log_odds)))


@cache
def shipped() -> Trees:
    """Return the trees that ship with the program."""
    with resources.as_file(resources.files(__package__) / TREES) as path, np.load(path, allow_pickle=False) as table:
        return Trees.of(table)
