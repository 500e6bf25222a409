"""Operations as actions on paper: in the order that is given, or one that keeps every edge."""

import random

import pytest

from fair_thicket.assembly.actions import in_order, list_actions, presses_on_sheet
from fair_thicket.assembly.operation import After, Operation
from fair_thicket.assembly.operations import list_operations
from fair_thicket.assembly.planning import plan_side
from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.performance import Action
from fair_thicket.model.pieces import is_glued
from fair_thicket.model.plan import SHEET
from fair_thicket.model.sides import sides_of


def operation(key: str, *after: str) -> Operation:
    return Operation(key, "glue", key, (key,), 1.0, "glue", tuple(After(one, "so") for one in after))


def test_operations_come_as_listed_where_nothing_is_against_it_and_circles_are_left_out() -> None:
    jobs = [
        operation("d", "b"),
        operation("a"),
        operation("b", "c"),
        operation("c"),
        operation("x", "y"),
        operation("y", "x"),
    ]
    assert [one.key for one in in_order(jobs)] == ["a", "c", "b", "d"]
    dice = random.Random(3)
    many = [operation(f"o{n}", *(f"o{m}" for m in range(n) if dice.random() < 0.2)) for n in range(40)]
    dice.shuffle(many)
    places = {one.key: place for place, one in enumerate(in_order(many))}
    assert len(places) == 40
    assert all(places[edge.key] < places[one.key] for one in many for edge in one.after)


@pytest.mark.parametrize("number", range(len(CARD_FILES)))
def test_every_press_every_colouring_and_every_landing_of_a_demo_card_is_done_once(number: int) -> None:
    for name, work in sides_of(open_card(CARD_FILES[number])[0]):
        plan = plan_with_pins(work)[0]
        side = plan_side(name, work, plan)
        actions = list_actions(side)
        assert sorted(one.press for one in actions if one.kind == "press") == list(range(len(plan.presses)))
        glued = [one.piece for one in actions if one.kind == "glue"]
        assert sorted(glued) == sorted(piece.id for piece in work.card.pieces if is_glued(piece))
        assert len(set(actions)) == len(actions)
        on_sheet = [p for p, press in enumerate(plan.presses) if press.surface == SHEET]
        assert list(presses_on_sheet(plan)) == on_sheet
        backwards = [one for one in reversed(list_operations([side])) if one.kind in {"glue", "set"}]
        given = list_actions(side, backwards)
        assert [one.piece for one in given] == [key for one in backwards for key in one.pieces], (
            "the order that is given"
        )


def test_an_insides_operations_are_not_the_fronts() -> None:
    work = open_card(CARD_FILES[5])[0]
    sides = [plan_side(name, side, plan_with_pins(side)[0]) for name, side in sides_of(work)]
    every = in_order(list_operations(sides))
    for side in sides:
        own = {piece.id for piece in side.work.card.pieces}
        assert {one.piece for one in list_actions(side, every) if one.piece} <= own
        assert Action("press", press=0) in list_actions(side, every)
