"""Beyond a stamp: lines, froth, string, water through a stamp, covers by an outline, guides, rings, drawn flaps."""

import math

import numpy as np
import pytest
import shapely

from fair_thicket import masks
from fair_thicket.edits import extending, flaps, openings
from fair_thicket.engines import assemble
from fair_thicket.ink.painting import paint
from fair_thicket.masks import plan_with_pins, rehearse
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Blend, Cutout, Embellishment, Form, Impression, Panel, Piece, Stencilled, Water
from fair_thicket.model.stash import Kind, Stamp, Stash
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.paper import footprint, local_area, window_area
from making import pictures_of, square, stamp

DUSK = Blend(id="dusk", form=Form("rectangle", 120, 90), x=70, y=54, colour="#5f8fa3")
SCALLOPS = tuple(
    ((25 + 2 * math.cos(9 * t)) * math.cos(t), (25 + 2 * math.cos(9 * t)) * math.sin(t))
    for t in np.linspace(0, 2 * math.pi, 180, endpoint=False)
)
OUTER = Stamp("scallop", "scallop", 54, 54, SCALLOPS, "images/scallop.png", kind=Kind.DIE)
INNER = Stamp("oval", "oval", 30, 20, ((-15, -10), (15, -10), (15, 10), (-15, 10)), "images/oval.png", kind=Kind.DIE)
MIST = Stamp("mist", "mist", 60, 40, ((-30, -20), (30, -20), (30, 20), (-30, 20)), "images/mist.png", kind=Kind.STENCIL,
             pockets=(square(10),))  # fmt: skip


def card_of(*pieces: Piece) -> Work:
    return Work(Card(pieces=pieces), Stash((stamp("toad", 20.0), stamp("fern", 16.0), OUTER, INNER, MIST)))


def equal(work: Work) -> bool:
    return not rehearse(work, pictures_of(work), plan_with_pins(work)[0]).differences


def test_a_trunk_drawn_longer_by_hand_is_as_wide_as_asked_and_drawn_before_what_is_glued_over_it() -> None:
    trunk = Impression("t", "toad", 60, 40, inked=square(18))
    work, key = extending.draw_line(card_of(trunk), [(60, 48), (60.02, 55), (61, 70)], width_mm=1.0, colour="#26302b")
    line = work.card.find(key)
    assert isinstance(line, Embellishment)
    area = footprint(line, work.stash)
    assert area.bounds == pytest.approx((59.5, 47.5, 61.5, 70.5), abs=0.15)
    assert area.area == pytest.approx(22.05 * 1.0 + math.pi / 4, rel=0.03)
    leaf = Cutout("leaf", "fern", 60, 66, margin_mm=0.0)
    covered = Work(Card(pieces=(*work.card.pieces, leaf)), work.stash)
    start = {one.operation.key: one.start_min for one in assemble(covered, {}).schedule.steps}
    assert start["press 1"] < start[f"set {key}"] < start["glue leaf"]
    alone = assemble(work, {})
    assert next(one for one in alone.operations if one.key == f"set {key}").words.startswith("Draw the drawn line")
    assert equal(covered)
    with pytest.raises(PaperError, match="2 mm at least"):
        extending.draw_line(work, [(60, 48), (60.5, 48)], colour="#26302b")
    with pytest.raises(PaperError, match=r"0 mm wide; say 0\.2 to 60 mm"):
        extending.draw_line(work, [(60, 48), (60, 58)], colour="#26302b", width_mm=0)
    scribble = [(10 + number * 0.2, 40 + 6 * (number % 2)) for number in range(600)]
    with pytest.raises(PaperError, match=r"turns 600 times.*draw it in two"):
        extending.draw_line(work, scribble, colour="#26302b")


def test_froth_strays_along_its_line_and_string_lies_on_it() -> None:
    way = [(20.0, 60.0), (60.0, 64.0), (110.0, 58.0)]
    work, key = extending.add_froth(card_of(DUSK), way, size_mm=1.2)
    froth = work.card.find(key)
    assert isinstance(froth, Embellishment)
    line = shapely.LineString(way)
    away = [line.distance(shapely.Point(froth.x + x, froth.y + y)) for x, y in froth.spots]
    assert max(away) <= 1.2 * 1.1
    assert len(froth.spots) == math.floor(line.length / (1.35 * 1.2))
    assert extending.add_froth(card_of(DUSK), way, size_mm=1.2)[0] == work, "the same seed strays the same"
    with pytest.raises(PaperError, match="dots"):
        extending.add_froth(card_of(), [(0.0, 0.0), (900.0, 0.0)], size_mm=0.4)
    tied, twine = extending.lay_twine(work, way, colour="#8a5a3a")
    assert footprint(tied.card.find(twine), tied.stash).area == pytest.approx(line.length * 1.6, rel=0.03)
    assert equal(tied)


def test_water_through_a_stamp_lifts_its_shape_from_what_was_blended_before() -> None:
    work, key = extending.stamp_water(card_of(DUSK), "toad", (60, 50), dwell_s=45)
    water = work.card.find(key)
    assert isinstance(water, Water)
    assert footprint(water, work.stash).area == pytest.approx(400)
    picture = paint(work, pictures_of(work), dpi=100)

    def level(x: float, y: float) -> int:
        return int(picture[round(y / 25.4 * 100), round(x / 25.4 * 100), 0])

    assert level(60, 50) > level(60, 70) + 30, "lifted"
    assert level(72, 50) == level(60, 70)
    plan = plan_with_pins(work)[0]
    assert [press.impressions for press in plan.presses] == [("dusk",), (key,)]
    words = next(one.words for one in masks.list_steps(work, plan) if one.kind == "ink" and key in one.pieces)
    assert "leave it 45 s" in words
    assert "blot" in words
    assert equal(work)
    with pytest.raises(PaperError, match="blend a wash first"):
        extending.stamp_water(card_of(), "toad", (60, 50))
    with pytest.raises(PaperError, match="with a stamp"):
        extending.stamp_water(card_of(DUSK), "oval", (60, 50))
    with pytest.raises(PaperError, match="left 1 to 600 seconds"):
        extending.stamp_water(card_of(DUSK), "toad", (60, 50), dwell_s=0)


@pytest.mark.parametrize("inside", [False, True])
def test_a_wash_is_covered_along_an_images_own_outline_with_a_distance(*, inside: bool) -> None:
    turned = Blend(id="dusk", form=Form("rectangle", 90, 60), x=70, y=54, angle_deg=20.0, colour="#5f8fa3")
    work = card_of(turned, Impression("t", "toad", 70, 54, 15.0))
    made = extending.cover_by_outline(work, "dusk", "t", room_mm=1.0, inside=inside)
    whole, kept = local_area(turned, work.stash).area, 22 * 22 - (4 - math.pi)
    inked = footprint(made.card.find("dusk"), made.stash)
    assert inked.area == pytest.approx(kept if inside else whole - kept, abs=3)
    image = footprint(work.card.find("t"), work.stash)
    assert shapely.intersection(inked, image).area == pytest.approx(image.area if inside else 0.0, abs=0.5)
    assert equal(made)
    with pytest.raises(PaperError, match="no wash"):
        extending.cover_by_outline(work, "t", "dusk")
    with pytest.raises(PaperError, match="Nothing of the"):
        extending.cover_by_outline(work, "dusk", "t", room_mm=50)
    with pytest.raises(PaperError, match="at most 50 mm larger"):
        extending.cover_by_outline(work, "dusk", "t", room_mm=80)


def test_two_stencils_lie_in_one_place_by_their_guides() -> None:
    first = Stencilled(
        id="a", form=Form("rectangle", 60, 40), x=70, y=54, angle_deg=3.0, colour="#5f8fa3", stencil="mist"
    )
    then = Stencilled(id="b", form=Form("rectangle", 60, 40), x=40, y=30, colour="#c9a7a0", stencil="mist")
    work = extending.lay_on_guides(card_of(first, then), "b", "a")
    moved = work.card.find("b")
    assert (moved.x, moved.y, moved.angle_deg) == (70, 54, 3.0)  # type: ignore[union-attr]
    words = [one.words for one in masks.list_steps(work, plan_with_pins(work)[0]) if one.kind == "ink"]
    assert not any("guide lines" in one for one in words[:1])
    assert any("guide lines on those of the" in one for one in words[1:])
    with pytest.raises(PaperError, match="no stencil"):
        extending.lay_on_guides(card_of(first, DUSK), "dusk", "a")


def test_a_ring_of_two_dies_of_any_shape_has_the_inner_ones_hole_and_a_window() -> None:
    work, key = openings.add_ring_of(card_of(), "scallop", "oval", colour="#c9a7a0")
    ring = work.card.find(key)
    outer, inner = to_area(OUTER.outline), to_area(INNER.outline)
    assert local_area(ring, work.stash).area == pytest.approx(outer.area - inner.area)
    assert window_area(ring, work.stash).area == pytest.approx(inner.area)
    assert equal(work)
    with pytest.raises(PaperError, match="does not lie within"):
        openings.add_ring_of(card_of(), "oval", "scallop")
    with pytest.raises(PaperError, match="two dies"):
        openings.add_ring_of(card_of(), "scallop", "toad")


def test_a_part_that_is_drawn_round_is_lifted_without_what_hangs_below() -> None:
    """A sheet with a strand at its foot: only the corner is drawn round, the strand stays where it is."""
    sheet = Panel("sheet", Form("rectangle", 60, 40), 70, 54, colour="#c9d0a0")
    behind = Cutout("toad", "fern", 46, 40, margin_mm=0.0)
    work = card_of(behind, sheet)
    ring = flaps.part_by_ring(work, "sheet", [(38, 32), (62, 32), (60, 53), (38, 52)])
    made = flaps.send_part(work, "sheet", ring, past="toad", side="under")
    (flap,) = made.card.find("sheet").flaps  # type: ignore[union-attr]
    assert flap.past == "toad"
    assert equal(made)
    for wrong, told in (
        ([(38, 32), (56, 32)], "all the way round"),
        ([(0, 0), (10, 0), (10, 10)], "parts nothing off"),
        ([(0, 0), (140, 0), (140, 107), (0, 107)], "parts nothing off"),
    ):
        with pytest.raises(PaperError, match=told):
            flaps.part_by_ring(work, "sheet", wrong)


def test_a_figure_stands_on_its_shadow() -> None:
    toad = Cutout("t", "toad", 60, 50, margin_mm=0.0)
    work, key = extending.shade_feet(card_of(toad), "t")
    shade = work.card.find(key)
    assert isinstance(shade, Blend)
    left, top, right, bottom = footprint(shade, work.stash).bounds
    assert (left + right) / 2 == pytest.approx(60)
    assert top < 60 < bottom
    assert right - left == pytest.approx(17.2)
    assert equal(work)
    with pytest.raises(PaperError, match="no feet"):
        extending.shade_feet(work, key)
