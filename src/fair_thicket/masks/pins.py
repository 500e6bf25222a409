"""What the maker pins: why one cannot hold, and the plan with those that can."""

from collections.abc import Mapping
from dataclasses import dataclass

import msgspec

from fair_thicket.masks.planning import plan as make_plan
from fair_thicket.masks.planning import plan_problem
from fair_thicket.masks.problem import Problem
from fair_thicket.masks.problem_of_card import pose, surfaces_of
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.masking import Pin
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.speech import join_words
from fair_thicket.model.wanted import GoOn

CHECK_S = 2.0


@dataclass(frozen=True)
class Refused:
    """A pin that cannot hold, and why."""

    pin: Pin
    reason: str


def plan_with_pins(work: Work, *, seconds: float = 9.0, go_on: GoOn = lambda: True) -> tuple[MaskPlan, list[Refused]]:
    """Plan a card with all pins that can hold, in the order in which they were made; says which cannot."""
    try:
        return make_plan(work, seconds=seconds, go_on=go_on), []
    except PaperError:
        kept: list[Pin] = []
        refused = []
        for pin in work.card.masking.pins:
            try:
                check_pins(pinned(work, [*kept, pin]))
            except PaperError as problem:
                refused.append(Refused(pin, why_not(pinned(work, kept), pin) or str(problem)))
            else:
                kept.append(pin)
        return make_plan(pinned(work, kept), seconds=seconds, go_on=go_on), refused


def pinned(work: Work, pins: list[Pin]) -> Work:
    """Return a work with exactly these pins."""
    masking = msgspec.structs.replace(work.card.masking, pins=tuple(pins))
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, masking=masking))


def check_pins(work: Work) -> None:
    """Make sure that the pins of a card can all hold.

    Raises
    ------
    PaperError
        When they cannot.
    """
    for surface in surfaces_of(work):
        problem = pose(work, surface)
        if problem.pins.bind_presses:
            plan_problem(problem, seconds=CHECK_S)


def why_not(work: Work, pin: Pin) -> str:
    """Say why a pin cannot hold, as far as the order of the images and the number of stamps tell; else nothing."""
    names = name_pieces(work)
    for surface in surfaces_of(work):
        problem = pose(work, surface)
        first: dict[str, int] = {}
        last: dict[str, int] = {}
        for index, one in enumerate(problem.stampings):
            first.setdefault(one.piece, index)
            last[one.piece] = index
        here = [key for key in pin.pieces if key in last]
        if pin.kind in ("first", "press"):
            for key in here:
                index, press = (first[key], 0) if pin.kind == "first" else (last[key], pin.press)
                reason = too_early(problem, names, index, press)
                if reason:
                    return reason
        if pin.kind == "together" and len(here) > 1:
            reason = _never_together(problem, names, [last[key] for key in here])
            if reason:
                return reason
    return ""


def too_early(problem: Problem, names: Mapping[str, str], index: int, press: int) -> str:
    """Say what must be stamped before an impression, when that leaves no room before a press; else nothing."""
    heads = problem.longest_chains
    if press >= heads[index] - 1:
        return ""
    chain = []
    at = index
    while heads[at] > 1:
        at = next(i for i, later in enumerate(problem.later) if at in later and heads[i] == heads[at] - 1)
        chain.append(names[problem.stampings[at].id])
    which = join_words(list(reversed(chain)))
    name = names[problem.stampings[index].id]
    if len(chain) == 1:
        told = f"{which} stands in front of it and is stamped before it"
    else:
        told = f"{which} stand in front of it, one before the other, and are stamped before it"
    return f"The {name} can come in press {heads[index]} at the earliest: {told}."


def _never_together(problem: Problem, names: dict[str, str], group: list[int]) -> str:
    for i in group:
        for j in group:
            if i == j:
                continue
            one, other = names[problem.stampings[i].id], names[problem.stampings[j].id]
            if _is_before(problem, i, j):
                return f"The {one} must lie under its mask before the {other} is stamped; they cannot share a press."
            same = [k for k in group if problem.stampings[k].stamp == problem.stampings[i].stamp]
            if len(same) > problem.copies_of(problem.stampings[i].stamp):
                twin = names[problem.stampings[same[-1]].id]
                return f"The {one} and the {twin} are of one stamp, and there is one of it."
    return ""


def _is_before(problem: Problem, i: int, j: int) -> bool:
    """Whether i must be stamped before j, by a chain of overlaps."""
    reached, frontier = {i}, [i]
    while frontier:
        at = frontier.pop()
        for k in problem.later[at]:
            if k == j:
                return True
            if k not in reached:
                reached.add(k)
                frontier.append(k)
    return False
