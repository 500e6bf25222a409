"""Rows stepped: crests by hand, the step against trying everything, and the trimming's arithmetic."""

import itertools

import numpy as np
import pytest
import shapely
from scipy.signal import find_peaks

from fair_thicket.backdrop import profile_of
from fair_thicket.backdrop.joining import Joining
from fair_thicket.backdrop.rows import crests_of, make_rows, step_rows, trim_cuts
from fair_thicket.backdrop.spanning import span_area
from fair_thicket.demo.dies import dies
from fair_thicket.ink.contrast import luminance
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Border, Form, Panel
from fair_thicket.model.spans import Cut
from fair_thicket.model.stash import Stash
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.paper import glue, lay_area
from making import EVERY

TURNED = Joining(may_flip=True)


def edge(width: float, height) -> shapely.Polygon:
    xs = np.linspace(0, width, 3000)
    return shapely.Polygon([*zip(xs, -height(xs), strict=True), (width, 10.0), (0.0, 10.0)])


def waves(width: float, repeat: float) -> shapely.Polygon:
    return edge(width, lambda xs: 5 * np.sin(2 * np.pi * xs / repeat))


HILL = edge(140.0, lambda xs: 6 + 8 * np.sin(xs / 9) + 5 * np.sin(xs / 5 + 1))


def peaks(area: shapely.Geometry) -> list[float]:
    """Crests by plain scissors: the upper end of upright lines every 0.05 mm."""
    left, _, right, _ = area.bounds
    xs = np.arange(left + 0.025, right, 0.05)
    tops = np.array([area.intersection(shapely.LineString([(x, -100), (x, 100)])).bounds[1] for x in xs])
    return [float(xs[place]) for place in find_peaks(-tops, prominence=0.5)[0]]


def test_crests_are_found_where_the_edge_is_highest() -> None:
    assert crests_of(profile_of(waves(60.0, 20.0))) == pytest.approx([5, 25, 45], abs=0.2)
    assert crests_of(profile_of(HILL)) == pytest.approx(peaks(HILL), abs=0.2)
    assert crests_of(profile_of(shapely.box(0, 0, 50, 10))) == []


def test_a_flat_crest_lies_at_its_middle_and_a_ripple_is_none() -> None:
    step = [(10, 0), (10, -4), (16, -4), (16, 0)]
    ripple = [(30, 0), (30, -0.2), (31, -0.2), (31, 0)]
    ring = [(0, 0), *step, *ripple, (40, 0), (40, 9), (0, 9)]
    assert crests_of(profile_of(shapely.Polygon(ring))) == pytest.approx([13.0], abs=0.2)


def test_two_rows_of_a_wave_are_stepped_by_half_a_repeat() -> None:
    found = step_rows(waves(108.0, 20.0), 200.0, 2)
    assert found.steps_mm == pytest.approx((0, 10), abs=0.3)
    assert found.least_mm == pytest.approx(10, abs=0.3)


def test_three_rows_are_stepped_by_thirds() -> None:
    found = step_rows(waves(108.0, 18.0), 200.0, 3)
    assert found.least_mm == pytest.approx(6, abs=0.4)
    assert sorted(found.steps_mm) == pytest.approx([0, 6, 12], abs=0.5)


@pytest.mark.parametrize("count", [2, 3])
@pytest.mark.parametrize("seed", range(4 if EVERY == 1 else 2))
def test_steps_equal_trying_everything_on_the_paper_itself(count: int, seed: int) -> None:
    """Second method: rows are cut from the spanned border with scissors, their crests found and compared by pairs."""
    dice = np.random.default_rng(seed)
    a, b, phase = dice.uniform(3, 7), dice.uniform(1, 4), dice.uniform(0, 6)
    area = edge(110.0, lambda xs: a * np.sin(xs / 7 + phase) + b * np.sin(xs / 3.1))
    length = 90.0
    found = step_rows(area, length, count)
    whole = glue(lay_area(area, span_area(area, length + 55.0).cuts))
    every = np.array(peaks(whole))
    steps = np.arange(0, 55.0, 0.25)
    rows = {step: every[(every >= step) & (every <= step + length)] - step for step in steps.tolist()}

    def apart(one: float, other: float) -> float:
        return float(np.abs(rows[one][:, None] - rows[other][None, :]).min())

    if count == 2:
        best = max(apart(0.0, step) for step in steps[1:].tolist())
    else:
        best = max(
            min(apart(0.0, one), apart(0.0, other), apart(one, other))
            for one, other in itertools.combinations(steps[1::4].tolist(), 2)
        )
    assert found.least_mm >= best - 0.4  # columns against lines every 0.05 mm
    pairs = itertools.combinations([round(step * 4) / 4 for step in found.steps_mm], 2)
    told = min(apart(one, other) for one, other in pairs)
    assert found.least_mm == pytest.approx(told, abs=0.4)


def test_every_row_reaches_from_end_to_end() -> None:
    found = step_rows(HILL, 215.9, 2, Joining(may_flip=True))
    for cuts in found.cuts:
        assert cuts[0].at_mm == pytest.approx(0, abs=1e-3)
        assert cuts[-1].at_mm + cuts[-1].to_mm - cuts[-1].from_mm == pytest.approx(215.9, abs=1e-3)
        whole = glue(lay_area(HILL, cuts))
        assert whole.bounds[2] - whole.bounds[0] == pytest.approx(215.9, abs=1e-3)


def test_trimming_at_both_ends_by_hand() -> None:
    """Of two cuts of 60 mm, overlapping by 6, the window from 10 to 100 mm; the second is turned over."""
    cuts = (Cut(5.0, 65.0, 0.0), Cut(20.0, 80.0, 54.0, flipped=True))
    assert trim_cuts(cuts, 10.0, 100.0) == (Cut(15.0, 65.0, 0.0), Cut(34.0, 80.0, 44.0, flipped=True))
    assert trim_cuts(cuts, 62.0, 100.0) == (Cut(34.0, 72.0, 0.0, flipped=True),)


def test_what_cannot_be_stepped_is_told() -> None:
    with pytest.raises(PaperError, match="no crests"):
        step_rows(shapely.box(0, 0, 100, 10), 150.0, 2)
    with pytest.raises(PaperError, match="Between 2 and 4 rows"):
        step_rows(HILL, 150.0, 1)


def test_rows_are_laid_before_a_border_each_lower_and_deeper_and_stepped() -> None:
    stash = Stash(tuple(dies()[0]))
    border = Border("moss-edge-1", "moss-edge", 139.7, 69.85, 80.0, colour="#8aa465")
    behind, before = Panel("a", Form("rectangle", 20, 20), 30, 30), Panel("b", Form("rectangle", 20, 20), 90, 90)
    work = Work(Card(pieces=(behind, border, before)), stash)
    made, least = make_rows(work, "moss-edge-1", 3, 4.0)
    rows = [piece for piece in made.card.pieces if isinstance(piece, Border)]
    assert [piece.id for piece in made.card.pieces] == ["a", *(row.id for row in rows), "b"]
    assert [row.y for row in rows] == pytest.approx([80.0, 84.0, 88.0])
    depths = [luminance(row.colour or "") for row in rows]
    assert depths == sorted(depths, reverse=True)
    assert {row.copy_of for row in rows[1:]} == {"moss-edge-1"}
    assert len({row.cuts for row in rows}) == 3
    assert least == pytest.approx(step_rows(to_area(stash.find("moss-edge").outline), 139.7, 3, TURNED).least_mm)
    alike, _ = make_rows(work, "moss-edge-1", 2, 4.0, deepens=False)
    assert {piece.colour for piece in alike.card.pieces if isinstance(piece, Border)} == {"#8aa465"}


def test_rows_of_a_tilted_border_lie_lower_across_it() -> None:
    stash = Stash(tuple(dies()[0]))
    border = Border("moss-edge-1", "moss-edge", 100.0, 69.85, 60.0, 90.0)
    made, _ = make_rows(Work(Card(pieces=(border,)), stash), "moss-edge-1", 2, 5.0)
    front = made.card.pieces[-1]
    assert (front.x, front.y) == pytest.approx((64.85, 60.0))


def test_rows_are_refused_of_what_is_no_border_and_in_other_numbers() -> None:
    work = Work(Card(pieces=(Panel("a", Form("rectangle", 20, 20), 30, 30),)))
    with pytest.raises(PaperError, match="made of a border"):
        make_rows(work, "a", 2, 4.0)
    border = Border("moss-edge-1", "moss-edge", 100.0, 69.85, 60.0)
    with pytest.raises(PaperError, match="Between 2 and 4 rows"):
        make_rows(Work(Card(pieces=(border,)), Stash(tuple(dies()[0]))), "moss-edge-1", 5, 4.0)
