"""Saving, closing and being ended: nothing is lost, and nothing of anyone else's is written over without a word."""

import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QFileDialog, QMessageBox

from fair_thicket import edits
from fair_thicket.demo import CARD_FILE
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.edits import cutouts
from fair_thicket.edits.tries import keep_try
from fair_thicket.files.card_file import open_card, save_card
from fair_thicket.files.recovery import find_recovered
from fair_thicket.model.pieces import Impression
from making import pictures_of, work_of


def choose_files(monkeypatch: pytest.MonkeyPatch, *paths: Path) -> list[str]:
    """Let the next file dialogs answer with these paths, then with none; returns what was proposed."""
    proposed: list[str] = []
    answers = [str(path) for path in paths]

    def answer(_parent: object, _title: str, start: str, *_rest: object) -> tuple[str, str]:
        proposed.append(start)
        return (answers.pop(0) if answers else ""), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", answer)
    return proposed


def answer_boxes(monkeypatch: pytest.MonkeyPatch, *answers: str) -> list[str]:
    """Press the buttons with these words in the next boxes, then Cancel; returns what was asked."""
    asked: list[str] = []
    left = list(answers)
    pressed: list[object] = []

    def show(box: QMessageBox) -> int:
        asked.append(box.text())
        wanted = left.pop(0) if left else "Cancel"
        pressed.append(next(one for one in box.buttons() if one.text() == wanted))
        return 0

    monkeypatch.setattr(QMessageBox, "exec", show)
    monkeypatch.setattr(QMessageBox, "clickedButton", lambda _box: pressed[-1])
    return asked


def test_a_word_of_22_letters_cut_out_as_one_piece_is_saved_and_opens(window: MainWindow, tmp_path: Path) -> None:
    session = window.session
    for number in range(22):
        session.edit("stamp", lambda work, n=number: edits.add_impression(work, "letter", (10.0 + 5 * n, 20.0))[0])
    letters = {piece.id for piece in session.work.card.pieces if isinstance(piece, Impression) and piece.y == 20.0}
    assert len(letters) == 22
    assert session.edit("cut out as one", lambda work: cutouts.join(work, letters)[0])
    assert session.save(tmp_path / "word.thicket")
    assert open_card(tmp_path / "word.thicket")[0] == session.whole


@pytest.mark.parametrize(
    "change",
    [
        lambda work: edits.set_copies(work, work.stash.stamps[0].id, 25),
        lambda work: edits.rename_stamp(work, work.stash.stamps[0].id, ""),
        lambda work: edits.set_card(work, mask_rim_mm=9.0),
        lambda work: edits.set_card(work, title="t" * 200),
    ],
)
def test_what_could_not_be_saved_is_refused_in_a_sentence_when_it_is_made(
    window: MainWindow, change: Callable[..., object]
) -> None:
    said: list[str] = []
    window.session.said.connect(said.append)
    before = window.session.work
    assert not window.session.edit("too much", change)
    assert window.session.work is before
    assert len(said) == 1
    assert said[0].endswith(".")


def test_a_layout_of_the_front_is_gone_back_to_on_the_front_and_the_card_opens(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    session = window.session
    front = {piece.id for piece in session.work.card.pieces}
    monkeypatch.setattr("PySide6.QtWidgets.QInputDialog.getText", lambda *_, **__: ("one", True))
    window.menu_actions.looking.keep_layout()
    gone = session.work.card.pieces[-1]
    session.edit("delete", lambda work: edits.delete(work, {gone.id}))
    session.open_card(is_open=True)
    session.edit("stamp", lambda work: edits.add_impression(work, gone.stamp, (40.0, 40.0))[0])
    assert session.work.card.pieces[0].id not in front  # a kept layout keeps its ids
    window.menu_actions.looking._go_to("one")
    assert not session.is_open
    assert {piece.id for piece in session.work.card.pieces} == front
    assert len(session.work.card.inside) == 1
    assert session.save(tmp_path / "c.thicket")
    assert open_card(tmp_path / "c.thicket")[0] == session.whole


def test_a_layout_of_the_inside_is_gone_back_to_on_the_inside(window: MainWindow) -> None:
    session = window.session
    front = session.work.card.pieces
    session.open_card(is_open=True)
    session.edit("stamp", lambda work: edits.add_impression(work, "letter", (40.0, 40.0))[0])
    session.edit("keep", lambda work: keep_try(work, "in"))
    session.edit("delete", lambda work: edits.delete(work, {piece.id for piece in work.card.pieces}))
    session.open_card(is_open=False)
    window.menu_actions.looking._go_to("in")
    assert session.is_open
    assert session.work.card.inside == front
    assert [piece.x for piece in session.work.card.pieces] == [40.0]


def test_a_name_that_gets_its_ending_added_is_asked_about_where_the_file_is_there(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    there = tmp_path / "old.thicket"
    there.write_bytes(b"another card")
    choose_files(monkeypatch, tmp_path / "old")
    asked = answer_boxes(monkeypatch, "Cancel")
    assert not window.menu_actions.save_as()
    assert there.read_bytes() == b"another card"
    assert asked == ["old.thicket is there already."]
    choose_files(monkeypatch, tmp_path / "old")
    answer_boxes(monkeypatch, "Replace it")
    assert window.menu_actions.save_as()
    assert open_card(there)[0] == window.session.whole


def test_a_title_with_a_stroke_proposes_a_name_in_a_folder_that_is_there(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.session.edit("name", lambda work: edits.set_card(work, title="moth / newt"))
    proposed = choose_files(monkeypatch)
    window.menu_actions.save_as()
    window.panes["paper"].write()
    window.panes["stash"].library.give_out()
    for start in proposed:
        assert Path(start).parent == Path.home()
    assert [Path(start).name for start in proposed[:2]] == ["moth - newt.thicket", "moth - newt plan.pdf"]


def test_a_card_that_another_program_changed_is_not_saved_over_without_asking(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    card = tmp_path / "c.thicket"
    save_card(card, window.session.whole, window.session.pictures)
    window.session.open(card)
    window.session.edit("name", lambda work: edits.set_card(work, title="mine"))
    other = work_of(("a", 20, 20))
    save_card(card, other, pictures_of(other))
    asked = answer_boxes(monkeypatch, "Cancel", "Save over it")
    assert not window.menu_actions.save()
    assert open_card(card)[0] == other
    assert window.menu_actions.save()
    assert open_card(card)[0].card.title == "mine"
    window.session.edit("name", lambda work: edits.set_card(work, title="mine again"))
    assert window.menu_actions.save()  # our own writing is no one else's
    assert len(asked) == 2


RUN = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from fair_thicket.desk.frame import application
from fair_thicket import edits
real = application._set_up
def set_up(window, **how):
    real(window, **how)
    window.session.edit("name", lambda work: edits.set_card(work, title="half done"))
    QTimer.singleShot(0, lambda: print("edited", flush=True))
application._set_up = set_up
sys.exit(application.run(demo=True))
"""


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGINT, signal.SIGHUP])
def test_a_program_that_is_ended_right_after_an_edit_keeps_it_for_the_next_start(number: signal.Signals) -> None:
    run = subprocess.Popen([sys.executable, "-c", RUN], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert run.stdout is not None
    assert run.stdout.readline() == "edited\n"
    run.send_signal(number)
    _, told = run.communicate(timeout=60)
    assert run.returncode == 128 + number
    assert told == ""
    (left,) = find_recovered()
    assert left.title == "half done"
    assert open_card(left.autosave)[0].card.title == "half done"


def test_recovery_is_offered_beside_the_card_that_was_named(make_window: Callable[..., MainWindow]) -> None:
    from fair_thicket.desk.frame.application import _set_up
    from fair_thicket.files.recovery import Autosave

    work = work_of(("a", 20, 20), title="left behind")
    left = Autosave()
    left.keep(work, pictures_of(work))
    note = left.file.with_suffix(".json")
    note.write_bytes(note.read_bytes().replace(b'"started":', b'"started":1'))
    window = MainWindow()
    _set_up(window, card=CARD_FILE, demo=False)
    window.show()
    assert window.session.work.card.title == "Fernside post"
    assert window.offer.isVisible()
    window.offer.later.click()
    assert not window.offer.isVisible()
    window.close()


def test_cards_that_were_open_last_are_opened_again_from_the_menu(window: MainWindow, tmp_path: Path) -> None:
    QSettings().remove("cards/recent")
    first, second = tmp_path / "a first & a last.thicket", tmp_path / "second.thicket"
    assert window.session.save(first)
    assert window.session.save(second)
    window.menu_actions.new_card()
    (recent,) = (one.menu() for one in window._menus["Card"].actions() if one.text() == "Open a recent card")
    recent.aboutToShow.emit()
    assert [one.text().partition("   ·")[0] for one in recent.actions()] == ["second", "a first && a last"]
    recent.actions()[1].trigger()
    assert window.session.path == first
    assert len(window.session.work.card.pieces) == 17
    recent.aboutToShow.emit()
    assert [one.text().partition("   ·")[0] for one in recent.actions()] == ["second"]  # the other is open
    second.unlink()
    recent.aboutToShow.emit()
    assert not recent.actions()
    QSettings().remove("cards/recent")
