"""The library: everything that the maker owns, found as it is typed, with what each image knows."""

from collections.abc import Sequence
from contextlib import closing
from pathlib import Path

from PySide6.QtGui import QUndoStack
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QListView,
    QProgressBar,
    QVBoxLayout,
    QWidget,
)

from fair_thicket.desk.parts.controls import Hint, button, ground
from fair_thicket.desk.parts.save_place import ask_save_place
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.stash.image_pane import ImagePane
from fair_thicket.desk.stash.library_grid import Entries, Tile
from fair_thicket.desk.stash.renewing import LibraryRenewals
from fair_thicket.files.atomic import write_whole
from fair_thicket.files.outline_svg import outline_svg
from fair_thicket.files.places import file_stem
from fair_thicket.files.stash_file import SUFFIX, open_stash, save_stash
from fair_thicket.intake.layers import join_layers
from fair_thicket.library import open_library
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.stash import Kind, Stamp
from fair_thicket.shape.outline import open_pockets

SIZES: tuple[tuple[str, tuple[float, float] | None], ...] = (
    ("any size", None),
    ("up to 1 in / 25 mm", (0.0, 25.4)),
    ("1 to 2 in / 25 to 50 mm", (25.4, 50.8)),
    ("over 2 in / 50 mm", (50.8, 5000.0)),
)
OUTLINES = "Outlines …"
OUTLINES_TIP = "Find outlines that run along lines with gaps instead of round the body, and renew them"


class LibraryPane(QWidget):
    """Searches the library, shows what an image knows, and puts images into the drawer.

    Attributes
    ----------
    search : QLineEdit
    view : QListView
    entries : Entries
    image : ImagePane
        The image that is looked at.
    worker : Worker
        Brings files in and gives them out.
    renewals : LibraryRenewals
        Looks for outlines along their lines.
    steps : QUndoStack
        Outlines that were renewed.
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.worker = Worker(self)
        self.worker.done.connect(self._told)
        self.worker.failed.connect(session.said)
        self.worker.busyChanged.connect(self._show_busy)
        self.steps = QUndoStack(self)
        self.renewals = LibraryRenewals(session, self)
        self.renewals.stepMade.connect(self.steps.push)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())
        session.libraryChanged.connect(self.refresh)

    # -- building ------------------------------------------------------------------------------------------------

    def _left(self) -> QWidget:
        pane = ground("mistPane")
        box = QVBoxLayout(pane)
        box.setContentsMargins(16, 4, 12, 12)
        box.addLayout(self._search_row())
        box.addLayout(self._filter_row())
        self.entries = Entries(self)
        self.view = QListView()
        self.view.setModel(self.entries)
        self.view.setItemDelegate(Tile(self.view))
        self.view.setViewMode(QListView.ViewMode.IconMode)
        self.view.setResizeMode(QListView.ResizeMode.Adjust)
        self.view.setMovement(QListView.Movement.Static)
        self.view.setUniformItemSizes(True)
        self.view.setSelectionMode(QListView.SelectionMode.ExtendedSelection)
        self.view.setAccessibleName("Images of the library")
        self.view.setStyleSheet("QListView { background: transparent; border: none; }")
        self.view.doubleClicked.connect(lambda _: self.to_drawer())
        self.view.selectionModel().selectionChanged.connect(lambda *_: self._show_choice())
        box.addWidget(self.view, 1)
        return pane

    def _search_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.search = QLineEdit()
        self.search.setPlaceholderText("find by name, set or tag …")
        self.search.setAccessibleName("Find images by name, set or tag")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self.refresh)
        row.addWidget(self.search, 1)
        self._in = button("Bring in …", self.bring_in, tip=f"Images and supplies of a {SUFFIX} file")
        row.addWidget(self._in)
        self._out = button("Give out …", self.give_out, tip="The chosen images, or all that are shown, as one file")
        row.addWidget(self._out)
        self._outlines = button(OUTLINES, self.look_at_outlines, tip=OUTLINES_TIP)
        self.renewals.worker.busyChanged.connect(self._show_looking)
        row.addWidget(self._outlines)
        return row

    def _filter_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.kind = QComboBox()
        self.kind.addItems(["every kind", *(kind.value for kind in Kind)])
        self.kind.setAccessibleName("Kind")
        self.size_choice = QComboBox()
        self.size_choice.addItems([words for words, _ in SIZES])
        self.size_choice.setAccessibleName("Size")
        for combo in (self.kind, self.size_choice):
            combo.currentIndexChanged.connect(self.refresh)
            row.addWidget(combo)
        self._facts = Hint()
        row.addWidget(self._facts, 1)
        self._busy = QProgressBar()
        self._busy.setRange(0, 0)
        self._busy.setTextVisible(False)
        self._busy.setFixedWidth(80)
        self._busy.setAccessibleName("Bringing in or giving out")
        self._busy.hide()
        row.addWidget(self._busy)
        return row

    def _right(self) -> QWidget:
        pane = ground("paperPane", width=370)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 10, 14, 10)
        box.setSpacing(6)
        self.image = ImagePane(self._session)
        self.image.redrawn.connect(self.entries.forget)
        box.addWidget(self.image, 1)
        foot = QHBoxLayout()
        self.drawer_button = button("To the drawer", self.to_drawer, "primary", tip="Take it for the present card")
        self._svg = button("SVG …", self.write_outline, tip="The outline for a cutting machine, in mm")
        self._layer = button("Layer", self.layer, tip="One image of the chosen ones, stamped in the order of the list")
        self._drop = button("Take out", self.take_out, "link", tip="Out of the library; cards keep their own copies")
        for made in (self.drawer_button, self._svg, self._layer, self._drop):
            foot.addWidget(made)
        foot.addStretch(1)
        box.addLayout(foot)
        return pane

    # -- showing -------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is found for what is typed."""
        library = self._session.library
        if library is None:
            self.entries.show([])
            self._facts.setText("The library could not be opened; images are kept with the card all the same.")
            self._show_choice()
            return
        kinds = [list(Kind)[self.kind.currentIndex() - 1]] if self.kind.currentIndex() else []
        try:
            entries = library.search(self.search.text(), kinds=kinds, size_mm=SIZES[self.size_choice.currentIndex()][1])
            total = library.count()
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        chosen = self.image.number
        self.entries.show(entries)
        rows = [row for row, entry in enumerate(entries) if entry.id == chosen]
        if rows:
            self.view.setCurrentIndex(self.entries.index(rows[0]))
        shown = f"{len(entries)} of {total} images" if len(entries) < total else f"{total} image{'s' * (total != 1)}"
        self._facts.setText(
            f"{shown} · double click takes one to the drawer" if total
            else "Nothing here yet: images that you keep from a page come here by themselves."
        )  # fmt: skip
        self._show_choice()

    def _show_busy(self, busy: bool) -> None:
        self._busy.setVisible(busy)
        for made in (self._in, self._out):
            made.setEnabled(not busy)

    def _show_looking(self, busy: bool) -> None:
        self._outlines.setText("Stop" if busy else OUTLINES)
        self._busy.setVisible(busy)

    def _numbers(self) -> list[int]:
        rows = sorted(index.row() for index in self.view.selectionModel().selectedIndexes())
        return [self.entries.entries[row].id for row in rows if row < len(self.entries.entries)]

    def _show_choice(self) -> None:
        numbers = self._numbers()
        self.image.show_image(numbers[0] if numbers else 0)
        for made in (self.drawer_button, self._svg, self._drop):
            made.setEnabled(self.image.stamp is not None)
        self._layer.setEnabled(len(numbers) > 1)
        self._outlines.setEnabled(bool(self.entries.entries))
        self._out.setEnabled(bool(self.entries.entries))

    # -- in and out ----------------------------------------------------------------------------------------------

    def _load_chosen(self) -> list[tuple[Stamp, dict[str, bytes]]]:
        """Load the chosen images; when that cannot be done the reason is said, and there are none."""
        library = self._session.library
        try:
            return [library.load(number) for number in self._numbers()] if library is not None else []
        except ThicketError as problem:
            self._session.said.emit(str(problem))
        except KeyError:
            self._session.said.emit("One of these was taken out of the library meanwhile.")
            self.refresh()
        return []

    def to_drawer(self) -> None:
        """Take the chosen images for the present card."""
        taken = self._load_chosen()
        for stamp, pictures in taken:
            self._session.adopt(stamp, pictures)
        if taken:
            names = f"“{taken[0][0].name}”" if len(taken) == 1 else f"{len(taken)} images"
            self._session.said.emit(f"In the drawer now: {names}.")

    def layer(self) -> None:
        """Make one layered image of the chosen ones; they stay as they are."""
        loaded = self._load_chosen()
        if not loaded:
            return
        stamps = [stamp for stamp, _ in loaded]
        pictures = {name: picture for _, own in loaded for name, picture in own.items()}
        try:
            whole, all_pictures = join_layers(stamps, pictures, name=f"{stamps[0].name}, layered")
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        order = ", then ".join(f"“{stamp.name}”" for stamp in stamps)
        told = f"“{whole.name}” is in the library: {order}."
        self._session.change_library(
            lambda library: library.keep([whole], all_pictures), then=lambda: self._session.said.emit(told)
        )

    def take_out(self) -> None:
        """Take the chosen images out of the library."""
        numbers = self._numbers()
        told = f"{len(numbers)} taken out of the library; cards keep their own copies."
        self._session.change_library(lambda library: library.drop(numbers), then=lambda: self._session.said.emit(told))

    def write_outline(self) -> None:
        """Ask where to write the image's outline as SVG, and write it."""
        stamp = self.image.stamp
        if stamp is None:
            return
        start = Path.home() / f"{file_stem(stamp.name, 'image')}.svg"
        path = ask_save_place(self, "Write the outline", start=start, kinds="SVG (*.svg)", suffix=".svg")
        if path is not None:
            rings = (stamp.outline, *open_pockets(stamp))
            self._write(path, outline_svg(stamp.name, rings))

    def _write(self, path: Path, data: bytes) -> None:
        try:
            write_whole(path, data)
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        self._session.said.emit(f"Written to {path.name}, in millimetres.")

    def give_out(self) -> None:
        """Ask where to write the chosen images, or all that are shown, as one file."""
        numbers = self._numbers()
        if len(numbers) < 2:
            numbers = [entry.id for entry in self.entries.entries]
        start = Path.home() / f"stash{SUFFIX}"
        kinds = f"Stash (*{SUFFIX})"
        path = ask_save_place(self, f"Give out {len(numbers)} images", start=start, kinds=kinds, suffix=SUFFIX)
        if path is None:
            return
        library = self._session.library
        if library is not None:
            source = library.path
            self.worker.ask(lambda: give_out(source, numbers, path))

    def bring_in(self) -> None:
        """Ask for a file of images and supplies, and take all of it in."""
        chosen, _ = QFileDialog.getOpenFileName(self, "Bring in", str(Path.home()), f"Stash (*{SUFFIX})")
        if chosen:
            self.bring_in_file(Path(chosen))

    def bring_in_file(self, path: Path) -> None:
        """Take in a file of images and supplies, all or nothing."""
        library = self._session.library
        if library is not None:
            target = library.path
            self.worker.ask(lambda: bring_in(target, path))

    def look_at_outlines(self) -> None:
        """Look at the chosen images, or all that are shown, for outlines that run along their lines."""
        numbers = self._numbers()
        self.renewals.look(numbers if len(numbers) > 1 else [entry.id for entry in self.entries.entries])

    def _told(self, words: str) -> None:
        self._session.said.emit(words)
        self._session.libraryChanged.emit()


def give_out(library_path: Path, numbers: Sequence[int], path: Path) -> str:
    """Write images of a library, and its supplies, to a file; returns what came of it, as a sentence."""
    with closing(open_library(library_path)) as library:
        loaded = [library.load(number) for number in numbers]
        supplies = [supply for _, supply in library.list_supplies()]
    pictures = {name: picture for _, own in loaded for name, picture in own.items()}
    save_stash(path, [stamp for stamp, _ in loaded], pictures, supplies)
    return f"{len(loaded)} images are in {path.name}."


def bring_in(library_path: Path, path: Path) -> str:
    """Take a file of images and supplies into a library, all or nothing; returns what came of it, as a sentence."""
    document, pictures = open_stash(path)
    with closing(open_library(library_path)) as library:
        library.keep(document.images, pictures, document.supplies)
    return f"{len(document.images)} images came in from {path.name}."
