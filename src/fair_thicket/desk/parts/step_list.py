"""Steps of a press, to be ticked off at the table; the ticks are kept in the card."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QWidget

from fair_thicket.desk.parts.controls import Column, label
from fair_thicket.desk.session.session import Session
from fair_thicket.masks.pin_edits import tick
from fair_thicket.model.steps import Step


class StepRow(QWidget):
    """One step with its box.

    Attributes
    ----------
    box : QCheckBox
    """

    def __init__(self, number: int, step: Step, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.step, self._session = step, session
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 1, 0, 1)
        row.setSpacing(8)
        self.box = QCheckBox()
        self.box.setAccessibleName(step.words)
        self.box.toggled.connect(self._tick)
        self._words: QLabel = label(f"{number}.  {step.words}", wrap=True)
        self._words.setAlignment(Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.box, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self._words, 1)
        self.show_state()

    def show_state(self) -> None:
        """Show whether it is ticked off."""
        is_done = self.step.key in self._session.work.card.masking.done
        self.box.blockSignals(True)
        self.box.setChecked(is_done)
        self.box.blockSignals(False)
        font = self._words.font()
        font.setStrikeOut(is_done)
        self._words.setFont(font)

    def _tick(self, is_done: bool) -> None:
        key = self.step.key
        self._session.edit(
            "tick a step off" if is_done else "take a tick away", lambda work: tick(work, key, is_done=is_done)
        )

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.type() == QEvent.Type.MouseButtonRelease and self.rect().contains(event.position().toPoint()):
            self.box.toggle()


class StepList(Column):
    """The steps of one press.

    Attributes
    ----------
    rows : list of StepRow
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(spacing=4, margin=0, parent=parent)
        self._session = session
        self.rows: list[StepRow] = []
        session.cardChanged.connect(self._show_ticks)

    def show_steps(self, steps: Sequence[Step]) -> None:
        """Show steps; those that are shown already stay."""
        if [row.step for row in self.rows] == list(steps):
            return
        self.clear()
        self.rows = [StepRow(number, step, self._session) for number, step in enumerate(steps, 1)]
        for row in self.rows:
            self.box.addWidget(row)

    def _show_ticks(self) -> None:
        for row in self.rows:
            row.show_state()
