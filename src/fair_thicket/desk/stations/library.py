"""The library: everything that the maker owns, found as it is typed, with what each image knows."""

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

import msgspec
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QListView,
    QVBoxLayout,
    QWidget,
)

from fair_thicket.desk.session import Session
from fair_thicket.desk.widgets.library_grid import Entries, Tile
from fair_thicket.desk.widgets.marks_editor import TOOLS, MarksEditor
from fair_thicket.desk.widgets.parts import Choices, Hint, Stepper, button, ground, head_row, label
from fair_thicket.desk.widgets.pictures import StampPictures
from fair_thicket.files.outline_svg import outline_svg
from fair_thicket.files.stash_file import SUFFIX, open_stash, save_stash
from fair_thicket.intake.layers import join_layers, move_layer
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.stash import DIE_MARGIN_MM, Kind, Marks, Stamp
from fair_thicket.model.units import parse_length, say_length, say_size
from fair_thicket.scene import edits

NUDGE_MM = 0.1
WAYS = (("←", "left", -1, 0), ("→", "right", 1, 0), ("↑", "up", 0, -1), ("↓", "down", 0, 1))
SIZES: tuple[tuple[str, tuple[float, float] | None], ...] = (
    ("any size", None),
    ("up to 1 in / 25 mm", (0.0, 25.4)),
    ("1 to 2 in / 25 to 50 mm", (25.4, 50.8)),
    ("over 2 in / 50 mm", (50.8, 5000.0)),
)


class LibraryPane(QWidget):
    """Searches the library, shows what an image knows, and puts images into the drawer.

    Attributes
    ----------
    search : QLineEdit
    view : QListView
    entries : Entries
    stamp : Stamp or None
        The image that is looked at.
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.stamp: Stamp | None = None
        self._number = 0
        self._pictures = StampPictures({})
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
        row = QHBoxLayout()
        self.search = QLineEdit()
        self.search.setPlaceholderText("find by name, set or tag …")
        self.search.setAccessibleName("Find images by name, set or tag")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self.refresh)
        row.addWidget(self.search, 1)
        row.addWidget(button("Bring in …", self.bring_in, tip=f"Images and supplies of a {SUFFIX} file"))
        self._out = button("Give out …", self.give_out, tip="The chosen images, or all that are shown, as one file")
        row.addWidget(self._out)
        box.addLayout(row)
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
        box.addLayout(row)
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

    def _right(self) -> QWidget:
        pane = ground("paperPane", width=370)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 10, 14, 10)
        box.setSpacing(6)
        self._size = label("", "soft")
        box.addLayout(head_row("Image", self._size))
        self.editor = MarksEditor(self._pictures)
        self.editor.marksAsked.connect(self._set_marks)
        box.addWidget(self.editor, 1)
        self._tool_hint = label(TOOLS[0][1], "soft", wrap=True)
        self.tools = Choices([name for name, _ in TOOLS], self._choose_tool)
        self.tools.show_choice(0)
        for made in self.tools.buttons:
            made.setObjectName("smallChoice")
        box.addWidget(self.tools)
        box.addWidget(self._tool_hint)
        self._fields = QWidget()
        self._fields.setLayout(self._form())
        box.addWidget(self._fields)
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

    def _form(self) -> QFormLayout:
        self._form_rows = form = QFormLayout()
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(4)
        self.name, self.set_name, self.tags = QLineEdit(), QLineEdit(), QLineEdit()
        self.tags.setPlaceholderText("words, parted by spaces")
        for words, field in (("Name", self.name), ("Set", self.set_name), ("Tags", self.tags)):
            field.setAccessibleName(words)
            field.editingFinished.connect(self._take_words)
            form.addRow(words, field)
        self.kind_of = QComboBox()
        self.kind_of.addItems([kind.value for kind in Kind])
        self.kind_of.setAccessibleName("Kind of this image")
        self.kind_of.activated.connect(self._take_kind)
        self.flip = Choices(["one way", "turns over"], self._take_flip)
        form.addRow("Kind", self.kind_of)
        row = QHBoxLayout()
        row.addWidget(self.flip)
        row.addStretch(1)
        form.addRow("Paper", row)
        self.copies = Stepper(
            "How many there are", (1, 20), 1, lambda value: f"× {value:.0f}",
            lambda value: self._change(lambda stamp: msgspec.structs.replace(stamp, copies=round(value))),
        )  # fmt: skip
        self.flies = Choices(["stands", "flies"], lambda index: self._change_marks(flies=index == 1))
        row = QHBoxLayout()
        row.addWidget(self.copies)
        row.addSpacing(10)
        row.addWidget(self.flies)
        row.addStretch(1)
        form.addRow("Owned", row)
        self.cut = Choices(["fussy cut", "has a die"], self._take_cut)
        self.margin = QLineEdit()
        self.margin.setAccessibleName("Margin of the matching die")
        self.margin.editingFinished.connect(self._take_margin)
        row = QHBoxLayout()
        row.addWidget(self.cut)
        row.addSpacing(6)
        row.addWidget(self.margin)
        form.addRow("Cut out", row)
        form.addRow("Layer", self._layer_row())
        form.setRowVisible(self._layers, False)
        self.light = QComboBox()
        self.light.addItems(["not said", "left", "right", "above"])
        self.light.setAccessibleName("Where light falls from")
        self.light.activated.connect(
            lambda index: self._change_marks(light=None if index == 0 else self.light.itemText(index))
        )
        form.addRow("Light from", self.light)
        return form

    def _layer_row(self) -> QWidget:
        """Make the row that registers a layer: which one, and four ways to nudge it."""
        self._layers = QWidget()
        row = QHBoxLayout(self._layers)
        row.setContentsMargins(0, 0, 0, 0)
        self.layer_of = QComboBox()
        self.layer_of.setAccessibleName("Layer to be moved")
        row.addWidget(self.layer_of, 1)
        for words, name, x, y in WAYS:
            made = button(words, partial(self.nudge_layer, (x, y)), "step", tip=f"Move it {NUDGE_MM} mm {name}")
            made.setAccessibleName(f"Move the layer {name}")
            row.addWidget(made)
        return self._layers

    # -- showing -------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is found for what is typed."""
        library = self._session.library
        if library is None:
            self.entries.show([])
            self._facts.setText("The library could not be opened; images are kept with the card all the same.")
            self._show_image(0)
            return
        kinds = [list(Kind)[self.kind.currentIndex() - 1]] if self.kind.currentIndex() else []
        try:
            entries = library.search(self.search.text(), kinds=kinds, size_mm=SIZES[self.size_choice.currentIndex()][1])
            total = library.count()
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        chosen = self._number
        self.entries.show(entries)
        rows = [row for row, entry in enumerate(entries) if entry.id == chosen]
        if rows:
            self.view.setCurrentIndex(self.entries.index(rows[0]))
        shown = f"{len(entries)} of {total} images" if len(entries) < total else f"{total} images"
        self._facts.setText(
            f"{shown} · double click takes one to the drawer" if total
            else "Nothing here yet: images that you keep from a page come here by themselves."
        )  # fmt: skip
        self._show_choice()

    def _numbers(self) -> list[int]:
        rows = sorted(index.row() for index in self.view.selectionModel().selectedIndexes())
        return [self.entries.entries[row].id for row in rows if row < len(self.entries.entries)]

    def _show_choice(self) -> None:
        numbers = self._numbers()
        self._show_image(numbers[0] if numbers else 0)

    def _show_image(self, number: int) -> None:
        library = self._session.library
        self._number, self.stamp = number, None
        if number and library is not None:
            try:
                self.stamp, pictures = library.load(number)
                self._pictures.pictures.update(pictures)
            except (KeyError, ThicketError):
                self._number = 0
        self.editor.show_stamp(self.stamp)
        has = self.stamp is not None
        for part in (self._fields, self.tools, self.drawer_button, self._svg, self._drop):
            part.setEnabled(has)
        self._layer.setEnabled(len(self._numbers()) > 1)
        self._out.setEnabled(bool(self.entries.entries))
        if self.stamp is not None:
            self._fill(self.stamp)

    def _fill(self, stamp: Stamp) -> None:
        unit = self._session.work.card.unit
        layers = f" · {len(stamp.layers)} layers" if stamp.layers else ""
        self._size.setText(say_size(stamp.width_mm, stamp.height_mm, unit) + layers)
        for field, words in (
            (self.name, stamp.name), (self.set_name, stamp.set_name), (self.tags, " ".join(stamp.tags)),
        ):  # fmt: skip
            if not (field.hasFocus() and field.isModified()):
                field.setText(words)
        self.kind_of.setCurrentIndex(list(Kind).index(stamp.kind))
        self.flip.show_choice(1 if stamp.may_flip else 0)
        self.copies.show_value(stamp.copies)
        self.flies.show_choice(1 if stamp.marks.flies else 0)
        self.cut.show_choice(0 if stamp.die_margin_mm is None else 1)
        self.margin.setEnabled(stamp.die_margin_mm is not None)
        self.margin.setText("" if stamp.die_margin_mm is None else say_length(stamp.die_margin_mm, unit))
        self._form_rows.setRowVisible(self._layers, bool(stamp.layers))
        if [self.layer_of.itemText(k) for k in range(self.layer_of.count())] != [one.name for one in stamp.layers]:
            self.layer_of.clear()
            self.layer_of.addItems([one.name for one in stamp.layers])
        self.light.setCurrentIndex(max(0, self.light.findText(stamp.marks.light or "not said")))

    def _choose_tool(self, index: int) -> None:
        self.editor.tool = TOOLS[index][0]
        self._tool_hint.setText(f"{TOOLS[index][1]}; a click alone takes it away.")

    # -- changing ------------------------------------------------------------------------------------------------

    def _change(self, change: Callable[[Stamp], Stamp]) -> None:
        """Change what the library knows of the image."""
        if self.stamp is None:
            return
        number, after = self._number, change(self.stamp)
        if after != self.stamp:
            self.stamp = after
            if self._session.change_library(lambda library: library.change(number, after)):
                self._tell_card(after)

    def _tell_card(self, stamp: Stamp) -> None:
        """Let the card's own copy of the image know the same."""
        session = self._session
        if any(own.picture == stamp.picture for own in session.work.stash.stamps):
            session.edit(
                f"what is known of {stamp.name}",
                lambda work: edits.learn(work, stamp),
                merge_key=f"known {stamp.picture}",
            )

    def _set_marks(self, marks: Marks) -> None:
        self._change(lambda stamp: msgspec.structs.replace(stamp, marks=marks))

    def _change_marks(self, **fields: object) -> None:
        self._change(lambda stamp: msgspec.structs.replace(stamp, marks=msgspec.structs.replace(stamp.marks, **fields)))

    def _take_words(self) -> None:
        tags = tuple(dict.fromkeys(word[:40] for word in self.tags.text().split()))[:40]
        name, set_name = self.name.text().strip()[:120], self.set_name.text().strip()[:120]
        self._change(
            lambda stamp: msgspec.structs.replace(stamp, name=name or stamp.name, set_name=set_name, tags=tags)
        )

    def _take_kind(self, index: int) -> None:
        kind = list(Kind)[index]
        self._change(lambda stamp: msgspec.structs.replace(stamp, kind=kind, may_flip=kind.is_plain))

    def _take_flip(self, index: int) -> None:
        """Say whether it may be turned over; what rubber prints cannot, and is told why."""
        if index == 1 and self.stamp is not None and not self.stamp.kind.is_plain:
            self._session.said.emit("An impression cannot be turned over: ink is on one side of the paper only.")
            self.flip.show_choice(0)
            return
        self._change(lambda stamp: msgspec.structs.replace(stamp, may_flip=index == 1))

    def _take_cut(self, index: int) -> None:
        margin = None if index == 0 else DIE_MARGIN_MM
        self._change(lambda stamp: msgspec.structs.replace(stamp, die_margin_mm=margin))

    def _take_margin(self) -> None:
        if not self.margin.isModified() or self.stamp is None:
            return
        self.margin.setModified(False)
        try:
            margin = parse_length(self.margin.text(), self._session.work.card.unit)
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        if not 0 <= margin <= 20:
            self._session.said.emit("A die's margin is from 0 to 20 mm (about 3/4 in).")
            return
        self._change(lambda stamp: msgspec.structs.replace(stamp, die_margin_mm=margin))

    # -- in and out ----------------------------------------------------------------------------------------------

    def _loaded(self, numbers: Sequence[int]) -> list[tuple[Stamp, dict[str, bytes]]]:
        library = self._session.library
        return [library.load(number) for number in numbers] if library is not None else []

    def to_drawer(self) -> None:
        """Take the chosen images for the present card."""
        taken = self._loaded(self._numbers())
        for stamp, pictures in taken:
            self._session.adopt(stamp, pictures)
        if taken:
            self._session.said.emit(f"{len(taken)} in the drawer now: “{taken[0][0].name}” and so on."
                                    if len(taken) > 1 else f"“{taken[0][0].name}” is in the drawer now.")  # fmt: skip

    def layer(self) -> None:
        """Make one layered image of the chosen ones; they stay as they are."""
        try:
            loaded = self._loaded(self._numbers())
            pictures = {name: picture for _, own in loaded for name, picture in own.items()}
            stamps = [stamp for stamp, _ in loaded]
            whole, all_pictures = join_layers(stamps, pictures, name=f"{stamps[0].name}, layered")
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        if self._session.change_library(lambda library: library.keep([whole], all_pictures)):
            order = ", then ".join(f"“{stamp.name}”" for stamp in stamps)
            self._session.said.emit(f"“{whole.name}” is in the library: {order}.")

    def nudge_layer(self, way: tuple[int, int]) -> None:
        """Move the chosen layer a little; the picture of the whole is printed anew."""
        library = self._session.library
        if self.stamp is None or not self.stamp.layers or library is None:
            return
        number = self._number
        try:
            stamp, pictures = library.load(number)
            index = max(0, self.layer_of.currentIndex())
            after, made = move_layer(stamp, pictures, index, (way[0] * NUDGE_MM, way[1] * NUDGE_MM))
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        self.entries.forget(number)
        self._session.change_library(lambda one: one.redraw(number, after, made))

    def take_out(self) -> None:
        """Take the chosen images out of the library."""
        numbers = self._numbers()
        if self._session.change_library(lambda library: library.drop(numbers)):
            self._session.said.emit(f"{len(numbers)} taken out of the library; cards keep their own copies.")

    def write_outline(self) -> None:
        """Ask where to write the image's outline as SVG, and write it."""
        if self.stamp is None:
            return
        start = str(Path.home() / f"{self.stamp.name}.svg")
        chosen, _ = QFileDialog.getSaveFileName(self, "Write the outline", start, "SVG (*.svg)")
        if chosen:
            rings = (self.stamp.outline, *(self.stamp.pockets if self.stamp.kind.is_plain else ()))
            self._write(Path(chosen), outline_svg(self.stamp.name, rings))

    def _write(self, path: Path, data: bytes) -> None:
        from fair_thicket.files.atomic import write_whole

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
        chosen, _ = QFileDialog.getSaveFileName(
            self, f"Give out {len(numbers)} images", str(Path.home() / f"stash{SUFFIX}"), f"Stash (*{SUFFIX})"
        )
        if not chosen:
            return
        path = Path(chosen if chosen.endswith(SUFFIX) else chosen + SUFFIX)
        try:
            loaded = self._loaded(numbers)
            library = self._session.library
            supplies = [supply for _, supply in library.list_supplies()] if library is not None else []
            pictures = {name: picture for _, own in loaded for name, picture in own.items()}
            save_stash(path, [stamp for stamp, _ in loaded], pictures, supplies)
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        self._session.said.emit(f"{len(loaded)} images are in {path.name}.")

    def bring_in(self) -> None:
        """Ask for a file of images and supplies, and take all of it in."""
        chosen, _ = QFileDialog.getOpenFileName(self, "Bring in", str(Path.home()), f"Stash (*{SUFFIX})")
        if chosen:
            self.bring_in_file(Path(chosen))

    def bring_in_file(self, path: Path) -> None:
        """Take in a file of images and supplies, all or nothing."""
        try:
            document, pictures = open_stash(path)
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        if self._session.change_library(lambda library: library.keep(document.images, pictures)):
            if document.supplies:
                self._session.change_library(lambda library: library.keep_supplies(document.supplies))
            self._session.said.emit(f"{len(document.images)} images came in from {path.name}.")
