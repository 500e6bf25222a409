"""Rehearsal: the plan performed step by step on simulated paper, and held against the scene as composed."""

from typing import NamedTuple

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QColor, QHideEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QSlider, QVBoxLayout, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.frame.station import Pane, State
from fair_thicket.desk.parts.controls import Choices, Column, Hint, button, card_frame, ground, head_row, label
from fair_thicket.desk.parts.panel_view import PanelView
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.session.thinking import Outcome
from fair_thicket.masks import Landing, is_slight, land, last_on_table, tell_difference
from fair_thicket.masks.sheet_pictures import picture_difference
from fair_thicket.model.basics import Ring
from fair_thicket.model.plan import SHEET
from fair_thicket.model.tolerance import OUTLINE_MM
from fair_thicket.shape.outline import to_rings

PLAY_MS = 900
MOST_LISTED = 12
LANDS = {
    "colour": "Colour the {}",
    "glue": "Glue on the {}",
    "finish": "Finish with the {}",
    "stamp": "Stamp the {} by hand",
}
LOOKS = ("as rehearsed", "as composed", "what differs")
REHEARSED, COMPOSED, DIFFERENT = range(3)
TOO_MUCH = frozenset({"ghost", "spill", "extra"})


class _Landed(NamedTuple):
    outcome: Outcome
    landing: Landing


class RehearsalStation(Pane):
    """Plays the presses.

    Attributes
    ----------
    slider : QSlider
        0 is bare paper; an odd place shows the masks laid for a press, the next one what it printed. Behind them
        everything that is coloured or glued on lands, piece by piece; the last place shows the finished card.
    lander : Worker
        Pictures the landing while the station is looked at.
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._looked_at = REHEARSED
        self.view = PanelView("The rehearsed panel")
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Step of the rehearsal")
        self.slider.setPageStep(2)
        self.slider.valueChanged.connect(self._show_step)
        self._clock = QTimer(self)
        self._clock.setInterval(PLAY_MS)
        self._clock.timeout.connect(self._play_on)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())
        self._landing: _Landed | None = None
        self.lander = Worker(self)
        self.lander.done.connect(self._take_landing)
        self.lander.failed.connect(session.said)
        session.outcomeChanged.connect(self.refresh)
        self.refresh()

    def _left(self) -> QWidget:
        pane = ground("mistPane")
        box = QVBoxLayout(pane)
        box.setContentsMargins(16, 10, 16, 14)
        self._facts = Hint()
        head = head_row("Rehearsal", self._facts)
        self._look = Choices(LOOKS, self._set_look)
        self._look.show_choice(0)
        head.addWidget(self._look)
        box.addLayout(head)
        box.addWidget(self.view, 1)
        self._words = label("", "subheading")
        self._words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        box.addWidget(self._words)
        row = QHBoxLayout()
        self.play_button = button("Play", self._toggle, "primary", tip="Perform the presses one after the other")
        row.addWidget(self.play_button)
        row.addWidget(self.slider, 1)
        box.addLayout(row)
        return pane

    def _right(self) -> QWidget:
        pane = ground("paperPane", width=292)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 12, 8, 12)
        box.addWidget(label("Held against the scene", "subheading"))
        self._verdict = label("", wrap=True)
        box.addWidget(self._verdict)
        self._list = Column(spacing=8, margin=0)
        self._list.box.setContentsMargins(0, 4, 6, 4)
        box.addWidget(self._list, 2)
        box.addWidget(label("What is done here", "subheading"))
        self._steps = Column(spacing=5, margin=0)
        box.addWidget(self._steps, 3)
        return pane

    def state(self) -> State:
        """Tell at how many places the rehearsed card and the composed one are apart."""
        outcome = self._session.outcome
        if outcome is None or not self._session.work.card.pieces:
            return State()
        apart = outcome.rehearsal.differences
        is_seen = not all(map(is_slight, apart))
        return State(f"{len(apart)} {'apart' if is_seen else 'slight'}" if apart else "equal", is_seen)

    def first(self) -> QWidget:
        """Return the slider."""
        return self.slider

    def _set_look(self, index: int) -> None:
        self._looked_at = index
        self._show_step()

    # -- playing -------------------------------------------------------------------------------------------------

    def play(self) -> None:
        """Perform the rehearsal from bare paper."""
        self._set_look(REHEARSED)
        self._look.show_choice(REHEARSED)
        self.slider.setValue(0)
        self._clock.start()
        self.play_button.setText("Pause")

    def _toggle(self) -> None:
        if self._clock.isActive():
            self._stop()
        elif self.slider.value() >= self.slider.maximum():
            self.play()
        else:
            self._clock.start()
            self.play_button.setText("Pause")

    def _stop(self) -> None:
        self._clock.stop()
        self.play_button.setText("Play")

    def _play_on(self) -> None:
        if self.slider.value() >= self.slider.maximum():
            self._stop()
        else:
            self.slider.setValue(self.slider.value() + 1)

    def hideEvent(self, event: QHideEvent) -> None:
        self._stop()
        super().hideEvent(event)

    # -- showing -------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the newest rehearsal, at its end."""
        outcome = self._session.outcome
        self._list.clear()
        places = self._places(outcome) if outcome else 0
        self.slider.blockSignals(True)
        at_end = self.slider.value() >= self.slider.maximum()
        self.slider.setRange(0, places)
        if at_end and not self._clock.isActive():
            self.slider.setValue(places)
        self.slider.blockSignals(False)
        for control in (self.slider, self.play_button):
            control.setEnabled(places > 0)
        if outcome is None or not places:
            self._facts.setText("")
            self._verdict.setText("Put images on the card at the Scene station; the rehearsal follows by itself.")
        else:
            self._show_verdict(outcome)
        self._show_step()
        self._ask_landing()

    def _places(self, outcome: Outcome) -> int:
        """How far the slider goes: twice for each press by platform or ink, once for what lands, when that is known."""
        landing = self._landing_of(outcome)
        landed = len(landing.pieces) if landing is not None else int(outcome.rehearsal.is_finished)
        return 2 * last_on_table(outcome.plan) + landed

    def _landing_of(self, outcome: Outcome) -> Landing | None:
        known = self._landing
        return known.landing if known is not None and known.outcome is outcome else None

    def _ask_landing(self) -> None:
        """Have the landing pictured, when it is looked at."""
        outcome = self._session.outcome
        if outcome is None or not self.isVisible() or self._landing_of(outcome) is not None:
            return
        known = outcome
        self.lander.ask_stoppable(lambda go_on: _Landed(known, land(known.plan, known.rehearsal, go_on=go_on)))

    def _take_landing(self, landed: _Landed) -> None:
        if landed.outcome is self._session.outcome:
            self._landing = landed
            self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._ask_landing()

    def close_workers(self) -> None:
        """Give up picturing."""
        self.lander.close()

    def _show_verdict(self, outcome: Outcome) -> None:
        differences = outcome.rehearsal.differences
        presses = outcome.plan.press_count
        self._facts.setText(f"{presses} press{'es' * (presses != 1)} on simulated paper at 300 dpi")
        if not differences:
            what = "finished card" if outcome.rehearsal.is_finished else "last press"
            self._verdict.setText(f"The {what} equals the composed scene: no line too many, none missing.")
        else:
            self._verdict.setText(
                f"{len(differences)} difference{'s' * (len(differences) > 1)} from the composed scene, "
                "ringed on the panel."
            )
        for one in differences:
            frame, box = card_frame()
            title, text = tell_difference(one, outcome.work, outcome.plan)
            head = label(title, wrap=True)
            head.setStyleSheet("font-weight: 700;")
            box.addWidget(head)
            box.addWidget(label(text, "soft", wrap=True))
            self._list.box.addWidget(frame)

    def _show_step(self) -> None:
        outcome = self._session.outcome
        self._steps.clear()
        if outcome is None or len(outcome.rehearsal.papers) < 2:
            self.view.show_paper(None, self._session.work.card.panel, empty="Nothing to rehearse yet.")
            self._words.setText("")
            return
        step = self.slider.value()
        rehearsal, panel = outcome.rehearsal, outcome.work.card.panel
        if self._looked_at == COMPOSED:
            self.view.show_paper(rehearsal.scene, panel)
            self.view.show_layers()
            self._words.setText("The scene as composed")
        elif self._looked_at == DIFFERENT:
            self.view.show_paper(picture_difference(rehearsal.papers[-1], rehearsal.scene), panel)
            self.view.show_layers(marks=_marks(outcome))
            self._words.setText("Berry: ink too much · blue: ink that is missing")
        elif step > 2 * last_on_table(outcome.plan):
            self._show_landing(outcome, step - 2 * last_on_table(outcome.plan))
        else:
            self._show_press(outcome, step)

    def _show_landing(self, outcome: Outcome, number: int) -> None:
        """Show the card after so much has landed on it."""
        landing, names = self._landing_of(outcome), self._session.names
        is_last = self.slider.value() == self.slider.maximum()
        paper = outcome.rehearsal.papers[-1] if landing is None else landing.papers[number]
        self.view.show_paper(paper, outcome.work.card.panel)
        self.view.show_layers(marks=_marks(outcome) if is_last else [])
        if landing is None:
            self._words.setText("Coloured and glued on: the finished card")
            return
        told = [
            LANDS[kind].format(names.get(key, key))
            for key, kind in zip(landing.pieces[:number], landing.kinds[:number], strict=True)
        ]
        self._words.setText(f"{told[-1]}: the finished card" if is_last else told[-1])
        first = max(0, number - MOST_LISTED)
        self._list_steps(told[first:], first)

    def _show_press(self, outcome: Outcome, step: int) -> None:
        """Show the sheet with masks laid for a press (odd steps), or after it."""
        rehearsal, press = outcome.rehearsal, (step - 1) // 2
        self.view.show_paper(rehearsal.papers[press if step % 2 else press + 1], outcome.work.card.panel)
        areas = rehearsal.masking.during(press) if step and press < last_on_table(outcome.plan) else ()
        last = step == self.slider.maximum()
        rings = [] if last else [ring for area in areas for ring in to_rings(area.simplify(OUTLINE_MM))]
        self.view.show_layers(masks=rings, marks=_marks(outcome) if last else [])
        self._words.setText(self._tell(step, press, last=last))
        self._list_steps([told.words for told in outcome.steps if step and told.press == press])

    def _list_steps(self, steps: list[str], before: int = 0) -> None:
        for number, words in enumerate(steps, before + 1):
            self._steps.box.addWidget(label(f"{number}.  {words}", wrap=True))

    def _tell(self, step: int, press: int, *, last: bool) -> str:
        if step == 0:
            return "Bare paper"
        plan = self._session.outcome.plan if self._session.outcome else None
        if plan is None:
            return ""
        made = plan.presses[press]
        what = "The wash" if made.is_ink else plan.name_of(press)
        where = ", on the sheet to cut from" if made.surface == SHEET else ""
        if last:
            return f"{what} made{where}, masks off"
        return f"Masks laid for {what[:1].lower()}{what[1:]}" if step % 2 else f"{what} made{where}"


def _marks(outcome: Outcome) -> list[tuple[Ring, QColor]]:
    """Rings round what differs: berry for ink too much, honey for ink that is missing."""
    return [
        (ring, theme.BERRY if one.kind in TOO_MUCH else theme.HONEY_TEXT)
        for one in outcome.rehearsal.differences
        for ring in one.places
    ]
