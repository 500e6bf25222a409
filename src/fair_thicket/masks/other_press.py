"""A stamping moved to another press of the plan: whether paper lets it, and what it would bring."""

from collections.abc import Mapping

from fair_thicket.masks.pin_edits import add_pin
from fair_thicket.masks.pins import too_early
from fair_thicket.masks.planning import plan as make_plan
from fair_thicket.masks.problem import Problem
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.masking import Pin
from fair_thicket.model.plan import SHEET, MaskPlan, Press

TRIED_S = 3.0
"""A maker waits no longer to see what a move would bring."""


def why_not(plan: MaskPlan, problem: Problem, names: Mapping[str, str], key: str, column: int) -> str:
    """Say why a stamping cannot move to a press of the plan, or to one more behind the last; empty where it can.

    Parameters
    ----------
    problem : Problem
        Of the surface that it is stamped on.
    names : mapping
        What pieces are called, by id.
    key : str
        Of the stamping.
    column : int
        Index of the press; the number of presses for one more.
    """
    home = next(p for p, press in enumerate(plan.presses) if key in press.impressions)
    if plan.presses[home].by_hand:
        return f"The {names.get(key, key)} is stamped by hand when all is glued; stamp it before to give it a press."
    surface = plan.presses[home].surface
    if column < len(plan.presses):
        press = plan.presses[column]
        if press.is_ink:
            return "Washes are inked here; nothing is stamped then."
        if press.by_hand:
            return "Here all is glued, and stamps are pressed by hand; “When it is stamped” sends an image here."
        if press.surface != surface:
            upon = names.get(surface, "the card itself") if surface != SHEET else "the sheet to cut from"
            return f"The {names.get(key, key)} is stamped on {upon}, not in this press."
    elif surface != _last_on_table(plan).surface and not _last_on_table(plan).is_ink:
        return "A further press here would come before those of the next surface; drop it on the last of its own."
    index = next(i for i, one in enumerate(problem.stampings) if one.id == key)
    return too_early(problem, names, index, press_on(plan, surface, column))


def _last_on_table(plan: MaskPlan) -> Press:
    return next(press for press in reversed(plan.presses) if not press.by_hand)


def press_on(plan: MaskPlan, surface: str, column: int) -> int:
    """Index of a press of the plan among those of its surface."""
    first = next(p for p, press in enumerate(plan.presses) if press.surface == surface)
    washes = sum(press.is_ink for press in plan.presses[first:column] if press.surface == surface)
    return column - first - washes


def try_pin(work: Work, pin: Pin, plan: MaskPlan | None) -> tuple[MaskPlan, str]:
    """Plan with a pin and say what it changes.

    Raises
    ------
    PaperError
        When there is no plan to compare with, or the order of the images does not let it.
    """
    tried = add_pin(work, pin)
    made = make_plan(tried, seconds=TRIED_S)
    if plan is None:
        raise PaperError("There is no plan to compare with.")
    words = f"{made.press_count} presses, {len(made.masks)} masks, {made.careful_mm:.0f} mm with care"
    presses, careful = made.press_count - plan.press_count, made.careful_mm - plan.careful_mm
    change = [f"{presses:+d} press{'es' * (abs(presses) > 1)}"] if presses else []
    change += [f"{careful:+.0f} mm"] if abs(careful) >= 1 else []
    return made, f"{words} ({', '.join(change)})" if change else f"{words}: it costs nothing"
