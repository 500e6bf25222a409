"""A card as rich as the demo, composed from an empty front on a real window with the mouse and the keyboard."""

from collections import Counter
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.files.card_file import open_card
from fair_thicket.model.finding import Weight
from fair_thicket.model.pieces import Impression
from hands import LEFT, PLAIN, answer_forms, button_that_says, click, drag, on_bench, settle

CTRL = Qt.KeyboardModifier.ControlModifier


def lay(window: MainWindow, name: str, at: tuple[float, float]) -> str:
    """Drag something from the drawer to a place of the panel; returns the new piece's id."""
    scene = window.panes["scene"]
    card = next(card for card in scene.drawer.cards if card.stamp.name == name)
    scene.drawer._column.ensureWidgetVisible(card)
    QApplication.processEvents()
    target = card.mapFromGlobal(scene.bench.viewport().mapToGlobal(on_bench(scene.bench, *at)))
    drag(card, QPoint(30, card.height() // 2), target)
    (key,) = window.session.selection
    return key


def choose_from(window: MainWindow, menu: str, words: str) -> None:
    """Choose an entry of a menu above the bench."""
    action = next(one for one in window.panes["scene"].menus[menu].actions() if one.text() == words)
    window.refresh()
    assert action.isEnabled(), words
    action.trigger()


def paint_it(window: MainWindow, colour: str) -> None:
    next(one for one in window.panes["scene"].piece.colour.menu().actions() if one.text() == colour).trigger()


def click_bench(window: MainWindow, x: float, y: float) -> None:
    QTest.mouseClick(window.panes["scene"].bench.viewport(), LEFT, PLAIN, on_bench(window.panes["scene"].bench, x, y))


def test_a_rich_card_is_composed_with_mouse_and_keyboard(  # noqa: PLR0915 - one card, from the first layer to the last
    make_window: Callable[..., MainWindow], qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = make_window(demo=True)
    session, scene, panel = window.session, window.panes["scene"], window.panes["scene"].piece
    window.actions_of.by_key["new"].trigger()
    assert session.work.card.pieces == ()

    notes = answer_forms(monkeypatch, border="1/16", colour="pine")
    choose_from(window, "Add", "Layer with a border …")
    assert "cut 5 3/8 × 4 1/8 in, that is 1/8 in less each way" in notes[-1]
    answer_forms(monkeypatch, border="1/16", colour="cream")
    choose_from(window, "Add", "Layer with a border …")
    (sky,) = session.selection
    answer_forms(monkeypatch, colour="dusk")
    choose_from(window, "Add", "Wash …")

    hill = lay(window, "far hill", (69.85, 84))
    paint_it(window, "moss")
    assert session.work.card.find(hill).on == sky
    for name, at, colour in (
        ("tall fern", (20, 66), "fern"),
        ("tall fern", (120, 64), "fern"),
        ("stump letterbox", (101, 75), "bark"),
        ("toad postmaster", (68, 70), "lichen"),
        ("toadstool", (40, 74), "rose"),
        ("ink newt", (92, 88), "clay"),
        ("courier snail", (34, 90), "clay"),
    ):
        lay(window, name, at)
        click(panel.making.buttons[1])
        paint_it(window, colour)
    click(panel.foam.more)
    click(panel.foam.more)
    snail = next(iter(session.selection))
    assert session.work.card.find(snail).lift_mm == pytest.approx(1.6)
    x = session.work.card.find(snail).x
    scene.bench.setFocus()
    QTest.keyClick(scene.bench, Qt.Key.Key_Right)
    assert session.work.card.find(snail).x > x

    beetle = lay(window, "spotted beetle", (101, 57))
    click(panel.making.buttons[1])
    window.actions_of.by_key["contact"].trigger()  # it sits on the stump
    assert session.work.card.find(beetle).held.by.startswith("stump")

    moss = lay(window, "moss edge", (69.85, 99))
    paint_it(window, "fern")
    window.actions_of.by_key["duplicate"].trigger()
    copy = next(iter(session.selection))
    assert session.work.card.find(copy).copy_of == moss
    start = on_bench(scene.bench, 69.85 + 20, 103 + 4)
    drag(scene.bench.viewport(), start, start + QPoint(-30, 6), modifier=CTRL)
    QTest.keyClick(scene.bench, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)

    moth, letter = lay(window, "dusk moth", (108, 28)), lay(window, "letter", (86, 36))
    assert isinstance(session.work.card.find(moth), Impression)
    for key in (moth, letter):
        session.select({key})
        click(panel.making.buttons[1])
    panel.turn.setFocus()
    panel.turn.selectAll()
    QTest.keyClicks(panel.turn, "-12")
    QTest.keyClick(panel.turn, Qt.Key.Key_Return)
    assert session.work.card.find(letter).angle_deg == -12

    answer_forms(monkeypatch, words="a little post for you", colour="cream", ink="pine", left="fishtail")
    choose_from(window, "Add", "Greeting strip …")
    strip = next(iter(session.selection))
    choose_from(window, "Layouts", "Find places for the greeting")
    assert len(window.menu_actions.looking.places) == 3
    choose_from(window, "Layouts", "Put it at place 1")
    answer_forms(monkeypatch, pattern="line", count="4", reach="40 mm", size="3 mm")
    choose_from(window, "Add", "Sequins, gems, gloss, twine …")
    scene.bench.setFocus()
    for _ in range(4):
        QTest.keyClick(scene.bench, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)

    settle(qtbot, session)
    kinds = Counter(type(piece).__name__ for piece in session.work.card.pieces)
    assert kinds == {"Panel": 2, "Blend": 1, "Border": 3, "Cutout": 10, "Strip": 1, "Embellishment": 1}
    assert session.work.card.find(strip).words == "a little post for you"
    for _ in range(6):  # what is in trouble is mended by one click each
        troubled = [one for one in scene.advice.findings if one.weight is Weight.TROUBLE and one.remedy]
        if not troubled:
            break
        click(button_that_says(scene.advice, troubled[0].remedy.words))
        settle(qtbot, session)
    assert [one.title for one in session.outcome.findings if one.weight is Weight.TROUBLE] == []
    steps = session.undo_stack.count()
    assert steps >= 35
    path = tmp_path / "mine.thicket"
    assert session.save(path)
    assert open_card(path)[0] == session.work
    for _ in range(steps):
        session.undo_stack.undo()
    assert session.work.card.pieces == ()


def test_a_figure_goes_through_a_slit_drawn_with_the_mouse(window: MainWindow, qtbot: QtBot) -> None:
    session, bench = window.session, window.panes["scene"].bench
    window.actions_of.by_key["new"].trigger()
    pond = lay(window, "pond", (70, 85))
    newt = lay(window, "ink newt", (70, 78))
    click(window.panes["scene"].piece.making.buttons[1])
    session.select({pond})
    window.refresh()
    window.actions_of.by_key["flap-line"].trigger()
    drag(bench.viewport(), on_bench(bench, 10, 82), on_bench(bench, 130, 82))
    click_bench(window, 30, 90)  # the lower part
    click_bench(window, 78, 76)  # past the newt
    (flap,) = session.work.card.find(pond).flaps
    assert (flap.past, flap.side) == (newt, "over")
    assert flap.slit is not None
    settle(qtbot, session)
    bars = {bar.key: bar for bar in window.panes["scene"].thicket.layout_rows.bars}
    assert bars[f"{pond}~0"].row > bars[newt].row > bars[pond].row
    window.actions_of.by_key["flaps-back"].trigger()
    assert session.work.card.find(pond).flaps == ()


def test_a_strand_is_picked_with_the_mouse_and_its_bar_dragged_in_the_thicket(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    window.actions_of.by_key["new"].trigger()
    frame = lay(window, "fern window", (69.85, 54))
    moth = lay(window, "dusk moth", (109, 30))
    click(window.panes["scene"].piece.making.buttons[1])
    session.select({moth})
    window.actions_of.by_key["rear"].trigger()
    session.select({frame})
    window.refresh()
    window.actions_of.by_key["flap-strand"].trigger()
    QTest.mouseMove(window.panes["scene"].bench.viewport(), on_bench(window.panes["scene"].bench, 109.6, 16))
    assert window.panes["scene"].bench.over.outlined is not None
    click_bench(window, 109.6, 16)
    click_bench(window, 102, 30)
    (flap,) = session.work.card.find(frame).flaps
    assert (flap.past, flap.side) == (moth, "under")
    thicket = window.panes["scene"].thicket
    bar = next(bar for bar in thicket.layout_rows.bars if bar.is_flap)
    start = thicket.bar_box(bar).center().toPoint()
    drag(thicket, start, start - QPoint(0, round(1.7 * thicket._row_px())))
    assert session.work.card.find(frame).flaps[0].side == "over"
    settle(qtbot, session)


def test_the_thicket_says_why_paper_does_not_let_a_piece_past(window: MainWindow, qtbot: QtBot) -> None:
    session, thicket = window.session, window.panes["scene"].thicket
    window.actions_of.by_key["new"].trigger()
    toad = lay(window, "toad postmaster", (60, 60))
    lay(window, "pond", (60, 70))
    bar = next(bar for bar in thicket.layout_rows.bars if bar.key == toad)
    start = thicket.bar_box(bar).center().toPoint()
    before = session.work
    drag(thicket, start, start - QPoint(0, round(1.7 * thicket._row_px())), release=False)
    assert "cannot be in front of what is glued" in thicket._refusal
    with qtbot.waitSignal(session.said) as caught:
        QTest.mouseRelease(thicket, LEFT, PLAIN, start - QPoint(0, round(1.7 * thicket._row_px())))
    assert "Cut the toad postmaster out" in caught.args[0]
    assert session.work is before


def test_pointing_at_a_thread_shows_the_overlap_on_the_card(window: MainWindow) -> None:
    thicket, bench = window.panes["scene"].thicket, window.panes["scene"].bench
    boxes = {bar.key: thicket.bar_box(bar) for bar in thicket.layout_rows.bars}
    spots = []  # places on threads that no bar covers
    for thread in thicket.layout_rows.threads:
        x = round(thicket._left_px + thread.x * thicket._px_per_mm)
        for y in range(round(boxes[thread.front].bottom()), round(boxes[thread.back].top())):
            spot = QPoint(x, y)
            if thicket._bar_at(spot.toPointF()) is None and thicket._thread_at(spot.toPointF()) == thread:
                spots.append((spot, thread))
    assert spots
    spot, thread = spots[0]
    QTest.mouseMove(thicket, spot)
    leaves = {leaf.key: leaf.area for leaf in window.session.view.leaves}
    shared = leaves[thread.back].intersection(leaves[thread.front])
    shown = bench.over.outlined.boundingRect()
    assert (shown.left(), shown.top(), shown.right(), shown.bottom()) == pytest.approx(shared.bounds, abs=0.01)
    assert shared.area == pytest.approx(thread.area_mm2)
    QApplication.sendEvent(thicket, QEvent(QEvent.Type.Leave))
    assert bench.over.outlined is None
