"""The maker's own pace: what steps really took, held against what was planned, by kind; used when the maker says so."""

import statistics
from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

import msgspec

from fair_thicket.assembly.operation import Operation
from fair_thicket.edits.pieces import set_card
from fair_thicket.model.assembly import MOST_TOOK, Took
from fair_thicket.model.card import Work
from fair_thicket.model.masking import Rates

LEAST_STEPS = 3
"""Fewer steps of a kind tell nothing."""
AWAY = 6.0
"""A step that took so many times as long as planned, and minutes more, was interrupted."""
AWAY_MIN = 10.0
NOT_DONE_MIN = 0.03
"""A tick sooner than this was only a tick: the step had been done before."""
SLOWEST, QUICKEST = 4.0, 0.25
KINDS = MappingProxyType({"press": "stamping", "ink": "inking", "cut": "cutting out", "glue": "gluing"})
"""Kinds whose minutes follow from rates."""
RATES: Mapping[str, tuple[str, ...]] = MappingProxyType(
    {
        "press": ("place_min", "press_min", "lay_min"),
        "ink": ("wash_min",),
        "cut": ("die_min",),
        "glue": ("glue_min",),
    }
)


class Pace(NamedTuple):
    """How steps of a kind went: how many, and how many times as long as planned they took (the median)."""

    kind: str
    steps: int
    ratio: float

    @property
    def words(self) -> str:
        """A sentence."""
        name = KINDS[self.kind]
        if abs(self.ratio - 1) < 0.05:
            return f"{name}: {self.steps} steps took as long as planned"
        return f"{name}: {self.steps} steps took {self.ratio:.1f} times as long as planned"


def note_time(work: Work, operation: Operation, real_min: float) -> Work:
    """Keep what a step took, for one card; what was interrupted, or ticked off at once, tells nothing."""
    planned = operation.minutes
    if operation.kind not in KINDS or planned <= 0:
        return work
    if real_min < NOT_DONE_MIN or real_min > AWAY * planned + AWAY_MIN:
        return work
    took = (*work.card.assembly.took, Took(operation.kind, planned, round(real_min, 3)))
    return _set_took(work, took[-MOST_TOOK:])


def list_pace(work: Work) -> list[Pace]:
    """Say of every kind of step how long it really takes, where enough were done."""
    found = []
    for kind in KINDS:
        ratios = [one.real_min / one.planned_min for one in work.card.assembly.took if one.kind == kind]
        if len(ratios) >= LEAST_STEPS:
            ratio = min(max(statistics.median(ratios), QUICKEST), SLOWEST)
            found.append(Pace(kind, len(ratios), round(ratio, 3)))
    return found


def use_pace(work: Work) -> Work:
    """Change the card's rates to the maker's own pace; what was measured against the old ones is forgotten."""
    rates: Rates = work.card.masking.rates
    known = list_pace(work)
    for pace in known:
        fields: dict[str, float] = {key: round(getattr(rates, key) * pace.ratio, 3) for key in RATES[pace.kind]}
        if pace.kind == "cut":
            fields["careful_mm_per_min"] = round(rates.careful_mm_per_min / pace.ratio, 2)
        rates = msgspec.structs.replace(rates, **fields)
    used = {pace.kind for pace in known}
    left = tuple(one for one in work.card.assembly.took if one.kind not in used)
    masking = msgspec.structs.replace(work.card.masking, rates=rates)
    return _set_took(set_card(work, masking=masking), left)


def _set_took(work: Work, took: tuple[Took, ...]) -> Work:
    return set_card(work, assembly=msgspec.structs.replace(work.card.assembly, took=took))
