"""Papers and inks of one's own by menu: the base, lines, strips, windows, openings; plain dies printed."""

import io
from collections.abc import Callable
from pathlib import Path

import msgspec
import pytest
from pypdf import PdfReader
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.parts.colours import ink_colours, paper_colours
from fair_thicket.desk.stations import PAPER
from fair_thicket.edits import adding
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Border, Cutout, Form, Panel, Strip
from fair_thicket.model.supplies import Ink, Paper
from hands import answer_forms, settle

SLATE, PLUM = "#34404a", "#6a2f5a"


@pytest.fixture
def owned(make_window: Callable[..., MainWindow], qtbot: QtBot) -> MainWindow:
    """A demo card beside a paper and an ink of the maker's own."""
    window = make_window(demo=True)
    settle(qtbot, window.session)
    window.session.change_library(
        lambda library: library.keep_supplies([Paper("slate base", SLATE), Ink("plum ink", PLUM)])
    )
    return window


def act(window: MainWindow, key: str) -> None:
    action = window.actions_of.by_key[key]
    window.actions_of.refresh()
    assert action.isEnabled(), key
    action.trigger()


def test_own_papers_and_inks_stand_first_and_are_taken_for_base_lines_and_words(
    owned: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = owned.session
    assert paper_colours(session)[0] == ("slate base (yours)", SLATE)
    assert ink_colours(session)[0] == ("plum ink (yours)", PLUM)
    answer_forms(monkeypatch, paper=0)
    act(owned, "base-colour")
    assert session.work.card.paper == SLATE
    session.select({"toad-postmaster-1"})
    answer_forms(monkeypatch, ink="plum ink (yours)")
    act(owned, "line-ink")
    assert session.work.card.find("toad-postmaster-1").ink == PLUM
    answer_forms(monkeypatch, words="hello", colour="slate base (yours)", ink="plum ink (yours)")
    act(owned, "add-strip")
    (key,) = session.selection
    strip = session.work.card.find(key)
    assert isinstance(strip, Strip)
    assert (strip.colour, strip.ink) == (SLATE, PLUM)
    answer_forms(monkeypatch, ink="plum ink (yours)")
    act(owned, "line-ink")
    assert session.work.card.find(key).ink == PLUM


def test_several_windows_are_cut_off_the_middle_and_what_cannot_be_cut_is_said(
    owned: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = owned.session
    session.edit("panel", lambda work: adding.add_panel(work, Form("rectangle", 100, 70))[0])
    key = next(piece.id for piece in session.work.card.pieces if isinstance(piece, Panel))
    session.select({key})
    for left in ("10 mm", "55 mm"):
        answer_forms(monkeypatch, width="30 mm", height="40 mm", left=left, top="12 mm")
        act(owned, "add-window")
    windows = session.work.card.find(key).windows
    assert [(one.x, one.y) for one in windows] == [(-25.0, -3.0), (20.0, -3.0)]
    notes = answer_forms(monkeypatch, width="30 mm", height="40 mm", left="90 mm", top="12 mm")
    act(owned, "add-window")
    assert session.work.card.find(key).windows == windows
    assert notes[0]
    act(owned, "drop-windows")
    assert session.work.card.find(key).windows == ()


def test_what_fell_out_of_a_dies_opening_is_laid_flush_as_an_inlay(
    owned: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = owned.session
    session.edit("frame", lambda work: adding.add_from_stash(work, "fern-window", (70, 54))[0])
    frame = session.work.card.pieces[-1]
    assert isinstance(frame, Cutout)
    session.select({frame.id})
    answer_forms(monkeypatch, opening=0, where=0, colour="slate base (yours)")
    act(owned, "add-opening")
    inlay = next(piece for piece in session.work.card.pieces if isinstance(piece, Cutout) and piece.opening == 0)
    assert (inlay.x, inlay.y, inlay.colour) == (frame.x, frame.y, SLATE)


def test_a_card_of_plain_dies_only_is_printed(
    owned: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = owned.session
    work = Work(msgspec.structs.replace(session.work.card, pieces=(), tries=()), session.work.stash)
    session.edit("empty", lambda _: work)
    session.edit("moss", lambda now: adding.add_from_stash(now, "moss-edge", (70, 90))[0])
    session.edit("moon", lambda now: adding.add_from_stash(now, "moon", (40, 30))[0])
    assert {type(piece) for piece in session.work.card.pieces} == {Border, Cutout}
    settle(qtbot, session)
    owned.go(PAPER)
    qtbot.waitUntil(owned.panes["paper"].save_button.isEnabled, timeout=60_000)
    owned.panes["paper"].write_to(tmp_path / "dies.pdf")
    text = "\n".join(page.extract_text() for page in PdfReader(io.BytesIO((tmp_path / "dies.pdf").read_bytes())).pages)
    assert "moss edge" in text
    assert "moon" in text
