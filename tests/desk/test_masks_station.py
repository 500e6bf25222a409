"""The timetable as an instrument, pins and prices, ticks, and what the Masks menu writes."""

import re
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QMessageBox
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.stations import MASKS, REHEARSAL, SCENE
from fair_thicket.edits.adding import add_wash
from fair_thicket.edits.ink_edits import blend_wash, set_wash
from fair_thicket.edits.pieces import add_impression, set_card
from fair_thicket.files.card_file import open_card
from fair_thicket.model.masking import MaskWay, Pin
from fair_thicket.model.pieces import Cutout, Splatter
from hands import answer_forms, button_that_says, click, drag, on_bench, settle

LEFT = Qt.MouseButton.LeftButton
PLAIN = Qt.KeyboardModifier.NoModifier


def pull(window: MainWindow, key: str, column: int, qtbot: QtBot, *, release: bool = True) -> None:
    """Drag a dot of the timetable over a column, wait for what it would bring, and let go."""
    table = window.panes["masks"].timetable
    start = table.dot_of(key).toPoint()
    QTest.mousePress(table, LEFT, PLAIN, start)
    over = QPoint(int(table.column_middle(column)), start.y())
    QTest.mouseMove(table, (start + over) / 2)
    QTest.mouseMove(table, over)
    QTest.mouseMove(table, QPoint(int(table.column_middle(column)) + 2, start.y()))
    qtbot.waitUntil(lambda: not table.preview.is_busy, timeout=60_000)
    if release:
        QTest.mouseRelease(table, LEFT, PLAIN, over)


@pytest.fixture
def station(window: MainWindow) -> MainWindow:
    """The demo card at the Masks station."""
    window.go(MASKS)
    return window


def test_a_dot_dragged_to_another_press_is_pinned_there_and_its_price_is_told(
    station: MainWindow, qtbot: QtBot
) -> None:
    before = station.session.outcome.plan
    home = before.press_of("letter-1")
    pull(station, "letter-1", home + 1, qtbot, release=False)
    told = station.panes["masks"]._legend.text()
    assert re.match(r"\d+ presses, \d+ masks, \d+ mm with care", told), told
    QTest.mouseRelease(
        station.panes["masks"].timetable,
        LEFT,
        PLAIN,
        QPoint(int(station.panes["masks"].timetable.column_middle(home + 1)), 99),
    )
    settle(qtbot, station.session)
    assert station.session.work.card.masking.pins == (Pin("press", ("letter-1",), home + 1),)
    assert station.session.outcome.plan.press_of("letter-1") == home + 1
    assert station.panes["masks"].timetable._pinned == {"letter-1"}
    station.session.undo_stack.undo()
    settle(qtbot, station.session)
    assert station.session.outcome.plan.press_of("letter-1") == home


def test_a_dot_that_may_not_go_there_says_why_and_stays(station: MainWindow, qtbot: QtBot) -> None:
    said: list[str] = []
    station.session.said.connect(said.append)
    pull(station, "letter-1", 0, qtbot)  # the moth stands in front of it
    assert said == [
        "The letter can come in press 2 at the earliest: dusk moth stands in front of it and is stamped before it."
    ]
    assert station.session.work.card.masking.pins == ()
    assert station.panes["masks"]._legend.text().startswith("a dot is a stamping")


def test_escape_lets_a_dot_go(station: MainWindow, qtbot: QtBot) -> None:
    table = station.panes["masks"].timetable
    QTest.mousePress(table, LEFT, PLAIN, table.dot_of("letter-1").toPoint())
    assert table._drag is not None
    QTest.keyClick(table, Qt.Key.Key_Escape)
    assert table._drag is None
    assert station.session.work.card.masking.pins == ()


def test_rows_and_presses_are_walked_with_the_arrow_keys(station: MainWindow) -> None:
    table = station.panes["masks"].timetable
    table.setFocus()
    for _ in range(2):
        QTest.keyClick(table, Qt.Key.Key_Down)
    assert station.session.selection == {table._rows[1].partition("/")[0]}
    QTest.keyClick(table, Qt.Key.Key_Right)
    assert table.press == 1


def test_the_menu_pins_what_is_chosen_and_takes_pins_away(station: MainWindow, qtbot: QtBot) -> None:
    menu_actions, session = station.actions_of.by_key, station.session
    assert not menu_actions["pin-first"].isEnabled()
    session.select({"lantern-1"})
    home = session.outcome.plan.press_of("lantern-1")
    menu_actions["pin-later"].trigger()
    settle(qtbot, session)
    assert session.outcome.plan.press_of("lantern-1") == home + 1
    session.select({"lantern-1", "tall-fern-1"})
    menu_actions["pin-together"].trigger()
    settle(qtbot, session)
    plan = session.outcome.plan
    assert plan.press_of("lantern-1") == plan.press_of("tall-fern-1")
    assert menu_actions["unpin"].isEnabled()
    menu_actions["unpin"].trigger()
    assert session.work.card.masking.pins == ()


def test_the_menu_at_the_pointer_is_about_the_row_under_it(station: MainWindow) -> None:
    table = station.panes["masks"].timetable
    QTest.mousePress(table, Qt.MouseButton.RightButton, PLAIN, table.dot_of("lantern-1").toPoint())
    assert station.session.selection == {"lantern-1"}
    assert table._drag is None
    assert [action.text() for action in table.actions()][:2] == ["Stamp it in the first press", "One press sooner"]


def test_pins_are_listed_with_what_they_cost_and_taken_away_there(station: MainWindow, qtbot: QtBot) -> None:
    session = station.session
    session.select({"parcel-1"})
    station.actions_of.by_key["pin-unmasked"].trigger()
    settle(qtbot, session)
    click(button_that_says(station.panes["masks"], "Pins"))
    qtbot.waitUntil(lambda: len(station.panes["masks"].pins.costs) == 1, timeout=60_000)
    qtbot.wait(30)
    pin, cost = station.panes["masks"].pins.costs[0]
    assert (pin.kind, cost.masks) == ("unmasked", -1)
    ghosts = [one for one in station.panes["masks"].advice.findings if one.code == "ghost"]
    assert {one.pieces[0] for one in ghosts} == {"parcel-1"}
    click(button_that_says(station.panes["masks"].pins, "Take it away"))
    settle(qtbot, session)
    assert session.work.card.masking.pins == ()
    assert session.outcome.rehearsal.differences == ()


def test_prices_are_shown_the_best_first_and_taken_with_a_click(station: MainWindow, qtbot: QtBot) -> None:
    session = station.session
    click(button_that_says(station.panes["masks"], "Mask or cut"))
    qtbot.waitUntil(lambda: len(station.panes["masks"].prices.prices) == 17, timeout=60_000)
    qtbot.wait(30)  # the cards are laid out
    minutes = [price.change.minutes for price in station.panes["masks"].prices.prices]
    assert minutes == sorted(minutes)
    first = station.panes["masks"].prices.prices[0]
    click(button_that_says(station.panes["masks"].prices, "cut it out"))
    settle(qtbot, session)
    assert session.work.card.masking.pins == (Pin("cut", (first.piece,)),)
    assert session.outcome.plan.presses[-1].impressions == (first.piece,)  # on the sheet to cut from
    qtbot.waitUntil(lambda: not station.panes["masks"].prices.worker.is_busy, timeout=60_000)
    qtbot.wait(30)
    click(button_that_says(station.panes["masks"].prices, "Cut them out on the card"))
    settle(qtbot, session)
    assert isinstance(session.work.card.find(first.piece), Cutout)
    assert session.work.card.masking.pins == ()


def test_the_quickest_mix_is_found_and_taken_or_said_to_be_here_already(station: MainWindow, qtbot: QtBot) -> None:
    session, said = station.session, []
    session.said.connect(said.append)
    station.panes["masks"].panes.show_pane(1)
    station.panes["masks"].prices.find_mix()
    qtbot.waitUntil(lambda: bool(said), timeout=60_000)
    assert said[0].startswith("No mix is quicker than it is planned now")


def test_rates_are_settings_that_turn_the_mix(
    station: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, said = station.session, []
    notes = answer_forms(monkeypatch, rough_min="30", glue_min="0")
    station.actions_of.by_key["rates"].trigger()
    assert "100 mm of line take 1.4 min" in notes[0]
    settle(qtbot, session)
    session.said.connect(said.append)
    station.panes["masks"].panes.show_pane(1)
    station.panes["masks"].prices.find_mix()
    qtbot.waitUntil(lambda: bool(said), timeout=60_000)
    assert said[0].startswith("Cut out")
    assert session.work.card.masking.pins[0].kind == "cut"
    answer_forms(monkeypatch, careful_mm_per_min="0")
    station.actions_of.by_key["rates"].trigger()
    assert session.work.card.masking.rates.careful_mm_per_min == 70.0


def test_a_step_is_ticked_off_and_the_tick_is_in_the_file(station: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    session = station.session
    rows = station.panes["masks"].steps.rows
    click(rows[0].box)
    assert session.work.card.masking.done == (rows[0].step.key,)
    QTest.mouseClick(rows[1]._words, LEFT)  # the words tick as well
    assert len(session.work.card.masking.done) == 2
    settle(qtbot, session)
    assert station.panes["masks"].timetable._done == {0}  # press 1 has just these two steps
    assert session.save(tmp_path / "ticked.thicket")
    assert open_card(tmp_path / "ticked.thicket")[0].card.masking.done == session.work.card.masking.done
    click(station.panes["masks"].steps.rows[0].box)
    assert len(session.work.card.masking.done) == 1


def test_masks_say_how_far_they_may_slip(station: MainWindow, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: station.panes["masks"]._slips is not None, timeout=60_000)
    assert all("may slip 0." in card._slip.text() for card in station.panes["masks"]._cards.values())
    assert len(station.panes["masks"]._cards) == 10


def test_one_mask_is_cut_another_way_by_the_form(
    station: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = station.session
    session.select({"courier-snail-1"})
    notes = answer_forms(monkeypatch, own="yes", rim="0.8", loose="yes")
    station.actions_of.by_key["mask-way"].trigger()
    assert "its own rim of 0.8 mm" in notes[0]
    settle(qtbot, session)
    assert session.work.card.masking.ways == (MaskWay("courier-snail-1", rim_mm=0.8, is_loose=True),)
    assert not session.outcome.rehearsal.differences, "a halo that was asked for is how the card was composed"
    answer_forms(monkeypatch, own="yes", rim="9")
    station.actions_of.by_key["mask-way"].trigger()
    assert session.work.card.masking.ways[0].rim_mm == 0.8


def test_the_table_is_described_by_the_form(station: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    notes = answer_forms(monkeypatch, lid="top", wide="3", high="3")
    station.actions_of.by_key["table"].trigger()
    assert "3 × 3 in" in notes[0].replace(" in × ", " × ")
    masking = station.session.work.card.masking
    assert (masking.lid, masking.sheet_mm) == ("top", (pytest.approx(76.2), pytest.approx(76.2)))


def test_masks_and_pictures_of_the_rehearsal_are_written(
    station: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    menu_actions = station.menu_actions.masks
    assert menu_actions.write_masks_to(str(tmp_path / "cut")) == len(list((tmp_path / "cut").glob("masks-*.svg"))) > 0
    count = menu_actions.write_frames_to(str(tmp_path / "frames"))
    assert count == len(station.session.outcome.plan.presses) + 2  # bare paper, and coloured at last
    with Image.open(tmp_path / "frames" / "press-06.png") as last:
        assert last.size == (1650, 1275)
    (tmp_path / "file").write_text("in the way")
    said: list[str] = []
    station.session.said.connect(said.append)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path / "file"))
    station.actions_of.by_key["mask-svg"].trigger()
    assert "is a file" in said[0]
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path / "again"))
    station.actions_of.by_key["frames"].trigger()
    assert said[1] == f"{count} files written."
    assert (tmp_path / "again" / "scene.png").exists()


def test_what_differs_is_pictured(station: MainWindow, qtbot: QtBot) -> None:
    station.session.edit("masks cut inside", lambda work: set_card(work, mask_rim_mm=-1.0))
    settle(qtbot, station.session)
    station.go(REHEARSAL)
    click(button_that_says(station.panes["rehearsal"], "what differs"))
    picture = station.panes["rehearsal"].view._image
    colours = [picture.pixelColor(x, y) for x in range(0, 1650, 3) for y in range(800, 1275, 3)]
    berry = sum(colour.red() > 150 > max(colour.green(), colour.blue()) for colour in colours)
    assert berry > 20, "ink that fell where none belongs"
    assert station.panes["rehearsal"].view._marks


def test_a_ring_is_offered_its_two_ways_out(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    window.go(SCENE)
    session = window.session
    session.edit("clear", lambda work: work.__class__(work.card.__class__(), work.stash))
    for stamp, at in (("toad-postmaster", (50, 40)), ("stump-letterbox", (68, 40)), ("courier-snail", (60, 56))):
        session.edit("stamp", lambda work, stamp=stamp, at=at: add_impression(work, stamp, at)[0])
    session.select({"toad-postmaster-1", "courier-snail-1"})
    shown: list[str] = []

    def answer(box: QMessageBox) -> int:
        shown.append(box.informativeText())
        chosen = next(button for button in box.buttons() if "trim" in button.text())
        monkeypatch.setattr(QMessageBox, "clickedButton", lambda self: chosen)
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    window.actions_of.by_key["past-only"].trigger()
    assert "closes a ring" in shown[0]
    assert isinstance(session.work.card.find("courier-snail-1"), Cutout)
    assert session.work.card.find("courier-snail-1").cut_away
    settle(qtbot, session)


# -- inking and covers by the Masks menu ---------------------------------------------------------------------------


def test_a_part_of_a_stamp_is_inked_by_a_line_and_a_click_on_the_bench(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, bench = window.session, window.panes["scene"].bench
    window.go(MASKS)
    session.select({"toad-postmaster-1"})
    window.actions_of.by_key["ink-part"].trigger()
    toad = session.work.card.find("toad-postmaster-1")
    drag(bench.viewport(), on_bench(bench, toad.x - 25, toad.y), on_bench(bench, toad.x + 25, toad.y))
    QTest.mouseClick(bench.viewport(), LEFT, PLAIN, on_bench(bench, toad.x, toad.y - 8))
    inked = session.work.card.find("toad-postmaster-1").inked
    assert inked is not None
    assert max(y for _, y in inked) == pytest.approx(0.0, abs=0.5)
    answer_forms(monkeypatch, ink="berry")
    window.actions_of.by_key["ink-zone"].trigger()
    drag(bench.viewport(), on_bench(bench, toad.x, toad.y - 25), on_bench(bench, toad.x, toad.y + 5))
    QTest.mouseClick(bench.viewport(), LEFT, PLAIN, on_bench(bench, toad.x - 8, toad.y - 5))
    assert [zone.ink for zone in session.work.card.find("toad-postmaster-1").zones] == ["#a92c48"]
    settle(qtbot, session)
    window.actions_of.by_key["ink-whole"].trigger()
    assert session.work.card.find("toad-postmaster-1") == toad
    resist = window.actions_of.by_key["resist"]
    resist.trigger()
    window.refresh()
    assert resist.isChecked()
    assert session.work.card.find("toad-postmaster-1").resists
    answer_forms(monkeypatch, powder="gold")
    window.actions_of.by_key["powder"].trigger()
    toad = session.work.card.find("toad-postmaster-1")
    assert (toad.powder, toad.ink, toad.resists) == (True, "#c59a3d", False)
    window.refresh()
    window.actions_of.by_key["no-powder"].trigger()
    assert not session.work.card.find("toad-postmaster-1").powder
    answer_forms(monkeypatch, when=1)
    window.actions_of.by_key["stamped"].trigger()
    assert session.work.card.find("toad-postmaster-1").stamped == "over dry inks"
    settle(qtbot, session)


def test_a_wash_is_covered_torn_splattered_and_bared(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, bench = window.session, window.panes["scene"].bench
    session.edit("add a wash", lambda work: add_wash(work, "#8f8fb8")[0])
    session.select({"wash-1"})
    menu_actions = window.actions_of.by_key
    window.actions_of.refresh()
    assert menu_actions["wash-cover"].isEnabled()
    answer_forms(monkeypatch, wide="20 mm", high="20 mm", x="90 mm", y="30 mm")
    menu_actions["wash-cover"].trigger()
    (cover,) = session.work.card.find("wash-1").covers
    assert (cover.kind, cover.form.width_mm) == ("disc", 20.0)
    menu_actions["wash-tear"].trigger()
    drag(bench.viewport(), on_bench(bench, 5, 70), on_bench(bench, 130, 72))
    QTest.mouseClick(bench.viewport(), LEFT, PLAIN, on_bench(bench, 60, 90))
    assert [one.kind for one in session.work.card.find("wash-1").covers] == ["disc", "torn"]
    settle(qtbot, session)
    assert session.outcome.plan.presses[-1].is_ink
    session.edit("splatter", lambda work: set_wash(work, "wash-1", Splatter, drops=40, seed=9))
    menu_actions["wash-bare"].trigger()
    assert session.work.card.find("wash-1").covers == ()
    settle(qtbot, session)


def test_a_wash_blended_of_several_inks_is_shown_so(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    window.go(SCENE)
    session.edit("add a wash", lambda work: add_wash(work, "#8f8fb8")[0])
    session.edit("blend", lambda work: blend_wash(work, "wash-1", ("#eec25a", "#2d3558"), "linear"))
    settle(qtbot, session)
    bench = window.panes["scene"].bench
    picture = bench.grab().toImage()
    high, low = (picture.pixelColor(on_bench(bench, 70.0, y)) for y in (2.0, 33.0))
    assert high.lightness() > low.lightness() + 20
