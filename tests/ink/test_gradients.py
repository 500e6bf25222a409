"""Washes of several inks: ends and middles by hand, every way, turned with the wash, pictured and rehearsed alike."""

import msgspec
import numpy as np
import pytest

from fair_thicket.backdrop.washes import judge_washes
from fair_thicket.edits.ink_edits import blend_wash
from fair_thicket.edits.pieces import apply_remedy
from fair_thicket.ink.contrast import channels
from fair_thicket.ink.gradients import wash_colour, wash_tones
from fair_thicket.ink.mixing import _comes_between, hue_of, to_lab
from fair_thicket.ink.painting import paint
from fair_thicket.masks import plan, rehearse
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Blend, Form, Wash

YELLOW, BLUE, WHITE = "#f2c11f", "#2b4c9b", "#ffffff"


def wash(way: str, *inks: str, **fields: object) -> Wash:
    made = Blend("w", Form("rectangle", 80.0, 40.0), 50.0, 40.0, inks=inks or (WHITE, BLUE), way=way)  # type: ignore[arg-type]
    return msgspec.structs.replace(made, **fields)


def at(piece: Wash, x: float, y: float) -> tuple[float, ...]:
    """Colour at a place of the panel."""
    tones = wash_tones(piece, (x - 0.005, y - 0.005), (1, 1), 100.0)
    return tuple(float(part) for part in tones[0, 0])


def code(parts: tuple[float, ...]) -> str:
    return "#" + "".join(f"{round(part * 255):02x}" for part in parts)


def near(colour: str):
    return pytest.approx(channels(colour), abs=0.02)


def test_from_edge_to_edge_begins_with_the_first_ink_and_ends_with_the_last() -> None:
    down = wash("linear")
    assert at(down, 50, 20.05) == near(WHITE)
    assert at(down, 50, 59.95) == near(BLUE)
    assert at(down, 20, 40) == pytest.approx(at(down, 80, 40))
    ends = [to_lab(WHITE)[0], to_lab(BLUE)[0]]
    assert to_lab(code(at(down, 50, 40)))[0] == pytest.approx(sum(ends) / 2, abs=8)  # the eye sees even steps
    right = wash("linear", toward_deg=0.0)
    assert at(right, 10.05, 40) == near(WHITE)
    assert at(right, 89.95, 25) == near(BLUE)


def test_a_band_a_corner_and_a_glow() -> None:
    band = wash("band")
    assert at(band, 30, 40) == near(WHITE)
    assert at(band, 30, 20.05) == at(band, 30, 59.95) == near(BLUE)
    corner = wash("corner", toward_deg=45.0)
    assert at(corner, 10.05, 20.05) == near(WHITE)
    assert at(corner, 89.95, 59.95) == near(BLUE)
    glow = wash("glow", centre=(10.0, -5.0))
    assert at(glow, 60, 35) == near(WHITE)
    assert at(glow, 70, 35) == pytest.approx(at(glow, 60, 45), abs=0.01)
    assert at(glow, 10.05, 59.95) == near(BLUE)


def test_a_turned_wash_takes_its_blend_along() -> None:
    turned = wash("linear", angle_deg=90.0)
    assert at(turned, 69.95, 40) == near(WHITE)  # what was the top lies at the right
    assert at(turned, 30.05, 40) == near(BLUE)


def test_inks_between_lie_evenly_on_the_way() -> None:
    three = wash("linear", WHITE, YELLOW, BLUE)
    assert at(three, 50, 40) == near(YELLOW)
    assert (
        hue_of("#" + "".join(f"{round(part * 255):02x}" for part in at(three, 50, 50))) > 90
    )  # green on its way to blue


def test_one_ink_or_none_is_flat() -> None:
    assert wash_colour(wash("even", BLUE)) == BLUE
    assert wash_colour(Blend("w", Form("rectangle", 9.0, 9.0), 5, 5, colour="#123456")) == "#123456"
    assert at(wash("even", YELLOW, BLUE), 20, 30) == near(YELLOW)


def test_it_is_pictured_and_rehearsed_place_by_place() -> None:
    work = Work(Card(pieces=(wash("linear"),)))
    picture = paint(work, {}, dpi=254)
    assert tuple(picture[202, 500] / 255) == near(WHITE)
    assert tuple(picture[597, 500] / 255) == near(BLUE)
    made = plan(work)
    rehearsed = rehearse(work, {}, made)
    assert rehearsed.differences == ()
    assert np.abs(rehearsed.scene.astype(int) - paint(work, {}, dpi=300)).max() <= 3


def test_an_edit_blends_and_keeps_the_middle_as_flat_colour() -> None:
    work = Work(Card(pieces=(Blend("w", Form("rectangle", 80.0, 40.0), 50.0, 40.0, 90.0),)))
    made = blend_wash(work, "w", (YELLOW, BLUE), "glow", at=(60.0, 40.0)).card.find("w")
    assert isinstance(made, Wash)
    assert made.centre == pytest.approx((0.0, -10.0))
    assert made.colour == wash_colour(made)
    with pytest.raises(PaperError, match="needs an ink"):
        blend_wash(work, "w", (), "linear")


def test_a_blend_that_turns_green_is_told_and_its_remedy_goes_over_a_bridge() -> None:
    work = Work(Card(pieces=(wash("linear", YELLOW, BLUE),)))
    (finding,) = judge_washes(work)
    assert finding.code == "blend-hue"
    assert "turns to green" in finding.title
    assert finding.remedy is not None
    made = apply_remedy(work, finding.remedy)
    assert len(made.card.find("w").inks) == 3  # type: ignore[union-attr]
    assert judge_washes(made) == []


@pytest.mark.parametrize(
    ("first", "second", "middle", "is_between"),
    [
        (350, 30, 190, False),  # 40 degrees apart across 0: near
        (350, 60, 205, True),
        (10, 200, 350, False),  # 20 degrees off the one
        (10, 200, 105, True),
        (60, 240, 150, True),  # yellow and blue, green between
        (0, 61, 300, True),
        (0, 59, 300, False),
    ],
)
def test_a_hue_comes_between_two_where_they_lie_apart_and_it_lies_off_both(
    first: float, second: float, middle: float, is_between: bool
) -> None:
    assert _comes_between(first, second, middle) == is_between
    assert _comes_between(second, first, middle) == is_between
