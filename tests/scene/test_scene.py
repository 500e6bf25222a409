"""What is seen, what is judged, and what edits do."""

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fair_thicket import edits
from fair_thicket.laid.visibility import see
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.finding import Remedy, Weight
from fair_thicket.scene import judge
from fair_thicket.scene.figures import figures_of
from fair_thicket.scene.snapping import _even_places
from making import EVERY, stamp, work_of


def codes(work: Work) -> list[str]:
    return [finding.code for finding in judge(work)]


def test_what_is_seen_of_each_piece_is_exact() -> None:
    front, middle, back = see(work_of(("back", 20, 20), ("middle", 25, 20), ("front", 28, 20)))
    assert (front.id, front.visible_mm2, front.hidden_by) == ("front-3", pytest.approx(100), {})
    assert middle.visible_mm2 == pytest.approx(30)  # from 20 to 30 mm, the front begins at 23
    # the back reaches from 15 to 25: the middle hides 5 mm of it, the front 2 mm, the latter within the former
    assert back.visible_mm2 == pytest.approx(50)
    assert back.hidden_by == {"middle-2": pytest.approx(50), "front-3": pytest.approx(20)}
    assert back.hidden_share == pytest.approx(0.5)


def test_what_lies_off_the_panel_is_neither_seen_nor_hidden() -> None:
    (sight,) = see(work_of(("a", 2, 20)))
    assert (sight.area_mm2, sight.off_panel_mm2, sight.visible_mm2) == pytest.approx((100, 30, 70))
    assert sight.hidden_share == pytest.approx(0)
    (gone,) = see(work_of(("a", -100, 20)))
    assert (gone.visible_mm2, gone.hidden_share) == (0, 0)


def test_an_empty_card_has_nothing_to_say_and_a_tidy_one_is_praised() -> None:
    assert judge(Work()) == []
    (good,) = judge(work_of(("a", 20, 20), ("b", 50, 20)))
    assert (good.code, good.weight) == ("clear", Weight.GOOD)


def test_a_covered_image_is_told_with_its_share_and_its_cover() -> None:
    (finding,) = judge(work_of(("snail", 40, 40), ("parcel", 44, 40)))
    assert (finding.code, finding.weight, finding.pieces) == ("covered", Weight.CAUTION, ("snail-1", "parcel-2"))
    assert finding.measure == pytest.approx(0.6)
    assert "The parcel covers 60% of it" in finding.text
    assert finding.remedy is not None
    assert finding.remedy.words.startswith("Move the parcel")


def test_an_image_almost_wholly_covered_is_trouble() -> None:
    work = work_of(("snail", 40, 40), ("parcel", 40.5, 40))
    assert judge(work)[0].weight is Weight.TROUBLE


def test_a_near_touch_is_told_with_its_gap() -> None:
    (finding,) = judge(work_of(("snail", 40, 40), ("lantern", 50.4, 40)))
    assert (finding.code, finding.measure) == ("near", pytest.approx(0.4))
    assert codes(work_of(("snail", 40, 40), ("lantern", 51.0, 40))) == ["clear"]


def test_an_overhang_is_told_with_its_reach_and_a_lost_image_is_trouble() -> None:
    (finding,) = judge(work_of(("fern", 3, 40)))
    assert (finding.code, finding.measure, finding.weight) == ("overhang", pytest.approx(2), Weight.NOTE)
    (finding,) = judge(work_of(("fern", -30, 40)))
    assert (finding.code, finding.weight) == ("off-panel", Weight.TROUBLE)
    huge = work_of(("fern", 60, 50), stamps=(stamp("fern", 150),))
    assert judge(huge)[0].remedy is None  # no place on the card holds it


places = st.tuples(st.sampled_from(["a", "b", "c"]), st.floats(-5, 145), st.floats(-5, 112))


@settings(max_examples=max(12, 40 // EVERY), deadline=None)
@given(st.lists(places, min_size=1, max_size=7))
def test_every_remedy_removes_its_own_finding_and_brings_no_worse_one(pieces: list[tuple[str, float, float]]) -> None:
    work = work_of(*pieces)
    before = judge(work)
    for finding in before:
        if finding.remedy is None:
            continue
        mended = edits.apply_remedy(work, finding.remedy)
        after = judge(mended)
        same = [one for one in after if one.code == finding.code and set(one.pieces[:2]) == set(finding.pieces[:2])]
        assert not same, finding
        worst = max(one.weight for one in before)
        assert all(one.weight <= max(worst, finding.weight) for one in after)


# -- edits ---------------------------------------------------------------------------------------------------------


@pytest.fixture
def four() -> Work:
    """Four squares; b, c and d overlap in a chain, a stands alone."""
    return work_of(("a", 10, 10), ("b", 40, 40), ("c", 46, 40), ("d", 52, 40))


def order(work: Work) -> str:
    return "".join(piece.id[0] for piece in work.card.pieces)


@pytest.mark.parametrize(
    ("change", "expected"),
    [
        (lambda work: edits.reorder(work, "a-1", 2), "bcad"),
        (lambda work: edits.reorder(work, "d-4", -5), "dabc"),
        (lambda work: edits.reorder(work, "a-1", 99), "bcda"),
        (lambda work: edits.step_past_overlap(work, {"b-2"}, 1), "acbd"),
        (lambda work: edits.step_past_overlap(work, {"d-4"}, -1), "abdc"),
        (lambda work: edits.step_past_overlap(work, {"a-1"}, 1), "abcd"),
        (lambda work: edits.step_past_overlap(work, {"b-2", "c-3"}, 1), "abdc"),
        (lambda work: edits.to_end(work, {"a-1", "b-2"}, front=True), "cdab"),
        (lambda work: edits.to_end(work, {"c-3", "d-4"}, front=False), "cdab"),
        (lambda work: edits.set_order(work, ["d-4", "c-3", "b-2", "a-1"]), "dcba"),
        (lambda work: edits.delete(work, {"b-2", "d-4"}), "ac"),
    ],
)
def test_edits_of_the_order(four: Work, change, expected: str) -> None:
    assert order(change(four)) == expected


def test_moving_and_turning(four: Work) -> None:
    moved = edits.move_by(four, {"a-1", "b-2"}, (1.5, -2))
    assert [(piece.x, piece.y) for piece in moved.card.pieces[:2]] == [(11.5, 8), (41.5, 38)]
    assert edits.move_to(four, "a-1", (1e9, 5)).card.pieces[0].x == 2000  # what a file can hold
    turned = edits.turn_by(edits.turn_by(four, {"a-1"}, 170), {"a-1"}, 20)
    assert turned.card.find("a-1").angle_deg == -170
    assert edits.turn_to(four, {"a-1"}, -540).card.find("a-1").angle_deg == 180
    assert edits.move_by(edits.move_by(four, {"a-1"}, (3, 4)), {"a-1"}, (-3, -4)) == four


def test_a_new_impression_stands_in_front_under_a_new_id(four: Work) -> None:
    work, key = edits.add_impression(four, "b", (5, 6))
    assert (key, order(work)) == ("b-1", "abcdb")
    assert edits.add_impression(work, "b", (5, 6))[1] == "b-3"
    full = msgspec.structs.replace(
        four,
        card=msgspec.structs.replace(
            four.card, pieces=tuple(msgspec.structs.replace(four.card.pieces[0], id=f"n-{k}") for k in range(500))
        ),
    )
    with pytest.raises(PaperError, match="at most 500 pieces"):
        edits.add_impression(full, "a", (0, 0))


def test_an_order_must_name_every_piece_once(four: Work) -> None:
    with pytest.raises(ValueError, match="every piece exactly once"):
        edits.set_order(four, ["a-1", "b-2"])


def test_the_stash_may_be_counted_renamed_and_thinned(four: Work) -> None:
    assert edits.set_copies(four, "a", 3).stash.find("a").copies == 3
    assert edits.rename_stamp(four, "a", "snail").stash.find("a").name == "snail"
    with pytest.raises(PaperError, match="bears 1 piece of “a”"):
        edits.drop_stamp(four, "a")
    bare = edits.delete(four, {"a-1"})
    assert not edits.drop_stamp(bare, "a").stash.has("a")
    assert edits.add_stamps(bare, [stamp("z")]).stash.has("z")


def test_a_remedy_may_set_the_rim(four: Work) -> None:
    assert edits.apply_remedy(four, Remedy("on the line", mask_rim_mm=0.5)).card.mask_rim_mm == 0.5


def test_what_is_moved_catches_where_it_takes_up_the_gap_of_two_on_either_side() -> None:
    """Two boxes with 10 mm between them: a third of 5 mm stands 10 mm beside them, or evenly between its neighbours."""
    assert list(_even_places([], [(50, 60), (70, 80)], 5)) == [35]
    assert list(_even_places([(0, 10), (20, 30)], [], 5)) == [40]
    assert list(_even_places([(0, 10)], [(40, 50)], 10)) == [20]
    assert list(_even_places([(0, 10)], [(20, 50)], 10)) == [], "no room between them"
    assert list(_even_places([], [(50, 60), (55, 80)], 5)) == [], "they overlap"
    assert list(_even_places([(0, 10), (5, 30)], [], 5)) == []
    assert list(_even_places([(0, 10)], [], 5)) == []


def test_figures_of_a_layout_are_its_pieces_its_findings_and_the_share_that_nobody_sees() -> None:
    """Two squares of 10 mm, 6 mm apart: of 200 mm2 the front one hides 40."""
    work = work_of(("back", 60, 50), ("front", 66, 50))
    figures = figures_of(work)
    assert figures.pieces == 2
    assert figures.hidden_share == pytest.approx(40 / 200)
    told = [one for one in judge(work, remedies=False) if not one.is_dismissed]
    assert (figures.troubles, figures.cautions, figures.notes) == tuple(
        sum(one.weight is weight for one in told) for weight in (Weight.TROUBLE, Weight.CAUTION, Weight.NOTE)
    )
    assert figures_of(work_of(("back", 60, 50))).hidden_share == 0.0
    assert figures_of(work_of()).hidden_share == 0.0
