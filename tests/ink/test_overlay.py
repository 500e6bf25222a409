"""Ink laid over pictures and over flat colours."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cases import Maker
from fair_thicket.edits.pieces import set_card
from fair_thicket.ink.contrast import channels
from fair_thicket.ink.mixing import mix
from fair_thicket.ink.overlay import lay_colour, lay_over
from fair_thicket.ink.painter import Look
from fair_thicket.ink.painting import paint
from fair_thicket.model.pieces import Blend, Form

LEVELS = st.tuples(*3 * [st.integers(0, 255)]).map(lambda parts: np.array(parts, np.float32) / 255)
COLOURS = st.tuples(*3 * [st.integers(16, 255)]).map(lambda parts: "#" + "".join(f"{part:02x}" for part in parts))
WHITE = np.ones(3, np.float32)
YELLOW, BLUE, KRAFT = "#f2c11f", "#2b4c9b", "#c3a27b"


@given(LEVELS)
def test_over_white_an_ink_is_itself_and_white_over_anything_changes_nothing(tone: np.ndarray) -> None:
    assert lay_over(WHITE, tone) == pytest.approx(tone, abs=0.5 / 255)
    assert lay_over(tone, WHITE) == pytest.approx(tone, abs=0.5 / 255)


@given(LEVELS, LEVELS, LEVELS)
def test_the_order_of_inks_makes_no_difference(one: np.ndarray, two: np.ndarray, three: np.ndarray) -> None:
    forth = lay_over(lay_over(one, two), three)
    assert forth == pytest.approx(lay_over(lay_over(three, two), one), abs=2 / 255)
    assert (forth <= np.minimum(np.minimum(one, two), three) + 1 / 255).all()


@given(COLOURS, COLOURS)
def test_pictures_and_flat_colours_agree(below: str, over: str) -> None:
    seen = lay_over(np.array(channels(below), np.float32), np.array(channels(over), np.float32))
    told = np.array(channels(lay_colour(below, over)))
    # only what reflects under 0.004, the darkest that `mix` knows, may differ
    assert seen == pytest.approx(told, abs=4 / 255)


def washed(card: str, *inks: str) -> str:
    m = Maker(paper=card)
    pieces = tuple(Blend(f"wash-{n}", Form("rectangle", 60, 60), 60, 50, colour=ink) for n, ink in enumerate(inks))
    work = set_card(m.work, pieces=pieces)
    picture = paint(work, {}, dpi=100, look=Look(lines=False))
    return "#" + "".join(f"{level:02x}" for level in picture[197, 236].tolist())


def test_yellow_over_blue_is_green_in_the_picture() -> None:
    both = washed("#ffffff", YELLOW, BLUE)
    red, green, blue = channels(both)
    assert green > red
    assert green > blue
    assert both == washed("#ffffff", BLUE, YELLOW)
    assert channels(both) == pytest.approx(channels(mix([YELLOW, BLUE])), abs=3 / 255)


def test_kraft_takes_part_in_what_is_inked_on_it() -> None:
    seen = channels(washed(KRAFT, BLUE))
    assert seen == pytest.approx(channels(mix([KRAFT, BLUE])), abs=3 / 255)
    assert sum(seen) < sum(channels(BLUE)) - 0.1
