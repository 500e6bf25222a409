"""What is slid in under what is glued already: depth, edge, window and whether it goes, by hand (common practice)."""

import msgspec
import pytest

from fair_thicket.assembly import judge
from fair_thicket.assembly.landing import landed_after, lands
from fair_thicket.assembly.operation import After, Operation, join_operations
from fair_thicket.assembly.planning import Assembly, plan_assembly, plan_side
from fair_thicket.assembly.tucks import Slides, Tuck, find_tucks
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import CARD_EDGE, Cutout, Form, Impression, Panel
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.sides import sides_of
from fair_thicket.model.stash import Stash
from making import stamp

BACK = Cutout("b", "toad", 60, 50, margin_mm=0.0, slides_in=True)
"""A square of 20 mm from x 50 to 70; its right 8 mm lie under what begins at x = 62."""


def card_of(*pieces: object) -> Work:
    return Work(Card(pieces=pieces), Stash((stamp("toad", 20.0), stamp("snail", 30.0))))  # type: ignore[arg-type]


def front(**more: object) -> Cutout:
    return Cutout("f", "snail", 77, 50, margin_mm=0.0, **more)  # type: ignore[arg-type]


def tucks_of(work: Work) -> tuple[Tuck, ...]:
    side = plan_side("front", work, MaskPlan())
    return find_tucks(work, side.heights, side.foam, side.glue)


def planned(work: Work) -> Assembly:
    return plan_assembly([("front", work, plan_with_pins(work)[0])])


def test_under_an_edge_that_is_left_free_it_slides_at_any_time() -> None:
    """The front one is glued 8 mm along its foot, y 57 to 65; what slides in ends at y = 60: glue is in its way."""
    (tuck,) = tucks_of(card_of(BACK, front(glue="point")))
    assert (tuck.depth_mm, tuck.opening_mm, tuck.edge) == (8.0, 20.0, "left")
    assert not tuck.in_window
    assert not tuck.because
    higher = msgspec.structs.replace(BACK, y=46.0)
    assert not tucks_of(card_of(higher, front(glue="foot")))[0].because
    assert "along its foot" in tucks_of(card_of(BACK, front(glue="foot")))[0].because


def test_it_is_glued_after_what_lies_over_it_when_that_holds() -> None:
    work = card_of(BACK, front(glue="point"))
    made = planned(work)
    start = {one.operation.key: one.start_min for one in made.schedule.steps}
    end = {one.operation.key: one.end_min for one in made.schedule.steps}
    assert start["glue b"] >= end["glue f"] + work.card.assembly.hold_min - 1e-6
    words = next(one.words for one in made.operations if one.key == "glue b")
    assert "under the left edge of the snail" in words
    assert "not glued there" in words
    usual = planned(card_of(msgspec.structs.replace(BACK, slides_in=False), front(glue="point")))
    start = {one.operation.key: one.start_min for one in usual.schedule.steps}
    assert start["glue b"] < start["glue f"]


def test_while_glue_is_young_both_are_done_in_one_go() -> None:
    work = card_of(BACK, front())
    (tuck,) = tucks_of(work)
    assert tuck.in_window
    made = planned(work)
    both = next(one for one in made.operations if one.key == "glue f")
    assert both.pieces == ("f", "b")
    assert "At once" in both.words
    assert "young" in both.words
    assert not any(one.key == "glue b" for one in made.operations)


@pytest.mark.parametrize(
    ("pieces", "why"),
    [
        ((BACK, front(lift_mm=1.6)), "foam"),
        ((BACK, Panel("f", Form("rectangle", 40, 40), 82, 50)), "tape"),
        ((BACK, Panel("f", Form("rectangle", 80, 80), 60, 50, glue="point")), "wholly under"),
        ((BACK, front(), Cutout("g", "toad", 42, 50, margin_mm=0.0, glue="point")), "holds before"),
    ],
)
def test_what_does_not_go_is_told_and_glued_first(pieces: tuple[object, ...], why: str) -> None:
    work = card_of(*pieces)
    assert any(why in one.because for one in tucks_of(work))
    told = [one for one in judge(work) if one.code == "no-tuck"]
    assert any(why in one.text for one in told)
    start = {one.operation.key: one.start_min for one in planned(work).schedule.steps}
    assert start["glue b"] < start["glue f"]


def test_the_remedy_lets_it_slide() -> None:
    raised = card_of(msgspec.structs.replace(BACK, y=44.0), front(lift_mm=1.6))
    (told,) = [one for one in judge(raised) if one.code == "no-tuck"]
    assert told.remedy is not None
    freed = card_of(msgspec.structs.replace(BACK, y=44.0), *told.remedy.pieces)
    assert not [one for one in judge(freed) if one.code == "no-tuck"]


def test_what_a_sliding_piece_carries_is_glued_on_it_before() -> None:
    on_it = Panel("c", Form("rectangle", 6, 6), 55, 50, on="b")
    start = {
        one.operation.key: one.start_min for one in planned(card_of(BACK, on_it, front(glue="point"))).schedule.steps
    }
    assert start["glue c"] < start["glue b"]
    assert start["glue f"] < start["glue b"]


def test_two_operations_done_in_one_go_wait_for_what_either_waits_for() -> None:
    def step(key: str, *after: str) -> Operation:
        return Operation(key, "glue", f"Glue {key}", (key,), 1.0, "glue", tuple(After(one, "so") for one in after))

    made = join_operations([step("a"), step("b"), step("f", "a"), step("s", "f", "b"), step("z", "s")], "f", "s")
    assert [one.key for one in made] == ["a", "b", "f", "z"]
    assert {edge.key for edge in made[2].after} == {"a", "b"}
    assert made[2].minutes == 2.0
    assert [edge.key for edge in made[3].after] == ["f"]
    assert [one.key for one in join_operations(made, "f", "none")] == ["a", "b", "f", "z"]


def test_what_is_slid_in_at_once_is_still_cut_off_at_the_cards_edge_and_waits_the_longest() -> None:
    work = card_of(msgspec.structs.replace(BACK, x=8.0, trim_to=CARD_EDGE), Cutout("f", "snail", 25, 50, margin_mm=0.0))
    made = planned(work)
    both = next(one for one in made.operations if one.key == "glue f")
    assert both.pieces == ("f", "b")
    trim = next(one for one in made.operations if one.key == "trim b")
    assert [edge.key for edge in trim.after] == ["glue f"]

    def step(key: str, *after: tuple[str, float]) -> Operation:
        edges = tuple(After(one, "so", wait) for one, wait in after)
        return Operation(key, "glue", f"Glue {key}", (key,), 1.0, "glue", edges)

    joined = join_operations([step("a"), step("f", ("a", 0.0)), step("s", ("a", 5.0), ("f", 0.0))], "f", "s")
    assert [(edge.key, edge.wait_min) for edge in joined[1].after] == [("a", 5.0)]


def test_what_is_slid_in_and_what_it_carries_need_not_be_glued_first() -> None:
    slides = Slides({"b": ("f",)}, {"b": ("rider",), "other": ("more",)}, ())
    assert slides.skips("b", "f")
    assert slides.skips("rider", "f")
    assert not slides.skips("more", "f")
    assert not slides.skips("b", "g")
    assert not slides.skips("x", "f")
    assert slides.is_on("rider", "b")
    assert not slides.is_on("rider", "other")
    assert not slides.is_on("rider", "f")


def test_what_has_landed_after_each_step_comes_with_its_panel() -> None:
    """A toad stamped on a panel is on the card when the panel is glued; the step that stamps it shows it at once."""
    panel = Panel("ground", Form("rectangle", 60, 40), 70, 54)
    toad = Impression("toad-1", "toad", 70, 54, on="ground")
    snail = Cutout("snail-1", "snail", 70, 54, margin_mm=0.0, on="ground")
    inside = (Cutout("snail-9", "snail", 70, 54, margin_mm=0.0),)
    work = card_of(panel, toad, snail)
    work = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, inside=inside))
    made = plan_assembly([(name, side, plan_with_pins(side)[0]) for name, side in sides_of(work)])
    steps = [one.operation for one in made.schedule.steps]
    kinds = {}
    for index, step in enumerate(steps):
        landed = landed_after(made, index)
        if not step.key.startswith("inside "):
            kinds[step.kind, step.pieces] = landed
        else:
            assert "snail-9" not in landed
        if not lands(step):
            after = {step.kind for step in steps[: index + 1]}
            assert "glue" in after or not landed, step
    assert next(landed for (kind, pieces), landed in kinds.items() if kind == "press" and "toad-1" in pieces) == {
        "toad-1"
    }
    glued = [step for step in steps if step.kind == "glue" and not step.key.startswith("inside ")]
    assert {step.pieces for step in glued} == {("ground",), ("snail-1",)}
    assert landed_after(made, steps.index(next(step for step in glued if step.pieces == ("ground",)))) >= {
        "ground",
        "toad-1",
    }
    assert landed_after(made, len(steps) - 1) == {"ground", "toad-1", "snail-1"}
    assert {step.kind for step in steps if lands(step)} <= {"press", "ink", "glue", "set"}
