"""Overlaps that are hidden in part, and chains of images that cannot wait for ink: posed by hand."""

import pytest

from fair_thicket.masks import plan, plan_with_pins, rehearse
from fair_thicket.masks.problem_of_card import pose
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Blend, Cutout, Form, Impression, Panel
from fair_thicket.model.stash import Stash
from making import drawn_for, stamp

STASH = Stash((stamp("a", 20.0), stamp("b", 20.0), stamp("c", 20.0)))
SKY = Blend("sky", Form("rectangle", 130, 98), 70, 54, colour="#5f8fa3")


def card_of(*pieces: object) -> Work:
    return Work(Card(pieces=pieces), STASH)  # type: ignore[arg-type]


@pytest.mark.parametrize(("left", "masked"), [(56.0, False), (62.0, True)])
def test_an_overlap_needs_a_mask_unless_all_of_it_is_hidden_with_half_a_millimetre_to_spare(
    left: float, *, masked: bool
) -> None:
    """Two squares share x 60 to 70, y 44 to 64; a panel covers it from `left` on, or leaves 2 mm in sight."""
    behind, front = Impression("b-1", "b", 60, 54), Impression("a-1", "a", 70, 54)
    cover = Panel("cover", Form("rectangle", 90 - left, 40), (left + 90) / 2, 54)
    work = card_of(behind, front, cover)
    made = plan(work)
    assert bool(made.masks) is masked
    done = rehearse(work, drawn_for(work), made)
    assert not done.differences
    if masked:
        told = rehearse(work, drawn_for(work), made, left_out={0}).differences
        assert {(one.kind, one.front, one.back) for one in told} == {("ghost", "a-1", "b-1")}
        assert max(x for one in told for ring in one.places for x, _ in ring) <= left + 1, "only what is in sight"


def test_a_chain_of_three_waits_as_a_whole_or_not_at_all() -> None:
    """The front image is to wait for the ink; the one behind it as well then; the coloured one last cannot."""
    front = Impression("a-1", "a", 70, 54, stamped="over dry inks")
    middle = Impression("b-1", "b", 82, 54)
    back = {"colour": "#c8563c"}
    free = plan_with_pins(card_of(SKY, Impression("c-1", "c", 94, 54), middle, front))[0]
    assert [press.impressions for press in free.presses] == [("sky",), ("a-1",), ("b-1",), ("c-1",)]
    bound = card_of(SKY, Impression("c-1", "c", 94, 54, **back), middle, front)  # type: ignore[arg-type]
    made = plan_with_pins(bound)[0]
    assert [press.impressions for press in made.presses] == [("a-1",), ("b-1",), ("c-1",), ("sky",)]
    problem = pose(bound)
    assert problem.late == frozenset()
    assert [problem.stampings[i].id for i in sorted(problem.late)] == []


def test_pieces_that_are_told_are_those_that_stand_there() -> None:
    """A mask forgotten on one of two pairs that stand far apart: only that pair is told, at its own place."""
    pairs = [Impression(f"{key}-{n}", key, x + 12 * (key == "a"), 54) for n, x in ((1, 25), (2, 95)) for key in "ba"]
    work = card_of(*pairs, Cutout("c-1", "c", 70, 90, margin_mm=0.0))
    made = plan_with_pins(work)[0]
    for index, mask in enumerate(made.masks):
        if len(mask.serves) != 1:
            continue
        told = rehearse(work, drawn_for(work), made, left_out={index}).differences
        (front,) = mask.serves
        assert {(one.kind, one.front) for one in told} == {("ghost", front)}
        middle = 25 + 12 if front.endswith("1") else 95 + 12
        assert all(abs(x - middle) < 25 for one in told for ring in one.places for x, _ in ring)
        assert {one.back for one in told} == {front.replace("a", "b")}
