"""Proven said only where it is: cut short, nothing is proven, and bounds lie between nothing and the exhaustive best.

The exhaustive searches are those of this folder, of `tests/packing` and of `tests/assembly`: second methods of our own.
"""

import random

import pytest
from test_presses_exhaustive import Exhaustive, as_bare, longest_chain, random_scene, wide_scene

from fair_thicket.assembly.operation import After, Operation
from fair_thicket.assembly.scheduling import Schedule, schedule
from fair_thicket.masks import plan_problem
from fair_thicket.packing.stock import StockPiece, StockSheet, plan_cuts
from making import some_of


@pytest.mark.parametrize("seed", [8 * number for number in some_of(120)])
def test_a_plan_of_masks_that_was_cut_short_is_not_proven_and_its_bounds_hold(seed: int) -> None:
    scene = random_scene(seed, 7)
    presses, careful, _, _ = Exhaustive(scene).best()
    whole = plan_problem(as_bare(scene), seconds=60)
    assert whole.optimal
    assert whole.fewest_presses == presses
    assert whole.least_careful_mm == pytest.approx(whole.careful_mm, abs=0.01), "proven means that the bound is met"
    short = plan_problem(as_bare(scene), seconds=0.0, go_on=lambda: False)
    assert 0 <= short.fewest_presses <= presses <= len(short.presses)
    if len(short.presses) == presses:
        assert 0 <= short.least_careful_mm <= careful + 0.15
        assert short.careful_mm >= careful - 0.15
    if short.optimal:
        assert (len(short.presses), round(short.careful_mm, 1)) == (presses, round(whole.careful_mm, 1))


def test_a_plan_of_masks_that_had_no_time_says_so_where_something_was_left_to_choose() -> None:
    """Masks that may serve several impressions are shared out by the solver alone."""
    unproven = 0
    for seed in range(3):
        scene = wide_scene(seed, 90)
        short = plan_problem(as_bare(scene), seconds=0.0, go_on=lambda: False)
        kinds = [mask.stamp for mask in short.masks]
        shares = len(set(kinds)) < len(kinds) or any(len(mask.serves) > 1 for mask in short.masks)
        unproven += not short.optimal
        assert short.optimal or shares or len(short.presses) > short.fewest_presses
        assert len(short.presses) >= short.fewest_presses >= longest_chain(scene[0])
        assert 0 <= short.least_careful_mm <= short.careful_mm + 0.01
    assert unproven >= 1


@pytest.mark.parametrize("seed", some_of(120))
def test_cuts_that_were_not_thought_through_are_not_proven(seed: int) -> None:
    dice = random.Random(seed)
    sheet = StockSheet("sheet", 60.0, 40.0)
    pieces = [
        StockPiece(f"p{n}", dice.randint(8, 35), dice.randint(8, 30), dice.randint(1, 4))
        for n in range(dice.randint(2, 5))
    ]
    whole = plan_cuts([sheet], pieces, seconds=60)
    short = plan_cuts([sheet], pieces, seconds=0.0, go_on=lambda: False)
    least = sum(one.w_mm * one.h_mm * one.copies for one in pieces) / (sheet.w_mm * sheet.h_mm)
    assert 0 < short.bound <= len(whole.sheets) <= len(short.sheets)
    assert whole.bound >= least
    assert short.is_fewest == (len(short.sheets) == short.bound)
    if short.is_best:
        same = [(one.offcut_mm, len(one.cuts)) for one in short.sheets]
        assert sorted(same) == sorted((one.offcut_mm, len(one.cuts)) for one in whole.sheets)
    if whole.is_fewest:
        assert not short.is_fewest or len(short.sheets) == len(whole.sheets)


def test_a_large_sheet_owned_once_and_an_offcut_larger_than_any_sheet_are_counted() -> None:
    pieces = [StockPiece("panel", 100.0, 100.0, 3)]
    once = [StockSheet("large", 200.0, 100.0, owned=1), StockSheet("small", 100.0, 100.0)]
    plan = plan_cuts(once, pieces, seconds=60)
    assert sorted(one.sheet for one in plan.sheets) == ["large", "small"], "two from the large one, and one small sheet"
    assert plan.missing == {}
    assert plan.is_fewest
    without = plan_cuts([StockSheet("large", 200.0, 100.0, owned=1)], pieces, seconds=60)
    assert without.missing == {"large": 1}
    offcut = [StockSheet("rest", 300.0, 100.0, owned=1, is_offcut=True), StockSheet("sheet", 120.0, 120.0)]
    spared = plan_cuts(offcut, pieces, seconds=60)
    assert [one.sheet for one in spared.sheets] == ["rest"], "all of it comes out of the offcut"
    assert (spared.bound, spared.is_fewest) == (0, True)


def test_a_schedule_is_best_only_where_its_bound_is_met() -> None:
    assert not Schedule((), 10.0, 9.0).is_best
    assert Schedule((), 10.0, 10.0).is_best
    proven = 0
    for seed in range(30):
        dice = random.Random(seed)
        jobs = [
            Operation(
                f"o{n}", "glue", f"do {n}", (), dice.choice([0.5, 1.0, 2.5]), "glue",
                tuple(After(f"o{m}", "so", dice.choice([0.0, 4.0])) for m in range(n) if dice.random() < 0.4),
            )
            for n in range(7)
        ]  # fmt: skip
        whole, short = schedule(jobs, seconds=60), schedule(jobs, seconds=0.0)
        assert whole.is_best
        assert short.bound <= whole.minutes + 0.02 <= short.minutes + 0.04
        assert short.is_best == (short.minutes <= short.bound + 0.01)
        proven += whole.is_best
    assert proven == 30
