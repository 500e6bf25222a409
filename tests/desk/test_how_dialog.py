"""What a wash is, in its dialog: only what belongs to the way is asked, and it is shown as it comes out."""

from typing import get_args

import msgspec
import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from fair_thicket.demo import CARD_FILES
from fair_thicket.desk.ink.wash_how import WashHow
from fair_thicket.files.card_file import open_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import (
    AnyWash,
    Blend,
    Form,
    Impression,
    Paste,
    Splatter,
    Stencilled,
    Texture,
    Wash,
    Water,
)
from fair_thicket.model.stash import Stash
from hands import button_that_says, click

SKY = Blend("sky-1", Form("rectangle", 139.7, 80.0), 69.85, 40.0, colour="#5f8fa3")
OTHER = Splatter("other-1", Form("rectangle", 139.7, 80.0), 69.85, 40.0, colour="#8aa465")


def shown(qtbot: QtBot, work: Work, piece: Wash, kind: type[Wash] | None = None) -> WashHow:
    made = WashHow(work, piece, kind=kind)
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    qtbot.waitUntil(lambda: not made.worker.is_busy, timeout=60_000)
    return made


@pytest.fixture
def work() -> Work:
    """A sky, another wash on it, and the demo's greeting stamped there."""
    demo, _ = open_card(CARD_FILES[0])
    greeting = Impression("greeting-post-1", "greeting-post", 60.0, 30.0)
    return Work(Card(pieces=(SKY, OTHER, greeting)), demo.stash)


@pytest.fixture
def dialog(qtbot: QtBot, work: Work) -> WashHow:
    return shown(qtbot, work, OTHER)


def choose(qtbot: QtBot, dialog: WashHow, kind: type[Wash]) -> None:
    dialog.how.setCurrentIndex(get_args(AnyWash).index(kind))
    qtbot.waitUntil(lambda: not dialog.worker.is_busy, timeout=60_000)


@pytest.mark.parametrize(
    ("kind", "asked"),
    [
        (Blend, set()),
        (Stencilled, {"stencil"}),
        (Paste, {"stencil"}),
        (Splatter, {"drops", "scatter"}),
        (Water, {"drops", "scatter"}),
        (Texture, {"mark", "wide", "pitch", "scatter"}),
    ],
)
def test_only_what_belongs_to_the_way_is_asked(
    qtbot: QtBot, dialog: WashHow, kind: type[Wash], asked: set[str]
) -> None:
    choose(qtbot, dialog, kind)
    names = {"stencil", "drops", "scatter", "mark", "wide", "pitch"}
    assert {name for name in names if getattr(dialog, name).isVisible()} == asked
    assert type(dialog.piece) is kind


def test_splatter_falls_elsewhere_and_more_of_it_and_what_lies_open_is_told(qtbot: QtBot, dialog: WashHow) -> None:
    assert "lie open to its drops" in dialog.told.text()
    before = dialog.piece
    click(dialog.scatter)
    qtbot.waitUntil(lambda: dialog.piece.seed != before.seed, timeout=60_000)
    click(dialog.drops.more)
    qtbot.waitUntil(lambda: dialog.piece.drops == before.drops + 10, timeout=60_000)


def picture(dialog: WashHow) -> np.ndarray:
    image = dialog.view.grab().toImage()
    x, y = image.width() // 2, image.height() // 2
    return np.array([image.pixelColor(x + i, y - j).lightness() for i in range(80) for j in range(80)])


def test_water_is_seen_by_what_it_lifts_of_the_sky(qtbot: QtBot, dialog: WashHow) -> None:
    choose(qtbot, dialog, Blend)
    dialog.view.show_piece(dialog.piece)
    choose(qtbot, dialog, Water)
    for _ in range(10):
        click(dialog.drops.more)
    qtbot.waitUntil(lambda: dialog.piece.drops == OTHER.drops + 100, timeout=60_000)
    levels = picture(dialog)
    assert levels.max() > np.median(levels) + 30  # drops are lighter than the sky about them


def test_marks_are_counted_and_bad_ones_cannot_be_taken(qtbot: QtBot, work: Work) -> None:
    dialog = shown(qtbot, work, OTHER, Texture)
    assert f"{len(dialog.piece.spots)} marks find free ground." in dialog.told.text()
    assert len(dialog.piece.spots) > 100
    dialog.pitch.setText("0.1 mm")
    dialog.pitch.editingFinished.emit()
    assert "0.5 to 100 mm apart" in dialog.told.text()
    assert not button_that_says(dialog, "Take this").isEnabled()
    dialog.pitch.setText("1/4")
    dialog.pitch.editingFinished.emit()
    qtbot.waitUntil(lambda: abs(dialog.piece.pitch_mm - 6.35) < 1e-6, timeout=60_000)
    assert button_that_says(dialog, "Take this").isEnabled()


def test_paste_begins_white_and_keeps_the_stencils_lays_only_of_the_same_stencil(qtbot: QtBot) -> None:
    cloudy, _ = open_card(CARD_FILES[4])
    sky = cloudy.card.find("sky-1")
    assert isinstance(sky, Stencilled)
    dialog = shown(qtbot, cloudy, sky)
    assert dialog.piece.lays == sky.lays
    choose(qtbot, dialog, Paste)
    assert (dialog.piece.colour, dialog.piece.lays) == ("#ffffff", sky.lays)
    dialog.stencil.setCurrentIndex(dialog.stencil.findText("mist stencil"))
    qtbot.waitUntil(lambda: dialog.piece.stencil == "mist", timeout=60_000)
    assert dialog.piece.lays == ()


def test_without_a_stencil_it_is_said_what_to_do(qtbot: QtBot) -> None:
    bare = Work(Card(pieces=(SKY,)), Stash())
    dialog = shown(qtbot, bare, msgspec.structs.replace(SKY))
    dialog.how.setCurrentIndex(get_args(AnyWash).index(Stencilled))
    assert "bring one in first" in dialog.told.text()
    assert not button_that_says(dialog, "Take this").isEnabled()
