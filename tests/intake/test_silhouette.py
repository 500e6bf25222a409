"""The body that lines hold: what closed lines hold for certain, what a maker says of the rest, what never is."""

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from fair_thicket.intake.closure import SHARES, levels_of, read_closure, see
from fair_thicket.intake.shaping import AS_FOUND, Shaping
from fair_thicket.intake.silhouette import fill, find_silhouette, turn_area
from fair_thicket.intake.tracing import trace
from fair_thicket.shape.outline import to_area

PX = 300 / 25.4
SIDE = 36.0


def sheet() -> np.ndarray:
    side = round(SIDE * PX)
    return np.zeros((side, side), np.float32)


def strokes(*lines: list[tuple[float, float]], wide_mm: float = 0.5) -> np.ndarray:
    """Draw lines through points, mm."""
    ink = sheet()
    for line in lines:
        spots = np.rint(np.array(line) * PX * 16).astype(np.int32)
        cv2.polylines(ink, [spots], False, 1.0, round(wide_mm * PX), cv2.LINE_AA, 4)
    return ink


def arc(middle: tuple[float, float], radius: float, start_deg: float, end_deg: float) -> list[tuple[float, float]]:
    turns = np.radians(np.linspace(start_deg, end_deg, 90))
    return [(middle[0] + radius * np.cos(turn), middle[1] + radius * np.sin(turn)) for turn in turns]


def disc_with_gap(gap_mm: float, at_deg: float = 0.0) -> np.ndarray:
    half = np.degrees(gap_mm / 2 / 12)
    return strokes(arc((18, 18), 12, at_deg + half, at_deg + 360 - half))


def body(ink: np.ndarray, shaping: Shaping = AS_FOUND) -> np.ndarray:
    return find_silhouette(ink, (ink >= 0.5).astype(np.uint8), PX, shaping).body > 0


def area_mm2(mask: np.ndarray) -> float:
    return float(mask.sum()) / PX**2


def test_what_lines_close_is_body_and_nothing_beyond() -> None:
    ink = strokes([(6, 6), (30, 6), (30, 24), (6, 24), (6, 6)])
    assert (body(ink) == (fill((ink >= 0.5).astype(np.uint8)) > 0)).mean() > 0.9999


@pytest.mark.parametrize("gap_mm", [0.5, 1.0, 2.0, 3.0])
@pytest.mark.parametrize("at_deg", [0, 45, 110, 250])
def test_a_disc_with_a_gap_is_a_disc(gap_mm: float, at_deg: float) -> None:
    held = body(disc_with_gap(gap_mm, at_deg))
    assert area_mm2(held) == pytest.approx(np.pi * 12.25**2, rel=0.03)


@pytest.mark.parametrize("turn_deg", range(0, 360, 30))
def test_a_box_open_at_one_corner_is_a_box_whichever_way_it_lies(turn_deg: float) -> None:
    turn = np.radians(turn_deg)
    way = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    corners = np.array([(-9, -7), (9, -9), (9, 9), (-9, 9), (-9, -9)]) @ way.T + 18
    held = body(strokes([tuple(corner) for corner in corners.tolist()]))
    assert area_mm2(held) == pytest.approx(18.25**2, rel=0.06)


def test_a_bare_line_holds_nothing() -> None:
    ink = strokes([(4, 18), (32, 18)])
    assert area_mm2(body(ink)) < 1.2 * area_mm2(ink >= 0.5)


def test_what_a_maker_closes_is_body() -> None:
    angle = strokes([(28, 8), (8, 8), (8, 28)])
    found = body(angle, Shaping(joined=(((28.0, 8.0), (8.0, 28.0)),)))
    assert area_mm2(found) == pytest.approx(200, rel=0.1)
    assert (body(angle, Shaping(joined=(((12.0, 20.0), (18.0, 20.0)),))) == body(angle)).all()


def test_what_a_maker_turns_is_ground_and_turned_again_is_body() -> None:
    ink = strokes([(6, 6), (30, 6), (30, 24), (6, 24), (6, 6)])
    once = body(ink, Shaping(turned=((18.0, 15.0),)))
    assert area_mm2(once) == pytest.approx(area_mm2(ink >= 0.5), rel=0.02)
    assert (body(ink, Shaping(turned=((18.0, 15.0),) * 2)) == body(ink)).mean() > 0.999


@given(st.integers(0, 10_000), st.floats(2, 34), st.floats(2, 34))
@settings(max_examples=40, deadline=None)
def test_an_area_turned_twice_is_as_it_was(seed: int, x: float, y: float) -> None:
    chance = np.random.default_rng(seed)
    lines = [chance.uniform(4, 32, (int(chance.integers(2, 6)), 2)).tolist() for _ in range(int(chance.integers(1, 6)))]
    lines_of = (strokes(*lines) >= 0.5).astype(np.uint8)
    before = fill(lines_of)
    after = before.copy()
    if turn_area(after, lines_of, (x * PX, y * PX)):
        assert (after != before).any()
        assert turn_area(after, lines_of, (x * PX, y * PX))
        assert area_mm2(after != before) < 0.02 * area_mm2(before > 0) + 1.0
    else:
        assert (after == before).all()


@pytest.mark.parametrize("seed", range(8))
def test_looser_is_never_less_of_what_lines_hold(seed: int) -> None:
    chance = np.random.default_rng(seed)
    lines = [arc(tuple(chance.uniform(12, 24, 2)), float(chance.uniform(4, 11)), *np.sort(chance.uniform(0, 360, 2)))
             for _ in range(4)]  # fmt: skip
    ink = strokes(*lines)
    tight, found, loose = (body(ink, Shaping(likely)) for likely in (0.85, 0.5, 0.15))
    assert area_mm2(tight & ~found) < 1.0
    assert area_mm2(found & ~loose) < 1.0


def test_a_loose_spark_keeps_its_own_outline_and_is_held_by_a_narrow_bridge() -> None:
    ink = np.maximum(strokes(arc((16, 20), 10, 0, 360)), strokes(arc((31, 5), 1.5, 0, 360)))
    traced = trace(ink, PX)
    assert traced is not None
    area = to_area(traced.outline)
    apart = np.pi * (10.25**2 + 1.75**2)
    assert apart < area.area < apart + 0.8 * np.hypot(15, 15)


def test_pockets_lie_within_the_outline_and_are_large_enough_to_matter() -> None:
    ring = np.maximum(strokes(arc((18, 18), 14, 0, 360)), strokes(arc((18, 18), 9, 0, 360)))
    traced = trace(ring, PX, shaping=Shaping(turned=((18.0, 18.0),)))
    assert traced is not None
    whole = to_area(traced.outline)
    assert all(shapely.covers(whole.buffer(0.01), to_area(ring)) and to_area(ring).area > 2 for ring in traced.pockets)
    if not trace(ring, PX).pockets:  # else the click made it body
        assert len(traced.pockets) == 1
        assert to_area(traced.pockets[0]).area == pytest.approx(np.pi * 8.75**2, rel=0.02)


@pytest.mark.parametrize(
    "ink",
    [sheet(), np.ones((30, 30), np.float32), np.pad(np.ones((1, 1), np.float32), 12), np.eye(40, dtype=np.float32),
     np.pad(np.ones((2, 300), np.float32), 4), np.pad(np.ones((400, 1), np.float32), 3)],
    ids=["blank", "all ink", "a dot", "a diagonal", "a level line", "an upright line"],
)  # fmt: skip
def test_odd_ink_has_a_body_that_holds_it(ink: np.ndarray) -> None:
    found = find_silhouette(ink, (ink >= 0.5).astype(np.uint8), PX)
    assert (found.body[ink >= 0.5] == 1).all()
    assert 0 <= found.doubt <= 10
    traced = trace(ink, PX)
    assert (traced is None) == (not (ink >= 0.5).any())


def test_levels_tell_how_soon_lines_close_round_a_place() -> None:
    closed = np.pad((disc_with_gap(0.0) >= 0.5).astype(np.uint8), 40)
    level = levels_of(closed)
    middle = (closed.shape[0] // 2, closed.shape[1] // 2)
    assert level[middle] == 1
    assert level[0, 0] == 0
    levels = [levels_of(np.pad((disc_with_gap(gap) >= 0.5).astype(np.uint8), 40))[middle] for gap in (1.5, 3.0, 4.5)]
    assert 1 > levels[0] > levels[1] > levels[2] > 0
    assert levels_of(np.pad((disc_with_gap(24.0) >= 0.5).astype(np.uint8), 40))[middle] == 0
    assert list(SHARES) == sorted(SHARES)


def test_what_is_read_lies_between_0_and_1_and_far_off_is_nothing() -> None:
    likely = read_closure(disc_with_gap(1.0))
    assert likely.shape == sheet().shape
    assert likely.min() >= 0
    assert likely.max() <= 1
    assert likely[round(18 * PX), round(18 * PX)] > 0.8
    assert likely[2, 2] < 0.1
    planes, _ = see(disc_with_gap(1.0))
    assert planes.shape == (3, 128, 128)


def test_one_drawing_is_read_alike_each_time_and_from_many_threads() -> None:
    from concurrent.futures import ThreadPoolExecutor

    inks = [disc_with_gap(gap) for gap in (0.5, 1.5, 2.5, 3.5)]
    alone = [read_closure(ink) for ink in inks]
    with ThreadPoolExecutor(4) as pool:
        together = list(pool.map(read_closure, inks * 5))
    assert all((one == two).all() for one, two in zip(alone * 5, together, strict=True))
