"""Outlines round ink: one piece, whatever loose parts there are."""

import cv2
import numpy as np
import pytest
import shapely

from fair_thicket.intake.tracing import _filled, trace
from fair_thicket.shape.outline import to_area

PX_PER_MM = 12.0


def random_ink(chance: np.random.Generator) -> np.ndarray:
    """Draw a few parts that lie in each other's bays: sectors, bars, discs."""
    ink = np.zeros((300, 300), np.uint8)
    for _ in range(int(chance.integers(2, 7))):
        middle = tuple(int(value) for value in chance.integers(60, 240, 2))
        axes = tuple(int(value) for value in chance.integers(8, 60, 2))
        start = float(chance.uniform(0, 360))
        if chance.random() < 0.6:
            thick = int(chance.integers(4, 14))
            cv2.ellipse(ink, middle, axes, 0.0, start, start + float(chance.uniform(60, 330)), 255, thick)
        else:
            cv2.rectangle(ink, middle, (middle[0] + axes[0], middle[1] + axes[1]), 255, -1)
    return ink.astype(np.float32) / 255


@pytest.mark.parametrize("seed", range(40))
def test_an_outline_is_one_piece_round_all_ink(seed: int) -> None:
    ink = random_ink(np.random.default_rng(seed))
    traced = trace(ink, PX_PER_MM)
    assert traced is not None
    area = to_area(traced.outline)
    assert len(shapely.get_parts(area)) == 1
    rows, columns = np.nonzero(ink > 0.9)
    inside = shapely.contains_xy(area.buffer(0.2), (columns + 0.5) / PX_PER_MM, (rows + 0.5) / PX_PER_MM)
    assert inside.mean() > 0.995


def test_parts_that_cross_each_other_do_not_both_vanish() -> None:
    """Both fill the same box, and each has its first corner within the other."""
    first = shapely.Polygon([(2, 2), (0, 0), (10, 0), (10, 10), (0, 10)])
    second = shapely.Polygon([(8, 5), (10, 10), (0, 10), (0, 0), (10, 0)])
    assert _filled(np.array([first, second], dtype=object)).area == pytest.approx(100)
    assert _filled(np.array([first, first], dtype=object)).equals(first)
