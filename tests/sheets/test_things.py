"""What there is to make, checked by hand on the demo cards, and on cards made for it."""

import msgspec
import pytest

from fair_thicket.demo import CARD_FILES
from fair_thicket.edits.pieces import set_card
from fair_thicket.edits.trimming import find_equal_borders, trim_base
from fair_thicket.files.card_file import decode_card, encode_card, open_card
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout, Embellishment, Form, Panel, PaperPiece, Part, Strip, Window
from fair_thicket.model.sheets import SheetRules
from fair_thicket.model.sides import sides_of
from fair_thicket.model.stash import Kind, Stamp, Stash
from fair_thicket.model.supplies import Paper
from fair_thicket.sheets import judge, list_masks, list_things, plan_sheets
from fair_thicket.sheets.moving import as_moved, lay_anew, move_image
from fair_thicket.sheets.planning import offcuts_of
from making import stamp, work_of

BY_HAND = {
    0: {"base": 1},
    1: {
        "base": 1, "mat": 1, "sky panel": 1, "moon": 1, "far hill": 1, "tall fern": 1, "stump letterbox": 1,
        "toad postmaster": 1, "pond": 1, "ink newt": 1, "dusk moth": 1, "letter": 1, "fern window": 1,
        "strip “a little post for you”": 1,
    },
    2: {
        "base": 1, "sky panel": 1, "far hill": 1, "picket": 1, "tall fern 1": 2, "toadstool": 1, "lantern": 1,
        "toad postmaster": 1, "parcel": 1, "stump letterbox": 1, "spotted beetle": 1, "courier snail": 1,
        "dusk moth": 1, "letter": 1, "moss edge 1": 1, "moss edge 2": 1, "strip “a little post for you”": 1,
    },
    3: {"base": 1},
    4: {
        "base": 1, "far hill": 1, "tall fern": 1, "stump letterbox": 1, "toad postmaster": 1, "courier snail": 1,
        "dusk moth": 1, "moss edge": 1, "strip “a little post for you”": 1,
    },
}  # fmt: skip
"""By hand, from the cards as they are seen: what is stamped straight on is not made of anything."""


@pytest.mark.parametrize("number", BY_HAND)
def test_the_demo_cards_lists_hold_every_piece_once(number: int) -> None:
    work, _ = open_card(CARD_FILES[number])
    things = list_things(work)
    told = {("base" if one.key == "base" else one.name): one.copies for one in things}
    assert told == BY_HAND[number]
    pieces = [
        piece.id
        for _, side in sides_of(work)
        for piece in side.card.pieces
        if isinstance(piece, PaperPiece) and not isinstance(piece, Embellishment)
    ]
    assert sorted(key for one in things for key in one.pieces) == sorted(pieces)


def card_of(*pieces: object, **rules: object) -> Work:
    base = work_of(stamps=(stamp("toad", 20.0), stamp("snail", 12.0)))
    return msgspec.structs.replace(base, card=Card(pieces=tuple(pieces), sheets=SheetRules(**rules)))  # type: ignore[arg-type]


def panel(key: str, width: float, height: float, **more: object) -> Panel:
    return Panel(key, Form("rectangle", width, height), 60, 40, **more)  # type: ignore[arg-type]


def test_copies_spares_blanks_and_joint_pieces_are_counted() -> None:
    cut = Cutout("toad-1", "toad", 30, 30, margin_mm=1.0, joined=(Part("snail", 14.0, 0.0),))
    word = Panel("word-1", Form("rectangle", 30, 8), 60, 40, layers=3, name="word")
    things = {one.key: one for one in list_things(card_of(cut, word, cards=4))}
    assert {key: one.copies for key, one in things.items()} == {"base": 4, "toad-1": 4, "word-1": 4, "word-1/blank": 8}
    assert things["toad-1"].note == "2 images as one"
    assert things["toad-1"].size_mm == pytest.approx((10 + 1 + 14 + 6 + 1, 22.0))


def test_what_falls_out_of_a_window_is_told_with_its_size() -> None:
    frame = panel("frame-1", 120, 90, windows=(Window(Form("rectangle", 60, 40)), Window(Form("ellipse", 9, 9), 50, 0)))
    (thing,) = [one for one in list_things(card_of(frame)) if one.key == "frame-1"]
    assert thing.falls_out == ((60.0, 40.0),)


def test_both_sides_are_listed_and_alike_things_taken_together() -> None:
    work = card_of(panel("a", 40, 30), panel("b", 40, 30), panel("c", 40, 30, colour="#1f3a30"))
    work = set_card(work, inside=(Strip("s", 60, 10, 40, 40, left="folded"),))
    things = {one.key: one for one in list_things(work)}
    assert (things["a"].copies, things["a"].pieces) == (2, ("a", "b"))
    assert things["c"].copies == 1
    assert things["s"].size_mm == pytest.approx((72.0, 10.0))
    assert (things["s"].side, things["a"].side) == ("inside", "front")


def test_sheets_are_planned_by_the_papers_that_there_are_and_counted_down() -> None:
    work = card_of(panel("mat", 136.525, 104.775, colour="#1f3a30"), cards=4)
    pine = Paper("pine card", "#1f3a30", sheets_left=3)
    plan = plan_sheets(work, [pine], seconds=1.0)
    needs = {need.stock.name: (need.wanted, need.stock.left) for need in plan.needs}
    assert needs["pine card"] == (1, 3)
    assert needs["white card"] == (2, None)
    assert plan.misfits == []


def test_what_is_larger_than_a_sheet_and_what_runs_short_is_told_with_what_stands_in() -> None:
    work = card_of(panel("sky", 139.7, 107.95, colour="#5f8fa3"), cards=9)
    pond = Paper("pond card", "#5f8fa3", sheets_left=1)
    lake = Paper("lake card", "#6293a7", sheets_left=20)
    (short,) = [one for one in judge(work, [pond, lake]) if one.code == "sheets-short"]
    assert short.measure == 2.0
    assert "buy 2" in short.text
    assert "lake card" in short.text
    small = Paper("pad", "#5f8fa3", width_mm=100.0, height_mm=100.0, sheets_left=50)
    assert [one.code for one in judge(work, [small])] == ["too-large"]
    assert judge(work) == []
    assert "larger than every sheet" in plan_sheets(work, [small], seconds=0.0).misfits[0]


def test_an_image_moved_by_hand_stays_where_it_was_put_on_paper() -> None:
    """In the plan, in the file and when it is laid out again; until other images are to be stamped."""
    work = card_of(Cutout("toad-1", "toad", 30, 30), Cutout("snail-1", "snail", 60, 30))
    plan = plan_sheets(work, seconds=0.0)
    before = plan.stamping[0].nesting.sheets[0].spots[1]
    moved = move_image(work, plan, 0, 1, (50.0, 4.0))
    shown = as_moved(moved, plan)
    after = shown.stamping[0].nesting.sheets[0].spots[1]
    assert (after.x_mm - before.x_mm, after.y_mm - before.y_mm) == pytest.approx((50.0, 4.0), abs=0.002)
    assert plan_sheets(moved, seconds=0.0).stamping == shown.stamping
    assert shown.stamping[0].nesting.sheets[0].used_mm > plan.stamping[0].nesting.sheets[0].used_mm
    read = decode_card(encode_card(moved), "card")
    assert plan_sheets(read, seconds=0.0).stamping == shown.stamping
    assert plan_sheets(lay_anew(read), seconds=0.0) == plan
    more = set_card(read, pieces=(*read.card.pieces, Cutout("snail-2", "snail", 20, 60)))
    assert not plan_sheets(more, seconds=0.0).stamping[0].is_by_hand


def test_images_that_were_moved_onto_each_other_or_off_the_sheet_are_told() -> None:
    work = card_of(Cutout("toad-1", "toad", 30, 30), Cutout("snail-1", "snail", 60, 30))
    plan = plan_sheets(work, seconds=0.0)
    toad, snail = plan.stamping[0].nesting.sheets[0].spots
    fine = move_image(work, plan, 0, 1, (40.0, 40.0))
    assert "laid-badly" not in {one.code for one in judge(fine)}
    onto = move_image(work, plan, 0, 1, (toad.x_mm - snail.x_mm, toad.y_mm - snail.y_mm))
    (told,) = [one for one in judge(onto) if one.code == "laid-badly"]
    assert "over each other" in told.text
    assert set(told.pieces) == {"toad-1", "snail-1"}
    off = move_image(work, plan, 0, 1, (400.0, 0.0))
    assert "off the sheet" in next(one.text for one in judge(off) if one.code == "laid-badly")


def test_hard_images_have_a_spare_where_that_is_wanted() -> None:
    work, _ = open_card(CARD_FILES[1])

    def images(spares: bool) -> int:
        made = set_card(work, sheets=SheetRules(spares=spares))
        plan = plan_sheets(made, seconds=0.0)
        return sum(len(sheet.spots) for one in plan.stamping for sheet in one.nesting.sheets)

    assert images(True) > images(False)


def test_rules_are_kept_in_the_card_file() -> None:
    work = card_of(panel("a", 40, 30), cards=8, hold_mm=7.5, plate_mm=(215.9, 317.5))
    assert decode_card(encode_card(work), "card") == work


def frame_die() -> Stamp:
    """A frame die of 90 x 60 mm with two windows."""
    left, right = ((-35, -20), (-5, -20), (-5, 20), (-35, 20)), ((5, -20), (35, -20), (35, 20), (5, 20))
    base = stamp("frame", 90.0)
    ring = ((-45, -30), (45, -30), (45, 30), (-45, 30))
    return msgspec.structs.replace(base, height_mm=60.0, outline=ring, pockets=(left, right), kind=Kind.BACKDROP)


def test_two_windows_sheets_from_one_die_and_its_inlays() -> None:
    """Common practice: the same die in two papers, frame colour and white for the inlays."""
    work = msgspec.structs.replace(card_of(), stash=Stash((frame_die(),)))
    pieces = (
        Cutout("frame-1", "frame", 60, 40, colour="#4b8050"),
        Cutout("inlay-1", "frame", 60, 40, opening=0, colour="#ffffff"),
        Cutout("inlay-2", "frame", 60, 40, opening=1, colour="#ffffff"),
    )
    work = set_card(work, pieces=pieces)
    told = {(one.key, one.paper): one.copies for one in list_things(work)}
    assert told == {
        ("base", "#ffffff"): 1, ("frame-1", "#4b8050"): 1, ("inlay-1", "#ffffff"): 0, ("inlay-2", "#ffffff"): 0,
        ("inlay-1/die", "#ffffff"): 1,
    }  # fmt: skip
    plan = plan_sheets(work, seconds=0.0)
    assert len(plan.passes.passes) == 2
    green = set_card(work, pieces=tuple(msgspec.structs.replace(one, colour="#4b8050") for one in pieces))
    assert sum(one.copies for one in list_things(green)) == 2  # base and frame: what falls out is of the same paper


def test_a_base_is_trimmed_to_equal_borders() -> None:
    """Height = panel height + base width - panel width (common practice)."""
    work = card_of(panel("sky", 133.35, 95.25))
    found = find_equal_borders(work)
    assert found is not None
    assert found.height_mm == pytest.approx(95.25 + 139.7 - 133.35)
    (told,) = [one for one in judge(work) if one.code == "unequal-borders"]
    assert told.measure == pytest.approx(107.95 - 101.6, abs=0.06)
    made = trim_base(work)
    assert made.card.panel == pytest.approx((139.7, 101.6))
    sky = made.card.find("sky")
    left, top = sky.x - 133.35 / 2, sky.y - 95.25 / 2
    assert (left, top) == pytest.approx((3.175, 3.175))
    assert judge(made) == []
    base = next(one for one in list_things(made) if one.key == "base")
    assert base.size_mm == pytest.approx((139.7, 215.9)), "it is cut as it was, and trimmed last"
    assert "trimmed to 4 in when the front is finished" in base.note
    with pytest.raises(PaperError, match="cut the panel lower"):
        trim_base(card_of(panel("sky", 120.0, 105.0)))
    with pytest.raises(PaperError, match="Lay an upright panel"):
        trim_base(card_of())


def test_what_is_trimmed_and_what_is_left_over_is_told() -> None:
    work = card_of(panel("sky", 100, 60), Cutout("toad-1", "toad", 20, 30, on="sky", trim_to="sky"))
    things = {one.key: one for one in list_things(work)}
    assert things["toad-1"].note == "trimmed along the panel, last"
    plan = plan_sheets(work, seconds=1.0)
    kept = offcuts_of(plan)
    assert kept
    assert all(min(one.width_mm, one.height_mm) >= 25 and one.sheets_left == 1 for one in kept)


def test_offcuts_that_were_kept_are_no_sheets_for_what_is_larger() -> None:
    work = card_of(panel("sky", 100, 60, colour="#5f8fa3"))
    kept = [one for one in offcuts_of(plan_sheets(work, seconds=1.0)) if one.colour == "#5f8fa3"]
    assert kept
    small = [msgspec.structs.replace(one, width_mm=90.0, height_mm=50.0) for one in kept]
    plan = plan_sheets(work, small, seconds=0.0)
    assert plan.misfits == []
    assert {need.stock.left for need in plan.needs} == {None}
    assert [one.code for one in judge(work, small)] == [one.code for one in judge(work)]
    fitting = [msgspec.structs.replace(one, width_mm=120.0, height_mm=70.0) for one in kept]
    assert [need.stock.sheet_mm for need in plan_sheets(work, fitting, seconds=0.0).needs if need.stock.left == 1] == [
        (120.0, 70.0)
    ]


def test_one_call_has_one_answer_whatever_was_asked_before() -> None:
    """Asked with papers, without, and with others again, in any order: what was asked before is nowhere kept."""
    work = card_of(panel("sky", 100, 60, colour="#5f8fa3"), Cutout("toad-1", "toad", 30, 30))
    pond = [Paper("pond card", "#5f8fa3", sheets_left=4)]
    asked: list[list[Paper]] = [[], pond, [], pond, pond, []]
    answers = [plan_sheets(work, papers, seconds=0.0) for papers in asked]
    for papers, answer in zip(asked, answers, strict=True):
        assert answer == answers[asked.index(papers)]
    assert answers[0] != answers[1]
    move_image(work, answers[0], 0, 0, (50.0, 4.0))
    assert plan_sheets(work, seconds=0.0) == answers[0]


def test_a_paper_without_a_name_is_named_after_its_neighbour() -> None:
    work = card_of(panel("sky", 100, 60, colour="#fffdf8"))
    names = {need.stock.name for need in plan_sheets(work, seconds=0.0).needs}
    assert names == {"white card", "near white (#fffdf8) card"}


def test_an_offcut_is_used_up_before_a_new_sheet_is_taken() -> None:
    """A strip of pond card is cut from what was left of the last card; a panel that is larger from a new sheet."""
    papers = [
        Paper("pond card", "#5f8fa3", sheets_left=4),
        Paper("pond card, offcut", "#5f8fa3", "", 298.0, 120, 40, 1),
    ]
    strip = card_of(panel("low", 100, 30, colour="#5f8fa3"))
    needs = {need.stock.name: need.wanted for need in plan_sheets(strip, papers, seconds=1.0).needs}
    assert needs == {"white card": 1, "pond card": 0, "pond card, offcut": 1}
    both = card_of(panel("low", 100, 30, colour="#5f8fa3"), panel("sky", 100, 90, colour="#5f8fa3"))
    plan = plan_sheets(both, papers, seconds=1.0)
    (pond,) = [one for one in plan.stock if one.stock.name == "pond card"]
    assert [pond.stock_of(sheet).name for sheet in pond.plan.sheets] == ["pond card"]  # one sheet takes both anyway
    assert [one.name for one in offcuts_of(plan) if one.colour == "#5f8fa3"] == ["pond card, offcut"]
    assert "sheets-short" not in {one.code for one in judge(both, papers)}


def test_masks_are_listed_with_what_they_serve() -> None:
    """A toad before a snail, both stamped: one mask, of the toad."""
    work = work_of(("snail", 34, 30), ("toad", 30, 30))
    plan, _ = plan_with_pins(work)
    (mask,) = list_masks(work, plan)
    assert (mask.what, mask.name, mask.tool, mask.copies) == ("mask", "mask of the toad", "scissors", 1)
    assert mask.note.startswith("for toad; ")
    assert mask.size_mm == pytest.approx((stamp("toad").width_mm, stamp("toad").height_mm), abs=0.1)
