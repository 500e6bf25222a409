"""Regions of drawings made by hand, whose areas are known."""

import cv2
import numpy as np
import pytest
import shapely

from fair_thicket.colour.likes import find_parts
from fair_thicket.colour.reading import read_regions
from fair_thicket.colour.regions import find_regions
from fair_thicket.colour.thinning import find_ends, thin
from fair_thicket.edits.colouring import set_regions
from fair_thicket.intake.renewing import renew_outline
from fair_thicket.model.errors import PictureError
from fair_thicket.shape.raster import grow_labels
from making import framed_png, open_ring_png, stamp, wire_stamp, work_of

PX = 300 / 25.4
SIDE = 24.0


def sheet(width_mm: float = SIDE, height_mm: float = SIDE) -> np.ndarray:
    return np.zeros((round(height_mm * PX), round(width_mm * PX)), np.float32)


def line(ink: np.ndarray, *points: tuple[float, float], wide_mm: float = 0.5) -> None:
    """Draw a line through points, mm."""
    spots = np.rint(np.array(points) * PX).astype(np.int32)
    cv2.polylines(ink, [spots], False, 1.0, round(wide_mm * PX), cv2.LINE_AA)


def box(ink: np.ndarray, left: float, top: float, right: float, bottom: float) -> None:
    line(ink, (left, top), (right, top), (right, bottom), (left, bottom), (left, top))


def areas(ink: np.ndarray) -> list[float]:
    return [round(area.area, 1) for area in find_regions(ink, PX).areas]


def test_a_box_and_a_box_within_are_two_regions_the_outer_with_a_hole() -> None:
    ink = sheet()
    box(ink, 2, 2, 22, 22)
    box(ink, 8, 8, 14, 14)
    found = find_regions(ink, PX)
    assert [len(area.interiors) for area in found.areas] == [1, 0] or [len(a.interiors) for a in found.areas] == [0, 1]
    outer, inner = sorted(found.areas, key=lambda area: -area.area)
    assert outer.area == pytest.approx(19.5**2 - 6.5**2, rel=0.03)
    assert inner.area == pytest.approx(5.5**2, rel=0.05)


def test_paper_that_no_line_closes_is_no_region() -> None:
    ink = sheet()
    line(ink, (2, 2), (22, 2), (22, 22))
    assert areas(ink) == []
    assert areas(sheet()) == []
    assert areas(np.ones_like(sheet())) == []


def turned_square(angle_deg: float, gap_mm: float, dpi: float, *, wide_mm: float) -> np.ndarray:
    """Draw a square of 14 mm with a gap in one of its sides, turned, softened as a scan is."""
    finer, px = 4, dpi / 25.4
    side = round(24 * px)
    turn = np.radians(angle_deg)
    way = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])

    def spots(points: list[tuple[float, float]]) -> np.ndarray:
        return np.rint((np.array(points) @ way.T * px * finer + side * finer / 2) * 16).astype(np.int32)

    drawn = np.zeros((side * finer, side * finer), np.uint8)
    cv2.polylines(
        drawn, [spots([(-7, -7), (7, -7), (7, 7), (-7, 7)])], True, 255, round(wide_mm * px * finer), cv2.LINE_AA, 4
    )
    low, high = 1.3 - gap_mm / 2, 1.3 + gap_mm / 2
    cv2.fillPoly(drawn, [spots([(low, -8), (high, -8), (high, -6), (low, -6)])], 0, shift=4)
    return cv2.resize(drawn, (side, side), interpolation=cv2.INTER_AREA).astype(np.float32) / 255


@pytest.mark.parametrize("dpi", [150, 300, 600])
@pytest.mark.parametrize("angle_deg", [0, 10, 30, 45, 75, 135])
def test_a_gap_is_bridged_whichever_way_its_line_runs(angle_deg: float, dpi: float) -> None:
    for wide_mm in (0.35, 0.6):
        for gap_mm in (0.35, 0.75):
            ink = turned_square(angle_deg, gap_mm, dpi, wide_mm=wide_mm)
            (found,) = find_regions(ink, dpi / 25.4).areas
            assert found.area == pytest.approx((14 - wide_mm) ** 2, rel=0.04)


@pytest.mark.parametrize("gap_mm", [0.3, 0.6, 0.9])
def test_a_small_gap_in_a_line_is_bridged(gap_mm: float) -> None:
    ink = sheet()
    box(ink, 2, 2, 22, 22)
    line(ink, (2, 12), (12 - gap_mm / 2, 12))
    line(ink, (12 + gap_mm / 2 + 0.5, 12), (22, 12))
    assert len(areas(ink)) == 2


def test_a_wide_gap_is_an_opening() -> None:
    ink = sheet()
    box(ink, 2, 2, 22, 22)
    line(ink, (2, 12), (10, 12))
    line(ink, (14, 12), (22, 12))
    assert len(areas(ink)) == 1


@pytest.mark.parametrize("angle_deg", [0, 20, 45, 110])
def test_the_outline_closes_a_body_that_is_open_at_its_tail(angle_deg: float) -> None:
    ink = sheet()
    turns = np.radians(np.linspace(8, 352, 200) + angle_deg)  # a ring of 18 mm with a gap of 2.5 mm
    line(ink, *(np.stack([np.cos(turns), np.sin(turns)], axis=1) * 9 + SIDE / 2).tolist())
    assert areas(ink) == []
    rows, columns = np.indices(ink.shape)
    body = np.hypot(rows / PX - SIDE / 2, columns / PX - SIDE / 2) <= 9.25
    (area,) = find_regions(ink, PX, body).areas
    assert area.area == pytest.approx(np.pi * 8.75**2, rel=0.02)


def test_what_lines_close_is_a_region_beside_a_body_too() -> None:
    ink = sheet()
    box(ink, 4, 4, 12, 12)
    body = np.zeros(ink.shape, bool)
    body[:, ink.shape[1] // 2 :] = True
    assert areas(ink) == [pytest.approx(7.5**2, rel=0.02)]
    assert next(area.area for area in find_regions(ink, PX, body).areas) == pytest.approx(7.5**2, rel=0.02)


def test_the_region_of_an_open_body_is_read_off_its_stamp() -> None:
    wire = wire_stamp("pear")
    whole = renew_outline(wire, open_ring_png())
    assert read_regions(wire, open_ring_png())[0] == ()
    (region,), _ = read_regions(whole, open_ring_png())
    assert shapely.Polygon(region.ring).area == pytest.approx(np.pi * 14.2**2, rel=0.03)


def test_a_tick_that_ends_in_the_open_parts_nothing() -> None:
    ink = sheet()
    box(ink, 2, 2, 22, 22)
    line(ink, (12, 2), (12, 8))
    line(ink, (6, 14), (10, 14))
    assert len(areas(ink)) == 1


def test_slivers_are_left_out() -> None:
    ink = sheet()
    box(ink, 2, 2, 22, 22)
    box(ink, 4, 4, 5.0, 5.0)  # 0.25 mm2 of paper
    assert len(areas(ink)) == 1


def test_five_thousand_specks_are_no_regions_and_take_no_time() -> None:
    chance = np.random.default_rng(1)
    ink = sheet(60, 60)
    for x, y in chance.uniform(1, 59, (5000, 2)).tolist():
        cv2.circle(ink, (round(x * PX), round(y * PX)), 1, 1.0, -1)
    assert len(find_regions(ink, PX).areas) <= 60


def test_regions_are_numbered_from_the_top_left() -> None:
    ink = sheet(40, 24)
    for left in (2, 14, 26):
        box(ink, left, 2, left + 10, 10)
        box(ink, left, 13, left + 10, 21)
    labels = find_regions(ink, PX).labels
    middles = [labels[round(y * PX), round(x * PX)] for y in (6, 17) for x in (7, 19, 31)]
    assert middles == [1, 2, 3, 4, 5, 6]


def test_regions_grow_to_the_middle_of_the_line_between_them() -> None:
    labels = np.zeros((20, 40), np.int32)
    labels[:, :10], labels[:, 20:] = 1, 2
    grown = grow_labels(labels, 30)
    assert (grown[:, :14] == 1).all()
    assert (grown[:, 16:] == 2).all()
    assert (grow_labels(labels, 2)[:, 13:17] == 0).all()


def test_thinning_keeps_a_line_whole_and_finds_its_two_ends() -> None:
    ink = sheet()
    line(ink, (4, 4), (12, 9), (20, 6), wide_mm=0.8)
    mask = ink > 0.5
    middle = thin(mask)
    assert cv2.connectedComponents(middle.astype(np.uint8), connectivity=8)[0] == 2
    assert middle.sum() < mask.sum() / 5
    ends = sorted(end.at[1] / PX for end in find_ends(mask, back_px=10))
    assert ends == pytest.approx([3.7, 20.3], abs=0.4)


def thin_by_the_paper(mask: np.ndarray) -> np.ndarray:
    """Guo and Hall (Communications of the ACM 32, 1989, algorithm A1), every pixel in every round; from memory."""
    left = np.pad(mask, 1)
    while True:
        gone = 0
        for half in (0, 1):
            p2, p3, p4, p5, p6, p7, p8, p9 = (
                np.roll(left, (-r, -c), (0, 1))
                for r, c in ((-1, 0), (-1, 1), (0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1))
            )
            crossings = (
                (~p2 & (p3 | p4)).astype(int) + (~p4 & (p5 | p6)) + (~p6 & (p7 | p8)) + (~p8 & (p9 | p2))
            )  # fmt: skip
            one = (p9 | p2).astype(int) + (p3 | p4) + (p5 | p6) + (p7 | p8)
            other = (p2 | p3).astype(int) + (p4 | p5) + (p6 | p7) + (p8 | p9)
            least = np.minimum(one, other)
            side = (p2 | p3 | ~p5) & p4 if half == 0 else (p6 | p7 | ~p9) & p8
            away = left & (crossings == 1) & (least >= 2) & (least <= 3) & ~side
            gone += int(away.sum())
            left = left & ~away
        if not gone:
            return left[1:-1, 1:-1]


@pytest.mark.parametrize("seed", range(12))
def test_only_looking_where_something_changed_thins_as_the_paper_does(seed: int) -> None:
    chance = np.random.default_rng(seed)
    picture = np.zeros((90, 120), np.uint8)
    for _ in range(7):
        ends = chance.integers(2, 88, 4).tolist()
        cv2.line(picture, (ends[0], ends[1]), (ends[2], ends[3]), 1, int(chance.integers(1, 12)))
    assert (thin(picture > 0) == thin_by_the_paper(picture > 0)).all()


def test_likes_are_grouped_and_bodies_are_not() -> None:
    ink = sheet(50, 40)
    box(ink, 2, 2, 30, 38)
    for top in (4, 14, 24):
        box(ink, 34, top, 39, top + 7)
    box(ink, 41, 4, 48, 9)  # as large, turned
    parts = find_parts(find_regions(ink, PX).areas)
    assert sorted(map(len, parts)) == [1, 4]
    assert find_parts(()) == ()


def test_ids_stay_when_an_image_is_read_anew() -> None:
    work = work_of(("toad", 20, 20))
    toad = work.stash.find("toad")
    regions, parts = read_regions(toad, framed_png(10, 10))
    assert [(region.id, len(region.holes)) for region in regions] == [(1, 0)]
    assert parts == ((1,),)
    renamed = tuple(type(region)(region.id + 6, region.ring, region.holes) for region in regions)
    again, _ = read_regions(set_regions(work, "toad", renamed, ((7,),)).stash.find("toad"), framed_png(10, 10))
    assert [region.id for region in again] == [7]


def test_a_damaged_picture_is_told() -> None:
    with pytest.raises(PictureError, match="damaged"):
        read_regions(stamp("toad"), b"nothing")


def test_shapes_are_alike_by_area_roundness_and_length_and_not_by_one_of_them_alone() -> None:
    """Two squares and one turned are alike; a strip of the same area, and a square of twice the area, are not."""
    boxes = [
        shapely.box(0, 0, 4, 4),
        shapely.box(20, 0, 24.1, 4),
        shapely.affinity.rotate(shapely.box(40, 0, 44, 4), 30),
    ]
    strip, large, rest = shapely.box(60, 0, 68, 2), shapely.box(80, 0, 85.7, 5.7), shapely.box(0, 40, 40, 60)
    assert find_parts([*boxes, strip, large, rest]) == ((0, 1, 2), (3,), (4,), (5,))
    long, longer = shapely.box(0, 0, 8, 2), shapely.box(0, 10, 16, 11)
    assert find_parts([long, longer, rest]) == ((0,), (1,), (2,))
