"""Outlines become areas, and areas share paper."""

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import given
from hypothesis import strategies as st

from fair_thicket.model.errors import GeometryError
from fair_thicket.model.pieces import Impression
from fair_thicket.model.stash import Stash
from fair_thicket.shape.outline import placed_outline, to_area, to_rings, turn_area, turn_area_back, turn_points
from fair_thicket.shape.overlap import MANY, find_overlaps
from fair_thicket.shape.paper import footprint
from fair_thicket.shape.raster import fill
from fair_thicket.shape.stretch import along, length_of, measure, merge, split_by_owner, stretches_within
from making import ZOO, square, stamp


@pytest.mark.parametrize("name", [name for name, (_, area) in ZOO.items() if area is not None])
def test_a_ring_of_the_zoo_encloses_its_area(name: str) -> None:
    ring, area = ZOO[name]
    made = to_area(ring)
    assert made.is_valid
    assert made.area == pytest.approx(area)


@pytest.mark.parametrize("name", [name for name, (_, area) in ZOO.items() if area is None])
def test_what_encloses_nothing_is_refused_in_one_sentence(name: str) -> None:
    with pytest.raises(GeometryError, match=r"^An outline .*\.$"):
        to_area(ZOO[name][0])


def test_holes_are_openings() -> None:
    assert to_area(square(10), [square(4)]).area == pytest.approx(84)


def test_a_quarter_turn_is_clockwise_as_seen() -> None:
    assert turn_points([(1, 0)], 90, 5, 5)[0] == pytest.approx((5, 6))  # right turns to down


@given(st.floats(-360, 360), st.floats(-50, 50), st.floats(-50, 50))
def test_turning_and_moving_change_no_area(angle: float, x: float, y: float) -> None:
    piece = Impression("a", "snail", x, y, angle)
    assert footprint(piece, Stash((stamp("snail"),))).area == pytest.approx(100)
    assert len(placed_outline(piece, stamp("snail"))) == 4


def test_rings_of_an_area_leave_the_closing_point_out() -> None:
    assert [len(ring) for ring in to_rings(to_area(square(2)))] == [4]
    assert to_rings(shapely.Polygon()) == ()


def test_overlaps_are_found_with_their_area_and_slivers_are_not() -> None:
    areas = [shapely.box(0, 0, 10, 10), shapely.box(8, 8, 20, 20), shapely.box(19.9, 19.9, 30, 30)]
    assert find_overlaps(areas) == {(0, 1): pytest.approx(4.0)}
    assert find_overlaps(areas, least_mm2=0.005) == {(0, 1): pytest.approx(4.0), (1, 2): pytest.approx(0.01)}
    assert find_overlaps(areas[:1]) == {}
    assert find_overlaps([]) == {}


def test_very_many_overlaps_are_those_found_pair_by_pair() -> None:
    ring = to_area(square(10), [square(4)])  # a ring and a plain square of one outline are not of one form
    forms = [
        ring,
        shapely.box(-5, -5, 5, 5),
        shapely.MultiPolygon([shapely.box(-5, -5, 0, 0), shapely.box(1, 1, 5, 5)]),
    ]
    chance = np.random.default_rng(5)
    areas = [
        shapely.affinity.translate(forms[k % 3], *(k % 9, k % 7) if k < 60 else chance.uniform(0, 12, 2))
        for k in range(90)
    ]
    found = find_overlaps(areas)
    one_by_one = {(i, j): areas[i].intersection(areas[j]).area for i in range(90) for j in range(i + 1, 90)}
    assert len(one_by_one) > MANY
    assert found == {pair: pytest.approx(area) for pair, area in one_by_one.items() if area > 0.05}


def test_a_stretch_is_the_part_of_the_outline_within_reach() -> None:
    ring = np.array(square(10))
    # the right half: half of top and bottom edge and the right edge, 20 of 40 mm
    stretches = stretches_within(ring, shapely.box(0, -20, 20, 20))
    assert measure(stretches) == pytest.approx(0.5)
    assert stretches == (pytest.approx((0.125, 0.625)),)
    assert stretches_within(ring, shapely.box(30, 30, 40, 40)) == ()
    assert stretches_within(ring, shapely.Polygon()) == ()
    assert measure(stretches_within(ring, shapely.box(-20, -20, 20, 20))) == pytest.approx(1)


def test_stretches_that_meet_are_joined() -> None:
    assert merge([(0.5, 0.6), (0.1, 0.2), (0.2, 0.3), (0.15, 0.18)]) == ((0.1, 0.3), (0.5, 0.6))
    assert merge([]) == ()


def test_an_outline_is_split_by_who_owns_which_stretch() -> None:
    owned = split_by_owner([[(0.0, 0.4)], [(0.3, 0.5)], []])
    assert owned == {
        frozenset({0}): pytest.approx(0.3),
        frozenset({0, 1}): pytest.approx(0.1),
        frozenset({1}): pytest.approx(0.1),
    }


def test_points_along_a_stretch_keep_its_corners() -> None:
    ring = np.array(square(10))
    points = along(ring, (0.125, 0.375))
    assert points.tolist() == [[0, -5], [5, -5], [5, 0]]
    assert length_of(ring) == 40


at = st.floats(-5, 35).map(lambda value: round(value, 6))  # a nanometre: anything finer says nothing of paper


@given(
    st.lists(st.tuples(at, at), min_size=3, max_size=9),
    st.floats(3, 12),
)
def test_the_raster_agrees_with_point_in_polygon_everywhere(points: list[tuple[float, float]], scale: float) -> None:
    try:
        area = to_area(points)
    except GeometryError:
        return
    raster = fill(area, (60, 70), scale)
    x, y = np.meshgrid((np.arange(70) + 0.5) / scale, (np.arange(60) + 0.5) / scale)
    inside = shapely.contains_xy(area, x, y)
    near_edge = shapely.distance(area.boundary, shapely.points(x, y)) < 1e-6
    assert (raster == inside)[~near_edge].all()


def test_a_raster_beside_the_area_is_empty() -> None:
    assert not fill(shapely.box(100, 100, 110, 110), (20, 20), 2.0).any()
    assert fill(shapely.box(-10, -10, 110, 110), (20, 20), 2.0).all()
    assert fill(shapely.box(10, 10, 20, 20), (10, 10), 1.0, left=10, top=10).all()


def test_an_area_that_all_but_touches_itself_stays_sound_however_it_is_turned() -> None:
    """The opening's corner lies on the frame's edge: rounding carries it across at two angles in five."""
    area = shapely.Polygon([(0, 0), (10, 0), (10, 10), (0, 10)], [[(0, 5), (5, 3.1), (9.3, 5.7), (5, 7.3)]])
    for half_degrees in range(720):
        turned = turn_area(area, half_degrees / 2, 40.123, 50.71)
        assert turned.is_valid
        assert turned.area == pytest.approx(area.area, abs=1e-6)
        assert turn_area_back(turned, half_degrees / 2, 40.123, 50.71).is_valid
