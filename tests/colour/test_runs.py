"""Runs against trying every run, and against figures by hand."""

import itertools
import math

import numpy as np
import pytest

from fair_thicket.colour import runs
from fair_thicket.colour.runs import find_gaps, find_run, leads_of
from fair_thicket.ink.difference import difference_of, labs_of
from fair_thicket.model.errors import InputError
from making import EVERY

FERN = ["#cfe0bd", "#9cc08a", "#4f8a4a", "#2c5a33"]
SHELL = ["#f0d9b8", "#d9a86a", "#a86f38"]


def strain_by_hand(chain: tuple[str, ...], wanted: str) -> float:
    """Strain of a run, told anew from its definition, one colour after the other."""
    return min(strain_with_lead(chain, wanted, lead) for lead in leads_of(len(chain)))


def hue_strain_by_hand(colour: str, wanted: str) -> float:
    """Half of the squared CIELAB hue difference, dH2 = da2 + db2 - dC2 (CIE 15); a grey run stays grey."""
    (_, a, b), (_, other_a, other_b) = labs_of([colour])[0].tolist(), labs_of([wanted])[0].tolist()
    chroma, other = math.hypot(a, b), math.hypot(other_a, other_b)
    across = max(0.0, (a - other_a) ** 2 + (b - other_b) ** 2 - (chroma - other) ** 2)
    return 0.5 * (across + (max(0.0, chroma - 6.0) ** 2 if other < 6.0 else 0.0))


def strain_with_lead(chain: tuple[str, ...], wanted: str, lead: int) -> float:
    lights = labs_of(chain)[:, 0]
    if any(light - dark < runs.LEAST_DARKER for dark, light in itertools.pairwise(lights)):
        return np.inf
    total = 0.0
    for one, other in itertools.pairwise(chain):
        step = difference_of(one, other)
        total += (step - runs.IDEAL_STEP) ** 2
        total += runs.BEYOND * (max(0.0, runs.LEAST_STEP - step) + max(0.0, step - runs.MOST_STEP)) ** 2
    for place, colour in enumerate(chain):
        if place == lead:
            total += difference_of(colour, wanted) ** 2
        else:
            total += hue_strain_by_hand(colour, wanted)
    return total


@pytest.mark.parametrize("seed", range(200))
def test_the_best_run_is_the_best_of_all_runs(seed: int) -> None:
    chance = np.random.default_rng(seed)
    box = [f"#{value:06x}" for value in chance.integers(0, 1 << 24, int(chance.integers(2, 9)))]
    wanted, shades = f"#{int(chance.integers(0, 1 << 24)):06x}", int(chance.integers(1, 5))
    found = find_run(box, wanted, shades)
    least = min((strain_by_hand(chain, wanted) for chain in itertools.permutations(box, shades)), default=np.inf)
    if found is None:
        assert least == np.inf
        return
    assert found.strain == pytest.approx(least)
    assert found.strain == pytest.approx(strain_by_hand(tuple(box[index] for index in found.markers), wanted))


def test_a_green_part_takes_its_own_family_from_dark_to_light() -> None:
    found = find_run([*SHELL, *FERN], "#4f8a4a", 3)
    assert found is not None
    assert [(*SHELL, *FERN)[index] for index in found.markers] == ["#2c5a33", "#4f8a4a", "#9cc08a"]
    assert found.off == 0
    assert found.steps == pytest.approx([17.4, 18.9], abs=0.1)  # as scikit-image gives them


def test_numbers_do_not_decide_but_colours() -> None:
    """Two steps apart may be too alike and one too far: only the measured colours tell (common practice)."""
    assert find_gaps(["#4f8a4a", "#528d4d"])[0].is_far is False
    far = find_gaps(["#2c5a33", "#cfe0bd"])
    assert far[0].is_far
    assert difference_of(far[0].between, "#2c5a33") < far[0].step
    assert not find_gaps(["#2c5a33", "#4f8a4a", "#9cc08a"])


def test_paper_tints_what_is_laid() -> None:
    on_white, on_kraft = find_run(FERN, "#4f8a4a", 2), find_run(FERN, "#4f8a4a", 2, paper="#c3a27b")
    assert on_white is not None
    assert on_kraft is not None
    white = labs_of([FERN[index] for index in on_kraft.markers])
    assert (labs_of(on_kraft.laid)[:, 0] < white[:, 0]).all()


@pytest.mark.parametrize("box", [[], ["#4f8a4a"], ["#4f8a4a", "#4f8a4a", "#4f8a4a"]])
def test_a_box_with_too_few_markers_has_no_run_of_three(box: list[str]) -> None:
    assert find_run(box, "#4f8a4a", 3) is None


def test_one_marker_is_a_run_of_one() -> None:
    found = find_run(["#4f8a4a"], "#000000", 1)
    assert found is not None
    assert (found.markers, found.steps) == ((0,), ())


@pytest.mark.parametrize("shades", [0, 7, -1])
def test_a_run_has_one_to_six_shades(shades: int) -> None:
    with pytest.raises(InputError, match="1 to 6"):
        find_run(FERN, "#4f8a4a", shades)


@pytest.mark.parametrize("seed", range(0, 60, EVERY))
def test_of_a_large_box_only_what_can_be_in_the_best_run_is_tried_and_nothing_is_missed(
    seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    chance = np.random.default_rng(seed)
    box = [f"#{value:06x}" for value in chance.integers(0, 1 << 24, 150)]
    wanted, shades = box[0] if seed % 2 else f"#{int(chance.integers(0, 1 << 24)):06x}", int(chance.integers(1, 7))
    found = find_run(box, wanted, shades)
    monkeypatch.setattr(runs, "FEW", 1000)  # all of them
    assert found == find_run(box, wanted, shades)
