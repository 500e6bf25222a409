"""The Colour station: cheeks and folds marked by hand, lamps, lists by image, joint images, what the library knows."""

from collections.abc import Callable

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from fair_thicket.desk.colour.station import ColourStation
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.stations import COLOUR, SCENE
from fair_thicket.edits.colouring import set_regions
from fair_thicket.edits.cutouts import join
from hands import click, drag, own_markers, settle

LEFT = Qt.MouseButton.LeftButton
PLAIN = Qt.KeyboardModifier.NoModifier
Station = tuple[MainWindow, ColourStation]


@pytest.fixture
def at_colour(make_window: Callable[..., MainWindow], qtbot: QtBot) -> Station:
    """The demo card at the Colour station, the moth chosen."""
    window = make_window(demo=True)
    session = window.session
    own_markers(session)
    window.go(COLOUR)
    session.select({"dusk-moth-1"})
    settle(qtbot, session)
    station = window.panes[COLOUR]
    assert isinstance(station, ColourStation)
    return window, station


def lines_of(window: MainWindow, key: str) -> dict[str, Callable[[], object]]:
    record = next(one for one in window.panes[COLOUR].records() if one.key == key)
    assert record.lines is not None
    return dict(record.lines())


def test_cheeks_are_marked_by_clicks_until_escape_and_put_on_with_a_pink(at_colour: Station) -> None:
    window, station = at_colour
    session, shown = window.session, station.map
    window.actions_of.by_key["mark-cheek"].trigger()
    spots = [shown.rect().center() + QPointF(x, 4).toPoint() for x in (-6, 6)]
    for spot in spots:
        QTest.mouseClick(shown, LEFT, PLAIN, spot)
    cheeks = [one for one in session.work.stash.find("dusk-moth").regions if one.kind == "cheek"]
    assert len(cheeks) == 2
    QTest.keyClick(shown, Qt.Key.Key_Escape)
    QTest.mouseClick(shown, LEFT, PLAIN, spots[0])
    assert shown.chosen == [tuple(one.id for one in cheeks)]
    row = next(row for row in station.rows if row.offer.name == "rose pencil")
    click(row)
    colouring = session.work.card.find("dusk-moth-1").colouring
    assert [part.shades[0].name for part in colouring if part.regions == shown.chosen[0]] == ["rose pencil"]
    window.actions_of.by_key["drop-touches"].trigger()
    assert not [one for one in session.work.stash.find("dusk-moth").regions if one.kind == "cheek"]


def test_a_fold_is_drawn_forgotten_and_parts_are_said_to_be_round(at_colour: Station) -> None:
    window, station = at_colour
    session, shown = window.session, station.map

    def regions() -> dict[int, object]:
        return {one.id: one for one in session.work.stash.find("dusk-moth").regions}

    part = max(shown.parts, key=len)
    middle = shown.place_of(part)
    window.actions_of.by_key["mark-fold"].trigger()
    drag(shown, (middle - QPointF(20, 0)).toPoint(), (middle + QPointF(20, 0)).toPoint())
    folded = [one for one in regions().values() if one.folds]
    assert folded
    shown.choose([part])
    lines_of(window, "rounding")["Round: dark at all its edges"]()
    assert {regions()[key].rounding for key in part} == {"round"}
    window.actions_of.by_key["clear-folds"].trigger()
    assert not any(regions()[key].folds for key in part)


def test_an_image_gives_light_as_far_as_is_chosen(at_colour: Station) -> None:
    window, _ = at_colour
    lines = lines_of(window, "lamp")
    assert "No light (now)" in lines
    next(call for words, call in lines.items() if words.startswith("As far as"))()
    assert window.session.work.card.find("dusk-moth-1").lamp_mm == 20.0


def test_the_list_by_image_names_every_part_and_its_ticks_are_kept(at_colour: Station) -> None:
    window, station = at_colour
    station.panes.show_pane(1)
    station.list.order.buttons[1].click()
    rows = station.list.rows
    assert len(rows) > 60
    rows[0].box.click()
    assert window.session.work.card.masking.done == ("colour part 1 tall-fern-1",)
    assert station.list.rows[0].box.isChecked()
    station.list.order.buttons[0].click()
    assert len(station.list.rows) < 60


def test_a_further_image_of_a_joint_cutout_is_coloured_by_itself(at_colour: Station, qtbot: QtBot) -> None:
    window, station = at_colour
    session = window.session
    session.edit("join", lambda work: join(work, {"dusk-moth-1", "letter-1"})[0])
    settle(qtbot, session)
    keys = [station.images.key_at(row) for row in range(station.images.count())]
    further = next(key for key in keys if "+" in key)
    station.images.setCurrentRow(keys.index(further))
    shown = station.map
    shown.choose(shown.parts[:1])
    row = next(row for row in station.rows if row.offer.name == "fern")
    click(row)
    (part,) = session.work.card.find(further).joined
    assert any(run.shades[0].name.startswith("fern") for run in part.colouring)


def test_regions_that_the_library_knows_are_not_read_again(at_colour: Station, qtbot: QtBot) -> None:
    window, _ = at_colour
    session = window.session
    moth = session.work.stash.find("dusk-moth")
    pictures = session.pictures
    assert session.library is not None
    number = session.library.keep([moth], pictures)[0]
    session.select({"letter-1"})
    session.edit("join parts", lambda work: set_regions(work, "dusk-moth", moth.regions, (moth.parts[0],)))
    assert session.library.load(number)[0].parts == (moth.parts[0],)
    session.undo_stack.undo()
    assert session.library.load(number)[0].parts == moth.parts
    session.edit("forget", lambda work: set_regions(work, "dusk-moth", (), ()))
    session.library.change(number, moth)
    session.select({"dusk-moth-1"})
    qtbot.waitUntil(lambda: bool(session.work.stash.find("dusk-moth").regions), timeout=60_000)
    assert session.work.stash.find("dusk-moth").regions == moth.regions
    assert session.undo_stack.undoText() == "take the regions of dusk moth from the library"
    session.library.drop([number])


def test_the_drawer_shows_images_in_the_colours_of_their_first_scheme(at_colour: Station, qtbot: QtBot) -> None:
    window, _ = at_colour
    window.go(SCENE)
    drawer = window.panes[SCENE].drawer
    card = next(card for card in drawer.cards if card.stamp.id == "courier-snail")
    qtbot.waitUntil(lambda: card.coloured is not None, timeout=60_000)
    image = card.coloured.toImage()
    tones = [image.pixelColor(x, y) for x in range(0, image.width(), 4) for y in range(0, image.height(), 4)]
    assert sum(tone.red() > tone.blue() + 60 for tone in tones) > len(tones) / 4
    plain = next(card for card in drawer.cards if not card.stamp.schemes)
    assert plain.coloured is None
