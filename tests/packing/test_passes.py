"""Passes of a machine and placings in a platform: as few as trying everything finds."""

import itertools
import math
import random

import pytest
from exhaustive import fewest, fits_anyhow

from fair_thicket.model.errors import InputError
from fair_thicket.packing.layouts import NestPiece
from fair_thicket.packing.passes import plan_passes
from fair_thicket.packing.placings import are_half_turned, plan_placings
from fair_thicket.packing.raster_nest import Spot
from making import EVERY, some_of


def rectangle(width: float, height: float) -> tuple[tuple[float, float], ...]:
    return ((0.0, 0.0), (width, 0.0), (width, height), (0.0, height))


def test_a_die_cuts_once_a_pass_so_three_copies_are_three_passes() -> None:
    """Common practice: each die once a pass."""
    dies = [NestPiece("leaf", rectangle(20, 20), 3), NestPiece("heart", rectangle(30, 20))]
    plan = plan_passes(dies, (152.4, 222.25), seconds=60)
    assert len(plan.passes) == 3
    assert plan.is_fewest
    assert [sorted(spot.id for spot in one.spots) for one in plan.passes] == [["heart", "leaf"], ["leaf"], ["leaf"]]


@pytest.mark.parametrize("seed", some_of(200)[::5] if EVERY > 1 else some_of(200))
def test_no_fewer_passes_would_do_for_small_jobs(seed: int) -> None:
    dice = random.Random(seed)
    sides = [(dice.uniform(25, 70), dice.uniform(20, 55)) for _ in range(dice.randint(2, 4))]
    copies = [dice.choice([1, 1, 2]) for _ in sides]
    every = [n for n, count in enumerate(copies) for _ in range(count)][:6]
    gap = 3.0

    def fits(chosen: frozenset[int]) -> bool:
        # turned or not, each: a plate is tried with every way the dies may lie
        own = [sides[every[index]] for index in sorted(chosen)]
        for ways in itertools.product(*[(side, side[::-1]) for side in own]):
            grown = [(w + gap, h + gap) for w, h in ways]
            if fits_anyhow(grown, (100.0 + gap, 80.0 + gap)):
                return True
        return False

    def may(part: list[int]) -> bool:
        return len({every[index] for index in part}) == len(part)

    best = fewest(len(every), fits, may=may)
    wanted = [every.count(n) for n in range(len(sides))]
    dies = [NestPiece(str(n), rectangle(*side), wanted[n]) for n, side in enumerate(sides) if wanted[n]]
    plan = plan_passes(dies, (100.0, 80.0), gap_mm=gap, seconds=5.0)
    assert len(plan.passes) <= best  # dies may lie slantwise as well, which was not tried
    assert sorted(spot.id for one in plan.passes for spot in one.spots) == sorted(str(n) for n in every)
    assert all(len({spot.id for spot in one.spots}) == len(one.spots) for one in plan.passes)


def test_a_die_larger_than_the_plate_is_told() -> None:
    with pytest.raises(InputError, match=r"plate|fits no sheet"):
        plan_passes([NestPiece("frame", rectangle(200, 190))], (152.4, 222.25))
    assert plan_passes([], (152.4, 222.25)).passes == ()


@pytest.mark.parametrize("seed", some_of(200))
def test_no_fewer_placings_would_do(seed: int) -> None:
    """The fewest placings are those of the stamp that needs most: every pairing by half turns is tried."""
    dice = random.Random(seed)
    sheet = (279.4, 215.9)
    spots, stamps = [], []
    for _ in range(dice.randint(1, 7)):
        stamp = dice.choice("abc")
        spot = Spot(stamp, dice.uniform(20, 250), dice.uniform(20, 190), dice.uniform(0, 360))
        spots.append(spot)
        stamps.append(stamp)
        if dice.random() < 0.4:
            spots.append(Spot(stamp, sheet[0] - spot.x_mm, sheet[1] - spot.y_mm, (spot.angle_deg + 180) % 360))
            stamps.append(stamp)
    owned = {"a": dice.choice([1, 2])}
    plan = plan_placings(spots, stamps, sheet, owned)
    pressed = sorted(index for one in plan for index in (*one.first, *one.turned))
    assert pressed == list(range(len(spots)))
    for one in plan:
        lying = [stamps[index] for index in one.first]
        assert all(lying.count(stamp) <= owned.get(stamp, 1) for stamp in lying)
        assert all(any(are_half_turned(spots[a], spots[b], sheet) for a in one.first) for b in one.turned)
    best = 0
    for stamp in set(stamps):
        own = [n for n, other in enumerate(stamps) if other == stamp]
        best = max(best, math.ceil(_fewest_units(own, spots, sheet) / owned.get(stamp, 1)))
    assert len(plan) == best


def _fewest_units(own: list[int], spots: list[Spot], sheet: tuple[float, float]) -> int:
    """Try every way to pair impressions by half turns."""
    if not own:
        return 0
    first, rest = own[0], own[1:]
    best = 1 + _fewest_units(rest, spots, sheet)
    for other in rest:
        if are_half_turned(spots[first], spots[other], sheet):
            best = min(best, 1 + _fewest_units([n for n in rest if n != other], spots, sheet))
    return best


@pytest.mark.parametrize(
    ("there", "is_turned"),
    [
        ((180.0, 60.0, 210.0), True),
        ((180.0, 60.0, -150.0), True),  # the same, counted the other way round
        ((180.0, 60.0, 30.0), False),  # not turned
        ((180.0, 60.0, 211.0), False),
        ((181.0, 60.0, 210.0), False),
    ],
)
def test_a_place_is_half_turned_where_it_and_its_angle_are(there: tuple[float, float, float], is_turned: bool) -> None:
    assert are_half_turned(Spot("a", 20, 40, 30), Spot("b", *there), (200, 100)) == is_turned
