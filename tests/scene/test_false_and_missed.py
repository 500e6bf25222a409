"""Advice that was false is silent; what trimming takes off, and what cannot be read, is missed and told."""

import msgspec
import pytest

from cases import CASES, FIGURE, STASH
from fair_thicket import edits
from fair_thicket.advice import advise
from fair_thicket.demo import CARD_FILES
from fair_thicket.edits.ink_edits import glow_from, spotlight
from fair_thicket.engines import Known
from fair_thicket.files.card_file import open_card
from fair_thicket.ink.mixing import trouble_between
from fair_thicket.masks import plan, rehearse
from fair_thicket.masks.prices import cost_of
from fair_thicket.masks.timetable import list_steps
from fair_thicket.model.card import Work
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.formats import smallest_envelope
from fair_thicket.model.masking import Pin
from fair_thicket.model.pieces import (
    Blend,
    Cover,
    Cutout,
    Form,
    Impression,
    Panel,
    Piece,
    Strip,
    Texture,
    Wash,
    Window,
)
from fair_thicket.model.stash import Contact, Kind, Marks, Stamp
from fair_thicket.model.units import Unit, say_area
from fair_thicket.scene import judge
from making import EVERY, some_of, square, stamp, work_of

GREETING = msgspec.structs.replace(stamp("words", 30.0), kind=Kind.GREETING)


def card(*pieces: Piece, stamps: tuple[Stamp, ...] = STASH.stamps, **fields: object) -> Work:
    made = work_of(stamps=stamps)
    return msgspec.structs.replace(made, card=msgspec.structs.replace(made.card, pieces=pieces, **fields))


def told(work: Work, code: str) -> list[Finding]:
    return [one for one in advise(work) if one.code == code]


# -- what is lost -------------------------------------------------------------------------------------------------


def test_words_wider_than_the_card_are_trouble_and_no_remedy_cuts_a_letter() -> None:
    work = card(Strip("strip-1", 149.9, 10.0, 69.85, 50.0, words="m" * 30, words_mm=6.0))
    (lost,) = told(work, "words")
    assert lost.weight is Weight.TROUBLE
    for one in judge(work):
        if one.remedy is not None:
            assert "Trim" not in one.remedy.words
            after = edits.apply_remedy(work, one.remedy)
            assert not [still for still in judge(after) if still.code == "words"]


def test_words_trimmed_at_the_edge_are_trouble_and_not_praised() -> None:
    strip = Strip("strip-1", 149.9, 10.0, 69.85, 50.0, words="m" * 19, words_mm=6.0, trim_to="card")
    findings = judge(card(strip))
    (lost,) = [one for one in findings if one.code == "words"]
    assert lost.title == "Words are cut off"
    assert not [one for one in findings if one.code == "clear"]


def test_a_greeting_half_off_its_panel_is_trouble() -> None:
    panel = Panel("panel-1", Form("rectangle", 60, 60), 60, 50)
    words = Impression("words-1", "words", 92, 50, on="panel-1")
    (lost,) = told(card(panel, words, stamps=(GREETING,)), "words")
    assert lost.weight is Weight.TROUBLE
    assert lost.measure == pytest.approx(17 / 30, abs=0.02)
    assert lost.remedy is not None


def test_a_face_that_is_trimmed_off_is_trouble_with_a_remedy() -> None:
    panel = Panel("panel-1", Form("rectangle", 60, 60), 60, 56)
    figure = Cutout("figure-1", "figure", 60, 30, on="panel-1", trim_to="panel-1")
    (lost,) = told(card(panel, figure), "face")
    assert lost.weight is Weight.TROUBLE
    assert lost.remedy is not None


# -- false alarms -------------------------------------------------------------------------------------------------


def test_a_flush_inlay_meets_its_opening_on_purpose() -> None:
    frame = Panel("panel-1", Form("rectangle", 80, 60), 60, 50, windows=(Window(Form("rectangle", 30, 20)),))
    inlay = Panel("panel-2", Form("rectangle", 30, 20), 60, 50, colour="#40a060")
    leaf = Cutout("bubble-1", "bubble", 110, 90)
    assert told(card(frame, inlay, leaf), "near") == []
    die = Stamp("die", "die", 40, 40, square(40), "images/die.png", kind=Kind.BACKDROP, pockets=(square(20),))
    cut, fallen = Cutout("die-1", "die", 60, 50), Cutout("die-2", "die", 60, 50, opening=0)
    assert told(card(cut, fallen, stamps=(die,)), "near") == []


def figure(**fields: object) -> Stamp:
    marks = Marks(feet=((-6.0, 12.0), (6.0, 12.0)), contacts=(Contact("hand", (8.0, 3.5)),))
    made = Stamp("figure", "figure", 18, 24, FIGURE, "images/figure.png", marks=marks)
    return msgspec.structs.replace(made, **fields)


def test_feet_on_inked_ground_do_not_float_and_in_an_inked_sky_they_do() -> None:
    stands = Impression("figure-1", "figure", 60, 60)
    ground = Blend("wash-1", Form("rectangle", 139.7, 45), 69.85, 85.5, colour="#4b8050")
    sky = Blend("wash-1", Form("rectangle", 139.7, 107.95), 69.85, 53.97, colour="#b9c6da")
    assert told(card(stands, stamps=(figure(),)), "floats")
    assert told(card(ground, stands, stamps=(figure(),)), "floats") == []
    assert told(card(sky, stands, stamps=(figure(),)), "floats")


def test_who_hangs_on_a_balloon_does_not_float() -> None:
    balloon = Stamp("balloon", "balloon", 16, 16, square(16), "images/b.png", marks=Marks(flies=True))
    rider = Cutout("figure-1", "figure", 60, 60)
    held = Cutout("balloon-1", "balloon", 75, 55)
    assert told(card(held, rider, stamps=(figure(), balloon)), "floats") == []
    away = Cutout("balloon-1", "balloon", 110, 30)
    assert told(card(away, rider, stamps=(figure(), balloon)), "floats")


def test_feet_that_a_bubble_cuts_off_do_not_float() -> None:
    bubble = Panel("panel-1", Form("ellipse", 40, 30), 60, 45)
    inside = Impression("figure-1", "figure", 60, 52, on="panel-1", trim_to="panel-1")
    assert told(card(bubble, inside, stamps=(figure(),)), "floats") == []


@pytest.mark.parametrize(
    ("first", "second", "trouble"),
    [
        ("#2f9e44", "#1c7ed6", ""),  # green beside blue, as in any rainbow
        ("#e03131", "#f08c00", ""),
        ("#fab005", "#2f9e44", ""),
        ("#1c7ed6", "#7048e8", ""),
        ("#40a060", "#4060c0", ""),  # duller than both, and teal all the same
        ("#ffe14d", "#1a5fb4", "hue"),  # yellow into blue turns green
    ],
)
def test_neighbours_in_a_rainbow_turn_to_nothing_unexpected(first: str, second: str, trouble: str) -> None:
    assert trouble_between(first, second) == trouble


def test_a_clear_resist_is_judged_as_the_paper_that_it_keeps() -> None:
    night = Blend("wash-1", Form("rectangle", 139.7, 107.95), 69.85, 53.97, colour="#1c2440")
    words = Impression("words-1", "words", 60, 50, resists=True)
    assert told(card(night, words, stamps=(GREETING,)), "contrast") == []
    pale = msgspec.structs.replace(night, colour="#eeeef4")
    assert told(card(pale, words, stamps=(GREETING,)), "contrast")


def test_words_glued_up_for_height_are_not_made_for_nothing() -> None:
    one, two = (Cutout(f"word-{n}", "word", 60, 50) for n in (1, 2))
    assert told(card(one, two), "wasted") == []


def test_small_areas_are_said_in_small_units() -> None:
    assert [say_area(area) for area in (0.4, 3.0, 44.0, 250.0)] == ["0.4 mm²", "3.0 mm²", "44 mm²", "2.5 cm²"]


def test_a_slimline_is_told_a_long_envelope_by_its_size_and_by_the_makers_system() -> None:
    inch = smallest_envelope(215.9 + 3, 88.9 + 3, Unit.INCH)
    assert inch is not None
    assert inch.say(Unit.INCH) == "long envelope of 9 1/2 × 4 1/8 in"
    metric = smallest_envelope(210 + 3, 99 + 3, Unit.MM)
    assert metric is not None
    assert metric.say(Unit.MM) == "long envelope of 220 × 110 mm"


# -- true figures -------------------------------------------------------------------------------------------------


def test_a_resist_is_pressed_twice() -> None:
    work = card(Impression("a-1", "a", 60, 50, resists=True), stamps=(stamp("a"),))
    assert any("press 2 times" in step.words for step in list_steps(work, plan(work)))


def test_the_height_of_a_card_counts_panels_strips_and_frames() -> None:
    panel = Panel("panel-1", Form("rectangle", 90, 70), 60, 50, lift_mm=2.0)
    leaf = Cutout("leaf-1", "leaf", 60, 50, lift_mm=1.5)
    strip = Strip("strip-1", 40, 9, 60, 50, lift_mm=0.3)
    work = card(panel, leaf, strip)
    assert cost_of(work, plan(work)).height_mm == pytest.approx(2.0 + 1.5 + 0.3 + 3 * 0.25)
    stamped = card(panel, Impression("leaf-1", "leaf", 60, 50, on="panel-1"))
    pinned = edits.set_card(
        stamped, masking=msgspec.structs.replace(stamped.card.masking, pins=(Pin("cut", ("leaf-1",)),))
    )
    assert cost_of(pinned, plan(pinned)).height_mm == pytest.approx(2.0 + 2 * 0.25)


def test_a_glow_and_its_free_disc_follow_what_they_come_from() -> None:
    wash = Blend("wash-1", Form("rectangle", 139.7, 107.95), 69.85, 53.97, colour="#2d3558", angle_deg=10.0)
    work = card(wash, Impression("leaf-1", "leaf", 50, 40))
    work = spotlight(glow_from(work, "wash-1", "leaf-1"), "wash-1", "leaf-1")
    before = work.card.find("wash-1")
    moved = edits.move_by(work, {"leaf-1"}, (20, 10))
    anew = spotlight(edits.set_pieces(moved, {"wash-1"}, covers=()), "wash-1", "leaf-1").card.find("wash-1")
    after = moved.card.find("wash-1")
    assert isinstance(after, Wash)
    assert isinstance(anew, Wash)
    assert (after.x, after.y) == (before.x, before.y)
    assert after.centre == pytest.approx(anew.centre, abs=0.01)
    assert (after.covers[0].x, after.covers[0].y) == pytest.approx((anew.covers[0].x, anew.covers[0].y), abs=0.01)
    gone = edits.delete(moved, {"leaf-1"}).card.find("wash-1")
    assert isinstance(gone, Wash)
    assert gone.glows_from == ""


# -- for every engine alike -----------------------------------------------------------------------------------------


def test_every_kind_of_advice_can_be_dismissed_and_recalled() -> None:
    for case in CASES:
        work = case()
        for one in advise(work, Known(plan(work)), go_on=lambda: False):
            key = one.pieces[0] if one.pieces else ""
            after = edits.dismiss(work, one.code, key)
            found = advise(after, Known(plan(after)), go_on=lambda: False)
            same = [two for two in found if two.code == one.code and two.pieces[:1] == one.pieces[:1]]
            assert same
            assert all(two.is_dismissed for two in same), one.code
            assert one.station in {"scene", "masks", "assembly"}


@pytest.mark.parametrize("number", some_of(len(CARD_FILES)))
def test_remedies_of_backdrop_and_masks_settle_what_they_are_offered_for(number: int) -> None:
    work, pictures = open_card(CARD_FILES[number])
    if number == 3:
        work = edits.set_card(work, mask_rim_mm=-1.0)  # ghosts, to be mended
    made = plan(work)
    findings = advise(work, Known(made, rehearse(work, pictures, made), pictures=pictures))
    tried = [one for n, one in enumerate(findings) if one.remedy and one.remedy not in [x.remedy for x in findings[:n]]]
    for one in tried:
        after = edits.apply_remedy(work, one.remedy)
        again = plan(after)
        codes = [(two.code, two.pieces[:2]) for two in advise(after, Known(again, rehearse(after, pictures, again)))]
        assert (one.code, one.pieces[:2]) not in codes
    if number == 3:
        assert any(one.remedy.mask_rim_mm == 0.0 for one in tried if one.remedy)


def test_a_wash_of_which_nothing_reaches_the_paper_is_told_and_left_out() -> None:
    away = Blend("wash-1", Form("rectangle", 20, 20), 300, 300, colour="#4060c0")
    (lost,) = told(card(away), "lands-nowhere")
    assert lost.weight is Weight.TROUBLE
    covered = Blend("wash-1", Form("rectangle", 20, 20), 60, 50, covers=(Cover("sheet", Form("rectangle", 40, 40)),))
    assert told(card(covered), "lands-nowhere")


@pytest.mark.parametrize("kind", list(Kind)[:: 1 if EVERY == 1 else 2])
def test_whatever_kind_a_thing_is_said_to_be_every_engine_stands_it(kind: Kind) -> None:
    for file in CARD_FILES:
        work, _ = open_card(file)
        changed = tuple(msgspec.structs.replace(one, kind=kind) for one in work.stash.stamps)
        work = Work(work.card, msgspec.structs.replace(work.stash, stamps=changed))
        assert advise(work, Known(plan(work, seconds=1.0)), go_on=lambda: False)


def test_texture_counts_what_lies_on_its_ground_and_not_what_lies_behind() -> None:
    from fair_thicket.backdrop.texture import lay_texture

    strip = Strip("strip-1", 80, 20, 60, 50)
    hill = Cutout("bubble-1", "bubble", 60, 50, margin_mm=20.0)
    wash = Texture("wash-1", Form("rectangle", 80, 20), 60, 50, on="strip-1")
    alone = lay_texture(card(strip, wash), wash)
    behind = lay_texture(card(hill, strip, wash), wash)
    assert behind.spots == alone.spots


def test_a_stencil_that_the_library_calls_a_greeting_stops_nothing() -> None:
    """Words are looked for among what is stamped; a stencil inks a wash, whatever it is called."""
    work, _ = open_card(CARD_FILES[4])
    (stencil,) = {wash.stencil for wash in work.card.pieces if isinstance(wash, Wash) and wash.stencil}
    renamed = tuple(
        msgspec.structs.replace(one, kind=Kind.GREETING) if one.id == stencil else one for one in work.stash.stamps
    )
    called = msgspec.structs.replace(work, stash=msgspec.structs.replace(work.stash, stamps=renamed))
    assert plan(called) == plan(work)
    assert [one.code for one in advise(called)] == [one.code for one in advise(work)]
