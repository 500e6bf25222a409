"""Joints behind what stands in front of a border: which of all ways to join is seen least, exact on the grid.

Glossary
--------
at
    Boundary between columns of the border at which a joint lies, from its left end.
u, v
    As in `spanning`: the left cut of a joint is seen up to column u of its die, the right one from v on.

Notes
-----
Where a joint is hidden it costs nothing; so it matters where along the border it lies, and the search runs over places.
A cut that is seen from v at one joint is seen up to u = v + (place of the next - place of this): what is known of
joints is carried along diagonals. The first joint needs the best of all u that reach its place, the last one the best
of all v that leave enough; only joints between two others need every u for every v.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fair_thicket.backdrop.joining import Chain, Floats, Stretch, Table, lay_out
from fair_thicket.model.errors import PaperError
from fair_thicket.model.spans import Span


class _Hidden(NamedTuple):
    """Costs of joints in sight and behind something.

    Attributes
    ----------
    seen, free : (ways, ways, n + 1, n + 1) float
        What a joint costs in sight; 0 where it can be made at all, else infinite.
    is_hidden : (wanted + 1,) bool
        Whether a joint at a place of the border is hidden with all of its overlap.
    """

    seen: Floats
    free: Floats
    is_hidden: NDArray[np.bool_]

    def at(self, place: int) -> Floats:
        return self.free if self.is_hidden[place] else self.seen


def span_behind(table: Table, cuts: int, length_mm: float, wanted: int, hidden: Sequence[Stretch]) -> Span:
    """Span a length with so many cuts, joints that lie within hidden stretches costing nothing.

    Parameters
    ----------
    hidden : sequence of (start, end), mm
        A joint is hidden when all of its overlap, to either side, lies within one.

    Raises
    ------
    PaperError
        When the length cannot be joined from the die.
    """
    step, reach = table.profile.step_mm, table.overlap
    is_hidden = np.zeros(wanted + 1, bool)
    for start, end in hidden:
        low, high = int(np.ceil(start / step - 1e-9)) + reach, int(end / step + 1e-9) - reach
        if low <= high:
            is_hidden[max(0, low) : max(0, high + 1)] = True
    costs = _Hidden(table.cost, np.where(np.isfinite(table.cost), 0.0, np.inf), is_hidden)
    ends = [_first_ends(table, wanted)]
    begins: list[Floats] = []
    for number in range(cuts - 2):
        begins.append(_begin(table, costs, ends[-1], is_first=number == 0))
        ends.append(_carry(begins[-1], reach))
    chain, places = _trace(table, costs, ends, begins, wanted)
    lows = [chain[0][1] - places[0], *(v for _, _, _, v in chain)]
    highs = [*(u for _, u, _, _ in chain), chain[-1][3] + wanted - places[-1]]
    behind = [bool(is_hidden[place]) for place in places]
    return lay_out(table, chain, list(zip(lows, highs, strict=True)), length_mm, behind)


def _first_ends(table: Table, wanted: int) -> Floats:
    """Best cost of a first cut that ends at a place, by its way, the place and its u: it is trimmed at its left end."""
    n, places = table.count, np.arange(wanted + 1)[:, None]
    us = np.arange(n + 1)[None, :]
    possible = (places >= table.overlap) & (us >= places)
    one = np.where(possible, 0.0, np.inf)
    return np.repeat(one[None], table.ways, axis=0)


def _begin(table: Table, costs: _Hidden, ends: Floats, *, is_first: bool) -> Floats:
    """Best cost up to and with a joint, by the right cut's way, the joint's place and its v."""
    ways, places, n = table.ways, ends.shape[1], table.count
    begins = np.full((ways, places, n + 1), np.inf)
    hidden = np.flatnonzero(costs.is_hidden)
    plain = np.flatnonzero(~costs.is_hidden)
    for g in range(ways):
        for f in range(ways):
            if is_first:  # every u from the place on costs the same before it
                least = np.minimum.accumulate(costs.seen[f, g][::-1], axis=0)[::-1]
                free = np.minimum.accumulate(costs.free[f, g][::-1], axis=0)[::-1]
                for all_rows, best in ((plain, least), (hidden, free)):
                    rows = all_rows[(all_rows >= table.overlap) & (all_rows <= n)]
                    begins[g, rows] = np.minimum(begins[g, rows], best[rows])
            else:
                for rows, cost in ((plain, costs.seen[f, g]), (hidden, costs.free[f, g])):
                    begins[g, rows] = np.minimum(begins[g, rows], _min_plus(ends[f][rows], cost))
    return begins


def _min_plus(known: Floats, cost: Floats) -> Floats:
    """Return the least of known[place, u] + cost[u, v] over u, for every place and v."""
    best = np.full((len(known), cost.shape[1]), np.inf)
    for u in np.flatnonzero(np.isfinite(known).any(axis=0)).tolist():
        np.minimum(best, known[:, u, None] + cost[u][None, :], out=best)
    return best


def _carry(begins: Floats, least: int) -> Floats:
    """Carry what a cut has cost from its beginning to every end that it may have: along diagonals, `least` and more."""
    _, places, columns = begins.shape
    ends = np.full_like(begins, np.inf)
    for place in range(least, places):
        ends[:, place, least:] = begins[:, place - least, : columns - least]
        np.minimum(ends[:, place, 1:], ends[:, place - 1, :-1], out=ends[:, place, 1:])
    return ends


def _trace(
    table: Table, costs: _Hidden, ends: list[Floats], begins: list[Floats], wanted: int
) -> tuple[Chain, list[int]]:
    """Find the best last joint, then read the others back; gives the chain and the places of its joints."""
    value, place, joint = _last_joint(table, costs, ends[-1], wanted)
    if not np.isfinite(value):
        raise PaperError("That length cannot be joined from this die; glue with less overlap, or turn cuts over.")
    chain, places = [joint], [place]
    for depth in range(len(begins) - 1, -1, -1):
        f, u, _, _ = chain[0]
        value = ends[depth + 1][f, places[0], u]
        back = np.arange(table.overlap, min(places[0], u) + 1)
        found = int(back[np.argmin(begins[depth][f, places[0] - back, u - back])])
        place, v = places[0] - found, u - found
        before = [ends[depth][way, place] + costs.at(place)[way, f, :, v] for way in range(table.ways)]
        index = int(np.argmin(np.stack(before)))
        way, end = divmod(index, table.count + 1)
        chain.insert(0, (way, end, f, v))
        places.insert(0, place)
    return chain, places


def _last_joint(
    table: Table, costs: _Hidden, ends: Floats, wanted: int
) -> tuple[float, int, tuple[int, int, int, int]]:
    """Find the last joint of least cost: its right cut must reach the border's right end."""
    n, least = table.count, table.overlap
    best: tuple[float, int, tuple[int, int, int, int]] = (np.inf, 0, (0, 0, 0, 0))
    shortest = {id(cost): np.minimum.accumulate(cost, axis=3) for cost in (costs.seen, costs.free)}
    for place in range(max(least, wanted - n), wanted - least + 1):
        most_v = n - (wanted - place)
        cost = costs.at(place)
        for f in range(table.ways):
            for g in range(table.ways):
                total = ends[f, place] + shortest[id(cost)][f, g, :, most_v]
                u = int(np.argmin(total))
                if total[u] < best[0]:
                    v = int(np.argmin(cost[f, g, u, : most_v + 1]))
                    best = (float(total[u]), place, (f, u, g, v))
    return best
