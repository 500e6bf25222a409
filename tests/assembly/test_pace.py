"""Rates that learn: what steps really took is kept, summed up by kind, and used when the maker says so."""

import pytest

from fair_thicket.assembly.operation import Operation
from fair_thicket.assembly.pace import list_pace, note_time, use_pace
from fair_thicket.model.assembly import MOST_TOOK
from fair_thicket.model.card import Work


def timed(kind: str, *pairs: tuple[float, float]) -> Work:
    work = Work()
    for number, (planned, real) in enumerate(pairs):
        work = note_time(work, Operation(f"o{number}", kind, "do", (), planned, "glue"), real)
    return work


def test_the_median_of_a_kind_is_its_pace_and_few_steps_tell_nothing() -> None:
    work = timed("glue", (1, 1.5), (2, 3.2), (1, 1.4))
    (pace,) = list_pace(work)
    assert (pace.kind, pace.steps, pace.ratio) == ("glue", 3, 1.5)
    assert pace.words == "gluing: 3 steps took 1.5 times as long as planned"
    assert list_pace(timed("glue", (1, 1.5), (2, 3.2))) == []


def test_what_was_interrupted_or_only_ticked_off_tells_nothing() -> None:
    assert timed("glue", (1, 0.01), (1, 60.0)).card.assembly.took == ()
    assert timed("post", (1, 1.0)).card.assembly.took == ()
    assert len(timed("glue", *[(1, 1.1)] * (MOST_TOOK + 5)).card.assembly.took) == MOST_TOOK


def test_used_it_changes_the_rates_and_is_forgotten() -> None:
    work = timed("cut", (1, 2), (1, 2), (1, 2))
    before, after = work.card.masking.rates, use_pace(work)
    rates = after.card.masking.rates
    assert rates.careful_mm_per_min == pytest.approx(before.careful_mm_per_min / 2)
    assert rates.die_min == pytest.approx(before.die_min * 2)
    assert rates.glue_min == before.glue_min
    assert after.card.assembly.took == ()
    assert list_pace(after) == []


def test_a_wild_pace_is_held_within_a_quarter_and_four_times() -> None:
    (slow,) = list_pace(timed("ink", *[(1, 9.0)] * 4))
    (quick,) = list_pace(timed("ink", *[(1, 0.05)] * 4))
    assert (slow.ratio, quick.ratio) == (4.0, 0.25)
