"""Words, inside, finishes, and what goes beyond a stamp, by menu and mouse in the real window; saved and opened."""

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.stations import SCENE
from fair_thicket.edits.pieces import set_card
from fair_thicket.edits.word_forms import base_line_of
from fair_thicket.files.card_file import open_card, save_card
from fair_thicket.model.pieces import (
    Blend,
    Cutout,
    Embellishment,
    Form,
    Impression,
    Panel,
    Piece,
    Stencilled,
    Strip,
    Water,
)
from hands import answer_forms, drag, on_bench, settle

GROUND = Panel("ground", Form("rectangle", 130, 98), 69.85, 53.98, colour="#f3ead6")
DUSK = Blend(id="dusk", form=Form("rectangle", 110, 60), x=69.85, y=40, colour="#8f9fc3", on="ground")


def begin(window: MainWindow, *pieces: Piece) -> None:
    window.go(SCENE)
    window.session.edit("a bare card", lambda work: set_card(work, pieces=pieces))
    window.refresh()


def do(window: MainWindow, action: str, *chosen: str) -> None:
    window.session.select(chosen)
    window.refresh()
    assert window.actions_of.by_key[action].isEnabled(), action
    window.actions_of.by_key[action].trigger()


def find(window: MainWindow, key: str) -> Piece:
    return window.session.work.card.find(key)


def newest(window: MainWindow) -> Piece:
    (key,) = window.session.selection
    return window.session.work.card.find(key)


def test_forms_of_words(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    moon = Cutout("moon", "moon", 30, 75, colour="#eec25a", on="ground")
    cut = Cutout("line", "greeting-post", 70, 60, on="ground", margin_mm=2.0)
    stamped = Impression("words", "greeting-post", 70, 85, on="ground")
    strip = Strip("strip", 40, 10, 100, 30, words="for you", words_mm=4.0, on="ground")
    begin(window, GROUND, DUSK, stamped, moon, cut, strip)
    answer_forms(monkeypatch, right="1 mm", down="2 mm")
    do(window, "shadow-copy", "moon")
    shadow = newest(window)
    assert (shadow.x, shadow.y) == (31, 77)
    do(window, "float", "moon")
    assert any(isinstance(one, Panel) and one.translucent for one in window.session.work.card.pieces)
    answer_forms(monkeypatch, count=1)
    do(window, "inks-down", "words")
    assert len(find(window, "words").zones) == 2  # type: ignore[union-attr]
    answer_forms(monkeypatch, at="20 mm")
    do(window, "cut-in-two", "line")
    half = newest(window)
    assert isinstance(half, Cutout)
    assert half.print_of == "line"
    do(window, "base-line", "words", "strip")
    work, pictures = window.session.work, window.session.pictures
    lines = [one.y + base_line_of(work, one, pictures) for one in (find(window, "words"), find(window, "strip"))]
    assert lines[0] == pytest.approx(lines[1], abs=0.01)
    do(window, "pen", "words")
    assert find(window, "words").written_over
    settle(qtbot, window.session)
    saved = tmp_path / "words.thicket"
    save_card(saved, window.session.whole, window.session.pictures)
    assert open_card(saved)[0] == window.session.whole


def test_the_inside_gets_an_insert_and_the_back_a_mark(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    begin(window, GROUND)
    window.actions_of.by_key["turn-page"].trigger()
    assert window.session.is_open
    answer_forms(monkeypatch)
    do(window, "insert")
    insert = newest(window)
    assert isinstance(insert, Panel)
    assert insert.form.width_mm == pytest.approx(139.7 - 12.7)
    window.actions_of.by_key["turn-page"].trigger()
    answer_forms(monkeypatch, which=0, words="made by the fern bank")
    do(window, "mark")
    assert window.session.work.card.mark == "made by the fern bank"
    settle(qtbot, window.session)
    assert [one.name for one in window.session.whole.card.inside] == ["insert"]


def test_what_is_drawn_on_the_bench(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    begin(window, GROUND, DUSK)
    bench = window.panes["scene"].bench

    def draw(action: str, **answers: object) -> Embellishment:
        answer_forms(monkeypatch, **answers)
        do(window, action)
        drag(bench.viewport(), on_bench(bench, 40, 60), on_bench(bench, 90, 66), steps=12)
        made = newest(window)
        assert isinstance(made, Embellishment)
        return made

    line = draw("draw-line", width="1 mm")
    assert (line.shape, line.size_mm, line.on) == ("line", 1.0, "ground")
    assert draw("draw-froth", width="1.5 mm").shape == "pen"
    assert draw("draw-twine", width="2 mm").shape == "twine"
    answer_forms(monkeypatch, what=6, pattern=0)
    do(window, "add-sequins")
    assert newest(window).shape == "glitter"  # type: ignore[union-attr]
    settle(qtbot, window.session)


def test_rings_water_outlines_and_guides(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    form = Form("rectangle", 60, 30)
    first = Stencilled(id="one", form=form, x=70, y=40, colour="#5f8fa3", stencil="mist", on="ground")
    then = Stencilled(id="two", form=form, x=40, y=70, colour="#c9a7a0", stencil="mist", on="ground")
    begin(window, GROUND, DUSK, first, then, Impression("toad", "toad-postmaster", 70, 45, on="ground"))
    do(window, "wash-guides", "one", "two")
    assert (find(window, "two").x, find(window, "two").y) == (70, 40)
    answer_forms(monkeypatch, room="1 mm", how=0)
    do(window, "wash-outline", "dusk", "toad")
    (cover,) = find(window, "dusk").covers  # type: ignore[union-attr]
    assert cover.ring is not None
    answer_forms(monkeypatch, stamp=0, dwell="50")
    do(window, "water-stamp")
    water = newest(window)
    assert isinstance(water, Water)
    assert (water.stamp, water.dwell_s) == ("toad-postmaster", 50)
    dies = [one.name for one in window.session.work.stash.stamps if one.kind.value in {"die shape", "backdrop die"}]
    answer_forms(monkeypatch, outer=dies.index("cloud bubble"), inner=dies.index("moon"))
    do(window, "add-ring-of")
    ring = newest(window)
    assert isinstance(ring, Cutout)
    assert ring.cut_away == (window.session.work.stash.find("moon").outline,)
    settle(qtbot, window.session)


def test_a_part_is_lifted_by_drawing_round_it(window: MainWindow, qtbot: QtBot) -> None:
    behind = Cutout("moth", "dusk-moth", 30, 30, margin_mm=0.0)
    begin(window, behind, Panel("sheet", Form("rectangle", 90, 60), 70, 54, colour="#c9d0a0"))
    bench = window.panes["scene"].bench
    do(window, "flap-ring", "sheet")
    corners = [(20, 20), (62, 20), (60, 58), (20, 56), (20, 21)]
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    left, plain = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QTest.mousePress(bench.viewport(), left, plain, on_bench(bench, *corners[0]))
    for corner in corners[1:]:
        QTest.mouseMove(bench.viewport(), on_bench(bench, *corner))
    QTest.mouseRelease(bench.viewport(), left, plain, on_bench(bench, *corners[-1]))
    QTest.mouseClick(bench.viewport(), left, plain, on_bench(bench, 21, 28))
    flaps = find(window, "sheet").flaps  # type: ignore[union-attr]
    assert len(flaps) == 1
    assert flaps[0].past == "moth"
    settle(qtbot, window.session)
