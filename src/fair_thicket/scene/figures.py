"""What tells one layout of a card from another, in figures."""

import msgspec

from fair_thicket.laid.visibility import look, sights_of
from fair_thicket.model.card import Work
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.scene.balance import Balance, weigh
from fair_thicket.scene.judging import judge


class Figures(msgspec.Struct, frozen=True):
    """What tells one layout from another.

    Attributes
    ----------
    pieces : int
    troubles, cautions, notes : int
        How many findings of each weight.
    balance : Balance
    hidden_share : float
        Share of all that was made which nobody sees.
    worst : str
        Title of the worst finding; empty for none.
    """

    pieces: int
    troubles: int
    cautions: int
    notes: int
    balance: Balance
    hidden_share: float
    worst: str


def figures_of(work: Work) -> Figures:
    """Work out what tells a layout from others."""
    view = look(work)
    findings: list[Finding] = [one for one in judge(work, view, remedies=False) if not one.is_dismissed]
    sights = sights_of(view)
    there = sum(sight.area_mm2 for sight in sights)
    seen = sum(sight.visible_mm2 for sight in sights)
    count = {weight: sum(one.weight is weight for one in findings) for weight in Weight}
    return Figures(
        len(work.card.pieces),
        count[Weight.TROUBLE],
        count[Weight.CAUTION],
        count[Weight.NOTE],
        weigh(view),
        max(0.0, 1 - seen / there) if there else 0.0,
        findings[0].title if findings and findings[0].weight > Weight.GOOD else "",
    )
