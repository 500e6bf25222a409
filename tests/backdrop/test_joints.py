"""A joint moved by hand: what is cut changes, what lies where does not; the die's ends are its bounds."""

import msgspec
import pytest
import shapely

from fair_thicket.backdrop.joints import joint_places, move_joint, room_of
from fair_thicket.backdrop.judging import best_span, measure_joints
from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Border
from fair_thicket.shape.paper import footprint, reaches


@pytest.fixture(params=["far-hill-1", "picket-1", "moss-edge-1"])
def border(request: pytest.FixtureRequest) -> tuple[Work, Border]:
    """One joined border of the demo slimline after the other; two of them have cuts that are turned over."""
    work, _ = open_card(CARD_FILES[2])
    piece = work.card.find(request.param)
    assert isinstance(piece, Border)
    return work, piece


def test_moving_there_and_back_changes_nothing(border: tuple[Work, Border]) -> None:
    work, piece = border
    stamp = work.stash.find(piece.stamp)
    home = joint_places(piece.cuts)[0]
    room = room_of(stamp, piece.cuts, 0)
    assert room.low <= home <= room.high
    there = min(home + 2.0, room.high)
    moved, _ = move_joint(stamp, piece, 0, there)
    assert joint_places(moved.cuts)[0] == pytest.approx(there, abs=1e-3)
    back, joint = move_joint(stamp, moved, 0, home)
    for one, other in zip(back.cuts, piece.cuts, strict=True):
        assert msgspec.structs.astuple(one) == pytest.approx(msgspec.structs.astuple(other), abs=0.01)
    assert joint.mismatch_mm == pytest.approx(measure_joints(stamp, piece)[0].mismatch_mm, abs=0.02)


def test_a_moved_joint_still_spans_and_only_the_overlap_looks_another(border: tuple[Work, Border]) -> None:
    work, piece = border
    stamp = work.stash.find(piece.stamp)
    room = room_of(stamp, piece.cuts, 0)
    moved, _ = move_joint(stamp, piece, 0, (room.low + room.high) / 2)
    assert reaches(moved.cuts, piece.length_mm)
    before, after = footprint(piece, work.stash), footprint(moved, work.stash)
    assert after.bounds == pytest.approx(before.bounds, abs=1.5)  # a crest more or less may show
    spots = sorted([joint_places(piece.cuts)[0], joint_places(moved.cuts)[0]])
    left = piece.x - piece.length_mm / 2
    between = shapely.box(left + spots[0] - 4, -99, left + spots[1] + 4, 999)
    assert before.symmetric_difference(after).difference(between).area < 0.1


def test_beyond_the_die_a_joint_is_refused(border: tuple[Work, Border]) -> None:
    work, piece = border
    stamp = work.stash.find(piece.stamp)
    room = room_of(stamp, piece.cuts, 0)
    for beyond in (room.low - 1.0, room.high + 1.0):
        with pytest.raises(PaperError, match="one of the cuts would end"):
            move_joint(stamp, piece, 0, beyond)
    for at in (room.low, room.high):
        moved, _ = move_joint(stamp, piece, 0, at)
        for cut in moved.cuts:
            assert -1e-3 <= cut.from_mm < cut.to_mm <= stamp.width_mm + 1e-3


def test_no_place_near_by_joins_better_than_the_best(border: tuple[Work, Border]) -> None:
    """The best span is best among all that a joint can be moved to, on its own grid."""
    work, piece = border
    stamp = work.stash.find(piece.stamp)
    best = best_span(stamp, piece.length_mm)
    room = room_of(stamp, best.cuts, 0)
    start = msgspec.structs.replace(piece, cuts=best.cuts)
    first = measure_joints(stamp, start)[0]
    here = first.mismatch_mm * 2 + first.peek_mm2
    at = room.low
    while at <= room.high:
        _, joint = move_joint(stamp, start, 0, at)
        assert joint.mismatch_mm * 2 + joint.peek_mm2 >= here - 0.15  # columns are a quarter of a millimetre wide
        at += 1.7
