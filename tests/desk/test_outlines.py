"""Outlines are mended on their images, by mouse and by keys, undone, kept, and there when the card is opened again."""

from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.stash import intake as pane_module
from fair_thicket.desk.stash.intake import IntakePane
from fair_thicket.desk.stash.station import INTAKE
from fair_thicket.desk.stations import STASH
from fair_thicket.files.card_file import open_card
from fair_thicket.intake import silhouette
from fair_thicket.intake import sorting as sort
from fair_thicket.intake.shaping import LIKELY, LOOSEST, TIGHTEST
from fair_thicket.model.plan import SheetImage
from fair_thicket.shape.outline import to_area
from hands import LEFT, PLAIN, click, drag
from making import PX_PER_MM

SIDE = 20.0
CORNERS = ((20.0, 20.0), (60.0, 20.0), (100.0, 20.0))
"""Corners of three angles of two strokes each, one to the right and one down."""


@pytest.fixture
def angles(tmp_path: Path) -> Path:
    """A page with three angles, which nobody takes for closed, and a closed box."""
    pixels = np.full((1000, 1600), 250, np.uint8)

    def line(*places: tuple[float, float], closed: bool = False) -> None:
        spots = np.rint(np.array(places) * PX_PER_MM).astype(np.int32)
        cv2.polylines(pixels, [spots], closed, 20, 6, cv2.LINE_AA)

    for left, top in CORNERS:
        line((left + SIDE, top), (left, top), (left, top + SIDE))
    line((20, 55), (40, 55), (40, 75), (20, 75), closed=True)
    path = tmp_path / "angles.png"
    Image.fromarray(pixels).save(path, dpi=(300, 300))
    return path


@pytest.fixture
def intake(window: MainWindow, qtbot: QtBot, angles: Path, monkeypatch: pytest.MonkeyPatch) -> IntakePane:
    """The page opened; whatever will have been learnt, here open lines hold nothing and closed ones all."""
    monkeypatch.setattr(silhouette, "read_closure", closed_only)
    monkeypatch.setattr(pane_module, "run_apart", lambda read, *how, **_: read(*how))
    window.go(STASH)
    window.panes["stash"].show_pane(INTAKE)
    pane = window.panes["stash"].intake
    pane.open_files([angles])
    qtbot.waitUntil(lambda: len(pane.list.rows) == 4, timeout=60_000)
    qtbot.wait(10)
    return pane


def closed_only(ink: np.ndarray) -> np.ndarray:
    return silhouette.fill((ink >= 0.5).astype(np.uint8)).astype(np.float32)


def find(pane: IntakePane, x: float, y: float) -> int:
    images = pane.sorting.images
    return min(range(len(images)), key=lambda k: abs(images[k].cx - x) + abs(images[k].cy - y))


def body(image: SheetImage) -> float:
    return to_area(image.outline, image.pockets).area


def settled(pane: IntakePane, qtbot: QtBot, count: int) -> None:
    qtbot.waitUntil(lambda: pane.steps.index() == count and not pane.worker.is_busy, timeout=60_000)


def spot(pane: IntakePane, x: float, y: float) -> QPoint:
    return pane.page.spot_of((x, y)).toPoint()


def see(pane: IntakePane, index: int) -> None:
    pane.page.choose({index})
    click(pane.outline_button)
    QApplication.processEvents()


def test_two_outlines_are_mended_by_mouse_and_one_by_keys_undone_kept_and_opened_again(
    window: MainWindow, qtbot: QtBot, intake: IntakePane, tmp_path: Path
) -> None:
    first, second, third = (find(intake, x + 10, y + 10) for x, y in CORNERS)
    box = find(intake, 30, 65)
    assert all(body(intake.sorting.images[index]) < 60 for index in (first, second, third))
    see(intake, first)
    (x, y), half = CORNERS[0], SIDE**2 / 2
    drag(intake.page, spot(intake, x + SIDE, y), spot(intake, x, y + SIDE))
    settled(intake, qtbot, 1)
    assert body(intake.sorting.images[first]) == pytest.approx(half, rel=0.1)
    see(intake, box)
    QTest.mouseClick(intake.page, LEFT, PLAIN, spot(intake, 30, 65))
    settled(intake, qtbot, 2)
    assert body(intake.sorting.images[box]) < 60
    assert len(intake.sorting.images[box].pockets) == 1
    assert not intake.sorting.images[box].doubt, "what the maker has said is in no doubt"
    QTest.keyClick(intake.page, Qt.Key.Key_Escape)
    assert intake.page.near is None
    see(intake, third)
    for key, count in ((Qt.Key.Key_Right, 10), (Qt.Key.Key_Up, 10), (Qt.Key.Key_Return, 1), (Qt.Key.Key_Left, 20),
                       (Qt.Key.Key_Down, 20), (Qt.Key.Key_Return, 1)):  # fmt: skip
        for _ in range(count):
            QTest.keyClick(intake.page, key)
    settled(intake, qtbot, 3)
    assert body(intake.sorting.images[third]) == pytest.approx(half, rel=0.1)
    for index, count in ((third, 2), (box, 1)):
        window.actions_of.by_key["undo"].trigger()
        settled(intake, qtbot, count)
        assert (body(intake.sorting.images[index]) < 60) == (index == third)
    for count in (2, 3):
        window.actions_of.by_key["redo"].trigger()
        settled(intake, qtbot, count)
    click(intake.list.keep_button)
    assert window.session.save(tmp_path / "mended.thicket")
    work, _ = open_card(tmp_path / "mended.thicket")
    mended = work.stash.stamps[-4:]
    areas = sorted(to_area(stamp.outline, stamp.pockets).area for stamp in mended)
    assert areas[1] < 60
    assert areas[2:] == pytest.approx([half, half], rel=0.1)
    assert sorted(len(stamp.pockets) for stamp in mended) == [0, 0, 0, 1]


def test_the_slider_speaks_of_one_image_or_of_all_and_a_row_of_moves_is_one_step(
    qtbot: QtBot, intake: IntakePane
) -> None:
    box = find(intake, 30, 65)
    see(intake, box)
    for value in (60, 70, 80):
        intake.outline.slider.setValue(value)
        likely = pytest.approx(LIKELY - (value - 50) / 50 * (LIKELY - LOOSEST), abs=1e-3)
        qtbot.waitUntil(lambda likely=likely: sort.shaping_of(intake.sorting, box).likely == likely, timeout=60_000)
    settled(intake, qtbot, 1)
    others = [index for index in range(4) if index != box]
    assert all(sort.shaping_of(intake.sorting, index).likely == LIKELY for index in others)
    click(intake.outline.scope.buttons[1])
    intake.outline.slider.setValue(20)
    settled(intake, qtbot, 2)
    tight = pytest.approx(LIKELY + 0.6 * (TIGHTEST - LIKELY), abs=1e-3)
    assert all(sort.shaping_of(intake.sorting, index).likely == tight for index in range(4))
    click(intake.outline.forget_button)
    settled(intake, qtbot, 3)
    assert sort.shaping_of(intake.sorting, box) == sort.AS_FOUND
    assert intake.outline.slider.value() == 50


def test_what_changes_nothing_is_told_and_is_no_step(window: MainWindow, qtbot: QtBot, intake: IntakePane) -> None:
    first = find(intake, 30, 30)
    see(intake, first)
    with qtbot.waitSignal(window.session.said, timeout=60_000) as caught:
        QTest.mouseClick(intake.page, LEFT, PLAIN, spot(intake, 39, 39))
    assert "No lines close round that place" in caught.args[0]
    with qtbot.waitSignal(window.session.said, timeout=60_000) as caught:
        drag(intake.page, spot(intake, 33, 38), spot(intake, 38, 38))
    assert "closes nothing" in caught.args[0]
    assert intake.steps.count() == 0
    assert not window.actions_of.by_key["undo"].isEnabled()


def test_next_leads_through_all_images_those_in_doubt_first(qtbot: QtBot, intake: IntakePane) -> None:
    click(intake.outline_button)
    seen = [intake.page.near]
    for _ in range(3):
        QTest.keyClick(intake.page, Qt.Key.Key_N)
        seen.append(intake.page.near)
    assert sorted(seen) == [0, 1, 2, 3]
    doubts = [intake.sorting.images[index].is_doubtful for index in seen]
    assert doubts == sorted(doubts, reverse=True)
    click(intake.outline.next_button)
    assert intake.page.near == seen[0]
    click(intake.outline.done_button)
    assert intake.page.near is None
