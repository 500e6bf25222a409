"""The session: edits, undo, files, recovery, and results that come too late."""

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pytestqt.qtbot import QtBot

from fair_thicket import edits
from fair_thicket.desk.session.session import Session
from fair_thicket.files.recovery import Autosave, find_recovered
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from hands import settle
from making import pictures_of, work_of


@pytest.fixture
def session(qtbot: QtBot):
    del qtbot
    made = Session(Autosave())
    work = work_of(("snail", 20, 30), ("toad", 26, 30), ("newt", 60, 60))
    made.start(work, pictures_of(work))
    yield made
    made.close()


def test_an_edit_is_done_undone_and_done_again(session: Session) -> None:
    before = session.work
    assert session.edit("move", lambda work: edits.move_by(work, {"snail-1"}, (5, 0)))
    after = session.work
    assert after.card.find("snail-1").x == 25
    session.undo_stack.undo()
    assert session.work is before
    session.undo_stack.redo()
    assert session.work is after


def test_an_edit_that_changes_nothing_is_no_step(session: Session) -> None:
    assert not session.edit("move", lambda work: edits.move_by(work, {"snail-1"}, (0, 0)))
    assert not session.undo_stack.canUndo()


def test_a_refused_edit_is_told_and_changes_nothing(session: Session, qtbot: QtBot) -> None:
    before = session.work

    def refuse(work: Work) -> Work:
        raise PaperError("Scissors cannot do that.")

    with qtbot.waitSignal(session.said) as caught:
        assert not session.edit("cut", refuse)
    assert caught.args == ["Scissors cannot do that."]
    assert session.work is before


def test_nudges_of_one_piece_merge_and_others_do_not(session: Session) -> None:
    for key in ("snail-1", "snail-1", "snail-1", "toad-2"):
        session.edit("nudge", lambda work, key=key: edits.move_by(work, {key}, (1, 0)), merge_key=f"nudge {key}")
    assert session.undo_stack.count() == 2
    session.undo_stack.undo()
    session.undo_stack.undo()
    assert session.work.card.find("snail-1").x == 20


kinds = st.sampled_from(["move", "turn", "reorder", "add", "delete", "unit", "rim", "copies"])


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(kinds, st.integers(0, 9), st.floats(-30, 30)), max_size=12))
def test_undoing_everything_gives_back_the_first_card_bit_for_bit(
    session: Session, asked: list[tuple[str, int, float]]
) -> None:
    first = session.work
    for kind, number, amount in asked:
        pieces = session.work.card.pieces
        key = pieces[number % len(pieces)].id if pieces else ""
        change = {
            "move": lambda work, key=key, by=amount: edits.move_by(work, {key}, (by, by)),
            "turn": lambda work, key=key, by=amount: edits.turn_by(work, {key}, by),
            "reorder": lambda work, key=key, at=number: edits.reorder(work, key, at) if key else work,
            "add": lambda work, by=amount: edits.add_impression(work, "newt", (by, by))[0],
            "delete": lambda work, key=key: edits.delete(work, {key}),
            "unit": lambda work: edits.set_card(work, title="x" * 3),
            "rim": lambda work, by=amount: edits.set_card(work, mask_rim_mm=min(abs(by), 3.0)),
            "copies": lambda work, at=number: edits.set_copies(work, "toad", at + 1),
        }[kind]
        session.edit(kind, change, merge_key="nudge" if kind == "move" else "")
    last = session.work
    while session.undo_stack.canUndo():
        session.undo_stack.undo()
    assert session.work is first
    while session.undo_stack.canRedo():
        session.undo_stack.redo()
    assert session.work == last
    session.start(first, session.pictures)


def test_the_engines_speak_about_the_newest_card_only(session: Session, qtbot: QtBot) -> None:
    seen: list[Work] = []
    session.outcomeChanged.connect(lambda: seen.append(session.outcome.work))
    for k in range(5):
        session.edit("move", lambda work, k=k: edits.move_by(work, {"newt-3"}, (k + 1, 0)))
        qtbot.wait(15)
    settle(qtbot, session)
    assert seen[-1] is session.work
    assert session.outcome is not None
    assert len(session.outcome.plan.presses) == 2


def test_saving_opening_and_a_failed_save(session: Session, qtbot: QtBot, tmp_path: Path) -> None:
    session.edit("move", lambda work: edits.move_by(work, {"snail-1"}, (5, 0)))
    assert session.is_dirty
    said: list[str] = []
    session.said.connect(said.append)
    assert not session.save(tmp_path / "none" / "card.thicket")
    assert "is not there" in said[-1]
    assert session.is_dirty
    assert session.save(tmp_path / "card.thicket")
    assert not session.is_dirty
    kept = session.work
    (tmp_path / "broken.thicket").write_bytes(b"x")
    assert not session.open(tmp_path / "broken.thicket")
    assert session.work is kept
    assert session.path == tmp_path / "card.thicket"
    assert session.open(tmp_path / "card.thicket")
    assert session.work == kept


def test_an_autosave_is_written_after_edits_and_taken_up_as_unsaved(session: Session, tmp_path: Path) -> None:
    session.edit("move", lambda work: edits.move_by(work, {"snail-1"}, (5, 0)))
    session.keep(wait=True)
    autosave = session._autosave
    assert autosave is not None
    copy = autosave.file.with_name("1-0.thicket")
    copy.write_bytes(autosave.file.read_bytes())
    copy.with_suffix(".json").write_bytes(b'{"pid": 999999999, "started": 5, "title": "lost", "path": ""}')
    (left,) = find_recovered()
    other = Session(Autosave())
    assert other.recover(left)
    assert other.work == session.work
    assert other.is_dirty
    assert find_recovered() == []
    other.close()


def test_saving_drops_the_autosave(session: Session, tmp_path: Path) -> None:
    session.edit("move", lambda work: edits.move_by(work, {"snail-1"}, (5, 0)))
    session.keep(wait=True)
    assert session._autosave is not None
    assert session._autosave.file.exists()
    session.save(tmp_path / "card.thicket")
    assert not session._autosave.file.exists()
