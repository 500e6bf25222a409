"""A scanned sheet becomes stamps at true size."""

import io

import numpy as np
import pytest
from PIL import Image

from fair_thicket.demo import SHEET_MM, drawings
from fair_thicket.intake import scan_sheet
from fair_thicket.intake.detection import in_reading_order
from fair_thicket.intake.page import find_page
from fair_thicket.intake.stamps import keep_images
from fair_thicket.intake.tracing import trace
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PictureError
from fair_thicket.model.plan import Sheet, SheetImage
from fair_thicket.shape.outline import to_area
from fair_thicket.simulators.scanner import Drawing, Glass, lay_out, scan_page

RING = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="30mm" viewBox="0 0 30 30">'
    '<circle cx="15" cy="15" r="12" fill="none" stroke="#000" stroke-width="0.6"/></svg>'
)
PAWS = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="20mm" viewBox="0 0 30 20">'
    '<circle cx="6" cy="10" r="4"/><circle cx="15" cy="10" r="4"/><circle cx="24" cy="10" r="4"/></svg>'
)


@pytest.fixture(scope="module")
def small_sheet() -> Sheet:
    """A ring of 24.6 mm and three paws in a row, scanned askew on 100 by 80 mm."""
    made = [Drawing("ring", RING), Drawing("paws", PAWS)]
    sheet = (100.0, 80.0)
    places = lay_out(made, sheet)
    return scan_sheet(scan_page(made, places, sheet, Glass(skew_deg=-2.0, dust=15)), dpi=300)


def test_page_skew_and_images_are_measured(small_sheet: Sheet) -> None:
    assert (small_sheet.width_mm, small_sheet.height_mm) == pytest.approx((100, 80), abs=0.5)
    assert small_sheet.skew_deg == pytest.approx(-2.0, abs=0.1)
    assert small_sheet.skew_from == "edges"
    sizes = sorted((image.width_mm, image.height_mm) for image in small_sheet.images)
    assert sizes == [pytest.approx((24.6, 24.6), abs=0.1), pytest.approx((26.0, 8.0), abs=0.1)]


def test_a_ring_drawn_as_one_line_is_a_disc(small_sheet: Sheet) -> None:
    ring = max(small_sheet.images, key=lambda image: image.height_mm)
    assert to_area(ring.outline).area == pytest.approx(np.pi * 12.3**2, rel=0.01)
    assert ring.pockets == ()


def test_parts_that_do_not_touch_get_one_outline_round_all(small_sheet: Sheet) -> None:
    paws = min(small_sheet.images, key=lambda image: image.height_mm)
    area = to_area(paws.outline)
    assert area.geom_type == "Polygon"
    assert 3 * np.pi * 16 < area.area < 1.15 * 3 * np.pi * 16


def test_the_clean_picture_has_transparent_paper_and_the_boxs_proportions(small_sheet: Sheet) -> None:
    for image in small_sheet.images:
        picture = Image.open(io.BytesIO(image.picture))
        assert "transparency" in picture.info
        assert picture.width == pytest.approx(image.width_mm * 300 / 25.4, abs=1)
        alpha = np.asarray(picture.convert("RGBA"))[:, :, 3]
        assert (alpha == 0).mean() > 0.2
        assert alpha.max() == 255


def test_images_are_kept_under_new_keys(small_sheet: Sheet) -> None:
    work, pictures = keep_images(Work(), small_sheet.images, names=["Paw", "Paw"])
    assert [stamp.id for stamp in work.stash.stamps] == ["paw", "paw-2"]
    assert {stamp.picture for stamp in work.stash.stamps} == set(pictures)
    again, more = keep_images(work, small_sheet.images)
    assert [stamp.name for stamp in again.stash.stamps[2:]] == ["image 1", "image 2"]
    assert not pictures.keys() & more.keys()


def test_the_resolution_follows_from_the_sheets_size_either_way_round() -> None:
    made = [Drawing("ring", RING)]
    scan = scan_page(made, lay_out(made, (100.0, 80.0)), (100.0, 80.0), Glass(dpi=200))
    for size in ((100.0, 80.0), (80.0, 100.0)):
        sheet = scan_sheet(scan, sheet_mm=size)
        assert sheet.dpi == pytest.approx(200, rel=0.005)
        assert sheet.images[0].width_mm == pytest.approx(24.6, abs=0.2)


def test_coloured_ink_on_a_coloured_scan_is_found() -> None:
    made = [Drawing("ring", RING)]
    grey = scan_page(made, lay_out(made, (60.0, 60.0)), (60.0, 60.0), Glass(lid=None))
    green = np.stack([grey, np.maximum(grey, 140), grey], axis=2)
    assert scan_sheet(green, dpi=300).images[0].width_mm == pytest.approx(24.6, abs=0.1)


def test_skew_is_read_from_level_strokes_where_no_edge_is_seen() -> None:
    made = drawings()
    scan = scan_page(made, lay_out(made, SHEET_MM), SHEET_MM, Glass(dpi=150, skew_deg=3, lid=None))
    place = find_page(scan, 150)
    assert place.skew_from == "lines"
    assert place.skew_deg == pytest.approx(3, abs=0.25)


def test_too_many_drawings_for_a_sheet_are_refused() -> None:
    with pytest.raises(PictureError, match="Only 1 of 2 drawings fit"):
        lay_out([Drawing("ring", RING)] * 2, (42.0, 42.0))
    with pytest.raises(PictureError, match="cannot be drawn"):
        lay_out([Drawing("broken", "<svg")], (100, 100))


def test_the_same_scan_comes_out_twice() -> None:
    made = [Drawing("ring", RING)]
    places = lay_out(made, (60.0, 60.0))
    assert (scan_page(made, places, (60, 60), Glass()) == scan_page(made, places, (60, 60), Glass())).all()


def test_bare_paper_has_no_outline() -> None:
    assert trace(np.zeros((20, 20), np.float32), 11.8) is None


def test_images_are_numbered_row_by_row_as_they_begin() -> None:
    """A tall one that reaches into the row below stands in the row in which it begins; a slanting row is one."""

    def image(name: str, left: float, top: float, width: float, height: float) -> SheetImage:
        ring = ((0.0, 0.0), (1.0, 0.0), (0.0, 1.0))
        return SheetImage(name, left + width / 2, top + height / 2, width, height, ring, (), b"")

    told = [
        image("parcel", 60, 34, 12, 10), image("moth", 50, 6, 25, 14), image("tall", 30, 4, 15, 55),
        image("snail", 0, 38, 28, 22), image("toad", 0, 0, 28, 30), image("small", 80, 9, 6, 6),
        image("words", 0, 70, 60, 6),
    ]  # fmt: skip
    places = {(one.cx, one.cy): one.name for one in told}
    assert [places[one.cx, one.cy] for one in in_reading_order(told)] == [
        "toad", "tall", "moth", "small", "snail", "parcel", "words",
    ]  # fmt: skip
