"""The build book: the order with its whys, pictures of steps, backs life size."""

import io
import re

import numpy as np
import pypdfium2
import pytest

from fair_thicket.assembly import plan_assembly
from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Form, Panel
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.sides import sides_of
from fair_thicket.model.stash import Stash
from fair_thicket.printing.assembly_pages import draw_assembly_pages
from fair_thicket.printing.page import Sheets


def pages_of(work: Work, pictures: dict[str, bytes] | None, *, bare: bool = False) -> list[pypdfium2.PdfPage]:
    sides = [(name, side, MaskPlan() if bare else plan_with_pins(side)[0]) for name, side in sides_of(work)]
    sheets = Sheets("book", "letter")
    draw_assembly_pages(sheets, plan_assembly(sides), pictures)
    return list(pypdfium2.PdfDocument(io.BytesIO(sheets.finish())))


def test_the_book_tells_every_step_with_its_why_and_pictures_what_lands() -> None:
    work, pictures = open_card(CARD_FILES[1])
    pages = pages_of(work, pictures)
    texts = [page.get_textpage().get_text_range() for page in pages]
    whole = " ".join(" ".join(texts).split())
    assert re.search(r"About 9\d min with all drying, no order takes less time", whole)
    assert "Check with your postal service" in whole
    assert "The maker's own label and local rules come first" in whole
    assert all(f"{number}. " in whole for number in range(1, 32))
    assert "because a cut edge is hard to hold and to colour" in whole
    assert sum("Step by step" in text for text in texts) == 3  # fourteen steps put something on the card, six a page
    assert any("Backs, with foam and glue" in text for text in texts)


def test_backs_are_life_size_and_mirrored() -> None:
    """A panel of 60 x 40 mm on foam: its outline on paper is 60 mm wide."""
    work = Work(Card(pieces=(Panel("sky", Form("rectangle", 60, 40), 70, 54, lift_mm=1.6),)), Stash())
    (page,) = [page for page in pages_of(work, None, bare=True) if "Backs" in page.get_textpage().get_text_range()]
    dpi = 200
    pixels = page.render(scale=dpi / 72).to_numpy().astype(int)[:, :, :3]
    blue, green, red = pixels[..., 0], pixels[..., 1], pixels[..., 2]
    honey = (red > 225) & (green > 180) & (blue < 110)
    columns = np.flatnonzero(honey.any(axis=0))
    wide = (columns[-1] - columns[0] + 1) / dpi * 25.4
    assert wide == pytest.approx(60 - 2 * 2.5, abs=1.2)  # foam, 2.5 mm in from both edges


def test_a_card_on_which_nothing_is_glued_has_no_such_pages() -> None:
    sheets = Sheets("book", "letter")
    draw_assembly_pages(sheets, plan_assembly([("front", Work(Card(), Stash()), MaskPlan())]), {})
    assert len(pypdfium2.PdfDocument(io.BytesIO(sheets.finish()))) <= 1
