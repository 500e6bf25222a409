"""The fewest cuts of a border die that span a length, joined where it is seen least: exact on a grid of columns.

Glossary
--------
u, v
    Boundaries between columns of the die: the left cut is seen up to u, the right one from v on.
loss
    Columns of die that a joint costs: those of the left cut beyond u and those of the right one before v.

Notes
-----
A joint's cost depends on u, v and on which cuts are turned over, not on where along the border it lies; and the border
is reached when the losses of all joints together leave enough. So the search runs over losses: dynamic programming from
joint to joint, exact, where the last joint needs no more than the best of every loss up to what is left.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.backdrop.profile import STEP_MM, Profile, find_repeat, profile_of
from fair_thicket.model.errors import PaperError
from fair_thicket.model.spans import Cut, Joint, Span

Floats = NDArray[np.float64]
OVERLAP_MM, WINDOW_MM = 6.0, 2.0
MOST_CUTS = 40
FEW = 8
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


def span_area(
    area: shapely.Geometry, length_mm: float, joining: Joining | None = None, hidden: Sequence[Stretch] = ()
) -> Span:
    """Span a length with cuts of a die of an area; its repeat is found and the grid laid so that it falls on columns.

    Parameters
    ----------
    hidden : sequence of (start, end), mm from the left end
        Stretches of the border that something in front hides: a joint that lies within one with all of its overlap
        costs nothing.

    Raises
    ------
    PaperError
        As `span`.
    """
    profile = profile_of(area)
    repeat = find_repeat(profile)
    if repeat is not None:
        columns = max(1, round(repeat / STEP_MM))
        profile = profile_of(area, step_mm=repeat / columns)
    found = span(profile, length_mm, joining, hidden)
    return Span(found.cuts, found.joints, found.optimal, found.cost_mm2, found.waste_mm, repeat)


def span(profile: Profile, length_mm: float, joining: Joining | None = None, hidden: Sequence[Stretch] = ()) -> Span:
    """Span a length with as few cuts as may be, and of those ways the one whose joints are seen least.

    Parameters
    ----------
    profile : Profile
    length_mm : float
    joining : Joining or None
    hidden : sequence of (start, end), mm
        See `span_area`.

    Raises
    ------
    PaperError
        When the die is too short to be joined, or more than 40 cuts were needed.
    """
    joining = joining or Joining()
    step, count = profile.step_mm, profile.count
    wanted = int(np.ceil(length_mm / step - 1e-9))
    overlap = max(1, round(joining.overlap_mm / step))
    if wanted <= count and (not joining.keep_ends or wanted == count):
        start = (count - wanted) // 2
        cut = Cut(round(start * step, ROUND), round(start * step + length_mm, ROUND), 0.0)
        return Span((cut,), (), True, 0.0, round((count - wanted) * step, ROUND))
    if count < 3 * overlap:
        raise PaperError(
            f"A die of {count * step:.0f} mm is too short to be joined with an overlap of {overlap * step:.0f} mm; "
            "glue with less overlap, or take a longer die."
        )
    cuts = 2
    while cuts * count - (cuts - 1) * overlap < wanted:
        cuts += 1
        if cuts > MOST_CUTS:
            raise PaperError(f"More than {MOST_CUTS} cuts of that die would be needed; take a longer die.")
    table = _Table(profile, joining, overlap)
    chain = _search(table, cuts, cuts * count - wanted, is_exact=joining.keep_ends)
    if hidden and not joining.keep_ends:
        behind = hide_joint(table, cuts, length_mm, wanted, hidden)
        plain = _lay(table, chain, length_mm, wanted, keep_ends=False)
        return behind if behind is not None and behind.cost_mm2 < plain.cost_mm2 else plain
    return _lay(table, chain, length_mm, wanted, keep_ends=joining.keep_ends)


class _Table:
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


def hide_joint(table: _Table, cuts: int, length_mm: float, wanted: int, hidden: Sequence[Stretch]) -> Span | None:
    """Put one joint behind what hides it and span either side by itself; None where none can be hidden.

    Notes
    -----
    A hidden joint costs nothing, so the two sides do not bear on each other. Tried in the middle and near both ends
    of every hidden stretch, before every cut; the best is kept.
    """
    step, n, reach = table.profile.step_mm, table.count, table.overlap
    best: Span | None = None
    for start, end in hidden:
        low, high = int(np.ceil(start / step)) + reach, int(end / step) - reach
        for at in sorted({low, (low + high) // 2, high}) if low <= high else ():
            for first in range(1, cuts):
                # the right side goes on under the left one
                sides = ((first, at), (cuts - first, wanted - at + reach))
                if any(count * n - (count - 1) * reach < need or need < reach for count, need in sides):
                    continue
                found = _beside(table, sides, at, length_mm)
                if best is None or found.cost_mm2 < best.cost_mm2:
                    best = found
    return best


def _beside(table: _Table, sides: tuple[tuple[int, int], tuple[int, int]], at: int, length_mm: float) -> Span:
    """Span two sides of a hidden joint at a column, and lay them together."""
    step, reach = table.profile.step_mm, table.overlap
    parts = []
    for (count, need), need_mm in zip(sides, (at * step, length_mm - (at - reach) * step), strict=True):
        if count == 1:
            start = (table.count - need) // 2 * step
            parts.append(Span((Cut(round(start, ROUND), round(start + need_mm, ROUND), 0.0),), (), True, 0.0, 0.0))
        else:
            chain = _search(table, count, count * table.count - need, is_exact=False)
            parts.append(_lay(table, chain, need_mm, need, keep_ends=False))
    left, right = parts
    by = (at - reach) * step
    moved = [msgspec.structs.replace(cut, at_mm=round(cut.at_mm + by, ROUND)) for cut in right.cuts]
    later = [msgspec.structs.replace(joint, at_mm=round(joint.at_mm + by, ROUND)) for joint in right.joints]
    joints = (*left.joints, Joint(round(at * step, ROUND), 0.0, 0.0, left_over=True), *later)
    together = (*left.cuts, *moved)
    waste = len(together) * table.count * step - sum(cut.to_mm - cut.from_mm for cut in together)
    cost = left.cost_mm2 + right.cost_mm2
    # hidden joints are tried at a few places only: what cannot be better is proven, the rest is not
    return Span(together, joints, cost <= 0.0, cost, round(waste, ROUND))


def _search(table: _Table, cuts: int, spare: int, *, is_exact: bool) -> Chain:
    """Find the joints of least cost whose losses together are at most, or exactly, `spare` columns.

    Notes
    -----
    ends[f][u][loss]: least cost of all joints before a cut that lies f way up and is seen up to u, losses so far and
    of its own end counted. Every cut is seen for at least the overlap.
    """
    n, ways, least = table.count, table.ways, table.overlap
    ends = np.full((ways, n + 1, spare + 1), np.inf)
    for u in range(least, n + 1):
        if n - u <= spare:
            ends[:, u, n - u] = 0.0
    layers = [ends]
    for _ in range(cuts - 2):
        layers.append(_further(table, layers[-1], spare))
    return _trace(table, layers, spare, is_exact=is_exact)


def _further(table: _Table, ends: Floats, spare: int) -> Floats:
    """Join one more cut: its beginnings from the ends before it, then its own ends."""
    n, ways, least = table.count, table.ways, table.overlap
    begins = np.full((ways, n + 1, spare + 1), np.inf)
    most = min(n, spare)
    for g in range(ways):
        # by v and the loss before it; the loss of v itself comes on top
        joined = np.full((most + 1, spare + 1), np.inf)
        for f in range(ways):
            for u in range(n + 1):
                known = np.flatnonzero(np.isfinite(ends[f, u])).tolist()
                row = table.cost[f, g, u, : most + 1]
                if len(known) > FEW:
                    np.minimum(joined, row[:, None] + ends[f, u][None, :], out=joined)
                else:  # before the first joint every end has one loss only
                    for loss in known:
                        np.minimum(joined[:, loss], row + ends[f, u, loss], out=joined[:, loss])
        for v in range(most + 1):
            begins[g, v, v:] = joined[v, : spare + 1 - v]
    best = np.minimum.accumulate(begins, axis=1)
    after = np.full_like(ends, np.inf)
    for u in range(least, n + 1):
        lost = n - u
        if lost <= spare:
            after[:, u, lost:] = best[:, u - least, : spare + 1 - lost]
    return after


def _trace(table: _Table, layers: list[Floats], spare: int, *, is_exact: bool) -> Chain:
    """Read the best chain of joints back from the last one."""
    chain: Chain = []
    most_v, most_loss, way = table.count - table.overlap, spare, -1
    for depth in range(len(layers) - 1, -1, -1):
        found = _best_joint(table, layers[depth], (most_v, most_loss), way, is_exact=is_exact)
        _, f, u, g, v, loss = found
        chain.insert(0, (f, u, g, v))
        # the cut before this joint ends at u with `loss` in all; its beginning lies at least an overlap before
        most_v, most_loss, way = u - table.overlap, loss - (table.count - u), f
        layers = layers[:depth]
    return chain


def _best_joint(
    table: _Table, ends: Floats, bounds: tuple[int, int], way: int, *, is_exact: bool
) -> tuple[float, int, int, int, int, int]:
    """Find the joint of least cost with v and the loss up to bounds, and with its right cut a given way up."""
    ways, (most_v, most_loss) = table.ways, bounds
    running = ends if is_exact else np.minimum.accumulate(ends, axis=2)
    best = (np.inf, 0, 0, 0, 0, 0)
    spots = np.arange(0, min(most_v, most_loss) + 1)
    for f in range(ways):
        for g in range(ways) if way < 0 else (way,):
            # for every u and v the least cost before it with the loss that v leaves
            before = running[f][:, most_loss - spots]
            total = before + table.cost[f, g][:, spots]
            index = int(np.argmin(total))
            u, at = divmod(index, len(spots))
            if total[u, at] < best[0]:
                v = int(spots[at])
                loss = most_loss - v if is_exact else int(np.argmin(ends[f, u, : most_loss - v + 1]))
                best = (float(total[u, at]), f, u, g, v, loss)
    if not np.isfinite(best[0]):
        raise PaperError("That length cannot be joined from this die; glue with less overlap, or turn cuts over.")
    return best


def _lay(table: _Table, chain: Chain, length_mm: float, wanted: int, *, keep_ends: bool) -> Span:
    """Lay the cuts out; what is to spare is trimmed off both ends alike."""
    n, step, reach = table.count, table.profile.step_mm, table.overlap
    seen = _seen_parts(chain, n, wanted, reach)
    ways = [chain[0][0], *(g for _, _, g, _ in chain)]
    joints = [
        _joint(table, one, at * step) for one, at in zip(chain, np.cumsum([b - a for a, b in seen]), strict=False)
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


def _seen_parts(chain: Chain, n: int, wanted: int, least: int) -> list[tuple[int, int]]:
    """Columns of each cut that are seen, the first and the last one trimmed so that all together are as wanted."""
    lows = [0, *(v for _, _, _, v in chain)]
    highs = [*(u for _, u, _, _ in chain), n]
    spare = sum(highs) - sum(lows) - wanted
    last = max(0, min(spare - min(spare // 2, highs[0] - least), highs[-1] - lows[-1] - least))
    lows[0] += spare - last
    highs[-1] -= last
    return list(zip(lows, highs, strict=True))


def _joint(table: _Table, one: tuple[int, int, int, int], at_mm: float) -> Joint:
    f, u, g, v = one
    entry = (f, g, u, v)
    mismatch, peek = float(table.mismatch[entry]), float(table.peek[entry])
    return Joint(round(float(at_mm), ROUND), round(mismatch, 6), round(peek, 6), bool(table.left_over[entry]))
