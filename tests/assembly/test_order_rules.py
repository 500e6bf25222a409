"""The rules of the order, each with its because: a card that asks for the wrong order is told, the schedule keeps it.

All of them are common practice.
"""

import msgspec
import pytest

from fair_thicket.assembly.own_order import want_before
from fair_thicket.assembly.planning import Assembly, plan_assembly
from fair_thicket.edits.colouring import set_regions
from fair_thicket.edits.trimming import trim_base
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.card import Card, Work
from fair_thicket.model.colouring import ColouredPart, Region, Shade
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import CARD_EDGE, Blend, Cutout, Embellishment, Form, Impression, Panel, Splatter
from fair_thicket.model.sides import sides_of
from fair_thicket.model.stash import Kind, Stash
from making import stamp

RING = ((-5.0, -5.0), (5.0, -5.0), (5.0, 5.0), (-5.0, 5.0))
PART = ColouredPart((1,), (Shade("#4f8a4a", "fern"),))


def card_of(*pieces: object, inside: tuple[object, ...] = (), shortened: bool = False) -> Work:
    stash = Stash((stamp("toad", 20.0), stamp("snail", 16.0)))
    work = Work(Card(pieces=pieces, inside=inside), stash)  # type: ignore[arg-type]
    work = trim_base(work) if shortened else work
    return set_regions(work, "toad", (Region(1, RING),), ((1,),))


def planned(work: Work) -> Assembly:
    return plan_assembly([(name, side, plan_with_pins(side)[0]) for name, side in sides_of(work)])


def strip_ground() -> Panel:
    """A panel that leaves more at the foot than at the sides."""
    return Panel("ground", Form("rectangle", 133.7, 90), 69.85, 54)


def ground(**more: object) -> Panel:
    return Panel("ground", Form("rectangle", 130, 98), 70, 54, **more)  # type: ignore[arg-type]


def wash(key: str, **more: object) -> Blend:
    return Blend(id=key, form=Form("rectangle", 120, 90), x=70, y=54, colour="#5f8fa3", **more)  # type: ignore[arg-type]


def raised(**more: object) -> Cutout:
    return Cutout("toad-1", "toad", 60, 50, margin_mm=0.0, lift_mm=1.6, **more)  # type: ignore[arg-type]


COLOURED = Impression("i-1", "toad", 40, 40, on="ground", colouring=(PART,))
CASES: dict[str, tuple[Work, str, str, str]] = {
    "laid out dry before anything is glued": (
        card_of(ground(), raised()), "glue ground", "lay out", "the dry layout comes before anything is glued",
    ),
    "coloured, then cut": (
        card_of(ground(), raised(colouring=(PART,))), "cut toad-1", "colour",
        "a cut edge is hard to hold and to colour",
    ),
    "all layers stamped before colouring ends": (
        card_of(ground(), raised(colouring=(PART,))), "colour", "stamp",
        "all images and layers are stamped before colouring",
    ),
    "a panel stamped before it is glued on": (
        card_of(ground(), Impression("i-1", "snail", 40, 40, on="ground")), "glue ground", "press 1",
        "a panel is stamped and inked before it is glued on",
    ),
    "under the platform before anything raised": (
        card_of(Impression("i-1", "snail", 20, 20), raised()), "glue toad-1", "press 1",
        "what goes under the platform comes before anything raised",
    ),
    "back to front": (
        card_of(ground(), raised(on="ground")), "glue toad-1", "glue ground",
        "back to front: what lies underneath is glued first",
    ),
    "fold taped before ink on a folded base": (
        card_of(wash("sky-1")), "press 1", "tape", "fold and back are taped before ink goes on a folded base",
    ),
    "alcohol before water-based blending": (
        card_of(ground(), wash("sky-1", on="ground"), COLOURED),
        "press 2", "colour on ground", "alcohol colouring comes before water-based blending over the mask",
    ),
    "glued with its end over, then snipped": (
        card_of(Cutout("toad-1", "toad", 4, 50, margin_mm=0.0, trim_to=CARD_EDGE)), "trim toad-1", "glue toad-1",
        "glued with its end over the edge, turned over, cut along the card",
    ),
    "a flat scene is cut again before it is glued on": (
        card_of(ground(), Cutout("snail-1", "snail", 128, 54, margin_mm=0.0, on="ground", trim_to="ground")),
        "glue ground", "cut again ground",
        "it is glued on when it is cut again: it could not be laid into its die any more",
    ),
    "a flat scene is cut again before anything is raised on it": (
        card_of(
            ground(), Cutout("snail-1", "snail", 128, 54, margin_mm=0.0, on="ground", trim_to="ground"),
            raised(on="ground"),
        ), "glue toad-1", "cut again ground", "the flat scene is cut again before anything is raised on it",
    ),
    "flat at the card's edge is trimmed before anything is raised": (
        card_of(Cutout("snail-1", "snail", 4, 50, margin_mm=0.0, trim_to=CARD_EDGE), raised()),
        "glue toad-1", "trim snail-1", "a flat scene is trimmed before anything is raised: the cutter presses",
    ),
    "the base is shortened when the front is finished": (
        card_of(strip_ground(), raised(), shortened=True), "shorten", "glue toad-1",
        "the front is finished before the base is shortened to equal borders",
    ),
    "a greeting over dry ink": (
        card_of(wash("sky-1"), Impression("i-1", "snail", 40, 40, stamped="over dry inks")), "press 2", "press 1",
        "words and trails are stamped over blended ink when it is dry, in slow ink, and dry again",
    ),
    "a trail by hand when the flyer sits": (
        card_of(Impression("i-1", "snail", 100, 50, stamped="by hand"), raised()), "press 2", "glue toad-1",
        "what is to meet a figure on free ground is stamped by hand when the figure sits",
    ),
    "drops last": (
        card_of(ground(), Embellishment("e-1", 4.0, 30, 30, shape="drop")), "set e-1", "glue ground",
        "wet drops, gems and sequins come last, lying flat",
    ),
    "the inside before the front gets its height": (
        card_of(ground(), raised(), inside=(Impression("in-1", "snail", 40, 40),)), "glue toad-1", "inside press 1",
        "the inside is stamped before the front gets its height",
    ),
    "posted when all is dry": (
        card_of(ground(), raised()), "post", "glue toad-1", "the card is done before it is posted",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_the_wrong_order_is_told_with_its_because_and_the_schedule_keeps_the_right_one(name: str) -> None:
    work, late, early, because = CASES[name]
    made = planned(work)
    starts = {one.operation.key: one.start_min for one in made.schedule.steps}
    assert starts[early] < starts[late]
    edges = {edge.key: edge.because for one in made.operations if one.key == late for edge in one.after}
    assert edges[early] == because
    with pytest.raises(PaperError, match="because"):
        want_before(work, made.operations, late, early)


def test_the_gradient_comes_before_splatter_and_resist_before_ink() -> None:
    splatter = Splatter(id="drops-1", form=Form("rectangle", 100, 80), x=70, y=54, colour="#ffffff", on="ground")
    made = planned(card_of(ground(), wash("sky-1", on="ground"), splatter))
    whys = {edge.because for one in made.operations for edge in one.after}
    assert "the gradient comes before splatter and drops of water" in whys
    resist = Impression("i-1", "snail", 40, 40, on="ground", resists=True)
    made = planned(card_of(ground(), wash("sky-1", on="ground"), resist))
    whys = {edge.because for one in made.operations for edge in one.after}
    assert "the resist is melted through before ink goes over it" in whys


def test_vellum_dries_under_weight_before_it_is_posted() -> None:
    vellum = Panel("vellum", Form("rectangle", 60, 30), 70, 54, translucent=True)
    word = Panel("word", Form("rectangle", 40, 10), 70, 54)
    made = planned(card_of(vellum, word))
    ends = {one.operation.key: one.end_min for one in made.schedule.steps}
    starts = {one.operation.key: one.start_min for one in made.schedule.steps}
    assert starts["post"] - ends["glue vellum"] >= 15 - 0.02


def test_what_falls_out_of_a_die_is_not_cut_again() -> None:
    """An inlay comes out of its frame's die: one rule says so for the list of sheets and the order of the work."""
    pocket = ((-4.0, -4.0), (4.0, -4.0), (4.0, 4.0), (-4.0, 4.0))
    die = msgspec.structs.replace(stamp("frame", 40.0), pockets=(pocket,), kind=Kind.BACKDROP)
    frame = Cutout("frame-1", "frame", 60, 50)
    inlay = Cutout("inlay-1", "frame", 60, 50, opening=0)
    made = planned(Work(Card(pieces=(frame, inlay)), Stash((die,))))
    assert [one.pieces for one in made.operations if one.kind == "cut"] == [("frame-1",)]
    glue = next(one for one in made.operations if one.key == "glue inlay-1")
    assert all(edge.key in {one.key for one in made.operations} for edge in glue.after)


def test_steps_of_stamping_and_inking_name_the_surface_they_are_made_on() -> None:
    """On the bare card it is the card, on a panel that panel."""
    sky = Blend("sky", Form("rectangle", 40, 30), 60, 50, colour="#a0c0e0")
    panel = Panel("ground", Form("rectangle", 60, 40), 70, 54)
    over = msgspec.structs.replace(sky, id="dusk", on="ground")
    toads = [Impression(f"toad-{n}", "toad", 70, 54, on=key) for n, key in enumerate(("", "ground"))]
    steps = [one.operation for one in planned(card_of(sky, toads[0], panel, over, toads[1])).schedule.steps]
    words = {step.pieces[0]: step.words for step in steps if step.kind in {"press", "ink"}}
    assert words["sky"].endswith("on the card")
    assert words["dusk"].endswith("on the panel")
    assert words["toad-0"].endswith("on the card")
    assert words["toad-1"].endswith("on the panel")
