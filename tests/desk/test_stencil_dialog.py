"""A stencil stepped in its dialog: dragged, moved with the keys, turned over, taped, stepped anew, taken or left."""

import msgspec
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from fair_thicket.backdrop.stencils import least_between
from fair_thicket.demo import CARD_FILES
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.ink.stencil_steps import StencilSteps
from fair_thicket.files.card_file import open_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Blend, Form, Wash
from fair_thicket.model.stash import Stash
from hands import button_that_says, click, drag, settle

GRID = 25.4 / 16


@pytest.fixture
def cloudy(window: MainWindow, qtbot: QtBot) -> MainWindow:
    assert window.session.open(CARD_FILES[4])
    settle(qtbot, window.session)
    return window


@pytest.fixture
def dialog(qtbot: QtBot) -> StencilSteps:
    work, _ = open_card(CARD_FILES[4])
    piece = work.card.find("sky-1")
    assert isinstance(piece, Wash)
    made = StencilSteps(work, piece)
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    qtbot.waitUntil(lambda: not made.worker.is_busy, timeout=60_000)
    return made


def test_a_number_is_dragged_on_the_rulers_grid_and_the_moves_follow(dialog: StencilSteps) -> None:
    assert "Lay 2: up 5/8 in, turn over, 3/16 in to the left; dusk" in dialog.told.text()
    before = dialog.piece.lays[1]
    knob = dialog.view.knob_of(1).toPoint()
    drag(dialog.view, knob, knob + QPoint(10, 0), release=False)
    assert dialog.view.is_rough  # the hand does not wait for the ink
    QTest.mouseRelease(dialog.view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, knob + QPoint(10, 0))
    assert not dialog.view.is_rough
    knob = dialog.view.knob_of(1).toPoint()
    drag(dialog.view, knob, knob + QPoint(23, 0))
    after = dialog.piece.lays[1]
    assert dialog.view.chosen == 1
    assert after.x > before.x
    assert after.y == pytest.approx(before.y)
    steps = (after.x - before.x) / GRID
    assert steps == pytest.approx(round(steps), abs=1e-3)
    assert "Lay 2: up 5/8 in, turn over, 3/16 in to the left" not in dialog.told.text()


def test_keys_move_choose_and_turn_over(dialog: StencilSteps) -> None:
    view = dialog.view
    view.setFocus()
    x, y = view.piece.lays[0].x, view.piece.lays[0].y
    QTest.keyClick(view, Qt.Key.Key_Right)
    QTest.keyClick(view, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    moved = view.piece.lays[0]
    assert (moved.x, moved.y) == pytest.approx((x + GRID, y - 4 * GRID), abs=1e-3)
    QTest.keyClick(view, Qt.Key.Key_Period)
    assert view.chosen == 1
    was = view.piece.lays[1].flipped
    QTest.keyClick(view, Qt.Key.Key_Space)
    assert view.piece.lays[1].flipped != was
    QTest.keyClick(view, Qt.Key.Key_Comma)
    assert view.chosen == 0
    click(button_that_says(dialog, "Turn this lay over"))
    assert view.piece.lays[0].flipped != moved.flipped


def test_more_lays_another_rise_and_other_inks_are_stepped_anew(dialog: StencilSteps, qtbot: QtBot) -> None:
    click(dialog.lays.less)
    qtbot.waitUntil(lambda: len(dialog.piece.lays) == 3, timeout=60_000)
    dialog.rise.setText("7/8")
    dialog.rise.editingFinished.emit()
    qtbot.waitUntil(lambda: "up 7/8 in" in dialog.told.text(), timeout=60_000)
    assert dialog.piece.lays[0].y - dialog.piece.lays[1].y == pytest.approx(22.225)
    dialog.inks[0].setCurrentIndex(dialog.inks[0].findText("berry"))
    assert dialog.piece.lays[0].ink == dialog.piece.colour == "#a92c48"
    dialog.reach.setText("1/2")
    dialog.reach.editingFinished.emit()
    assert dialog.piece.reach_mm == pytest.approx(12.7)


def test_stepping_out_of_line_puts_right_what_was_dragged_into_line(dialog: StencilSteps, qtbot: QtBot) -> None:
    stamp = dialog._work.stash.find("cloud-bank")
    best = least_between(stamp, dialog.piece)
    lays = tuple(msgspec.structs.replace(lay, x=0.0, flipped=False) for lay in dialog.piece.lays)
    dialog.view.show_piece(msgspec.structs.replace(dialog.piece, lays=lays))
    assert least_between(stamp, dialog.piece) == 0
    click(button_that_says(dialog, "Step it out of line"))
    qtbot.waitUntil(lambda: not dialog.worker.is_busy, timeout=60_000)
    assert least_between(stamp, dialog.piece) == pytest.approx(best)


def test_a_click_tapes_an_opening_and_peels_the_tape_off(dialog: StencilSteps, qtbot: QtBot) -> None:
    dialog.stencil.setCurrentIndex(dialog.stencil.findText("mist stencil"))
    qtbot.waitUntil(lambda: dialog.piece.stencil == "mist", timeout=60_000)
    view = dialog.view
    path = view._openings()[4]
    spot = (view.to_panel() * view.to_view()).map(path.boundingRect().center()).toPoint()
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
    assert dialog.piece.taped == (4,)
    assert "Openings keep" in dialog.told.text()
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
    assert dialog.piece.taped == ()


def test_what_cannot_be_is_said_and_nothing_is_lost(dialog: StencilSteps, qtbot: QtBot) -> None:
    before = dialog.piece
    dialog.rise.setText("as you like")
    dialog.rise.editingFinished.emit()
    assert "as you like" in dialog.told.text()
    dialog.rise.setText("2")
    dialog.rise.editingFinished.emit()
    qtbot.waitUntil(lambda: "leave the wash" in dialog.told.text(), timeout=60_000)
    assert dialog.piece == before
    dialog.stencil.setCurrentIndex(dialog.stencil.findText("picket"))
    dialog.rise.setText("1/2")
    dialog.rise.editingFinished.emit()
    qtbot.waitUntil(lambda: "narrower than the wash" in dialog.told.text(), timeout=60_000)


def test_without_a_stencil_in_the_stash_it_is_said_what_to_do(qtbot: QtBot) -> None:
    wash = Blend("sky-1", Form("rectangle", 100, 60), 60, 40)
    dialog = StencilSteps(Work(Card(pieces=(wash,)), Stash()), wash)
    qtbot.addWidget(dialog)
    assert "bring one in first" in dialog.told.text()
    assert not button_enabled(dialog, "Take this")


def button_enabled(dialog: StencilSteps, words: str) -> bool:
    dialog.show()
    return button_that_says(dialog, words).isEnabled()


def test_the_menu_asks_takes_and_undoes(cloudy: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    session, steps = cloudy.session, cloudy.actions_of.by_key["wash-steps"]
    session.select({"strip-1"})
    assert not steps.isEnabled()
    session.select({"sky-1"})
    assert steps.isEnabled()
    assert not cloudy.actions_of.by_key["wash-blend"].isEnabled()  # its inks are its lays' own
    before = session.work

    def answer(self: StencilSteps) -> int:
        self.view.turn_over()
        return 1

    monkeypatch.setattr(StencilSteps, "exec", answer)
    steps.trigger()
    after, was = session.work.card.find("sky-1"), before.card.find("sky-1")
    assert isinstance(after, Wash)
    assert isinstance(was, Wash)
    assert after.lays[0].flipped != was.lays[0].flipped
    session.undo_stack.undo()
    assert session.work == before
    monkeypatch.setattr(StencilSteps, "exec", lambda self: 0)
    steps.trigger()
    assert session.work == before
