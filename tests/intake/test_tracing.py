"""Outlines round ink: one piece, whatever loose parts there are."""

import cv2
import numpy as np
import pytest
import shapely

from fair_thicket.intake.joining import close_gaps, outlines_of, spanning_tree
from fair_thicket.intake.tracing import trace
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


@pytest.mark.parametrize("seed", range(12))
def test_closing_on_dots_is_closing_as_by_exact_polygons(seed: int) -> None:
    """Held to growing and shrinking by GEOS: short of it by three of its coarser dots, never beyond it by one."""
    chance = np.random.default_rng(seed)
    discs = [shapely.Point(*chance.uniform(3, 27, 2)).buffer(chance.uniform(1, 3), quad_segs=64) for _ in range(6)]
    parts = shapely.union_all(discs)
    ink = np.zeros((1080, 1080), np.uint8)
    rows, columns = np.mgrid[:1080, :1080] + 0.5
    ink[shapely.contains_xy(parts, columns / 36, rows / 36)] = 1
    tree = spanning_tree(np.array(shapely.get_parts(parts), dtype=object))
    least = max((gap for _, _, gap in tree), default=0.0) + float(chance.uniform(0.5, 3))
    close_gaps(ink, 36.0, least_mm=least)
    found = shapely.transform(shapely.union_all(outlines_of(ink)), lambda corners: corners / 36)
    less, more = (
        _closed_exactly(parts, least / 2 + 0.05 + off) for off in (-0.1, 0.1)
    )  # dots tell reaches so far apart
    assert found.difference(more.buffer(0.08)).area < 0.1
    assert less.difference(found.buffer(0.25)).area < 0.1


def _closed_exactly(parts: shapely.Geometry, reach: float) -> shapely.Geometry:
    """Grow parts and shrink them again, and fill what lies within."""
    grown = shapely.buffer(shapely.buffer(parts, reach, quad_segs=64), -reach, quad_segs=64)
    return shapely.union_all([shapely.Polygon(part.exterior) for part in shapely.get_parts(grown)])


def test_ragged_ink_is_one_outline_as_large_as_it_is() -> None:
    """A ring of 20 mm that has broken into hundreds of bits."""
    chance = np.random.default_rng(3)
    ink = np.zeros((360, 360), np.uint8)
    cv2.circle(ink, (180, 180), 120, 255, 24)
    blotches = cv2.GaussianBlur(chance.random(ink.shape).astype(np.float32), (0, 0), 2)
    ink[blotches < np.quantile(blotches, 0.55)] = 0
    assert cv2.connectedComponents(ink)[0] > 60
    traced = trace(ink.astype(np.float32) / 255, PX_PER_MM)
    assert traced is not None
    left, top, right, bottom = traced.box
    assert (right - left, bottom - top) == pytest.approx((22, 22), abs=0.4)
    area = to_area(traced.outline)
    rows, columns = np.nonzero(ink > 200)
    inside = shapely.contains_xy(area.buffer(0.2), (columns + 0.5) / PX_PER_MM, (rows + 0.5) / PX_PER_MM)
    assert inside.mean() > 0.97
