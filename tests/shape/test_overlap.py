"""Pairs of areas that overlap, where there are very many of them."""

import random
import statistics
import tracemalloc

import shapely

from fair_thicket.shape.overlap import CROWDED, find_overlaps


def test_of_a_crowd_pixels_may_be_counted_and_come_near_the_exact_areas() -> None:
    """Mean and greatest error over more than 6,000 pairs; without leave to count they are exact."""
    dice = random.Random(3)
    places = [(dice.uniform(0, 90), dice.uniform(10, 20), dice.uniform(6, 14)) for _ in range(300)]
    crowd = [shapely.Point(x, y).buffer(radius) for x, y, radius in places]
    exact, counted = find_overlaps(crowd), find_overlaps(crowd, may_count=True)
    assert len(exact) > CROWDED, "no crowd"
    assert exact != counted
    beside = [abs(counted.get(pair, 0.0) - area) for pair, area in exact.items()]
    assert statistics.mean(beside) < 0.3
    assert max(beside) < 3


def test_a_crowd_over_metres_is_counted_in_no_more_memory() -> None:
    """One that lies 9 m away and shares nothing makes the grid neither larger nor coarser."""
    dice = random.Random(3)
    places = [(dice.uniform(0, 90), dice.uniform(10, 20), dice.uniform(6, 14)) for _ in range(300)]
    crowd = [shapely.Point(x, y).buffer(radius) for x, y, radius in places] + [shapely.Point(9000, 9000).buffer(5)]
    tracemalloc.start()
    counted = find_overlaps(crowd, may_count=True)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 400e6
    exact = find_overlaps(crowd)
    assert all(abs(counted.get(pair, 0.0) - area) < 3 for pair, area in exact.items())


def test_areas_that_are_empty_or_alone_share_nothing() -> None:
    dice = random.Random(3)
    crowd: list[shapely.Polygon] = [
        shapely.Point(dice.uniform(0, 90), 10).buffer(dice.uniform(6, 14)) for _ in range(300)
    ]
    crowd[7] = shapely.Polygon()
    counted = find_overlaps(crowd, may_count=True)
    assert counted
    assert not any(7 in pair for pair in counted)
