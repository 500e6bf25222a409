"""Washes that meet: yellow and blue turn green, complements to mud, and a pale ink between them helps."""

import pytest

from fair_thicket.backdrop import judge
from fair_thicket.backdrop.washes import name_hue
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Form, Panel, Wash


def card(*washes: tuple[str, float, str], on: str = "") -> Work:
    """Upright bands of 40 mm, each with its middle and its colour."""
    pieces = tuple(
        Wash(f"wash-{number}", Form("rectangle", 40.0, 60.0), x, 50.0, colour=colour, on=on)
        for number, (_, x, colour) in enumerate(washes, 1)
    )
    panel = (Panel("panel-1", Form("rectangle", 139.0, 100.0), 70.0, 54.0),) if on else ()
    return Work(Card(pieces=(*panel, *pieces)))


def test_yellow_beside_blue_turns_green_where_they_meet() -> None:
    (finding,) = judge(card(("glow", 30, "#f2c11f"), ("night", 70, "#2b4c9b")))
    assert finding.code == "wash-hue"
    assert "turn to green" in finding.title
    assert "pale, greyish ink" in finding.text
    assert finding.pieces == ("wash-1", "wash-2")


def test_a_pale_wash_of_the_card_is_named_as_a_bridge_and_between_them_nothing_is_said() -> None:
    inks = ("#f2c11f", "#c9d2dc", "#2b4c9b")
    apart = card(("glow", 20, inks[0]), ("night", 60, inks[2]), ("mist", 110, inks[1]))
    (finding,) = judge(apart)
    assert "The ink of the wash 3 can go between" in finding.text
    assert judge(card(("glow", 20, inks[0]), ("mist", 62, inks[1]), ("night", 105, inks[2]))) == []


def test_complements_turn_to_mud() -> None:
    (finding,) = judge(card(("red", 30, "#c8372d"), ("green", 60, "#2f8f4e")))
    assert (finding.code, "mud" in finding.title) == ("wash-mud", True)


def test_washes_apart_or_on_other_surfaces_do_not_mix() -> None:
    assert judge(card(("glow", 20, "#f2c11f"), ("night", 100, "#2b4c9b"))) == []
    on_panel = card(("glow", 30, "#f2c11f"), on="panel-1").card.pieces
    on_card = card(("first", 1, "#000000"), ("night", 50, "#2b4c9b")).card.pieces[1:]
    codes = {one.code for one in judge(Work(Card(pieces=(*on_panel, *on_card))))}
    assert codes == {"bare"}  # the panel lies over the other


@pytest.mark.parametrize(
    ("colour", "name"),
    [
        ("#d02020", "red"),
        ("#f0a020", "orange"),
        ("#e8d820", "yellow"),
        ("#30a040", "green"),
        ("#2040d0", "violet"),
        ("#3f66b0", "blue"),
    ],
)
def test_hues_have_names(colour: str, name: str) -> None:
    assert name_hue(colour) == name


def test_what_is_covered_by_glued_paper_needs_no_ink_but_for_a_margin() -> None:
    """By hand: a wash of 60 by 60 mm, a panel of 40 by 40 over it, 3 mm of margin: 34 by 34 mm may stay bare."""
    wash = Wash("wash-1", Form("rectangle", 60.0, 60.0), 60.0, 50.0, colour="#8f8fb8")
    panel = Panel("panel-1", Form("rectangle", 40.0, 40.0), 60.0, 50.0)
    (finding,) = judge(Work(Card(pieces=(wash, panel))))
    assert (finding.code, finding.measure) == ("bare", pytest.approx(34 * 34))
    assert "12 cm²" in finding.title
    assert "Of 36 cm²" in finding.text
    # the panel that it lies on is behind it, and vellum hides nothing
    on_panel = Wash("wash-1", Form("rectangle", 40.0, 40.0), 60.0, 50.0, on="panel-1")
    assert judge(Work(Card(pieces=(panel, on_panel)))) == []
    vellum = Panel("panel-1", Form("rectangle", 40.0, 40.0), 60.0, 50.0, translucent=True)
    assert judge(Work(Card(pieces=(wash, vellum)))) == []
