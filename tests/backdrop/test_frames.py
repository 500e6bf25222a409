"""Frame dies made wider and higher: bars kept, openings grown, pieces printed; refused for what is no frame."""

import io
import itertools

import msgspec
import pypdf
import pytest
import shapely

from fair_thicket import masks
from fair_thicket.backdrop.frames import grow_frame, grow_piece, is_frame
from fair_thicket.edits.pieces import set_card
from fair_thicket.files.card_file import decode_card, encode_card
from fair_thicket.making import print_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout
from fair_thicket.model.stash import Kind, Stamp, Stash
from fair_thicket.printing.plan_pdf import Side
from fair_thicket.shape.paper import footprint, window_area
from making import framed_png

INCH = 25.4
BAR = 0.25 * INCH


def ring(width: float, height: float) -> tuple[tuple[float, float], ...]:
    return ((-width / 2, -height / 2), (width / 2, -height / 2), (width / 2, height / 2), (-width / 2, height / 2))


WIDE, HIGH = 5.5 * INCH, 4.25 * INCH
MAT = Stamp(
    "mat", "mat frame", WIDE, HIGH, ring(WIDE, HIGH), "images/mat.png", (ring(WIDE - 2 * BAR, HIGH - 2 * BAR),),
    kind=Kind.BACKDROP, may_flip=True,
)  # fmt: skip
DISC = msgspec.structs.replace(MAT, id="disc", pockets=(), kind=Kind.DIE)


def mat_work() -> Work:
    return Work(Card(pieces=(Cutout("mat-1", "mat", 69.85, 54.0, colour="#4b8050"),)), Stash((MAT, DISC)))


def bars_of(work: Work) -> tuple[float, float, float, float]:
    """Width of a frame's bars: left, top, right, bottom."""
    piece = work.card.find("mat-1")
    outer = footprint(piece, work.stash).bounds
    inner = window_area(piece, work.stash).bounds
    return inner[0] - outer[0], inner[1] - outer[1], outer[2] - inner[2], outer[3] - inner[3]


@pytest.mark.parametrize(
    ("width", "height", "pieces"),
    [(8.5, 4.25, 2), (5.5, 7.0, 2), (8.5, 7.0, 4), (4.5, 3.5, 4), (12.0, 4.25, 3)],
)
def test_a_mat_frame_grows_either_way_and_its_quarter_inch_bars_stay(width: float, height: float, pieces: int) -> None:
    work = mat_work()
    grown, growth = grow_piece(work, "mat-1", width * INCH, height * INCH)
    assert growth.count == pieces
    assert growth.mismatch_mm == 0.0
    after = set_card(work, pieces=(grown,))
    left, top, right, bottom = footprint(grown, after.stash).bounds
    assert (right - left, bottom - top) == pytest.approx((width * INCH, height * INCH), abs=0.02)
    assert ((left + right) / 2, (top + bottom) / 2) == pytest.approx((69.85, 54.0), abs=0.02)
    assert bars_of(after) == pytest.approx((BAR, BAR, BAR, BAR), abs=0.05)
    (opening,) = shapely.get_parts(window_area(grown, after.stash))
    assert opening.area == pytest.approx((width * INCH - 2 * BAR) * (height * INCH - 2 * BAR), rel=2e-3)
    assert decode_card(encode_card(after), "grown") == after


def test_as_it_is_it_is_cut_once() -> None:
    growth = grow_frame(MAT, WIDE, HIGH)
    assert (growth.across, growth.down, growth.count) == (None, None, 1)


def test_only_dies_with_an_opening_are_grown() -> None:
    work = mat_work()
    assert is_frame(work, work.card.find("mat-1"))
    disc = Cutout("disc-1", "disc", 50, 50)
    other = set_card(work, pieces=(disc,))
    assert not is_frame(other, disc)
    with pytest.raises(PaperError, match="has no opening"):
        grow_piece(other, "disc-1", 200.0, 100.0)


def test_every_piece_of_a_grown_frame_is_printed_with_its_place() -> None:
    work = mat_work()
    grown, _ = grow_piece(work, "mat-1", 8.5 * INCH, 7.0 * INCH)
    after = set_card(work, pieces=(grown,))
    pictures = {"images/mat.png": framed_png(WIDE, HIGH)}
    data = print_card([Side("front", after, masks.plan(after), [])], pictures, paper="letter")
    texts = [page.extract_text() for page in pypdf.PdfReader(io.BytesIO(data)).pages]
    pages = [text for text in texts if "Frames to cut and join" in text]
    assert len(pages) == 4
    for number, text in enumerate(pages, 1):
        assert f"mat frame, piece {number} of 4" in text
        assert "metal ruler" in text
    corners = {(one.at_mm <= 0, other.at_mm <= 0) for other, one in itertools.product(grown.down, grown.across)}
    assert len(corners) == 4
    assert "its corner at 0 in and 0 in" in pages[0]
