"""The Assembly station: the card cut open, levels by dragging, backs, the schedule, steps with their whys and ticks."""

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from fair_thicket.assembly.landing import landed_after
from fair_thicket.demo import CARD_FILES
from fair_thicket.desk.assembly import assembly_actions
from fair_thicket.desk.assembly.rules_form import fields_of
from fair_thicket.desk.assembly.side_view import bars_at
from fair_thicket.desk.assembly.station import AssemblyStation
from fair_thicket.desk.assembly.table import AtTable
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.parts.form import Values
from fair_thicket.edits.pieces import set_card
from fair_thicket.files.card_file import save_card
from fair_thicket.model.pieces import Form, Panel
from fair_thicket.model.units import Unit
from hands import answer_forms, click, settle

Station = tuple[MainWindow, AssemblyStation]


@pytest.fixture
def at_assembly(window: MainWindow, qtbot: QtBot) -> Station:
    window.session.open(CARD_FILES[1])
    settle(qtbot, window.session)
    window.go("assembly")
    station = window.panes.of(AssemblyStation)
    qtbot.waitUntil(lambda: station.made is not None and not station.planner.is_busy, timeout=60_000)
    return window, station


def test_the_card_is_cut_where_the_line_lies_true_along_the_card(at_assembly: Station) -> None:
    _, station = at_assembly
    station.card.set_cut(60.0)
    side = station.shown
    assert side is not None
    bars = {bar.piece: bar for bar in station.side.bars if not bar.is_foam}
    mat = side.heights.find("mat-1")
    assert (bars["mat-1"].start_mm, bars["mat-1"].end_mm) == pytest.approx((mat.area.bounds[0], mat.area.bounds[2]))
    assert station.side.bars == bars_at(side, 60.0)
    before = len(station.side.bars)
    station.card.setFocus()
    for _ in range(30):
        QTest.keyClick(station.card, Qt.Key.Key_Down)
    assert station.card.cut_mm == pytest.approx(107.95, abs=0.1)
    assert len(station.side.bars) != before


def test_a_click_on_the_card_shows_the_back_and_a_drag_in_the_side_view_gives_foam(
    at_assembly: Station, qtbot: QtBot
) -> None:
    window, station = at_assembly
    toad = window.session.work.card.find("toad-postmaster-1")
    left, scale = station.card.left_and_scale()
    box = station.card._panel_box()
    place = QPoint(round(left + toad.x * scale), round(box.top() + (toad.y - 2) * scale))
    QTest.mouseClick(station.card, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, place)
    assert window.session.selection == {"toad-postmaster-1"}
    assert "foam 1.6 mm high" in station._back_words.text()
    assert station._back_name.text() == "Back of the toad postmaster"
    station.card.set_cut(toad.y)
    bar = next(one for one in station.side.bars if one.piece == "toad-postmaster-1" and not one.is_foam)
    start = station.side._box(bar).center().toPoint()
    up = QPoint(0, round(1.6 * station.side.thicker * scale))
    QTest.mousePress(station.side, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    QTest.mouseMove(station.side, start - up)
    QTest.mouseRelease(station.side, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start - up)
    lifted = window.session.work.card.find("toad-postmaster-1")
    assert lifted.lift_mm == pytest.approx(3.2, abs=0.41)
    qtbot.waitUntil(lambda: station._of is window.session.work, timeout=60_000)
    window.session.undo_stack.undo()
    assert window.session.work.card.find("toad-postmaster-1").lift_mm == 1.6


def test_steps_say_why_they_wait_their_ticks_are_kept_and_the_next_is_found_again(
    at_assembly: Station, qtbot: QtBot
) -> None:
    window, station = at_assembly
    assert station.made is not None
    steps = station.made.schedule.steps
    assert len(station.rows) == len(steps) == 32
    last = len(steps) - 1
    station.schedule.setFocus()
    spot = station.schedule.box_of(last - 1).center().toPoint()
    QTest.mouseClick(station.schedule, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
    assert station.schedule.chosen == last - 1
    QTest.keyClick(station.schedule, Qt.Key.Key_Right)
    assert station.schedule.chosen == last
    QTest.keyClick(station.schedule, Qt.Key.Key_Right)
    assert station.schedule.chosen == last
    for row in station.rows[:3]:
        row.box.click()
    done = window.session.work.card.masking.done
    assert [f"do {one.operation.key}" for one in steps[:3]] == list(done)
    assert station._next_step() == 3
    qtbot.waitUntil(lambda: station._of is window.session.work, timeout=60_000)
    assert station.schedule.chosen == 3


def test_a_card_on_which_nothing_is_glued_says_what_to_do(window: MainWindow, qtbot: QtBot) -> None:
    settle(qtbot, window.session)
    window.go("assembly")
    station = window.panes.of(AssemblyStation)
    qtbot.waitUntil(lambda: station.made is not None and not station.planner.is_busy, timeout=60_000)
    assert station.side.bars == []
    assert not station.side.grab().isNull()
    assert not station.back.grab().isNull()
    assert station.made is not None
    assert station.made.schedule.steps


def test_a_card_is_made_at_the_table_by_keys_alone_and_begun_again_where_it_was_left(
    at_assembly: Station, qtbot: QtBot, tmp_path: Path
) -> None:
    window, station = at_assembly
    QTest.keyClick(window, Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
    table = station.table
    assert table is not None
    assert table.isFullScreen()
    steps = table._made.schedule.steps
    for number in range(5):
        assert table.words.text() == steps[number].operation.words
        QTest.keyClick(table, Qt.Key.Key_Space)
    QTest.keyClick(table, Qt.Key.Key_Left)
    assert table.index == 4
    assert len(window.session.work.card.masking.done) == 4
    QTest.keyClick(table, Qt.Key.Key_Right)
    qtbot.waitUntil(lambda: not table.is_busy, timeout=60_000)
    assert not table.grab().isNull()
    saved = tmp_path / "half.thicket"
    save_card(saved, window.session.whole, window.session.pictures)
    QTest.keyClick(table, Qt.Key.Key_Escape)
    assert not table.isVisible()
    # killed, and begun again from the file
    window.session.open(saved)
    settle(qtbot, window.session)
    qtbot.waitUntil(lambda: station.made is not None and station._of is window.session.work, timeout=60_000)
    station.go_to_table()
    again = station.table
    assert again is not None
    assert again.index == 5
    assert again.words.text() == steps[5].operation.words
    while again.step is not None:
        QTest.keyClick(again, Qt.Key.Key_Return)
    assert "all 32 steps are done" in again.count.text()
    QTest.keyClick(again, Qt.Key.Key_Space)
    assert not again.isVisible()
    window.session.undo_stack.undo()
    assert len(window.session.work.card.masking.done) == 31


def test_what_has_to_dry_is_waited_for_by_a_clock_that_needs_no_sound(at_assembly: Station) -> None:
    window, station = at_assembly
    assert station.made is not None
    last = len(station.made.schedule.steps) - 1  # the envelope: glue holds after five minutes
    table = AtTable(window.session, station.made, last)
    assert table.clock.text().startswith("wait ")
    before = table._left_s
    table._tick_clock()
    assert table._left_s == before - 1
    for _ in range(before):
        table._tick_clock()
    assert table.clock.text() == "dry: go on"
    table.reject()


def test_ticks_tell_the_makers_own_pace_and_it_is_used_when_asked(
    at_assembly: Station, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, station = at_assembly
    assert station.made is not None
    clock = [0.0]
    table = AtTable(window.session, station.made, 0, now=lambda: clock[0])
    while table.step is not None:
        clock[0] += 2 * 60 * table.step.operation.minutes
        QTest.keyClick(table, Qt.Key.Key_Space)
    table.reject()
    before = window.session.work.card.masking.rates
    window.refresh()
    notes = answer_forms(monkeypatch, use=0)
    window.actions_of.by_key["pace"].trigger()
    assert any("2.0 times as long as planned" in note for note in notes)
    after = window.session.work.card.masking.rates
    assert after.glue_min == pytest.approx(2 * before.glue_min)
    assert after.careful_mm_per_min == pytest.approx(before.careful_mm_per_min / 2)
    settle(qtbot, window.session)


def test_the_base_is_shortened_from_the_menu(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    panel = Panel("ground", Form("rectangle", 133.7, 90), 69.85, 54)
    session.edit("a bare card", lambda work: set_card(work, pieces=(panel,)))
    window.refresh()
    window.actions_of.by_key["equal-borders"].trigger()
    assert session.work.card.panel == pytest.approx((139.7, 96.0))
    assert session.work.card.assembly.shortened_mm == pytest.approx(11.95)
    settle(qtbot, session)


def test_the_picture_of_a_step_shows_what_is_on_the_card_by_then(at_assembly: Station) -> None:
    window, station = at_assembly
    assert station.made is not None
    keys = [landed_after(station.made, n) for n in range(len(station.made.schedule.steps))]
    assert keys[0] == frozenset()
    names = [one.operation.key for one in station.made.schedule.steps]
    assert "dusk-1" in keys[names.index("press 1")]  # it is being inked
    assert "dusk-1" not in keys[names.index("glue mat-1")]  # its panel is not on the card yet
    assert {"dusk-1", "sky-1"} <= keys[names.index("glue sky-1")]
    every = {piece.id for piece in window.session.work.card.pieces}
    assert keys[-1] == every


def test_a_step_is_put_earlier_or_told_why_it_cannot_be(at_assembly: Station, qtbot: QtBot) -> None:
    window, station = at_assembly
    assert station.made is not None
    keys = [one.operation.key for one in station.made.schedule.steps]
    said: list[str] = []
    window.session.said.connect(said.append)
    index = keys.index("colour")
    assert keys[index - 1].startswith("cut ")
    station.show_step(index)
    click(station.earlier)
    assert window.session.work.card.assembly.order == (("colour", keys[index - 1]),)
    qtbot.waitUntil(lambda: station._of is window.session.work, timeout=60_000)
    assert station.made is not None
    after = [one.operation.key for one in station.made.schedule.steps]
    assert after.index("colour") < after.index(keys[index - 1])
    assert station.made.schedule.steps[station._step].operation.key == "colour"
    assert station.own_order.isVisible()
    click(station.own_order)
    assert window.session.work.card.assembly.order == ()
    qtbot.waitUntil(lambda: station._of is window.session.work, timeout=60_000)
    station.show_step(len(station.made.schedule.steps) - 1)
    click(station.earlier)
    assert any("the card is done before it is posted" in words for words in said)
    assert window.session.work.card.assembly.order == ()


def test_tapes_and_drying_are_asked_for_and_taken(
    at_assembly: Station, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, station = at_assembly

    def answer(_window: object, _title: str, fields: list, **_: object) -> dict[str, object]:
        changed = {"widths": "10, 4 mm", "hold_min": 8, "foam_in_mm": 3.0}
        return Values({field.key: changed.get(field.key, field.value) for field in fields})

    monkeypatch.setattr(assembly_actions, "ask", answer)
    window.actions_of.by_key["assembly-rules"].trigger()
    rules = window.session.work.card.assembly
    assert (rules.foam_widths, rules.hold_min, rules.foam_in_mm) == ((10.0, 4.0), 8.0, 3.0)
    qtbot.waitUntil(lambda: station._of is window.session.work, timeout=60_000)
    assert station.shown is not None
    assert {one.width_mm for one in station.shown.foam.strips} <= {10.0, 4.0, 2.0, 1.2}
    before = window.session.work
    monkeypatch.setattr(
        assembly_actions,
        "ask",
        lambda *_, **__: Values({**answer(None, "", fields_of(rules, Unit.INCH)), "widths": ","}),
    )
    window.actions_of.by_key["assembly-rules"].trigger()
    assert window.session.work is before
