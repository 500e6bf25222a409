"""The Sheets station: the list, every sheet, an image moved by hand, cards counted, files written."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from fair_thicket.demo import CARD_FILES
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.paper import station as paper_station
from fair_thicket.desk.parts.form import Values
from fair_thicket.desk.sheets import station as sheets_station
from fair_thicket.desk.sheets.station import SheetsStation
from fair_thicket.desk.stations import PAPER, SHEETS
from fair_thicket.sheets import plan_sheets, planning
from fair_thicket.sheets.moving import move_image
from hands import click, drag, settle

Station = tuple[MainWindow, SheetsStation]


@pytest.fixture
def at_sheets(make_window: Callable[..., MainWindow], qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Station:
    """The slimline demo card at the Sheets station, laid out."""
    monkeypatch.setattr(planning, "SECONDS", 0.0)
    window = make_window(demo=True)
    window.session.open(CARD_FILES[2])
    window.go(SHEETS)
    station = window.panes[SHEETS]
    assert isinstance(station, SheetsStation)
    wait(qtbot, station)
    return window, station


def wait(qtbot: QtBot, station: SheetsStation) -> None:
    qtbot.waitUntil(
        lambda: station.plan is not None and not station.planner.is_busy and station._next is None, timeout=60_000
    )


def test_every_thing_has_a_line_whose_tick_is_kept(at_sheets: Station) -> None:
    window, station = at_sheets
    assert len(station.rows) == 17
    station.rows[1].box.click()
    assert window.session.work.card.masking.done == ("make sky-1",)


def test_every_kind_of_sheet_is_shown_and_turned_over_page_by_page(at_sheets: Station) -> None:
    _, station = at_sheets
    for index, count in ((1, 1), (2, 6), (3, 6)):
        click(station.views.buttons[index])
        assert station.view.shown is not None
        pages = 1
        while station.after.isEnabled():
            click(station.after)
            pages += 1
        assert pages == count
        assert not station.view.grab().isNull()
    click(station.before)
    assert station.after.isEnabled()


def test_an_image_is_dragged_its_gaps_are_told_and_undo_puts_it_back(at_sheets: Station, qtbot: QtBot) -> None:
    window, station = at_sheets
    click(station.views.buttons[1])
    view = station.view
    assert view.shown is not None
    assert station.plan is not None
    first = station.plan.stamping[0].nesting
    start = view.place_of(0)
    drag(view, start.toPoint(), (start + QPointF(120, 0)).toPoint())
    told = station.told.text()
    assert "mm to the edge" in told
    before = station.plan.stamping[0].nesting.sheets[0].spots[0].x_mm
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Right)
    assert station.plan.stamping[0].nesting.sheets[0].spots[0].x_mm == pytest.approx(before + 1.0)
    for _ in range(30):
        QTest.keyClick(view, Qt.Key.Key_Up)
    assert "at least" in station.told.text()
    while window.session.undo_stack.canUndo():
        window.session.undo_stack.undo()
    qtbot.waitUntil(lambda: station.plan is not None and station.plan.stamping[0].nesting == first, timeout=60_000)


def test_an_image_moved_while_its_sheets_are_bettered_stays_moved_and_is_printed_so(
    at_sheets: Station, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, station = at_sheets
    printed: list[object] = []

    def draw_pages(*_: object, laid: object, **__: object) -> tuple[bytes, list[bytes]]:
        printed.append(laid)
        return b"%PDF", []

    monkeypatch.setattr(paper_station, "draw_pages", draw_pages)
    click(station.views.buttons[1])
    late = sheets_station._Planned(window.session.whole, plan_sheets(window.session.whole, seconds=0.0))
    drag(station.view, station.view.place_of(0).toPoint(), (station.view.place_of(0) + QPointF(60, 0)).toPoint())
    moved = station.plan
    assert moved is not None
    assert moved.stamping[0].is_by_hand
    station.planner.done.emit(late)  # a better plan of the card as it was
    settle(qtbot, window.session)
    assert station.plan is moved
    window.go(PAPER)
    qtbot.waitUntil(lambda: bool(printed), timeout=60_000)
    assert printed == [moved]


def test_more_cards_take_more_of_everything_and_undo_takes_them_back(at_sheets: Station, qtbot: QtBot) -> None:
    window, station = at_sheets
    for _ in range(3):
        station.papers.set_cards(station.papers.cards.value + 1)
    qtbot.waitUntil(lambda: bool(station.rows) and "4 ×" in station.rows[0].box.accessibleName(), timeout=60_000)
    wait(qtbot, station)
    station.papers.spares.click()
    assert window.session.work.card.sheets.spares
    while window.session.undo_stack.canUndo():
        window.session.undo_stack.undo()
    assert window.session.work.card.sheets.cards == 1


def test_margins_are_asked_for_and_taken(at_sheets: Station, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    window, station = at_sheets

    def answer(_window: object, _title: str, fields: list, **_: object) -> dict[str, object]:
        return Values({field.key: 20.0 if field.key == "hold_mm" else field.value for field in fields})

    monkeypatch.setattr(sheets_station, "ask", answer)
    assert station.plan is not None
    plan = station.plan
    window.session.edit("move", lambda work: move_image(work, plan, 0, 0, (1.0, 0.0)))
    window.actions_of.by_key["sheet-rules"].trigger()
    assert window.session.work.card.sheets.hold_mm == 20.0
    assert window.session.work.card.sheets.by_hand  # what the form does not ask for stays
    wait(qtbot, station)
    settle(qtbot, window.session)


def test_files_are_written_into_a_folder(at_sheets: Station, qtbot: QtBot, tmp_path: Path) -> None:
    window, station = at_sheets
    said: list[str] = []
    window.session.said.connect(said.append)
    station.write_to(str(tmp_path))
    qtbot.waitUntil(lambda: bool(said), timeout=60_000)
    assert "files written" in said[0]
    assert (tmp_path / "cut-list.csv").exists()
    (tmp_path / "file").write_text("")
    station.write_to(str(tmp_path / "file" / "folder"))
    qtbot.waitUntil(lambda: len(said) > 1, timeout=60_000)
    assert "files written" not in said[1]
