"""Finishes: what they add, how long they lie wet, what they look like, and restraint."""

import numpy as np
import pytest

from fair_thicket.assembly import find_heights
from fair_thicket.assembly.planning import plan_side
from fair_thicket.edits.pieces import apply_remedy
from fair_thicket.engines import assemble
from fair_thicket.ink.finish_looks import marks_of
from fair_thicket.ink.ground import shadow_of
from fair_thicket.ink.painting import paint
from fair_thicket.masks import plan_with_pins, rehearse
from fair_thicket.model.card import Card, Work, is_greeting, name_pieces
from fair_thicket.model.finishes import FINISHES, Finish
from fair_thicket.model.pieces import Embellishment, Form, Panel, Strip
from fair_thicket.model.plan import MaskPlan
from fair_thicket.scene import judge
from fair_thicket.shape.paper import footprint, local_area

GROUND = Panel("ground", Form("rectangle", 120, 90, 4), 69.85, 54, colour="#4b5f86", edge="stitched")
THREE = ((0.0, 0.0), (6.0, 2.0), (2.0, 7.0))


def some(shape: Finish, *, spots: tuple[tuple[float, float], ...] = THREE, **more: object) -> Embellishment:
    size = 14.0 if shape == "bow" else 4.0
    return Embellishment("e", size, 60, 50, shape=shape, spots=spots, on="ground", colour="#4b5f86", **more)  # type: ignore[arg-type]


def card_of(*pieces: object) -> Work:
    return Work(Card(pieces=(GROUND, *pieces)))  # type: ignore[arg-type]


@pytest.mark.parametrize("shape", FINISHES)
def test_each_is_drawn_rehearsed_named_and_scheduled(shape: Finish) -> None:
    work = card_of(some(shape))
    assert not rehearse(work, {}, plan_with_pins(work)[0]).differences
    area = local_area(work.card.find("e"), work.stash)
    assert area.is_valid
    assert area.area > 4
    assert name_pieces(work)["e"] == FINISHES[shape].plural
    made = assemble(work, {})
    step = next(one for one in made.schedule.steps if one.operation.key == "set e")
    assert step.operation.words.startswith(FINISHES[shape].how)
    post = next(one for one in made.schedule.steps if one.operation.key == "post")
    dries = {"wet": 240.0, "minute": 1.0, "glaze": 5.0, "": 0.0}[FINISHES[shape].dries]
    assert post.start_min - step.end_min >= dries - 0.02
    top = find_heights(work).find("e").top_mm
    assert top == pytest.approx(work.card.masking.rates.paper_mm + FINISHES[shape].adds_mm)
    glue = {one.piece for one in plan_side("front", work, MaskPlan()).glue.glues}
    assert ("e" in glue) is FINISHES[shape].is_glued
    assert all(mark.area.area < area.area for mark in marks_of(some(shape), work.stash))
    assert (shadow_of(some(shape)) == (0.0, 0.0)) is (FINISHES[shape].adds_mm < 0.3)


def test_heights_and_waits_are_those_of_the_trade() -> None:
    """Glitter, gloss 0.5 to 1 mm; drops, gems, sequins 1 to 3; twine, bow 2 to 4; pens nothing (common practice)."""
    assert all(0.5 <= FINISHES[one].adds_mm <= 1.0 for one in ("glitter", "gloss"))  # type: ignore[index]
    assert all(1.0 <= FINISHES[one].adds_mm <= 3.0 for one in ("round", "star", "drop", "gem", "pearl"))  # type: ignore[index]
    assert all(2.0 <= FINISHES[one].adds_mm <= 4.0 for one in ("twine", "bow"))  # type: ignore[index]
    assert FINISHES["pen"].adds_mm == FINISHES["shimmer"].adds_mm == 0.0


def test_stitches_lie_beside_the_edge_and_an_embossed_line_has_light_and_shade() -> None:
    picture = paint(card_of(), {}, dpi=300)
    stitched = (picture != picture[600, 800]).any(axis=2)
    row = stitched[round(54 / 25.4 * 300)]
    dark = np.flatnonzero(row[: round(69 / 25.4 * 300)]) / 300 * 25.4
    left = 69.85 - 60
    assert dark[dark > left + 0.3].min() == pytest.approx(left + 1.6, abs=0.35)
    embossed = Panel("p", Form("ellipse", 40, 30), 60, 50, edge="embossed")
    assert [(mark.is_light) for mark in marks_of(embossed, card_of().stash)] == [False, True]
    tiny = Panel("p", Form("ellipse", 3, 3), 60, 50, edge="stitched")
    assert marks_of(tiny, card_of().stash) == ()


def test_twine_runs_from_spot_to_spot() -> None:
    twine = some("twine", spots=((-20.0, 0.0), (0.0, 4.0), (20.0, 0.0)))
    area = footprint(twine, card_of().stash)
    assert area.geom_type == "Polygon"
    assert area.bounds[2] - area.bounds[0] == pytest.approx(44.0, abs=0.1)


@pytest.mark.parametrize(("count", "told"), [(1, False), (2, True), (3, False), (4, True), (12, False)])
def test_little_groups_are_odd(count: int, *, told: bool) -> None:
    spots = tuple((6.0 * (n % 4), 6.0 * (n // 4)) for n in range(count))
    work = card_of(some("gem", spots=spots))
    found = [one for one in judge(work) if one.code == "even-group"]
    assert bool(found) is told
    if found:
        assert found[0].remedy is not None
        assert not [one for one in judge(apply_remedy(work, found[0].remedy)) if one.code == "even-group"]


def test_more_than_enough_is_told_and_white_dots_are_not_counted() -> None:
    many = tuple((4.6 * (n % 6), 4.6 * (n // 6)) for n in range(17))
    (told,) = [one for one in judge(card_of(some("round", spots=many))) if one.code == "finishes"]
    assert told.measure == 17
    assert not [one for one in judge(card_of(some("pen", spots=many))) if one.code == "finishes"]


def test_a_colour_that_echoes_nothing_is_told_and_the_nearest_of_the_scene_offered() -> None:
    berry = Embellishment("e", 4.0, 60, 50, shape="gem", spots=THREE, on="ground", colour="#c8305c")
    (told,) = [one for one in judge(card_of(berry)) if one.code == "foreign-finish"]
    assert told.remedy is not None
    after = apply_remedy(card_of(berry), told.remedy)
    assert not [one for one in judge(after) if one.code == "foreign-finish"]
    pearl = Embellishment("e", 4.0, 60, 50, shape="pearl", spots=THREE, on="ground", colour="#f4f1ea")
    assert not [one for one in judge(card_of(pearl)) if one.code == "foreign-finish"]


def test_metres_of_twine_are_looked_at_in_seconds_and_words_of_nothing_are_no_greeting() -> None:
    """A way that strays over the whole desk four hundred times; finishes get no foam, however high they lie."""
    dice = np.random.default_rng(1)
    spots = tuple((float(x), float(y)) for x, y in dice.uniform(-900, 900, (400, 2)))
    raised = Panel("r", Form("rectangle", 20, 20), 60, 50, lift_mm=1.6, on="ground")
    work = card_of(raised, some("twine", spots=spots))
    assert marks_of(work.card.find("e"), work.stash)
    side = plan_side("front", work, MaskPlan())
    assert not side.foam.of("e")
    assert not is_greeting(Strip("s", 20, 10, 60, 50, words="\n"), work.stash)
