"""The maker's pins, each with what it costs and a way to take it off."""

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from fair_thicket import masks
from fair_thicket.desk.parts.controls import Column, button, card_frame, label
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.session.thinking import Outcome
from fair_thicket.masks.pin_edits import take_pin
from fair_thicket.masks.prices import Cost, say_change
from fair_thicket.masks.problem_of_card import say_pin
from fair_thicket.model.masking import Pin

NONE = (
    "Nothing is pinned. Drag a dot of the timetable to another press, or choose images and pin them by the Masks menu: "
    "first, never masked, in one press, cut out instead."
)


class PinList(QWidget):
    """Pins with their costs, worked out when they are looked at.

    Attributes
    ----------
    worker : Worker
    costs : list of (Pin, Cost or None)
        As shown; None where the pin does not hold.
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._of: Outcome | None = None
        self.costs: list[tuple[Pin, Cost | None]] = []
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(session.said)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        self._column = Column(spacing=6, margin=0)
        self._column.box.setContentsMargins(0, 2, 6, 2)
        box.addWidget(self._column, 1)
        session.outcomeChanged.connect(self.refresh)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Work out anew what the pins cost, when they are looked at."""
        outcome = self._session.outcome
        if outcome is None or not self.isVisible() or outcome is self._of:
            return
        self._of = outcome
        refused = {one.pin for one in outcome.refused}
        pins = outcome.work.card.masking.pins

        def work_out() -> tuple[Outcome, list[tuple[Pin, Cost | None]]]:
            work, plan = outcome.work, outcome.plan
            return outcome, [(pin, None if pin in refused else masks.price_pin(work, plan, pin)) for pin in pins]

        self.worker.ask(work_out)

    def _take(self, result: tuple[Outcome, list[tuple[Pin, Cost | None]]]) -> None:
        outcome, self.costs = result
        if outcome.work is not self._session.work:
            return
        self._column.clear()
        if not self.costs:
            self._column.box.addWidget(label(NONE, "soft", wrap=True))
        for pin, cost in self.costs:
            self._column.box.addWidget(self._card(outcome, pin, cost))

    def _card(self, outcome: Outcome, pin: Pin, cost: Cost | None) -> QWidget:
        frame, box = card_frame()
        words = say_pin(outcome.work, pin)
        head = label(words[:1].upper() + words[1:], wrap=True)
        head.setStyleSheet("font-weight: 700;")
        box.addWidget(head)
        if cost is None:
            reason = next(one.reason for one in outcome.refused if one.pin == pin)
            box.addWidget(label(f"Does not hold. {reason}", wrap=True))
        else:
            told = say_change(cost)
            box.addWidget(label("It costs nothing." if told == "no difference" else f"With it: {told}.", wrap=True))
        made = button("Take it away", lambda: self._session.edit("take a pin away", lambda work: take_pin(work, pin)))
        made.setAccessibleName(f"Take it away: {words}")
        box.addWidget(made)
        return frame
