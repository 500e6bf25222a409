"""The plan on paper is life size and complete."""

import io
import itertools
import re
from pathlib import Path

import msgspec
import numpy as np
import pypdf
import pypdfium2
import pytest
import shapely
import svgelements
from pypdf import PdfReader

from fair_thicket import masks
from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.making import print_card
from fair_thicket.model.card import Card, Work, name_pieces
from fair_thicket.model.pieces import Border, Form, Panel, Wash
from fair_thicket.model.stash import Stash
from fair_thicket.model.supplies import Paper
from fair_thicket.model.units import Unit
from fair_thicket.printing.mask_sheets import lay_out_masks, write_mask_sheets
from fair_thicket.printing.plan_pdf import Side
from fair_thicket.printing.platform_pages import mirrored
from fair_thicket.sheets import plan_sheets
from making import framed_png, pictures_of, stamp, work_of

MM_PER_POINT = 25.4 / 72
SHEETS = ("Where everything goes", "Masks to cut", "On the platform", "Build sheet")


def printed(work: Work, paper: str | None = None) -> bytes:
    plan = masks.plan(work)
    steps = masks.list_steps(work, plan)
    return print_card([Side("front", work, plan, steps)], pictures_of(work), paper=paper)


@pytest.fixture
def work() -> Work:
    return work_of(
        ("toad", 60, 50), ("snail", 68, 54), stamps=(stamp("toad", 24), stamp("snail", 18)), title="Post & co"
    )


def texts(data: bytes) -> list[str]:
    return [page.extract_text() for page in PdfReader(io.BytesIO(data)).pages]


def test_the_sheets_tell_where_what_and_how(work: Work) -> None:
    pages = texts(printed(work))
    told = {words: page for page in pages for words in SHEETS if words in page}
    assert list(told) == list(SHEETS)
    assert "snail" in told["Where everything goes"]
    assert "metal ruler" in told["Masks to cut"]
    assert "closes from the left" in told["On the platform"]
    assert "Press 1: place snail face down" in told["Build sheet"]
    assert "Lay the mask of the snail" in told["Build sheet"]


def test_a_card_without_overlaps_needs_no_mask_page() -> None:
    assert not any("Masks to cut" in page for page in texts(printed(work_of(("toad", 20, 20), ("snail", 60, 60)))))


def test_the_paper_goes_by_the_makers_unit_or_as_asked(work: Work) -> None:
    def size(data: bytes) -> tuple[float, float]:
        box = PdfReader(io.BytesIO(data)).pages[0].mediabox
        return float(box.width) * MM_PER_POINT, float(box.height) * MM_PER_POINT

    assert size(printed(work)) == pytest.approx((215.9, 279.4), abs=0.1)
    assert size(printed(work, "a4")) == pytest.approx((210, 297), abs=0.1)
    assert size(printed(work_of(("toad", 20, 20), unit=Unit.MM))) == pytest.approx((210, 297), abs=0.1)


def test_a_wide_card_is_laid_across_the_page() -> None:
    wide = work_of(("toad", 60, 50), format="slimline")
    box = PdfReader(io.BytesIO(printed(wide))).pages[0].mediabox
    assert box.width > box.height


def test_the_same_card_prints_the_same_bytes(work: Work) -> None:
    assert printed(work) == printed(work)


def test_the_front_and_the_bar_are_true_in_the_picture_of_the_page(work: Work) -> None:
    """Second method: the page is rasterised at 10 px/mm, and the frame's and the bar's lines are measured in it."""
    document = pypdfium2.PdfDocument(printed(work))
    picture = document[0].render(scale=10 * MM_PER_POINT).to_numpy()[:, :, 0]
    dark = picture < 120
    rows = [row for row in range(dark.shape[0]) if _longest(dark[row]) > 1380]
    assert (rows[-1] - rows[0]) / 10 == pytest.approx(107.95, abs=0.25)
    assert _longest(dark[rows[0]]) / 10 == pytest.approx(139.7, abs=0.25)
    foot = [_longest(dark[row]) for row in range(2600, dark.shape[0])]
    assert max(foot) / 10 == pytest.approx(50.8 + 0.28, abs=0.2)  # two inches and the round ends of a 0.8 pt line
    document.close()


def _longest(row) -> int:
    return max((len(run) for run in re.findall("1+", "".join("1" if dark else "0" for dark in row))), default=0)


def test_many_masks_run_over_several_pages() -> None:
    pieces = []
    for k in range(14):
        pieces += [(f"back-{k}", 20 + k, 30), (f"front-{k}", 26 + k, 32)]
    stamps = tuple(stamp(key, 40) for key, _, _ in pieces)
    pages = [page for page in texts(printed(work_of(*pieces, stamps=stamps))) if "Masks to cut" in page]
    assert len(pages) >= 2


@pytest.mark.parametrize("number", [1, 2])
def test_a_glued_card_prints_with_every_piece_named_and_its_front_life_size(number: int) -> None:
    """The placement page names all that is stamped and glued; what is inked is not a thing to place."""
    work, pictures = open_card(CARD_FILES[number])
    plan = masks.plan(work)
    data = print_card([Side("front", work, plan, [])], pictures, paper="letter")
    words = " ".join(pypdf.PdfReader(io.BytesIO(data)).pages[0].extract_text().split())
    for key, name in name_pieces(work).items():
        piece = work.card.find(key)
        if "~" not in key and not isinstance(piece, Wash):
            assert name[:16] in words, name


def _paths(page: pypdf.PageObject, height_mm: float) -> list[shapely.Geometry]:
    """Every path that a page draws, read from its content stream, mm from the top left."""
    stream = pypdf.generic.ContentStream(page.get_contents(), page.pdf)
    paths, points = [], []
    for operands, operator in stream.operations:
        if operator == b"m":
            points = [tuple(float(value) for value in operands)]
        elif operator == b"l":
            points.append(tuple(float(value) for value in operands))
        elif operator in (b"h", b"S", b"s", b"B", b"f") and len(points) > 2:
            paths.append(shapely.LineString([(x * MM_PER_POINT, height_mm - y * MM_PER_POINT) for x, y in points]))
            points = points if operator == b"h" else []
    return paths


@pytest.mark.parametrize("rim", [0.0, 0.8])
def test_masks_on_paper_have_the_outline_of_their_image_within_a_tenth_of_a_millimetre(rim: float) -> None:
    """Measured back with pypdf: for every mask some path on its page is the image's outline, grown by the rim."""
    work, pictures = open_card(CARD_FILES[3])
    work = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, mask_rim_mm=rim))
    plan = masks.plan(work)
    reader = PdfReader(io.BytesIO(print_card([Side("front", work, plan, [])], pictures, paper="letter")))
    pages = [page for page in reader.pages if "Masks to cut" in page.extract_text()]
    drawn = [path for page in pages for path in _paths(page, float(page.mediabox.height) * MM_PER_POINT)]
    assert len(plan.masks) == 12
    for mask in plan.masks:
        outline = shapely.Polygon(work.stash.find(mask.stamp).outline).buffer(rim, quad_segs=32).exterior
        middle = shapely.box(*outline.bounds).centroid
        best = min(_apart(outline, middle, path) for path in drawn)
        assert best < 0.1, mask.stamp


def _apart(outline: shapely.Geometry, middle: shapely.Point, path: shapely.Geometry) -> float:
    there = shapely.box(*path.bounds).centroid
    moved = shapely.affinity.translate(path, middle.x - there.x, middle.y - there.y)
    sizes = [abs(a - b) for a, b in zip(moved.bounds, outline.bounds, strict=True)]
    return float(shapely.hausdorff_distance(moved, outline)) if max(sizes) < 0.5 else 99.0


def test_the_careful_line_is_as_long_as_the_plan_says(work: Work) -> None:
    """Two squares by hand: of the snail's outline 3 + 9 mm lie within reach of the toad along two sides each."""
    plan = masks.plan(work)
    (sheet,) = lay_out_masks(work, plan)
    (placed,) = sheet.masks
    assert placed.cut.careful.length == pytest.approx(plan.careful_mm, abs=0.05)
    assert placed.cut.careful.difference(placed.cut.edge.boundary.buffer(0.01)).is_empty


def test_masks_go_out_as_svg_in_millimetres(tmp_path: Path) -> None:
    """Read back with another library: the cut path's size and area are those of the mask's paper."""
    work, _ = open_card(CARD_FILES[3])
    plan = masks.plan(work)
    files = write_mask_sheets(tmp_path, work, plan)
    laid = lay_out_masks(work, plan)
    assert len(files) == len(laid)
    for file, sheet in zip(files, laid, strict=True):
        drawing = svgelements.SVG.parse(str(file))
        assert (float(drawing.width) / svgelements.Length("1mm").value(ppi=96)) == pytest.approx(
            sheet.width_mm, abs=0.01
        )
        group = next(one for one in drawing if getattr(one, "id", "") == "cut")
        shapes = [path for path in group.select() if isinstance(path, svgelements.Path)]
        assert len(shapes) == len(sheet.masks)
        scale = float(drawing.width) / sheet.width_mm
        for path, placed in zip(shapes, sheet.masks, strict=True):
            points = [
                (p.x / scale, p.y / scale) for part in path.as_subpaths() for p in svgelements.Path(part).as_points()
            ]
            left, top, right, bottom = shapely.MultiPoint(points).bounds
            low_x, low_y, high_x, high_y = placed.cut.paper.bounds
            assert (right - left, bottom - top) == pytest.approx((high_x - low_x, high_y - low_y), abs=0.01)


def test_masks_keep_apart_on_their_sheets_and_a_large_one_gets_a_larger_sheet() -> None:
    work, _ = open_card(CARD_FILES[0])
    plan = masks.plan(work)
    for sides in ((152.4, 101.6), (76.2, 76.2), (30.0, 30.0)):
        masking = msgspec.structs.replace(work.card.masking, sheet_mm=sides)
        other = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, masking=masking))
        laid = lay_out_masks(other, plan)
        assert sum(len(sheet.masks) for sheet in laid) == len(plan.masks)
        for sheet in laid:
            areas = [shapely.affinity.translate(one.cut.paper, one.x, one.y) for one in sheet.masks]
            assert all(shapely.box(0, 0, sheet.width_mm, sheet.height_mm).covers(area) for area in areas)
            assert all(not a.intersects(b) for a, b in itertools.combinations(areas, 2))
            assert sheet.is_larger == (sheet.width_mm > max(sides) or sheet.height_mm > min(sides))


@pytest.mark.parametrize(("lid", "place"), [("left", (109.7, 20.0)), ("right", (109.7, 20.0)), ("top", (30.0, 87.95))])
def test_the_open_lid_shows_the_panel_mirrored_about_its_hinge(lid: str, place: tuple[float, float]) -> None:
    """By hand: 30 mm from the left of 139.7 is 109.7 from the other side, 20 mm from the top of 107.95 is 87.95."""
    assert mirrored((30.0, 20.0), (139.7, 107.95), lid) == pytest.approx(place)


def test_the_platform_sheet_is_the_mirror_image_of_what_is_stamped() -> None:
    """Second method: the page is rasterised, turned back, and its ink compared with where the stamp was to print."""
    work = work_of(("toad", 30, 40), stamps=(stamp("toad", 24),))
    pictures = {"images/toad.png": framed_png(24, 24, hatch_mm=5)}
    data = print_card([Side("front", work, masks.plan(work), [])], pictures, paper="letter")
    document = pypdfium2.PdfDocument(data)
    page = next(page for page in document if "On the platform" in page.get_textpage().get_text_bounded())
    dark = page.render(scale=10 * MM_PER_POINT).to_numpy()[:, :, 0] < 200
    left = (215.9 - 139.7) / 2
    top = 34.0 + 9.0 - 3.0
    panel = dark[int(top * 10) : int((top + 107.95) * 10), int(left * 10) : int((left + 139.7) * 10)][:, ::-1]
    inner = panel[20:-20, 20:-20]
    rows, columns = np.nonzero(inner[: (54 * 10), :])
    assert (columns.min() / 10 + 2, columns.max() / 10 + 2) == pytest.approx((18, 42), abs=0.4)
    assert (rows.min() / 10 + 2) == pytest.approx(28, abs=0.4)
    document.close()


def test_joined_borders_are_printed_cut_by_cut_life_size() -> None:
    work, pictures = open_card(CARD_FILES[2])
    reader = PdfReader(io.BytesIO(print_card([Side("front", work, masks.plan(work), [])], pictures, paper="letter")))
    pages = [page for page in reader.pages if "Borders to cut and join" in page.extract_text()]
    words = " ".join(page.extract_text() for page in pages)
    borders = [piece for piece in work.card.pieces if isinstance(piece, Border)]
    assert len(borders) == 4
    for piece in borders:
        for number in range(1, len(piece.cuts) + 1):
            assert f"cut {number} of {len(piece.cuts)}" in words
    drawn = [path for page in pages for path in _paths(page, float(page.mediabox.height) * MM_PER_POINT)]
    for piece in borders:
        outline = shapely.Polygon(work.stash.find(piece.stamp).outline).exterior
        mirrored_die = shapely.affinity.scale(outline, -1, 1)
        middle = shapely.box(*outline.bounds).centroid
        assert min(_apart(line, middle, path) for path in drawn for line in (outline, mirrored_die)) < 0.1


def test_sheets_that_are_handed_over_are_printed_and_no_others() -> None:
    panel = Panel("sky", Form("rectangle", 100, 60), 70, 50, colour="#5f8fa3")
    work = Work(Card(pieces=(panel,)), Stash())
    shown = plan_sheets(work, [Paper("lily leaf", "#5f8fa3", sheets_left=4)], seconds=0.0)
    for sheets, is_named in ((shown, True), (None, False)):
        data = print_card([Side("front", work, masks.plan(work), [], sheets)], {}, paper="letter")
        words = "".join(page.extract_text() for page in PdfReader(io.BytesIO(data)).pages)
        assert ("lily leaf" in words) == is_named
