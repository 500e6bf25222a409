"""Outlines along lines are offered to be renewed: on the card by themselves, in the library when asked."""

import msgspec
import pytest
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.stash.renew_dialog import RenewDialog
from fair_thicket.desk.stash.station import AT_HAND, LIBRARY
from fair_thicket.desk.stations import STASH
from fair_thicket.intake.renewing import held_area
from hands import button_that_says, click
from making import framed_png, open_ring_png, stamp, wire_stamp

WAIT_MS = 60_000


def answer(*, leave: tuple[int, ...] = (), taken: bool = True) -> None:
    """Answer the dialog that opens next: some ticks taken away, then taken or not."""

    def do() -> None:
        dialog = QApplication.activeModalWidget()
        if not isinstance(dialog, RenewDialog):
            QTimer.singleShot(20, do)
            return
        for index in leave:
            dialog.ticks[index].click()
        words = "Renew" if taken else "Not now"
        next(made for made in dialog.findChildren(QPushButton) if made.text().startswith(words)).click()

    QTimer.singleShot(0, do)


def areas(window: MainWindow) -> list[float]:
    return [held_area(window.session.work.stash.find(key)) for key in ("pear", "plum", "lamp")]


@pytest.fixture
def wired(window: MainWindow) -> MainWindow:
    """A window whose card draws on two stamps with outlines along their lines, and on one without."""
    for one, picture in (
        (wire_stamp("pear"), open_ring_png()),
        (wire_stamp("plum", 24.0), open_ring_png(24.0)),
        (stamp("lamp"), framed_png(10, 10)),
    ):
        window.session.adopt(one, {one.picture: picture})
    window.go(STASH)
    window.panes["stash"].show_pane(AT_HAND)
    return window


def test_the_cards_outlines_are_renewed_as_one_step(wired: MainWindow, qtbot: QtBot) -> None:
    row, before = wired.panes["stash"].at_hand.renewals, areas(wired)
    qtbot.waitUntil(lambda: len(row.renewals) == 2, timeout=WAIT_MS)
    assert row.isVisible()
    assert [one.before.name for one in row.renewals] == ["pear", "plum"]
    answer()
    click(button_that_says(row, "Renew …"))
    after = areas(wired)
    assert after[0] > 5 * before[0]
    assert after[1] > 5 * before[1]
    assert after[2] == before[2]
    qtbot.waitUntil(lambda: not row.isVisible(), timeout=WAIT_MS)
    wired.session.undo_group.undo()
    assert areas(wired) == before


def test_only_what_is_ticked_is_renewed(wired: MainWindow, qtbot: QtBot) -> None:
    row, before = wired.panes["stash"].at_hand.renewals, areas(wired)
    qtbot.waitUntil(lambda: len(row.renewals) == 2, timeout=WAIT_MS)
    answer(taken=False)
    click(button_that_says(row, "Renew …"))
    assert areas(wired) == before
    answer(leave=(0,))
    click(button_that_says(row, "Renew …"))
    assert areas(wired)[0] == before[0]
    assert areas(wired)[1] > 5 * before[1]


def test_the_librarys_outlines_are_renewed_and_put_back(window: MainWindow, qtbot: QtBot) -> None:
    wire, lamp = wire_stamp("pear"), msgspec.structs.replace(stamp("lamp"), name="old lamp")
    session = window.session
    session.keep_in_library([wire, lamp], {wire.picture: open_ring_png(), lamp.picture: framed_png(10, 10)})
    window.go(STASH)
    pane = window.panes["stash"].library
    window.panes["stash"].show_pane(LIBRARY)
    qtbot.waitUntil(lambda: len(pane.entries.entries) == 2, timeout=WAIT_MS)

    def held() -> float:
        number = next(entry.id for entry in pane.entries.entries if entry.name == "pear")
        return held_area(session.library.load(number)[0])

    before = held()
    answer()
    click(button_that_says(pane, "Outlines …"))
    qtbot.waitUntil(lambda: held() > 5 * before, timeout=WAIT_MS)
    assert session.undo_group.activeStack() is pane.steps
    session.undo_group.undo()
    qtbot.waitUntil(lambda: held() == pytest.approx(before), timeout=WAIT_MS)
    session.undo_group.redo()
    qtbot.waitUntil(lambda: held() > 5 * before, timeout=WAIT_MS)
    with qtbot.waitSignal(session.said, timeout=WAIT_MS, check_params_cb=lambda words: "nothing to renew" in words):
        click(button_that_says(pane, "Outlines …"))
