"""Steps of a press, to be ticked off at the table; the ticks are kept in the card."""

from collections.abc import Sequence

from PySide6.QtWidgets import QWidget

from fair_thicket.desk.parts.controls import Column
from fair_thicket.desk.parts.tick_row import TickRow
from fair_thicket.desk.session.session import Session
from fair_thicket.model.steps import Step


class StepRow(TickRow):
    """One step with its box."""

    def __init__(self, number: int, step: Step, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(step.key, f"{number}.  {step.words}", (), session, parent)
        self.step = step
        self.box.setAccessibleName(step.words)


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
