"""What is trimmed: the line to cut, straight or not, and its guide on paper, life size."""

import io

import numpy as np
import pypdfium2
import pytest
import shapely

from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import CARD_EDGE, Cutout, Form, Panel
from fair_thicket.model.stash import Stash
from fair_thicket.printing.page import Sheets
from fair_thicket.printing.trim_pages import draw_trim_pages
from fair_thicket.sheets.trims import list_trims
from making import pictures_of, stamp


def card_of(*pieces: object) -> Work:
    return Work(Card(pieces=pieces), Stash((stamp("toad", 20.0), stamp("snail", 20.0))))


def test_a_piece_over_the_cards_edge_is_cut_straight_at_the_edge() -> None:
    """A square of 20 mm whose middle lies 4 mm from the left edge loses 6 mm: the cut is 20 mm long, at x = -4."""
    (trim,) = list_trims(card_of(Cutout("toad-1", "toad", 4, 40, trim_to=CARD_EDGE, margin_mm=0.0)))
    assert (trim.name, trim.along, trim.is_straight) == ("toad", "card's edge", True)
    assert trim.line.length == pytest.approx(20.0, abs=0.15)
    assert trim.line.bounds[0] == pytest.approx(-4.0, abs=0.01)
    assert trim.kept.area == pytest.approx(14 * 20, abs=1.0)


def test_the_line_is_told_in_the_pieces_own_frame_however_it_is_turned() -> None:
    """Turned by a quarter clockwise its own lower edge points to the left: there it is cut."""
    (trim,) = list_trims(card_of(Cutout("toad-1", "toad", 4, 40, 90.0, trim_to=CARD_EDGE, margin_mm=0.0)))
    assert trim.line.bounds[1] == pytest.approx(4.0, abs=0.01)
    assert trim.kept.area == pytest.approx(14 * 20, abs=1.0)


def test_along_a_round_panel_the_cut_is_not_straight_and_what_loses_nothing_is_not_listed() -> None:
    moon = Panel("moon", Form("ellipse", 60, 60), 50, 50)
    over = Cutout("toad-1", "toad", 76, 50, on="moon", trim_to="moon", margin_mm=0.0)
    within = Cutout("snail-1", "snail", 50, 50, on="moon", trim_to="moon", margin_mm=0.0)
    (trim,) = list_trims(card_of(moon, over, within))
    assert (trim.key, trim.is_straight) == ("toad-1", False)
    placed = shapely.transform(trim.line, lambda points: points + np.array([76, 50]))
    off = [shapely.Point(50, 50).distance(shapely.Point(point)) for point in shapely.get_coordinates(placed)]
    assert off == pytest.approx([30.0] * len(off), abs=0.05)


def test_guides_are_printed_life_size() -> None:
    """The heavy honey line of a straight cut of 20 mm is 20 mm long on paper."""
    work = card_of(Cutout("toad-1", "toad", 4, 40, trim_to=CARD_EDGE, margin_mm=0.0))
    sheets = Sheets("trims", "letter")
    draw_trim_pages(sheets, work, pictures_of(work))
    document = pypdfium2.PdfDocument(io.BytesIO(sheets.finish()))
    (page,) = [page for page in document if "Trim last" in page.get_textpage().get_text_range()]
    dpi = 200
    pixels = page.render(scale=dpi / 72).to_numpy().astype(int)[:, :, :3]
    blue, green, red = pixels[..., 0], pixels[..., 1], pixels[..., 2]
    honey = (red > 180) & (green > 110) & (green < 190) & (blue < 90)
    rows = honey.any(axis=1).nonzero()[0]
    assert (rows[-1] - rows[0] + 1) / dpi * 25.4 == pytest.approx(20.0, abs=0.6)  # as wide as its own pen


def test_the_picture_on_a_guide_lies_within_its_outline() -> None:
    """A square of 20 mm with its picture: the picture's middle is the outline's, on paper as well."""
    work = card_of(Cutout("toad-1", "toad", 4, 40, trim_to=CARD_EDGE, margin_mm=0.0))
    sheets = Sheets("trims", "letter")
    draw_trim_pages(sheets, work, pictures_of(work))
    (page,) = pypdfium2.PdfDocument(io.BytesIO(sheets.finish()))
    bounds = {one.type: [] for one in page.get_objects()}  # type: ignore[var-annotated]
    for one in page.get_objects():
        bounds[one.type].append(np.array(one.get_bounds()) * 25.4 / 72)
    (picture,) = bounds[pypdfium2.raw.FPDF_PAGEOBJ_IMAGE]
    assert picture[2] - picture[0] == pytest.approx(20.0, abs=0.1)
    squares = [box for box in bounds[pypdfium2.raw.FPDF_PAGEOBJ_PATH] if abs(box[2] - box[0] - 20) < 0.6]
    assert any(np.abs(box - picture).max() < 0.4 for box in squares), "no outline lies round the picture"
