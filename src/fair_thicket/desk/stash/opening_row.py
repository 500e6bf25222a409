"""The row with which pages are opened: what they are, how their size is known, and the card that tells a photo's."""

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QProgressBar, QWidget

from fair_thicket.desk.parts.controls import button
from fair_thicket.desk.parts.save_place import ask_save_place
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.stash.ways import WAYS
from fair_thicket.files.atomic import write_whole
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.units import Unit


class OpeningRow(QWidget):
    """Asks for pages; reads none itself.

    Attributes
    ----------
    way : QComboBox
    length : QLineEdit
        The length that is known of a photo.
    stop_button : QPushButton
    filesAsked, demoAsked, stopAsked, wayChanged : Signal()
    """

    filesAsked = Signal()
    demoAsked = Signal()
    stopAsked = Signal()
    wayChanged = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(button("Open pages …", self.filesAsked.emit, "primary", tip="Scans, photos, SVG drawings"))
        self.way = QComboBox()
        self.way.addItems([words for words, _ in WAYS])
        self.way.setAccessibleName("What the page is, and how its size is known")
        self.way.setMinimumWidth(150)
        self.way.currentIndexChanged.connect(lambda _: self.wayChanged.emit())
        row.addWidget(self.way, 1)
        self.length = QLineEdit()
        self.length.setPlaceholderText("its length, 4 1/8 in")
        self.length.setAccessibleName("The length that is known")
        self.length.setFixedWidth(130)
        self.length.returnPressed.connect(self.wayChanged)
        row.addWidget(self.length)
        row.addWidget(button("Demo sheet", self.demoAsked.emit, tip="The simulated scanner scans our own drawings"))
        row.addWidget(
            button("Reference card …", self.print_card, "link", tip="Print a card that tells a photo's scale")
        )
        row.addStretch(1)
        self._busy = QProgressBar()
        self._busy.setRange(0, 0)
        self._busy.setTextVisible(False)
        self._busy.setFixedWidth(80)
        self._busy.setAccessibleName("Finding the images")
        self.stop_button = button("Stop", self.stopAsked.emit, "link")
        row.addWidget(self._busy)
        row.addWidget(self.stop_button)

    def show_busy(self, busy: bool) -> None:
        """Show whether a page is being read."""
        self._busy.setVisible(busy)
        self.stop_button.setVisible(busy)

    def print_card(self) -> None:
        """Write the reference card as PDF."""
        from fair_thicket.printing.reference_pdf import reference_pdf

        paper = "letter" if self._session.work.card.unit is Unit.INCH else "a4"
        start = Path.home() / "reference card.pdf"
        path = ask_save_place(self, "Write the reference card", start=start, kinds="PDF (*.pdf)", suffix=".pdf")
        if path is None:
            return
        try:
            write_whole(path, reference_pdf(paper))
        except ThicketError as problem:
            self._session.said.emit(str(problem))
            return
        self._session.said.emit("Print it at 100 %, cut it out and lay it beside the images.")
