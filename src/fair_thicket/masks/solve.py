"""The exact choice of presses and masks with CP-SAT.

What is least, in this order: presses; careful cutting over all masks; placements. The deepest pile follows from the
scene alone (see `problem.deepest_pile`), so there is nothing to choose. Last, without a claim, early presses and few
masks, so that plans look tidy and come out the same each time.

Masks are shared out by slots: a stamp whose impressions need cover gets as many slots as it has such impressions; an
impression chooses one slot; two that share a slot may not both lie under it in one press.
"""

import time
from dataclasses import dataclass, field
from typing import Any

from fair_thicket.masks.presses import Times, lower_bound, stamp_soon, tails_behind
from fair_thicket.masks.problem import Problem
from fair_thicket.shape.stretch import split_by_owner

UM_PER_MM = 1000


@dataclass
class Solution:
    """Press and mask slot of each impression; slot is -1 where no mask is needed."""

    times: Times
    slots: Times
    proven: bool
    fewest_presses: int


@dataclass
class _Clock:
    """Wall time that is left; CP-SAT gets what remains."""

    seconds: float
    started: float = field(default_factory=time.monotonic)

    @property
    def left(self) -> float:
        return max(0.05, self.seconds - (time.monotonic() - self.started))


def solve(problem: Problem, *, seconds: float = 2.0) -> Solution:
    """Choose presses and masks.

    Parameters
    ----------
    problem : Problem
    seconds : float
        After this the best that was found is returned, not proven.

    Notes
    -----
    Where no stamp has two impressions that need cover and the plain rule meets the lower bound, nothing is left to
    choose and the solver is not even loaded.
    """
    times = stamp_soon(problem)
    bound = lower_bound(problem)
    shared = _shared_stamps(problem)
    used = max(times, default=-1) + 1
    if used == bound and not shared:
        return Solution(times, _own_slots(problem), True, bound)
    return _Exact(problem, shared, times, bound, _Clock(seconds)).run()


def _shared_stamps(problem: Problem) -> dict[str, list[int]]:
    """Stamps with two or more impressions that need cover: only there is a mask to share."""
    members: dict[str, list[int]] = {}
    for index, behind in enumerate(problem.behind):
        if behind:
            members.setdefault(problem.stampings[index].stamp, []).append(index)
    return {stamp: indices for stamp, indices in members.items() if len(indices) > 1}


def _own_slots(problem: Problem) -> Times:
    counts: dict[str, int] = {}
    slots = []
    for one, behind in zip(problem.stampings, problem.behind, strict=True):
        if behind:
            slots.append(counts.get(one.stamp, 0))
            counts[one.stamp] = slots[-1] + 1
        else:
            slots.append(-1)
    return tuple(slots)


class _Exact:
    """One run of the solver.

    Attributes
    ----------
    model
        The CP-SAT model; objectives are added one after the other, each held once it is least.
    at
        at[i][p]: impression i is stamped in press p.
    on
        on[i][p]: the mask of impression i lies on it in press p (shared stamps only).
    """

    def __init__(self, problem: Problem, shared: dict[str, list[int]], times: Times, bound: int, clock: _Clock) -> None:
        self.problem, self.shared, self.times, self.bound, self.clock = problem, shared, times, bound, clock
        self.slots = _own_slots(problem)

    def run(self) -> Solution:
        """Solve the stages; what is not proven in time stays as good as it was found."""
        proven = self._fewest_presses()
        if self.shared and proven:
            self._build(max(self.times) + 1)
            self._add_masks()
            stages = [self._careful_length(), self._placements(), self._tidiness()]
            for number, objective in enumerate(stages):
                least = self._minimise(objective)
                if number < 2:
                    proven = proven and least is not None
                if least is None:
                    break
                self.model.add(objective <= least)
        return Solution(self.times, self.slots, proven, self.bound)

    def _fewest_presses(self) -> bool:
        """Try each number of presses from the lower bound up to what the plain rule needs."""
        for presses in range(self.bound, max(self.times) + 1):
            self._build(presses)
            status = self._solve()
            if status == "found":
                self.bound = presses
                self.times = self._read_times()
                return True
            if status == "unknown":
                self.bound = presses
                return False
        self.bound = max(self.times) + 1
        return True

    def _build(self, presses: int) -> None:
        from ortools.sat.python import cp_model

        self.cp: Any = cp_model
        self.model = cp_model.CpModel()
        self.presses = presses
        problem, model = self.problem, self.model
        heads, tails = problem.longest_chains, tails_behind(problem)
        self.at = [[model.new_bool_var(f"at{i}_{p}") for p in range(presses)] for i in range(len(problem.stampings))]
        self.when = []
        for i, row in enumerate(self.at):
            model.add_exactly_one(row)
            for p, literal in enumerate(row):
                if p < heads[i] - 1 or p > presses - 1 - tails[i]:
                    model.add(literal == 0)
            self.when.append(sum(p * literal for p, literal in enumerate(row)))
        for i, later in enumerate(problem.later):
            for j in later:
                model.add(self.when[i] + 1 <= self.when[j])
        by_stamp: dict[str, list[int]] = {}
        for i, one in enumerate(problem.stampings):
            by_stamp.setdefault(one.stamp, []).append(i)
        for stamp, members in by_stamp.items():
            if len(members) > problem.copies_of(stamp):
                for p in range(presses):
                    model.add(sum(self.at[i][p] for i in members) <= problem.copies_of(stamp))

    def _add_masks(self) -> None:
        model = self.model
        self.on: dict[int, list[Any]] = {}
        self.slot: dict[int, list[Any]] = {}
        for members in self.shared.values():
            for rank, i in enumerate(members):
                self.on[i] = [model.new_bool_var(f"on{i}_{p}") for p in range(self.presses)]
                for j in self.problem.behind[i]:
                    for p in range(self.presses):
                        model.add_implication(self.at[j][p], self.on[i][p])
                self.slot[i] = [model.new_bool_var(f"slot{i}_{m}") for m in range(len(members))]
                model.add_exactly_one(self.slot[i])
                for m in range(rank + 1, len(members)):  # a slot is named after its first member
                    model.add(self.slot[i][m] == 0)
            for rank, i in enumerate(members):
                for k in members[:rank]:
                    for m in range(len(members)):
                        for p in range(self.presses):
                            model.add_bool_or(~self.slot[i][m], ~self.slot[k][m], ~self.on[i][p], ~self.on[k][p])

    def _careful_length(self) -> Any:
        """Length cut with care, in micrometres: of each slot, the union of its members' stretches."""
        terms = []
        for members in self.shared.values():
            length = self.problem.outline_mm(members[0])
            pieces = split_by_owner([self.problem.careful[i] for i in members])
            for owners, share in sorted(pieces.items(), key=lambda entry: sorted(entry[0])):
                micrometres = round(share * length * UM_PER_MM)
                for m in range(len(members)):
                    used = self.model.new_bool_var("")
                    for owner in owners:
                        self.model.add_implication(self.slot[members[owner]][m], used)
                    terms.append(micrometres * used)
        return sum(terms)

    def _placements(self) -> Any:
        terms = []
        for lying in self.on.values():
            for p, literal in enumerate(lying):
                laid = self.model.new_bool_var("")
                before = lying[p - 1] if p else 0
                self.model.add(laid >= literal - before)
                terms.append(laid)
        return sum(terms)

    def _tidiness(self) -> Any:
        masks = sum(m * literal for slots in self.slot.values() for m, literal in enumerate(slots))
        return sum(self.when) + len(self.when) * masks

    def _minimise(self, objective: Any) -> int | None:
        """Return the least value when it was proven, else None; keep the best plan either way."""
        self.model.clear_objective()
        self.model.minimize(objective)
        if self._solve(keep_hint=True) == "unknown":
            return None
        self.times = self._read_times()
        self.slots = tuple(
            next(m for m, literal in enumerate(self.slot[i]) if self.solver.value(literal)) if i in self.slot else own
            for i, own in enumerate(self.slots)
        )
        if self.status != self.cp.OPTIMAL:
            return None
        least: int = round(self.solver.objective_value)
        return least

    def _solve(self, *, keep_hint: bool = False) -> str:
        self.solver = self.cp.CpSolver()
        self.solver.parameters.max_time_in_seconds = self.clock.left
        self.solver.parameters.num_workers = 1  # one worker and a fixed seed give the same plan every time
        self.solver.parameters.random_seed = 7
        if keep_hint:
            self.model.clear_hints()
            for i, row in enumerate(self.at):
                for p, literal in enumerate(row):
                    self.model.add_hint(literal, int(self.times[i] == p))
        self.status = self.solver.solve(self.model)
        if self.status in (self.cp.OPTIMAL, self.cp.FEASIBLE):
            return "found"
        return "none" if self.status == self.cp.INFEASIBLE else "unknown"

    def _read_times(self) -> Times:
        return tuple(next(p for p, literal in enumerate(row) if self.solver.value(literal)) for row in self.at)
