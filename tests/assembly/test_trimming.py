"""Trims: a flat scene cut again, a piece trimmed to a window, the base shortened last; all common practice."""

import msgspec
import pytest

from fair_thicket.assembly.planning import Assembly, plan_assembly
from fair_thicket.edits.refit import refit
from fair_thicket.edits.trimming import trim_base
from fair_thicket.ink.painting import paint
from fair_thicket.masks import plan_with_pins, rehearse
from fair_thicket.model.card import Card, Work
from fair_thicket.model.formats import Fold
from fair_thicket.model.pieces import Cutout, Form, Impression, Panel, Window
from fair_thicket.model.stash import Stash
from fair_thicket.sheets.things import list_things
from making import pictures_of, stamp


def card_of(*pieces: object, **card: object) -> Work:
    stash = Stash((stamp("toad", 20.0), stamp("snail", 16.0)))
    return Work(Card(pieces=pieces, **card), stash)  # type: ignore[arg-type]


def planned(work: Work) -> Assembly:
    return plan_assembly([("front", work, plan_with_pins(work)[0])])


def starts_of(made: Assembly) -> dict[str, float]:
    return {one.operation.key: one.start_min for one in made.schedule.steps}


def test_a_whole_flat_scene_is_cut_again_with_its_panel_before_anything_is_raised() -> None:
    """The panel is stamped, the flat snails glued over its edge, all cut again, glued on; then the toad is raised."""
    ground = Panel("ground", Form("ellipse", 110, 80), 70, 54)
    work = card_of(
        ground,
        Impression("i-1", "snail", 70, 40, on="ground"),
        Cutout("s-1", "snail", 120, 54, margin_mm=0.0, on="ground", trim_to="ground"),
        Cutout("s-2", "snail", 24, 50, margin_mm=0.0, on="ground", trim_to="ground"),
        Cutout("t-1", "toad", 70, 66, margin_mm=0.0, on="ground", lift_mm=1.6),
    )
    made = planned(work)
    order = sorted(starts_of(made), key=starts_of(made).__getitem__)
    wanted = ["press 1", "glue s-1", "cut again ground", "glue ground", "glue t-1", "post"]
    assert [key for key in order if key in wanted] == wanted
    assert starts_of(made)["glue s-2"] < starts_of(made)["cut again ground"]
    words = next(one.words for one in made.operations if one.key == "cut again ground")
    assert "die" in words
    assert "still flat" in words
    pictures = pictures_of(work)
    done = rehearse(work, pictures, plan_with_pins(work)[0])
    assert not done.differences
    beyond = paint(work, pictures, dpi=100)[round(54 / 25.4 * 100), round(127 / 25.4 * 100)]
    assert beyond.tolist() == [255, 255, 255], "cut off with the panel"


def test_what_lies_raised_on_the_panel_is_not_cut_with_it() -> None:
    ground = Panel("ground", Form("rectangle", 110, 80), 70, 54)
    raised = Cutout("t-1", "toad", 122, 60, margin_mm=0.0, on="ground", lift_mm=1.6, trim_to="ground")
    made = planned(card_of(ground, raised))
    start = starts_of(made)
    assert "cut again ground" not in start
    assert start["trim t-1"] < start["glue t-1"]


def test_a_piece_is_trimmed_along_its_frames_opening_before_it_is_glued() -> None:
    frame = Panel("frame", Form("rectangle", 110, 80), 70, 54, windows=(Window(Form("ellipse", 60, 50)),))
    made = planned(card_of(frame, Cutout("t-1", "toad", 98, 54, margin_mm=0.0, trim_to="frame")))
    trim = next(one for one in made.operations if one.key == "trim t-1")
    assert "along the" in trim.words
    assert {edge.key for edge in trim.after} == {"cut t-1", "cut frame"}
    assert starts_of(made)["trim t-1"] < starts_of(made)["glue t-1"]


def test_a_panel_carried_by_one_that_is_cut_again_makes_no_circle() -> None:
    outer = Panel("outer", Form("rectangle", 120, 90), 70, 54)
    inner = Panel("inner", Form("rectangle", 60, 50), 110, 54, on="outer", trim_to="outer")
    toad = Cutout("t-1", "toad", 82, 54, margin_mm=0.0, on="inner", trim_to="inner")
    start = starts_of(planned(card_of(outer, inner, toad)))
    assert start["glue t-1"] < start["cut again inner"] < start["glue inner"]
    assert start["glue inner"] < start["cut again outer"] < start["glue outer"]


@pytest.mark.parametrize("fold", list(Fold))
def test_the_base_is_shortened_last_to_equal_borders(fold: Fold) -> None:
    """Height = panel height + base width - panel width (common practice)."""
    panel = Panel("ground", Form("rectangle", 133.7, 90), 69.85, 54)
    work = card_of(panel, Impression("i-1", "snail", 40, 40, on="ground"), fold=fold)
    width, height = work.card.panel
    after = trim_base(work)
    assert after.card.panel == pytest.approx((width, 90 + width - 133.7))
    base = next(one for one in list_things(after) if one.key == "base")
    left, top, right, bottom = base.area.bounds
    uncut = (width, 2 * height) if fold is Fold.TOP else (2 * width, height)
    assert (right - left, bottom - top) == pytest.approx(uncut, abs=0.01), "cut as it was, trimmed at the end"
    made = planned(after)
    start = starts_of(made)
    assert all(start[key] < start["shorten"] for key in start if key.startswith(("glue", "press")))
    assert start["shorten"] < start["post"]
    assert "knife" in next(one.words for one in made.operations if one.key == "shorten")
    assert not rehearse(after, pictures_of(after), plan_with_pins(after)[0]).differences


def test_another_format_forgets_that_the_base_was_longer() -> None:
    work = trim_base(card_of(Panel("ground", Form("rectangle", 133.7, 90), 69.85, 54)))
    assert work.card.assembly.shortened_mm > 0
    assert refit(work, format="a6").work.card.assembly.shortened_mm == 0
    again = trim_base(msgspec.structs.replace(work, card=_with_smaller_panel(work.card)))
    assert again.card.assembly.shortened_mm == pytest.approx(work.card.assembly.shortened_mm + 10)


def _with_smaller_panel(card: Card) -> Card:
    (panel,) = card.pieces
    smaller = msgspec.structs.replace(panel, form=Form("rectangle", 133.7, 80))
    return msgspec.structs.replace(card, pieces=(smaller,))
