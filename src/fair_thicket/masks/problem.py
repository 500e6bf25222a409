"""The stamping problem, freed of everything that does not bear on it.

Glossary
--------
front of
    i stands in front of j: i's footprint overlaps j's and i comes first in the order. Then i is stamped in an earlier
    press, and lies under its mask while j is stamped.
needs cover
    An impression that something stands behind; it alone needs a mask.
reach
    The outline of i within 3 mm of what is stamped over it has to be cut with care. That set does not depend on
    the presses: everything behind i that overlaps it is stamped over its mask in any plan.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import shapely
from shapely.geometry.base import BaseGeometry

from fair_thicket.model.card import Work, stamping_keys
from fair_thicket.model.errors import SceneError
from fair_thicket.model.pieces import Impression
from fair_thicket.model.stash import Ring
from fair_thicket.model.tolerance import OVERLAP_MM2, REACH_MM
from fair_thicket.shape.outline import Area, FloatArray, placed_outline, to_area
from fair_thicket.shape.overlap import find_overlaps
from fair_thicket.shape.stack import stack
from fair_thicket.shape.stretch import Stretch, length_of, stretches_within


@dataclass(frozen=True)
class Stamping:
    """An impression as the plan sees it.

    Attributes
    ----------
    id, stamp : str
        Of the stamping, and of the rubber that makes it: each layer of a layered image has its own.
    piece, image : str
        Ids of the piece on the card and of its stamp in the stash.
    ring : (n, 2) float, mm
        Outer outline in place; impressions of one stamp list their vertices in the same order.
    area : Polygon or MultiPolygon
        Its footprint in place.
    """

    id: str
    stamp: str
    ring: FloatArray
    area: Area
    piece: str = ""
    image: str = ""


@dataclass(frozen=True)
class Problem:
    """Impressions from front to back, with how many there are of each stamp."""

    stampings: tuple[Stamping, ...]
    copies: Mapping[str, int]

    @cached_property
    def behind(self) -> tuple[tuple[int, ...], ...]:
        """For each impression the indices of those behind it that it overlaps: they are stamped over its mask.

        Of a layered image only the last layer counts: once it is stamped the whole image is masked.
        """
        lists: list[list[int]] = [[] for _ in self.stampings]
        for i, j in find_overlaps([one.area for one in self.stampings]):
            if not self.then[i] and not self._are_layers(i, j):
                lists[i].append(j)
        return tuple(tuple(sorted(entries)) for entries in lists)

    @cached_property
    def then(self) -> tuple[tuple[int, ...], ...]:
        """For each stamping the next layer of the same image, if there is one: it follows with nothing masked."""
        following = [(i + 1,) if self._are_layers(i, i + 1) else () for i in range(len(self.stampings) - 1)]
        return (*following, ()) if self.stampings else ()

    @cached_property
    def later(self) -> tuple[tuple[int, ...], ...]:
        """For each stamping all that must come in a later press."""
        return tuple((*behind, *then) for behind, then in zip(self.behind, self.then, strict=True))

    def _are_layers(self, i: int, j: int) -> bool:
        first, second = self.stampings[i], self.stampings[j]
        return bool(first.piece) and first.piece == second.piece

    @cached_property
    def careful(self) -> tuple[tuple[Stretch, ...], ...]:
        """For each impression the stretches of its outline that need careful cutting; empty when nothing is behind."""
        stretches = []
        for i, behind in enumerate(self.behind):
            if behind:
                reach = shapely.union_all(
                    [shapely.buffer(self.stampings[j].area, REACH_MM, quad_segs=32) for j in behind]
                )
                stretches.append(stretches_within(self.stampings[i].ring, reach))
            else:
                stretches.append(())
        return tuple(stretches)

    def outline_mm(self, index: int) -> float:
        """Whole length of an impression's outer outline, mm."""
        return length_of(self.stampings[index].ring)

    def copies_of(self, stamp: str) -> int:
        """How many of a stamp there are; one unless said otherwise."""
        return self.copies.get(stamp, 1)

    @cached_property
    def longest_chains(self) -> tuple[int, ...]:
        """For each impression the longest chain of overlaps that ends at it, itself included: its earliest press."""
        levels = [1] * len(self.stampings)
        for i, later in enumerate(self.later):  # front first: every level is final when it is read
            for j in later:
                levels[j] = max(levels[j], levels[i] + 1)
        return tuple(levels)


def surfaces_of(work: Work) -> tuple[str, ...]:
    """Keys of the surfaces that are stamped on, the card itself (an empty key) first."""
    found = dict.fromkeys(piece.on for piece in work.card.pieces if isinstance(piece, Impression))
    return tuple(sorted(found, key=lambda key: key != ""))


def pose(work: Work, surface: str | None = None) -> Problem:
    """Pose the problem of a card: its impressions front first, with their footprints.

    Parameters
    ----------
    work : Work
    surface : str or None
        Only what is stamped on this piece (empty: on the card itself); None for the first that is stamped on.
    """
    known = surfaces_of(work)
    if surface is None:
        surface = known[0] if known else ""
    stampings: list[Stamping] = []
    copies: dict[str, int] = {}
    areas = {leaf.piece.id: leaf.whole for leaf in stack(work)}
    for piece in reversed(work.card.pieces):
        if not isinstance(piece, Impression) or piece.on != surface:
            continue
        stamp = work.stash.find(piece.stamp)
        ring, area = placed_outline(piece, stamp), areas[piece.id]
        for key in stamping_keys(piece, stamp):
            rubber = stamp.id + key.removeprefix(piece.id)
            stampings.append(Stamping(key, rubber, ring, area, piece.id, stamp.id))
            copies[rubber] = stamp.copies
    return Problem(tuple(stampings), copies)


def pose_bare(impressions: Sequence[tuple[str, str, Ring, Sequence[Ring]]], copies: Mapping[str, int]) -> Problem:
    """Pose the problem of bare outlines.

    Parameters
    ----------
    impressions : sequence of (id, stamp, outline, holes)
        Front first, outlines in place, mm.
    copies : mapping of stamp to number owned

    Raises
    ------
    SceneError
        When impressions of one stamp have different numbers of vertices: no stretch of one could be found on another.
    """
    stampings: list[Stamping] = []
    first_of: dict[str, Stamping] = {}
    for key, stamp, ring, holes in impressions:
        area = to_area(ring, holes)
        points = placed_ring(ring)
        one = Stamping(key, stamp, points, area)
        twin = first_of.setdefault(stamp, one)
        if len(twin.ring) != len(points):
            raise SceneError(
                f"Impressions “{twin.id}” and “{key}” are of the stamp “{stamp}”, but their outlines have "
                f"{len(twin.ring)} and {len(points)} vertices; give both the same vertices in the same order."
            )
        stampings.append(one)
    return Problem(tuple(stampings), dict(copies))


def placed_ring(ring: Ring) -> FloatArray:
    """Turn a ring that is already in place into an array, without the closing point."""
    from numpy import asarray, float64

    points = asarray(ring, dtype=float64)
    return points[:-1] if len(points) > 3 and (points[0] == points[-1]).all() else points


def deepest_pile(problem: Problem) -> int:
    """Count the most masks that lie on one another under any stamp.

    Whatever is in front of a stamping and overlaps it lies under a mask when it is stamped, in every plan; so the pile
    is the deepest common overlap of what is in front of it, within its own footprint, and no choice changes it.
    """
    deepest = 0
    in_front: list[list[int]] = [[] for _ in problem.stampings]
    for i, behind in enumerate(problem.behind):
        for j in behind:
            in_front[j].append(i)
    for j, fronts in enumerate(in_front):
        if len(fronts) > deepest:
            covers = [shapely.intersection(problem.stampings[i].area, problem.stampings[j].area) for i in fronts]
            deepest = max(deepest, _deepest_common(covers, deepest))
    return deepest


def _deepest_common(covers: Sequence[BaseGeometry], known: int) -> int:
    """Most of `covers` that share more than the least overlap; branch and bound over their order."""
    best = known

    def deepen(shared: BaseGeometry | None, start: int, depth: int) -> None:
        nonlocal best
        best = max(best, depth)
        for k in range(start, len(covers)):
            if depth + len(covers) - k <= best:
                return
            common = covers[k] if shared is None else shapely.intersection(shared, covers[k])
            if common.area > OVERLAP_MM2:
                deepen(common, k + 1, depth + 1)

    deepen(None, 0, 0)
    return best
