"""White and pale ink on dark grounds is there after the last press; the rehearsal is held against the composed card.

Source of the rule that white, pale and pigment ink and powder cover, while dark ink mixes: common practice.
"""

import msgspec
import numpy as np
import pytest

from fair_thicket import masks
from fair_thicket.ink.inking import Ink
from fair_thicket.ink.overlay import covers
from fair_thicket.ink.painting import paint
from fair_thicket.masks.differences import levels_apart
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Blend, Cutout, Form, Impression, InkZone, Panel, Piece
from fair_thicket.model.stash import Kind, Stamp, Stash
from making import PX_PER_MM, framed_png, square, stamp, work_of

NIGHT, NAVY, KRAFT, WHITE, CREAM = "#1c2440", "#1f2a5c", "#c3a27b", "#ffffff", "#f6efdd"
WORDS = msgspec.structs.replace(stamp("words", 20.0), kind=Kind.GREETING)
WASH = Blend("wash-1", Form("rectangle", 139.7, 107.95), 69.85, 53.975, colour=NIGHT)


def card_of(*pieces: Piece, paper: str = WHITE) -> Work:
    plain = work_of(stamps=(WORDS, stamp("toad", 16.0)))
    return msgspec.structs.replace(plain, card=msgspec.structs.replace(plain.card, pieces=pieces, paper=paper))


CARDS = {
    "white on a night wash": card_of(WASH, Impression("words-1", "words", 60, 40, ink=WHITE)),
    "white on a black base": card_of(Impression("words-1", "words", 60, 40, ink=WHITE), paper="#101010"),
    "white on a navy panel": card_of(
        Panel("panel-1", Form("rectangle", 90, 60), 60, 50, colour=NAVY),
        Impression("words-1", "words", 60, 40, on="panel-1", ink=WHITE),
    ),
    "cream on kraft": card_of(Impression("words-1", "words", 60, 40, ink=CREAM), paper=KRAFT),
}


@pytest.mark.parametrize("work", CARDS.values(), ids=list(CARDS))
def test_pale_words_are_on_the_rehearsed_card_as_on_the_composed_one(work: Work) -> None:
    pictures = {"images/words.png": framed_png(20, 20, 1.0), "images/toad.png": framed_png(16, 16)}
    rehearsal = masks.rehearse(work, pictures, masks.plan(work))
    assert rehearsal.differences == ()
    pressed = rehearsal.papers[-1]
    words = next(piece for piece in work.card.pieces if isinstance(piece, Impression))
    line = (round(40 * PX_PER_MM), round((60 - 9.6) * PX_PER_MM))  # on the left bar of the frame
    beside = (line[0], round((60 - 5) * PX_PER_MM))
    ink = np.array([int((words.ink or "")[at : at + 2], 16) for at in (1, 3, 5)])
    assert np.abs(pressed[line].astype(int) - ink).max() <= 2
    assert np.abs(pressed[beside].astype(int) - ink).max() > 24
    assert levels_apart(pressed, paint(work, pictures)).max() <= 2


@pytest.mark.parametrize("work", CARDS.values(), ids=list(CARDS))
def test_words_that_mix_instead_of_covering_would_be_told_as_lost(work: Work, monkeypatch: pytest.MonkeyPatch) -> None:
    pictures = {"images/words.png": framed_png(20, 20, 1.0), "images/toad.png": framed_png(16, 16)}
    mixing = Ink._covering

    def forget(ink: Ink, here: np.ndarray) -> None:
        return None if ink.piece == "words-1" else mixing(ink, here)

    monkeypatch.setattr(Ink, "_covering", forget)
    rehearsal = masks.rehearse(work, pictures, masks.plan(work))
    assert {one.kind for one in rehearsal.differences} == {"unlike"}


def test_mats_and_coloured_cutouts_are_in_the_last_picture() -> None:
    pieces = (
        Panel("panel-1", Form("rectangle", 100, 80), 70, 54, colour=KRAFT),
        Impression("words-1", "words", 60, 40, on="panel-1"),
        Cutout("toad-1", "toad", 95, 60, colour="#4b8050"),
    )
    pictures = {"images/words.png": framed_png(20, 20, 1.0), "images/toad.png": framed_png(16, 16)}
    work = card_of(*pieces, paper=NAVY)
    rehearsal = masks.rehearse(work, pictures, masks.plan(work))
    assert rehearsal.is_finished
    assert rehearsal.differences == ()
    last = rehearsal.papers[-1]

    def level(x: float, y: float) -> tuple[int, ...]:
        return tuple(last[round(y * PX_PER_MM), round(x * PX_PER_MM)].tolist())

    assert level(5, 5) == (0x1F, 0x2A, 0x5C)
    assert level(30, 70) == (0xC3, 0xA2, 0x7B)
    assert level(95, 60) == (0x4B, 0x80, 0x50)


def test_a_zone_in_white_covers_and_the_rest_of_its_stamp_mixes() -> None:
    zone = InkZone(((0.0, -12.0), (12.0, -12.0), (12.0, 12.0), (0.0, 12.0)), WHITE)
    work = card_of(WASH, Impression("words-1", "words", 60, 40, ink="#801020", zones=(zone,)))
    pictures = {"images/words.png": framed_png(20, 20, 1.0), "images/toad.png": framed_png(16, 16)}
    rehearsal = masks.rehearse(work, pictures, masks.plan(work))
    assert rehearsal.differences == ()
    assert covers(WHITE)
    assert not covers("#801020")
    last = rehearsal.papers[-1]
    right = last[round(40 * PX_PER_MM), round((60 + 9.6) * PX_PER_MM)]
    left = last[round(40 * PX_PER_MM), round((60 - 9.6) * PX_PER_MM)]
    assert right.min() >= 253
    assert left.max() < 0x40


def test_an_overlap_that_a_disc_will_hide_needs_no_mask_and_is_told_as_accepted() -> None:
    toads = (Impression("toad-1", "toad", 64, 54), Impression("toad-2", "toad", 74, 54))
    hatched = Stamp("toad", "toad", 16.0, 16.0, square(16.0), "images/toad.png")
    disc = Stamp("disc", "disc", 20, 20, square(20.0), "images/disc.png", kind=Kind.DIE)
    pictures = {"images/toad.png": framed_png(16, 16, hatch_mm=2.0), "images/disc.png": framed_png(20, 20)}

    def plan_with(*more: Piece) -> tuple[Work, object]:
        plain = work_of(stamps=(hatched, disc))
        work = Work(msgspec.structs.replace(plain.card, pieces=(*toads, *more)), Stash((hatched, disc)))
        return work, masks.plan(work)

    _, bare = plan_with()
    assert len(bare.masks) == 1
    work, hidden = plan_with(Cutout("disc-1", "disc", 69, 54, colour="#eec25a"))
    assert hidden.masks == ()
    assert hidden.careful_mm == 0
    rehearsal = masks.rehearse(work, pictures, hidden)
    assert rehearsal.differences == ()
    assert rehearsal.accepted_mm2 > 1
    codes = {one.code for one in masks.judge(work, hidden, rehearsal)}
    assert {"accepted", "proven"} <= codes
    _, beside = plan_with(Cutout("disc-1", "disc", 100, 54, colour="#eec25a"))
    assert len(beside.masks) == 1
