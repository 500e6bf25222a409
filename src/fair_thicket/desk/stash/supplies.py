"""Papers, inks and markers: their colours, weights and how many sheets are left."""

from collections.abc import Callable, Sequence
from pathlib import Path

import msgspec
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fair_thicket.demo import SUPPLIES_FILE
from fair_thicket.desk import theme
from fair_thicket.desk.parts.controls import Column, Hint, Stepper, button
from fair_thicket.desk.parts.save_place import ask_save_place
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.files.atomic import write_whole
from fair_thicket.files.supplies_csv import read_supplies, write_supplies
from fair_thicket.intake.apart import PAGE_S, TABLE_S, run_apart
from fair_thicket.intake.swatches import Swatch, read_card
from fair_thicket.model.declared import limit_of
from fair_thicket.model.errors import InputError, ThicketError
from fair_thicket.model.supplies import Ink, Marker, Paper, Supply, parse_weight, say_weight
from fair_thicket.model.units import Unit, parse_length, say_size

KINDS = ("paper", "ink", "marker")


class Chip(QWidget):
    """A patch of a supply's colour; its accessible name tells the colour in words."""

    def __init__(self, colour: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._colour = QColor(colour)
        self.setFixedSize(40, 30)
        self.setAccessibleName(f"colour {colour}")
        self.setToolTip(colour)

    def sizeHint(self) -> QSize:
        return QSize(40, 30)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.SOFT_INK, 1))
        painter.setBrush(self._colour)
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)


MEDIA = {"alcohol": "alcohol marker", "water": "water colour", "pencil": "pencil", "pigment": "pigment ink"}
LINES = {
    "": "bears: not said",
    "marker-proof": "marker-proof",
    "waterproof": "waterproof",
    "pigment": "pigment, embossed",
    "no line": "pale, no line",
}
SURFACES = {"": "surface: not said", "smooth": "smooth", "uncoated": "uncoated", "water colour": "for water colour"}


class SuppliesPane(QWidget):
    """Lists papers, inks and markers; adds them typed, from CSV, or from a scanned swatch card.

    Attributes
    ----------
    rows : list of QWidget
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("mistPane")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._session = session
        self.rows: list[QWidget] = []
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(session.said)
        self.worker.busyChanged.connect(self._show_busy)
        box = QVBoxLayout(self)
        box.setContentsMargins(16, 4, 16, 12)
        box.addLayout(self._add_row())
        box.addLayout(self._file_row())
        self._column = Column(spacing=6, margin=2)
        box.addWidget(self._column, 1)
        session.libraryChanged.connect(self.refresh)

    def _add_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.kind = QComboBox()
        self.kind.addItems(KINDS)
        self.kind.setAccessibleName("Paper, ink or marker")
        self.name, self.colour, self.more, self.size_of = QLineEdit(), QLineEdit(), QLineEdit(), QLineEdit()
        for field, words, hint in (
            (self.name, "Name", "name, such as ivory base"),
            (self.colour, "Colour", "#3c6e47"),
            (self.more, "Weight of a paper, family of a marker", "110 lb cover, or a family"),
            (self.size_of, "Sheet size of a paper", "8 1/2 x 11 in"),
        ):
            field.setAccessibleName(words)
            field.setPlaceholderText(hint)
            field.returnPressed.connect(self.add)
        self.colour.setFixedWidth(90)
        row.addWidget(self.kind)
        row.addWidget(self.name, 2)
        row.addWidget(self.colour)
        row.addWidget(self.more, 1)
        self.size_of.setFixedWidth(120)
        row.addWidget(self.size_of)
        self.kind.currentIndexChanged.connect(lambda index: self.size_of.setEnabled(KINDS[index] == "paper"))
        row.addWidget(button("Add", self.add, "primary"))
        return row

    def _file_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(button("From a swatch card …", self.choose_swatches, tip="A colour scan; its patches are found"))
        row.addWidget(button("From CSV …", self.choose_csv))
        row.addWidget(button("Demo list", self.take_demo, tip="Papers, inks and markers of the Fernside post"))
        self._to_csv = button("To CSV …", self.write_csv)
        row.addWidget(self._to_csv)
        self._facts = Hint()
        row.addWidget(self._facts, 1)
        self.stop = button("Stop reading", self.worker.cancel, "link")
        self.stop.hide()
        row.addWidget(self.stop)
        return row

    def _show_busy(self, is_busy: bool) -> None:
        self.stop.setVisible(is_busy)

    def refresh(self) -> None:
        """Show what there is."""
        self._column.clear()
        self.rows = []
        library = self._session.library
        try:
            supplies = library.list_supplies() if library is not None else []
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            supplies = []
        for number, supply in supplies:
            self.rows.append(self._row(number, supply))
            self._column.box.addWidget(self.rows[-1])
        self._to_csv.setEnabled(bool(supplies))
        counts = [_count(sum(isinstance(one, kind) for _, one in supplies), kind) for kind in (Paper, Ink, Marker)]
        self._facts.setText(" · ".join(counts) if supplies else "Nothing here yet: type one, or read a list or a card.")

    def _row(self, number: int, supply: Supply) -> QWidget:
        row = QWidget()
        row.setObjectName("card")
        row.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box = QHBoxLayout(row)
        box.setContentsMargins(10, 5, 10, 5)
        box.addWidget(Chip(supply.colour))
        name = QLineEdit(supply.name)
        name.setFixedWidth(220)
        name.setMaxLength(120)
        name.setAccessibleName(f"Name of {supply.name}")
        name.editingFinished.connect(lambda: self._rename(number, supply, name))
        box.addWidget(name)
        box.addWidget(Hint(self._tell(supply)), 1)
        if isinstance(supply, Paper):
            left = Stepper(
                f"Sheets of {supply.name} left", limit_of(Paper, "sheets_left").pair, 1,
                lambda value: f"{value:.0f} sheets",
                lambda value: self._change(number, msgspec.structs.replace(supply, sheets_left=round(value))),
            )  # fmt: skip
            left.show_value(supply.sheets_left)
            box.addWidget(left)
        box.addWidget(self._kind_of(number, supply))
        box.addWidget(button("take out", lambda: self._session.change_library(
            lambda library: library.drop_supplies([number])), "link"))  # fmt: skip
        return row

    def _kind_of(self, number: int, supply: Supply) -> QComboBox:
        """Let it be said what kind a supply is: what lines bear, how paper takes ink, what a marker is."""
        field, words = ("surface", SURFACES) if isinstance(supply, Paper) else ("lines", LINES)
        if isinstance(supply, Marker):
            field, words = "medium", MEDIA
        menu = QComboBox()
        menu.setAccessibleName(f"Kind of {supply.name}")
        for kind, told in words.items():
            menu.addItem(told, kind)
        menu.setCurrentIndex(list(words).index(getattr(supply, field)))
        menu.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        menu.activated.connect(
            lambda index: self._change(number, msgspec.structs.replace(supply, **{field: menu.itemData(index)}))
        )
        return menu

    def _tell(self, supply: Supply) -> str:
        words = [type(supply).__name__.lower(), supply.code]
        if isinstance(supply, Paper):
            unit = self._session.work.card.unit
            words += [say_weight(supply.weight_gsm), say_size(supply.width_mm, supply.height_mm, unit)]
        elif isinstance(supply, Marker) and supply.family:
            words.append(f"family {supply.family}")
        return " · ".join(word for word in words if word)

    # -- changing ------------------------------------------------------------------------------------------------

    def _change(self, number: int, supply: Supply) -> None:
        self._session.change_library(lambda library: library.change_supply(number, supply))

    def _rename(self, number: int, supply: Supply, field: QLineEdit) -> None:
        words = field.text().strip()
        if not words:
            field.setText(supply.name)
        elif words != supply.name:
            self._change(number, msgspec.structs.replace(supply, name=words))

    def _attempt(self, make: Callable[[], list[Supply]], *, then: Callable[[], None] = lambda: None) -> None:
        """Keep supplies; when they cannot be made or kept the reason is said."""
        try:
            made = make()
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        self._session.change_library(lambda library: library.keep_supplies(made), then=then)

    def add(self) -> None:
        """Add what is typed."""
        self._attempt(lambda: [self._typed()], then=self._clear)

    def _clear(self) -> None:
        for field in (self.name, self.more):
            field.clear()

    def _typed(self) -> Supply:
        kind, name = self.kind.currentText(), self.name.text().strip()
        colour = self.colour.text().strip().lower() or "#ffffff"
        if not name:
            raise InputError("Type a name first, such as ivory base.")
        try:
            if kind == "paper":
                weight = parse_weight(self.more.text()) if self.more.text().strip() else 298.0
                sheet = {"type": kind, "name": name, "colour": colour, "weight_gsm": weight, **self._typed_size()}
                return msgspec.convert(sheet, Paper)
            if kind == "ink":
                return msgspec.convert({"type": kind, "name": name, "colour": colour}, Ink)
            known = {"type": kind, "name": name, "colour": colour, "family": self.more.text().strip()}
            return msgspec.convert(known, Marker)
        except msgspec.ValidationError as problem:
            if "_mm" in str(problem):
                raise InputError(f"“{self.size_of.text()[:24]}” is no sheet; its sides are up to 2 m.") from None
            raise InputError(f"“{colour[:12]}” is not a colour; type it like #3c6e47.") from None

    def _typed_size(self) -> dict[str, float]:
        """Width and height of a sheet as typed, such as 8 1/2 x 11 in; nothing means a letter sheet."""
        words = self.size_of.text().strip()
        if not words:
            return {}
        parts = words.lower().replace("×", "x").split("x")
        if len(parts) != 2:
            raise InputError(f"“{words[:24]}” is not a sheet size; type width by height, such as 8 1/2 x 11 in.")
        unit = Unit.MM if "mm" in words or "cm" in words else self._session.work.card.unit
        width, height = (parse_length(part, unit) for part in parts)
        return {"width_mm": width, "height_mm": height}

    def take_demo(self) -> None:
        """Take in the demo's papers, inks and markers, but for those that are there already."""
        library = self._session.library
        if library is None:
            return
        known = {supply for _, supply in library.list_supplies()}
        self._attempt(lambda: [supply for supply in read_supplies(SUPPLIES_FILE) if supply not in known])

    def choose_csv(self) -> None:
        """Ask for a list and take all of it in."""
        chosen, _ = QFileDialog.getOpenFileName(self, "Read a list", str(Path.home()), "CSV (*.csv *.txt)")
        if chosen:
            self._read(read_supplies, Path(chosen), TABLE_S)

    def write_csv(self) -> None:
        """Ask where to write the list, and write it."""
        library = self._session.library
        start = Path.home() / "supplies.csv"
        path = ask_save_place(self, "Write the list", start=start, kinds="CSV (*.csv)", suffix=".csv")
        if path is None or library is None:
            return
        try:
            write_whole(path, write_supplies([supply for _, supply in library.list_supplies()]))
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        self._session.said.emit(f"Written to {path.name}.")

    def choose_swatches(self) -> None:
        """Ask for the scan of a swatch card and read its patches."""
        chosen, _ = QFileDialog.getOpenFileName(
            self, "Open a swatch card", str(Path.home()), "Scans (*.png *.jpg *.jpeg *.tif *.tiff *.webp)"
        )
        if chosen:
            self._read(read_card, Path(chosen), PAGE_S)

    def _read(self, function: Callable[[Path], Sequence[Supply | Swatch]], path: Path, seconds: float) -> None:
        """Read a file from outside in a process of its own, which *Stop* and closing the window end at once."""
        self.worker.ask_stoppable(lambda go_on: run_apart(function, path, name=path.name, seconds=seconds, go_on=go_on))

    def _take(self, found: Sequence[Supply | Swatch]) -> None:
        supplies = [one for one in found if not isinstance(one, Swatch)]
        if supplies:
            self._attempt(lambda: supplies)
        else:
            self._take_swatches([one for one in found if isinstance(one, Swatch)])

    def _take_swatches(self, swatches: list[Swatch]) -> None:
        kind = self.kind.currentText()
        word = kind if kind != "paper" else "ink"

        def make(swatch: Swatch) -> Supply:
            name = f"{word}, row {swatch.row + 1}, {swatch.column + 1}"
            return Ink(name, swatch.colour) if word == "ink" else Marker(name, swatch.colour)

        told = f"{len(swatches)} colours read; they are named by their row and place."
        self._attempt(lambda: [make(swatch) for swatch in swatches], then=lambda: self._session.said.emit(told))


def _count(number: int, kind: type[Supply]) -> str:
    return f"{number} {kind.__name__.lower()}{'s' * (number != 1)}"
