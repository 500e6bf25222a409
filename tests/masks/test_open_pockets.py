"""An open pocket shows what is behind: masks and scissors leave it open, and the rehearsal agrees with the picture."""

import msgspec
import numpy as np
import pytest
import shapely

from fair_thicket.laid.masking_paper import MaskingPaper
from fair_thicket.laid.stack import stack
from fair_thicket.masks import plan, rehearse
from fair_thicket.masks.differences import levels_apart
from fair_thicket.masks.judging import list_pockets
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Cutout
from fair_thicket.model.stash import Marks
from fair_thicket.shape.outline import image_area, open_pockets
from fair_thicket.shape.paper import footprint
from making import framed_png, pictures_of, square, stamp, work_of

FRAME = msgspec.structs.replace(stamp("frame", 30), pockets=(square(20),))
OPEN = msgspec.structs.replace(FRAME, marks=Marks(open_at=((3.0, -2.0),)))


def before_a_square(frame: object, side: float, at: tuple[float, float] = (50, 40)) -> tuple[Work, dict[str, bytes]]:
    """Stamp a frame over a hatched square."""
    work = work_of(("behind", *at), ("frame", 50, 40), stamps=(stamp("behind", side), frame))
    pictures = pictures_of(work)
    pictures["images/behind.png"] = framed_png(side, side, hatch_mm=3)
    return work, pictures


def test_a_pocket_with_a_mark_in_it_is_open_and_others_are_paper() -> None:
    assert open_pockets(FRAME) == ()
    assert image_area(FRAME).area == pytest.approx(900)
    assert open_pockets(OPEN) == FRAME.pockets
    assert image_area(OPEN).area == pytest.approx(900 - 400)
    beside = msgspec.structs.replace(FRAME, marks=Marks(open_at=((14.0, 0.0),)))
    assert open_pockets(beside) == ()


def test_what_stands_in_an_open_pocket_needs_no_mask_and_is_seen_whole() -> None:
    closed, opened = (before_a_square(one, 16)[0] for one in (FRAME, OPEN))
    assert (len(plan(closed).presses), len(plan(closed).masks)) == (2, 1)
    assert (len(plan(opened).presses), len(plan(opened).masks)) == (1, 0)
    assert not shapely.intersects(*(leaf.area for leaf in stack(opened)))


def test_a_mask_is_cut_open_and_what_is_behind_is_stamped_through_it() -> None:
    work, pictures = before_a_square(OPEN, 24)
    made = plan(work)
    (cut,) = MaskingPaper(work, made).cuts
    assert not cut.paper.covers(shapely.Point(0, 0))
    rehearsal = rehearse(work, pictures, made)
    assert rehearsal.differences == ()
    assert levels_apart(rehearsal.papers[-1], rehearsal.scene).max() <= 2
    closed, _ = before_a_square(FRAME, 24)
    middle = np.s_[round(34 * 300 / 25.4) : round(46 * 300 / 25.4), round(44 * 300 / 25.4) : round(56 * 300 / 25.4)]
    assert levels_apart(rehearsal.papers[-1], rehearse(closed, pictures, plan(closed)).papers[-1])[middle].max() > 64


def test_a_whole_mask_over_an_open_pocket_would_leave_it_white() -> None:
    """The rehearsal sees the fault: the mask as it was cut when the pocket was paper."""
    work, pictures = before_a_square(OPEN, 24)
    closed, _ = before_a_square(FRAME, 24)
    differ = rehearse(closed, pictures, plan(closed)).papers[-1]
    assert levels_apart(rehearse(work, pictures, plan(work)).scene, differ).max() > 64


def test_only_closed_pockets_are_told_as_staying_white() -> None:
    closed, opened = (before_a_square(one, 24)[0] for one in (FRAME, OPEN))
    assert list(list_pockets(closed, plan(closed))) == ["frame-2"]
    assert list_pockets(opened, plan(opened)) == {}


def test_scissors_cut_an_open_pocket_out() -> None:
    work, _ = before_a_square(OPEN, 24)
    for stash, area in ((work.stash, 900 - 400), (before_a_square(FRAME, 24)[0].stash, 900)):
        piece = Cutout(id="cut", stamp="frame", x=50.0, y=40.0, margin_mm=0.0)
        assert footprint(piece, stash).area == pytest.approx(area)
