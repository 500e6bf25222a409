"""The rehearsal: equal to the scene with every mask, ghosts without one, halos as wide as the rim."""

import msgspec
import numpy as np
import pytest

from cases import STASH
from fair_thicket.edits.pieces import apply_remedy
from fair_thicket.ink.painting import compose
from fair_thicket.ink.prints import decode_picture
from fair_thicket.masks import judge, plan, plan_with_pins, rehearse
from fair_thicket.masks.differences import PX_PER_MM, levels_apart
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PictureError
from fair_thicket.model.finding import Weight
from fair_thicket.model.pieces import Cutout, Part
from making import drawn_for, framed_png, pictures_of, stamp, work_of


@pytest.fixture
def pair() -> tuple[Work, dict[str, bytes]]:
    """A hatched square behind another."""
    work = work_of(("behind", 30, 30), ("front", 42, 34), stamps=(stamp("behind", 24), stamp("front", 20)))
    pictures = pictures_of(work)
    pictures["images/behind.png"] = framed_png(24, 24, hatch_mm=3)
    return work, pictures


def with_rim(work: Work, rim: float) -> Work:
    return Work(msgspec.structs.replace(work.card, mask_rim_mm=rim), work.stash)


def test_with_every_mask_on_the_line_the_paper_equals_the_scene(pair: tuple[Work, dict[str, bytes]]) -> None:
    work, pictures = pair
    rehearsal = rehearse(work, pictures, plan(work))
    assert rehearsal.differences == ()
    assert levels_apart(rehearsal.papers[-1], rehearsal.scene).max() <= 2
    assert [len(np.unique(paper)) > 1 for paper in rehearsal.papers] == [False, True, True]


def test_without_the_mask_the_image_behind_prints_a_ghost(pair: tuple[Work, dict[str, bytes]]) -> None:
    work, pictures = pair
    (ghost,) = rehearse(work, pictures, plan(work), left_out={0}).differences
    assert (ghost.kind, ghost.front, ghost.back) == ("ghost", "front-2", "behind-1")
    # the two share a corner of 10 by 18 mm: from it, frame and hatching reach up to 10 mm inside the front's left edge
    assert ghost.width_mm == pytest.approx(10, abs=0.7)
    assert ghost.places


@pytest.mark.parametrize("rim", [0.5, 1.0, 2.0])
def test_a_rim_that_the_maker_wants_is_composed_as_wide_as_it_is(
    pair: tuple[Work, dict[str, bytes]], rim: float
) -> None:
    work, pictures = pair
    work = with_rim(work, rim)
    made = rehearse(work, pictures, plan(work))
    assert made.differences == ()
    on_the_line = compose(pair[0], pictures)
    rows, columns = np.nonzero(levels_apart(made.scene, on_the_line) > 64)
    left, top = 42 - 10.0, 34 - 10.0  # of the front square: the other stands behind its upper left corner
    away = np.maximum(left - (columns + 0.5) / PX_PER_MM, top - (rows + 0.5) / PX_PER_MM)
    assert away.min() >= 0
    assert away.max() == pytest.approx(rim, abs=0.15)


def test_a_mask_just_inside_the_line_is_not_seen_in_the_same_ink(pair: tuple[Work, dict[str, bytes]]) -> None:
    work, pictures = pair
    assert rehearse(with_rim(work, -0.25), pictures, plan(work)).differences == ()  # the line is 0.6 mm wide


def test_a_mask_far_inside_the_line_lets_a_ghost_in(pair: tuple[Work, dict[str, bytes]]) -> None:
    work, pictures = pair
    (ghost,) = rehearse(with_rim(work, -1.0), pictures, plan(work)).differences
    assert ghost.kind == "ghost"
    assert ghost.width_mm == pytest.approx(1.0, abs=0.15)


def test_ghost_advice_offers_a_remedy_that_removes_it(pair: tuple[Work, dict[str, bytes]]) -> None:
    work, pictures = pair
    inside = with_rim(work, -1.0)
    made = plan(inside)
    (finding,) = judge(inside, made, rehearse(inside, pictures, made))
    assert (finding.code, finding.weight) == ("ghost", Weight.TROUBLE)
    assert finding.remedy is not None
    mended = apply_remedy(inside, finding.remedy)
    (good,) = judge(mended, made, rehearse(mended, pictures, made))
    assert good.code == "proven"


def test_a_turned_image_prints_where_its_outline_lies() -> None:
    work = work_of(("snail", 40, 40), stamps=(stamp("snail", 20),))
    turned = msgspec.structs.replace(work.card.pieces[0], angle_deg=30.0)
    work = Work(msgspec.structs.replace(work.card, pieces=(turned,)), work.stash)
    ink = compose(work, pictures_of(work))[:, :, 0] < 128
    rows, columns = np.nonzero(ink)
    reach = 20 * (np.cos(np.radians(30)) + np.sin(np.radians(30)))
    assert np.ptp(columns) / PX_PER_MM == pytest.approx(reach, abs=0.3)
    assert (columns.mean() / PX_PER_MM, rows.mean() / PX_PER_MM) == pytest.approx((40, 40), abs=0.1)


def test_what_runs_off_the_panel_is_cut_and_what_is_beyond_prints_nothing() -> None:
    work = work_of(("snail", 0, 40), ("toad", -50, -50))
    scene = compose(work, pictures_of(work))
    columns = np.nonzero(scene[:, :, 0] < 128)[1]
    assert columns.max() / PX_PER_MM == pytest.approx(5, abs=0.2)
    assert rehearse(work, pictures_of(work), plan(work)).differences == ()


def test_a_missing_or_damaged_picture_is_told_in_a_sentence() -> None:
    work = work_of(("snail", 40, 40))
    with pytest.raises(PictureError, match="scan the stamp again"):
        rehearse(work, {}, plan(work))
    with pytest.raises(PictureError):
        decode_picture(b"no picture")


def test_piled_masks_are_a_caution() -> None:
    work = work_of(("d", 20, 20), ("c", 22, 20), ("b", 24, 20), ("a", 26, 20))
    codes = {finding.code: finding for finding in judge(work, plan(work))}
    assert codes["pile"].measure == 3
    assert codes["pile"].weight is Weight.CAUTION


def test_a_rehearsal_keeps_of_its_sheets_only_how_they_look(pair: tuple[Work, dict[str, bytes]]) -> None:
    work, pictures = pair
    made = rehearse(work, pictures, plan(work)).performance
    kept = {id(one): one.nbytes for sheet in made.sheets.values() for one in (sheet.bare, sheet.canvas)}
    assert sum(kept.values()) == sum(sheet.canvas.nbytes for sheet in made.sheets.values()), "each sheet once"
    assert not any(sheet.lays for sheet in made.sheets.values())
    assert made.painter.canvas.base.nbytes < 100
    assert not made.changes


def test_a_joined_image_that_skips_beside_piled_masks_is_told_with_its_masks() -> None:
    """Seven leaves on one another in one cutout: their masks pile up, and the first is pressed beside three of them."""
    parts = tuple(Part("leaf", 5.0 * k - 20, -6.0 + k % 3, 10.0 * k) for k in range(6))
    work = Work(Card(pieces=(Cutout("c", "leaf", 70, 54, joined=parts),)), STASH)
    plan = plan_with_pins(work)[0]
    told = rehearse(work, drawn_for(work), plan).differences
    assert {(one.kind, one.back) for one in told} == {("skip", "c")}
    assert {one.front for one in told} <= {"c", *(f"c+{k}" for k in range(6))}
    assert all(0.3 <= one.area_mm2 < 0.5 for one in told)
