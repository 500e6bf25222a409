"""Hands for tests of the desk: waiting for the engines, dragging, finding places on the bench."""

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from fair_thicket.demo import SUPPLIES_FILE
from fair_thicket.desk.parts.form import Form
from fair_thicket.desk.scene.bench import Bench
from fair_thicket.desk.session.session import Session
from fair_thicket.files.supplies_csv import read_supplies

LEFT = Qt.MouseButton.LeftButton
PLAIN = Qt.KeyboardModifier.NoModifier


def settle(qtbot: QtBot, session: Session) -> None:
    """Wait until the engines have spoken about the present card."""
    qtbot.waitUntil(
        lambda: not session.is_thinking and session.outcome is not None and session.outcome.work is session.work,
        timeout=180_000,
    )
    qtbot.wait(10)  # lets the views lay out what they were told


def drag(
    widget: QWidget,
    start: QPoint,
    end: QPoint,
    *,
    steps: int = 4,
    release: bool = True,
    modifier: Qt.KeyboardModifier = PLAIN,
) -> None:
    """Press, move and let go with the left button."""
    QTest.mousePress(widget, LEFT, modifier, start)
    for step in range(1, steps + 1):
        place = start + (end - start) * step / steps
        if modifier == PLAIN:
            QTest.mouseMove(widget, place)
        else:  # QTest's own moves forget what is held
            spot, there = QPointF(place), QPointF(widget.mapToGlobal(place))
            move = QMouseEvent(QEvent.Type.MouseMove, spot, there, Qt.MouseButton.NoButton, LEFT, modifier)
            QApplication.sendEvent(widget, move)
    if release:
        QTest.mouseRelease(widget, LEFT, modifier, end)
    QApplication.processEvents()


def on_bench(bench: Bench, x: float, y: float) -> QPoint:
    """Where a place of the panel (mm) lies on the bench's viewport."""
    return bench.mapFromScene(QPointF(x, y))


def click(button: QWidget) -> None:
    """Click the middle of a button."""
    QTest.mouseClick(button, LEFT)
    QApplication.processEvents()


def button_that_says(parent: QWidget, words: str) -> QPushButton:
    """Find the visible button with these words; StopIteration when there is none."""
    QApplication.processEvents()  # what was put into a layout just now is shown in the next turn
    return next(one for one in parent.findChildren(QPushButton) if one.text() == words and one.isVisible())


def answer_forms(monkeypatch: pytest.MonkeyPatch, **answers: object) -> list[str]:
    """Type answers into the next forms and take them if they can be taken; returns the notes that were shown."""
    notes: list[str] = []

    def answer(form: Form) -> int:
        for key, value in answers.items():
            made = form.inputs[key]
            if isinstance(made, QComboBox):
                made.setCurrentIndex(int(str(value)) if isinstance(value, int) else made.findText(str(value)))
            else:
                made.setText(str(value))
        notes.append(form.note.text() or next((one.text() for one in form.told.values() if one.text()), ""))
        form.accept()
        return form.result()

    monkeypatch.setattr(Form, "exec", answer)
    return notes


def own_markers(session: Session) -> None:
    """Put the demo's markers into the library, where there are none."""
    if session.library is not None and not session.own_markers():
        session.change_library(lambda library: library.keep_supplies(read_supplies(SUPPLIES_FILE)))
