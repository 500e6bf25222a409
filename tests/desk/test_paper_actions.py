"""Patterned papers by menu: taken in from a picture, cut from, turned, as a base."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.parts.form import Values
from fair_thicket.desk.scene import paper_actions
from fair_thicket.files.card_file import encode_card, open_card, save_card
from fair_thicket.ink.painting import paint
from fair_thicket.model.card import Work
from fair_thicket.model.stash import Kind
from hands import settle


@pytest.fixture
def sky(make_window: Callable[..., MainWindow], qtbot: QtBot) -> MainWindow:
    """The slimline demo card: a sky panel, borders, strips."""
    window = make_window(demo=True)
    from fair_thicket.demo import CARD_FILES

    window.session.open(CARD_FILES[2])
    settle(qtbot, window.session)
    return window


def stripes(path: Path) -> Path:
    picture = np.zeros((60, 120, 3), np.uint8)
    picture[:, :60], picture[:, 60:] = (200, 40, 40), (40, 60, 200)
    Image.fromarray(picture).save(path, dpi=(254, 254))
    return path


def take_in(window: MainWindow, path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> str:
    asked = []

    def answer(_window: object, _title: str, fields: list, **_: object) -> dict[str, object]:
        asked.extend(fields)
        return Values({field.key: field.value for field in fields})

    monkeypatch.setattr(paper_actions, "ask", answer)
    before = window.session.undo_stack.count()
    window.menu_actions.papers.read(path)
    qtbot.waitUntil(lambda: window.session.undo_stack.count() > before, timeout=60_000)
    assert asked[1].value == pytest.approx(12.0, rel=1e-3)
    return window.session.work.stash.stamps[-1].id


def test_a_picture_becomes_a_paper_and_the_piece_chosen_is_cut_from_it(
    sky: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = sky.session
    before: Work = session.work
    session.select({"moss-edge-1"})
    key = take_in(sky, stripes(tmp_path / "stripes.png"), qtbot, monkeypatch)
    paper = session.work.stash.find(key)
    assert (paper.kind, round(paper.width_mm, 2), round(paper.height_mm, 2)) == (Kind.PAPER, 12.0, 6.0)
    piece = session.work.card.find("moss-edge-1")
    assert (piece.pattern, piece.colour) == (key, "#783278")
    settle(qtbot, session)
    outcome = session.outcome
    assert outcome is not None
    assert outcome.rehearsal.differences == ()
    picture = paint(session.work, session.pictures, dpi=100)
    assert not np.array_equal(picture, paint(before, session.pictures, dpi=100))
    save_card(tmp_path / "c.thicket", session.work, session.pictures)
    assert open_card(tmp_path / "c.thicket")[0] == session.work
    sky.actions_of.by_key["pattern-turn"].trigger()
    assert session.work.card.find("moss-edge-1").pattern_turn == 90
    lines = dict(next(one for one in sky.menu_actions.papers.records if one.key == "pattern").lines())
    lines["Plain paper"]()
    assert session.work.card.find("moss-edge-1").pattern == ""
    lines["stripes"]()
    assert session.work.card.find("moss-edge-1").pattern == key
    base = dict(next(one for one in sky.menu_actions.papers.of_base if one.key == "base-pattern").lines())
    base["stripes"]()
    assert session.work.card.pattern == key
    base["Plain card"]()
    assert session.work.card.pattern == ""
    while session.undo_stack.canUndo():
        session.undo_stack.undo()
    assert encode_card(session.work) == encode_card(before)


def test_what_is_no_picture_is_said_and_nothing_changes(sky: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    said: list[str] = []
    sky.session.said.connect(said.append)
    (tmp_path / "none.png").write_bytes(b"no picture")
    sky.menu_actions.papers.read(tmp_path / "none.png")
    qtbot.waitUntil(lambda: bool(said), timeout=60_000)
    assert "none.png" in said[0]
    assert not sky.session.undo_stack.canUndo()
