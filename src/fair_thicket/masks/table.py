"""The maker's table while a plan is told, and the steps told so far."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from fair_thicket.laid.masking_paper import Lying
from fair_thicket.model.card import Work
from fair_thicket.model.masking import Rates
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.steps import Step


@dataclass
class Table:
    """The maker's table while the plan is told."""

    work: Work
    plan: MaskPlan
    names: Mapping[str, str]
    lyings: tuple[Lying, ...]
    cut: frozenset[str]
    steps: list[Step] = field(default_factory=list)
    minutes: float = 0.0
    stamped_at: dict[str, float] = field(default_factory=dict)

    @property
    def rates(self) -> Rates:
        return self.work.card.masking.rates

    def say(self, kind: str, press: int, words: str, pieces: Iterable[str] = (), *, minutes: float = 0.0) -> None:
        """Add a step."""
        keys = tuple(pieces)
        self.steps.append(Step(kind, press, words, keys, round(minutes, 2), f"{kind}:{'+'.join(sorted(keys))}"[:200]))
        self.minutes += minutes


def say_minutes(minutes: float) -> str:
    """Say minutes, to the half."""
    rounded = max(0.5, round(minutes * 2) / 2)
    return "half a minute" if rounded == 0.5 else f"{rounded:g} min"


def count(number: int, word: str) -> str:
    """Say that one is meant, or all of several."""
    return f"the {word}" if number == 1 else f"all {number} {word}s"
