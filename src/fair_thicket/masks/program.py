"""The stamping problem as a constraint program for CP-SAT.

Masks are shared out by slots: a stamp whose impressions need cover gets as many slots as it has such impressions; an
impression chooses one slot; two that share a slot may not both lie under it in one column. Columns are the presses
and, behind them, the washes.
"""

import itertools
import time
from collections.abc import Collection
from dataclasses import dataclass, field
from typing import Any

from fair_thicket.masks.presses import Times, tails_behind
from fair_thicket.masks.problem import Problem
from fair_thicket.model.solving import new_solver
from fair_thicket.model.wanted import GoOn, while_wanted
from fair_thicket.shape.stretch import split_by_owner

UM_PER_MM = 1000
MOST_TERMS = 1_000_000
"""Terms of a program that is still written down (some 3 s): beyond it the plain rule stands, unproven."""


@dataclass
class Clock:
    """Wall time that is left; CP-SAT gets what remains."""

    seconds: float
    go_on: GoOn = lambda: True
    started: float = field(default_factory=time.monotonic)

    @property
    def left(self) -> float:
        return max(0.05, self.seconds - (time.monotonic() - self.started))


def covered_stamps(problem: Problem) -> dict[str, list[int]]:
    """Stamps with impressions that need cover, and which those are."""
    members: dict[str, list[int]] = {}
    for index, behind in enumerate(problem.behind):
        if behind:
            members.setdefault(problem.stampings[index].stamp, []).append(index)
    return members


def shared_stamps(problem: Problem) -> dict[str, list[int]]:
    """Stamps with two or more impressions that need cover: only there is a mask to share."""
    return {stamp: indices for stamp, indices in covered_stamps(problem).items() if len(indices) > 1}


def count_terms(problem: Problem, presses: int, shared: dict[str, list[int]]) -> int:
    """Return about how many terms the program of so many presses has, so that none is begun that never ends."""
    columns = presses + len(problem.stampings) - problem.stamped
    edges = sum(len(later) for later in problem.later)
    order = edges * presses * presses // 2 + problem.stamped * presses
    covered = sum(len(problem.behind[i]) * presses for members in shared.values() for i in members)
    pairs = sum(len(members) ** 2 // 2 * (len(members) + columns) for members in shared.values())
    return order + covered + pairs


class Program:
    """Variables and laws of one number of presses.

    Attributes
    ----------
    at
        at[i][p]: impression i is stamped in press p.
    cut
        cut[i]: impression i is cut out instead (only where that is left open).
    on
        on[i][c]: the mask of impression i lies on it in column c (after `add_masks`).
    slot
        slot[i][m]: impression i uses mask m of its stamp.
    """

    def __init__(
        self, problem: Problem, presses: int, *, may_cut: Collection[int] = (), is_filled: bool = False
    ) -> None:
        from ortools.sat.python import cp_model

        self.cp: Any = cp_model
        self.model = cp_model.CpModel()
        self.problem, self.presses = problem, presses
        count = problem.stamped
        self.columns = presses + len(problem.stampings) - count
        self.cut: dict[int, Any] = {i: self.model.new_bool_var(f"cut{i}") for i in sorted(may_cut)}
        self.at = [[self.model.new_bool_var(f"at{i}_{p}") for p in range(presses)] for i in range(count)]
        self.when = [sum(p * literal for p, literal in enumerate(row)) for row in self.at]
        self.on: dict[int, list[Any]] = {}
        self.slot: dict[int, list[Any]] = {}
        self.windows = self._windows()
        self.shared: dict[str, list[int]] = {}
        self.status: Any = None
        self.solver: Any = None
        self._add_order()
        self._add_copies()
        self._add_wishes()
        if is_filled:  # a pin to a later press leaves none empty before it
            for p in range(presses):
                self.model.add_bool_or([row[p] for row in self.at])

    def _windows(self) -> list[range]:
        """Return the presses that each impression may be in: the chains before it and behind it need theirs."""
        if self.cut:  # whatever is cut out frees what waits for it
            return [range(self.presses)] * self.problem.stamped
        tails = tails_behind(self.problem)
        heads = self.problem.longest_chains
        return [range(heads[i] - 1, max(heads[i] - 1, self.presses - tails[i])) for i in range(self.problem.stamped)]

    def _add_order(self) -> None:
        model, windows = self.model, self.windows
        for i, row in enumerate(self.at):
            if i in self.cut:
                model.add(sum(row) + self.cut[i] == 1)
            else:
                model.add_exactly_one(row)
                for p, literal in enumerate(row):
                    if p not in windows[i]:
                        model.add(literal == 0)
        for i, later in enumerate(self.problem.later):
            for j in later:
                free = self.cut.get(i, 0)
                for p in windows[j]:
                    if p < windows[i].stop:  # else i is stamped by then in any case
                        before = self.at[i][windows[i].start : p]
                        model.add(sum(self.at[j][windows[j].start : p + 1]) <= sum(before) + free)

    def _add_copies(self) -> None:
        by_stamp: dict[str, list[int]] = {}
        for i in range(self.problem.stamped):
            by_stamp.setdefault(self.problem.stampings[i].stamp, []).append(i)
        for stamp, members in by_stamp.items():
            copies = self.problem.copies_of(stamp)
            if len(members) > copies:
                for p in range(self.presses):
                    self.model.add(sum(self.at[i][p] for i in members) <= copies)

    def _add_wishes(self) -> None:
        for i, press in self.problem.pins.at.items():
            if press < self.presses and i not in self.cut:
                self.model.add(self.at[i][press] == 1)
            elif i not in self.cut:
                self.model.add_bool_or([])  # there is no such press yet
        for group in self.problem.pins.together:
            for first, second in itertools.pairwise(group):
                for p in range(self.presses):
                    self.model.add(self.at[first][p] == self.at[second][p])

    # -- masks ---------------------------------------------------------------------------------------------------

    def add_masks(self, shared: dict[str, list[int]]) -> None:
        """Add masks for stamps that may share them."""
        self.shared = shared
        model, problem = self.model, self.problem
        for members in shared.values():
            for rank, i in enumerate(members):
                self.on[i] = [model.new_bool_var(f"on{i}_{c}") for c in range(self.columns)]
                self._add_needs(i)
                self.slot[i] = [model.new_bool_var(f"slot{i}_{m}") for m in range(len(members))]
                model.add_exactly_one(self.slot[i])
                for m in range(rank + 1, len(members)):  # a slot is named after its first member
                    model.add(self.slot[i][m] == 0)
            behind = {i: set(problem.behind[i]) for i in members}
            for i, k in itertools.combinations(members, 2):
                if not self.cut and not behind[i].isdisjoint(behind[k]):  # one stamp is pressed over both
                    for m in range(len(members)):
                        model.add_bool_or(~self.slot[i][m], ~self.slot[k][m])
                    continue
                same = model.new_bool_var(f"same{i}_{k}")
                for m in range(len(members)):
                    model.add_bool_or(~self.slot[i][m], ~self.slot[k][m], same)
                for c in range(self.columns):
                    model.add_bool_or(~same, ~self.on[i][c], ~self.on[k][c])

    def _add_needs(self, i: int) -> None:
        freed = [self.cut[i]] if i in self.cut else []
        for j in self.problem.behind[i]:
            if j >= self.problem.stamped:
                column = self.presses + j - self.problem.stamped
                self.model.add_bool_or([self.on[i][column], *freed])
            else:
                for p in self.windows[j]:
                    self.model.add_bool_or([~self.at[j][p], self.on[i][p], *freed])

    def careful_um(self) -> Any:
        """Length cut with care over shared masks, in micrometres: of each slot, the union of its members' stretches."""
        terms = []
        for members in self.shared.values():
            length = self.problem.outline_mm(members[0])
            pieces = split_by_owner([self.problem.careful[i] for i in members])
            for owners, share in sorted(pieces.items(), key=lambda entry: sorted(entry[0])):
                micrometres = round(share * length * UM_PER_MM)
                if micrometres == 0:
                    continue
                used_by = []
                for m in range(max(owners) + 1):
                    used = self.model.new_bool_var("")
                    for owner in owners:
                        i = members[owner]
                        freed = [self.cut[i]] if i in self.cut else []
                        self.model.add_bool_or([~self.slot[i][m], used, *freed])
                    used_by.append(used)
                least = 0 if self.cut else self._most_at_once([members[owner] for owner in owners])
                count = self.model.new_int_var(least, len(used_by), "")
                self.model.add(count == sum(used_by))
                terms.append(micrometres * count)
        return sum(terms)

    def _most_at_once(self, members: Collection[int]) -> int:
        """Count impressions that need cover while one and the same thing is stamped: each needs a mask of its own."""
        behind = [j for i in members for j in self.problem.behind[i]]
        return max(behind.count(j) for j in set(behind))

    def placements(self) -> Any:
        """How often shared masks are laid down."""
        terms = []
        for i, lying in self.on.items():
            times = []
            for c, literal in enumerate(lying):
                laid = self.model.new_bool_var("")
                before = lying[c - 1] if c else 0
                self.model.add(laid >= literal - before)
                times.append(laid)
            # a count with a least value of its own gives the search its lower bound
            least = 0 if self.cut else 1
            count = self.model.new_int_var(least, self.columns, "")
            self.model.add(count == sum(times))
            if i in self.cut:
                self.model.add(count + self.cut[i] >= 1)
            terms.append(count)
        return sum(terms)

    def masks_used(self) -> Any:
        """How many shared masks are cut."""
        terms = []
        for members in self.shared.values():
            for m in range(len(members)):
                used = self.model.new_bool_var("")
                for i in members[m:]:
                    freed = [self.cut[i]] if i in self.cut else []
                    self.model.add_bool_or([~self.slot[i][m], used, *freed])
                terms.append(used)
        return sum(terms)

    def turned_pairs(self) -> Any:
        """How many half-turn pairs are stamped in neighbouring presses."""
        terms = []
        for i, j in self.problem.half_turns:
            pair = self.model.new_bool_var(f"turn{i}_{j}")
            apart = self.cp.Domain.from_values([-1, 1])
            self.model.add_linear_expression_in_domain(self.when[j] - self.when[i], apart).only_enforce_if(pair)
            for k in (i, j):
                if k in self.cut:
                    self.model.add_implication(pair, ~self.cut[k])
            terms.append(pair)
        return sum(terms)

    def tidiness(self) -> Any:
        """Early presses and low slots, so that plans look tidy and come out the same each time."""
        masks = sum(m * literal for slots in self.slot.values() for m, literal in enumerate(slots))
        return sum(self.when) + len(self.when) * masks

    # -- solving -------------------------------------------------------------------------------------------------

    def hint(self, times: Times, slots: Times) -> None:
        """Begin the search at a plan."""
        self.model.clear_hints()
        for i, row in enumerate(self.at):
            for p, literal in enumerate(row):
                self.model.add_hint(literal, int(times[i] == p))
        for i, literals in self.slot.items():
            for m, literal in enumerate(literals):
                self.model.add_hint(literal, int(slots[i] == m))

    def solve(self, clock: Clock, *, effort: float | None = None) -> str:
        """Solve; returns ``best``, ``found``, ``none`` or ``unknown``. Ends early when the clock says so.

        Parameters
        ----------
        clock : Clock
        effort : float or None
            Bound in the solver's own measure of work (about seconds), which is the same on every machine.
        """
        self.solver = new_solver(seed=7)  # one worker and a fixed seed give the same plan every time
        if effort is not None:
            self.solver.parameters.max_deterministic_time = effort
        self.solver.parameters.max_time_in_seconds = clock.left
        with while_wanted(self.solver, clock.go_on):
            self.status = self.solver.solve(self.model)
        if self.status == self.cp.OPTIMAL:
            return "best"
        if self.status == self.cp.FEASIBLE:
            return "found"
        return "none" if self.status == self.cp.INFEASIBLE else "unknown"

    def is_true(self, literal: Any) -> bool:
        """Value of a literal in what was found."""
        return bool(self.solver.value(literal))

    def read_times(self) -> list[int]:
        """Press of each impression; -1 for one that is cut out."""
        return [next((p for p, literal in enumerate(row) if self.is_true(literal)), -1) for row in self.at]

    def read_slots(self, own: Times) -> Times:
        """Slot of each stamping; those that share nothing keep their own."""
        return tuple(
            next(m for m, literal in enumerate(self.slot[i]) if self.is_true(literal)) if i in self.slot else slot
            for i, slot in enumerate(own)
        )
