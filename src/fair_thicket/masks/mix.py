"""The quickest mix of masking and cutting out, under what the maker has pinned: one constraint program.

What is least: minutes for pressing, making and laying masks, cutting out and gluing, by the maker's rates. Placing the
stamps takes as long either way; waits for ink to dry are not weighed, but told.
"""

from dataclasses import dataclass
from typing import Any

from fair_thicket.estimate.minutes import cutting_min, gluing_min
from fair_thicket.masks.planning import plan as make_plan
from fair_thicket.masks.presses import lower_bound, stamp_soon
from fair_thicket.masks.prices import Cost, cost_of, with_pins
from fair_thicket.masks.problem import Problem
from fair_thicket.masks.problem_of_card import pose, surfaces_of
from fair_thicket.masks.program import MOST_TERMS, UM_PER_MM, Clock, Program, count_terms, covered_stamps
from fair_thicket.model.card import Work
from fair_thicket.model.masking import Pin
from fair_thicket.model.pieces import Impression, as_cut
from fair_thicket.model.plan import SHEET
from fair_thicket.model.wanted import GoOn

TICKS = 1000
"""Ticks of a minute: the solver counts in whole numbers."""
FINE = 1_000_000


@dataclass(frozen=True)
class Mix:
    """The quickest mix.

    Attributes
    ----------
    cut : tuple of str
        Impressions to cut out, beyond those that are pinned to be.
    before, after : Cost
    proven : bool
        Whether the search came to its end: no mix weighs less by what is weighed, surface by surface and with no more
        presses than the plain rule needs. Costs are those of the plans themselves, waits included.
    """

    cut: tuple[str, ...]
    before: Cost
    after: Cost
    proven: bool

    @property
    def pins(self) -> tuple[Pin, ...]:
        """Pins that make it so."""
        return tuple(Pin("cut", self.cut[at : at + 20]) for at in range(0, len(self.cut), 20))


def find_mix(work: Work, *, seconds: float = 8.0, go_on: GoOn = lambda: True) -> Mix:
    """Search the quickest mix for every surface of a card.

    Raises
    ------
    PaperError
        When the pins cannot all hold.
    """
    clock = Clock(seconds, go_on)
    before = cost_of(work, make_plan(work, seconds=min(3.0, clock.left), go_on=go_on))
    on_sheet = _sheet_counts(pose(work, SHEET)) if SHEET in surfaces_of(work) else {}
    cut: list[str] = []
    proven = True
    for surface in surfaces_of(work):
        if surface != SHEET:
            found, is_best = _mix_surface(work, pose(work, surface), on_sheet, clock)
            cut += found
            proven = proven and is_best
    pins = tuple(Pin("cut", tuple(cut[at : at + 20])) for at in range(0, len(cut), 20))
    other = with_pins(work, pins)
    after = cost_of(other, make_plan(other, seconds=3.0, go_on=go_on)) if cut else before
    if after.minutes >= before.minutes:  # the waits that were not weighed may turn the scale
        return Mix((), before, before, proven)
    return Mix(tuple(cut), before, after, proven)


def _sheet_counts(problem: Problem) -> dict[str, int]:
    counts: dict[str, int] = {}
    for one in problem.stampings:
        counts[one.stamp] = counts.get(one.stamp, 0) + 1
    return counts


def _mix_surface(work: Work, problem: Problem, on_sheet: dict[str, int], clock: Clock) -> tuple[list[str], bool]:
    if not problem.stamped:
        return [], True
    most = max(stamp_soon(problem)[: problem.stamped]) + 1
    most = max(most, lower_bound(problem), *(press + 1 for press in problem.pins.at.values()), 1)
    bound = {*problem.pins.at, *problem.pins.unmasked, *(i for group in problem.pins.together for i in group)}
    fixed = {problem.stampings[i].piece for i in bound}
    may_cut = [i for i in range(problem.stamped) if problem.stampings[i].piece not in fixed]
    covered = covered_stamps(problem)
    if count_terms(problem, most, covered) > MOST_TERMS:
        return [], False
    program = Program(problem, most, may_cut=may_cut)
    _tie(program)
    program.add_masks(covered)
    rates = work.card.masking.rates
    terms = [
        round(rates.press_min * TICKS) * (_presses_used(program) + _sheet_presses(program, on_sheet)),
        round(rates.rough_min * TICKS) * program.masks_used(),
        round(rates.lay_min * TICKS) * program.placements(),
    ]
    per_um = TICKS / rates.careful_mm_per_min / UM_PER_MM
    careful = program.model.new_int_var(0, 100_000_000, "careful")
    program.model.add(careful * FINE >= program.careful_um() * round(per_um * FINE))
    terms.append(careful)
    terms += [_cutting_ticks(work, problem, i) * program.cut[i] for i in may_cut if _is_first_layer(problem, i)]
    program.model.minimize(sum(terms))
    told = program.solve(clock)
    if told not in ("best", "found"):
        return [], False
    chosen = dict.fromkeys(problem.stampings[i].piece for i in may_cut if program.is_true(program.cut[i]))
    return list(chosen), told == "best"


def _tie(program: Program) -> None:
    """Cut out together: all layers of an image, and whatever stands in front of what is cut out."""
    problem, cut = program.problem, program.cut
    for i, following in enumerate(problem.then):
        for j in following:
            if i in cut and j in cut:
                program.model.add(cut[i] == cut[j])
    for i in range(problem.stamped):
        for j in problem.overlaps[i]:
            if j in cut:
                if i in cut:
                    program.model.add_implication(cut[j], cut[i])
                else:
                    program.model.add(cut[j] == 0)


def _is_first_layer(problem: Problem, i: int) -> bool:
    return i == 0 or problem.stampings[i - 1].piece != problem.stampings[i].piece


def _presses_used(program: Program) -> Any:
    used = [program.model.new_bool_var(f"used{p}") for p in range(program.presses)]
    for row in program.at:
        for literal, one in zip(row, used, strict=True):
            program.model.add_implication(literal, one)
    for p in range(1, len(used)):
        program.model.add_implication(used[p], used[p - 1])
    return sum(used)


def _sheet_presses(program: Program, on_sheet: dict[str, int]) -> Any:
    """How many presses the sheet to cut from takes beyond those that it takes anyway."""
    problem = program.problem
    members: dict[str, list[int]] = {}
    for i in program.cut:
        members.setdefault(problem.stampings[i].stamp, []).append(i)
    anyway = max((-(-count // problem.copies_of(stamp)) for stamp, count in on_sheet.items()), default=0)
    presses = program.model.new_int_var(anyway, anyway + len(program.cut), "sheet")
    for stamp, indices in members.items():
        copies = problem.copies_of(stamp)
        program.model.add(presses * copies >= sum(program.cut[i] for i in indices) + on_sheet.get(stamp, 0))
    return presses


def _cutting_ticks(work: Work, problem: Problem, i: int) -> int:
    piece = work.card.find(problem.stampings[i].piece)
    rates = work.card.masking.rates
    if not isinstance(piece, Impression):
        return 0
    return round((cutting_min(as_cut(piece), work) + gluing_min(rates)) * TICKS)
