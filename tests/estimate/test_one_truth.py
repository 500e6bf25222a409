"""Every place that names a height, an envelope, minutes or a length of cutting names the same."""

from collections.abc import Callable

import msgspec
import pytest

from cases import CASES
from cases_more import MORE_CASES
from fair_thicket.advice import advise
from fair_thicket.assembly import judge as judge_assembly
from fair_thicket.assembly.planning import Assembly
from fair_thicket.demo import CARD_FILES
from fair_thicket.engines import assemble
from fair_thicket.estimate.minutes import careful_mm, cutting_min, mask_making_min
from fair_thicket.estimate.post import envelope_for, glued_height, outer_size, room_mm
from fair_thicket.files.card_file import open_card
from fair_thicket.laid.pinned import as_planned
from fair_thicket.masks import plan_with_pins
from fair_thicket.masks.prices import cost_of
from fair_thicket.masks.timetable import list_steps
from fair_thicket.model.card import Card, Work
from fair_thicket.model.masking import Masking, Rates
from fair_thicket.model.pieces import Border, Cutout, Form, Panel
from fair_thicket.model.plan import SHEET, MaskPlan
from fair_thicket.model.stash import DRAWN_TAG, Kind, Stash
from making import stamp

CARDS: list[Callable[[], Work]] = [
    *(lambda path=path: open_card(path)[0] for path in CARD_FILES),  # type: ignore[misc]
    *CASES,
    *MORE_CASES,
]


def changed(work: Work) -> Work:
    """Other rates, another thickness of paper, more room in the envelope."""
    rates = msgspec.structs.replace(
        work.card.masking.rates, paper_mm=0.4, press_min=3.3, lay_min=1.7, die_min=2.9, careful_mm_per_min=31.0
    )
    masking = msgspec.structs.replace(work.card.masking, rates=rates, paper="textured")
    limits = msgspec.structs.replace(work.card.limits, envelope_mm=9.0)
    return Work(msgspec.structs.replace(work.card, masking=masking, limits=limits), work.stash)


def planned(work: Work) -> tuple[MaskPlan, Assembly]:
    plan = plan_with_pins(work)[0]
    return plan, assemble(work, {"front": plan}, seconds=0.0)


@pytest.mark.parametrize("number", range(len(CARDS)))
def test_places_agree_and_follow_when_a_rate_an_envelope_and_a_thickness_change(number: int) -> None:
    work = CARDS[number]()
    for one in (work, changed(work)):
        plan, made = planned(one)
        assert cost_of(one, plan).height_mm == pytest.approx(made.front.heights.most_mm)
        high = sum(side.heights.most_mm for side in made.sides)
        assert glued_height(one) == pytest.approx(high)
        assert made.post.thickness_mm == pytest.approx(2 * one.card.assembly.base_mm + high, abs=0.006)
        needed = envelope_for(one, outer_size(one), high)
        assert made.post.envelope == ("" if needed is None else needed.say(one.card.unit))
        _hold_presses(one, plan, made)
        _hold_cutting(one, plan, made)
    assert made.post.thickness_mm >= planned(work)[1].post.thickness_mm


def _hold_presses(work: Work, plan: MaskPlan, made: Assembly) -> None:
    """Each press takes in the schedule what its steps of the masks take, all laying of masks included."""
    steps = list_steps(work, plan)
    of_press: dict[int, float] = {}
    for step in steps:
        if step.kind in {"lay", "move", "stamp"}:
            of_press[step.press] = of_press.get(step.press, 0.0) + step.minutes
    for counter in plan.counters:
        for press in counter.presses:
            of_press[press] += work.card.masking.rates.lay_min
    known = {one.key: one.minutes for one in made.operations}
    on_sheet = [n for n, press in enumerate(plan.presses) if press.surface == SHEET]
    for number, press in enumerate(plan.presses):
        if not press.is_ink and press.surface != SHEET:
            assert known[f"press {number + 1}"] == pytest.approx(of_press[number], abs=0.006)
    if on_sheet:
        assert known["stamp"] == pytest.approx(sum(of_press[number] for number in on_sheet), abs=0.006)


def _hold_cutting(work: Work, plan: MaskPlan, made: Assembly) -> None:
    """What prices say beside steps and masks is what the schedule cuts and glues of images, foam left aside."""
    rates, known = work.card.masking.rates, {one.key: one.minutes for one in made.operations}
    images = [
        piece.id
        for piece in as_planned(work).card.pieces
        if isinstance(piece, Cutout) and piece.opening is None and not work.stash.find(piece.stamp).kind.is_plain
    ]
    beside = sum(step.minutes for step in list_steps(work, plan)) + mask_making_min(rates, plan)
    cut = sum(known[f"cut {key}"] + rates.glue_min for key in images)
    assert cost_of(work, plan).minutes - beside == pytest.approx(cut, abs=0.006 * (1 + len(images)))


def test_cutting_follows_the_true_line_by_hand_and_counts_passes_of_a_die() -> None:
    """A square of 20 mm with a rim of 1 mm, its corners rounded: 80 + 2 pi mm; at 40 mm a minute. Two layers, twice."""
    edge = msgspec.structs.replace(stamp("edge", 50), kind=Kind.BORDER)
    drawn = msgspec.structs.replace(edge, id="drawn", tags=(DRAWN_TAG,))
    die = msgspec.structs.replace(stamp("frond", 20), die_margin_mm=1.0)
    rates = Rates(careful_mm_per_min=40.0, die_min=0.5)
    work = Work(Card(masking=Masking(rates=rates)), Stash((stamp("toad", 20), edge, drawn, die)))
    toad = Cutout("toad-1", "toad", 50, 50, margin_mm=1.0)
    assert careful_mm(toad, work.stash) == pytest.approx(80 + 2 * 3.1416, abs=0.1)
    assert cutting_min(toad, work) == pytest.approx(86.28 / 40, abs=0.01)
    assert cutting_min(msgspec.structs.replace(toad, layers=2), work) == pytest.approx(2 * 86.28 / 40, abs=0.02)
    assert cutting_min(Cutout("frond-1", "frond", 50, 50), work) == 0.5
    assert (
        cutting_min(Border(id="moss", stamp="edge", x=70, y=90, length_mm=140.0), work) == 3 * 0.5
    )  # 140 mm of a die of 50
    assert cutting_min(Border(id="hill", stamp="drawn", x=70, y=90, length_mm=140.0), work) == pytest.approx(
        140 / 40 + 1.0
    )
    assert cutting_min(Panel("sky", Form("rectangle", 90, 60), 60, 50), work) == 1.0


def test_an_envelope_is_named_in_the_cards_own_unit_first_and_by_one_rule_of_room() -> None:
    """An A6 front, 105 x 148 mm, is taken by C6 where millimetres are bought, by the A6 envelope where inches are."""
    for unit, said in (("mm", "C6 envelope"), ("in", "A6 envelope")):
        card = msgspec.convert({"format": "a6", "unit": unit}, Card)
        _, made = planned(Work(card, Stash()))
        assert made.post.envelope == said
    work = Work(Card(), Stash())
    assert room_mm(work, 0.5) == work.card.limits.envelope_mm
    assert room_mm(work, 4.0) == work.card.limits.envelope_mm + 3.0


def test_the_letter_that_is_advised_is_the_one_that_is_planned_with_what_the_inside_bears() -> None:
    """2 x 0.4 mm of base; 2.25 mm on each side: thick only with both."""
    front, inside = (Panel(key, Form("rectangle", 60, 40), 60, 50, lift_mm=2.0) for key in ("sky", "pond"))
    work = Work(Card(pieces=(front,), inside=(inside,)), Stash())
    (told,) = [one for one in judge_assembly(work) if one.code == "post"]
    made = assemble(work, {"front": plan_with_pins(work)[0]}, seconds=0.0)
    assert told.measure == made.post.thickness_mm == pytest.approx(2 * work.card.assembly.base_mm + 4.5)


def test_the_scenes_judge_names_the_envelope_that_assembly_names() -> None:
    wide = Cutout("toad-1", "toad", 145.0, 50.0, margin_mm=0.0)
    work = Work(Card(pieces=(wide,)), Stash((stamp("toad", 30),)))
    (told,) = [one for one in advise(work) if one.code == "envelope"]
    post = planned(work)[1].post
    assert f"It needs the {post.envelope}." in told.text
    assert post.envelope not in told.title
