"""Things as they are laid on a sheet."""

import pytest
import shapely

from fair_thicket.sheets.laying import whole_outline
from fair_thicket.sheets.things import Thing


def thing(area: shapely.Geometry) -> Thing:
    blank = dict.fromkeys(Thing._fields)
    return Thing(**(blank | {"key": "a", "area": area}))


def test_one_part_keeps_its_outline_and_loses_its_holes() -> None:
    hooked = shapely.Polygon([(0, 0), (30, 0), (30, 10), (10, 10), (10, 30), (0, 30)])
    holed = shapely.difference(hooked, shapely.box(2, 2, 5, 5))
    assert whole_outline(thing(holed)).equals(hooked)


@pytest.mark.parametrize("count", [2, 3, 4])
def test_several_parts_are_held_by_one_outline(count: int) -> None:
    parts = shapely.MultiPolygon([shapely.box(20 * k, 0, 20 * k + 10, 10) for k in range(count)])
    held = whole_outline(thing(parts))
    assert held.covers(parts)
    assert held.area == pytest.approx((20 * count - 10) * 10)
