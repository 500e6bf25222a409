"""Washes that meet: yellow and blue turn green, complements to mud, and a pale ink between them helps."""

import msgspec
import pytest

from fair_thicket.backdrop.washes import judge_washes, name_hue
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Blend, Form, Lay, Panel, Splatter, Stencilled, Texture, as_kind
from fair_thicket.model.stash import Kind, Stamp, Stash

YELLOW, BLUE = "#f2c11f", "#2b4c9b"


def card(*washes: tuple[str, float, str], on: str = "") -> Work:
    """Upright bands of 40 mm, each with its middle and its colour."""
    pieces = tuple(
        Blend(f"wash-{number}", Form("rectangle", 40.0, 60.0), x, 50.0, colour=colour, on=on)
        for number, (_, x, colour) in enumerate(washes, 1)
    )
    panel = (Panel("panel-1", Form("rectangle", 139.0, 100.0), 70.0, 54.0),) if on else ()
    return Work(Card(pieces=(*panel, *pieces)))


def test_yellow_beside_blue_turns_green_where_they_meet() -> None:
    (finding,) = judge_washes(card(("glow", 30, "#f2c11f"), ("night", 70, "#2b4c9b")))
    assert finding.code == "wash-hue"
    assert "turn to green" in finding.title
    assert "pale, greyish ink" in finding.text
    assert finding.pieces == ("wash-1", "wash-2")


def test_a_pale_wash_of_the_card_is_named_as_a_bridge_and_between_them_nothing_is_said() -> None:
    inks = ("#f2c11f", "#c9d2dc", "#2b4c9b")
    apart = card(("glow", 20, inks[0]), ("night", 60, inks[2]), ("mist", 110, inks[1]))
    (finding,) = judge_washes(apart)
    assert "The ink of the wash 3 can go between" in finding.text
    assert judge_washes(card(("glow", 20, inks[0]), ("mist", 62, inks[1]), ("night", 105, inks[2]))) == []


def test_complements_turn_to_mud() -> None:
    (finding,) = judge_washes(card(("red", 30, "#c8372d"), ("green", 60, "#2f8f4e")))
    assert (finding.code, "mud" in finding.title) == ("wash-mud", True)


def test_washes_apart_or_on_other_surfaces_do_not_mix() -> None:
    assert judge_washes(card(("glow", 20, "#f2c11f"), ("night", 100, "#2b4c9b"))) == []
    on_panel = card(("glow", 30, "#f2c11f"), on="panel-1").card.pieces
    on_card = card(("first", 1, "#000000"), ("night", 50, "#2b4c9b")).card.pieces[1:]
    codes = {one.code for one in judge_washes(Work(Card(pieces=(*on_panel, *on_card))))}
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
    wash = Blend("wash-1", Form("rectangle", 60.0, 60.0), 60.0, 50.0, colour="#8f8fb8")
    panel = Panel("panel-1", Form("rectangle", 40.0, 40.0), 60.0, 50.0)
    (finding,) = judge_washes(Work(Card(pieces=(wash, panel))))
    assert (finding.code, finding.measure) == ("bare", pytest.approx(34 * 34))
    assert "12 cm²" in finding.title
    assert "Of 36 cm²" in finding.text
    # the panel that it lies on is behind it, and vellum hides nothing
    on_panel = Blend("wash-1", Form("rectangle", 40.0, 40.0), 60.0, 50.0, on="panel-1")
    assert judge_washes(Work(Card(pieces=(panel, on_panel)))) == []
    vellum = Panel("panel-1", Form("rectangle", 40.0, 40.0), 60.0, 50.0, translucent=True)
    assert judge_washes(Work(Card(pieces=(wash, vellum)))) == []


def test_lays_of_one_stencil_that_turn_green_over_each_other_are_told_by_their_strong_half() -> None:
    """A straight edge in yellow, then 8 mm higher in blue, each fading over 20 mm: 2 mm of their halves overlap."""
    edge = ((-60.0, -9.0), (60.0, -9.0), (60.0, 9.0), (-60.0, 9.0))
    flat = Stamp("flat", "flat", 120, 18, edge, "images/flat.png", kind=Kind.STENCIL)
    lays = (Lay(0.0, 21.0, ink=YELLOW), Lay(0.0, 13.0, ink=BLUE))
    wash = Stencilled("sky-1", Form("rectangle", 100.0, 60.0), 60.0, 40.0, stencil="flat", lays=lays)
    work = Work(Card(pieces=(msgspec.structs.replace(wash, reach_mm=20.0),)), Stash((flat,)))
    (found,) = [one for one in judge_washes(work) if one.code.startswith("wash-")]
    assert found.title == "Lays of the wash turn to green"
    assert "over 2.0 cm²" in found.text
    apart = Work(Card(pieces=(msgspec.structs.replace(wash, reach_mm=12.0),)), Stash((flat,)))
    assert not [one for one in judge_washes(apart) if one.code.startswith("wash-")]


def test_water_and_texture_are_not_blamed_for_the_ink_they_lie_on() -> None:
    below = Blend("sky-1", Form("rectangle", 100.0, 60.0), 60.0, 40.0, colour=YELLOW)
    dots = Texture("dots-1", Form("rectangle", 100.0, 60.0), 60.0, 40.0, colour=BLUE, spots=((0.0, 0.0),))
    assert not [one for one in judge_washes(Work(Card(pieces=(below, dots)), Stash())) if one.code != "bare"]
    drops = as_kind(dots, Splatter, drops=900)
    assert [one.code for one in judge_washes(Work(Card(pieces=(below, drops)), Stash()))] == ["wash-hue"]
