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
wash
    Ink at the very back: it comes after all presses of its surface but the late ones, each in a column of its own.
late
    Stamped once the washes are dry: white and pale ink on them, which a wash inked over it would stain, and whatever
    the maker wants to come after them.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from graphlib import TopologicalSorter

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from fair_thicket.model.tolerance import OVERLAP_MM2, REACH_MM
from fair_thicket.shape.outline import Area, FloatArray
from fair_thicket.shape.overlap import find_overlaps
from fair_thicket.shape.stretch import Stretch, length_of, stretches_within

GLUE_SLIP_MM = 0.5
"""So far beside its place a piece may be glued by hand (common practice: half a millimetre is not seen)."""
HALF_TURN_MM = 0.3
"""A stamp left in place prints within this of where it is wanted (a nudge of the panel mends the rest)."""


@dataclass(frozen=True)
class Stamping:
    """An impression or a wash as the plan sees it.

    Attributes
    ----------
    id, stamp : str
        Of the stamping, and of the rubber that makes it: each layer of a layered image has its own.
    piece, image : str
        Ids of the piece on the card and of its stamp in the stash.
    ring : (n, 2) float, mm
        Outer outline in place; impressions of one stamp list their vertices in the same order. Empty for a wash.
    area : Polygon or MultiPolygon
        Its footprint in place.
    is_wash : bool
    shuns_wash : bool
        It is masked while a wash is inked over it: it was coloured.
    waits : bool
        It is stamped once the washes under it are dry: its ink covers, or the maker wants it so.
    resists : bool
        It is embossed clear before any wash that it keeps off its lines.
    """

    id: str
    stamp: str
    ring: FloatArray
    area: Area
    piece: str = ""
    image: str = ""
    is_wash: bool = False
    shuns_wash: bool = False
    waits: bool = False
    resists: bool = False


@dataclass(frozen=True)
class Pins:
    """What the maker pinned, by index of the stamping.

    Attributes
    ----------
    at : mapping of index to press
    together : groups of indices that share a press
    unmasked : indices that are never masked
    """

    at: Mapping[int, int] = field(default_factory=dict)
    together: tuple[tuple[int, ...], ...] = ()
    unmasked: frozenset[int] = frozenset()

    @property
    def bind_presses(self) -> bool:
        """Whether they say anything about presses."""
        return bool(self.at or self.together)


@dataclass(frozen=True)
class Problem:
    """Impressions from front to back, then washes in the order in which they are inked.

    Attributes
    ----------
    stampings : tuple of Stamping
    copies : mapping of stamp to number owned
    pins : Pins
    middle : (x, y) or None
        Of the surface, about which it may be turned by half.
    hidden : Polygon, MultiPolygon or None
        What will be glued over the surface: where two overlap under it only, neither is masked from the other.
    """

    stampings: tuple[Stamping, ...]
    copies: Mapping[str, int]
    pins: Pins = Pins()
    middle: tuple[float, float] | None = None
    hidden: BaseGeometry | None = None

    @cached_property
    def stamped(self) -> int:
        """How many are stamped; the rest are washes."""
        return sum(not one.is_wash for one in self.stampings)

    @cached_property
    def overlaps(self) -> tuple[tuple[int, ...], ...]:
        """For each stamping the indices of those behind it that it overlaps, masked or not."""
        lists: list[list[int]] = [[] for _ in self.stampings]
        for i, j in find_overlaps([one.area for one in self.stampings]):
            if not self._are_layers(i, j):
                lists[i].append(j)
        return tuple(tuple(sorted(entries)) for entries in lists)

    @cached_property
    def behind(self) -> tuple[tuple[int, ...], ...]:
        """For each impression the indices of those that are stamped or inked over its mask.

        Of a layered image only the last layer counts: once it is stamped the whole image is masked.
        """
        return tuple(
            () if self.then[i] else tuple(j for j in entries if self._is_masked_from(i, j))
            for i, entries in enumerate(self.overlaps)
        )

    def _is_masked_from(self, i: int, j: int) -> bool:
        first, second = self.stampings[i], self.stampings[j]
        if first.is_wash or i in self.pins.unmasked:
            return False
        return (not second.is_wash or first.shuns_wash) and not self._meet_hidden(i, j)

    def _meet_hidden(self, i: int, j: int) -> bool:
        """Whether two meet only where something will be glued over both, half a millimetre within its edge."""
        if self._safely_hidden is None:
            return False
        shared = shapely.intersection(self.stampings[i].area, self.stampings[j].area)
        return bool(shapely.difference(shared, self._safely_hidden).area < OVERLAP_MM2)

    @cached_property
    def _safely_hidden(self) -> BaseGeometry | None:
        if self.hidden is None or self.hidden.is_empty:
            return None
        return shapely.buffer(self.hidden, -GLUE_SLIP_MM)

    @cached_property
    def then(self) -> tuple[tuple[int, ...], ...]:
        """For each stamping the next layer of the same image, if there is one: it follows with nothing masked."""
        following = [(i + 1,) if self._are_layers(i, i + 1) else () for i in range(len(self.stampings) - 1)]
        return (*following, ()) if self.stampings else ()

    @cached_property
    def later(self) -> tuple[tuple[int, ...], ...]:
        """For each stamping all that must be stamped in a later press."""
        early = self._before_washes
        return tuple(
            tuple(dict.fromkeys([*own, *(sorted(self.late) if i in early else ())]))
            for i, own in enumerate(self._by_masks)
        )

    @cached_property
    def _by_masks(self) -> tuple[tuple[int, ...], ...]:
        """For each stamping what comes later for its mask's sake, or as its next layer."""
        return tuple(
            (*(j for j in behind if not self.stampings[j].is_wash), *then)
            for behind, then in zip(self.behind, self.then, strict=True)
        )

    @cached_property
    def _before_washes(self) -> frozenset[int]:
        """Impressions that are there before the washes: they lie under a mask meanwhile, or keep ink off themselves."""
        return frozenset(
            i
            for i, one in enumerate(self.stampings)
            for met in [self.overlaps[i] if one.resists else self.behind[i]]
            if any(self.stampings[j].is_wash for j in met)
        )

    @cached_property
    def late(self) -> frozenset[int]:
        """Impressions that are stamped once the washes under them are dry.

        What cannot wait, because a coloured image that is masked from the washes stands behind it, is left out: it is
        inked over, and the rehearsal tells.
        """
        return frozenset(
            i
            for i, one in enumerate(self.stampings)
            if one.waits
            and i not in self._before_washes  # pale and coloured: it is masked while its surroundings are inked
            and any(self.stampings[j].is_wash for j in self.overlaps[i])
            and not self._all_later(i) & self._before_washes
        )

    def _all_later(self, i: int) -> set[int]:
        found: set[int] = set()
        frontier = [i]
        while frontier:
            for j in self._by_masks[frontier.pop()]:
                if j not in found:
                    found.add(j)
                    frontier.append(j)
        return found

    @cached_property
    def in_turn(self) -> tuple[int, ...]:
        """All stampings, each before everything that must be stamped later."""
        before: dict[int, list[int]] = {i: [] for i in range(len(self.stampings))}
        for i, later in enumerate(self.later):
            for j in later:
                before[j].append(i)
        return tuple(TopologicalSorter(before).static_order())

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
        for i in self.in_turn:  # every level is final when it is read
            for j in self.later[i]:
                levels[j] = max(levels[j], levels[i] + 1)
        return tuple(levels)

    @cached_property
    def half_turns(self) -> tuple[tuple[int, int], ...]:
        """Pairs of impressions of one stamp that fall on each other when the surface is turned by half."""
        if self.middle is None:
            return ()
        by_stamp: dict[str, list[int]] = {}
        for i, one in enumerate(self.stampings):
            if not one.is_wash:
                by_stamp.setdefault(one.stamp, []).append(i)
        twice = 2 * np.array(self.middle)
        pairs = []
        for members in by_stamp.values():
            for rank, i in enumerate(members):
                turned = twice - self.stampings[i].ring
                for j in members[rank + 1 :]:
                    ring = self.stampings[j].ring
                    if ring.shape == turned.shape and np.abs(ring - turned).max() <= HALF_TURN_MM:
                        pairs.append((i, j))
        return tuple(pairs)


def deepest_pile(problem: Problem) -> int:
    """Count the most masks that lie on one another under any stamp.

    Whatever is in front of a stamping and overlaps it lies under a mask when it is stamped, in every plan; so the pile
    is the deepest common overlap of what is in front of it, within its own footprint, and no choice changes it.
    """
    deepest = 0
    in_front: list[list[int]] = [[] for _ in problem.stampings]
    for i, behind in enumerate(problem.behind):
        for j in behind:
            if not problem.stampings[j].is_wash:  # a brush goes over a pile without bridging
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
