"""One line of a list: colours, what is to be done, and a box to tick it off; the tick is kept in the card."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QWidget

from fair_thicket.desk.parts.controls import label
from fair_thicket.desk.parts.ink_choice import swatch
from fair_thicket.desk.session.session import Session
from fair_thicket.masks.pin_edits import tick
from fair_thicket.model.colouring import Shade

SWATCH_PX = 18


class TickRow(QWidget):
    """A line; a click anywhere on it ticks it off.

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
        self.box.toggled.connect(self._tick)
        row.addWidget(self.box, 0, Qt.AlignmentFlag.AlignTop)
        for shade in shades:
            field = label("")
            field.setPixmap(swatch(shade.colour).pixmap(SWATCH_PX, SWATCH_PX))
            row.addWidget(field, 0, Qt.AlignmentFlag.AlignTop)
        self._words = label(words, wrap=True)
        self._words.setAlignment(Qt.AlignmentFlag.AlignTop)
        row.addWidget(self._words, 1)
        self.show_state()

    def show_state(self) -> None:
        """Show whether it is ticked off."""
        is_done = self._key in self._session.work.card.masking.done
        self.box.blockSignals(True)
        self.box.setChecked(is_done)
        self.box.blockSignals(False)
        font = self._words.font()
        font.setStrikeOut(is_done)
        self._words.setFont(font)

    def _tick(self, is_done: bool) -> None:
        key = self._key
        words = "tick a line off" if is_done else "take a tick away"
        self._session.edit(words, lambda work: tick(work, key, is_done=is_done))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.type() == QEvent.Type.MouseButtonRelease and self.rect().contains(event.position().toPoint()):
            self.box.toggle()
