"""Which parts on a page lie near each other, and how.

Glossary
--------
part
    A connected bit of ink, by its outer contour.
gap
    Least distance between two parts.
facing
    How much of the outlines of two parts is about as near as the gap: much between halves of a leaf, little between two
    images that lie beside each other.
"""

from collections.abc import Iterable, Sequence

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import minimum_spanning_tree
from scipy.spatial import cKDTree
from shapely.geometry.base import BaseGeometry

from fair_thicket.intake.companies import FACING_MM, LEAST_MM, MOST_GAP_MM, Near

DOT_MM = 0.4
"""Outlines are compared in points so far apart."""
MOST_NEIGHBOURS = 12
"""Of each part, at the most, the nearest first: on a page full of specks every other is near."""


class Pairs(msgspec.Struct, frozen=True):
    """Pairs of parts near each other, ascending by gap.

    Attributes
    ----------
    first, second : (n,) int
    gaps : (n,) float, mm
    nested : (n,) bool
        One lies (mostly) within the hull of the other.
    facing : (n,) float, mm
        How much of their outlines is about as near as the gap.
    """

    first: NDArray[np.int64]
    second: NDArray[np.int64]
    gaps: NDArray[np.float64]
    nested: NDArray[np.bool_]
    facing: NDArray[np.float64]

    def only(self, wanted: NDArray[np.bool_]) -> "Pairs":
        """Leave out the others."""
        first, second, gaps, nested = self.first[wanted], self.second[wanted], self.gaps[wanted], self.nested[wanted]
        return Pairs(first, second, gaps, nested, self.facing[wanted])

    def listed(self) -> Iterable[tuple[int, int, Near]]:
        """Return them one by one."""
        first, second = self.first.tolist(), self.second.tolist()
        nears = map(Near, self.gaps.tolist(), self.facing.tolist(), zip(first, second, strict=True))
        return zip(first, second, nears, strict=True)


def near_pairs(
    lines: NDArray[np.object_], hulls: NDArray[np.object_], real: NDArray[np.int64], look_mm: float
) -> Pairs:
    """Pairs that lie near each other or one round the other."""
    shapes = lines[real]
    near = shapely.STRtree(shapes).query(shapes, predicate="dwithin", distance=look_mm)
    round_it = shapely.STRtree(hulls[real]).query(hulls[real], predicate="intersects")
    pairs = np.unique(np.concatenate([near, round_it], axis=1), axis=1)
    a, b = pairs[:, pairs[0] < pairs[1]]
    gaps = shapely.distance(shapes[a], shapes[b])
    order = np.argsort(gaps, kind="stable")
    first, second = real[a][order], real[b][order]
    nested = np.array([_nests(hulls[a], hulls[b]) for a, b in zip(first, second, strict=True)], dtype=bool)
    return Pairs(first, second, np.asarray(gaps[order], np.float64), nested, np.zeros(len(first)))


def facing_of(parts: Sequence[NDArray[np.float64]], pairs: Pairs) -> NDArray[np.float64]:
    """How much of the outlines of two parts, of whichever shows less, is about as near the other as can be, mm."""
    found = np.zeros(len(pairs.gaps))
    near = np.flatnonzero((pairs.gaps <= MOST_GAP_MM) & ~pairs.nested)
    asked = set(pairs.first[near].tolist()) | set(pairs.second[near].tolist())
    dots = {part: _dotted(parts[part]) for part in asked}
    trees = {part: cKDTree(points) for part, points in dots.items()}
    for number in near.tolist():
        a, b = int(pairs.first[number]), int(pairs.second[number])
        reach = pairs.gaps[number] + FACING_MM
        faces = [
            np.isfinite(trees[one].query(dots[other], distance_upper_bound=reach)[0]).sum()
            for one, other in ((a, b), (b, a))
        ]
        found[number] = DOT_MM * min(faces)
    return found


def _dotted(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Put points along an outline, `DOT_MM` apart."""
    ring = np.concatenate([points, points[:1]])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(ring, axis=0).T))])
    stops = np.arange(0, max(along[-1], DOT_MM), DOT_MM)
    return np.stack([np.interp(stops, along, ring[:, 0]), np.interp(stops, along, ring[:, 1])], axis=1)


def fewer_pairs(pairs: Pairs, count: int) -> Pairs:
    """Leave each part its nearest neighbours, and what a tree that spans them all needs."""
    taken = np.zeros(count, np.int64)
    kept = pairs.nested.copy()
    for number, (a, b, _) in enumerate(pairs.listed()):
        if taken[a] < MOST_NEIGHBOURS or taken[b] < MOST_NEIGHBOURS:
            kept[number] = True
            taken[a] += 1
            taken[b] += 1
    graph = coo_array((np.maximum(pairs.gaps, LEAST_MM), (pairs.first, pairs.second)), shape=(count, count))
    tree = minimum_spanning_tree(graph.tocsr()).tocoo()
    needed = set(zip(tree.row.tolist(), tree.col.tolist(), strict=True))
    kept |= np.array([(a, b) in needed or (b, a) in needed for a, b, _ in pairs.listed()], dtype=bool)
    return pairs.only(kept)


def _nests(hull: BaseGeometry, other: BaseGeometry) -> bool:
    """Say whether one part lies (mostly) within the hull of the other, as an eye in a face or a drop under a cloud."""
    small, large = sorted((hull, other), key=lambda shape: shape.area)
    if small.area <= 0:
        return bool(large.intersects(small))
    return bool(shapely.intersection(small, large).area > 0.5 * small.area)
