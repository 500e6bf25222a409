"""Areas counted on dots: what an area covers is counted, wherever it lies to the picture."""

import numpy as np
import pytest
import shapely

from fair_thicket.shape.raster import add_cover


def counted(*areas: shapely.Geometry) -> np.ndarray:
    count = np.zeros((20, 30), np.int16)
    for area in areas:
        add_cover(count, area, 2.0)
    return count


def test_every_dot_that_an_area_covers_counts_once_an_area() -> None:
    count = counted(shapely.box(1, 2, 6, 5), shapely.box(4, 4, 10, 8))
    assert int((count > 0).sum()) == 4 * (5 * 3 + 6 * 4 - 2 * 1)
    assert int((count == 2).sum()) == 4 * 2 * 1
    assert count[4, 2] == 1
    assert count[3, 2] == 0


@pytest.mark.parametrize(
    "area", [shapely.box(-9, 2, -3, 5), shapely.box(16, 2, 19, 5), shapely.box(2, -8, 5, -1), shapely.box(2, 11, 5, 14)]
)
def test_what_lies_beyond_the_picture_counts_nothing(area: shapely.Geometry) -> None:
    assert not counted(area).any()


def test_what_reaches_over_the_edge_counts_as_far_as_the_picture_goes() -> None:
    count = counted(shapely.box(-5, -5, 3, 2), shapely.box(13, 8, 40, 40))
    assert int((count > 0).sum()) == 4 * (3 * 2 + 2 * 2)
    assert not counted(shapely.Polygon()).any()
