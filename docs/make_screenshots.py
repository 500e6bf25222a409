"""Make the pictures in docs/screenshots anew from the demo: python docs/make_screenshots.py."""

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
for name in ("XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CONFIG_HOME"):
    os.environ[name] = tempfile.mkdtemp()

import msgspec  # noqa: E402
import pypdfium2  # noqa: E402
from PIL import Image  # noqa: E402
from PySide6.QtCore import QPoint, QPointF, Qt  # noqa: E402 - Qt reads the platform when it is imported
from PySide6.QtTest import QTest  # noqa: E402
from PySide6.QtWidgets import QApplication  # noqa: E402

from fair_thicket.demo import CARD_FILES  # noqa: E402
from fair_thicket.desk.assembly.table import AtTable  # noqa: E402
from fair_thicket.desk.colour.suggest import Suggest  # noqa: E402
from fair_thicket.desk.frame.application import make_application, open_window  # noqa: E402
from fair_thicket.desk.frame.compare import Compare  # noqa: E402
from fair_thicket.desk.frame.main_window import MainWindow  # noqa: E402
from fair_thicket.desk.stash.station import LIBRARY, SUPPLIES  # noqa: E402
from fair_thicket.desk.stations import ASSEMBLY, COLOUR, MASKS, PAPER, REHEARSAL, SCENE, SHEETS, STASH  # noqa: E402
from fair_thicket.making import print_card  # noqa: E402
from fair_thicket.model.stash import Contact, Zone  # noqa: E402
from fair_thicket.printing.plan_pdf import Side  # noqa: E402

WORDS = ("small", "old", "round", "sleepy", "mossy", "bright", "dusky", "merry", "quiet", "evening")
FOLDER = Path(__file__).parent / "screenshots"


def wait_until(is_done: Callable[[], bool], *, seconds: float = 30) -> None:
    begun = time.monotonic()
    while not is_done() and time.monotonic() - begun < seconds:
        QApplication.processEvents()
        time.sleep(0.01)
    for _ in range(20):
        QApplication.processEvents()
        time.sleep(0.01)


def take(window: MainWindow, name: str) -> None:
    session = window.session
    wait_until(lambda: not session.is_thinking and session.outcome is not None)
    window.grab().save(str(FOLDER / f"{name}.png"))
    print(name)


def show_scene(window: MainWindow) -> None:
    """Show the bench while an image is being dragged."""
    window.go(SCENE)
    bench = window.panes["scene"].bench
    piece = window.session.work.card.find("parcel-1")
    start = bench.mapFromScene(QPointF(piece.x, piece.y))
    QTest.mousePress(bench.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    for step in range(1, 5):
        QTest.mouseMove(bench.viewport(), start - QPoint(0, 8) * step)
    take(window, "scene")
    QTest.keyClick(bench, Qt.Key.Key_Escape)


def show_cards(window: MainWindow) -> None:
    """Show the card that is seen through a window, the night round and its inside, and two tries side by side."""
    window.session.open(CARD_FILES[1])
    window.session.select({"dusk-moth-1"})
    take(window, "fern-window")
    window.session.open(CARD_FILES[5])
    window.session.select({"banner-1"})
    take(window, "night")
    window.actions_of.by_key["turn-page"].trigger()
    window.session.select({"moth-in-1"})
    take(window, "inside")
    window.actions_of.by_key["turn-page"].trigger()
    window.session.open(CARD_FILES[0])
    take_tries(window)


def show_colour(window: MainWindow) -> None:
    """Show the toad with a part chosen, and colours proposed for the whole card."""
    window.session.open(CARD_FILES[0])
    window.go(COLOUR)
    station = window.panes[COLOUR]
    window.session.select({"toad-postmaster-1"})
    wait_until(lambda: not window.session.is_thinking and window.session.outcome is not None)
    station.map.choose(station.map.parts[5:6])
    take(window, "colour")
    dialog = Suggest(window.session, station.markers(), window)
    dialog.show()
    wait_until(lambda: len(dialog.shown) > 1)
    dialog.grab().save(str(FOLDER / "suggestions.png"))
    print("suggestions")
    dialog.reject()


def show_sheets(window: MainWindow) -> None:
    """Show a stamping sheet and how card stock is cut."""
    window.session.open(CARD_FILES[2])
    window.go(SHEETS)
    station = window.panes[SHEETS]
    wait_until(lambda: station.plan is not None and not station.planner.is_busy)
    station.show_view(1)
    wait_until(lambda: not station.planner.is_busy)
    take(window, "sheets")
    station.show_view(3)
    take(window, "card-stock")
    window.session.open(CARD_FILES[0])


def show_assembly(window: MainWindow) -> None:
    """Show the card that is seen through a window cut open at its figures."""
    window.session.open(CARD_FILES[1])
    window.go(ASSEMBLY)
    station = window.panes[ASSEMBLY]
    wait_until(lambda: station.made is not None and not station.planner.is_busy)
    station.card.set_cut(78.0)
    window.session.select({"toad-postmaster-1"})
    take(window, "assembly")
    steps = station.made.schedule.steps
    index = next(n for n, one in enumerate(steps) if one.operation.key == "glue toad-postmaster-1")
    table = AtTable(window.session, station.made, index, window)
    table.resize(1280, 800)
    table.show()
    wait_until(lambda: not table.is_busy)
    table.grab().save(str(FOLDER / "table.png"))
    print("table")
    table.reject()
    window.session.open(CARD_FILES[0])


def take_tries(window: MainWindow) -> None:
    dialog = Compare(window.session, window)
    dialog.show()
    dialog.choices[0].setCurrentIndex(1)
    dialog.choices[1].setCurrentIndex(2)
    wait_until(lambda: all(column[0].text() for column in dialog.figures))
    wait_until(lambda: dialog.figures[0][4].text() != dialog.figures[1][4].text())
    dialog.grab().save(str(FOLDER / "two-tries.png"))
    print("two-tries")
    dialog.accept()


def show_stash(window: MainWindow) -> None:
    """Show a page, the library with the demo's images and 300 more, and the supplies."""
    intake, library = window.panes["stash"].intake, window.session.library
    window.go(STASH)
    intake.scan_demo()
    wait_until(lambda: len(intake.list.rows) > 0)
    intake.page.choose({4})
    take(window, "stash")
    intake.page.choose({0})
    intake.see_near()
    take(window, "outline")
    intake.mending.see_page()
    stamps, pictures = window.session.work.stash.stamps, window.session.pictures
    window.session.keep_in_library(
        [msgspec.structs.replace(one, set_name="Fernside post", tags=("fern", "post")) for one in stamps], pictures
    )
    more = [
        msgspec.structs.replace(stamps[k % len(stamps)], name=f"{WORDS[k % len(WORDS)]} {stamps[k % len(stamps)].name}")
        for k in range(300)
    ]
    window.session.keep_in_library(more, pictures)
    window.panes["stash"].show_pane(LIBRARY)
    wait_until(lambda: bool(library.search("toad fernside")))  # the library is written by a thread of its own
    number = library.search("toad fernside")[0].id
    toad = library.load(number)[0]
    zone = Zone("face", ((-9.0, -12.0), (9.0, -12.0), (9.0, 3.0), (-9.0, 3.0)))
    marks = msgspec.structs.replace(
        toad.marks, zones=(zone,), looks_deg=0.0, contacts=(Contact("hand", (11.0, 6.5)), Contact("seat", (0.0, -16.0)))
    )
    window.session.change_library(lambda one: one.change(number, msgspec.structs.replace(toad, marks=marks)))
    rows = [row for row, entry in enumerate(window.panes["stash"].library.entries.entries) if entry.id == number]
    window.panes["stash"].library.view.setCurrentIndex(window.panes["stash"].library.entries.index(rows[0]))
    take(window, "library")
    window.panes["stash"].show_pane(SUPPLIES)
    window.panes["stash"].supplies.take_demo()
    take(window, "supplies")


def show_masks(window: MainWindow) -> None:
    """Show twelve impressions and a wash: the timetable, the rehearsal, the sheets."""
    session, station = window.session, window.panes["masks"]
    session.open(CARD_FILES[3])
    window.go(MASKS)
    wait_until(lambda: not session.is_thinking and session.outcome is not None and not station.slipper.is_busy)
    station.timetable.choose(2)
    take(window, "masks")
    window.go(REHEARSAL)
    window.panes["rehearsal"].slider.setValue(5)
    take(window, "rehearsal")
    take_sheets(window)


def take_sheets(window: MainWindow) -> None:
    """Render the printed sheet of masks and a platform sheet."""
    outcome = window.session.outcome
    if outcome is None:
        return
    steps = outcome.rehearsal.steps
    data = print_card([Side("front", outcome.work, outcome.plan, steps)], dict(window.session.pictures), paper="letter")
    document = pypdfium2.PdfDocument(data)
    found = [page for page in document if "Masks to cut" in page.get_textpage().get_text_bounded()][:1]
    found += [page for page in document if "On the platform" in page.get_textpage().get_text_bounded()][1:2]
    pictures = [page.render(scale=1.25).to_pil() for page in found]
    sheet = Image.new("RGB", (sum(one.width for one in pictures) + 24, pictures[0].height), "#dbe4de")
    left = 0
    for one in pictures:
        sheet.paste(one, (left, 0))
        left += one.width + 24
    sheet.save(FOLDER / "mask-sheets.png")
    print("mask-sheets")


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    make_application()
    window = open_window(demo=True)
    window.resize(1280, 800)
    window.show()
    show_cards(window)
    show_colour(window)
    show_sheets(window)
    show_assembly(window)
    show_scene(window)
    show_masks(window)
    window.go(PAPER)
    wait_until(window.panes["paper"].save_button.isEnabled)
    take(window, "paper")
    show_stash(window)
    window.session.undo_stack.setClean()
    window.close()


if __name__ == "__main__":
    main()
