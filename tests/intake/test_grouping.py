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
