"""One line of the colouring list: its colours, what is to be done, and a box to tick it off."""

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QWidget

from fair_thicket.desk.parts.controls import label
from fair_thicket.desk.parts.ink_choice import swatch
from fair_thicket.desk.session.session import Session
from fair_thicket.masks.pin_edits import tick
from fair_thicket.model.colouring import Shade

SWATCH_PX = 18


class TickRow(QWidget):
    """A line; its tick is kept in the card.

    Attributes
    ----------
    box : QCheckBox
    """

    def __init__(
        self, key: str, words: str, shades: Sequence[Shade], session: Session, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._key, self._session = key, session
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 0, 2)
        row.setSpacing(6)
        self.box = QCheckBox()
        self.box.setAccessibleName(words)
        self.box.setChecked(self._key in session.work.card.masking.done)
        self.box.toggled.connect(self._tick)
        row.addWidget(self.box, 0, Qt.AlignmentFlag.AlignTop)
        for shade in shades:
            field = label("")
            field.setPixmap(swatch(shade.colour).pixmap(SWATCH_PX, SWATCH_PX))
            row.addWidget(field, 0, Qt.AlignmentFlag.AlignTop)
        told = label(words, wrap=True)
        font = told.font()
        font.setStrikeOut(self.box.isChecked())
        told.setFont(font)
        row.addWidget(told, 1)

    def _tick(self, is_done: bool) -> None:
        key = self._key
        words = "tick a line off" if is_done else "take a tick away"
        self._session.edit(words, lambda work: tick(work, key, is_done=is_done))
