"""What is asked for by menu: naming, format, new, open, save; help; the first painted frame; a bug's report."""

import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QInputDialog,
    QLabel,
    QMenu,
    QMessageBox,
    QScrollArea,
    QWidget,
)
from pytestqt.qtbot import QtBot

from fair_thicket import edits
from fair_thicket.demo import CARD_FILE
from fair_thicket.desk.frame.application import _crash_reporter, furnish, make_application, show_frame
from fair_thicket.desk.frame.keys import Keys
from fair_thicket.desk.frame.main_window import MENUS, MainWindow
from fair_thicket.desk.stations import SCENE, STASH
from fair_thicket.files.card_file import open_card
from fair_thicket.files.preview import read_preview
from fair_thicket.files.recovery import recovery_folder
from fair_thicket.model.formats import FORMATS
from hands import answer_forms


def test_a_card_is_named_and_undone(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("  A <note> for Wren ", True))
    window.actions_of.by_key["title"].trigger()
    assert window.session.work.card.title == "A <note> for Wren"
    assert window.windowTitle().startswith("A <note> for Wren")
    assert window._title.text() == "A <note> for Wren"
    window.actions_of.by_key["undo"].trigger()
    assert window._title.text() == "Fernside post"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("never", False))
    window.actions_of.by_key["title"].trigger()
    assert window.session.work.card.title == "Fernside post"


def test_every_format_may_be_chosen(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    for index, one in enumerate(FORMATS):
        notes = answer_forms(monkeypatch, format=index, way="landscape")
        window.actions_of.by_key["format"].trigger()
        assert window.session.work.card.format == one.key
        assert window.session.work.card.panel == (one.height_mm, one.width_mm)
        assert one.name in window._about_card.text()
        assert notes[0].startswith("Cut the base")


def test_a_new_card_keeps_the_stamps_at_hand_and_the_unit(window: MainWindow) -> None:
    window.menu_actions.switch_unit()
    before = window.session.work
    window.actions_of.by_key["new"].trigger()
    work = window.session.work
    assert work.card.pieces == ()
    assert work.card.unit is before.card.unit
    assert work.stash == before.stash
    assert not window.session.is_dirty


def test_saving_asks_for_a_name_once_and_adds_the_ending(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: list[str] = []

    def answer(*args: object) -> tuple[str, str]:
        asked.append(str(args[1]))
        return str(tmp_path / "mine"), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", answer)
    window.session.edit("name", lambda work: edits.set_card(work, title="mine"))
    window.actions_of.by_key["save"].trigger()
    window.session.edit("name", lambda work: edits.set_card(work, title="mine too"))
    window.actions_of.by_key["save"].trigger()
    assert len(asked) == 1
    assert open_card(tmp_path / "mine.thicket")[0].card.title == "mine too"
    assert "saved" in window._about_card.text()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: ("", ""))
    assert not window.menu_actions.save_as()


def test_opening_a_card_and_one_that_is_broken(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    broken = tmp_path / "broken.thicket"
    broken.write_bytes(CARD_FILE.read_bytes()[:3000])
    before = window.session.work
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(broken), ""))
    window.actions_of.by_key["open"].trigger()
    assert window.session.work is before
    assert "broken.thicket cannot be opened" in window._message.text()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(CARD_FILE), ""))
    window.actions_of.by_key["open"].trigger()
    assert window.session.path == CARD_FILE
    assert window.here == SCENE


@pytest.mark.parametrize(("key", "words"), [("keys", "Drag from the drawer"), ("about", "MIT licence")])
def test_help_tells_keys_and_what_this_is(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch, key: str, words: str
) -> None:
    told: list[str] = []
    monkeypatch.setattr(QMessageBox, "exec", lambda self: told.append(self.text()))
    monkeypatch.setattr(Keys, "exec", lambda self: told.append(_said_by(self)))
    window.actions_of.by_key[key].trigger()
    assert words in told[0]
    if key == "keys":
        for record in window.actions_of.records:
            assert not record.shortcut or record.words in told[0]


def _said_by(dialog: QWidget) -> str:
    return "\n".join(one.text() for one in dialog.findChildren(QLabel))


def test_the_list_of_keys_fits_the_window_scrolls_and_is_searched(window: MainWindow) -> None:
    dialog = Keys(window.actions_of.list_keys(), window)
    dialog.show()
    assert dialog.height() < window.height()
    area = dialog.findChild(QScrollArea)
    assert isinstance(area, QScrollArea)
    assert area.verticalScrollBar().maximum() > 0
    QTest.keyClicks(dialog.search, "undo")
    QApplication.processEvents()
    rows = [one.text() for one in dialog.findChildren(QLabel) if one.isVisible()]
    assert "Undo" in rows
    assert "Drag from the drawer" not in rows
    dialog.close()
    dialog.deleteLater()


def _words_of(menu: QMenu, path: str) -> list[tuple[str, str]]:
    """Words of a menu's actions, those of menus within it under a path of their own."""
    found: list[tuple[str, str]] = []
    for action in menu.actions():
        inner = action.menu()
        if isinstance(inner, QMenu):
            found += _words_of(inner, f"{path}/{action.text()}")
        else:
            found.append((path, action.text()))
    return found


def test_every_menu_holds_its_actions_and_fits_the_window(window: MainWindow) -> None:
    for name in MENUS:
        menu = window._menus[name]
        records = window.actions_of.records
        wanted = [
            (one.menu, one.words) for one in records if one.menu.partition("/")[0] == name and one.lines is None
        ]  # a menu whose lines are known only when it opens is empty till then
        wanted += [(name, "") for one in records if one.menu == name and one.is_last]  # the line before it
        assert sorted(_words_of(menu, name)) == sorted(wanted)
        assert name != "Card" or menu.actions()[-1].text() == "Leave"
        for one in (menu, *(inner for action in menu.actions() if isinstance(inner := action.menu(), QMenu))):
            assert one.sizeHint().height() < 800 - 60, one.title()
    assert window._undo.defaultAction() is window.actions_of.by_key["undo"]


def test_the_first_frame_shows_the_cards_own_preview_and_is_furnished_in_place(qtbot: QtBot) -> None:
    make_application()
    window = show_frame(demo=True)
    qtbot.addWidget(window)
    assert not window.is_furnished
    assert not window._threshold._picture.isNull()
    picture = window.grab().toImage()
    dark = sum(picture.pixelColor(x, y).lightness() < 90 for x in range(400, 1000, 4) for y in range(200, 600, 4))
    assert dark > 100  # the scene's lines are there
    window.go(STASH)  # nothing to go to yet, and nothing happens
    furnish(window, demo=True)
    assert window.is_furnished
    assert len(window.panes) == 8
    assert len(window.session.work.card.pieces) == 17
    window.session.undo_stack.setClean()
    window.close()


def test_a_preview_that_cannot_be_read_is_none(tmp_path: Path) -> None:
    assert read_preview(CARD_FILE).startswith(b"\x89PNG")
    path = tmp_path / "x.thicket"
    assert read_preview(path) is None
    for data in (b"", b"PK\x03\x04 nonsense", CARD_FILE.read_bytes()[:-200]):
        path.write_bytes(data)
        assert read_preview(path) is None


def test_a_bug_saves_the_card_writes_a_report_and_is_told(
    make_window: Callable[..., MainWindow], capsys: pytest.CaptureFixture[str]
) -> None:
    window = make_window(demo=True)
    window.session.edit("name", lambda work: edits.set_card(work, title="nearly lost"))
    try:
        raise RuntimeError("a bug")
    except RuntimeError as problem:
        _crash_reporter(window)(RuntimeError, problem, problem.__traceback__)
    assert "your card is safe" in window._message.text()
    assert "a bug" in (recovery_folder() / "crash-report.txt").read_text()
    assert open_card(window.session._autosave.file)[0].card.title == "nearly lost"
    assert "RuntimeError" in capsys.readouterr().err
    QApplication.processEvents()


def test_the_program_starts_and_ends_as_a_person_would_do_it(tmp_path: Path) -> None:
    """The real entry point in a process of its own; a timer closes the window."""
    script = (
        "import sys\n"
        "from PySide6.QtCore import QTimer\n"
        "from PySide6.QtWidgets import QApplication\n"
        "from fair_thicket.desk.frame import application\n"
        "furnish = application.furnish\n"
        "def and_close(window, **how):\n"
        "    furnish(window, **how)\n"
        "    print(window.session.work.card.title, flush=True)\n"
        "    QTimer.singleShot(300, window.close)\n"
        "application.furnish = and_close\n"
        "from fair_thicket.cli import main\n"
        "sys.exit(main(['--demo']))\n"
    )
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=60, check=False)
    assert done.returncode == 0, done.stderr
    assert done.stdout == "Fernside post\n"
    assert "Traceback" not in done.stderr
