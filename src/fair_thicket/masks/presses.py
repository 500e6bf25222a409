"""The fewest presses: unit jobs with an order among them, and only so many copies of each stamp."""

from collections import Counter

from fair_thicket.masks.problem import Problem

Times = tuple[int, ...]


def lower_bound(problem: Problem) -> int:
    """Bound the number of presses from below.

    The longest chain of overlaps (Mirsky's theorem: the least number of antichains of a partial order is the length of
    its longest chain), the repeats of one stamp, and both at once: the repeats of a stamp that cannot start before
    press a, nor end within b presses of the last, add up. Pins are not looked at, but for the last press they name.
    """
    count = problem.stamped
    if not count:
        return 0
    earliest = problem.longest_chains
    tails = tails_behind(problem)
    bound = max(earliest[i] + tails[i] for i in range(count))
    repeats: dict[str, list[int]] = {}
    for index in range(count):
        repeats.setdefault(problem.stampings[index].stamp, []).append(index)
    for stamp, members in repeats.items():
        for head in {earliest[i] for i in members}:
            for tail in {tails[i] for i in members}:
                fitting = [i for i in members if earliest[i] >= head and tails[i] >= tail]
                needed = -(-len(fitting) // problem.copies_of(stamp))
                if needed:
                    bound = max(bound, head - 1 + needed + tail)
    return max(bound, *(press + 1 + tails[i] for i, press in problem.pins.at.items()), 0)


def tails_behind(problem: Problem) -> Times:
    """For each impression the longest chain of overlaps behind it, itself left out."""
    tails = [0] * len(problem.stampings)
    for i in reversed(problem.in_turn):
        for j in problem.later[i]:
            tails[i] = max(tails[i], tails[j] + 1)
    return tuple(tails)


def stamp_soon(problem: Problem) -> Times:
    """Give each impression a press by the plain rule: as soon as may be, longest tail first; pins are not looked at.

    Returns
    -------
    tuple of int
        Press of each impression, from 0; washes come after the last. Always possible on paper; not always the fewest.
    """
    count = problem.stamped
    tails = tails_behind(problem)
    waiting_for: list[set[int]] = [set() for _ in range(count)]
    for i, later in enumerate(problem.later):
        for j in later:
            waiting_for[j].add(i)
    times = [-1] * count
    press = 0
    while any(time < 0 for time in times):
        used: Counter[str] = Counter()
        ready = [j for j in range(count) if times[j] < 0 and all(0 <= times[i] < press for i in waiting_for[j])]
        for j in sorted(ready, key=lambda j: (-tails[j], j)):
            stamp = problem.stampings[j].stamp
            if used[stamp] < problem.copies_of(stamp):
                times[j] = press
                used[stamp] += 1
        press += 1
    return with_washes(problem, times)


def with_washes(problem: Problem, times: Times | list[int]) -> Times:
    """Add the columns of the washes, one after the other, behind the last press or before the first late one."""
    washes = len(problem.stampings) - problem.stamped
    last = max(times, default=-1) + 1
    first = min((times[i] for i in problem.late), default=last) if washes else last
    return (*(time + washes if time >= first else time for time in times), *range(first, first + washes))


def without_washes(problem: Problem, times: Times) -> Times:
    """Return the press of each impression alone, counted without the columns of the washes."""
    washes = times[problem.stamped :]
    return tuple(time - sum(wash < time for wash in washes) for time in times[: problem.stamped])
