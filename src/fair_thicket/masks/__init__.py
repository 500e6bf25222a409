"""The order of stamping: presses, masks to cut, and the rehearsal that proves them."""

from fair_thicket.masks.differences import Difference
from fair_thicket.masks.judging import judge
from fair_thicket.masks.landing import Landing, land, last_on_table
from fair_thicket.masks.mix import Mix, find_mix
from fair_thicket.masks.pins import Refused, plan_with_pins
from fair_thicket.masks.planning import plan, plan_problem
from fair_thicket.masks.prices import Cost, Price, cost_of, price_all, price_pin
from fair_thicket.masks.problem import Problem, Stamping
from fair_thicket.masks.problem_of_card import pose, pose_bare
from fair_thicket.masks.rehearsal import Rehearsal, rehearse
from fair_thicket.masks.slip import Slip, list_slips
from fair_thicket.masks.telling import is_slight, tell_difference
from fair_thicket.masks.timetable import list_steps
from fair_thicket.model.steps import Step

__all__ = [
    "Cost",
    "Difference",
    "Landing",
    "Mix",
    "Price",
    "Problem",
    "Refused",
    "Rehearsal",
    "Slip",
    "Stamping",
    "Step",
    "cost_of",
    "find_mix",
    "is_slight",
    "judge",
    "land",
    "last_on_table",
    "list_slips",
    "list_steps",
    "plan",
    "plan_problem",
    "plan_with_pins",
    "pose",
    "pose_bare",
    "price_all",
    "price_pin",
    "rehearse",
    "tell_difference",
]
