"""A wash blended in its dialog: ways, inks, coats, the handle dragged and moved with the keys; troubles and bridges."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from fair_thicket.demo import CARD_FILES
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.ink.blend import Blend
from fair_thicket.files.card_file import open_card
from fair_thicket.ink.gradients import wash_colour
from fair_thicket.ink.mixing import trouble_between
from fair_thicket.model.pieces import Wash
from fair_thicket.model.supplies import Ink
from hands import button_that_says, click, drag, settle

LANTERN, NIGHT, OWL = "#eec25a", "#2d3558", "#c9d2dc"


@pytest.fixture
def dusk(window: MainWindow, qtbot: QtBot) -> MainWindow:
    assert window.session.open(CARD_FILES[3])
    settle(qtbot, window.session)
    return window


@pytest.fixture
def dialog(qtbot: QtBot) -> Blend:
    work, _ = open_card(CARD_FILES[3])
    piece = work.card.find("dusk-1")
    assert isinstance(piece, Wash)
    made = Blend(work, piece, own=[Ink("owl grey", OWL)])
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    qtbot.waitUntil(lambda: not made.is_busy, timeout=60_000)
    return made


def choose(dialog: Blend, *inks: str) -> None:
    for number, choice in enumerate(dialog.inks):
        choice.setCurrentIndex(choice.findData(inks[number]) if number < len(inks) else 0)


def test_it_opens_with_the_wash_as_it_is_and_says_on_how_much_each_ink_is_needed(dialog: Blend) -> None:
    assert [choice.colour for choice in dialog.inks] == ["#e6dff0", "#8f8fb8", "#5f5f92", "", "", ""]
    assert dialog.ways.buttons[4].isChecked()
    assert "dusk: 65.1 cm²" in dialog.told.text()
    assert dialog.bridge.isHidden()
    assert "yours" in dialog.inks[0].itemText(1)


def test_a_glows_ring_is_dragged_clicked_and_nudged(dialog: Blend) -> None:
    view = dialog.view
    x, y = view.piece.centre
    start = view.handle().toPoint()
    drag(view, start, start + QPoint(-60, 20))
    scale = view.to_view().m11()
    assert view.piece.centre == pytest.approx((x - 60 / scale, y + 20 / scale), abs=0.6)
    there = QPoint(120, 200)
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, there)
    assert (view.handle() - there.toPointF()).manhattanLength() < 2
    before = view.piece.centre
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Right)
    QTest.keyClick(view, Qt.Key.Key_Up)
    assert view.piece.centre == pytest.approx((before[0] + 1, before[1] - 1), abs=0.02)


def test_an_arrow_is_dragged_by_steps_of_fifteen_degrees_and_freely_with_ctrl(dialog: Blend) -> None:
    click(dialog.ways.buttons[1])
    view = dialog.view
    assert view.piece.way == "linear"
    middle = (view.to_panel() * view.to_view()).map(QPoint(0, 0))
    drag(view, view.handle().toPoint(), middle + QPoint(100, 8))
    assert view.piece.toward_deg == 0
    drag(view, view.handle().toPoint(), middle + QPoint(100, 8), modifier=Qt.KeyboardModifier.ControlModifier)
    assert view.piece.toward_deg == pytest.approx(4.6, abs=0.6)
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Down)
    assert view.piece.toward_deg == pytest.approx(9.6, abs=0.6)


def test_mud_is_told_and_one_click_puts_the_makers_own_ink_between(dialog: Blend, qtbot: QtBot) -> None:
    choose(dialog, LANTERN, NIGHT)
    qtbot.waitUntil(lambda: not dialog.is_busy, timeout=60_000)
    assert trouble_between(LANTERN, NIGHT) == "mud"
    assert "turns to mud on its way" in dialog.told.text()
    assert dialog.bridge.text() == "Blend over owl grey"
    click(dialog.bridge)
    assert dialog.piece.inks == (LANTERN, OWL, NIGHT)
    assert [choice.colour for choice in dialog.inks][:3] == [LANTERN, OWL, NIGHT]
    qtbot.waitUntil(lambda: not dialog.is_busy, timeout=60_000)
    assert "mud" not in dialog.told.text()
    assert dialog.bridge.isHidden()


def test_coats_deepen_it_and_no_ink_at_all_is_refused(dialog: Blend, qtbot: QtBot) -> None:
    click(dialog.coats.more)
    assert dialog.piece.coats == 4
    before = dialog.piece.inks
    for choice in dialog.inks:
        choice.setCurrentIndex(0)
    assert "choose one at least" in dialog.told.text()
    assert len(dialog.piece.inks) == 1
    assert dialog.piece.inks[0] in before


def test_a_second_ink_makes_an_even_wash_go_across(dialog: Blend) -> None:
    click(dialog.ways.buttons[0])
    choose(dialog, LANTERN)
    assert not dialog.view.has_handle
    dialog.inks[1].setCurrentIndex(dialog.inks[1].findData(OWL))
    assert dialog.piece.way == "linear"
    assert dialog.ways.buttons[1].isChecked()


def test_the_menu_asks_takes_and_undoes(dusk: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    session, blend = dusk.session, dusk.actions_of.by_key["wash-blend"]
    session.select({"dusk-1"})
    before = session.work

    def answer(self: Blend) -> int:
        choose(self, LANTERN, OWL)
        click(self.ways.buttons[2])
        return 1

    monkeypatch.setattr(Blend, "exec", answer)
    blend.trigger()
    after = session.work.card.find("dusk-1")
    assert isinstance(after, Wash)
    assert (after.inks, after.way) == ((LANTERN, OWL), "band")
    assert after.colour == wash_colour(after)
    session.undo_stack.undo()
    assert session.work == before
    monkeypatch.setattr(Blend, "exec", lambda self: 0)
    blend.trigger()
    assert session.work == before


def test_buttons_take_it_or_leave_it(dialog: Blend) -> None:
    click(button_that_says(dialog, "Take this"))
    assert dialog.result() == 1
