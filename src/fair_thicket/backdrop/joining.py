"""What joints of two cuts of a die cost, for every pair of columns; and a chain of joints laid out as cuts.

Glossary
--------
u, v
    Boundaries between columns of the die: the left cut is seen up to u, the right one from v on.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fair_thicket.backdrop.profile import Profile
from fair_thicket.model.spans import Cut, Joint, Span

Floats = NDArray[np.float64]
OVERLAP_MM, WINDOW_MM = 6.0, 2.0
TASTE = 1e-9
"""Of joints alike the one whose surroundings are most alike is taken: not the one that just misses a bar."""
ROUND = 4


@dataclass(frozen=True)
class Joining:
    """How cuts are joined.

    Attributes
    ----------
    may_flip : bool
        Whether a cut may be turned over.
    overlap_mm : float
        One cut reaches this far under the other for the glue.
    window_mm : float
        Over this length beside a joint the edges are compared.
    keep_ends : bool
        The border begins and ends as the die does, as a window frame must with its bars; else both ends are trimmed.
    """

    may_flip: bool = False
    overlap_mm: float = OVERLAP_MM
    window_mm: float = WINDOW_MM
    keep_ends: bool = False


Stretch = tuple[float, float]


class Table:
    """Costs of all joints: for cuts turned over or not, of boundary u to boundary v.

    Attributes
    ----------
    cost : (ways, ways, n + 1, n + 1) float
        Infinite where the lower cut does not reach far enough under the upper.
    left_over : the same shape, bool
    """

    def __init__(self, profile: Profile, joining: Joining, overlap: int) -> None:
        self.profile, self.overlap = profile, overlap
        self.count = profile.count
        self.window = max(1, round(joining.window_mm / profile.step_mm))
        self.ways = 2 if joining.may_flip else 1
        shared = profile.shared()
        own = (profile.paper * profile.heights).sum(axis=1)
        shape = (self.ways, self.ways, self.count + 1, self.count + 1)
        self.cost = np.full(shape, np.inf)
        self.left_over = np.zeros(shape, bool)
        self.mismatch, self.peek = np.zeros(shape), np.zeros(shape)
        for left in range(self.ways):
            for right in range(self.ways):
                rows = own[::-1] if left else own
                columns = own[::-1] if right else own
                both = shared[:: -1 if left else 1, :: -1 if right else 1]
                self._fill(left, right, rows[:, None] - both, columns[None, :] - both)

    def _fill(self, left: int, right: int, only_left: Floats, only_right: Floats) -> None:
        """Cost of every u and v, once with the left cut over the right one and once under it."""
        step, n = self.profile.step_mm, self.count
        differ, beyond_left, beyond_right = (
            _along_diagonals(one) for one in (only_left + only_right, only_left, only_right)
        )
        # the left cut over: the right one goes on under it, to the left of the joint; the right one over: the mirror
        over = (_before(differ, self.window) * step, _before(beyond_right, self.overlap) * step)
        under = (_after(differ, self.window) * step, _after(beyond_left, self.overlap) * step)
        reach = self.overlap
        costs = [np.full((n + 1, n + 1), np.inf) for _ in range(2)]
        costs[0][reach:, reach:] = (over[0] + over[1])[reach:, reach:]
        costs[1][: n + 1 - reach, : n + 1 - reach] = (under[0] + under[1])[: n + 1 - reach, : n + 1 - reach]
        best = costs[0] <= costs[1]
        wide = min(2 * reach, n // 2)
        around = _before(differ, wide) + _after(differ, wide)
        for edge in (np.s_[:wide], np.s_[n + 1 - wide :], np.s_[:, :wide], np.s_[:, n + 1 - wide :]):
            around[edge] = differ.max()
        self.cost[left, right] = np.maximum(np.where(best, *costs), 0.0) + TASTE * around
        self.left_over[left, right] = best
        self.mismatch[left, right] = np.where(best, over[0], under[0]) / (self.window * step)
        self.peek[left, right] = np.where(best, over[1], under[1])


def _before(sums: Floats, reach: int) -> Floats:
    """Sum of the last `reach` entries before each pair of boundaries, along the diagonal."""
    found = np.zeros_like(sums)
    found[reach:, reach:] = sums[reach:, reach:] - sums[:-reach, :-reach]
    return found


def _after(sums: Floats, reach: int) -> Floats:
    """Sum of the next `reach` entries after each pair of boundaries, along the diagonal."""
    found = np.zeros_like(sums)
    found[:-reach, :-reach] = sums[reach:, reach:] - sums[:-reach, :-reach]
    return found


def _along_diagonals(entries: Floats) -> Floats:
    """Add up along the diagonals, (n + 1, n + 1): entry [i, j] holds all entries up and left of it."""
    n = len(entries)
    sums = np.zeros((n + 1, n + 1))
    for row in range(n):
        sums[row + 1, 1:] = sums[row, :-1] + entries[row]
    return sums


Chain = list[tuple[int, int, int, int]]
"""Joints from the left: turned over left, u, turned over right, v."""


def lay_out(
    table: Table,
    chain: Chain,
    seen: Sequence[tuple[int, int]],
    length_mm: float,
    are_hidden: Sequence[bool],
    *,
    keep_ends: bool = False,
) -> Span:
    """Lay the cuts out, of each of which some columns are seen; hidden joints cost nothing."""
    n, step, reach = table.count, table.profile.step_mm, table.overlap
    ways = [chain[0][0], *(g for _, _, g, _ in chain)]
    places = np.cumsum([b - a for a, b in seen])[:-1]
    joints = [
        _joint(table, one, at * step, is_hidden=is_hidden)
        for one, at, is_hidden in zip(chain, places, are_hidden, strict=True)
    ]
    cuts, at = [], 0
    for number, ((low, high), way) in enumerate(zip(seen, ways, strict=True)):
        # the lower cut of a joint reaches under the upper one
        under_left = reach if number and joints[number - 1].left_over else 0
        under_right = reach if number < len(joints) and not joints[number].left_over else 0
        start_mm, begins_mm = (low - under_left) * step, (at - under_left) * step
        if number < len(joints):
            end_mm = (high + under_right) * step
        elif keep_ends:  # what the length is short of whole columns goes into the last overlap
            end_mm = max(n * step, table.profile.width_mm) if not way else n * step
            begins_mm = length_mm - (end_mm - start_mm)
        else:
            end_mm = start_mm + length_mm - begins_mm
        if way:
            start_mm, end_mm = n * step - end_mm, n * step - start_mm
        cuts.append(Cut(round(start_mm, ROUND), round(end_mm, ROUND), round(begins_mm, ROUND), bool(way)))
        at += high - low
    waste = len(cuts) * n * step - sum(cut.to_mm - cut.from_mm for cut in cuts)
    window_mm = table.window * step
    cost = sum(joint.mismatch_mm * window_mm + joint.peek_mm2 for joint in joints)
    return Span(tuple(cuts), tuple(joints), True, round(cost, 6), round(waste, ROUND))


def _joint(table: Table, one: tuple[int, int, int, int], at_mm: float, *, is_hidden: bool) -> Joint:
    f, u, g, v = one
    entry = (f, g, u, v)
    mismatch, peek = (0.0, 0.0) if is_hidden else (float(table.mismatch[entry]), float(table.peek[entry]))
    # sums along diagonals may leave a hair below nothing
    mismatch, peek = max(0.0, round(mismatch, 6)), max(0.0, round(peek, 6))
    return Joint(round(float(at_mm), ROUND), mismatch, peek, bool(table.left_over[entry]))
