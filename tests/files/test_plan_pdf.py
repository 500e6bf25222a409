"""The plan on paper is life size and complete."""

import io
import re

import pypdf
import pypdfium2
import pytest
from pypdf import PdfReader

from fair_thicket import masks
from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.files.plan_pdf import plan_pdf
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.pieces import Wash
from fair_thicket.model.units import Unit
from making import pictures_of, stamp, work_of

MM_PER_POINT = 25.4 / 72
SHEETS = ("Where everything goes", "Masks to cut", "On the platform", "Build sheet")


def printed(work: Work, paper: str | None = None) -> bytes:
    plan = masks.plan(work)
    steps = [(step.kind, step.press, step.words) for step in masks.list_steps(work, plan)]
    return plan_pdf(work, pictures_of(work), plan, steps, paper=paper)


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
    data = plan_pdf(work, pictures, plan, [], paper="letter")
    words = " ".join(pypdf.PdfReader(io.BytesIO(data)).pages[0].extract_text().split())
    for key, name in name_pieces(work).items():
        piece = work.card.find(key)
        if "~" not in key and not isinstance(piece, Wash):
            assert name[:16] in words, name
