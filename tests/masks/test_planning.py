"""Presses and masks of small scenes, worked out by hand."""

import msgspec
import pytest

from fair_thicket.laid.masking_paper import list_lyings
from fair_thicket.masks import list_steps, plan, plan_problem, pose_bare
from fair_thicket.masks.presses import lower_bound, stamp_soon
from fair_thicket.masks.problem import deepest_pile
from fair_thicket.masks.problem_of_card import pose
from fair_thicket.model.card import Work
from fair_thicket.model.errors import GeometryError, PaperError, SceneError
from fair_thicket.model.masking import Pin
from fair_thicket.model.plan import Mask, MaskPlan, Press
from making import square, stamp, work_of


def at(x: float, y: float, side: float = 10.0) -> tuple[tuple[float, float], ...]:
    return tuple((px + x, py + y) for px, py in square(side))


def test_an_empty_card_needs_nothing() -> None:
    assert plan(Work()) == MaskPlan()


def test_images_apart_share_one_press_without_masks() -> None:
    made = plan(work_of(("a", 10, 10), ("b", 30, 10), ("c", 50, 10)))
    assert made.presses == (Press(("c-3", "b-2", "a-1"), ()),)
    assert (made.masks, made.placements, made.deepest_pile, made.optimal) == ((), 0, 0, True)


def test_the_front_image_is_stamped_first_and_masked_for_the_one_behind() -> None:
    made = plan(work_of(("behind", 10, 10), ("front", 16, 10)))
    assert made.presses == (Press(("front-2",), ()), Press(("behind-1",), ("front-2",)))
    (mask,) = made.masks
    assert (mask.stamp, mask.serves, made.placements, made.deepest_pile) == ("front", ("front-2",), 1, 1)
    # the front square's left edge lies at 11, reach ends at 15 + 3 = 18: 7 of 10 mm of top and bottom, and the left
    assert mask.careful_mm == pytest.approx(24.0, abs=0.01)
    assert mask.full_mm == pytest.approx(40.0)


def test_a_shared_corner_is_no_overlap() -> None:
    assert len(plan(work_of(("a", 10, 10), ("b", 19.9, 19.9))).presses) == 1  # 0.01 mm2
    assert len(plan(work_of(("a", 10, 10), ("b", 19.7, 19.7))).presses) == 2  # 0.09 mm2


def test_a_stamp_owned_once_prints_once_a_press() -> None:
    pieces = (("fern", 10, 10), ("fern", 40, 10), ("fern", 70, 10))
    assert len(plan(work_of(*pieces)).presses) == 3
    assert len(plan(work_of(*pieces, stamps=(stamp("fern", copies=2),))).presses) == 2
    assert len(plan(work_of(*pieces, stamps=(stamp("fern", copies=3),))).presses) == 1


def test_one_mask_serves_two_impressions_that_need_it_one_after_the_other() -> None:
    # two ferns in front, apart; the toad behind one, the newt behind the other; toad behind newt
    made = plan(work_of(("toad", 40, 18), ("newt", 48, 10), ("fern", 40, 10), ("fern", 56, 10)))
    ferns = [mask for mask in made.masks if mask.stamp == "fern"]
    assert len(made.presses) == 4
    assert sum(len(mask.serves) for mask in ferns) == 2


def test_two_masks_are_needed_at_once_when_one_stamp_lies_over_both() -> None:
    made = plan(work_of(("bank", 25, 10), ("fern", 15, 10), ("fern", 35, 10), stamps=(stamp("bank", 20),)))
    assert [mask.serves for mask in made.masks if mask.stamp == "fern"] == [("fern-3",), ("fern-2",)] or [
        mask.serves for mask in made.masks
    ] == [("fern-2",), ("fern-3",)]
    assert made.presses[-1].masked == ("fern-3", "fern-2")


def test_a_pile_counts_masks_over_one_spot_only() -> None:
    over_one_spot = work_of(("back", 20, 20), ("mid", 22, 20), ("top", 24, 20))
    beside = work_of(("back", 20, 20), ("left", 12, 20), ("right", 28, 20))
    assert deepest_pile(pose(over_one_spot)) == 2
    assert deepest_pile(pose(beside)) == 1


def test_the_lower_bound_knows_chains_and_repeats_together() -> None:
    chain = pose(work_of(("c", 10, 10), ("b", 16, 10), ("a", 22, 10)))
    assert lower_bound(chain) == 3
    # three ferns, each behind the moss: the moss first, then three presses
    problem = pose(
        work_of(("fern", 20, 20), ("fern", 34, 20), ("fern", 48, 20), ("moss", 34, 30), stamps=(stamp("moss", 36),))
    )
    assert lower_bound(problem) == 4
    assert max(stamp_soon(problem)) + 1 == 4
    assert lower_bound(pose(Work())) == 0


def test_bare_outlines_plan_like_a_card() -> None:
    work = work_of(("behind", 10, 10), ("front", 16, 10))
    bare = pose_bare([("f", "front", at(16, 10), ()), ("b", "behind", at(10, 10), ())], {})
    made = plan_problem(bare)
    assert made.presses == (Press(("f",), ()), Press(("b",), ("f",)))
    assert made.careful_mm == pytest.approx(plan(work).careful_mm)


def test_an_opening_in_an_outline_lets_what_is_behind_through() -> None:
    ring, hole = at(20, 20, 30), at(20, 20, 20)
    assert len(plan_problem(pose_bare([("f", "frame", ring, [hole]), ("b", "newt", at(20, 20), ())], {})).presses) == 1


def test_copies_of_a_stamp_must_list_the_same_vertices() -> None:
    with pytest.raises(SceneError, match="have 4 and 3 vertices"):
        pose_bare([("a", "fern", at(0, 0), ()), ("b", "fern", at(0, 0)[:3], ())], {})
    with pytest.raises(GeometryError):
        pose_bare([("a", "fern", ((0, 0), (1, 1), (2, 2)), ())], {})


def test_a_stretch_is_shared_between_turned_impressions() -> None:
    """Two squares of one stamp, one upside down: each needs care at its own left half, so nothing is shared."""
    left, right = at(20, 20), tuple((120 - x, 40 - y) for x, y in at(20, 20))
    made = plan_problem(
        pose_bare(
            [
                ("a", "fern", left, ()),
                ("b", "fern", right, ()),
                ("x", "newt", at(12, 20), ()),
                ("y", "toad", at(108, 20), ()),
            ],
            {},
        )
    )
    # each alone needs 5 + 10 + 5 mm; turned half round, both stretches are the same part of the stamp
    assert made.careful_mm == pytest.approx(20.0, abs=0.02)
    assert len(made.masks) == 1


def test_the_timetable_and_the_steps_follow_the_plan() -> None:
    work = work_of(("c", 10, 10), ("b", 14, 10), ("a", 18, 10))
    made = plan(work)
    lyings = list_lyings(made)
    assert [(one.impression, one.first, one.last) for one in lyings] == [("a-3", 1, 2), ("b-2", 2, 2)]
    assert [one.impression for one in list_lyings(made) if one.first <= 1 <= one.last] == ["a-3"]
    kinds = [(step.kind, step.press) for step in list_steps(work, made)]
    assert kinds == [
        ("stamp", 0),
        ("check", 0),
        ("wait", 1),
        ("lay", 1),
        ("stamp", 1),
        ("check", 1),
        ("wait", 2),
        ("lay", 2),
        ("stamp", 2),
        ("check", 2),
        ("lift", 2),
    ]


def test_a_mask_that_moves_is_told_where_from_and_where_to() -> None:
    made = MaskPlan(
        presses=(Press(("f-1", "f-2"), ()), Press(("n-3",), ("f-1",)), Press(("n-4",), ("f-2",))),
        masks=(Mask("f", ("f-1", "f-2"), 1.0, 2.0),),
    )
    work = work_of(("f", 10, 10), ("f", 30, 10), ("n", 50, 10), ("n", 70, 10))
    words = [step.words for step in list_steps(work, made) if step.kind in {"lay", "move"}]
    assert words == [
        "Lay the mask of the f onto “f 1”; line up its edges",
        "Move the mask from “f 1” onto “f 2”; line up its edges",
    ]


def test_a_program_too_large_to_write_down_is_not_begun_and_the_plain_rule_stands_unproven() -> None:
    """Ninety impressions of one stamp owned once, each over its neighbours: ninety presses, and no claim of proof."""
    pieces = [("toad", 12.0 + 9.0 * (k % 12), 12.0 + 9.0 * (k // 12)) for k in range(90)]
    work = work_of(*pieces)
    made = plan(work, seconds=60.0)
    assert (made.press_count, made.fewest_presses) == (90, 90)
    assert not made.optimal
    order = {key: number for number, press in enumerate(made.presses) for key in press.impressions}
    assert len(order) == 90
    assert order["toad-90"] < order["toad-89"], "what is in front is stamped first"
    late = Pin("press", ("toad-1",), press=2)
    card = msgspec.structs.replace(work.card, masking=msgspec.structs.replace(work.card.masking, pins=(late,)))
    with pytest.raises(PaperError, match="too many impressions to work the pins out"):
        plan(msgspec.structs.replace(work, card=card))
