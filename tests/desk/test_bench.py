"""The bench and the piece panel: moving, turning, choosing, nudging, typing."""

import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.scene.bench import Bench
from fair_thicket.desk.scene.gaps import GapMeter
from hands import button_that_says, click, drag, on_bench, settle
from making import work_of

TOAD = "toad-postmaster-1"
SHIFT = Qt.KeyboardModifier.ShiftModifier
CTRL = Qt.KeyboardModifier.ControlModifier


def place(window: MainWindow, key: str = TOAD) -> tuple[float, float, float]:
    piece = window.session.work.card.find(key)
    return piece.x, piece.y, piece.angle_deg


def spot(window: MainWindow, key: str = TOAD) -> QPoint:
    return on_bench(window.panes["scene"].bench, *place(window, key)[:2])


def test_a_drag_moves_an_image_by_exactly_that_much_in_one_step(window: MainWindow) -> None:
    bench = window.panes["scene"].bench
    x, y, _ = place(window)
    start = spot(window)
    drag(bench.viewport(), start, start + QPoint(40, -20), modifier=CTRL)
    assert place(window)[:2] == pytest.approx((x + 40 / bench.px_per_mm, y - 20 / bench.px_per_mm), abs=1e-3)
    assert window.session.undo_stack.count() == 1
    window.session.undo_stack.undo()
    assert place(window)[:2] == (x, y)


def test_a_drag_that_is_given_up_changes_nothing(window: MainWindow) -> None:
    bench, before = window.panes["scene"].bench, window.session.work
    start = spot(window)
    drag(bench.viewport(), start, start + QPoint(40, 0), release=False)
    assert bench.over.gaps
    QTest.keyClick(bench, Qt.Key.Key_Escape)
    assert not bench.over.gaps
    QTest.mouseRelease(bench.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    assert window.session.work is before
    assert bench._items[TOAD].pos().x() == before.card.find(TOAD).x


def test_a_small_tremble_is_no_drag(window: MainWindow) -> None:
    before = window.session.work
    start = spot(window)
    drag(window.panes["scene"].bench.viewport(), start, start + QPoint(2, 1))
    assert window.session.work is before
    assert window.session.selection == {TOAD}


def test_the_knob_turns_and_catches_at_upright(window: MainWindow) -> None:
    bench = window.panes["scene"].bench
    window.session.select({TOAD})
    knob, _ = bench.knob_at(bench._items[TOAD])
    middle = spot(window)
    reach = round(middle.y() - knob.y())
    drag(bench.viewport(), knob.toPoint(), middle + QPoint(reach, 0), steps=8)
    assert place(window)[2] == pytest.approx(90, abs=0.01)
    knob, _ = bench.knob_at(bench._items[TOAD])
    drag(bench.viewport(), knob.toPoint(), middle + QPoint(1, -reach), steps=8)
    assert place(window)[2] == 0


@pytest.mark.parametrize(
    ("key", "modifier", "expected"),
    [
        (Qt.Key.Key_Right, Qt.KeyboardModifier.NoModifier, (25.4 / 16, 0)),
        (Qt.Key.Key_Up, Qt.KeyboardModifier.NoModifier, (0, -25.4 / 16)),
        (Qt.Key.Key_Left, SHIFT, (-25.4 / 4, 0)),
    ],
)
def test_arrow_keys_nudge(window: MainWindow, key: Qt.Key, modifier: Qt.KeyboardModifier, expected: tuple) -> None:
    window.session.select({TOAD})
    x, y, _ = place(window)
    QTest.keyClick(window.panes["scene"].bench, key, modifier)
    assert place(window)[:2] == pytest.approx((x + expected[0], y + expected[1]), abs=1e-3)


def test_choosing_by_click_shift_frame_and_keys(window: MainWindow) -> None:
    bench, session = window.panes["scene"].bench, window.session
    view = bench.viewport()
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot(window))
    assert session.selection == {TOAD}
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, SHIFT, spot(window, "dusk-moth-1"))
    assert session.selection == {TOAD, "dusk-moth-1"}
    drag(view, on_bench(bench, -3, -3), on_bench(bench, 139, 30))
    assert session.selection == {"greeting-post-1"}
    QTest.keyClick(bench, Qt.Key.Key_Period)
    assert session.selection == {session.work.card.pieces[0].id}
    QTest.keyClick(bench, Qt.Key.Key_Escape)
    assert not session.selection
    window.actions_of.by_key["all"].trigger()
    assert len(session.selection) == len(session.work.card.pieces)


def test_what_lies_in_front_is_chosen_first(window: MainWindow) -> None:
    parcel = spot(window, "parcel-1")
    QTest.mouseClick(
        window.panes["scene"].bench.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, parcel
    )
    assert window.session.selection == {"parcel-1"}


def test_actions_on_the_chosen_image(window: MainWindow) -> None:
    session = window.session
    act = window.actions_of.by_key
    window.refresh()
    assert not act["delete"].isEnabled()
    session.select({TOAD})
    act["turn-right"].trigger()
    assert place(window)[2] == 1
    act["upright"].trigger()
    assert place(window)[2] == 0
    act["front"].trigger()
    assert session.work.card.pieces[-1].id == TOAD
    act["rear"].trigger()
    assert session.work.card.pieces[0].id == TOAD
    act["delete"].trigger()
    assert TOAD not in session.names
    assert act["undo"].isEnabled()
    for _ in range(5):
        act["undo"].trigger()
    assert place(window)[2] == 0
    assert not act["undo"].isEnabled()


def test_places_may_be_typed_as_makers_say_them(window: MainWindow, qtbot: QtBot) -> None:
    window.session.select({TOAD})
    panel = window.panes["scene"].piece
    for field, words in ((panel.left, "2 1/2"), (panel.top, "60 mm"), (panel.turn, "-7.5°")):
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, words)
        QTest.keyClick(field, Qt.Key.Key_Return)
    assert place(window) == (63.5, 60, -7.5)
    with qtbot.waitSignal(window.session.said) as caught:
        panel.left.selectAll()
        QTest.keyClicks(panel.left, "a bit left")
        QTest.keyClick(panel.left, Qt.Key.Key_Return)
    assert "is not a length" in caught.args[0]
    assert place(window) == (63.5, 60, -7.5)


@pytest.mark.parametrize(("words", "reason"), [("resize?", "one size"), ("mirror?", "mirror")])
def test_the_desk_says_why_a_stamp_is_neither_scaled_nor_mirrored(
    window: MainWindow, qtbot: QtBot, words: str, reason: str
) -> None:
    window.session.select({TOAD})
    before = window.session.work
    with qtbot.waitSignal(window.session.said) as caught:
        click(button_that_says(window.panes["scene"].piece, words))
    assert reason in caught.args[0]
    assert window.session.work is before


def test_gaps_run_to_the_nearer_edges_and_the_nearest_neighbour() -> None:
    work = work_of(("toad", 30, 40), ("snail", 60, 50))
    names = {"toad-1": "toad", "snail-2": "snail"}
    meter = GapMeter(work, {"toad-1"}, names)
    across, down, neighbour = meter.measure((2, 0))
    assert (across.length_mm, across.start, across.end) == (pytest.approx(27), (0, 40), (27, 40))
    assert down.length_mm == pytest.approx(35)
    # from (37, 45) to (55, 45): the squares' rows overlap at one height only
    assert (neighbour.length_mm, neighbour.words) == (pytest.approx(18), " to snail")
    over, *_ = meter.measure((-28, 0))
    assert (over.length_mm, over.words) == (pytest.approx(-3), " over")


def test_the_thicket_stands_straight_below_the_card(window: MainWindow) -> None:
    bench, thicket = window.panes["scene"].bench, window.panes["scene"].thicket
    for size in ((1280, 800), (1024, 700), (1600, 900)):
        window.resize(*size)
        QApplication.processEvents()
        bar = next(bar for bar in thicket.layout_rows.bars if bar.key == TOAD)
        left = thicket.mapToGlobal(thicket.bar_box(bar).topLeft().toPoint()).x()
        edge = bench.viewport().mapToGlobal(on_bench(bench, bar.left, 0)).x()
        assert abs(left - edge) <= 1


def test_the_whole_card_fits_the_bench_either_way_round(window: MainWindow) -> None:
    bench: Bench = window.panes["scene"].bench
    for way in ("portrait", "landscape"):
        click(button_that_says(window.panes["scene"], way))
        width, height = window.session.work.card.panel
        assert (width > height) == (way == "landscape")
        seen = QRect(on_bench(bench, 0, 0), on_bench(bench, width, height))
        assert bench.viewport().rect().contains(seen)


def test_a_remedy_is_applied_by_one_click_and_shown_on_the_card(window: MainWindow, qtbot: QtBot) -> None:
    advice = window.panes["scene"].advice
    finding = next(one for one in advice.findings if one.remedy)
    click(button_that_says(advice.cards[advice.findings.index(finding)], "show me"))
    assert window.panes["scene"].bench.over.finding is finding
    click(button_that_says(advice.cards[advice.findings.index(finding)], finding.remedy.words))
    settle(qtbot, window.session)
    titles = {one.title for one in window.session.outcome.findings}
    assert finding.title not in titles


def test_a_frame_of_a_drag_looks_like_the_card_with_the_piece_there(window: MainWindow) -> None:
    """What rests is drawn as layers during a drag; nothing may look otherwise for that."""
    bench = window.panes["scene"].bench
    start = spot(window, "parcel-1")
    drag(bench.viewport(), start, start + QPoint(30, -30), release=False)
    assert bench._resting is not None
    bench.over.gaps = ()
    layered = bench.viewport().grab().toImage()
    bench.rest(())
    plain = bench.viewport().grab().toImage()
    unlike = sum(
        abs(layered.pixelColor(x, y).lightness() - plain.pixelColor(x, y).lightness()) > 40
        for x in range(0, plain.width(), 3)
        for y in range(0, plain.height(), 3)
    )
    assert unlike < 0.002 * plain.width() * plain.height() / 9
    QTest.keyClick(bench, Qt.Key.Key_Escape)
