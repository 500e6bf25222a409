"""Schedules: the fewest minutes against every order, no edge broken, circles told."""

import itertools
import random
from collections.abc import Mapping, Sequence

import numpy as np
import pytest

from fair_thicket.assembly.operation import After, Operation
from fair_thicket.assembly.operations import list_operations
from fair_thicket.assembly.planning import plan_assembly, plan_side
from fair_thicket.assembly.scheduling import MOST_EFFORT, _Task, schedule
from fair_thicket.assembly.side import Side
from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.masks import plan_with_pins
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import CARD_EDGE, Cutout, Embellishment, Form, Impression, Panel
from fair_thicket.model.sheets import SheetRules
from fair_thicket.model.sides import sides_of
from fair_thicket.model.stash import Stash
from making import some_of, stamp


def job(seed: int, most: int) -> list[Operation]:
    """Random operations, some of which wait for others, with drying between."""
    dice = random.Random(seed)
    made: list[Operation] = []
    for number in range(dice.randint(2, most)):
        after = tuple(
            After(f"o{earlier}", "so it is", dice.choice([0.0, 0.0, 3.0, 10.0]))
            for earlier in range(number)
            if dice.random() < 0.35
        )
        tool = dice.choice(["glue", "foam", "scissors"])
        made.append(Operation(f"o{number}", "glue", f"do {number}", (), dice.choice([0.5, 1.0, 2.5, 4.0]), tool, after))
    dice.shuffle(made)
    return made


def broken_edges(operations: Sequence[Operation], starts: Mapping[str, float]) -> list[tuple[str, str]]:
    """Give what comes too soon, and after what it should come."""
    known = {one.key: one for one in operations}
    return [
        (one.key, edge.key)
        for one in operations
        for edge in one.after
        if edge.key in known and starts[one.key] < starts[edge.key] + known[edge.key].minutes + edge.wait_min - 0.02
    ]


def fewest_minutes(operations: list[Operation]) -> float:
    """Try every order."""
    best = [float("inf")]

    def go_on(left: frozenset[int], ends: dict[str, float], now: float) -> None:
        if now >= best[0]:
            return
        if not left:
            best[0] = now
            return
        for index in left:
            one = operations[index]
            if all(edge.key in ends for edge in one.after):
                start = max([now, *(ends[edge.key] + edge.wait_min for edge in one.after)])
                go_on(left - {index}, {**ends, one.key: start + one.minutes}, start + one.minutes)

    go_on(frozenset(range(len(operations))), {}, 0.0)
    return best[0]


@pytest.mark.parametrize("seed", some_of(100))
def test_no_order_takes_fewer_minutes(seed: int) -> None:
    operations = job(seed, 8)
    made = schedule(operations, seconds=60)
    assert made.minutes == pytest.approx(fewest_minutes(operations), abs=0.02)
    assert made.is_best
    starts = {one.operation.key: one.start_min for one in made.steps}
    assert broken_edges(operations, starts) == []
    hands = sorted((one.start_min, one.end_min) for one in made.steps)
    assert all(first[1] <= then[0] + 1e-6 for first, then in itertools.pairwise(hands))


@pytest.mark.parametrize("seed", some_of(30))
def test_a_hundred_and_twenty_steps_are_proven_or_told_with_their_gap(seed: int) -> None:
    dice = random.Random(seed)
    made = [
        Operation(f"o{n}", "glue", f"do {n}", (), dice.uniform(0.3, 3), dice.choice("abcde"),
                  tuple(After(f"o{dice.randrange(n)}", "so it is", dice.choice([0, 0, 5.0])) for _ in range(min(n, 2))))
        for n in range(120)
    ]  # fmt: skip
    found = schedule(made, seconds=1.0)
    assert broken_edges(made, {one.operation.key: one.start_min for one in found.steps}) == []
    assert found.bound <= found.minutes + 0.02


def test_a_circle_is_told_with_what_waits_for_what() -> None:
    ring = [
        Operation(f"o{n}", "glue", f"glue the {name}", (), 1, "glue", (After(f"o{(n + 1) % 3}", "so it is"),))
        for n, name in enumerate(("frame", "vine", "toad"))
    ]
    with pytest.raises(PaperError, match="wait for each other") as caught:
        schedule(ring)
    assert all(name in str(caught.value) for name in ("frame", "vine", "toad"))


def test_of_equal_minutes_tools_are_changed_seldom() -> None:
    made = [
        Operation(f"{tool}{n}", "cut", tool, (), 1.0, tool) for n in range(4) for tool in ("die", "scissors", "glue")
    ]
    found = schedule(made, seconds=60)
    assert found.minutes == pytest.approx(12.0)
    assert found.changes == 2


# -- of cards -------------------------------------------------------------------------------------------------------


def sides(work: Work) -> list[tuple[str, Work, object]]:
    return [(name, side, plan_with_pins(side)[0]) for name, side in sides_of(work)]


@pytest.mark.parametrize("number", range(len(CARD_FILES)))
def test_the_demo_cards_are_scheduled_back_to_front_and_proven(number: int) -> None:
    work, _ = open_card(CARD_FILES[number])
    made = plan_assembly(sides(work), seconds=60)  # type: ignore[arg-type]
    assert made.schedule.is_best
    starts = {one.operation.key: one.start_min for one in made.schedule.steps}
    assert broken_edges(made.operations, starts) == []
    assert made.schedule.steps[-1].operation.key == "post"
    for rest in made.front.heights.rests:
        for key in rest.under:
            if f"cut again {key}" in starts:  # it is glued on with the flat scene on it
                assert starts[f"cut again {key}"] < starts[f"glue {key}"]
            elif f"glue {key}" in starts and f"glue {rest.key}" in starts:
                assert starts[f"glue {key}"] < starts[f"glue {rest.key}"]


def random_card(seed: int) -> Work:
    dice = random.Random(seed)
    pieces: list[object] = [Panel("ground", Form("rectangle", 130, 98), 70, 54)]
    for n in range(dice.randint(1, 9)):
        x, y, on = dice.uniform(12, 128), dice.uniform(12, 96), dice.choice(["", "ground"])
        kind = dice.random()
        if kind < 0.4:
            edge = CARD_EDGE if dice.random() < 0.3 else "ground" if dice.random() < 0.4 else ""
            pieces.append(Cutout(f"c-{n}", dice.choice(["toad", "snail"]), x, y, dice.uniform(0, 360),
                                 lift_mm=dice.choice([0, 1.6]), trim_to=edge, margin_mm=0.0, on=on))  # fmt: skip
        elif kind < 0.7:
            when = dice.choice(["before inks", "over dry inks", "by hand"])
            pieces.insert(1, Impression(f"i-{n}", dice.choice(["toad", "snail"]), x, y, on=on, stamped=when))
        else:
            pieces.append(Embellishment(f"e-{n}", 4.0, x, y, shape="drop"))
    inside = (Impression("in-1", "toad", 60, 40),) if dice.random() < 0.5 else ()
    return Work(Card(pieces=tuple(pieces), inside=inside), Stash((stamp("toad", 16.0), stamp("snail", 20.0))))


def assert_cut_in_time(work: Work, key: str, pieces: tuple[str, ...], starts: Mapping[str, float]) -> None:
    """Cut along the card when glued, along a panel before it is glued, and a flat scene with its panel before both."""
    first = work.card.find(pieces[0])
    if key.startswith("cut again "):
        flat = [one.id for one in work.card.pieces if one.on == first.id and getattr(one, "lift_mm", 1) == 0]
        raised = [one.id for one in work.card.pieces if one.on == first.id and getattr(one, "lift_mm", 0)]
        assert any(one.trim_to == first.id for one in work.card.pieces)
        assert starts[key] < starts[f"glue {first.id}"]
        assert all(starts[f"glue {one}"] > starts[key] for one in raised)
        assert any(starts[f"glue {one}"] < starts[key] for one in flat)
    elif first.trim_to == CARD_EDGE:
        assert starts[key] > starts[f"glue {first.id}"]
    else:
        assert starts[key] < starts[f"glue {first.id}"]


@pytest.mark.parametrize("seed", some_of(200))
def test_on_random_cards_no_edge_is_broken(seed: int) -> None:
    """Beside the program's own edges some rules are looked at again here, by what is on the card."""
    work = random_card(seed)
    made = plan_assembly(sides(work), seconds=0.5)  # type: ignore[arg-type]
    starts = {one.operation.key: one.start_min for one in made.schedule.steps}
    assert broken_edges(made.operations, starts) == []
    raised = [f"glue {rest.key}" for rest in made.front.heights.rests if made.front.foam.of(rest.key)]
    pressed = [one for one in made.operations if one.kind in {"press", "ink"}]
    for one in pressed:
        on_panel = any(work.card.find(key.partition("/")[0]).on for key in one.pieces if one.key[:6] != "inside")
        if one.tool == "block":
            assert starts[one.key] > max(starts[key] for key in starts if key.startswith("glue "))
        elif one.key.startswith("inside"):
            assert all(starts[one.key] < starts[key] for key in raised)
        elif on_panel:
            assert starts[one.key] < starts["glue ground"]
    set_last = [one.key for one in made.operations if one.kind == "set"]
    others = [one.key for one in made.operations if one.kind not in {"set", "post"}]
    assert all(starts[key] >= max(starts[other] for other in others) for key in set_last)
    for one in made.operations:
        if one.kind == "trim":
            assert_cut_in_time(work, one.key, one.pieces, starts)


def test_every_operation_says_why_it_waits_and_every_piece_is_cut_and_glued_once() -> None:
    work, _ = open_card(CARD_FILES[2])
    (front,) = [plan_side("front", side, plan_with_pins(side)[0]) for name, side in sides_of(work) if name == "front"]
    assert isinstance(front, Side)
    made = list_operations([front])
    assert all(edge.because for one in made for edge in one.after)
    glued = [piece for one in made if one.kind in {"glue", "set"} for piece in one.pieces]
    assert sorted(glued) == sorted(rest.key for rest in front.heights.rests if "~" not in rest.key)
    assert len({one.key for one in made}) == len(made)


def test_a_batch_does_each_step_for_all_cards() -> None:
    work, _ = open_card(CARD_FILES[4])
    eight = Work(
        Card(**{**{key: getattr(work.card, key) for key in Card.__struct_fields__}, "sheets": SheetRules(cards=8)}),
        work.stash,
    )
    one, many = (plan_assembly(sides(each)) for each in (work, eight))  # type: ignore[arg-type]
    assert len(one.schedule.steps) == len(many.schedule.steps)
    assert sum(s.operation.minutes for s in many.schedule.steps) == pytest.approx(
        8 * sum(s.operation.minutes for s in one.schedule.steps), rel=0.01
    )
    assert many.schedule.minutes < 8 * one.schedule.minutes


@pytest.mark.parametrize("seed", range(6))
def test_a_schedule_is_the_same_every_time(seed: int) -> None:
    operations = job(seed, 14)
    assert schedule(operations, seconds=60) == schedule(operations, seconds=60)


def by_plain_rule(task: _Task, patience: float) -> dict[int, tuple[int, int]]:
    """The rule as it is said, asking every operation each time whether it may begin."""
    slack = max(0, sum(task.lasts) - max(task.tails.values())) * patience
    done: dict[int, tuple[int, int]] = {}
    now, tool = 0, ""
    while len(done) < len(task.operations):
        soonest = {
            one: max([now, *(done[earlier][1] + wait for earlier, wait in task.before[one])])
            for one in range(len(task.operations))
            if one not in done and all(earlier in done for earlier, _ in task.before[one])
        }
        may = [one for one, start in soonest.items() if start == min(soonest.values())]
        urgent = [one for one in may if task.tails[one] >= max(task.tails[other] for other in may) - slack]
        chosen = min(urgent, key=lambda one: (task.operations[one].tool != tool, -task.tails[one], one))
        done[chosen] = (soonest[chosen], soonest[chosen] + task.lasts[chosen])
        now, tool = done[chosen][1], task.operations[chosen].tool
    return done


@pytest.mark.parametrize("seed", some_of(60))
def test_the_first_schedule_follows_its_rule(seed: int) -> None:
    task = _Task(job(seed, 30), 1)
    for patience in (0.0, 0.3, 1.0):
        assert task.by_rule(patience) == by_plain_rule(task, patience)


def test_what_is_tried_for_fewer_changes_of_tool_is_counted_by_what_is_gone_through(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """A chain of panels: each waits for all that lie under it, forty thousand waits in all."""
    tried: list[int] = []
    in_turn = _Task.in_turn

    def counted(task: _Task, order: Sequence[int]) -> object:
        tried.append(len(order) + sum(map(len, task.before)))
        return in_turn(task, order)

    monkeypatch.setattr(_Task, "in_turn", counted)
    chain = [
        Operation(
            f"o{n}", "glue", f"glue {n}", (), 1.0, "ab"[n % 2], tuple(After(f"o{m}", "so it is") for m in range(n))
        )
        for n in range(280)
    ]
    made = schedule(chain, seconds=0.1)
    assert made.minutes == pytest.approx(280)
    assert 0 < sum(tried) <= MOST_EFFORT


def test_a_schedule_that_nobody_wants_any_more_ends_with_what_was_found() -> None:
    """Forty steps with waits that no rule fits together at once: told to stop, it is whole and claims nothing."""
    dice = np.random.default_rng(3)
    steps = [
        Operation(f"s{n}", "glue", f"step {n}", (), float(dice.integers(1, 9)), "hand",
                  tuple(After(f"s{k}", "dry", float(dice.integers(0, 40))) for k in range(n) if dice.random() < 0.1))
        for n in range(40)
    ]  # fmt: skip
    asked: list[bool] = []
    made = schedule(steps, seconds=60.0, go_on=lambda: bool(asked.append(True)))
    assert {one.operation.key for one in made.steps} == {one.key for one in steps}
    ends = {one.operation.key: one.end_min for one in made.steps}
    for one in made.steps:
        assert all(one.start_min >= ends[edge.key] + edge.wait_min - 0.011 for edge in one.operation.after)
    assert made.bound <= made.minutes + 1e-9
