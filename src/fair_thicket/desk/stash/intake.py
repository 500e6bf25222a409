"""New images: a scan, a photo or a cut file becomes stamps. Nothing enters the stash before *Keep these*."""

from collections.abc import Callable, Sequence
from pathlib import Path

import msgspec
from PySide6.QtCore import QPointF, Qt, QTimer, Signal
from PySide6.QtGui import QUndoStack
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QSlider,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from fair_thicket.desk.parts.controls import button, ground, label
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.stash.found_list import HOW, HOW_TO_OUTLINE, FoundList
from fair_thicket.desk.stash.opening_row import OpeningRow
from fair_thicket.desk.stash.outline_mending import OutlineMending
from fair_thicket.desk.stash.outline_tools import OutlineTools
from fair_thicket.desk.stash.page_view import PageView
from fair_thicket.desk.stash.sorting_step import SortingStep
from fair_thicket.desk.stash.ways import WAYS, scan_demo_sheet
from fair_thicket.intake import sorting as sort
from fair_thicket.intake.apart import DRAWING_S, PAGE_S, run_apart
from fair_thicket.intake.sorting import Sorting, Way
from fair_thicket.intake.stamps import keep_images
from fair_thicket.model.card import Work
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.units import Unit, parse_length, say_length

GAP_STEP_MM, MOST_GAP_MM = 0.1, 12.0
WELCOME = (
    "Stamp your images on a white sheet, leave a finger's width between them, scan it at 300 dpi\n"
    "and open the scan here, or drop files on the window. Photos and SVG cut files will do as well.\n\n"
    "Every image becomes a stamp at its true size; no outline needs drawing."
)


class IntakePane(QWidget):
    """Opens pages, shows what was found, lets it be sorted, and keeps it.

    Attributes
    ----------
    worker : Worker
    sorting : Sorting or None
        The page that is looked at.
    list : FoundList
    steps : QUndoStack
        What was done to the page.
    kept : Signal()
        Images were kept and no page waits.
    """

    kept = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.sorting: Sorting | None = None
        self._waiting: list[Path] = []
        self._path: Path | None = None
        self._ends: tuple[tuple[float, float], tuple[float, float]] | None = None
        self.steps = QUndoStack(self)
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(self._fail)
        self._regroup_soon = QTimer(self)
        self._regroup_soon.setSingleShot(True)
        self._regroup_soon.setInterval(30)
        self._regroup_soon.timeout.connect(self._regroup)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left(), 1)
        self.list = FoundList()
        self.list.pressed.connect(self._press_row)
        self.list.keepWanted.connect(self.keep)
        self.list.leaveWanted.connect(self.leave)
        self.mending = OutlineMending(self.page, self.outline, lambda: self.sorting, self._change_elsewhere)
        self.mending.seen.connect(self._show_near)
        row.addWidget(self.list)
        self.worker.busyChanged.connect(self.opening.show_busy)
        self._show()

    # -- building ------------------------------------------------------------------------------------------------

    def _left(self) -> QWidget:
        pane = ground("mistPane")
        box = QVBoxLayout(pane)
        box.setContentsMargins(16, 4, 16, 12)
        self.opening = OpeningRow(self._session)
        self.way, self.length = self.opening.way, self.opening.length
        self.opening.filesAsked.connect(self.choose_files)
        self.opening.demoAsked.connect(self.scan_demo)
        self.opening.stopAsked.connect(self.stop_reading)
        self.opening.wayChanged.connect(self._read_again)
        box.addWidget(self.opening)
        self._tools = QWidget()
        self._tools.setLayout(self._tool_row())
        box.addWidget(self._tools)
        self.outline = OutlineTools()
        box.addWidget(self.outline)
        self._stack = QStackedWidget()
        welcome = label(WELCOME, "soft")
        welcome.setAlignment(Qt.AlignmentFlag.AlignCenter)
        welcome.setStyleSheet("font-size: 15px;")
        welcome.setWordWrap(True)
        self.page = PageView()
        self.page.choiceChanged.connect(self._show_choice)
        self.page.cutDrawn.connect(self._cut_along)
        self.page.picked.connect(lambda index: self.list.begin_name(index))
        self._stack.addWidget(welcome)
        self._stack.addWidget(self.page)
        box.addWidget(self._stack, 1)
        return pane

    def _tool_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(label("together within", "soft"))
        self.gap = QSlider(Qt.Orientation.Horizontal)
        self.gap.setRange(2, round(MOST_GAP_MM / GAP_STEP_MM))
        self.gap.setFixedWidth(64)
        self.gap.setAccessibleName("Parts nearer than this are one image")
        self.gap.valueChanged.connect(self._gap_moved)
        self._gap_words = label("", "soft")
        self._gap_words.setMinimumWidth(50)
        row.addWidget(self.gap)
        row.addWidget(self._gap_words)
        self.merge_button = button("Merge", self.merge, tip="Make one image of the chosen ones")
        self.split_button = button("Split", self.split, tip="Part the chosen image at its thinnest neck")
        self.cut_button = button("Cut", self._start_cut, tip="Draw a line across the chosen image; it is parted there")
        self.drop_button = button("Drop", self.drop, tip="Leave the chosen images out")
        self.outline_button = button("Outline", self.see_near, tip="See one image near at hand and mend its outline")
        for made in (self.merge_button, self.split_button, self.cut_button, self.drop_button, self.outline_button):
            row.addWidget(made)
        row.addStretch(1)
        return row

    # -- opening -------------------------------------------------------------------------------------------------

    def choose_files(self) -> None:
        """Ask for pages and read the first; the others wait."""
        chosen, _ = QFileDialog.getOpenFileNames(
            self, "Open pages", str(Path.home()), "Pages (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.svg);;All files (*)"
        )
        if chosen:
            self.open_files([Path(name) for name in chosen])

    def open_files(self, paths: Sequence[Path]) -> None:
        """Read pages one after the other; folders are opened one level deep."""
        try:
            pages = sort.list_pages(paths)
        except OSError as problem:
            self._session.said.emit(f"{problem.filename} could not be opened ({problem.strerror}).")
            return
        if not pages:
            self._session.said.emit("There is no scan, photo or SVG in there.")
            return
        self._waiting = pages
        self._next()

    def _next(self) -> None:
        self.sorting = self._ends = None
        self.page.look_near(None)
        self.steps.clear()
        self.list.forget_names()
        self._path = self._waiting.pop(0) if self._waiting else None
        if self._path is None:
            self._show()
        else:
            self._read_again()

    def scan_demo(self) -> None:
        """Let the simulated scanner scan the demo sheet."""
        self._path, self._waiting = None, []
        self.list.forget_names()
        self._ask(scan_demo_sheet)

    def _read_again(self) -> None:
        way = WAYS[self.way.currentIndex()][1]
        self.length.setVisible(way.kind == "length")
        self.page.is_cutting = way.kind == "length"
        if self._path is None:
            return
        path = self._path
        if way.kind == "length":
            way = self._with_length(way)
            if way.ends is None:
                self._show_for_marking(path)
                return
        self._read(sort.read_page, path, way)

    def _with_length(self, way: Way) -> Way:
        try:
            length = parse_length(self.length.text(), self._session.work.card.unit)
        except ThicketError:
            return way
        return msgspec.structs.replace(way, ends=self._ends, length_mm=length) if self._ends else way

    def _show_for_marking(self, path: Path) -> None:
        """Show the bare photo, so that the two places of a known length can be marked."""
        self._session.said.emit("Drag along a length that you know, then type it and press Enter.")
        self._read(sort.bare_page, path)

    # -- work elsewhere ------------------------------------------------------------------------------------------

    def _ask(self, function: Callable[[], Sorting]) -> None:
        self.worker.ask(function)

    def _read(self, function: Callable[..., Sorting], path: Path, *how: object) -> None:
        """Read a page from outside in a process of its own, which *Stop* and closing the window end at once."""
        seconds = DRAWING_S if path.suffix.lower() in sort.DRAWINGS else PAGE_S
        self.worker.ask_stoppable(
            lambda go_on: run_apart(function, path, *how, name=path.name, seconds=seconds, go_on=go_on)
        )

    def stop_reading(self) -> None:
        """Give up what is being read."""
        self.worker.cancel()
        if self.sorting is None:
            self._path, self._waiting = None, []

    def _take(self, came: "Sorting | SortingStep") -> None:
        if isinstance(came, SortingStep):
            self._push(came)
            return
        self.steps.clear()
        self._assign(came)
        if came.doubt:
            self._session.said.emit(came.doubt)

    def _assign(self, sorting: Sorting) -> None:
        self.sorting = sorting
        self._show()

    def _fail(self, words: str) -> None:
        self._session.said.emit(words)
        if self.sorting is None:
            self._path = None
            self._show()

    # -- sorting -------------------------------------------------------------------------------------------------

    def _gap_moved(self, value: int) -> None:
        self._gap_words.setText(say_length(value * GAP_STEP_MM, Unit.MM))
        self._regroup_soon.start()

    def _regroup(self) -> None:
        sorting, gap = self.sorting, self.gap.value() * GAP_STEP_MM
        if sorting is not None and abs(gap - sorting.reach_mm) > GAP_STEP_MM / 2:
            self._change_elsewhere("take parts together", lambda sorting: sort.regroup(sorting, gap), "gap")

    def _change(self, words: str, change: Callable[[Sorting], Sorting]) -> None:
        """Make a step of sorting here: it measures one or two images only."""
        if self.sorting is None:
            return
        try:
            step = SortingStep(words, self.sorting, change(self.sorting))
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        self.page.choose(())
        self._push(step)

    def _change_elsewhere(self, words: str, change: Callable[[Sorting], Sorting], merge_key: str = "") -> None:
        """Make a step of sorting that may measure a whole page."""
        sorting = self.sorting
        if sorting is not None:
            self.worker.ask(lambda: SortingStep(words, sorting, change(sorting), merge_key))

    def _push(self, step: SortingStep) -> None:
        if step.before is self.sorting and step.after is not step.before:
            self.list.hold_names(step.before.images)
            self.steps.push(step.on(self._assign))

    def merge(self) -> None:
        """Make one image of the chosen ones."""
        chosen = self.page.chosen
        self._change("merge images", lambda sorting: sort.merge(sorting, chosen))

    def split(self) -> None:
        """Part the chosen image at its neck."""
        self._split(None)

    def _split(self, line: list[tuple[float, float]] | None) -> None:
        chosen = sorted(self.page.chosen)
        if chosen:
            self._change("split an image", lambda sorting: sort.split(sorting, chosen[0], line))

    def _start_cut(self) -> None:
        self.page.is_cutting = True
        self.list.tell_how_to_cut()

    def _cut_along(self, ends: tuple[QPointF, QPointF]) -> None:
        if WAYS[self.way.currentIndex()][1].kind == "length":
            self._ends = (self.page.to_share(ends[0]), self.page.to_share(ends[1]))
            self._read_again()
            return
        self.page.is_cutting = False
        line = [self.page.to_page(end) for end in ends]
        self._split(line)

    def see_near(self) -> None:
        """See an image near at hand, so that its outline can be mended."""
        self.mending.see_near()

    def drop(self) -> None:
        """Leave the chosen images out."""
        chosen = self.page.chosen
        self._change("leave images out", lambda sorting: sort.drop(sorting, chosen))

    # -- keeping -------------------------------------------------------------------------------------------------

    def keep(self) -> None:
        """Put the images into the stash and the library under the names that were typed, and go to the next page."""
        if self.sorting is None or not self.sorting.images:
            self._session.said.emit("There is no image to keep; leave this page instead.")
            return
        images = self.sorting.images
        names = self.list.names(images)
        new_pictures: dict[str, bytes] = {}

        def change(work: Work) -> Work:
            after, new = keep_images(work, images, names=names)
            new_pictures.update(new)
            self._session.pictures.update(new)
            return after

        if self._session.edit(f"keep {len(images)} images", change):
            stamps = [one for one in self._session.work.stash.stamps if one.picture in new_pictures]
            told = f"{len(images)} images are in the drawer and in the library now."
            self._session.keep_in_library(stamps, new_pictures, then=lambda: self._session.said.emit(told))
            if self._session.library is None:  # else the reason was said, and stands
                self._session.said.emit(f"{len(images)} images are in the drawer; the library is not open.")
            self.leave()
            if self._path is None:
                self.kept.emit()

    def leave(self) -> None:
        """Leave this page as it is and go to the next that waits."""
        self.page.chosen = frozenset()
        self._next()

    # -- showing -------------------------------------------------------------------------------------------------

    def _show(self) -> None:
        sorting = self.sorting
        shown = sorting is not None
        self._stack.setCurrentIndex(1 if shown else 0)
        self._show_tools()
        self.length.setVisible(WAYS[self.way.currentIndex()][1].kind == "length")
        self.opening.show_busy(self.worker.is_busy)
        self.list.show_sorting(sorting, self._session.work.card.unit, waiting=len(self._waiting))
        if sorting is None:
            self.page.look_near(None)
            self.page.show_page(None, None)
            self._show_tools()
            return
        self.page.unit = self._session.work.card.unit
        self.page.show_page(sorting.sheet, sorting.picture)
        self.gap.blockSignals(True)
        self.gap.setValue(round(sorting.reach_mm / GAP_STEP_MM))
        self.gap.setEnabled(sorting.detected is not None)
        self.gap.blockSignals(False)
        self._gap_words.setText(say_length(sorting.reach_mm, Unit.MM))
        self._show_choice()
        self._show_near()

    def _show_tools(self) -> None:
        is_near = self.page.near is not None
        self._tools.setVisible(self.sorting is not None and not is_near)
        self.outline.setVisible(self.sorting is not None and is_near)
        self.mending.show_shaping()

    def _show_near(self) -> None:
        self.list.tell_how(HOW if self.page.near is None else HOW_TO_OUTLINE)
        self._show_tools()

    def _press_row(self, index: int, adding: bool) -> None:
        if self.page.near is not None:
            self.mending.see(index)
        else:
            self.page.choose(self.page.chosen ^ {index} if adding else {index})

    def _show_choice(self) -> None:
        chosen = self.page.chosen
        self.list.show_choice(chosen)
        sortable = self.sorting is not None and self.sorting.detected is not None
        self.merge_button.setEnabled(sortable and len(chosen) > 1)
        self.split_button.setEnabled(sortable and len(chosen) == 1)
        self.cut_button.setEnabled(sortable and len(chosen) == 1)
        self.drop_button.setEnabled(bool(chosen))
        self.outline_button.setEnabled(sortable and bool(self.list.rows))
