"""A hill drawn in its dialog, and borders and strips that reach across, by real clicks, keys and actions."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from fair_thicket.demo import CARD_FILES
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.scene.hill import Hill
from fair_thicket.edits.pieces import set_pieces
from fair_thicket.files.card_file import open_card
from fair_thicket.model.pieces import Border, Strip
from fair_thicket.shape.paper import footprint
from hands import answer_forms, button_that_says, click, drag, settle


@pytest.fixture
def dialog(qtbot: QtBot) -> Hill:
    work, pictures = open_card(CARD_FILES[0])
    made = Hill(work, pictures, "")
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    qtbot.waitUntil(lambda: button_that_says(made, "Take this").isEnabled(), timeout=60_000)
    return made


def test_points_are_clicked_dragged_nudged_and_taken_away(dialog: Hill) -> None:
    view = dialog.view
    spot = view.to_view((100.0, 40.0)).toPoint()
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
    assert len(view.points) == 5
    assert view.points[4] == pytest.approx((100.0, 40.0), abs=0.3)
    drag(view, spot, spot + QPoint(0, 30))
    assert view.points[4][1] > 44
    before = view.points[4]
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Up)
    assert view.points[4][1] == pytest.approx(before[1] - 0.5, abs=0.02)
    QTest.keyClick(view, Qt.Key.Key_Comma)
    assert view.points[view.chosen][0] < 100
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert len(view.points) == 4
    click(button_that_says(dialog, "Take the point away"))
    assert len(view.points) == 3


def test_what_is_no_hill_cannot_be_taken(dialog: Hill) -> None:
    for _ in range(3):
        dialog.view.remove_point()
    assert "two points at least" in dialog.note.text()
    assert not button_that_says(dialog, "Take this").isEnabled()


def test_the_menu_puts_the_hill_on_the_card_and_undo_takes_it_off(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, before = window.session, window.session.work

    def answer(self: Hill) -> int:
        self.colour.setCurrentIndex(self.colour.findText("clay"))
        return 1

    monkeypatch.setattr(Hill, "exec", answer)
    window.actions_of.by_key["add-hill"].trigger()
    (key,) = session.selection
    piece = session.work.card.find(key)
    assert isinstance(piece, Border)
    assert piece.colour == "#c9794a"
    assert session.work.stash.find(piece.stamp).picture in session.pictures
    settle(qtbot, session)
    session.undo_stack.undo()
    assert session.work == before
    monkeypatch.setattr(Hill, "exec", lambda self: 0)
    window.actions_of.by_key["add-hill"].trigger()
    assert session.work == before


def test_a_tilted_strip_and_a_border_reach_across_from_the_menu(window: MainWindow, qtbot: QtBot) -> None:
    session, said = window.session, []
    assert session.open(CARD_FILES[2])
    settle(qtbot, session)
    session.said.connect(said.append)
    reach = window.actions_of.by_key["reach"]
    session.select({"toadstool-1"})
    window.refresh()
    assert not reach.isEnabled()
    session.edit("tilt", lambda work: set_pieces(work, {"strip-1"}, angle_deg=-5.0, left="straight", right="straight"))
    session.select({"strip-1", "picket-1"})
    window.refresh()
    assert reach.isEnabled()
    reach.trigger()
    qtbot.waitUntil(lambda: bool(said), timeout=60_000)
    strip = session.work.card.find("strip-1")
    assert isinstance(strip, Strip)
    assert strip.width_mm > 212
    assert strip.trim_to == (strip.on or "card")
    assert said[0].startswith("Cut ")
    assert "trim flush at both ends" in said[0]
    settle(qtbot, session)


def test_a_frame_is_made_wider_from_the_menu(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    session, said = window.session, []
    assert session.open(CARD_FILES[1])
    settle(qtbot, session)
    session.said.connect(said.append)
    grow = window.actions_of.by_key["grow"]
    session.select({"moon-1"})
    window.refresh()
    assert not grow.isEnabled()
    session.select({"fern-window-1"})
    window.refresh()
    notes = answer_forms(monkeypatch, width="9 mm")
    grow.trigger()
    assert "The side of a frame must be at least 30 mm" in notes[0]
    answer_forms(monkeypatch, width="7 in")
    grow.trigger()
    qtbot.waitUntil(lambda: bool(said), timeout=60_000)
    assert said[0].startswith("Cut its die 2 times")
    grown = session.work.card.find("fern-window-1")
    left, _, right, _ = footprint(grown, session.work.stash).bounds
    assert right - left == pytest.approx(177.8, abs=0.05)
    settle(qtbot, session)
    session.undo_stack.undo()
    assert session.work.card.find("fern-window-1").across == ()  # type: ignore[union-attr]


def test_rows_of_a_border_are_laid_from_the_menu(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, said = window.session, []
    assert session.open(CARD_FILES[4])
    settle(qtbot, session)
    session.said.connect(said.append)
    session.select({"moss-edge-1"})
    window.refresh()
    notes = answer_forms(monkeypatch, rows="9")
    window.actions_of.by_key["make-rows"].trigger()
    assert "at most 4 rows" in notes[0]
    notes = answer_forms(monkeypatch, rows="3", drop="1/8")
    window.actions_of.by_key["make-rows"].trigger()
    assert "lies 1/4 in lower" in notes[0]
    qtbot.waitUntil(lambda: bool(said), timeout=60_000)
    assert said[0].startswith("Crests of the rows keep ")
    rows = [one for one in session.work.card.pieces if isinstance(one, Border) and one.stamp == "moss-edge"]
    assert len(rows) == 3
    settle(qtbot, session)
