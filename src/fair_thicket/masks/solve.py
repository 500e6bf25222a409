"""The exact choice of presses and masks.

What is least, in this order: presses; careful cutting over all masks; placements. The deepest pile follows from the
scene alone (see `problem.deepest_pile`), so there is nothing to choose. Then as many half-turn pairs as may be. Last,
without a claim, early presses and few masks.
"""

from dataclasses import dataclass

from fair_thicket.masks.presses import Times, lower_bound, stamp_soon, with_washes, without_washes
from fair_thicket.masks.problem import Problem
from fair_thicket.masks.program import MOST_TERMS, UM_PER_MM, Clock, Program, count_terms, shared_stamps
from fair_thicket.model.errors import PaperError
from fair_thicket.model.wanted import GoOn
from fair_thicket.shape.stretch import measure

TIDY_EFFORT = 0.2
"""How much work is spent on what is only nice to have."""


@dataclass
class Solution:
    """Press and mask slot of each stamping; slot is -1 where no mask is needed.

    Attributes
    ----------
    times, slots : tuple of int
    proven : bool
        Whether presses, careful length and placements are proven least.
    fewest_presses : int
        Proven lower bound on presses.
    least_careful_mm : float
        Proven lower bound on careful cutting, for that many presses.
    """

    times: Times
    slots: Times
    proven: bool
    fewest_presses: int
    least_careful_mm: float


def solve(problem: Problem, *, seconds: float = 2.0, go_on: GoOn = lambda: True) -> Solution:
    """Choose presses and masks.

    Parameters
    ----------
    problem : Problem
    seconds : float
        After this the best that was found is returned, not proven.
    go_on : callable
        Asked now and then; False ends the search, with what was found.

    Raises
    ------
    PaperError
        When the pins cannot all hold.

    Notes
    -----
    Where no stamp has two impressions that need cover, the plain rule meets the lower bound and nothing is pinned or
    turned, nothing is left to choose and the solver is not even loaded.
    """
    times = stamp_soon(problem)
    bound = lower_bound(problem)
    shared = shared_stamps(problem)
    run = _Run(problem, shared, times, bound, Clock(seconds, go_on))
    used = _count(problem, times)
    if used == bound and not shared and not problem.half_turns and not problem.pins.bind_presses:
        return run.solution(proven=True)
    return run.exact()


def _count(problem: Problem, times: Times) -> int:
    """Presses up to the last one that something is stamped in; the columns of washes are none."""
    return max(without_washes(problem, times), default=-1) + 1


def own_slots(problem: Problem) -> Times:
    """Return every impression that needs cover a mask of its own."""
    counts: dict[str, int] = {}
    slots = []
    for one, behind in zip(problem.stampings, problem.behind, strict=True):
        if behind:
            slots.append(counts.get(one.stamp, 0))
            counts[one.stamp] = slots[-1] + 1
        else:
            slots.append(-1)
    return tuple(slots)


class _Run:
    """One search, stage by stage; what is not proven in time stays as good as it was found."""

    def __init__(self, problem: Problem, shared: dict[str, list[int]], times: Times, bound: int, clock: Clock) -> None:
        self.problem, self.shared, self.times, self.bound, self.clock = problem, shared, times, bound, clock
        self.slots = own_slots(problem)
        self.is_filled = False
        single = [i for i, behind in enumerate(problem.behind) if behind and not self._is_shared(i)]
        self._fixed_mm = sum(self._careful_mm(i) for i in single)
        groups = [[self._careful_mm(i) for i in members] for members in shared.values()]
        self._least_shared_mm = sum(max(group) for group in groups)  # a mask serves its most demanding member at least

    def _is_shared(self, i: int) -> bool:
        return i in self.shared.get(self.problem.stampings[i].stamp, ())

    def _careful_mm(self, i: int) -> float:
        return measure(self.problem.careful[i]) * self.problem.outline_mm(i)

    def solution(self, *, proven: bool) -> Solution:
        least = self._fixed_mm + self._least_shared_mm
        return Solution(self.times, self.slots, proven, self.bound, least)

    def exact(self) -> Solution:
        proven = self._fewest_presses()
        if not (self.shared or self.problem.half_turns):
            return self.solution(proven=proven)
        presses = _count(self.problem, self.times)
        if count_terms(self.problem, presses, self.shared) > MOST_TERMS:
            return self.solution(proven=False)
        program = Program(self.problem, presses, is_filled=self.is_filled)
        program.add_masks(self.shared)
        stages = [("careful", program.careful_um()), ("placements", program.placements())] if self.shared else []
        stages.append(("turns", -program.turned_pairs()))
        stages.append(("tidy", program.tidiness()))
        for name, objective in stages:
            is_claimed = name in ("careful", "placements")
            least = self._minimise(program, objective, effort=None if is_claimed else TIDY_EFFORT)
            if is_claimed:  # with late presses the washes stand between them, and masks are not counted through
                proven = proven and least is not None and not self.problem.late
            if name == "careful":
                found = max(0.0, program.solver.best_objective_bound) / UM_PER_MM if program.solver else 0.0
                self._least_shared_mm = max(self._least_shared_mm, found)
            if least is None:
                break
            program.model.add(objective <= least)
        return self.solution(proven=proven)

    def _fewest_presses(self) -> bool:
        """Try each number of presses from the lower bound up to what the plain rule needs, or what pins may cost."""
        count, pins = self.problem.stamped, self.problem.pins
        known = _count(self.problem, self.times)
        if known == self.bound and not pins.bind_presses:
            return True
        if pins.bind_presses:
            most = count + max(pins.at.values(), default=0) + 1
            # where so many presses cannot all be filled, some before a pinned one stay empty
            tries = [
                *((n, True) for n in range(self.bound, count + 1)),
                *((n, False) for n in range(self.bound, most + 1)),
            ]
        else:
            tries = [(presses, False) for presses in range(self.bound, known)]
        for presses, self.is_filled in tries:
            if count_terms(self.problem, presses, {}) > MOST_TERMS:
                if pins.bind_presses:
                    raise PaperError("There are too many impressions to work the pins out; take the pins away.")
                self.bound = presses
                return False
            program = Program(self.problem, presses, is_filled=self.is_filled)
            told = program.solve(self.clock)
            if told in ("best", "found"):
                self.bound = presses
                self.times = with_washes(self.problem, program.read_times())
                return True
            if told == "unknown":
                self.bound = presses
                if pins.bind_presses:
                    raise PaperError("The pins could not be worked out in time; take one of them away.")
                return False
        if pins.bind_presses:
            raise PaperError("These pins contradict each other or the order of the images; take one of them away.")
        self.bound = known
        return True

    def _minimise(self, program: Program, objective: object, *, effort: float | None) -> int | None:
        """Return the least value when it was proven, else None; keep the best plan either way."""
        if isinstance(objective, int):
            return objective
        program.model.clear_objective()
        program.model.minimize(objective)
        program.hint(without_washes(self.problem, self.times), self.slots)
        told = program.solve(self.clock, effort=effort)
        if told not in ("best", "found"):
            return None
        self.times = with_washes(self.problem, program.read_times())
        self.slots = program.read_slots(self.slots)
        return round(program.solver.objective_value) if told == "best" else None
