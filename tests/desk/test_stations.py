"""Thicket, masks, rehearsal, paper, the bars and what the desk as a whole must keep."""

import gc
import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QLabel, QMenu, QMessageBox, QWidget
from pytestqt.qtbot import QtBot

from fair_thicket import edits
from fair_thicket.desk import theme
from fair_thicket.desk.frame.actions import Record
from fair_thicket.desk.frame.application import furnish, make_application, offer_recovery, open_window
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.frame.station import Pane, State, Station
from fair_thicket.desk.parts.controls import Hint
from fair_thicket.desk.scene.thicket_layout import lay_rows, order_for_drop
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.stash.station import LIBRARY
from fair_thicket.desk.stations import MASKS, PAPER, REHEARSAL, SCENE, STASH, STATIONS
from fair_thicket.edits.pieces import set_card
from fair_thicket.files.recovery import find_recovered
from fair_thicket.laid.visibility import look
from fair_thicket.model.errors import PaperError
from fair_thicket.model.supplies import Paper
from hands import LEFT, button_that_says, click, settle
from making import work_of

# -- the thicket ---------------------------------------------------------------------------------------------------


def test_rows_rise_over_what_is_overlapped_and_are_shared_where_bars_do_not_meet() -> None:
    layout = lay_rows(look(work_of(("a", 20, 20), ("b", 26, 20), ("c", 60, 20), ("d", 32, 20))))
    assert {bar.key[0]: bar.row for bar in layout.bars} == {"a": 0, "b": 1, "c": 0, "d": 2}
    assert layout.rows == 3
    assert [(thread.back[0], thread.front[0], thread.x) for thread in layout.threads] == [
        ("a", "b", 23),
        ("b", "d", 29),
    ]
    assert layout.threads[0].area_mm2 == pytest.approx(40)


@pytest.mark.parametrize(
    ("key", "level", "expected"),
    [("a-1", 1.5, "bac"), ("a-1", 2.5, "bac"), ("c-3", -0.5, "acb"), ("b-2", -0.5, "bac"), ("b-2", 2.5, "acb")],
)
def test_a_dropped_bar_passes_only_what_it_overlaps(key: str, level: float, expected: str) -> None:
    work = work_of(("a", 20, 20), ("b", 26, 20), ("c", 32, 20))  # a under b under c, a and c apart
    assert "".join(one[0] for one in order_for_drop(lay_rows(look(work)), key, level)) == expected


def test_the_thicket_is_worked_by_keys_too(window: MainWindow) -> None:
    thicket, session = window.panes["scene"].thicket, window.session
    QTest.keyClick(thicket, Qt.Key.Key_Right)
    (first,) = session.selection
    before = [piece.id for piece in session.work.card.pieces]
    QTest.keyClick(thicket, Qt.Key.Key_Up)
    after = [piece.id for piece in session.work.card.pieces]
    assert after.index(first) > before.index(first)
    assert "in front of" in thicket._tell(next(bar for bar in thicket.layout_rows.bars if bar.key == first))


# -- masks and rehearsal -------------------------------------------------------------------------------------------


def test_a_press_is_chosen_by_click_and_by_arrow_keys(window: MainWindow) -> None:
    window.go(MASKS)
    table = window.panes["masks"].timetable
    QTest.mouseClick(table, LEFT, Qt.KeyboardModifier.NoModifier, table._centre(2, 0).toPoint())
    assert table.press == 2
    QTest.keyClick(table, Qt.Key.Key_Left)
    assert table.press == 1
    assert window.panes["masks"]._press_heading.text() == "Press 2, step by step"
    assert window.panes["masks"].view._masks


def test_a_rim_outside_is_composed_with_its_gap_and_one_far_inside_foretells_ghosts(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.go(MASKS)
    settle(qtbot, window.session)
    on_the_line = window.session.outcome.rehearsal.scene
    click(button_that_says(window.panes["masks"], "outside 1 mm"))
    settle(qtbot, window.session)
    made = window.session.outcome.rehearsal
    assert made.differences == ()
    assert (made.scene != on_the_line).any()
    window.session.edit("cut masks elsewhere", lambda work: set_card(work, mask_rim_mm=-1.0))
    settle(qtbot, window.session)
    assert [one for one in window.panes["masks"].advice.findings if one.code == "ghost"]
    click(button_that_says(window.panes["masks"].advice, "Cut masks on the line"))
    settle(qtbot, window.session)
    assert window.session.outcome.rehearsal.differences == ()
    click(window.panes["masks"].rim_step.less)
    assert window.session.work.card.mask_rim_mm == -0.05


def test_the_rehearsal_runs_from_bare_paper_to_the_card(window: MainWindow, qtbot: QtBot) -> None:
    window.menu_actions.rehearse()
    assert window.here == REHEARSAL
    station, outcome = window.panes["rehearsal"], window.session.outcome
    station._stop()
    qtbot.waitUntil(lambda: not station.lander.is_busy and station._landing is not None, timeout=60_000)
    landed, presses = station._landing.landing, 2 * len(outcome.plan.presses)
    assert (station.slider.minimum(), station.slider.maximum()) == (0, presses + len(landed.pieces))
    station.slider.setValue(0)
    assert station._words.text() == "Bare paper"
    station.slider.setValue(3)
    assert station._words.text() == "Masks laid for press 2"
    assert station.view._masks
    station.slider.setValue(presses + 1)
    assert station._words.text() == f"Colour the {window.session.names[landed.pieces[0]]}"
    station.slider.setValue(station.slider.maximum())
    assert station._words.text() == f"Colour the {window.session.names[landed.pieces[-1]]}: the finished card"
    click(button_that_says(station, "as composed"))
    assert station._words.text() == "The scene as composed"


def test_paper_follows_the_unit_and_the_choice(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    window.go(PAPER)
    qtbot.waitUntil(window.panes["paper"].save_button.isEnabled, timeout=60_000)
    letter = window.panes["paper"].pages[0].pixmap().size()
    click(button_that_says(window.panes["paper"], "A4 sheets"))
    qtbot.waitUntil(window.panes["paper"].save_button.isEnabled, timeout=60_000)
    assert window.panes["paper"].pages[0].pixmap().height() > letter.height()
    with qtbot.waitSignal(window.session.said) as caught:
        window.panes["paper"].write_to(tmp_path / "none" / "plan.pdf")
    assert "is not there" in caught.args[0]


# -- the desk as a whole -------------------------------------------------------------------------------------------


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800), (1920, 1080)])
def test_no_words_are_cut_off_at_any_station(
    make_window: Callable[..., MainWindow], qtbot: QtBot, size: tuple[int, int]
) -> None:
    window = make_window(demo=True, size=size)
    assert (window.width(), window.height()) == size
    stamps, pictures = window.session.work.stash.stamps, window.session.pictures
    window.session.keep_in_library(stamps, pictures)
    window.session.library.keep_supplies([Paper("ivory base", "#fbf6e6", sheets_left=12)])
    window.panes["stash"].intake.scan_demo()
    qtbot.waitUntil(lambda: len(window.panes["stash"].intake.list.rows) == 14, timeout=60_000)
    window.panes["stash"].intake.page.choose({1})
    for station in STATIONS:
        window.go(station.key)
        for pane in range(4 if station.key == STASH else 1):
            if station.key == STASH:
                window.panes["stash"].show_pane(pane)
                if pane == LIBRARY:
                    window.panes["stash"].library.view.setCurrentIndex(window.panes["stash"].library.entries.index(0))
            QApplication.processEvents()
            hold_words(window, f"{station.title} {pane}")


def hold_words(window: MainWindow, where: str) -> None:
    """Every label and button that is seen has room for its words."""
    for part in window.findChildren(QWidget):
        if not part.isVisible() or part.visibleRegion().isEmpty():
            continue
        if isinstance(part, QLabel) and not isinstance(part, Hint) and not part.wordWrap() and part.text():
            assert part.width() + 1 >= part.sizeHint().width(), (where, part.text())
        elif isinstance(part, QAbstractButton) and part.text():
            assert part.width() + 1 >= part.minimumSizeHint().width(), (where, part.text())


def test_everything_that_can_be_clicked_has_a_name(window: MainWindow) -> None:
    for station in STATIONS:
        window.go(station.key)
        for part in window.findChildren(QAbstractButton):
            if part.isVisible():
                assert part.text() or part.accessibleName(), station.title


def test_no_two_actions_share_keys_and_each_is_listed(window: MainWindow) -> None:
    keys = [keys for _, keys in window.actions_of.list_keys()]
    assert len(keys) == len(set(keys))
    for record in window.actions_of.records:
        assert record.words or not record.key  # a line between groups has neither
        assert callable(record.call)


def test_stations_are_reached_by_keys_and_tell_what_is_open(window: MainWindow) -> None:
    for station in STATIONS:
        window.actions_of.by_key[f"go-{station.key}"].trigger()
        assert window.panes[station.key].isVisible()
        assert window.path.marks[station.key].is_here
    marks = window.path.marks
    assert marks[SCENE].state.endswith("to settle")
    assert marks[REHEARSAL].state == "equal"
    assert marks[SCENE].accessibleName().startswith("Scene, ")


def test_the_unit_changes_everywhere(window: MainWindow) -> None:
    window.session.select({"toad-postmaster-1"})
    assert window.panes["scene"].piece.left.text().endswith(" in")
    click(window._unit)
    assert window.panes["scene"].piece.left.text().endswith(" mm")
    assert "139.7 × 108 mm" in window._about_card.text()
    assert any(card.accessibleName().endswith(" mm") for card in window.panes["scene"].drawer.cards)


def test_the_drawer_finds_by_words(window: MainWindow) -> None:
    QTest.keyClicks(window.panes["scene"].drawer.search, "fern TALL")
    shown = [card.stamp.name for card in window.panes["scene"].drawer.cards if card.isVisible()]
    assert shown == ["tall fern"]
    card = next(card for card in window.panes["scene"].drawer.cards if card.isVisible())
    QTest.keyClick(card, Qt.Key.Key_Return)
    assert window.session.work.card.pieces[-1].stamp == "tall-fern"


def test_a_card_that_is_not_saved_is_not_left_without_asking(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    window = open_window(demo=True)
    qtbot.addWidget(window, before_close_func=lambda made: made.session.undo_stack.setClean())
    window.session.edit("name", lambda work: edits.set_card(work, title="mine"))
    answers = iter([QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Discard])
    monkeypatch.setattr(QMessageBox, "exec", lambda self: next(answers))
    window.menu_actions.open_demo()
    assert window.session.work.card.title == "mine"
    window.menu_actions.open_demo()
    assert window.session.work.card.title == "Fernside post"


def test_work_of_a_killed_program_is_offered_and_taken_up(
    make_window: Callable[..., MainWindow], monkeypatch: pytest.MonkeyPatch
) -> None:
    window = make_window(demo=True)
    window.session.edit("name", lambda work: edits.set_card(work, title="half done"))
    window.session.keep(wait=True)
    left = window.session._autosave.file
    note = left.with_suffix(".json")
    note.write_bytes(note.read_bytes().replace(b'"started":', b'"started":1'))  # as if another process had written it
    assert len(find_recovered()) == 1
    other = make_window()
    offer_recovery(other)
    assert other.offer.isVisible()
    click(other.offer.later)
    assert not other.offer.isVisible()
    assert len(find_recovered()) == 1  # it is offered again at the next start
    offer_recovery(other)
    click(other.offer.take)
    assert other.session.work.card.title == "half done"
    assert other.session.is_dirty


# -- work elsewhere ------------------------------------------------------------------------------------------------


def test_only_the_newest_request_is_answered(qtbot: QtBot) -> None:
    worker = Worker()
    got: list[int] = []
    worker.done.connect(got.append)
    for number in range(5):
        worker.ask(lambda number=number: number)
    qtbot.waitUntil(lambda: not worker.is_busy, timeout=60_000)
    assert got == [4]
    worker.ask(lambda: 9)
    worker.cancel()
    qtbot.waitUntil(lambda: not worker.is_busy, timeout=60_000)
    assert got == [4]
    worker.close()


def test_a_refused_request_is_told_and_the_next_is_answered(qtbot: QtBot) -> None:
    worker = Worker()

    def refuse() -> None:
        raise PaperError("Paper cannot do that.")

    with qtbot.waitSignal(worker.failed) as caught:
        worker.ask(refuse)
    assert caught.args == ["Paper cannot do that."]
    with qtbot.waitSignal(worker.done) as caught:
        worker.ask(lambda: 7)
    assert caught.args == [7]
    worker.close()


def test_emitting_a_signal_keeps_the_count_of_true(qtbot: QtBot) -> None:
    """Some bindings lose a reference with every emit and abort after a few thousand."""

    class Source(QObject):
        told = Signal(bool)

    source = Source()
    gc.collect()
    before = sys.getrefcount(True)
    for _ in range(2000):
        source.told.emit(True)
    assert abs(sys.getrefcount(True) - before) < 100


# -- the look ------------------------------------------------------------------------------------------------------


def luminance(colour: QColor) -> float:
    """Relative luminance of a colour, WCAG 2.1."""
    parts = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in colour.getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(first: QColor, second: QColor) -> float:
    high, low = sorted((luminance(first), luminance(second)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize(
    ("words", "ground"),
    [
        *[(ink, ground) for ink in (theme.INK, theme.SOFT_INK, theme.HONEY_TEXT, theme.BERRY, theme.PINE, theme.FERN)
          for ground in (theme.PAPER, theme.SAND, QColor("white"))],
        (theme.INK, theme.HONEY),
        (theme.SOFT_INK, theme.MIST),
        (theme.FERN, theme.BARK),
        (theme.HONEY_TEXT, theme.BARK),
        (QColor("white"), theme.PINE),
        *[(QColor("white"), QColor(tint)) for tint in theme.BAR_TINTS],
    ],
)  # fmt: skip
def test_words_stand_out_from_their_ground(words: QColor, ground: QColor) -> None:
    """WCAG 2.1, success criterion 1.4.3: at least 4.5 to 1."""
    assert contrast(words, ground) >= 4.5


def test_a_leaf_is_closed_round_its_base_and_tip() -> None:
    path = theme.leaf_path(QPointF(10, 0), QPointF(0, 0))
    assert path.elementAt(0).x == path.currentPosition().x()
    assert path.contains(QPointF(5, 1))


class Ledger(Pane):
    """A station of this test's own, with an action and a menu of its own."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.menus["Ledger"] = QMenu(self)
        self.entered = self.is_closed = False

    def state(self) -> State:
        return State(f"{len(self.session.work.card.pieces)} entries", is_open=True)

    def records(self) -> list[Record]:
        return [Record("enter", "Ledger", "Enter this card", "Alt+9", self.enter)]

    def enter(self) -> None:
        self.entered = True

    def close_workers(self) -> None:
        self.is_closed = True


def test_a_station_more_is_one_record(qtbot: QtBot) -> None:
    make_application()
    window = MainWindow(stations=[*STATIONS, Station("ledger", "Ledger", lambda session, _: Ledger(session))])
    qtbot.addWidget(window)
    furnish(window, demo=True)
    window.actions_of.by_key["go-ledger"].trigger()
    assert window.here == "ledger"
    ledger = window.panes.of(Ledger)
    assert window.path.marks["ledger"].state == "17 entries"
    assert window.path.marks["ledger"].is_open
    assert window.actions_of.by_key["go-ledger"].shortcut().toString() == "Alt+9"
    (entry,) = ledger.menus["Ledger"].actions()
    entry.trigger()
    assert ledger.entered
    assert ("Alt+9", "Enter this card") in window.actions_of.list_keys()
    settle(qtbot, window.session)
    window.session.undo_stack.setClean()
    window.close()
    assert ledger.is_closed


def test_a_worker_gives_memory_back_when_it_rests(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    given: list[int] = []
    monkeypatch.setattr("fair_thicket.desk.session.background.give_memory_back", lambda: given.append(1))
    worker = Worker()
    worker._rest.setInterval(1)
    with qtbot.waitSignal(worker.done, timeout=60_000):
        worker.ask(lambda: 1)
    qtbot.waitUntil(lambda: bool(given), timeout=60_000)
    worker.close()
    assert given == [1]
