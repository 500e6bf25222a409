"""The Colour station: three critters coloured from blank by mouse and keyboard, shadows, parts, schemes, proposals."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog
from pytestqt.qtbot import QtBot

from fair_thicket.desk.colour.station import ColourStation
from fair_thicket.desk.colour.suggest import Suggest
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.stations import COLOUR
from fair_thicket.edits import delete
from fair_thicket.edits.adding import add_wash
from fair_thicket.edits.colouring import parts_of, set_regions, uncolour
from fair_thicket.files.card_file import encode_card, open_card, save_card
from fair_thicket.ink.painting import paint
from fair_thicket.shape.outline import to_area
from hands import click, drag, own_markers, settle

CRITTERS = ("toad-postmaster-1", "courier-snail-1", "dusk-moth-1")
LEFT = Qt.MouseButton.LeftButton
PLAIN = Qt.KeyboardModifier.NoModifier
Station = tuple[MainWindow, ColourStation]


@pytest.fixture
def blank(make_window: Callable[..., MainWindow], qtbot: QtBot) -> Station:
    """A card of three critters that nobody has coloured, with the demo's markers in the library."""
    window = make_window(demo=True)
    session = window.session
    rest = {piece.id for piece in session.work.card.pieces} - set(CRITTERS)
    session.edit("leave three", lambda work: uncolour(delete(work, rest), set(CRITTERS)))
    own_markers(session)
    session.undo_stack.clear()
    window.go(COLOUR)
    settle(qtbot, session)
    station = window.panes[COLOUR]
    assert isinstance(station, ColourStation)
    return window, station


def choose_image(station: ColourStation, key: str) -> None:
    row = next(row for row in range(station.images.count()) if station.images.key_at(row) == key)
    box = station.images.visualItemRect(station.images.item(row))
    QTest.mouseClick(station.images.viewport(), LEFT, PLAIN, box.center())


def click_part(station: ColourStation, number: int, modifier: Qt.KeyboardModifier = PLAIN) -> None:
    part = station.map.parts[number]
    QTest.mouseClick(station.map, LEFT, modifier, station.map.place_of(part).toPoint())


def row_of(station: ColourStation, family: str) -> object:
    return next(row for row in station.rows if row.offer.name == family)


def test_three_critters_are_coloured_from_blank_with_mouse_and_keyboard(
    blank: Station, qtbot: QtBot, tmp_path: Path
) -> None:
    window, station = blank
    session = window.session
    before = encode_card(session.work)
    for key, families in zip(CRITTERS, (("toadstool", "fern"), ("clay", "shell"), ("heather", "lamp")), strict=True):
        choose_image(station, key)
        for number, family in enumerate(families):
            click_part(station, number)
            click(row_of(station, family))
        count = len(parts_of(session.work.stash.find(session.work.card.find(key).stamp)))
        station.map.setFocus()
        QTest.keyClick(station.map, Qt.Key.Key_Right)  # the next part, by keyboard
        assert station.map.chosen == [station.map.parts[2 % count]]
        row = row_of(station, families[0])
        row.setFocus()
        QTest.keyClick(row, Qt.Key.Key_Space)
    for key in CRITTERS:
        assert len(session.work.card.find(key).colouring) == 3, key
    session.edit("dusk", lambda work: add_wash(work, "#8f8fb8")[0])
    settle(qtbot, session)
    outcome = session.outcome
    assert outcome is not None
    assert any(press.is_ink and set(press.masked) == set(CRITTERS) for press in outcome.plan.presses)
    composed = paint(session.work, session.pictures)
    assert np.abs(outcome.rehearsal.papers[-1].astype(int) - composed).max() <= 2
    path = tmp_path / "critters.thicket"
    save_card(path, session.work, session.pictures)
    assert open_card(path)[0] == session.work
    while session.undo_stack.canUndo():
        session.undo_stack.undo()
    assert encode_card(session.work) == before


def test_several_parts_take_a_run_at_once_stay_white_or_lose_their_colours(blank: Station) -> None:
    window, station = blank
    choose_image(station, "courier-snail-1")
    click_part(station, 0)
    click_part(station, 2, Qt.KeyboardModifier.ControlModifier)
    click(row_of(station, "clay"))
    colouring = window.session.work.card.find("courier-snail-1").colouring
    assert len(colouring) == 2
    assert len({part.shades for part in colouring}) == 1
    click(station.white)
    assert [part.shades for part in window.session.work.card.find("courier-snail-1").colouring] == [(), ()]
    click(station.off)
    assert window.session.work.card.find("courier-snail-1").colouring == ()


def test_the_handle_turns_where_shadow_lies_as_one_step_of_undo(blank: Station) -> None:
    window, station = blank
    choose_image(station, "toad-postmaster-1")
    click_part(station, 0)
    click(row_of(station, "toadstool"))
    handle = station.map._handle()
    assert handle is not None
    steps = window.session.undo_stack.count()
    foot, grip = handle
    QTest.mousePress(station.map, LEFT, PLAIN, grip.toPoint())
    for angle in (10, 5, 0):
        QTest.mouseMove(station.map, (foot + QPointF(60, angle)).toPoint())
    QTest.mouseRelease(station.map, LEFT, PLAIN, (foot + QPointF(60, 0)).toPoint())
    (part,) = window.session.work.card.find("toad-postmaster-1").colouring
    assert part.shadow_deg == pytest.approx(0, abs=3) or part.shadow_deg == pytest.approx(360, abs=3)
    assert window.session.undo_stack.count() == steps + 1


def test_shades_of_a_run_are_counted_up_and_down(blank: Station) -> None:
    _, station = blank
    choose_image(station, "toad-postmaster-1")
    click_part(station, 0)
    click(station.shades.more)
    assert len(row_of(station, "fern").offer.shades) == 4
    for _ in range(3):
        click(station.shades.less)
    assert {len(row.offer.shades) for row in station.rows} == {1}


def test_light_and_order_are_the_cards_own(blank: Station) -> None:
    window, station = blank
    click(station.light.buttons[2])
    click(station.order.buttons[1])
    assert (window.session.work.card.light, window.session.work.card.shade_order) == ("right", "light first")


def test_parts_are_joined_and_split_and_schemes_kept_and_taken(blank: Station, monkeypatch: pytest.MonkeyPatch) -> None:
    window, station = blank
    actions = window.actions_of
    choose_image(station, "dusk-moth-1")
    count = len(station.map.parts)
    click_part(station, 0)
    click_part(station, 1, Qt.KeyboardModifier.ControlModifier)
    actions.by_key["join-parts"].trigger()
    assert len(station.map.parts) == count - 1
    station.map.choose([station.map.parts[-1]])
    assert actions.by_key["split-part"].isEnabled()
    actions.by_key["split-part"].trigger()
    assert len(station.map.parts) > count - 1
    click_part(station, 0)
    click(row_of(station, "dusk"))
    kept = window.session.work.card.find("dusk-moth-1").colouring
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("evening", True))
    actions.by_key["keep-scheme"].trigger()
    actions.by_key["uncolour"].trigger()
    assert window.session.work.card.find("dusk-moth-1").colouring == ()
    record = next(record for record in actions.records if record.key == "take-scheme")
    assert record.lines is not None
    dict(record.lines())["evening"]()
    assert window.session.work.card.find("dusk-moth-1").colouring == kept


def test_a_region_is_parted_along_a_drawn_line_and_escape_gives_it_up(blank: Station) -> None:
    window, station = blank
    session = window.session
    choose_image(station, "toad-postmaster-1")
    count = len(station.map.parts)
    largest = max(session.work.stash.find("toad-postmaster").regions, key=lambda one: to_area(one.ring).area)
    window.actions_of.by_key["cut-region"].trigger()
    QTest.keyClick(station.map, Qt.Key.Key_Escape)
    assert station.map.drawing is None
    window.actions_of.by_key["cut-region"].trigger()
    part = next(part for part in station.map.parts if largest.id in part)
    middle = station.map.place_of(part)
    drag(station.map, (middle - QPointF(0, 400)).toPoint(), (middle + QPointF(0, 400)).toPoint())
    assert len(station.map.parts) > count
    assert session.undo_stack.undoText() == "part a region"
    with_one = len(station.map.parts)
    window.actions_of.by_key["cut-region"].trigger()
    drag(station.map, QPoint(4, 4), QPoint(9, 9))
    assert len(station.map.parts) == with_one


def test_regions_of_an_image_without_any_are_read_when_it_is_shown(blank: Station, qtbot: QtBot) -> None:
    window, station = blank
    session = window.session
    choose_image(station, "courier-snail-1")
    session.edit("forget regions", lambda work: set_regions(work, "toad-postmaster", (), ()))
    choose_image(station, "toad-postmaster-1")
    qtbot.waitUntil(lambda: bool(session.work.stash.find("toad-postmaster").regions), timeout=60_000)
    assert len(station.map.parts) >= 10


def test_choosing_an_image_elsewhere_reads_no_regions(make_window: Callable[..., MainWindow], qtbot: QtBot) -> None:
    window = make_window(demo=True)
    session = window.session
    session.edit("forget regions", lambda work: set_regions(work, "toad-postmaster", (), ()))
    settle(qtbot, session)
    steps = session.undo_stack.count()
    session.select({"toad-postmaster-1"})
    station = window.panes[COLOUR]
    assert not station.reader.is_busy
    assert station.map.parts == []
    assert session.undo_stack.count() == steps


def test_the_list_names_each_marker_once_and_its_ticks_are_kept(window: MainWindow, qtbot: QtBot) -> None:
    window.go(COLOUR)
    settle(qtbot, window.session)
    station = window.panes[COLOUR]
    station.panes.show_pane(1)
    boxes = [row.box for row in station.list.rows]
    names = [box.accessibleName() for box in boxes]
    assert len(names) == len({name.partition(":")[0] for name in names}) == 37
    boxes[0].click()
    assert len(window.session.work.card.masking.done) == 1


def test_a_proposal_is_taken_for_the_whole_card(blank: Station, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    window, station = blank
    told: list[str] = []

    def answer(dialog: Suggest) -> int:
        dialog.show()
        qtbot.waitUntil(dialog.takes[0].isEnabled, timeout=120_000)
        told.append(dialog.reasons[0].text())
        click(dialog.takes[0])
        return 1

    monkeypatch.setattr(Suggest, "exec", answer)
    click(station.suggest_button)
    assert "families" in told[0]
    assert all(window.session.work.card.find(key).colouring for key in CRITTERS)
    assert window.session.undo_stack.undoText() == "colour the card"


def test_families_are_taken_from_a_picture(blank: Station, qtbot: QtBot, tmp_path: Path) -> None:
    window, station = blank
    picture = np.zeros((60, 60, 3), np.uint8)
    picture[:], picture[:20], picture[40:] = (79, 138, 74), (216, 96, 79), (242, 207, 91)
    Image.fromarray(picture).save(tmp_path / "paper.png")
    (tmp_path / "none.png").write_bytes(b"no picture")
    dialog = Suggest(window.session, station.markers(), station)
    dialog.show()
    qtbot.waitUntil(dialog.takes[0].isEnabled, timeout=120_000)
    dialog.take_picture(tmp_path / "paper.png")
    qtbot.waitUntil(lambda: "From the picture" in dialog._told.text(), timeout=120_000)
    assert {name for one in dialog.shown for name in one.proposal.families} <= {"fern", "toadstool", "lamp"}
    with qtbot.waitSignal(window.session.said, timeout=60_000) as caught:
        dialog.take_picture(tmp_path / "none.png")
    assert "is not a picture" in caught.args[0]
    dialog.reject()


def test_an_empty_card_says_what_to_do(make_window: Callable[..., MainWindow]) -> None:
    window = make_window()
    window.go(COLOUR)
    station = window.panes[COLOUR]
    assert station._heading.text() == "Nothing to colour"
    assert "Scene" in station._told.text()
    QTest.mouseClick(station.map, LEFT, PLAIN, QPoint(40, 40))
    QTest.keyClick(station.map, Qt.Key.Key_Right)
    assert station.map.chosen == []
