"""Card and envelope sizes, areas and print lengths against figures from outside."""

import io
import random
import re

import numpy as np
import pytest
import shapely
from pypdf import PdfReader
from skimage.draw import polygon2mask

from fair_thicket.laid.visibility import see_areas
from fair_thicket.model.formats import ENVELOPES, SHEETS, Fold, find_format
from fair_thicket.model.units import MM_PER_INCH, Unit, parse_length, say_length
from fair_thicket.printing.page import Sheets
from fair_thicket.shape.raster import fill


@pytest.mark.parametrize(
    ("key", "width", "height"),
    [("a6", 105, 148)],  # ISO 216:2007, table of the A series
)
def test_iso_paper_sizes(key: str, width: float, height: float) -> None:
    assert (find_format(key).width_mm, find_format(key).height_mm) == (width, height)


def test_iso_sheets_halve_down_from_a4() -> None:
    """ISO 216: A5 is A4 halved along its long side, rounded down to whole millimetres."""
    assert SHEETS["a4"] == (210, 297)
    assert SHEETS["a5"] == (297 // 2, 210)


@pytest.mark.parametrize(("name", "width", "height"), [("C6", 162, 114), ("DL", 220, 110), ("C5", 229, 162)])
def test_iso_envelope_sizes(name: str, width: float, height: float) -> None:
    """ISO 269:1985, designations and sizes of correspondence envelopes."""
    envelope = next(one for one in ENVELOPES if one.name == name)
    assert (envelope.width_mm, envelope.height_mm) == (width, height)


@pytest.mark.parametrize(
    ("name", "width", "height"),
    [
        ("A2 envelope", "5 3/4", "4 3/8"),
        ("A6 envelope", "6 1/2", "4 3/4"),
        ("A7 envelope", "7 1/4", "5 1/4"),
        ("No. 10 envelope", "9 1/2", "4 1/8"),
    ],
)
def test_american_envelope_sizes(name: str, width: str, height: str) -> None:
    """Values written down from memory; common practice."""
    envelope = next(one for one in ENVELOPES if one.name == name)
    assert (envelope.width_mm, envelope.height_mm) == pytest.approx((parse_length(width), parse_length(height)))


@pytest.mark.parametrize(
    ("key", "fold", "landscape", "blank", "score"),
    [
        ("a2", Fold.TOP, False, ("4 1/4", "11"), "5 1/2"),
        ("a2", Fold.SIDE, False, ("8 1/2", "5 1/2"), "4 1/4"),
        ("slimline", Fold.SIDE, False, ("7", "8 1/2"), "3 1/2"),
        ("square6", Fold.TOP, False, ("6", "12"), "6"),
    ],
)
def test_blanks_and_score_lines(key: str, fold: Fold, landscape: bool, blank: tuple[str, str], score: str) -> None:
    """Common practice of the trade."""
    found = find_format(key).blank(fold, landscape=landscape)
    assert found == pytest.approx((parse_length(blank[0]), parse_length(blank[1]), parse_length(score)))


def test_an_eighth_all_round_takes_a_quarter_off_each_side() -> None:
    """Common practice: 1/8 in all round off an A2 front leaves 4 by 5 1/4."""
    front = find_format("a2").front(landscape=False)
    assert [say_length(side - 2 * parse_length("1/8"), Unit.INCH) for side in front] == ["4 in", "5 1/4 in"]


def test_an_inch_is_exactly_25_4_mm() -> None:
    """International yard and pound agreement of 1959."""
    assert MM_PER_INCH == 25.4


def test_visible_areas_agree_with_an_independent_raster() -> None:
    """Painter's algorithm on the pixels of scikit-image's polygon2mask, 20 px/mm, on fifty random stacks."""
    scale, size = 20, (60, 40)
    for seed in range(50):
        chance = random.Random(seed)
        areas = []
        for _ in range(chance.randint(2, 6)):
            x, y = chance.uniform(5, 45), chance.uniform(5, 30)
            angles = sorted(chance.uniform(0, 6.283) for _ in range(7))
            points = [(x + chance.uniform(4, 12) * np.cos(a), y + chance.uniform(4, 12) * np.sin(a)) for a in angles]
            hull = shapely.Polygon(points)
            areas.append(hull if hull.is_valid else hull.convex_hull)
        taken = np.zeros((size[1] * scale, size[0] * scale), bool)
        for sight, area in zip(see_areas([str(k) for k in range(len(areas))], areas, size), areas, strict=True):
            rows = np.asarray(area.exterior.coords)[:, ::-1] * scale - 0.5
            mask = polygon2mask(taken.shape, rows)
            seen = (mask & ~taken).sum() / scale**2
            assert sight.visible_mm2 == pytest.approx(seen, abs=0.01 * area.area + 0.3)
            taken |= mask


def test_our_raster_has_no_border_bias() -> None:
    """Area of a disc of 10 mm radius at 4 px/mm: pi r squared within 0.2 %."""
    disc = shapely.Point(20, 20).buffer(10, quad_segs=64)
    assert fill(disc, (160, 160), 4.0).sum() / 16 == pytest.approx(np.pi * 100, rel=0.002)


def test_the_scale_bar_is_true_in_the_pdfs_own_numbers() -> None:
    """Lengths read back with pypdf from the page's drawing operators: 50 mm and 2 in within 0.1 mm."""
    sheets = Sheets("check", "a4")
    sheets.start_page("Check")
    page = PdfReader(io.BytesIO(sheets.finish())).pages[0]
    content = page.get_contents()
    assert content is not None
    drawn = re.findall(rb"([\d.]+) ([\d.]+) m ([\d.]+) ([\d.]+) l", content.get_data())
    level = [abs(float(x1) - float(x0)) / 72 * 25.4 for x0, y0, x1, y1 in drawn if y0 == y1]
    assert min(abs(length - 50.0) for length in level) < 0.1
    assert min(abs(length - 50.8) for length in level) < 0.1
