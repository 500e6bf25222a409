"""The witness can fail: whatever is damaged so that it is seen is told, at its place and by its cause; nothing else is.

The damages, and the measure of what is seen, are this folder's own (`damages`). EVERY_CASE=1 runs 609 of them, on
the demo cards and the eighteen compositions, and 200 undamaged cards.
"""

import random
from functools import cache

import numpy as np
import pytest
from damages import MAKERS, SEEN_MM2, seen_area, seen_patches

from cases import CASES
from fair_thicket.demo import CARD_FILES
from fair_thicket.engines import actions_by_schedule, actions_of
from fair_thicket.files.card_file import open_card
from fair_thicket.masks import plan_with_pins, rehearse
from fair_thicket.model.card import Card, Work
from fair_thicket.model.performance import Action
from fair_thicket.model.pieces import Impression
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.sides import sides_of
from fair_thicket.model.stash import Stash
from making import PX_PER_MM, drawn_for, some_of, stamp
from random_scenes import random_work

EACH = 29
"""So many damages of every kind."""
Pictured = tuple[str, Work, dict[str, bytes]]


def _in_a_bubble() -> Work:
    """A snail stamped inside a bubble, by a counter mask."""
    snail = Impression("snail-1", "snail", 62, 50, trim_to="bubble-1")
    return Work(
        Card(pieces=(Impression("bubble-1", "bubble", 50, 50), snail)), Stash((stamp("snail", 16), stamp("bubble", 20)))
    )


@cache
def cards() -> list[Pictured]:
    """Every side of the demo cards, the eighteen compositions, and a counter mask."""
    found = []
    for file in CARD_FILES:
        whole, pictures = open_card(file)
        found += [(f"{file.stem} {side}", work, pictures) for side, work in sides_of(whole)]
    for case in (*CASES, _in_a_bubble):
        work = case()
        found.append((case.__name__, work, drawn_for(work)))
    return found


@cache
def planned(number: int) -> tuple[MaskPlan, list[Action]]:
    """Plan one of the cards, and list its actions."""
    work = cards()[number][1]
    plan = plan_with_pins(work, seconds=60)[0]
    return plan, actions_of(work, plan)


NUMBERED = [(kind, number) for kind in MAKERS for number in range(EACH)]
CHOSEN = [NUMBERED[(37 * n) % len(NUMBERED)] for n in some_of(len(NUMBERED))]
"""37 has no factor in common with their number: a share of them is a share of every kind."""


@pytest.mark.parametrize(("kind", "number"), CHOSEN, ids=str)
def test_what_is_damaged_so_that_it_is_seen_is_told_at_its_place_by_its_cause(kind: str, number: int) -> None:
    dice = random.Random(f"{kind} {number}")
    damage = None
    while damage is None:
        card = dice.randrange(len(cards()))
        name, work, pictures = cards()[card]
        plan, actions = planned(card)
        damage = MAKERS[kind](work, plan, actions, dice)
    done = rehearse(
        work,
        pictures,
        damage.plan,
        actions=damage.actions,
        as_done=damage.work,
        left_out=damage.left_out,
        slips=damage.slips,
    )
    told = [(one.kind, one.front, one.back, one.area_mm2) for one in done.differences]
    patches = list(seen_patches(done.papers[-1], done.scene))
    if not patches:
        assert not told or seen_area(done.papers[-1], done.scene) >= SEEN_MM2, (name, told)
        return
    places = np.zeros(done.scene.shape[:2], bool)
    for one in done.differences:
        for (left, top), _, (right, bottom), _ in one.places:
            rows = slice(int(top * PX_PER_MM), int(bottom * PX_PER_MM) + 1)
            places[rows, int(left * PX_PER_MM) : int(right * PX_PER_MM) + 1] = True
    untold = [area for pixels, area in patches if not places[pixels].any()]
    assert not untold, (name, untold, told)
    by_cause = [one for one in done.differences if one.kind in damage.kinds and {one.front, one.back} & damage.pieces]
    assert by_cause, (name, damage.kinds, damage.pieces, told)
    assert not [one for one in done.differences if one.kind == "unlike"], (name, told)


@pytest.mark.parametrize("seed", some_of(200))
def test_of_an_undamaged_card_nothing_is_told(seed: int) -> None:
    work = random_work(seed)
    plan = plan_with_pins(work, seconds=60)[0]
    done = rehearse(work, drawn_for(work), plan, actions=actions_of(work, plan))
    assert not done.differences


@pytest.mark.parametrize("number", range(len(CARD_FILES)))
def test_demo_cards_come_out_as_composed_in_the_order_of_their_schedule(number: int) -> None:
    whole, pictures = open_card(CARD_FILES[number])
    plans = {side: plan_with_pins(work, seconds=60)[0] for side, work in sides_of(whole)}
    actions = actions_by_schedule(whole, plans)
    for side, work in sides_of(whole):
        done = rehearse(work, pictures, plans[side], actions=actions[side])
        assert not done.differences
        assert not list(seen_patches(done.papers[-1], done.scene))
