"""With the mouse alone: from a scan to a printed plan."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.stations import MASKS, PAPER, REHEARSAL, SCENE, STASH
from fair_thicket.files.card_file import open_card
from hands import LEFT, PLAIN, button_that_says, click, drag, on_bench, settle


def stamp_by_drag(window: MainWindow, name: str, at: tuple[float, float]) -> None:
    """Drag an image from the drawer to a place of the panel."""
    card = next(card for card in window.panes["scene"].drawer.cards if card.stamp.name == name)
    window.panes["scene"].drawer._column.ensureWidgetVisible(card)
    QApplication.processEvents()
    target = card.mapFromGlobal(
        window.panes["scene"].bench.viewport().mapToGlobal(on_bench(window.panes["scene"].bench, *at))
    )
    drag(card, QPoint(30, card.height() // 2), target)


def drag_bar(window: MainWindow, key: str, by_rows: float) -> None:
    """Drag a piece's bar in the thicket up (above 0) or down by rows."""
    thicket = window.panes["scene"].thicket
    bar = next(bar for bar in thicket.layout_rows.bars if bar.key == key)
    start = thicket.bar_box(bar).center().toPoint()
    drag(thicket, start, start - QPoint(0, round(by_rows * thicket._row_px())))


def test_from_a_scan_to_a_printed_plan_with_the_mouse_alone(
    make_window: Callable[..., MainWindow], qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = make_window()
    session = window.session
    QTest.mouseClick(window.path.marks[STASH], LEFT)
    click(button_that_says(window.panes["stash"], "Demo sheet"))
    qtbot.waitUntil(lambda: len(window.panes["stash"].intake.list.rows) == 14, timeout=60_000)
    assert not session.work.stash.stamps  # nothing enters the stash before it is asked for
    click(window.panes["stash"].intake.list.keep_button)
    assert len(session.work.stash.stamps) == 14

    QTest.mouseClick(window.path.marks[SCENE], LEFT)
    names = [stamp.name for stamp in session.work.stash.stamps]
    for name, at in zip(names[:3], ((60, 60), (75, 65), (88, 68)), strict=True):
        stamp_by_drag(window, name, at)
    first, second, third = (piece.id for piece in session.work.card.pieces)
    settle(qtbot, session)
    before = session.outcome.plan
    assert [press.impressions for press in before.presses] == [(third,), (second,), (first,)]

    drag_bar(window, first, 2.6)
    settle(qtbot, session)
    after = session.outcome.plan
    order = [piece.id for piece in session.work.card.pieces]
    assert order.index(first) > order.index(second)
    assert first in after.presses[0].impressions
    assert first in window.panes["masks"].timetable._rows[: len(after.presses[0].impressions)]

    QTest.mouseClick(window.path.marks[MASKS], LEFT)
    assert window.panes["masks"].timetable.isVisible()
    click(window.path.marks[REHEARSAL])
    click(window.panes["rehearsal"].play_button)
    assert window.panes["rehearsal"].slider.value() == 0
    window.panes["rehearsal"]._clock.setInterval(5)
    qtbot.waitUntil(
        lambda: window.panes["rehearsal"].slider.value() == window.panes["rehearsal"].slider.maximum(), timeout=60_000
    )
    assert session.outcome.rehearsal.differences == ()

    card, pdf = tmp_path / "mine.thicket", tmp_path / "mine.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(card), ""))
    menu = next(made for made in window.findChildren(type(window._unit)) if made.text() == "Card").menu()
    save = window.actions_of.by_key["save"]
    assert save in menu.actions()
    save.trigger()
    assert open_card(card)[0] == session.work

    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(pdf), ""))
    QTest.mouseClick(window.path.marks[PAPER], LEFT, PLAIN)
    qtbot.waitUntil(window.panes["paper"].save_button.isEnabled, timeout=60_000)
    assert len(window.panes["paper"].pages) >= 3
    click(window.panes["paper"].save_button)
    assert pdf.read_bytes().startswith(b"%PDF")


def test_a_scan_that_is_no_picture_is_told_and_changes_nothing(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    before = window.session.work
    path = tmp_path / "notes.png"
    path.write_text("not a picture")
    with qtbot.waitSignal(window.session.said, timeout=60_000) as caught:
        window.panes["stash"].intake.open_files([path])
    assert "is not a picture" in caught.args[0]
    assert window.session.work is before


def test_a_name_given_and_an_image_dropped_count_when_images_are_kept(
    make_window: Callable[..., MainWindow], qtbot: QtBot
) -> None:
    window = make_window()
    window.go(STASH)
    window.panes["stash"].intake.scan_demo()
    qtbot.waitUntil(lambda: len(window.panes["stash"].intake.list.rows) == 14, timeout=60_000)
    window.panes["stash"].intake.list.rows[0].name.setFocus()
    window.panes["stash"].intake.list.rows[0].name.selectAll()
    QTest.keyClicks(window.panes["stash"].intake.list.rows[0].name, "old toad")
    window.panes["stash"].intake.page.choose({1})
    click(window.panes["stash"].intake.drop_button)
    click(window.panes["stash"].intake.list.keep_button)
    stamps = window.session.work.stash.stamps
    assert len(stamps) == 13
    assert stamps[0].name == "old toad"
    window.session.undo_stack.undo()
    assert not window.session.work.stash.stamps
