"""Looking another way, layouts side by side, life size, the inside page, limits, and advice that is dismissed."""

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import QRect, QSettings
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QInputDialog
from pytestqt.qtbot import QtBot

from fair_thicket.demo import CARD_FILES
from fair_thicket.desk.frame.compare import ROWS, Compare
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.frame.measure_screen import BANK_CARD_MM, MeasureScreen, keep_scale, screen_scale
from fair_thicket.ink.painter import Look
from fair_thicket.ink.painting import paint
from fair_thicket.model.card import carried_by
from fair_thicket.model.pieces import Blend, Form, Impression
from hands import answer_forms, button_that_says, click, on_bench, settle


@pytest.fixture
def framed(window: MainWindow, qtbot: QtBot) -> MainWindow:
    """The demo card that is seen through a fern window."""
    assert window.session.open(CARD_FILES[1])
    settle(qtbot, window.session)
    return window


def act(window: MainWindow, key: str) -> None:
    window.refresh()
    assert window.actions_of.by_key[key].isEnabled(), key
    window.actions_of.by_key[key].trigger()


def test_frames_are_lifted_away_and_laid_back(framed: MainWindow) -> None:
    items = framed.panes["scene"].bench._items
    act(framed, "frames-off")
    assert not items["fern-window-1"].isVisible()
    assert not items["fern-window-1~0"].isVisible()
    assert items["toad-postmaster-1"].isVisible()
    framed.refresh()
    assert framed.actions_of.by_key["frames-off"].isChecked()
    act(framed, "frames-off")
    assert items["fern-window-1"].isVisible()


def test_a_piece_is_lifted_away_with_all_that_lies_on_it(framed: MainWindow) -> None:
    bench = framed.panes["scene"].bench
    framed.session.select({"sky-1"})
    act(framed, "lift-away")
    led = carried_by(framed.session.work.card.pieces, "sky-1")
    assert led
    assert not any(bench._items[key].isVisible() for key in led)
    act(framed, "lift-away")
    assert all(item.isVisible() for item in bench._items.values())


@pytest.mark.parametrize(("key", "field"), [("line-art", "colours"), ("grey", "grey"), ("shadows", "shadows")])
def test_the_card_is_shown_another_way_and_back(framed: MainWindow, key: str, field: str) -> None:
    bench = framed.panes["scene"].bench
    before, seen = getattr(bench.look, field), bench.viewport().grab().toImage()
    act(framed, key)
    assert getattr(bench.look, field) is not before
    changed = bench.viewport().grab().toImage()
    assert changed != seen
    if key == "grey":
        panel = bench.mapFromScene(40.0, 31.0)  # on the moon
        colour = changed.pixelColor(panel)
        assert max(colour.red(), colour.green(), colour.blue()) - min(colour.red(), colour.green(), colour.blue()) <= 2
    act(framed, key)
    assert bench.viewport().grab().toImage() == seen


def test_life_size_is_that_of_the_measured_screen(framed: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    """A bank card is 85.60 by 53.98 mm (ISO/IEC 7810, ID-1)."""
    assert BANK_CARD_MM == (85.60, 53.98)
    monkeypatch.setattr(MeasureScreen, "exec", lambda dialog: dialog.slider.setValue(412) or 1)
    try:
        act(framed, "measure")
        bench = framed.panes["scene"].bench
        assert bench.px_per_mm == pytest.approx(4.12)
        left, right = bench.mapFromScene(0.0, 0.0).x(), bench.mapFromScene(BANK_CARD_MM[0], 0.0).x()
        assert right - left == pytest.approx(BANK_CARD_MM[0] * 4.12, abs=1)
        assert screen_scale(bench) == pytest.approx(4.12)
        act(framed, "life-size")
        assert bench.life_px_per_mm is None
        keep_scale(99.0)  # a setting that cannot be is not believed
        assert screen_scale(bench) < 20
    finally:
        QSettings().remove("screen")


def test_where_no_ink_is_needed_is_hatched(framed: MainWindow) -> None:
    act(framed, "ink-needed")
    path = framed.panes["scene"].bench.over.bare
    assert path is not None
    assert path.contains(framed.panes["scene"].bench.mapToScene(framed.panes["scene"].bench.mapFromScene(69.0, 52.0)))
    assert not path.contains(
        framed.panes["scene"].bench.mapToScene(framed.panes["scene"].bench.mapFromScene(0.5, 52.0))
    )
    act(framed, "ink-needed")
    assert framed.panes["scene"].bench.over.bare is None


def test_layouts_are_kept_compared_ghosted_and_gone_back_to(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = window.session
    assert [one.name for one in session.work.card.tries] == ["moth at the right", "moth at the left"]
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("third", True))
    act(window, "keep-try")
    assert session.work.card.tries[-1].name == "third"
    dialog = Compare(session, window)
    dialog.show()
    dialog.choices[0].setCurrentIndex(1)
    dialog.choices[1].setCurrentIndex(2)
    qtbot.waitUntil(lambda: all(column[0].text() for column in dialog.figures), timeout=60_000)
    qtbot.waitUntil(lambda: dialog.figures[0][4].text() != dialog.figures[1][4].text(), timeout=60_000)
    assert len(ROWS) == len(dialog.figures[0])
    dialog.wanted.connect(window.menu_actions.looking._go_to)
    moth = session.work.card.find("dusk-moth-1").x
    click(
        [
            one
            for one in dialog.findChildren(type(button_that_says(dialog, "Close")))
            if one.text().startswith("Go back")
        ][1]
    )
    assert session.work.card.find("dusk-moth-1").x != moth
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_, **__: ("moth at the right", True))
    act(window, "ghost-try")
    assert window.panes["scene"].bench.over.earlier
    act(window, "drop-try")
    assert not window.panes["scene"].bench.over.earlier
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_, **__: ("third", True))
    act(window, "back-to-try")
    assert session.work.card.find("dusk-moth-1").x == moth


def test_the_inside_page_is_a_card_of_its_own(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    front = session.work.card.pieces
    click(window.panes["scene"].side.buttons[1])
    assert session.work.card.pieces == ()
    toad = next(stamp for stamp in session.work.stash.stamps if stamp.id == "toad-postmaster")
    window.panes["scene"].bench.add_stamp(toad, (60.0, 50.0))
    (piece,) = session.work.card.pieces
    assert piece.id not in {one.id for one in front}
    assert session.whole.card.pieces == front
    assert session.whole.card.inside == (piece,)
    settle(qtbot, session)
    act(window, "turn-page")
    assert session.work.card.pieces == front
    session.undo_stack.undo()
    assert session.is_open  # undo shows the page that it is about
    assert session.whole.card.inside == ()


def test_limits_are_asked_for_and_change_what_is_said(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert any(one.code == "near" for one in window.session.outcome.findings)
    notes = answer_forms(monkeypatch, near_mm="0.1 mm")
    act(window, "limits")
    assert "common practice" in notes[0]
    settle(qtbot, window.session)
    assert not any(one.code == "near" for one in window.session.outcome.findings)
    notes = answer_forms(monkeypatch, contrast="99")
    before = window.session.work
    act(window, "limits")
    assert notes[0] == "The contrast must be at most 21: take another."
    assert window.session.work is before


def test_advice_is_dismissed_listed_and_brought_back(window: MainWindow, qtbot: QtBot) -> None:
    advice, session = window.panes["scene"].advice, window.session
    first = advice.findings[0]
    click(button_that_says(advice.cards[0], "dismiss"))
    settle(qtbot, session)
    assert session.work.card.dismissed[0].code == first.code
    while len(advice.cards) < len(advice.findings):
        click(advice._more)
    last = advice.cards[-1]
    advice._column.ensureWidgetVisible(last)
    assert advice.findings[-1].is_dismissed
    click(button_that_says(last, "bring back"))
    settle(qtbot, session)
    assert session.work.card.dismissed == ()


def test_advice_is_shown_at_a_glance_before_remedies_are_tried(window: MainWindow, qtbot: QtBot) -> None:
    from fair_thicket import edits

    session = window.session
    session.edit("move", lambda work: edits.move_by(work, {"toad-postmaster-1"}, (2.0, -3.0)))
    with qtbot.waitSignal(session.glanceChanged, timeout=60_000):
        pass
    assert session.glance.work is session.work
    assert window.panes["scene"].advice.findings == [one for one in session.glance.findings if one.station == "scene"]
    assert window.panes["scene"].balance.lines[0].startswith("Left ")
    settle(qtbot, session)


@pytest.mark.parametrize("number", [1, 2])
def test_the_bench_shows_what_the_core_paints(window: MainWindow, qtbot: QtBot, number: int) -> None:
    """Two painters of ours, Qt on the bench and the core's own: alike but for the softness of thin lines."""
    session, bench = window.session, window.panes["scene"].bench
    session.open(CARD_FILES[number])
    settle(qtbot, session)
    session.select(())
    bench.show_look(Look())
    left, top = bench.mapFromScene(0.0, 0.0).x(), bench.mapFromScene(0.0, 0.0).y()
    width, height = (round(side * bench.px_per_mm) for side in session.work.card.panel)
    shown = (
        bench.viewport().grab(QRect(left, top, width, height)).toImage().convertToFormat(QImage.Format.Format_RGB888)
    )
    stride = shown.bytesPerLine()
    there = np.frombuffer(shown.constBits(), np.uint8).reshape(shown.height(), stride)[:, : width * 3]
    painted = paint(session.work, session.pictures, dpi=bench.px_per_mm * 25.4)
    rows, columns = min(height, painted.shape[0]) - 4, min(width, painted.shape[1]) - 4
    apart = np.abs(there.reshape(-1, width, 3)[2:rows, 2:columns].astype(int) - painted[2:rows, 2:columns]).max(axis=2)
    assert np.median(apart) <= 2
    assert (apart > 70).mean() < 0.05


def test_another_image_is_taken_instead(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    window.session.select({"letter-1"})
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_, **__: ("parcel", True))
    act(window, "swap")
    assert window.session.work.card.find("letter-1").stamp == "parcel"
    assert "weighs most" in window.panes["scene"].balance.toolTip()


def test_the_bench_shows_ink_over_ink_and_on_kraft_as_the_picture_does(window: MainWindow, qtbot: QtBot) -> None:
    """Yellow over blue, both over kraft, beside each alone: the bench against the painter, away from edges."""
    disc = Form("ellipse", 50.0, 50.0)
    washes = (
        Blend("w-1", disc, 50.0, 54.0, colour="#f2c11f"),
        Blend("w-2", disc, 80.0, 54.0, inks=("#9fb8d9", "#2b4c9b"), way="linear", toward_deg=0.0),
        Impression("letter-1", "letter", 65.0, 54.0),
    )
    card = msgspec.structs.replace(window.session.work.card, pieces=washes, paper="#c3a27b")
    window.session.edit("wash", lambda work: msgspec.structs.replace(work, card=card))
    settle(qtbot, window.session)
    bench = window.panes["scene"].bench
    work = window.session.work
    painted = paint(work, window.session.pictures, dpi=254, look=Look(lines=False))
    bench.show_look(Look(lines=False))
    shown = bench.viewport().grab().toImage()
    for x, y in ((35.0, 54.0), (65.0, 70.0), (95.0, 54.0), (65.0, 54.0), (10.0, 10.0)):
        colour = shown.pixelColor(on_bench(bench, x, y))
        levels = painted[round(y * 10), round(x * 10)].tolist()
        assert [colour.red(), colour.green(), colour.blue()] == pytest.approx(levels, abs=5), (x, y)
