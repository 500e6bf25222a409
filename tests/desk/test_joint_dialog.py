"""The joints of a border in their dialog: dragged, moved with the keys, joined best, taken or left."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from fair_thicket.backdrop.joints import joint_places
from fair_thicket.backdrop.judging import best_span, hidden_stretches
from fair_thicket.demo import CARD_FILES
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.scene.joints import Joints
from fair_thicket.edits.pieces import set_pieces
from fair_thicket.files.card_file import open_card
from fair_thicket.model.pieces import Border
from hands import button_that_says, click, drag, settle


@pytest.fixture
def slimline(window: MainWindow, qtbot: QtBot) -> MainWindow:
    window.session.open(CARD_FILES[2])
    settle(qtbot, window.session)
    return window


@pytest.fixture
def dialog(qtbot: QtBot) -> Joints:
    work, _ = open_card(CARD_FILES[2])
    piece = work.card.find("moss-edge-1")
    assert isinstance(piece, Border)
    made = Joints(work, piece)
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    return made


def test_a_handle_is_dragged_and_the_cost_follows(dialog: Joints) -> None:
    before, home = dialog.note.text(), joint_places(dialog.piece.cuts)[0]
    assert "joint 1 (chosen)" in before
    handle = dialog.view.handle_of(0).toPoint()
    drag(dialog.view, handle, handle - QPoint(20, 0))
    assert joint_places(dialog.piece.cuts)[0] < home - 2
    assert dialog.note.text() != before
    click(button_that_says(dialog, "Join it best"))
    stamp = dialog._work.stash.find("moss-edge")
    assert (
        dialog.piece.cuts == best_span(stamp, dialog.piece.length_mm, hidden_stretches(dialog._work, dialog.piece)).cuts
    )


def test_keys_choose_and_move_a_joint(dialog: Joints) -> None:
    home = joint_places(dialog.piece.cuts)
    dialog.view.setFocus()
    QTest.keyClick(dialog.view, Qt.Key.Key_Down)
    assert dialog.view.chosen == 1
    QTest.keyClick(dialog.view, Qt.Key.Key_Left)
    moved = joint_places(dialog.piece.cuts)
    assert moved[0] == pytest.approx(home[0], abs=0.01)
    assert moved[1] == pytest.approx(home[1] - 0.5, abs=0.01)


def test_the_dies_end_is_told_and_the_joint_stays_there(dialog: Joints) -> None:
    dialog.view.move_to(-50.0)
    assert joint_places(dialog.piece.cuts)[0] > 0
    said: list[str] = []
    dialog.view.refused.connect(said.append)
    dialog.view.move_to(-50.0)
    assert "the joint stays within" in said[0]


def test_the_menu_asks_takes_and_undoes(slimline: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    session = slimline.session
    joints = slimline.actions_of.by_key["joints"]
    session.select({"strip-1"})
    assert not joints.isEnabled()
    session.select({"moss-edge-1"})
    assert joints.isEnabled()
    before = session.work

    def answer(self: Joints) -> int:
        self.view.move_to(joint_places(self.piece.cuts)[0] - 3.0)
        return 1

    monkeypatch.setattr(Joints, "exec", answer)
    joints.trigger()
    after = session.work.card.find("moss-edge-1")
    assert isinstance(after, Border)
    assert joint_places(after.cuts)[0] == pytest.approx(
        joint_places(before.card.find("moss-edge-1").cuts)[0] - 3.0, abs=0.01
    )
    session.undo_stack.undo()
    assert session.work == before
    monkeypatch.setattr(Joints, "exec", lambda self: 0)
    joints.trigger()
    assert session.work == before


def test_rows_are_stepped_from_the_menu_and_it_is_said_how_far_apart_their_crests_are(
    slimline: MainWindow, qtbot: QtBot
) -> None:
    session, said = slimline.session, []
    session.said.connect(said.append)
    session.select({"moss-edge-1", "picket-1"})
    assert not slimline.actions_of.by_key["step-rows"].isEnabled()
    session.select({"moss-edge-1", "moss-edge-2"})
    lined_up = session.work.card.find("moss-edge-1").cuts
    session.edit("line up", lambda work: set_pieces(work, {"moss-edge-2"}, cuts=lined_up))
    slimline.actions_of.by_key["step-rows"].trigger()
    qtbot.waitUntil(lambda: bool(said), timeout=60_000)
    assert said[0].startswith("Crests of the rows keep ")
    first, second = (session.work.card.find(f"moss-edge-{number}") for number in (1, 2))
    assert first.cuts != second.cuts
    settle(qtbot, session)
