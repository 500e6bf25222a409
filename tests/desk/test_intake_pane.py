"""Pages and photos brought in and sorted with the mouse; files that never end."""

import os
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.stash.station import INTAKE, SUPPLIES
from fair_thicket.desk.stations import SCENE, STASH
from fair_thicket.files.outline_svg import outline_svg
from fair_thicket.library.store import Library
from fair_thicket.model.errors import LibraryError
from fair_thicket.model.stash import Kind
from fair_thicket.simulators.camera import Camera, take_photo
from hands import LEFT, PLAIN, click, drag
from making import PX_PER_MM, square

SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def page(tmp_path: Path) -> Path:
    """A page with two rings that touch, a ring apart, and two dots 9 mm apart."""
    pixels = np.full((1500, 1500), 250, np.uint8)
    for x, y, radius in ((30, 30, 10), (47.4, 30, 7), (90, 40, 12)):
        at = (round(x * PX_PER_MM), round(y * PX_PER_MM))
        cv2.circle(pixels, at, round(radius * PX_PER_MM), 20, 8, cv2.LINE_AA)
    for x in (40, 55):
        cv2.circle(pixels, (round(x * PX_PER_MM), round(90 * PX_PER_MM)), round(3 * PX_PER_MM), 20, -1, cv2.LINE_AA)
    path = tmp_path / "page.png"
    Image.fromarray(pixels).save(path, dpi=(300, 300))
    return path


def open_page(window: MainWindow, qtbot: QtBot, path: Path, count: int) -> None:
    window.go(STASH)
    window.panes["stash"].show_pane(INTAKE)
    window.panes["stash"].intake.open_files([path])
    qtbot.waitUntil(lambda: len(window.panes["stash"].intake.list.rows) == count, timeout=60_000)
    qtbot.wait(10)


def index_at(window: MainWindow, x: float, y: float) -> int:
    images = window.panes["stash"].intake.sorting.images
    return min(range(len(images)), key=lambda k: abs(images[k].cx - x) + abs(images[k].cy - y))


def press(window: MainWindow, x: float, y: float, modifier: Qt.KeyboardModifier = PLAIN) -> None:
    view = window.panes["stash"].intake.page
    QTest.mouseClick(view, LEFT, modifier, view.place_of(index_at(window, x, y)).toPoint())


def test_a_page_is_sorted_with_the_mouse(window: MainWindow, qtbot: QtBot, page: Path) -> None:
    open_page(window, qtbot, page, 4)
    intake = window.panes["stash"].intake
    assert not intake.merge_button.isEnabled()
    press(window, 40, 90)
    press(window, 55, 90, SHIFT)
    click(intake.merge_button)
    assert len(intake.list.rows) == 3
    press(window, 37, 30)
    assert "in" in intake.list.rows[index_at(window, 37, 30)].size_words.text()
    click(intake.split_button)
    assert len(intake.list.rows) == 4
    press(window, 90, 40)
    click(intake.cut_button)
    view, middle = intake.page, intake.page.place_of(index_at(window, 90, 40)).toPoint()
    drag(view, middle - QPoint(0, 90), middle + QPoint(0, 90))
    assert len(intake.list.rows) == 5
    press(window, 47, 90)
    click(intake.drop_button)
    assert len(intake.list.rows) == 4
    before = len(window.session.work.stash.stamps)
    click(intake.list.keep_button)
    assert len(window.session.work.stash.stamps) == before + 4
    assert window.session.library.count() == 4


def test_what_the_library_refuses_is_told_and_stays_in_the_drawer(
    window: MainWindow, qtbot: QtBot, page: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refuse(*_: object) -> None:
        raise LibraryError("library.sqlite", "another program is writing to it")

    open_page(window, qtbot, page, 4)
    before = len(window.session.work.stash.stamps)
    monkeypatch.setattr(Library, "keep", refuse)
    click(window.panes["stash"].intake.list.keep_button)
    assert len(window.session.work.stash.stamps) == before + 4
    assert "another program is writing to it" in window._message.text()


def test_the_distance_slider_groups_at_once(window: MainWindow, qtbot: QtBot, page: Path) -> None:
    open_page(window, qtbot, page, 4)
    window.panes["stash"].intake.gap.setValue(100)
    qtbot.waitUntil(lambda: len(window.panes["stash"].intake.list.rows) == 3, timeout=60_000)
    window.panes["stash"].intake.gap.setValue(20)
    qtbot.waitUntil(lambda: len(window.panes["stash"].intake.list.rows) == 4, timeout=60_000)


def test_names_typed_survive_sorting(window: MainWindow, qtbot: QtBot, page: Path) -> None:
    open_page(window, qtbot, page, 4)
    intake = window.panes["stash"].intake
    press(window, 90, 40)  # a click on the page, and what is typed is the name
    QTest.keyClicks(QApplication.focusWidget(), "moon")
    press(window, 37, 30)
    click(intake.split_button)
    assert intake.list.rows[index_at(window, 90, 40)].name.text() == "moon"
    click(intake.list.keep_button)
    assert "moon" in [one.name for one in window.session.work.stash.stamps]


def test_files_dropped_on_the_window_wait_for_each_other(
    window: MainWindow, qtbot: QtBot, page: Path, tmp_path: Path
) -> None:
    cut = tmp_path / "a cut.svg"
    cut.write_bytes(outline_svg("die", (square(20),)))
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(cut)), QUrl.fromLocalFile(str(page))])
    window.go(SCENE)
    event = QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, mime, LEFT, PLAIN)
    window.dropEvent(event)
    intake = window.panes["stash"].intake
    qtbot.waitUntil(lambda: len(intake.list.rows) == 1, timeout=60_000)
    assert "1 more waiting" in intake.list._facts.text()
    assert not intake.gap.isEnabled()
    click(intake.list.keep_button)
    qtbot.waitUntil(lambda: len(intake.list.rows) == 4, timeout=60_000)
    die = window.session.work.stash.stamps[-1]
    assert (die.kind, die.may_flip, die.width_mm) == (Kind.DIE, True, pytest.approx(20, abs=0.01))
    window.menu_actions.open_dropped([tmp_path / "nothing here.png"])
    qtbot.waitUntil(lambda: window._message.isVisible() and "is not there" in window._message.text(), timeout=60_000)


def test_a_photo_is_made_flat_and_a_length_may_be_marked(
    window: MainWindow, qtbot: QtBot, page: Path, tmp_path: Path
) -> None:
    with Image.open(page) as opened:
        pixels = np.asarray(opened)
    letter = np.full((3300, 2550), 250, np.uint8)
    letter[300:1800, 300:1800] = pixels
    path = tmp_path / "photo.jpg"
    Image.fromarray(take_photo(letter, (215.9, 279.4), Camera(tilt_deg=18))).save(path, quality=92)
    intake = window.panes["stash"].intake
    intake.way.setCurrentIndex(6)
    open_page(window, qtbot, path, 4)
    assert "made flat by the sheet" in intake.list._facts.text()
    assert intake.sorting.images[index_at(window, 115, 65)].width_mm == pytest.approx(24.6, rel=0.015)
    intake.way.setCurrentIndex(9)
    qtbot.waitUntil(lambda: intake.sorting is not None and not intake.sorting.images, timeout=60_000)
    qtbot.wait(10)
    assert intake.length.isVisible()
    QTest.keyClicks(intake.length, "100 mm")
    view = intake.page
    drag(view, QPoint(view.width() // 2 - 60, 200), QPoint(view.width() // 2 + 60, 200))
    qtbot.waitUntil(lambda: bool(intake.sorting.images), timeout=60_000)
    assert "true to about 5%" in intake.list._facts.text()


def test_a_file_that_never_ends_is_stopped_and_keeps_neither_the_desk_nor_the_next_file_waiting(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A pipe that nobody writes to stands for whatever a library can be kept busy with."""
    window.go(STASH)
    window.panes["stash"].show_pane(SUPPLIES)
    pane = window.panes["stash"].supplies
    endless, whole = tmp_path / "endless.csv", tmp_path / "list.csv"
    os.mkfifo(endless)
    whole.write_text("what,name,colour\nink,pond,#335577\n", encoding="utf-8")
    for path in (endless, whole):
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, path=path: (str(path), ""))
        pane.choose_csv()
        if path is endless:
            assert pane.stop.isVisible()
            click(pane.stop)
            qtbot.waitUntil(lambda: not pane.worker.is_busy, timeout=10_000)  # half of what a table may take
    library = window.session.library
    qtbot.waitUntil(lambda: len(library.list_supplies("ink")) == 1, timeout=10_000)  # half of what a table may take
    qtbot.waitUntil(lambda: not pane.stop.isVisible(), timeout=60_000)


def test_a_drawing_that_never_ends_is_stopped_and_the_next_page_is_read(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, page: Path
) -> None:
    endless = tmp_path / "endless.svg"
    os.mkfifo(endless)
    intake = window.panes["stash"].intake
    window.go(STASH)
    window.panes["stash"].show_pane(INTAKE)
    intake.open_files([endless])
    qtbot.waitUntil(intake.opening.stop_button.isVisible, timeout=60_000)
    click(intake.opening.stop_button)
    intake.open_files([page])
    qtbot.waitUntil(lambda: intake.sorting is not None, timeout=15_000)  # less than a drawing may take
    assert intake.sorting.name == page.name
