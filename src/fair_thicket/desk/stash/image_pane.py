"""One image of the library: its picture with its marks, and everything else that is known of it."""

from collections.abc import Callable
from functools import partial

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFormLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fair_thicket import edits
from fair_thicket.desk.parts.controls import Choices, Stepper, button, head_row, label
from fair_thicket.desk.parts.pictures import StampPictures
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.stash.marks_editor import TOOLS, MarksEditor
from fair_thicket.intake.layers import move_layer
from fair_thicket.library.store import Library
from fair_thicket.model.declared import limit_of
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.stash import DIE_MARGIN_MM, Kind, Marks, Stamp
from fair_thicket.model.units import parse_length, say_length, say_size

NUDGE_MM = 0.1
WAYS = (("←", "left", -1, 0), ("→", "right", 1, 0), ("↑", "up", 0, -1), ("↓", "down", 0, 1))


class ImagePane(QWidget):
    """Shows what the library knows of an image, and changes it.

    Attributes
    ----------
    number : int
        Of the image in the library; 0 for none.
    stamp : Stamp or None
    redrawn : Signal(int)
        The image of that number has another picture.
    """

    redrawn = Signal(int)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.number = self._filled = 0
        self.stamp: Stamp | None = None
        self._pictures = StampPictures({})
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        self._size = label("", "soft")
        box.addLayout(head_row("Image", self._size))
        self.editor = MarksEditor(self._pictures)
        self.editor.marksAsked.connect(self._set_marks)
        box.addWidget(self.editor, 1)
        self.tool_hint = label(TOOLS[0][1], "soft", wrap=True)
        self.tools = Choices([name for name, _ in TOOLS], self._choose_tool, style="smallChoice")
        self.tools.show_choice(0)
        box.addWidget(self.tools)
        box.addWidget(self.tool_hint)
        self._fields = QWidget()
        self._fields.setLayout(self._form())
        box.addWidget(self._fields)

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
            "How many there are", limit_of(Stamp, "copies").pair, 1, lambda value: f"× {value:.0f}",
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

    def show_image(self, number: int) -> None:
        """Show an image by its number; 0 shows none."""
        library = self._session.library
        self.number, self.stamp = number, None
        if number and library is not None:
            try:
                self.stamp, pictures = library.load(number)
                self._pictures.pictures.update(pictures)
            except (KeyError, ThicketError):
                self.number = 0
        self.editor.show_stamp(self.stamp)
        self._choose_tool([name for name, _ in TOOLS].index(self.editor.tool))
        for part in (self._fields, self.tools):
            part.setEnabled(self.stamp is not None)
        if self.stamp is not None:
            self._fill(self.stamp)

    def _fill(self, stamp: Stamp) -> None:
        unit = self._session.work.card.unit
        layers = f" · {len(stamp.layers)} layers" if stamp.layers else ""
        self._size.setText(say_size(stamp.width_mm, stamp.height_mm, unit) + layers)
        for field, words in (
            (self.name, stamp.name), (self.set_name, stamp.set_name), (self.tags, " ".join(stamp.tags)),
        ):  # fmt: skip
            if not (self._filled == self.number and field.hasFocus() and field.isModified()):
                field.setText(words)
        self._filled = self.number
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
        self.editor.update()
        name, words = TOOLS[index]
        told = "; a click alone takes it away."
        if name == "hole":
            told = "; another click closes it."
            if self.stamp is not None and self.stamp.kind.is_plain:
                told = ". Openings of a die are open as they are."
            elif self.stamp is not None and not self.stamp.pockets:
                told = ". This image has none."
        self.tool_hint.setText(words + told)

    # -- changing ------------------------------------------------------------------------------------------------

    def _change(self, change: Callable[[Stamp], Stamp]) -> None:
        """Change what the library knows of the image."""
        if self.stamp is None:
            return
        number, after = self.number, change(self.stamp)
        if after != self.stamp:
            self.stamp = after
            self._session.change_library(
                lambda library: library.change(number, after), then=lambda: self._tell_card(after)
            )

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

    def nudge_layer(self, way: tuple[int, int]) -> None:
        """Move the chosen layer a little; the picture of the whole is printed anew."""
        if self.stamp is None or not self.stamp.layers:
            return
        number, index = self.number, max(0, self.layer_of.currentIndex())
        by = (way[0] * NUDGE_MM, way[1] * NUDGE_MM)

        def nudge(library: Library) -> None:  # read where it is written: the nudge before may still wait there
            stamp, pictures = library.load(number)
            library.redraw(number, *move_layer(stamp, pictures, index, by))

        self.redrawn.emit(number)
        self._session.change_library(nudge)
