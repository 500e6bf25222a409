"""Free room on a card: exact on its grid, against exhaustive search."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon, box

from fair_thicket.scene.room import find_places, free_cells, largest_room, largest_square


def by_trying(free: np.ndarray) -> int:
    """Side of the largest free square: every first cell, every side."""
    best = 0
    rows, columns = free.shape
    for row in range(rows):
        for column in range(columns):
            for side in range(1, min(rows - row, columns - column) + 1):
                if free[row : row + side, column : column + side].all():
                    best = max(best, side)
    return best


@settings(max_examples=80, deadline=None)
@given(st.integers(1, 14), st.integers(1, 14), st.integers(0, 2**31), st.floats(0.0, 0.4))
def test_the_largest_square_is_that_of_an_exhaustive_search(rows: int, columns: int, seed: int, taken: float) -> None:
    free = np.random.default_rng(seed).random((rows, columns)) > taken
    row, column, side = largest_square(free)
    assert side == by_trying(free)
    assert free[row : row + side, column : column + side].all()


triangles = st.lists(st.tuples(st.floats(-5, 25), st.floats(-5, 20)), min_size=3, max_size=3)


@settings(max_examples=60, deadline=None)
@given(st.lists(triangles, min_size=1, max_size=4))
def test_a_cell_is_free_exactly_when_no_area_has_part_in_it(rings: list) -> None:
    areas = [area for ring in rings if (area := Polygon(ring)).is_valid and area.area > 0.01]
    free = free_cells(areas, (20.0, 15.0), (1.0, 0.75))
    assert free.shape == (20, 20)
    for row in range(20):
        for column in range(20):
            cell = box(column, row * 0.75, column + 1, row * 0.75 + 0.75)
            shared = max((area.intersection(cell).area for area in areas), default=0.0)
            if shared > 1e-6:
                assert not free[row, column]
            elif all(area.distance(cell) > 1e-6 for area in areas):
                assert free[row, column]


@pytest.mark.parametrize("proportion", [0.5, 1.0, 3.0])
def test_the_room_has_the_proportions_asked_for_and_none_larger_is_free(proportion: float) -> None:
    """A card of 60 by 40 with a disc and a bar; checked on a coarse grid by trying every place and size."""
    areas = [Point(20, 20).buffer(8), box(44, 0, 48, 40)]
    room = largest_room(areas, (60.0, 40.0), proportion)
    assert room is not None
    assert room.width_mm / room.height_mm == pytest.approx(proportion)
    placed = box(room.left, room.top, room.left + room.width_mm, room.top + room.height_mm)
    assert all(placed.intersection(area).area < 1e-9 for area in areas)
    taken = shapely.union_all(areas)
    higher = room.height_mm + 0.6  # more than a step of the grid either way
    wider = higher * proportion
    for left in np.arange(0, 60 - wider + 1e-9, 0.5):
        for top in np.arange(0, 40 - higher + 1e-9, 0.5):
            assert box(left, top, left + wider, top + higher).intersection(taken).area > 1e-9


def test_a_full_card_has_no_room_and_an_empty_one_all_of_it() -> None:
    assert largest_room([box(-1, -1, 61, 41)], (60.0, 40.0), 3.0) is None
    room = largest_room([], (60.0, 40.0), 1.5)
    assert room is not None
    assert (room.width_mm, room.height_mm) == pytest.approx((60.0, 40.0), abs=0.5)


def test_the_best_places_are_free_and_apart() -> None:
    areas = [box(0, 60, 140, 108), box(10, 5, 40, 50)]
    places = find_places(areas, (140.0, 108.0), (50.0, 10.0), clear_mm=1.5, centre=(60.0, 80.0))
    assert len(places) == 3
    for place in places:
        room = box(place.left, place.top, place.left + 50, place.top + 10).buffer(1.49, join_style="mitre")
        assert all(room.intersection(area).area == 0 for area in areas)
        assert box(0, 0, 140, 108).covers(room)
    assert places[0].score >= places[1].score >= places[2].score
    assert find_places(areas, (140.0, 108.0), (139.0, 10.0), clear_mm=1.5, centre=(70.0, 50.0)) == []
