"""In which order markers are fetched, so that each is taken out as few times as the order of shades allows.

Glossary
--------
fetch
    Taking a marker out once: all parts that are ready for it get it.
order
    Of each run, in which its shades are laid; an undertone comes before, dots after.

Notes
-----
All runs must be found in the row of fetches, each in its own order: the shortest such row is wanted. Shades of a run go
from dark to light, so that runs hardly ever contradict each other; then each marker is fetched once, and no row can be
shorter. Where they do (an undertone that another part has as its shade), A* search finds the shortest row: what is
still wanted of different markers is never more than what is still to fetch. Only where that would take too long is the
row that was found not proven shortest.
"""

import heapq
from collections.abc import Hashable, Sequence
from typing import TypeVar

Mark = TypeVar("Mark", bound=Hashable)
MOST_STATES = 60_000


def fetch_order(runs: Sequence[Sequence[Mark]]) -> tuple[tuple[Mark, ...], bool]:
    """Find the shortest row of markers in which every run is found in its order.

    Parameters
    ----------
    runs : sequence of sequences
        Markers of each part, in the order of laying.

    Returns
    -------
    row : tuple
        Markers in the order in which they are fetched.
    is_least : bool
        Whether no row is shorter, proven.
    """
    wanted = sorted({tuple(run) for run in runs if run}, key=lambda run: (-len(run), str(run)))
    row: list[Mark] = []
    state = tuple(0 for _ in wanted)
    while not _is_done(wanted, state):
        ready = _sure(wanted, state, row[-1] if row else None)
        if ready is None:
            break
        row.append(ready)
        state = _advance(wanted, state, ready)
    if _is_done(wanted, state):
        return tuple(row), True
    rest, is_least = _search(wanted, state)
    return (*row, *rest), is_least


def _sure(runs: Sequence[tuple[Mark, ...]], state: tuple[int, ...], last: Mark | None) -> Mark | None:
    """Find a marker that no part wants later than now: to fetch it at once can never be wrong.

    Of several one that follows the last in some run comes first: a run is laid while it is wet.
    """
    later = {mark for run, at in zip(runs, state, strict=True) for mark in run[at + 1 :]}
    now = [run[at] for run, at in zip(runs, state, strict=True) if at < len(run)]
    follows = [run[at] for run, at in zip(runs, state, strict=True) if 0 < at < len(run) and run[at - 1] == last]
    return next((mark for mark in (*follows, *now) if mark not in later), None)


def _search(runs: Sequence[tuple[Mark, ...]], start: tuple[int, ...]) -> tuple[tuple[Mark, ...], bool]:
    queue: list[tuple[int, int, int, tuple[int, ...], tuple[Mark, ...]]] = []
    seen = {start: 0}
    heapq.heappush(queue, (_left(runs, start), 0, 0, start, ()))
    number = 0
    while queue and number < MOST_STATES:
        _, _, _, state, row = heapq.heappop(queue)
        if _is_done(runs, state):
            return row, True
        for mark in sorted({run[at] for run, at in zip(runs, state, strict=True) if at < len(run)}, key=str):
            after = _advance(runs, state, mark)
            if seen.get(after, len(row) + 2) > len(row) + 1:
                seen[after] = len(row) + 1
                number += 1
                heapq.heappush(queue, (len(row) + 1 + _left(runs, after), -len(row), number, after, (*row, mark)))
    return _greedy(runs, start), False


def _greedy(runs: Sequence[tuple[Mark, ...]], state: tuple[int, ...]) -> tuple[Mark, ...]:
    """Fetch what most parts are ready for, again and again."""
    row: list[Mark] = []
    while not _is_done(runs, state):
        now = [run[at] for run, at in zip(runs, state, strict=True) if at < len(run)]
        mark = max(sorted(set(now), key=str), key=now.count)
        row.append(mark)
        state = _advance(runs, state, mark)
    return tuple(row)


def _left(runs: Sequence[tuple[Mark, ...]], state: tuple[int, ...]) -> int:
    return len({mark for run, at in zip(runs, state, strict=True) for mark in run[at:]})


def _advance(runs: Sequence[tuple[Mark, ...]], state: tuple[int, ...], mark: Mark) -> tuple[int, ...]:
    return tuple(at + (at < len(run) and run[at] == mark) for run, at in zip(runs, state, strict=True))


def _is_done(runs: Sequence[tuple[Mark, ...]], state: tuple[int, ...]) -> bool:
    return all(at == len(run) for run, at in zip(runs, state, strict=True))
