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

import numpy as np
import shapely

from fair_thicket.backdrop.hidden_joints import span_behind
from fair_thicket.backdrop.joining import ROUND, Chain, Floats, Joining, Stretch, Table, lay_out
from fair_thicket.backdrop.profile import STEP_MM, Profile, find_repeat, profile_of
from fair_thicket.model.bounds import MOST_CUTS
from fair_thicket.model.errors import PaperError
from fair_thicket.model.spans import Cut, Span

FEW = 8


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
    table = Table(profile, joining, overlap)
    if hidden and not joining.keep_ends:
        return span_behind(table, cuts, length_mm, wanted, hidden)
    chain = _search(table, cuts, cuts * count - wanted, is_exact=joining.keep_ends)
    seen = _seen_parts(chain, count, wanted, overlap)
    return lay_out(table, chain, seen, length_mm, [False] * len(chain), keep_ends=joining.keep_ends)


def _search(table: Table, cuts: int, spare: int, *, is_exact: bool) -> Chain:
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


def _further(table: Table, ends: Floats, spare: int) -> Floats:
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


def _trace(table: Table, layers: list[Floats], spare: int, *, is_exact: bool) -> Chain:
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
    table: Table, ends: Floats, bounds: tuple[int, int], way: int, *, is_exact: bool
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


def _seen_parts(chain: Chain, n: int, wanted: int, least: int) -> list[tuple[int, int]]:
    """Columns of each cut that are seen, the first and the last one trimmed so that all together are as wanted."""
    lows = [0, *(v for _, _, _, v in chain)]
    highs = [*(u for _, u, _, _ in chain), n]
    spare = sum(highs) - sum(lows) - wanted
    last = max(0, min(spare - min(spare // 2, highs[0] - least), highs[-1] - lows[-1] - least))
    lows[0] += spare - last
    highs[-1] -= last
    return list(zip(lows, highs, strict=True))
