"""The exact searches under the nestings: boxes in a room, dies on passes, and what the library that nests is asked."""

import itertools

import pytest
import shapely

from fair_thicket.packing import strips
from fair_thicket.packing.boxes import fit_boxes
from fair_thicket.packing.raster_nest import Wanted
from fair_thicket.packing.sharing import Sharing


def laid(
    sides: list[tuple[float, float]], room: tuple[float, float], *, may_turn: bool = True
) -> list[shapely.Polygon] | None:
    """Boxes as they were laid, turned ones with their sides exchanged; checked to lie in the room and apart."""
    places = fit_boxes(sides, room, seconds=60, may_turn=may_turn)
    if places is None:
        return None
    boxes = []
    for (wide, high), (x, y, is_turned) in zip(sides, places, strict=True):
        w, h = (high, wide) if is_turned else (wide, high)
        boxes.append(shapely.box(x, y, x + w, y + h))
        assert x >= -1e-6
        assert y >= -1e-6
        assert x + w <= room[0] + 1e-6
        assert y + h <= room[1] + 1e-6
        assert may_turn or not is_turned
    for one, other in itertools.combinations(boxes, 2):
        assert shapely.intersection(one, other).area < 1e-6
    return boxes


@pytest.mark.parametrize(
    ("sides", "room", "upright", "turned"),
    [
        ([(10, 30)], (30, 10), False, True),
        ([(30, 10)], (30, 10), True, True),
        ([(20, 10), (10, 20), (10, 10)], (20, 25), False, False),
        ([(20, 10), (10, 20), (10, 10)], (20, 30), True, True),
        ([(10, 20), (10, 20), (20, 10)], (20, 30), True, True),
        ([(25, 10), (25, 10), (10, 25), (10, 25)], (35, 35), True, True),  # a pinwheel round a hole of 15 x 15
        ([(25, 10), (25, 10), (25, 10), (25, 10)], (35, 35), False, True),
    ],
)
def test_boxes_go_in_upright_or_turned_exactly_when_they_can(
    sides: list[tuple[float, float]], room: tuple[float, float], upright: bool, turned: bool
) -> None:
    assert (laid(sides, room, may_turn=False) is not None) == upright
    assert (laid(sides, room) is not None) == turned


def test_dies_that_may_not_lie_together_come_onto_other_passes_and_no_others_do() -> None:
    """Three dies, room for all three at once: forbidding the first two parts them, and the third lies with either."""
    sharing = Sharing([1, 1, 1], [1.0, 1.0, 1.0], 3.0, 2)
    sharing.forbid(frozenset({0, 1}))
    passes = sharing.next(60)
    assert passes is not None
    assert all(not {0, 1} <= chosen for chosen in passes)
    assert sorted(index for chosen in passes for index in chosen) == [0, 1, 2]
    alone = Sharing([1, 1, 1], [1.0, 1.0, 1.0], 3.0, 1)
    assert alone.next(60) == [frozenset({0, 1, 2})]
    alone.forbid(frozenset({0, 1}))
    assert alone.next(60) is None
    assert Sharing([1, 1], [2.0, 2.0], 3.9, 1).next(60) is None
    assert Sharing([1, 1], [2.0, 2.0], 4.0, 1).next(60) == [frozenset({0, 1})]
    assert Sharing([2], [2.0], 4.0, 1).next(60) is None, "one die lies once on a pass"


@pytest.mark.parametrize(("wide", "fits"), [(104.0, True), (104.0 + 1e-7, True), (104.001, False), (105.0, False)])
def test_what_the_library_lays_beyond_the_room_is_not_taken(
    wide: float, fits: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Room of 100 mm, a gap of 2 mm at both walls as well: 104 mm are there."""
    square = shapely.box(0, 0, 10, 10)
    monkeypatch.setattr(strips, "_ask", lambda *_: {"width_mm": wide, "placed": [("0", 2.0, 7.0, 450.0)]})
    spots = strips.shorten([Wanted("a", square)], (100.0, 50.0), gap_mm=2.0, angles=None, seconds=1.0)
    assert (spots is not None) == fits
    if spots is not None:
        (spot,) = spots
        assert (spot.id, spot.x_mm, spot.y_mm, spot.angle_deg) == ("a", 0.0, 5.0, 90.0)
