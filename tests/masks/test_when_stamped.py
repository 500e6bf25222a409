"""Images stamped over dry inks, or by hand when all is glued: planned, rehearsed, told where it cannot be."""

import msgspec
import pytest

from fair_thicket import masks
from fair_thicket.assembly.planning import Assembly, plan_assembly
from fair_thicket.colour.listing import list_steps as list_colour_steps
from fair_thicket.edits.colouring import set_regions
from fair_thicket.edits.ink_edits import set_stamped
from fair_thicket.ink.painting import paint
from fair_thicket.masks import plan_with_pins, rehearse
from fair_thicket.masks.other_press import why_not
from fair_thicket.model.card import Card, Work, name_pieces
from fair_thicket.model.colouring import ColouredPart, Region, Shade
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Blend, Cutout, Form, Impression, Piece
from fair_thicket.model.stash import Stash
from making import pictures_of, square, stamp

DUSK = Blend(id="dusk", form=Form("rectangle", 120, 90), x=70, y=54, colour="#5f8fa3")
PART = ColouredPart((1,), (Shade("#c8563c", "rust"),))


def card_of(*pieces: Piece) -> Work:
    stash = Stash((stamp("toad", 20.0), stamp("word", 16.0), stamp("trail", 12.0), stamp("banner", 80.0)))
    return set_regions(Work(Card(pieces=pieces), stash), "toad", (Region(1, square(20)),), ((1,),))


def order_of(work: Work) -> list[tuple[str, ...]]:
    return [press.impressions for press in plan_with_pins(work)[0].presses]


def assembled(work: Work) -> Assembly:
    return plan_assembly([("front", work, plan_with_pins(work)[0])])


def test_a_greeting_is_stamped_once_the_wash_is_dry_and_the_rehearsal_equals_the_scene() -> None:
    word = Impression("w", "word", 60, 60, stamped="over dry inks")
    work = card_of(DUSK, Impression("t", "toad", 30, 30, colour="#c8563c"), word)
    assert order_of(work) == [("t",), ("dusk",), ("w",)]
    plan = plan_with_pins(work)[0]
    done = rehearse(work, pictures_of(work), plan)
    assert not done.differences
    before, last = done.papers[2], done.papers[3]
    assert (before != last).any()
    step = next(one for one in assembled(work).operations if one.pieces == ("w",))
    assert [(edge.key, edge.wait_min) for edge in step.after] == [("press 2", work.card.masking.rates.wash_dry_min)]
    assert "slow ink" in step.after[0].because


def test_what_stands_behind_a_late_image_is_late_as_well() -> None:
    front = Impression("w", "word", 60, 60, stamped="over dry inks")
    assert order_of(card_of(DUSK, Impression("b", "trail", 66, 60), front)) == [("dusk",), ("w",), ("b",)]


def test_a_coloured_image_over_dry_ink_is_coloured_afterwards_over_that_ink() -> None:
    image = Impression("t", "toad", 60, 60, colouring=(PART,), stamped="over dry inks")
    work = card_of(DUSK, image)
    plan = plan_with_pins(work)[0]
    assert [press.impressions for press in plan.presses] == [("dusk",), ("t",)]
    assert not plan.masks
    assert [one.press for one in list_colour_steps(work, plan) if one.kind == "colour"] == [2]
    steps = assembled(work).operations
    assert [one.kind for one in steps if one.kind in {"ink", "press", "colour"}] == ["ink", "press", "colour"]
    pictures = pictures_of(work)
    over = paint(work, pictures, dpi=100)
    first = paint(card_of(DUSK, msgspec.structs.replace(image, stamped="before inks")), pictures, dpi=100)
    middle = (round(60 / 25.4 * 100), round(60 / 25.4 * 100))
    assert over[middle].sum() < first[middle].sum(), "the blended ink lies under the colour"
    assert not rehearse(work, pictures, plan).differences


def test_an_image_that_masks_a_coloured_one_cannot_wait_and_that_is_told() -> None:
    behind = Impression("t", "toad", 55, 60, colour="#c8563c")
    work = card_of(DUSK, behind, Impression("w", "word", 65, 60, stamped="over dry inks"))
    plan = plan_with_pins(work)[0]
    told = {one.code: one for one in masks.judge(work, plan)}
    assert told["not-after-inks"].pieces == ("w",)
    assert "toad" in told["not-after-inks"].text
    assert order_of(work) == [("w",), ("t",), ("dusk",)]


def test_a_trail_is_stamped_by_hand_when_the_flyer_sits_beside_it() -> None:
    flyer = Cutout("f", "toad", 60, 60, margin_mm=0.0, lift_mm=1.6)
    trail = Impression("tr", "trail", 42, 60, stamped="by hand")
    work = card_of(DUSK, Impression("w", "word", 110, 60), trail, flyer)
    plan = plan_with_pins(work)[0]
    assert plan.presses[-1].by_hand
    assert plan.presses[-1].impressions == ("tr",)
    assert plan.name_of(len(plan.presses) - 1) == "By hand"
    assert plan.press_count == 2, "the flyer's sheet, and the word"
    assert not rehearse(work, pictures_of(work), plan).differences
    made = assembled(work)
    start = {one.operation.key: one.start_min for one in made.schedule.steps}
    hand = next(one for one in made.operations if one.pieces == ("tr",))
    glue = next(one for one in made.operations if one.key == "glue f")
    assert start[hand.key] >= start["glue f"] + glue.minutes + work.card.assembly.hold_min - 1e-6
    assert any("by hand" in edge.because for edge in hand.after)
    steps = [one for one in masks.list_steps(work, plan) if "tr" in one.pieces]
    assert "clear block" in steps[-1].words


@pytest.mark.parametrize(
    ("trail", "glued", "why"),
    [
        (Impression("tr", "trail", 50, 60), Cutout("f", "toad", 60, 60), "on what is glued"),
        (Impression("tr", "banner", 45, 60), Cutout("f", "toad", 115, 60), "too large"),
        (Impression("tr", "trail", 42, 60, colour="#c8563c"), Cutout("f", "toad", 70, 60), "coloured"),
        (Impression("tr", "trail", 105, 60), Cutout("f", "toad", 60, 60), "overlaps what is stamped"),
    ],
)
def test_by_hand_goes_only_a_small_stamp_on_free_ground(trail: Impression, glued: Cutout, why: str) -> None:
    work = card_of(Impression("w", "word", 110, 60), trail, glued)
    with pytest.raises(PaperError, match=why):
        set_stamped(work, ["tr"], "by hand")
    wanted = msgspec.structs.replace(trail, stamped="by hand")
    work = card_of(Impression("w", "word", 110, 60), wanted, glued)
    plan = plan_with_pins(work)[0]
    assert not any(press.by_hand for press in plan.presses)
    told = next(one for one in masks.judge(work, plan) if one.code == "not-by-hand")
    assert why in told.text
    assert told.remedy is not None


def test_what_is_stamped_by_hand_has_no_press_to_move_to() -> None:
    work = card_of(Impression("w", "word", 110, 60), Impression("tr", "trail", 30, 60, stamped="by hand"))
    plan, names = plan_with_pins(work)[0], name_pieces(work)
    problem = masks.pose(work, "")
    assert "by hand" in why_not(plan, problem, names, "tr", 0)
    assert "all is glued" in why_not(plan, problem, names, "w", 1)
    assert not why_not(plan, problem, names, "w", 2)
