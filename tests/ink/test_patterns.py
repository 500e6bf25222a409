"""Patterned paper at true scale: stripes that are known, as painted, as rehearsed, as the bench has them."""

import cv2
import msgspec
import numpy as np
import pytest

from fair_thicket.edits.papers import add_patterned, set_base_paper, set_paper, set_pattern, turn_pattern
from fair_thicket.edits.pieces import add_piece, set_card
from fair_thicket.files.card_file import decode_card, encode_card
from fair_thicket.ink.overlay import lay_colour
from fair_thicket.ink.painting import paint
from fair_thicket.ink.patterns import base_pattern, decode_tile, main_colour, pattern_tones
from fair_thicket.laid.soundness import check_work
from fair_thicket.masks import plan, rehearse
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError, PictureError, UnsoundError
from fair_thicket.model.pieces import Blend, Form, Panel
from making import work_of

RED, BLUE = (200, 40, 40), (40, 60, 200)
PNG = "images/stripes.png"


def stripes(width_px: int = 100, stripe_px: int = 50) -> bytes:
    """A tile of one red and one blue upright stripe."""
    picture = np.zeros((40, width_px, 3), np.uint8)
    picture[:, :stripe_px], picture[:, stripe_px:] = RED[::-1], BLUE[::-1]
    return cv2.imencode(".png", picture)[1].tobytes()


PICTURES = {PNG: stripes()}


def papered(angle_deg: float = 0.0) -> Work:
    """A panel of 60 x 40 mm about 70, 50, cut from stripes of 5 mm."""
    work, key = add_patterned(work_of(), "stripes", (10.0, 4.0), PNG)
    work = add_piece(work, Panel("panel-1", Form("rectangle", 60.0, 40.0), 70.0, 50.0, angle_deg))
    return set_pattern(work, {"panel-1"}, key, main_colour(PICTURES[PNG]))


def colour_at(picture: np.ndarray, x: float, y: float) -> str:
    """Which stripe lies at a place of the panel, mm."""
    scale = picture.shape[1] / 139.7
    red, _, blue = picture[round(y * scale), round(x * scale)].astype(int)
    return "red" if red > blue + 80 else "blue" if blue > red + 80 else "none"


def test_a_stripe_of_five_mm_is_five_mm_wide_on_the_panel() -> None:
    picture = paint(papered(), PICTURES, dpi=150)
    # the tile's middle, where red turns blue, lies on the panel's middle
    assert [colour_at(picture, 70 + off, 50) for off in (-12.5, -7.5, -2.5, 2.5, 7.5, 12.5)] == [
        "red", "blue", "red", "blue", "red", "blue",
    ]  # fmt: skip
    assert colour_at(picture, 70 + 33, 50) == "none"
    row = picture[round(50 * 150 / 25.4)].astype(int)
    edges = np.flatnonzero(np.diff((row[:, 0] > row[:, 2]).astype(int)[250:580])) + 250
    assert np.diff(edges) == pytest.approx(5 * 150 / 25.4, abs=1.01)


def test_a_pattern_turns_with_its_paper_and_by_quarters_on_it() -> None:
    upright, turned = papered(), turn_pattern(papered(), {"panel-1"})
    assert colour_at(paint(upright, PICTURES, dpi=150), 67.5, 60) == "red"
    for work in (turned, papered(90.0)):
        picture = paint(work, PICTURES, dpi=150)
        assert {colour_at(picture, x, 47.5) for x in (62.0, 66.0, 74.0)} == {"red"}
        assert {colour_at(picture, x, 52.5) for x in (62.0, 66.0, 74.0)} == {"blue"}
    assert turn_pattern(turn_pattern(turn_pattern(turned, {"panel-1"}), {"panel-1"}), {"panel-1"}) == upright


def test_a_pattern_seen_small_keeps_its_mean() -> None:
    tile = decode_tile(stripes(), 10.0)
    small = pattern_tones(base_like(tile), (slice(0, 20), slice(0, 20)), 0.2)
    assert small.mean(axis=(0, 1)) == pytest.approx(tile.tones.mean(axis=(0, 1)), abs=0.03)


def base_like(tile: object) -> object:
    from fair_thicket.ink.patterns import Patterned

    return Patterned(tile, 30.0, 30.0, 12.0)  # type: ignore[arg-type]


def test_ink_over_a_pattern_lets_it_through_and_the_rehearsal_equals_the_scene() -> None:
    work = add_piece(
        papered(),
        Blend("dusk-1", Form("rectangle", 20.0, 20.0), 70.0, 50.0, on="panel-1", colour="#a0c0a0"),
    )
    picture = paint(work, PICTURES, dpi=300)
    seen = picture[round(50 * 300 / 25.4), round(67.5 * 300 / 25.4)]
    wanted = lay_colour("#c82828", "#a0c0a0")
    assert seen == pytest.approx([int(wanted[n : n + 2], 16) for n in (1, 3, 5)], abs=3)
    rehearsal = rehearse(work, PICTURES, plan(work))
    assert rehearsal.differences == ()
    assert np.abs(rehearsal.papers[-1].astype(int) - rehearsal.scene).max() <= 2


def test_the_base_may_be_patterned() -> None:
    work, key = add_patterned(work_of(), "stripes", (10.0, 4.0), PNG)
    work = set_base_paper(work, "#8080a0", key)
    assert base_pattern(work.card, work.stash, PICTURES) is not None
    picture = paint(work, PICTURES, dpi=150)
    middle = work.card.panel[0] / 2
    assert [colour_at(picture, middle + off, 20) for off in (-2.5, 2.5)] == ["red", "blue"]
    assert base_pattern(set_base_paper(work, "#ffffff").card, work.stash, PICTURES) is None


def test_a_card_with_patterns_is_saved_and_opens_equal_and_one_without_its_paper_is_refused() -> None:
    work = papered()
    check_work(work)
    assert decode_card(encode_card(work), "card") == work
    gone = msgspec.structs.replace(work, stash=msgspec.structs.replace(work.stash, stamps=()))
    with pytest.raises(UnsoundError, match="patterned paper"):
        check_work(gone)
    with pytest.raises(UnsoundError, match="patterned paper"):
        check_work(set_card(work_of(), pattern="stripes"))


def test_plain_paper_takes_the_pattern_off_and_only_paper_has_one() -> None:
    work = papered()
    assert set_paper(work, {"panel-1"}, "#5f7d3c").card.find("panel-1").pattern == ""
    stamped = work_of(("toad", 20, 20))
    stamped, key = add_patterned(stamped, "stripes", (10.0, 4.0), PNG)
    with pytest.raises(PaperError, match="Only paper"):
        set_pattern(stamped, {"toad-1"}, key, "#808080")
    with pytest.raises(PaperError, match="no patterned paper"):
        set_pattern(work, {"panel-1"}, "toad", "#808080")
    with pytest.raises(PaperError, match="at most"):
        add_patterned(work, "sky", (4000.0, 10.0), PNG)


def test_a_damaged_picture_is_told_in_a_sentence() -> None:
    with pytest.raises(PictureError, match="patterned paper is damaged"):
        paint(papered(), {PNG: b"no picture"}, dpi=100)


def test_a_patterned_paper_is_as_large_as_what_is_pictured_of_it() -> None:
    work, key = add_patterned(work_of(), "stripes", (10.0, 4.0), PNG)
    paper = work.stash.find(key)
    assert (paper.width_mm, paper.height_mm) == (10.0, 4.0)
    assert paper.outline == ((-5.0, -2.0), (5.0, -2.0), (5.0, 2.0), (-5.0, 2.0))
