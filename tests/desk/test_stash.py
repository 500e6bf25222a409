"""The stash: the library, marks, supplies, and the drawer's library hits."""

import sqlite3
from pathlib import Path

import msgspec
import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit
from pytestqt.qtbot import QtBot

from fair_thicket.demo import SUPPLIES_FILE
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.session import library_writer
from fair_thicket.desk.stash.marks_editor import place_mark
from fair_thicket.desk.stash.station import AT_HAND, LIBRARY, SUPPLIES
from fair_thicket.desk.stations import SCENE, STASH
from fair_thicket.files.supplies_csv import read_supplies
from fair_thicket.model.stash import Kind, Marks
from fair_thicket.model.supplies import Ink, Marker, Paper
from hands import LEFT, PLAIN, button_that_says, click, drag, on_bench, settle
from making import framed_png, square, stamp

SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def stocked(window: MainWindow) -> MainWindow:
    """A window whose library holds three images."""
    images = [
        msgspec.structs.replace(stamp("snail"), name="courier snail", set_name="Fernside", tags=("critter",)),
        msgspec.structs.replace(stamp("lamp"), name="old lamp"),
        msgspec.structs.replace(stamp("edge"), name="moss edge", kind=Kind.BORDER, may_flip=True),
    ]
    window.session.keep_in_library(images, {image.picture: framed_png(10, 10) for image in images})
    window.go(STASH)
    window.panes["stash"].show_pane(LIBRARY)
    QApplication.processEvents()
    return window


def test_the_library_is_searched_as_it_is_typed(stocked: MainWindow) -> None:
    pane = stocked.panes["stash"].library
    assert [entry.name for entry in pane.entries.entries] == ["courier snail", "moss edge", "old lamp"]
    QTest.keyClicks(pane.search, "crit")
    assert [entry.name for entry in pane.entries.entries] == ["courier snail"]
    pane.search.clear()
    pane.kind.setCurrentIndex(1 + list(Kind).index(Kind.BORDER))
    assert [entry.name for entry in pane.entries.entries] == ["moss edge"]


def choose_first(window: MainWindow) -> None:
    pane = window.panes["stash"].library
    box = pane.view.visualRect(pane.entries.index(0))
    QTest.mouseClick(pane.view.viewport(), LEFT, PLAIN, box.center())


def test_what_an_image_knows_is_set_and_kept(stocked: MainWindow, qtbot: QtBot) -> None:
    pane = stocked.panes["stash"].library
    choose_first(stocked)
    assert pane.image.name.text() == "courier snail"
    pane.image.tags.setFocus()
    pane.image.tags.selectAll()
    QTest.keyClicks(pane.image.tags, "critter shell shell")
    QTest.keyClick(pane.image.tags, Qt.Key.Key_Return)
    click(pane.image.flies.buttons[1])
    click(pane.image.cut.buttons[1])
    assert pane.image.margin.text() == "1/16 in"
    with qtbot.waitSignal(stocked.session.said) as caught:
        pane.image.margin.setFocus()
        pane.image.margin.selectAll()
        QTest.keyClicks(pane.image.margin, "3 cm")
        QTest.keyClick(pane.image.margin, Qt.Key.Key_Return)
    assert "from 0 to 20 mm" in caught.args[0]
    click(pane.image.copies.more)
    kept, _ = stocked.session.library.load(stocked.session.library.search("courier")[0].id)
    assert (kept.tags, kept.marks.flies, kept.die_margin_mm, kept.copies) == (("critter", "shell"), True, 1.6, 2)


def test_the_cards_own_copy_learns_what_the_library_is_told(stocked: MainWindow) -> None:
    pane, session = stocked.panes["stash"].library, stocked.session
    choose_first(stocked)
    click(pane.drawer_button)
    click(pane.image.flies.buttons[1])
    own = session.work.stash.stamps[-1]
    assert own.marks.flies
    assert own.id == "courier-snail-2"
    session.undo_stack.undo()
    assert not session.work.stash.stamps[-1].marks.flies


def test_only_what_is_plain_may_be_turned_over(stocked: MainWindow, qtbot: QtBot) -> None:
    pane = stocked.panes["stash"].library
    choose_first(stocked)
    with qtbot.waitSignal(stocked.session.said) as caught:
        click(pane.image.flip.buttons[1])
    assert "cannot be turned over" in caught.args[0]
    assert not pane.image.stamp.may_flip
    pane.search.setText("moss")
    choose_first(stocked)
    assert pane.image.stamp.may_flip
    click(pane.image.flip.buttons[0])
    assert not stocked.session.library.load(pane.image.number)[0].may_flip


def test_chosen_images_become_one_in_layers(stocked: MainWindow, qtbot: QtBot) -> None:
    pane = stocked.panes["stash"].library
    pane.view.selectAll()
    assert pane._layer.isEnabled()
    click(pane._layer)
    (entry,) = stocked.session.library.search("layered")
    whole, pictures = stocked.session.library.load(entry.id)
    assert [layer.name for layer in whole.layers] == ["courier snail", "moss edge", "old lamp"]
    assert set(pictures) == set(whole.pictures)
    pane.search.setText("layered")
    choose_first(stocked)
    assert pane.image._size.text().endswith("3 layers")
    pane.image.layer_of.setCurrentIndex(1)
    before = pane.image.stamp.layers[1]
    pane.image.nudge_layer((1, 0))
    assert pane.image.stamp.layers[1].x == pytest.approx(before.x + 0.1)
    assert pane.image.stamp.picture != whole.picture
    click(pane.drawer_button)
    own = stocked.session.work.stash.stamps[-1]
    stocked.panes["scene"].bench.add_stamp(own, (70, 30))
    settle(qtbot, stocked.session)
    plan = stocked.session.outcome.plan
    assert sum(f"{own.id}-1/" in key for press in plan.presses for key in press.impressions) == 3
    assert stocked.session.outcome.rehearsal.differences == ()
    for row, key in enumerate(stocked.panes["masks"].timetable._rows):
        assert stocked.session.names[key], row


def test_two_nudges_behind_a_locked_library_both_count(
    stocked: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(library_writer, "PATIENCE_S", 0.04)
    pane = stocked.panes["stash"].library
    pane.view.selectAll()
    click(pane._layer)
    pane.search.setText("layered")
    choose_first(stocked)
    pane.image.layer_of.setCurrentIndex(1)
    number, before = pane.image.number, pane.image.stamp.layers[1]
    library = stocked.session.library
    other = sqlite3.connect(library.path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    pane.image.nudge_layer((1, 0))
    pane.image.nudge_layer((1, 0))
    assert library.load(number)[0].layers[1].x == before.x, "nothing is written yet"
    other.execute("ROLLBACK")
    other.close()
    moved = pytest.approx(before.x + 0.2)
    qtbot.waitUntil(lambda: library.load(number)[0].layers[1].x == moved, timeout=60_000)


def test_marks_are_placed_by_dragging_on_the_picture(stocked: MainWindow) -> None:
    pane = stocked.panes["stash"].library
    choose_first(stocked)
    editor = pane.image.editor

    def at(x: float, y: float) -> QPoint:
        return editor.to_widget().map(QPointF(x, y)).toPoint()

    drag(editor, at(-4, 4.5), at(4, 4.5))
    click(pane.image.tools.buttons[1])
    drag(editor, at(-3, -3), at(1, 1))
    click(pane.image.tools.buttons[3])
    drag(editor, at(0, 0), at(4, 0))
    click(pane.image.tools.buttons[5])
    QTest.mouseClick(editor, LEFT, PLAIN, at(0, -4))
    marks = pane.image.stamp.marks
    assert marks.feet is not None
    assert marks.feet[0] == pytest.approx((-4, 4.5), abs=0.2)
    assert [zone.what for zone in marks.zones] == ["face"]
    assert marks.looks_deg == pytest.approx(0, abs=3)
    assert [(one.what, one.at) for one in marks.contacts] == [("seat", pytest.approx((0, -4), abs=0.2))]
    assert stocked.session.library.load(pane.image.number)[0].marks == marks


def test_a_pocket_is_opened_by_a_click_in_it_and_closed_by_another(window: MainWindow) -> None:
    frame = msgspec.structs.replace(stamp("frame", 30), pockets=(square(20),))
    window.session.keep_in_library([frame], {frame.picture: framed_png(30, 30)})
    window.go(STASH)
    window.panes["stash"].show_pane(LIBRARY)
    QApplication.processEvents()
    choose_first(window)
    pane = window.panes["stash"].library.image
    click(pane.tools.buttons[6])
    assert "what is behind shows through" in pane.tool_hint.text()
    QTest.mouseClick(pane.editor, LEFT, PLAIN, pane.editor.to_widget().map(QPointF(-6, 7)).toPoint())
    (at,) = pane.stamp.marks.open_at
    assert at == pytest.approx((-6, 7), abs=0.2)
    assert window.session.library.load(pane.number)[0].marks.open_at == (at,)
    QTest.mouseClick(pane.editor, LEFT, PLAIN, pane.editor.to_widget().map(QPointF(5, 5)).toPoint())
    assert pane.stamp.marks.open_at == ()


def test_a_click_alone_takes_a_mark_away() -> None:
    marks = place_mark(Marks(), "face", (0, 0), (4, 4))
    assert place_mark(marks, "face", (9, 9), (9, 9)) == marks
    assert place_mark(marks, "words", (2, 2), (2, 2)) == Marks()
    held = place_mark(Marks(), "hand", (1, 1), (1, 1))
    assert place_mark(held, "hand", (1.5, 1), (1.5, 1)) == Marks()
    feet = place_mark(Marks(is_guess=True), "feet", (5, 3), (-5, 3))
    assert (feet.feet, feet.is_guess) == (((-5, 3), (5, 3)), False)
    assert place_mark(feet, "feet", (0, 0), (0, 0)).feet is None
    assert place_mark(Marks(), "looks", (0, 0), (0, 5)).looks_deg == 90


def test_images_go_to_the_drawer_once_and_out_as_files(
    stocked: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    pane, session = stocked.panes["stash"].library, stocked.session
    choose_first(stocked)
    before = len(session.work.stash.stamps)
    click(pane.drawer_button)
    click(pane.drawer_button)
    assert len(session.work.stash.stamps) == before + 1
    out = tmp_path / "part.thicket-stash"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    pane.give_out()
    qtbot.waitUntil(lambda: out.exists() and not pane.worker.is_busy, timeout=60_000)
    svg = tmp_path / "outline.svg"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(svg), ""))
    pane.write_outline()
    assert b"<svg" in svg.read_bytes()
    pane.take_out()
    assert session.library.count() == 2
    stocked.menu_actions.open_dropped([out])
    qtbot.waitUntil(lambda: session.library.count() == 5, timeout=60_000)
    out.write_bytes(b"broken")
    with qtbot.waitSignal(session.said, timeout=60_000) as caught:
        pane.bring_in_file(out)
    assert "not a .thicket-stash file" in caught.args[0]


def test_the_drawer_finds_in_the_library_too_and_takes_what_is_dragged(stocked: MainWindow) -> None:
    stocked.go(SCENE)
    drawer, session = stocked.panes["scene"].drawer, stocked.session
    QTest.keyClicks(drawer.search, "courier")
    QApplication.processEvents()
    cards = [card for card in drawer._from_library if hasattr(card, "stamp")]
    assert [card.stamp.name for card in cards] == ["courier snail"]
    shown = [card.stamp.name for card in drawer.cards if card.isVisible()]
    assert shown == ["courier snail"]  # the demo's own
    target = cards[0].mapFromGlobal(
        stocked.panes["scene"].bench.viewport().mapToGlobal(on_bench(stocked.panes["scene"].bench, 70, 30))
    )
    drag(cards[0], QPoint(30, 20), target)
    piece = session.work.card.pieces[-1]
    assert session.work.stash.find(piece.stamp).picture == "images/snail.png"
    assert (piece.x, piece.y) == pytest.approx((70, 30), abs=0.5)


def test_the_drawer_is_parted_by_kind(window: MainWindow) -> None:
    assert [heading.text() for heading in window.panes["scene"].drawer._headings.values()] == [
        "stamps",
        "greetings",
        "die shapes",
        "border dies",
        "backdrop dies",
        "stencils",
    ]


def test_supplies_are_typed_counted_and_read_from_lists_and_cards(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.go(STASH)
    window.panes["stash"].show_pane(SUPPLIES)
    pane, library = window.panes["stash"].supplies, window.session.library
    for kind, name, colour, more in ((0, "ivory base", "#fbf6e6", "110 lb cover"), (2, "fern 2", "#4F8A4A", "fern")):
        pane.kind.setCurrentIndex(kind)
        for field, words in ((pane.name, name), (pane.colour, colour), (pane.more, more)):
            field.clear()
            QTest.keyClicks(field, words)
        pane.size_of.setText("8 1/2 x 5 1/2" if kind == 0 else "")
        QTest.keyClick(pane.name, Qt.Key.Key_Return)
    (_, paper), (_, marker) = library.list_supplies("paper") + library.list_supplies("marker")
    assert isinstance(paper, Paper)
    assert (paper.width_mm, paper.height_mm) == pytest.approx((215.9, 139.7))
    assert paper.weight_gsm == pytest.approx(297.5, abs=0.1)
    assert marker == Marker("fern 2", "#4f8a4a", family="fern")
    pane.kind.setCurrentIndex(0)
    for field, words, reason in (
        (pane.colour, "blue", "is not a colour"), (pane.size_of, "wide", "is not a sheet size"),
        (pane.size_of, "3 m x 4 m", "not a length"), (pane.more, "heavy", "not a paper weight"),
    ):  # fmt: skip
        for one, typed in ((pane.colour, "#ffffff"), (pane.more, ""), (pane.size_of, ""), (pane.name, "pond")):
            one.setText(typed)
        field.setText(words)
        with qtbot.waitSignal(window.session.said) as caught:
            pane.add()
        assert reason in caught.args[0]
    assert len(library.list_supplies()) == 2
    out = tmp_path / "supplies.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    pane.write_csv()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(out), ""))
    pane.choose_csv()
    qtbot.waitUntil(lambda: len(library.list_supplies()) == 4, timeout=60_000)
    card = np.full((700, 1000, 3), 250, np.uint8)
    card[100:300, 100:400], card[100:300, 550:850] = (200, 60, 60), (60, 90, 200)
    Image.fromarray(card).save(tmp_path / "card.png", dpi=(300, 300))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "card.png"), ""))
    pane.kind.setCurrentIndex(1)
    pane.choose_swatches()
    qtbot.waitUntil(lambda: len(library.list_supplies("ink")) == 2, timeout=60_000)
    assert isinstance(library.list_supplies("ink")[0][1], Ink)
    assert len(pane.rows) == 6
    click(button_that_says(pane, "Demo list"))
    click(button_that_says(pane, "Demo list"))
    assert len(library.list_supplies()) == 6 + len(read_supplies(SUPPLIES_FILE))
    field = pane.rows[0].findChild(QLineEdit)
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "pond at dusk")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert "pond at dusk" in [supply.name for _, supply in library.list_supplies("ink")]


def test_a_library_that_cannot_be_opened_is_told_and_the_desk_works_on(
    monkeypatch: pytest.MonkeyPatch, qtbot: QtBot, tmp_path: Path
) -> None:
    from fair_thicket.desk.frame.application import make_application, open_window

    (tmp_path / "xdg_data_home").write_text("a file where the folder should be")
    make_application()
    window = open_window(demo=True)
    qtbot.addWidget(window, before_close_func=lambda made: made.session.undo_stack.setClean())
    assert window.session.library is None
    assert "The library" in window._message.text()
    window.panes["stash"].show_pane(LIBRARY)
    assert "could not be opened" in window.panes["stash"].library._facts.text()
    window.panes["stash"].show_pane(AT_HAND)
    assert len(window.panes["stash"].at_hand.rows) == 24
    window.close()
