"""What speaks for and against one image, by figures worked out by hand."""

import math

import numpy as np
import pytest
import shapely

from fair_thicket.intake.companies import Companies, Near, evenness_of, line_of
from fair_thicket.intake.grouping import group_parts
from fair_thicket.intake.sheet import detect_sheet
from fair_thicket.intake.signs import SIGNS, signs


def square(x: float, y: float, side: float) -> np.ndarray:
    return np.array([(x, y), (x + side, y), (x + side, y + side), (x, y + side)], np.float32)


def beside(gap: float = 2.0) -> Companies:
    """A square of 10 mm drawn with a line of 0.5 mm, one of 4 mm that is filled at its right, one of 4 far away."""
    hulls = [square(0, 0, 10), square(10 + gap, 3, 4), square(60, 0, 4)]
    boxes = np.array([(*hull.min(axis=0), *hull.max(axis=0)) for hull in hulls])
    inks = np.array([(19.0, 76.0), (16.0, 16.0), (16.0, 16.0)])  # borders outside and inside: 40 and 36 mm
    return Companies(boxes, hulls, inks, [(0, 1, Near(gap, 4.0)), (1, 2, Near(44.0))])


def told(companies: Companies, first: int, second: int) -> dict[str, float]:
    return dict(zip(SIGNS, signs(companies, first, second), strict=True))


def test_every_sign_has_a_name_and_is_finite() -> None:
    found = signs(beside(), 0, 1)
    assert len(found) == len(SIGNS) == len(set(SIGNS))
    assert all(math.isfinite(value) for value in found)
    assert found == signs(beside(), 1, 0)


def test_gaps_sizes_and_lines_are_compared_by_their_ratio() -> None:
    found = told(beside(), 0, 1)
    assert found["gap"] == pytest.approx(math.log(2))
    assert found["gap to lesser"] == pytest.approx(math.log(2 / 4))
    assert found["gap to both"] == pytest.approx(math.log(2 / 16))
    assert found["line to line"] == pytest.approx(math.log(2.0 / 0.5))
    assert found["facing to lesser"] == pytest.approx(1.0)
    assert found["area to area"] == pytest.approx(math.log(16 / 100))
    assert found["ink to ink"] == pytest.approx(16 / 19)
    assert found["solidity of greater"] == pytest.approx(0.19)
    assert found["overlap of hulls"] == 0.0


def test_lines_are_as_wide_as_ink_to_half_the_border() -> None:
    assert line_of(19.0, 76.0) == pytest.approx(0.5)
    assert line_of(math.pi * 4, math.pi * 4) == pytest.approx(2.0)  # a disc: half its diameter
    assert line_of(0.0, 0.0) > 0


def test_joined_companies_add_up() -> None:
    companies = beside()
    lead = companies.join(0, 1)
    both = companies.members[lead]
    assert sorted(both.parts) == [0, 1]
    assert both.box == (0.0, 0.0, 16.0, 10.0)
    assert (both.ink_mm2, both.border_mm, both.inner_mm, both.body_mm) == (35.0, 92.0, 2.0, 10.0)
    assert companies.near[lead] == {2: Near(44.0)}
    assert companies.lead(1) == lead


def test_of_two_that_face_a_third_the_nearer_counts_and_the_other_if_as_near() -> None:
    hulls = [square(12 * k, 0, 4) for k in range(3)]
    boxes = np.array([(*hull.min(axis=0), *hull.max(axis=0)) for hull in hulls])
    pairs = [(0, 1, Near(3.0, 1.0)), (0, 2, Near(3.5, 2.0)), (1, 2, Near(8.0, 5.0))]
    companies = Companies(boxes, hulls, np.ones((3, 2)), pairs)
    companies.join(1, 2)
    assert companies.near[0] == {companies.lead(1): Near(3.0, 3.0)}
    other = Companies(boxes, hulls, np.ones((3, 2)), pairs)
    other.join(0, 1)
    assert other.near[2] == {other.lead(0): Near(3.5, 2.0)}


@pytest.mark.parametrize(
    ("corners", "expected"),
    [
        ([(0, 0), (4, 0), (4, 2), (0, 2)], 1.0),
        ([(0, 0), (4, 0), (2, 3)], 1.0),
        ([(0, 0), (4, 0), (0, 4)], 0.5),  # half of a square: its mirror image shares a quarter of the square with it
        ([(0, 0), (4, 0), (4, 0.0001)], None),
        ([(0, 0), (4, 0)], 1.0),
    ],
    ids=["square", "gable", "half a square", "sliver", "line"],
)
def test_evenness_by_hand(corners: list[tuple[float, float]], expected: float | None) -> None:
    found = evenness_of(np.array(corners, np.float32))
    assert 0 <= found <= 1
    if expected is not None:
        assert found == pytest.approx(expected, abs=1e-4)


def test_evenness_is_what_exact_polygons_share() -> None:
    """Held to GEOS on random hulls."""
    chance = np.random.default_rng(5)
    for _ in range(50):
        hull = shapely.convex_hull(shapely.MultiPoint(chance.normal(0, 4, (12, 2)) * (1, 2)))
        left, top, right, bottom = hull.bounds
        across = shapely.transform(hull, lambda points, both=left + right: points * (-1, 1) + (both, 0))
        down = shapely.transform(hull, lambda points, both=top + bottom: points * (1, -1) + (0, both))
        exact = max(hull.intersection(across).area, hull.intersection(down).area) / hull.area
        corners = shapely.get_coordinates(hull)[:-1].astype(np.float32)
        assert evenness_of(corners) == pytest.approx(exact, abs=1e-3)


def test_the_lines_of_a_scan_are_measured() -> None:
    """A frame of 20 mm outside with a line of 1 mm, at 300 dpi: 76 mm2 of ink, borders of 80 and 72 mm."""
    px = 300 / 25.4
    page = np.full((round(60 * px), round(60 * px)), 250, np.uint8)
    low, high, line = round(20 * px), round(40 * px), round(px)
    page[low:high, low:high] = 30
    page[low + line : high - line, low + line : high - line] = 250
    (ink,) = detect_sheet(page, dpi=300)[0].inks
    assert line_of(*ink) == pytest.approx(1.0, abs=0.1)
    assert ink[0] == pytest.approx(76, rel=0.05)


def test_what_is_drawn_with_another_pen_is_told_to_the_judge() -> None:
    """Three frames in a row; the judge sees which two are of one pen."""
    parts = [square(0, 0, 10), square(13, 0, 10), square(26, 0, 10)]
    inks = np.array([(20.0, 80.0), (20.0, 80.0), (100.0, 40.0)])
    seen: dict[tuple[int, int], float] = {}

    def judge(companies: Companies, pairs: list[tuple[int, int]]) -> list[float]:
        seen.update({pair: told(companies, *pair)["line apart"] for pair in pairs})
        return [0.0] * len(pairs)

    group_parts(parts, inks, judge=judge)
    assert seen[0, 1] == pytest.approx(0)
    assert seen[1, 2] == pytest.approx(math.log(10))
