"""The order of stamping: presses, masks to cut, and the rehearsal that proves them."""

from fair_thicket.masks.judging import judge
from fair_thicket.masks.planning import plan, plan_problem
from fair_thicket.masks.posing import pose, pose_bare
from fair_thicket.masks.problem import Problem, Stamping
from fair_thicket.masks.rehearsal import Rehearsal, rehearse
from fair_thicket.masks.timetable import Step, list_steps

__all__ = [
    "Problem",
    "Rehearsal",
    "Stamping",
    "Step",
    "judge",
    "list_steps",
    "plan",
    "plan_problem",
    "pose",
    "pose_bare",
    "rehearse",
]
