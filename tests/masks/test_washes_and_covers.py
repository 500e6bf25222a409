"""Ink operations in the plan and the rehearsal: washes at the very back, covers of every kind, resist, zones."""

import msgspec
import numpy as np
import pytest
import shapely

from fair_thicket.ink.painting import compose, paint
from fair_thicket.masks import list_steps, plan, rehearse
from fair_thicket.masks.differences import PX_PER_MM
from fair_thicket.model.card import Card, Work, order_pieces
from fair_thicket.model.pieces import (
    Blend,
    Cover,
    Form,
    Impression,
    InkZone,
    Panel,
    Piece,
    Splatter,
    Stencilled,
    Wash,
    as_kind,
)
from fair_thicket.model.stash import Kind, Stash
from fair_thicket.shape.paper import local_area
from fair_thicket.shape.washes import cover_area, torn_edge
from making import framed_png, stamp

BLUE = "#4060c0"


def work_with(*pieces: Piece) -> Work:
    stamps = (stamp("toad", 20), stamp("snail", 16), msgspec.structs.replace(stamp("mist", 30), kind=Kind.STENCIL))
    return Work(Card(pieces=order_pieces(pieces)), Stash(stamps))


def pictures() -> dict[str, bytes]:
    return {f"images/{key}.png": framed_png(side, side) for key, side in (("toad", 20), ("snail", 16), ("mist", 30))}


def sky(**fields: object) -> Wash:
    return msgspec.structs.replace(Blend("sky", Form("rectangle", 100.0, 60.0), 60.0, 40.0, colour=BLUE), **fields)


def level(picture: np.ndarray, x: float, y: float) -> tuple[int, ...]:
    return tuple(int(part) for part in picture[int(y * PX_PER_MM), int(x * PX_PER_MM)])


def test_a_wash_comes_after_every_press_and_coloured_images_lie_under_masks_meanwhile() -> None:
    coloured, plain = Impression("toad-1", "toad", 40, 40, colour="#c5d3a4"), Impression("snail-1", "snail", 80, 40)
    made = plan(work_with(sky(), coloured, plain))
    assert [(press.impressions, press.masked, press.is_ink) for press in made.presses] == [
        (("snail-1", "toad-1"), (), False),
        (("sky",), ("toad-1",), True),
    ]
    assert (made.press_count, made.placements, made.deepest_pile) == (1, 1, 0)
    assert made.masks[0].careful_mm == pytest.approx(80.0)  # the sky goes all round it


def test_the_rehearsed_wash_stops_at_the_mask_and_runs_through_an_uncoloured_image() -> None:
    coloured, plain = Impression("toad-1", "toad", 40, 40, colour="#c5d3a4"), Impression("snail-1", "snail", 80, 40)
    work = work_with(sky(), coloured, plain)
    made = rehearse(work, pictures(), plan(work))
    assert made.differences == ()
    last = made.papers[-1]
    assert level(last, 40, 40) == (0xC5, 0xD3, 0xA4), "coloured before the wash, and masked from it"
    assert level(last, 80, 40) == level(last, 60, 20) == (0x40, 0x60, 0xC0)
    without = rehearse(work, pictures(), plan(work), left_out={0})
    (ghost,) = without.differences
    assert (ghost.kind, ghost.front, ghost.back) == ("ghost", "toad-1", "sky")
    assert ghost.area_mm2 == pytest.approx(20 * 20 - (20 * 20 - 18.8**2), abs=12)  # all but its own black frame


def test_a_pale_wash_is_seen_as_well() -> None:
    work = work_with(sky(colour="#d2c092"), Impression("toad-1", "toad", 40, 40, colour="#c5d3a4"))
    assert rehearse(work, pictures(), plan(work), left_out={0}).differences[0].kind == "ghost"


def test_two_washes_each_have_a_column_and_one_mask_serves_both() -> None:
    second = sky(y=50.0)
    work = work_with(
        sky(), msgspec.structs.replace(second, id="mist"), Impression("toad-1", "toad", 60, 40, colour="#c5d3a4")
    )
    made = plan(work)
    assert [press.impressions for press in made.presses if press.is_ink] == [("sky",), ("mist",)]
    assert (len(made.masks), made.placements) == (1, 1)


def test_two_impressions_of_one_stamp_under_a_wash_need_two_masks() -> None:
    one, two = (Impression(f"toad-{k}", "toad", 30.0 + 40 * k, 40, colour="#c5d3a4") for k in (0, 1))
    made = plan(work_with(sky(), one, two))
    assert [mask.serves for mask in made.masks] in ([("toad-0",), ("toad-1",)], [("toad-1",), ("toad-0",)])


@pytest.mark.parametrize(
    ("cover", "covered"),
    [
        (Cover("disc", Form("ellipse", 20.0, 20.0)), np.pi * 100),
        (Cover("tape", Form("rectangle", 100.0, 6.0), 0.0, 10.0), 600.0),
        (Cover("sheet", Form("rectangle", 30.0, 60.0), -35.0), 1800.0),
        (Cover("counter", Form("ellipse", 20.0, 20.0)), 6000 - np.pi * 100),
        (Cover("torn", line=((-60.0, 10.0), (60.0, 10.0)), ragged_mm=0.0), 2000.0),
    ],
    ids=lambda value: getattr(value, "kind", ""),
)
def test_covers_keep_their_area_free_of_ink(cover: Cover, covered: float) -> None:
    work = work_with(sky(covers=(cover,)))
    area = local_area(work.card.pieces[0], work.stash).area
    assert 6000 - area == pytest.approx(covered, rel=0.01)
    picture = compose(work, pictures())
    inked = (picture[:, :, 0] < 128).sum() / PX_PER_MM**2
    assert inked == pytest.approx(area, rel=0.01)


def test_a_torn_edge_is_ragged_and_the_same_seed_tears_it_alike() -> None:
    line = ((-40.0, 0.0), (40.0, 0.0))
    one, same, other = (torn_edge(line, 2.0, seed) for seed in (7, 7, 8))
    assert (one == same).all()
    assert not np.allclose(one, other)
    assert np.abs(one[:, 1]).max() <= 2.0 / (1 - 0.55) + 1e-9  # the geometric sum of all strayings
    assert np.abs(one[:, 1]).max() > 0.5
    assert tuple(one[0]) == line[0]
    assert tuple(one[-1]) == line[1]
    assert np.hypot(*np.diff(one, axis=0).T).min() > 0.3
    # to the right of a line that runs to the right lies what is below it
    assert cover_area(Cover("torn", line=line)).covers(shapely.Point(0, 30))


def test_a_stencil_lets_ink_through_its_openings_only() -> None:
    opening = ((-5.0, -5.0), (5.0, -5.0), (5.0, 5.0), (-5.0, 5.0))
    work = work_with(as_kind(sky(), Stencilled, stencil="mist"))
    mist = msgspec.structs.replace(work.stash.find("mist"), pockets=(opening,))
    work = Work(work.card, Stash((*work.stash.stamps[:2], mist)))
    assert local_area(work.card.pieces[0], work.stash).area == pytest.approx(100.0)
    steps = [step.words for step in list_steps(work, plan(work))]
    assert any("through the mist" in words for words in steps)


def test_a_border_used_as_a_stencil_is_inked_beyond_its_edge() -> None:
    work = work_with(as_kind(sky(), Stencilled, stencil="mist"))
    assert local_area(work.card.pieces[0], work.stash).area == pytest.approx(6000 - 900)


def test_splatter_is_drops_that_fall_alike_each_time_and_its_covers_are_told() -> None:
    work = work_with(as_kind(sky(), Splatter, drops=80))
    one, same = (local_area(work.card.pieces[0], work.stash) for _ in range(2))
    assert one.equals(same)
    assert 1.0 < one.area < 300.0
    words = [step.words for step in list_steps(work, plan(work))]
    assert any("everything within 5 7/8 in" in line for line in words)


def test_a_resist_keeps_a_wash_off_its_lines_without_a_mask() -> None:
    resist = Impression("toad-1", "toad", 60, 40, resists=True, colour="#c5d3a4")
    work = work_with(sky(), resist)
    made = plan(work)
    assert made.masks == ()
    rehearsed = rehearse(work, pictures(), made)
    assert rehearsed.differences == ()
    assert level(rehearsed.papers[-1], 50.3, 40) == (255, 255, 255)  # on the frame's line
    assert level(rehearsed.papers[-1], 60, 20) == (0x40, 0x60, 0xC0)
    words = next(step.words for step in list_steps(work, made) if step.kind == "stamp")
    assert "over 250 °C" in words
    assert "maker's label" in words


def test_an_embossed_resist_is_pictured_in_the_colour_of_its_paper() -> None:
    work = work_with(sky(), Impression("toad-1", "toad", 60, 40, resists=True))
    picture = paint(work, pictures(), dpi=300)
    assert level(picture, 50.3, 40) == (255, 255, 255)
    assert level(picture, 60, 30.3) == (255, 255, 255)


def test_zones_of_one_stamp_print_in_their_own_colours() -> None:
    left = InkZone(((-12.0, -12.0), (0.0, -12.0), (0.0, 12.0), (-12.0, 12.0)), "#c00000")
    work = work_with(Impression("toad-1", "toad", 60, 40, ink="#00c000", zones=(left,)))
    for picture in (compose(work, pictures()), paint(work, pictures(), dpi=300)):
        assert level(picture, 50.3, 40) == (0xC0, 0, 0)
        assert level(picture, 69.7, 40) == (0, 0xC0, 0)
    made = plan(work)
    assert rehearse(work, pictures(), made).differences == ()
    assert "in 2 colours" in next(step.words for step in list_steps(work, made) if step.kind == "stamp")


def test_inked_in_part_or_taped_is_told_and_masks_only_what_is_there() -> None:
    half = ((-10.0, -10.0), (0.0, -10.0), (0.0, 10.0), (-10.0, 10.0))
    front = Impression("toad-1", "toad", 60, 40, inked=half)
    work = work_with(Impression("snail-1", "snail", 66, 40), front)
    made = plan(work)
    assert rehearse(work, pictures(), made).differences == ()
    assert "ink only the wanted part" in list_steps(work, made)[0].words
    taped = work_with(msgspec.structs.replace(front, is_taped=True))
    assert "tape off the rest" in list_steps(taped, plan(taped))[0].words


def test_tape_goes_along_the_fold_only_where_a_wash_reaches_it() -> None:
    high = work_with(sky(y=20.0))
    low = work_with(sky(y=70.0))
    assert any("along the fold" in step.words for step in list_steps(high, plan(high)))
    assert not any("along the fold" in step.words for step in list_steps(low, plan(low)))


def test_what_is_stamped_on_a_panel_and_on_the_card_is_planned_each_by_itself() -> None:
    panel = Panel("panel-1", Form("rectangle", 60.0, 40.0), 90.0, 80.0)
    pieces = (
        Impression("toad-1", "toad", 30, 30),
        Impression("snail-1", "snail", 40, 30),
        panel,
        Impression("toad-2", "toad", 90, 80, on="panel-1"),
        Blend("wash-1", Form("rectangle", 60.0, 40.0), 90.0, 80.0, on="panel-1"),
    )
    made = plan(work_with(*pieces))
    assert [(press.surface, press.is_ink) for press in made.presses] == [
        ("", False),
        ("", False),
        ("panel-1", False),
        ("panel-1", True),
    ]
    assert [made.number_of(index) for index in range(4)] == [1, 2, 3, 3]


def test_an_empty_wash_needs_no_column() -> None:
    gone = Cover("sheet", Form("rectangle", 300.0, 300.0))
    assert plan(work_with(sky(covers=(gone,)))).presses == ()


def test_the_step_of_a_blended_wash_is_its_recipe() -> None:
    work = work_with(sky(inks=("#eec25a", "#c9d2dc", "#2d3558"), way="glow"))
    words = next(step.words for step in list_steps(work, plan(work)) if step.kind == "ink")
    assert "with lantern, mist and night, the first where it glows: light first" in words


def test_every_sheet_is_rehearsed_in_its_own_colour_and_what_it_will_hide_is_not_pictured() -> None:
    """A toad on kraft, half under a blue panel that bears a wash and a toad of its own; against the painter."""
    panel = Panel("panel-1", Form("rectangle", 50.0, 60.0), 85.0, 50.0, colour="#9fb8d9")
    pieces = (
        Impression("toad-1", "toad", 60, 50),
        panel,
        sky(id="sky-1", on="panel-1", x=95.0, y=50.0, form=Form("rectangle", 20.0, 60.0), colour="#f2c11f"),
        Impression("toad-2", "toad", 85, 45, on="panel-1"),
        Impression("snail-1", "snail", 108, 72, on="panel-1"),  # partly beside its panel
    )
    work = work_with(*pieces)
    work = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, paper="#c3a27b"))
    made = rehearse(work, pictures(), plan(work))
    assert made.differences == ()
    assert level(made.papers[0], 10, 10) == (0xC3, 0xA2, 0x7B)
    assert level(made.papers[0], 85, 30) == (0x9F, 0xB8, 0xD9)
    painted = paint(work, pictures(), dpi=300)
    for x, y in (
        (50.4, 50),
        (69.6, 50),
        (75.4, 45),
        (102, 70),
        (102, 50),
        (85, 70),
        (20, 20),
        (100.4, 72),
        (115.7, 72),
    ):
        assert level(made.scene, x, y) == pytest.approx(level(painted, x, y), abs=3), (x, y)
    red, green, blue = level(made.scene, 102, 70)
    assert green > max(red, blue)  # yellow over blue paper


def test_on_paper_as_dark_as_its_ink_no_ghost_is_seen() -> None:
    front, back = Impression("toad-1", "toad", 60, 40), Impression("toad-2", "toad", 66, 44)
    work = work_with(back, front)
    forgotten = rehearse(work, pictures(), plan(work), left_out=[0])
    assert forgotten.differences
    dark = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, paper="#0b0f0d"))
    assert rehearse(dark, pictures(), plan(dark), left_out=[0]).differences == ()
