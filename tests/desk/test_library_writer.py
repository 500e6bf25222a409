"""Writes to the library leave the window free: a locked one is waited for elsewhere, and none is lost."""

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from fair_thicket.desk.session import library_writer
from fair_thicket.desk.session.library_writer import LibraryWriter
from fair_thicket.library.store import Library, open_library
from fair_thicket.model.supplies import Ink


@pytest.fixture
def path(tmp_path: Path) -> Path:
    with closing(open_library(tmp_path / "own.sqlite")) as library:
        return library.path


@pytest.fixture
def writer(path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Iterator[LibraryWriter]:
    monkeypatch.setattr(library_writer, "PATIENCE_S", 0.04)
    made = LibraryWriter(path)
    made.written.connect(lambda then: then())
    yield made
    made.close()


def inks(path: Path) -> list[str]:
    with closing(open_library(path)) as library:
        return [one.name for _, one in library.list_supplies("ink")]


def add(name: str) -> library_writer.Change:
    return lambda library: library.keep_supplies([Ink(name, "#203040")])


def test_what_is_written_is_there_and_is_told_once(writer: LibraryWriter, path: Path, qtbot: QtBot) -> None:
    told: list[str] = []
    writer.ask(add("owl grey"), lambda: told.append("owl"))
    qtbot.waitUntil(lambda: told == ["owl"], timeout=60_000)
    assert inks(path) == ["owl grey"]


def test_while_another_program_writes_nothing_waits_for_it_here_and_all_is_written_in_order_after_it(
    writer: LibraryWriter, path: Path, qtbot: QtBot
) -> None:
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    told: list[str] = []
    for name in ("first", "second"):
        writer.ask(add(name), lambda name=name: told.append(name))  # type: ignore[misc]
    assert told == []
    assert inks(path) == [], "what is there is still read"
    other.execute("ROLLBACK")
    qtbot.waitUntil(lambda: told == ["first", "second"], timeout=60_000)
    assert sorted(inks(path)) == ["first", "second"]
    other.close()


def test_what_cannot_be_written_is_told_in_a_sentence_and_what_was_to_follow_does_not(
    writer: LibraryWriter, path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(library_writer, "open_library", lambda where: open_library(where, wait_s=0.2))
    writer.ask(add("before"), lambda: None)
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    told: list[str] = []
    with qtbot.waitSignal(writer.failed, timeout=60_000) as failed:
        writer.ask(add("lost"), lambda: told.append("lost"))
    assert str(path) in failed.args[0]
    assert failed.args[0].endswith(".")
    assert "\n" not in failed.args[0]
    other.execute("ROLLBACK")
    other.close()
    writer.ask(add("after"), lambda: told.append("after"))
    qtbot.waitUntil(lambda: told == ["after"], timeout=60_000)
    assert sorted(inks(path)) == ["after", "before"]


def test_a_fault_of_the_program_is_told_and_the_line_goes_on(
    writer: LibraryWriter, path: Path, qtbot: QtBot, caplog: pytest.LogCaptureFixture
) -> None:
    def fail(library: Library) -> None:
        raise ZeroDivisionError

    with qtbot.waitSignal(writer.failed, timeout=60_000) as failed:
        writer.ask(fail, lambda: None)
    assert "fault in the program" in failed.args[0]
    assert "a write to the library failed" in caplog.text
    told: list[str] = []
    writer.ask(add("after"), lambda: told.append("after"))
    qtbot.waitUntil(lambda: told == ["after"], timeout=60_000)


def test_what_still_waits_is_written_before_the_library_is_closed(
    path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(library_writer, "PATIENCE_S", 0.0)
    made = LibraryWriter(path)
    for number in range(20):
        made.ask(add(f"ink {number}"), lambda: None)
    made.close()
    assert len(inks(path)) == 20
