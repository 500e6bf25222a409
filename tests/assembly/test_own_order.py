"""The maker's own order: kept, refused with its because, forgotten."""

import pytest

from fair_thicket.assembly.operation import After, Operation
from fair_thicket.assembly.own_order import OWN, find_way, forget_order, want_before, with_own_order
from fair_thicket.assembly.planning import plan_assembly
from fair_thicket.files.card_file import decode_card, encode_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout, Form, Panel
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.stash import Stash
from making import stamp


def card() -> Work:
    ground = Panel("ground", Form("rectangle", 130, 98), 70, 54)
    toad = Cutout("toad-1", "toad", 30, 54, margin_mm=0.0)
    snail = Cutout("snail-1", "snail", 100, 54, margin_mm=0.0)
    return Work(Card(pieces=(ground, toad, snail)), Stash((stamp("toad", 20.0), stamp("snail", 20.0))))


def starts(work: Work) -> dict[str, float]:
    made = plan_assembly([("front", work, MaskPlan())])
    return {one.operation.key: one.start_min for one in made.schedule.steps}


def test_what_is_wanted_first_comes_first_and_is_saved() -> None:
    work = card()
    operations = plan_assembly([("front", work, MaskPlan())]).operations
    first, then = sorted(("glue toad-1", "glue snail-1"), key=lambda key: -starts(work)[key])
    wanted = want_before(work, operations, first, then)
    assert starts(work)[first] > starts(work)[then]
    assert starts(wanted)[first] < starts(wanted)[then]
    assert decode_card(encode_card(wanted), "card") == wanted
    other_way = want_before(wanted, operations, then, first)
    assert other_way.card.assembly.order == ((then, first),)
    assert starts(forget_order(wanted)) == starts(work)


def test_a_rule_against_it_is_told_with_its_because() -> None:
    work = card()
    operations = plan_assembly([("front", work, MaskPlan())]).operations
    with pytest.raises(PaperError, match="because back to front: what lies underneath is glued first"):
        want_before(work, operations, "glue toad-1", "glue ground")
    with pytest.raises(PaperError, match="because"):
        want_before(work, operations, "post", "stamp")


def test_a_wish_that_the_card_no_longer_allows_is_given_back_and_all_else_is_kept() -> None:
    made = [
        Operation("a", "glue", "do a", (), 1, "glue"),
        Operation("b", "glue", "do b", (), 1, "glue", (After("a", "it lies on it"),)),
        Operation("c", "glue", "do c", (), 1, "glue"),
    ]
    found, broken = with_own_order(made, [("b", "a"), ("c", "a"), ("c", "gone")])
    assert [(one.first, one.then, one.because) for one in broken] == [("do b", "do a", "it lies on it")]
    assert After("c", OWN) in next(one for one in found if one.key == "a").after
    assert [edge.because for edge in find_way(found, "c", "b")] == ["it lies on it", OWN]
