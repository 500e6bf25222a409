"""At the table: one step at a time, large, with its picture, its clock, and one key onward."""

import time
from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QKeyEvent, Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from fair_thicket.assembly import Assembly
from fair_thicket.assembly.at_hand import AT_HAND, CAUTIONS
from fair_thicket.assembly.landing import landed_after
from fair_thicket.assembly.pace import note_time
from fair_thicket.assembly.picturing import picture_steps
from fair_thicket.assembly.scheduling import Timed
from fair_thicket.desk import theme
from fair_thicket.desk.parts.controls import button, ground, label
from fair_thicket.desk.parts.panel_view import PanelView
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.ink.inking import Paper
from fair_thicket.laid.stack import stack
from fair_thicket.masks.pin_edits import tick
from fair_thicket.model.keys import image_key
from fair_thicket.shape.outline import to_outline

DPI = 150
ONWARD = frozenset({Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Right})
BACK = frozenset({Qt.Key.Key_Left, Qt.Key.Key_Backspace})


class _Pictured(NamedTuple):
    step: int
    paper: Paper


class AtTable(QDialog):
    """One step of a card that is being made; a tick is kept in the card, so that days later one goes on here.

    Attributes
    ----------
    index : int
        Place of the step that is shown; as many as there are steps when all is done.
    words, clock : QLabel
    moved : Signal(int)
    """

    moved = Signal(int)

    def __init__(
        self,
        session: Session,
        made: Assembly,
        index: int,
        parent: QWidget | None = None,
        *,
        now: Callable[[], float] = time.monotonic,
    ) -> None:
        super().__init__(parent)
        self._session, self._made, self._now = session, made, now
        self._since = now()
        self._steps = made.schedule.steps
        self.setWindowTitle("At the table")
        self.setObjectName("paperPane")
        self.index = index
        self._left_s = 0
        self._second = QTimer(self)
        self._second.setInterval(1000)
        self._second.timeout.connect(self._tick_clock)
        self._painter = Worker(self)
        self._painter.done.connect(self._show_picture)
        self._build()
        self._show()

    def _build(self) -> None:
        row = QHBoxLayout(self)
        row.setContentsMargins(24, 20, 24, 20)
        row.setSpacing(20)
        self.picture = PanelView("The card after this step")
        row.addWidget(self.picture, 3)
        pane = ground("paperPane")
        box = QVBoxLayout(pane)
        self.count = label("", "soft")
        self.words = label("", "", wrap=True)
        self.clock = label("", "", wrap=True)
        self.hand = label("", "soft", wrap=True)
        self.caution = label("", "soft", wrap=True)
        for one, size in ((self.count, 16), (self.words, 30), (self.clock, 30), (self.hand, 19), (self.caution, 16)):
            one.setStyleSheet(f"font-size: {size}px;")
        for one in (self.count, self.words, self.clock, self.hand, self.caution):
            box.addWidget(one)
        box.addStretch(1)
        foot = QHBoxLayout()
        self.back = button("Back", self.step_back, tip="Left arrow")
        self.onward = button("Done, next", self.step_on, "primary", tip="Space")
        for way in (self.back, self.onward):
            way.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            way.setStyleSheet("font-size: 20px; padding: 10px;")
            foot.addWidget(way)
        box.addLayout(foot)
        box.addWidget(label("Space: done, next · left arrow: back · Esc: leave; your place is kept", "soft", wrap=True))
        row.addWidget(pane, 2)

    # -- showing -------------------------------------------------------------------------------------------------

    @property
    def step(self) -> Timed | None:
        """The step that is shown; None when all is done."""
        return self._steps[self.index] if self.index < len(self._steps) else None

    @property
    def is_busy(self) -> bool:
        """Whether the picture of the step is being painted."""
        return self._painter.is_busy

    def _show(self) -> None:
        one = self.step
        self.back.setEnabled(self.index > 0)
        self.onward.setText("Leave" if one is None else "Done, next")
        self._second.stop()
        if one is None:
            self.count.setText(f"all {len(self._steps)} steps are done")
            self.words.setText("The card is made. Write down what you would do otherwise next time.")
            for field in (self.clock, self.hand, self.caution):
                field.setText("")
            self._picture(len(self._steps) - 1)
            return
        cards = self._session.work.card.sheets.cards
        each = f" · for all {cards} cards" if cards > 1 else ""
        self.count.setText(f"step {self.index + 1} of {len(self._steps)} · about {one.operation.minutes:.0f} min{each}")
        self.words.setText(one.operation.words)
        self.hand.setText(f"At hand: {AT_HAND.get(one.operation.tool, one.operation.tool)}")
        self.caution.setText(CAUTIONS.get(one.operation.tool, ""))
        self._start_clock(one)
        self._picture(self.index)

    def _start_clock(self, one: Timed) -> None:
        """Begin to wait for what has to dry before this step: what hands have not filled meanwhile."""
        before = self._steps[self.index - 1].end_min if self.index else 0.0
        self._left_s = round(60 * max(0.0, one.start_min - before))
        self._since = self._now()
        self._say_clock()
        if self._left_s:
            self._second.start()

    def _tick_clock(self) -> None:
        self._left_s -= 1
        if self._left_s <= 0:
            self._second.stop()
            self._since = self._now()  # only now hands begin
        self._say_clock()

    def _say_clock(self) -> None:
        if self._left_s > 0:
            self.clock.setText(f"wait {self._left_s // 60}:{self._left_s % 60:02d} till it is dry")
            self.clock.setStyleSheet(f"font-size: 30px; color: {theme.HONEY_TEXT.name()};")
        else:
            was_waiting = bool(self.clock.text())
            self.clock.setText("dry: go on" if was_waiting and self.step is not None else "")
            self.clock.setStyleSheet(f"font-size: 30px; color: {theme.FERN.name()};")

    def _picture(self, index: int) -> None:
        work, pictures = self._session.work, self._session.pictures
        keys = landed_after(self._made, index)
        self._painter.ask(lambda: _Pictured(index, next(picture_steps(work, pictures, [keys], dpi=DPI))))

    def _show_picture(self, made: _Pictured) -> None:
        if made.step != min(self.index, len(self._steps) - 1):
            return
        work = self._session.work
        self.picture.show_paper(made.paper, work.card.panel)
        one = self.step
        new = {image_key(key) for key in one.operation.pieces} if one is not None else set()
        areas = [leaf.area for leaf in stack(work) if leaf.piece.id in new and not leaf.area.is_empty]
        self.picture.show_layers(lit=[to_outline(area)[0] for area in areas])

    # -- going on ------------------------------------------------------------------------------------------------

    def step_on(self) -> None:
        """Tick the step off and go on; after the last, leave."""
        one = self.step
        if one is None:
            self.accept()
            return
        self._tick(one, is_done=True)
        self._go(self.index + 1)

    def step_back(self) -> None:
        """Go back a step, and take its tick away."""
        if self.index:
            self._tick(self._steps[self.index - 1], is_done=False)
            self._go(self.index - 1)

    def _tick(self, one: Timed, *, is_done: bool) -> None:
        key = f"do {one.operation.key}"
        real_min = (self._now() - self._since) / 60 / max(1, self._session.work.card.sheets.cards)
        if is_done:
            self._session.edit(
                "tick a step off", lambda work: note_time(tick(work, key, is_done=True), one.operation, real_min)
            )
        else:
            self._session.edit("take a tick away", lambda work: tick(work, key, is_done=False))

    def _go(self, index: int) -> None:
        self.clock.setText("")
        self.index = index
        self._show()
        self.moved.emit(index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in ONWARD:
            self.step_on()
        elif key in BACK:
            self.step_back()
        else:
            super().keyPressEvent(event)

    def done(self, result: int) -> None:
        self._second.stop()
        self._painter.close()
        super().done(result)
