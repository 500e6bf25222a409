"""The picture of a card: paper, ink, washes, vellum, words, shadows and what is lifted away."""

import numpy as np
import pytest

from cases import Maker
from fair_thicket.edits import adding
from fair_thicket.edits.pieces import set_pieces
from fair_thicket.ink.ground import VEIL
from fair_thicket.ink.lettering import draw_words, words_width
from fair_thicket.ink.painter import Look
from fair_thicket.ink.painting import paint
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PictureError
from fair_thicket.model.pieces import Form
from making import framed_png

PLAIN = Look(lines=False)


def colour_at(work: Work, x: float, y: float, look: Look = PLAIN) -> str:
    picture = paint(work, {}, dpi=254, look=look)  # ten pixels to the mm
    return "#" + "".join(f"{value:02x}" for value in picture[int(y * 10), int(x * 10)])


def test_the_picture_is_as_large_as_the_front() -> None:
    assert paint(Work(), {}, dpi=100).shape == (425, 550, 3)


def test_a_wash_shows_through_an_impression_unless_that_is_coloured() -> None:
    m = Maker(paper="#ffffff")
    m.do(lambda work: adding.add_wash(work, "#8080ff")[0])
    m.put("figure", (40, 50))
    m.put("figure", (80, 50), colour="#ff0000")
    assert colour_at(m.work, 40, 55) == "#8080ff"
    assert colour_at(m.work, 80, 55) == "#ff0000"  # it was masked while its surroundings were inked


def test_vellum_takes_its_share_of_the_view() -> None:
    m = Maker(paper="#000000")
    m.panel(Form("rectangle", 40, 40), (60, 50), translucent=True)
    assert colour_at(m.work, 60, 50) == "#" + f"{round(255 * VEIL):02x}" * 3


def test_lines_only_leave_paper_white_and_grey_has_no_hue() -> None:
    m = Maker(paper="#ffffff")
    m.panel(Form("rectangle", 40, 40), (60, 50), colour="#c04040")
    assert colour_at(m.work, 60, 50, Look(lines=False, colours=False)) == "#ffffff"
    grey = colour_at(m.work, 60, 50, Look(lines=False, grey=True))
    assert grey[1:3] == grey[3:5] == grey[5:7]


def test_a_piece_is_lifted_away_with_what_lies_on_it() -> None:
    m = Maker(paper="#ffffff")
    panel = m.panel(Form("rectangle", 40, 40), (60, 50), colour="#00ff00")
    m.put("disc", (60, 50), on=panel, colour="#ff0000")
    assert colour_at(m.work, 60, 50) == "#ff0000"
    assert colour_at(m.work, 60, 50, Look(lines=False, without=frozenset({panel}))) == "#ffffff"


def test_a_raised_piece_darkens_what_lies_to_its_lower_right() -> None:
    m = Maker(paper="#ffffff")
    m.panel(Form("rectangle", 40, 40), (60, 50), lift_mm=3.0)
    look = Look(lines=False, shadows=True)
    assert colour_at(m.work, 80.8, 60, look) < "#f0f0f0"
    assert colour_at(m.work, 39.5, 50, look) == "#ffffff"


def test_dark_ink_mixes_with_its_paper_and_pale_ink_covers() -> None:
    """By hand: 0x80 is 0.2159 of linear light, K/S 1.424; twice that, 2.848, is 0.1323 of light again, 0x66."""
    m = Maker()
    panel = m.panel(Form("rectangle", 80, 30), (60, 50), colour="#804020")
    key = m.put("greeting", (60, 50), on=panel)
    pictures = {"images/greeting.png": framed_png(44, 7, 2.0)}
    for ink, expected in (("#808080", (102, 60, 31)), ("#f0f0f0", (240, 240, 240))):
        picture = paint(set_pieces(m.work, {key}, ink=ink), pictures, dpi=254)
        assert picture[500, 390].tolist() == pytest.approx(expected, abs=2)  # on the frame's left bar
    with pytest.raises(PictureError, match="damaged"):
        paint(m.work, {})


def test_words_are_as_wide_as_they_say_and_their_capitals_as_high() -> None:
    drawn = draw_words("HHH", 10.0, 20.0)
    inked = np.argwhere(drawn < 0.5)
    high = (inked[:, 0].max() - inked[:, 0].min() + 1) / 20
    assert high == pytest.approx(10.0, abs=0.5)
    assert drawn.shape[1] / 20 == pytest.approx(words_width("HHH", 10.0), abs=0.2)
    middle = (inked[:, 0].max() + inked[:, 0].min()) / 2
    assert middle == pytest.approx(drawn.shape[0] / 2, abs=6)
