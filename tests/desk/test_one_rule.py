"""One rule of ink for every picture: bench, composed picture and rehearsal show the same colour at the same place."""

import msgspec
import numpy as np
import pytest
import shapely
from pytestqt.qtbot import QtBot

from fair_thicket import masks
from fair_thicket.desk.parts.ground_art import grounds_of
from fair_thicket.desk.parts.leaf_art import LeafArt
from fair_thicket.desk.parts.pictures import StampPictures
from fair_thicket.ink.painter import PLAIN
from fair_thicket.ink.painting import paint
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Blend, Cutout, Form, Impression, Splatter, Strip, Wash
from fair_thicket.model.stash import Stash
from making import framed_png, stamp

PX_PER_MM = 10.0
AT = (60.0, 50.0)
LINE = (AT[0] - 8.0, AT[1])
"""In the middle of the left side of the frame, which is 4 mm wide."""
FLAT = (AT[0] + 1.0, AT[1] + 1.0)
STASH = Stash((stamp("frame", 20.0),))
PICTURES = {"images/frame.png": framed_png(20.0, 20.0, 4.0)}
SKY = Blend("sky-1", Form("rectangle", 120.0, 90.0), 69.85, 52.0)


def on_bench(work: Work, key: str, at: tuple[float, float]) -> np.ndarray:
    """Colour of a leaf's art at a place of the panel."""
    leaves = stack(work)
    leaf = next(one for one in leaves if one.key == key)
    art = LeafArt(StampPictures(dict(PICTURES))).get(
        leaf, work, grounds_of(work, leaves, {})[leaf.piece.on], PLAIN, PX_PER_MM
    )
    x, y = ((at[0] - leaf.piece.x - art.box.left()) * PX_PER_MM, (at[1] - leaf.piece.y - art.box.top()) * PX_PER_MM)
    shown = art.picture.toImage().pixelColor(round(x), round(y))
    return np.array([shown.red(), shown.green(), shown.blue()], int)


def composed(work: Work, at: tuple[float, float]) -> np.ndarray:
    picture = paint(work, PICTURES, dpi=PX_PER_MM * 25.4)
    return picture[round(at[1] * PX_PER_MM), round(at[0] * PX_PER_MM)].astype(int)


def rehearsed(work: Work, at: tuple[float, float]) -> np.ndarray:
    picture = masks.rehearse(work, PICTURES, masks.plan(work)).papers[-1]
    scale = picture.shape[1] / work.card.panel[0]
    return picture[round(at[1] * scale), round(at[0] * scale)].astype(int)


@pytest.mark.parametrize("ink", [None, "#2d4f9e", "#b0203a", "#f4f1e4", "#eec25a"])
@pytest.mark.parametrize("paper", ["#ffffff", "#f3e3a0", "#2d3558", "#c8a578"])
@pytest.mark.parametrize("colour", [None, "#8aa465"])
def test_ink_on_paper_looks_alike_everywhere(qtbot: QtBot, ink: str | None, paper: str, colour: str | None) -> None:
    del qtbot
    piece = Impression("frame-1", "frame", *AT, ink=ink, colour=colour)
    work = Work(Card(pieces=(piece,), paper=paper), STASH)
    for at in (LINE, FLAT):
        assert np.abs(on_bench(work, "frame-1", at) - composed(work, at)).max() <= 2
        if colour is None and paper == "#c8a578":  # what is coloured afterwards tints what was printed first
            assert np.abs(rehearsed(work, at) - composed(work, at)).max() <= 2


@pytest.mark.parametrize("ink", [None, "#2d4f9e", "#f4f1e4"])
@pytest.mark.parametrize("wash", ["#2d3558", "#eec25a"])
def test_ink_on_a_wash_looks_alike_everywhere(qtbot: QtBot, ink: str | None, wash: str) -> None:
    del qtbot
    sky = msgspec.structs.replace(SKY, colour=wash)
    work = Work(Card(pieces=(sky, Impression("frame-1", "frame", *AT, ink=ink))), STASH)
    for at in (LINE, FLAT):
        assert np.abs(rehearsed(work, at) - composed(work, at)).max() <= 2
        assert np.abs(on_bench(work, "frame-1", at) - composed(work, at)).max() <= 2


@pytest.mark.parametrize("over", [SKY, Splatter("over-1", SKY.form, 69.85, 52.0, drops=400, seed=3)])
def test_washes_over_one_another_look_alike_everywhere(qtbot: QtBot, over: Wash) -> None:
    del qtbot
    below = msgspec.structs.replace(SKY, colour="#eec25a")
    above = msgspec.structs.replace(over, id="over-1", colour="#5f8fa3")
    work = Work(Card(pieces=(below, above), paper="#f6efe0"), Stash())
    area = next(leaf.area for leaf in stack(work) if leaf.key == "over-1")
    (at,) = max(shapely.get_parts(area), key=lambda part: part.area).centroid.coords  # the largest drop
    assert np.abs(on_bench(work, "over-1", at) - composed(work, at)).max() <= 2
    assert np.abs(rehearsed(work, at) - composed(work, at)).max() <= 2


@pytest.mark.parametrize("ink", [None, "#2d4f9e", "#f4f1e4"])
def test_lines_of_what_is_cut_out_look_alike_everywhere(qtbot: QtBot, ink: str | None) -> None:
    del qtbot
    work = Work(Card(pieces=(Cutout("frame-1", "frame", *AT, margin_mm=0.0, colour="#8aa465", ink=ink),)), STASH)
    for at in (LINE, FLAT):
        assert np.abs(on_bench(work, "frame-1", at) - composed(work, at)).max() <= 2


def test_white_words_on_a_night_wash_are_rehearsed_and_missed_when_they_are_not_pressed() -> None:
    night = msgspec.structs.replace(SKY, colour="#2d3558")
    words = Impression("frame-1", "frame", *AT, ink="#ffffff")
    work = Work(Card(pieces=(night, words)), STASH)
    assert rehearsed(work, LINE).min() > 240
    plan = masks.plan(work)
    assert not masks.rehearse(work, PICTURES, plan).differences
    presses = tuple(press for press in plan.presses if "frame-1" not in press.impressions)
    told = masks.rehearse(work, PICTURES, msgspec.structs.replace(plan, presses=presses))
    assert told.papers[-1][round(LINE[1] * 300 / 25.4), round(LINE[0] * 300 / 25.4)].max() < 100
    assert "frame-1" in {one.front for one in told.differences}


def test_words_are_told_from_their_strip(qtbot: QtBot) -> None:
    del qtbot
    strip = Strip("strip-1", 60.0, 20.0, *AT, words="I", words_mm=15.0, colour="#2d3558", ink="#fffdf8")
    work = Work(Card(pieces=(strip,)), Stash())
    assert np.abs(on_bench(work, "strip-1", AT) - composed(work, AT)).max() <= 2
    assert composed(work, AT).min() > 240
