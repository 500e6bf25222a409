"""What all engines have to say at the table: their steps as one list, their pages as one print."""

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

from fair_thicket.engines import ENGINES, Engine
from fair_thicket.model.card import Work
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.steps import Step

if TYPE_CHECKING:
    from fair_thicket.printing.plan_pdf import Side


def list_all_steps(work: Work, plan: MaskPlan, *, engines: Sequence[Engine] = tuple(ENGINES)) -> list[Step]:
    """List what is done at the table for a side of a card: press by press, within each engine by engine in their turns.

    What an engine says of a press comes before the same press of the engines after it: colouring, for one, comes right
    before the first wash.
    """
    steps = [step for one in _in_turn(engines) if one.steps is not None for step in one.steps(work, plan)]
    return sorted(steps, key=lambda step: step.press)


def print_card(
    sides: "Sequence[Side]",
    pictures: Mapping[str, bytes],
    *,
    paper: str | None = None,
    engines: Sequence[Engine] = tuple(ENGINES),
    go_on: Callable[[], bool] = lambda: True,
) -> bytes:
    """Print a card's plan with the pages of every engine; see `printing.plan_pdf`."""
    from fair_thicket.printing.plan_pdf import plan_pdf  # loaded when something is printed

    pages = [one.pages for one in _in_turn(engines) if one.pages is not None]
    return plan_pdf(sides, pictures, pages=pages, paper=paper, go_on=go_on)


def _in_turn(engines: Sequence[Engine]) -> list[Engine]:
    return sorted(engines, key=lambda one: one.turn)
