"""Assembly: the card from the side, the backs of its pieces, and the whole work in the right order."""

from collections.abc import Mapping
from typing import NamedTuple

from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout, QWidget

from fair_thicket import edits
from fair_thicket.assembly import Assembly
from fair_thicket.assembly.own_order import forget_order, want_before
from fair_thicket.assembly.post import ASK
from fair_thicket.assembly.side import Side
from fair_thicket.desk.assembly.assembly_actions import AssemblyActions
from fair_thicket.desk.assembly.back_view import BackView
from fair_thicket.desk.assembly.cut_view import CutView
from fair_thicket.desk.assembly.schedule_view import ScheduleView
from fair_thicket.desk.assembly.side_view import SideView
from fair_thicket.desk.assembly.table import AtTable
from fair_thicket.desk.assembly.words import say_back, say_becauses
from fair_thicket.desk.frame.actions import Actions, Record
from fair_thicket.desk.frame.station import Pane, State, say_to_settle
from fair_thicket.desk.parts.advice_panel import AdvicePanel
from fair_thicket.desk.parts.controls import Column, Hint, button, ground, head_row, label
from fair_thicket.desk.parts.side_panes import SidePanes
from fair_thicket.desk.parts.tick_row import TickRow
from fair_thicket.desk.session.background import Worker, timer_of
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.session.thinking import Outcome
from fair_thicket.engines import assemble
from fair_thicket.model.card import Work
from fair_thicket.model.keys import image_key
from fair_thicket.model.pieces import PaperPiece
from fair_thicket.model.sides import sides_of
from fair_thicket.model.wanted import GoOn

DELAY_MS = 200
MOST_LIFT_MM = 9.6


class _Planned(NamedTuple):
    whole: Work
    made: Assembly


class AssemblyStation(Pane):
    """The card cut open, backs of pieces, post, schedule, and every step with why it waits.

    Attributes
    ----------
    made : Assembly or None
        Of the present card.
    card : CutView
    side : SideView
    schedule : ScheduleView
    rows : list of TickRow
        The steps.
    planner : Worker
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._actions = session, AssemblyActions(self, session)
        self.made: Assembly | None = None
        self._of: Work | None = None
        self._step = 0
        self._wanted = ""
        self.rows: list[TickRow] = []
        self.table: AtTable | None = None
        self.planner = Worker(self)
        self.planner.done.connect(self._take)
        self.planner.failed.connect(session.said)
        self._soon = timer_of(self, DELAY_MS, self._ask)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())
        session.outcomeChanged.connect(self.refresh)
        session.cardChanged.connect(self._show_ticks)
        session.selectionChanged.connect(self._show_side)

    # -- building ------------------------------------------------------------------------------------------------

    def _left(self) -> QWidget:
        pane = QWidget()
        box = QVBoxLayout(pane)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        upper = ground("mistPane")
        above = QVBoxLayout(upper)
        above.setContentsMargins(16, 10, 14, 6)
        self._facts = Hint()
        head = head_row("Assembly", self._facts)
        self.at_table = button("At the table", self.go_to_table, "primary", tip="One step at a time, large")
        self.at_table.setEnabled(False)
        head.addWidget(self.at_table)
        above.addLayout(head)
        row = QHBoxLayout()
        self.card = CutView()
        self.card.cutMoved.connect(self._show_side)
        self.card.picked.connect(self._pick)
        row.addWidget(self.card, 1)
        row.addWidget(self._beside())
        above.addLayout(row, 1)
        box.addWidget(upper, 3)
        lower = ground("paperPane")
        below = QVBoxLayout(lower)
        below.setContentsMargins(0, 6, 14, 8)
        below.setSpacing(2)
        head = QHBoxLayout()
        head.setContentsMargins(16, 0, 0, 0)
        head.setSpacing(10)
        head.addWidget(label("From the side", "subheading"))
        self._thicker = Hint()
        head.addWidget(self._thicker, 1)
        below.addLayout(head)
        self.side = SideView()
        self.side.picked.connect(self._pick)
        self.side.lifted.connect(self._lift)
        below.addWidget(self.side, 1)
        head = QHBoxLayout()
        head.setContentsMargins(16, 2, 0, 0)
        head.setSpacing(10)
        head.addWidget(label("Schedule", "subheading"))
        self._told = Hint()
        head.addWidget(self._told, 1)
        below.addLayout(head)
        row = QHBoxLayout()
        row.setContentsMargins(16, 0, 0, 0)
        self.schedule = ScheduleView()
        self.schedule.picked.connect(self.show_step)
        row.addWidget(self.schedule)
        below.addLayout(row)
        box.addWidget(lower, 2)
        return pane

    def _beside(self) -> QWidget:
        pane = QWidget()
        pane.setFixedWidth(218)
        box = QVBoxLayout(pane)
        box.setContentsMargins(8, 0, 0, 0)
        self._back_name = label("Back of a piece", "subheading", wrap=True)
        box.addWidget(self._back_name)
        self.back = BackView()
        box.addWidget(self.back, 1)
        self._back_words = label("", "soft", wrap=True)
        box.addWidget(self._back_words)
        box.addWidget(label("For the post", "subheading"))
        self._post = label("", "soft", wrap=True)
        box.addWidget(self._post)
        return pane

    def _right(self) -> QWidget:
        pane = ground("paperPane", width=304)
        box = QVBoxLayout(pane)
        box.setContentsMargins(14, 12, 8, 12)
        steps = QWidget()
        column = QVBoxLayout(steps)
        column.setContentsMargins(0, 6, 0, 0)
        self._because = Column(spacing=2, margin=0)
        self._because.setMaximumHeight(190)
        column.addWidget(self._because)
        row = QHBoxLayout()
        self.earlier = button("Earlier", lambda: self._reorder(-1), tip="This step before the one that comes before it")
        self.later = button("Later", lambda: self._reorder(1), tip="This step after the one that comes after it")
        self.own_order = button("Own order off", self._forget_order, "link")
        for one in (self.earlier, self.later, self.own_order):
            row.addWidget(one)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(label("From the first sheet to the envelope", "subheading"))
        self._list = Column(spacing=4, margin=0)
        column.addWidget(self._list, 1)
        advice = AdvicePanel(self._session, "assembly", "Advice for the assembly")
        self.panes = SidePanes({"Steps": steps, "Advice": advice})
        box.addWidget(self.panes)
        return pane

    # -- the frame -----------------------------------------------------------------------------------------------

    def state(self) -> State:
        """Tell how much advice for the assembly is to settle."""
        return say_to_settle(self._session, "assembly", State())

    def first(self) -> QWidget:
        """Return the card."""
        return self.card

    def close_workers(self) -> None:
        """Give up planning."""
        self._soon.stop()
        self.planner.close()

    def records(self) -> list[Record]:
        """List what can be asked of the assembly."""
        return [
            Record("at-table", "View", "Make the card at the table", "Ctrl+T", self.go_to_table, self._is_planned),
            *self._actions.records,
        ]

    def take_actions(self, actions: Actions, menus: Mapping[str, QMenu]) -> None:
        """Keep the actions up to date when the assembly is planned."""
        del menus
        self.planner.done.connect(lambda _: actions.refresh())

    def _is_planned(self) -> bool:
        return self.made is not None and bool(self.made.schedule.steps)

    def go_to_table(self) -> None:
        """Show one step at a time, large, on the whole screen; begin where one left off."""
        if self.made is None or not self._is_planned():
            return
        if self.table is not None:
            self.table.deleteLater()
        self.table = AtTable(self._session, self.made, self._next_step(), self.window())
        self.table.moved.connect(self.show_step)
        self.table.showFullScreen()

    # -- planning ------------------------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._follow()

    def refresh(self) -> None:
        """Have the assembly of the present card planned, when it is looked at and its masks are planned."""
        outcome = self._session.outcome
        if outcome is None or outcome.work is not self._session.work:
            return
        self.card.show_paper(outcome.rehearsal.scene, outcome.work.card.panel)
        if self.isVisible() and self._of is not outcome.work:
            self._soon.start()

    def _ask(self) -> None:
        outcome, whole = self._session.outcome, self._session.whole
        if outcome is None or outcome.work is not self._session.work:
            return
        self._facts.setText("planning …")
        known: Outcome = outcome
        self.planner.ask_stoppable(lambda go_on: _Planned(known.work, _plan(known, whole, go_on)))

    def _take(self, planned: _Planned) -> None:
        if planned.whole is not self._session.work:
            return
        self.made, self._of = planned.made, planned.whole
        self._step = 0
        self._show()

    @property
    def shown(self) -> Side | None:
        """The side that lies in front."""
        if self.made is None or self._of is not self._session.work:
            return None
        name = "inside" if self._session.is_open else "front"
        return next((side for side in self.made.sides if side.name == name), None)

    # -- showing -------------------------------------------------------------------------------------------------

    def _show(self) -> None:
        made = self.made
        if made is None:
            return
        schedule, post = made.schedule, made.post
        self.at_table.setEnabled(self._is_planned())
        proof = "proven shortest" if schedule.is_best else f"at least {schedule.bound:.0f}"
        hands = sum(one.operation.minutes for one in schedule.steps)
        self._facts.setText(f"{len(schedule.steps)} steps · {schedule.minutes:.0f} min, {hands:.0f} of them by hand")
        self._told.setText(f"one pair of hands; drying goes on beside · {proof} · {schedule.changes} changes of tool")
        envelope = post.envelope or "no usual envelope: a box"
        told = " ".join((*post.reasons, ASK))
        self._post.setText(f"{post.thickness_mm:.1f} mm thick · {post.grams:.0f} g\n{envelope}\n{told}")
        self._list.clear()
        self.rows = []
        for number, one in enumerate(schedule.steps, 1):
            words = f"{number}. {one.operation.words}"
            row = TickRow(f"do {one.operation.key}", words, [], self._session)
            self.rows.append(row)
            self._list.box.addWidget(row)
        keys = [one.operation.key for one in schedule.steps]
        self.show_step(keys.index(self._wanted) if self._wanted in keys else self._next_step())
        self._wanted = ""
        for broken in made.broken:
            self._session.said.emit(
                f"Your own order cannot be kept: {broken.then} comes first, because {broken.because}."
            )
        self._show_side()

    def _next_step(self) -> int:
        """Return the first step that is not ticked off: after days one finds one's place again."""
        done = set(self._session.work.card.masking.done)
        steps = self.made.schedule.steps if self.made is not None else ()
        return next((n for n, one in enumerate(steps) if f"do {one.operation.key}" not in done), 0)

    def _show_ticks(self) -> None:
        for row in self.rows:
            row.show_state()
        if self._of is not self._session.work:
            self.refresh()

    def show_step(self, index: int) -> None:
        """Show one step: why it waits, and the piece that it is about."""
        made = self.made
        if made is None or not 0 <= index < len(made.schedule.steps):
            return
        self._step = index
        self.schedule.show_schedule(made.schedule, index)
        self.earlier.setEnabled(index > 0)
        self.later.setEnabled(index + 1 < len(made.schedule.steps))
        self.own_order.setVisible(bool(self._session.work.card.assembly.order))
        operation = made.schedule.steps[index].operation
        self._because.clear()
        self._because.box.addWidget(label(f"Step {index + 1}, because", "subheading"))
        for words in say_becauses(made, operation):
            self._because.box.addWidget(label(f"· {words}", "soft", wrap=True))
        names = self._session.names
        pieces = {image_key(key) for key in operation.pieces} & names.keys()
        if len(pieces) == 1:
            self._session.select(pieces)

    def _show_side(self) -> None:
        side = self.shown
        chosen = next(iter(self._session.selection), "") if len(self._session.selection) == 1 else ""
        self.card.show_heights(side.heights if side is not None else None, chosen)
        self.side.show_side(side, self._session.names, self.card.cut_mm, chosen)
        self._follow()
        self.back.show_piece(side, chosen)
        name = self._session.names.get(chosen, "")
        self._back_name.setText(f"Back of the {name}" if name else "Back of a piece")
        self._back_words.setText(say_back(side, chosen) if side is not None else "")

    def _follow(self) -> None:
        """Keep the side view straight below the card."""
        left, scale = self.card.left_and_scale()
        self.side.follow(self.card.mapTo(self, self.card.rect().topLeft()).x() + left, scale)
        self._thicker.setText(
            f"cut at the dashed line, straight below the card; {self.side.thicker:.0f} times as thick · drag a piece "
            "to another level"
        )

    # -- asking --------------------------------------------------------------------------------------------------

    def _pick(self, key: str) -> None:
        self._session.select({key} if key else set())

    def _reorder(self, by: int) -> None:
        """Want the chosen step before the one before it, or after the one after it; a rule against it is told."""
        made = self.made
        if made is None or not 0 <= self._step + by < len(made.schedule.steps):
            return
        keys = [made.schedule.steps[at].operation.key for at in sorted((self._step, self._step + by))]
        self._wanted = made.schedule.steps[self._step].operation.key
        operations = made.operations
        self._session.edit("want another order", lambda work: want_before(work, operations, keys[1], keys[0]))

    def _forget_order(self) -> None:
        self._session.edit("forget one's own order", forget_order)

    def _lift(self, key: str, by_mm: float) -> None:
        """Give a piece more or less foam."""

        def change(work: Work) -> Work:
            piece = work.card.find(key)
            if not isinstance(piece, PaperPiece):
                return work
            lift = round(min(max(piece.lift_mm + by_mm, 0.0), MOST_LIFT_MM), 2)
            return edits.set_pieces(work, {key}, lift_mm=lift)

        self._session.edit("put a piece on another level", change)


def _plan(outcome: Outcome, whole: Work, go_on: GoOn) -> Assembly:
    """Plan both sides; the plan of the side that lies in front is known."""
    known = [name for name, work in sides_of(whole) if work.card == outcome.work.card]
    return assemble(whole, dict.fromkeys(known, outcome.plan), go_on=go_on)
