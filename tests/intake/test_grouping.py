"""Which bits of ink belong together."""

import numpy as np

from fair_thicket.intake.grouping import Grouping, group_parts


def box(x: float, y: float, width: float, height: float) -> np.ndarray:
    return np.array([(x, y), (x + width, y), (x + width, y + height), (x, y + height)], float)


def sets(found: Grouping) -> set[frozenset[int]]:
    return {frozenset(group) for group in found.groups}


def test_nothing_gives_nothing() -> None:
    assert group_parts([]).groups == ()


def test_parts_near_each_other_are_one_image_and_far_ones_are_not() -> None:
    parts = [box(0, 0, 8, 8), box(9, 0, 8, 8), box(30, 0, 8, 8), box(39, 0, 8, 8)]
    assert sets(group_parts(parts)) == {frozenset({0, 1}), frozenset({2, 3})}


def test_the_widest_pause_tells_where_images_end() -> None:
    letters = [box(k * 4.0, 0, 2.6, 5) for k in range(8)]  # gaps of 1.4 mm
    other = [box(40, 0, 10, 10), box(55.5, 0, 10, 10)]  # gaps of 5.5 mm
    assert sets(group_parts(letters + other)) == {frozenset(range(8)), frozenset({8}), frozenset({9})}


def test_an_eye_belongs_to_the_face_however_far_its_edge_is() -> None:
    assert sets(group_parts([box(0, 0, 40, 40), box(19, 19, 2, 2)])) == {frozenset({0, 1})}


def test_dust_is_left_out_unless_it_lies_within_an_image() -> None:
    parts = [box(0, 0, 10, 10), box(4, 4, 0.3, 0.3), box(10.6, 5, 0.3, 0.3), box(30, 30, 0.4, 0.4), box(50, 0, 2, 2)]
    assert sets(group_parts(parts)) == {frozenset({0, 1})}


def test_the_maker_may_say_the_distance() -> None:
    parts = [box(0, 0, 8, 8), box(17, 0, 8, 8)]
    assert len(group_parts(parts).groups) == 2
    assert len(group_parts(parts, gap_mm=10).groups) == 1


def test_ink_broken_into_very_many_specks_is_taken_together_without_a_thought_about_each() -> None:
    """Two drawings of 400 specks each, 20 mm apart: nobody judges pair by pair."""

    def refuse(companies: object, pairs: object) -> list[float]:
        raise AssertionError("judged pair by pair")

    parts = [box(left + 2.5 * (k % 20), 2.5 * (k // 20), 1, 1) for left in (0.0, 70.0) for k in range(400)]
    assert [len(group) for group in group_parts(parts, judge=refuse).groups] == [400, 400]


def test_two_whole_bodies_with_room_for_cutting_between_them_are_two_however_alike() -> None:
    """Frames of 30 mm in rows, 5 mm apart: evenly laid, as parts of one image would be."""
    frames = [box(20 + 35 * column, 20 + 35 * row, 30, 30) for row in range(2) for column in range(3)]
    assert sets(group_parts(frames)) == {frozenset({k}) for k in range(6)}


def test_a_company_that_has_grown_is_judged_again_before_it_takes_in_more() -> None:
    """Three boxes: 1 and 2 are likely one, so are 2 and 3, but the first two together want nothing of the third."""

    def judge(companies: object, pairs: list[tuple[int, int]]) -> list[float]:
        sizes = [max(len(companies.members[one].parts) for one in pair) for pair in pairs]  # type: ignore[attr-defined]
        return [0.1 if size > 1 else 0.9 - pair[0] / 100 for size, pair in zip(sizes, pairs, strict=True)]

    parts = [box(0, 0, 8, 8), box(10, 0, 8, 8), box(20, 0, 8, 8)]
    assert sets(group_parts(parts, judge=judge)) == {frozenset({0, 1}), frozenset({2})}
    middle_first = [parts[1], parts[0], parts[2]]  # what grows keeps its number, and was judged with the third before
    assert sorted(len(group) for group in group_parts(middle_first, judge=judge).groups) == [1, 2]


def test_what_has_been_joined_is_judged_with_its_new_neighbours_and_may_go_on_growing() -> None:
    def judge(companies: object, pairs: list[tuple[int, int]]) -> list[float]:
        return [0.9 for _ in pairs]

    parts = [box(10.0 * k, 0, 8, 8) for k in range(5)]
    assert sets(group_parts(parts, judge=judge)) == {frozenset(range(5))}


def test_a_distance_that_the_maker_gives_holds_for_every_pair_however_many_are_nearer() -> None:
    """A ring of 40 specks round a disc of 8 mm: 20 of them 1 mm from it, 20 at 3.9 mm, all nearer to each other."""
    turns = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    disc = np.array([(4 * np.cos(turn), 4 * np.sin(turn)) for turn in turns])
    specks = [box(8.5 * np.cos(turn) - 0.5, 8.5 * np.sin(turn) - 0.5, 1, 1) for turn in turns]
    assert sets(group_parts([disc, *specks], gap_mm=4.2)) == {frozenset(range(41))}
    assert sets(group_parts([disc, *specks], gap_mm=0.1)) == {frozenset({0})}
