"""Operations one after the other for one pair of hands, while others dry: the fewest minutes, proven where it can be.

Notes
-----
A single machine with delays between operations (start-to-start waits are ends plus drying): solved by CP-SAT after a
first schedule by rule, that always does next what has the longest way to go, and among equals what needs no other tool.
"""

import itertools
from collections.abc import Sequence
from typing import NamedTuple

from fair_thicket.assembly.operation import Operation
from fair_thicket.model.errors import PaperError
from fair_thicket.model.solving import new_solver
from fair_thicket.model.wanted import GoOn, while_wanted

FINER = 100
"""Parts of a minute that are counted."""
MOST_MOVES = 3000
MOST_EFFORT = 1_500_000
"""So many moves are tried for fewer changes of tool, and operations and waits gone through in them: counted, not timed,
so that a plan is the same every time; not proven."""
PATIENCE = (0.0, 0.1, 0.25, 0.5, 1.0)
"""How long the longest way may be put off for want of another tool: shares of the time that is not on it."""


class Timed(NamedTuple):
    """An operation with its start, minutes from the beginning."""

    operation: Operation
    start_min: float

    @property
    def end_min(self) -> float:
        """When hands are free again."""
        return self.start_min + self.operation.minutes


class Schedule(NamedTuple):
    """Operations in the order in which they are done.

    Attributes
    ----------
    steps : tuple of Timed
    minutes : float
        From the beginning to the end.
    bound : float
        No order takes fewer.
    """

    steps: tuple[Timed, ...]
    minutes: float
    bound: float

    @property
    def is_best(self) -> bool:
        """Whether no order takes less time, proven."""
        return self.minutes <= self.bound + 1.0 / FINER

    @property
    def changes(self) -> int:
        """How often another tool is taken up."""
        return sum(a.operation.tool != b.operation.tool for a, b in itertools.pairwise(self.steps))


def schedule(
    operations: Sequence[Operation], *, seconds: float = 1.2, cards: int = 1, go_on: GoOn = lambda: True
) -> Schedule:
    """Schedule operations; those of a batch are done for all cards before the next.

    False from `go_on` ends the search, with what was found.

    Raises
    ------
    PaperError
        Operations that wait for each other in a circle: told one by one.
    """
    if not operations:
        return Schedule((), 0.0, 0.0)
    task = _Task(operations, cards)
    steps = min((task.by_rule(patience) for patience in PATIENCE), key=task.cost)
    total = max(end for _, end in steps.values())
    if total > task.bound:
        better, bound = _solve(task, total, seconds, go_on)
        task.bound = max(task.bound, bound)
        steps = better or steps
    steps = _fewer_changes(task, steps)
    total = max(end for _, end in steps.values())
    order = sorted(steps, key=lambda index: steps[index])
    made = tuple(Timed(task.scaled(index), steps[index][0] / FINER) for index in order)
    return Schedule(made, total / FINER, task.bound / FINER)


Times = dict[int, tuple[int, int]]


class _Task:
    """Operations by their place, in whole hundredths of minutes."""

    def __init__(self, operations: Sequence[Operation], cards: int) -> None:
        self.operations, self._cards = operations, cards
        places = {one.key: index for index, one in enumerate(operations)}
        self.lasts = [round(one.minutes * cards * FINER) for one in operations]
        self.before = [
            [(places[edge.key], round(edge.wait_min * FINER)) for edge in one.after if edge.key in places]
            for one in operations
        ]
        self.after: list[list[int]] = [[] for _ in operations]
        for index, edges in enumerate(self.before):
            for earlier, _ in edges:
                self.after[earlier].append(index)
        self.order = _in_order(operations, self.before)
        self.tails, heads = self._tails(), self._heads()
        self.bound = max(sum(self.lasts), *(heads[index] + self.tails[index] for index in self.order))

    def scaled(self, index: int) -> Operation:
        """Return an operation with the minutes that it takes for all cards."""
        return self.operations[index]._replace(minutes=self.lasts[index] / FINER)

    def _tails(self) -> dict[int, int]:
        """How long it takes at least from the start of each to the end of all."""
        tails = dict(enumerate(self.lasts))
        for index in reversed(self.order):
            for earlier, wait in self.before[index]:
                tails[earlier] = max(tails[earlier], self.lasts[earlier] + wait + tails[index])
        return tails

    def _heads(self) -> dict[int, int]:
        """How soon each can start at the soonest, by what comes before it alone."""
        heads: dict[int, int] = {}
        for index in self.order:
            ends = (heads[earlier] + self.lasts[earlier] + wait for earlier, wait in self.before[index])
            heads[index] = max(ends, default=0)
        return heads

    def cost(self, times: Times) -> tuple[int, int]:
        """End of a schedule, and how often another tool is taken up in it."""
        tools = [self.operations[index].tool for index in sorted(times, key=lambda index: times[index])]
        return max(end for _, end in times.values()), sum(a != b for a, b in itertools.pairwise(tools))

    def in_turn(self, order: Sequence[int]) -> Times | None:
        """Return the times of operations that are done in an order; None where one comes before what it waits for."""
        done: Times = {}
        now = 0
        for index in order:
            for earlier, wait in self.before[index]:
                if earlier not in done:
                    return None
                now = max(now, done[earlier][1] + wait)
            done[index] = (now, now + self.lasts[index])
            now = done[index][1]
        return done

    def by_rule(self, patience: float) -> Times:
        """Do next what may start soonest; among those what needs no other tool, or has the longest way to go."""
        slack = max(0, sum(self.lasts) - max(self.tails.values())) * patience
        done: Times = {}
        now, tool = 0, ""
        left = [len(edges) for edges in self.before]
        ready = {index: 0 for index in self.order if not left[index]}  # when what it waits for lets each begin
        while ready:
            start = max(now, min(ready.values()))
            may = [index for index, soonest in ready.items() if soonest <= start]
            longest = max(self.tails[index] for index in may)
            urgent = [index for index in may if self.tails[index] >= longest - slack]
            chosen = min(urgent, key=lambda index: (self.operations[index].tool != tool, -self.tails[index], index))
            done[chosen] = (start, start + self.lasts[chosen])
            now, tool = done[chosen][1], self.operations[chosen].tool
            del ready[chosen]
            for later in self.after[chosen]:
                left[later] -= 1
                if not left[later]:
                    ready[later] = max(done[earlier][1] + wait for earlier, wait in self.before[later])
        return done


def _fewer_changes(task: _Task, times: Times) -> Times:
    """Move operations beside others of their tool as long as that costs no time and saves changes."""
    best, cost = times, task.cost(times)
    most = min(MOST_MOVES, MOST_EFFORT // (len(task.order) + sum(map(len, task.before))))
    is_better, tried = True, 0
    while is_better and tried < most:
        is_better = False
        order = sorted(best, key=lambda index: best[index])
        tools = [task.operations[index].tool for index in order]
        for here, there in itertools.permutations(range(len(order)), 2):
            if tools[here] != tools[there] or abs(here - there) < 2:
                continue
            tried += 1
            moved = [one for one in order if one != order[here]]
            moved.insert(there, order[here])
            made = task.in_turn(moved)
            if made is not None and task.cost(made) < cost:
                best, cost, is_better = made, task.cost(made), True
                break
            if tried >= most:
                break
    return best


def _in_order(operations: Sequence[Operation], before: Sequence[Sequence[tuple[int, int]]]) -> list[int]:
    """Sort so that each comes after what it waits for; a circle is told."""
    import graphlib

    sorter = graphlib.TopologicalSorter({n: [earlier for earlier, _ in edges] for n, edges in enumerate(before)})
    try:
        return list(sorter.static_order())
    except graphlib.CycleError as problem:
        ring: list[int] = list(dict.fromkeys(problem.args[1]))
        told = "; ".join(operations[index].words for index in ring[:6])
        raise PaperError(f"These wait for each other, so that none can be first: {told}. Let one go before.") from None


def _solve(task: _Task, most: int, seconds: float, go_on: GoOn) -> tuple[Times | None, int]:
    """Find the fewest minutes by CP-SAT; gives the times, or None, and a bound."""
    from ortools.sat.python import cp_model  # takes long to load

    model = cp_model.CpModel()
    starts = [model.new_int_var(0, most, "") for _ in task.operations]
    hands = [model.new_fixed_size_interval_var(start, last, "") for start, last in zip(starts, task.lasts, strict=True)]
    model.add_no_overlap(hands)
    end = model.new_int_var(task.bound, most, "")
    for index, edges in enumerate(task.before):
        for earlier, wait in edges:
            model.add(starts[index] >= starts[earlier] + task.lasts[earlier] + wait)
        model.add(end >= starts[index] + task.lasts[index])
    model.minimize(end)
    solver = new_solver()  # one worker, so that it is the same every time
    solver.parameters.max_time_in_seconds = seconds
    with while_wanted(solver, go_on):
        status = solver.solve(model)
    if status not in {cp_model.OPTIMAL, cp_model.FEASIBLE}:
        return None, task.bound
    times = {
        index: (solver.value(start), solver.value(start) + task.lasts[index]) for index, start in enumerate(starts)
    }
    return times, round(solver.best_objective_bound)
