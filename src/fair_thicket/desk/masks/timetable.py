"""The timetable of masks: rows are images, columns presses; a dot is a stamping, a bar a mask that is lying.

Glossary
--------
column
    A press, or a wash being inked; while a dot is dragged there is one more, for a press that is not there yet.
pinned
    What the maker has decided: a dot with a ring.
"""

from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QFont, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from fair_thicket import masks
from fair_thicket.desk import theme
from fair_thicket.desk.session.background import Worker
from fair_thicket.desk.session.session import Session
from fair_thicket.laid.masking_paper import Lying, list_lyings
from fair_thicket.masks.other_press import press_on, try_pin, why_not
from fair_thicket.masks.pin_edits import add_pin
from fair_thicket.model.keys import piece_key
from fair_thicket.model.masking import Pin
from fair_thicket.model.plan import SHEET, MaskPlan

HEAD_PX, NAME_PX = 30, 168
LEAST_ROW_PX, MOST_ROW_PX = 17, 26
DOT_PX, CATCH_PX = 6.0, 11.0


@dataclass
class _Drag:
    """A dot in the hand: where it may go and why not elsewhere, and what the column under it would bring."""

    key: str
    row: int
    home: int
    column: int
    reasons: list[str]
    told: dict[int, str] = field(default_factory=dict)


class Timetable(QWidget):
    """Chart of a mask plan.

    Attributes
    ----------
    press : int
        The column that is looked at.
    pressChosen : Signal(int)
    told : Signal(str)
        What a dragged dot would bring, or why it may not lie there; empty when nothing is dragged.
    """

    pressChosen = Signal(int)
    told = Signal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Mask timetable")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self._session = session
        self.press = 0
        self._rows: list[str] = []
        self._lyings: tuple[Lying, ...] = ()
        self._pinned: set[str] = set()
        self._done: set[int] = set()
        self._drag: _Drag | None = None
        self.preview = Worker(self)
        self.preview.done.connect(self._take_preview)
        self.preview.failed.connect(self._take_refusal)
        session.outcomeChanged.connect(self.refresh)
        session.cardChanged.connect(self._show_ticks)
        session.selectionChanged.connect(self.update)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(500, HEAD_PX + 22 * max(1, len(self._rows)) + 8)

    def minimumSizeHint(self) -> QSize:
        return QSize(320, HEAD_PX + LEAST_ROW_PX * max(1, len(self._rows)) + 8)

    @property
    def _plan(self) -> MaskPlan | None:
        outcome = self._session.outcome
        return outcome.plan if outcome else None

    def refresh(self) -> None:
        """Take over the newest plan; rows run in the order of stamping."""
        plan = self._plan
        self._rows = [key for press in plan.presses for key in press.impressions] if plan else []
        self._lyings = list_lyings(plan) if plan else ()
        self._let_go()
        self.press = max(0, min(self.press, self._columns() - 1))
        self._show_ticks()
        self.updateGeometry()
        self.update()

    def _show_ticks(self) -> None:
        """Say which presses are ticked off and what is pinned."""
        outcome, masking = self._session.outcome, self._session.work.card.masking
        self._pinned = {key for pin in masking.pins if pin.kind in ("first", "press", "together") for key in pin.pieces}
        open_steps = (
            {step.press for step in outcome.rehearsal.steps if step.key not in masking.done} if outcome else set()
        )
        self._done = set(range(self._columns())) - open_steps
        self.update()

    def choose(self, press: int) -> None:
        """Look at a press."""
        press = max(0, min(press, self._columns() - 1))
        if press != self.press:
            self.press = press
            self.update()
            self.pressChosen.emit(press)

    def _columns(self) -> int:
        return len(self._plan.presses) if self._plan else 0

    # -- places --------------------------------------------------------------------------------------------------

    def _column_px(self) -> float:
        shown = self._columns() + (self._drag is not None)
        return (self.width() - NAME_PX - 16) / max(1, shown)

    def _row_px(self) -> float:
        room = (self.height() - HEAD_PX - 8) / max(1, len(self._rows))
        return max(LEAST_ROW_PX, min(MOST_ROW_PX, room))

    def _centre(self, press: float, row: int) -> QPointF:
        return QPointF(NAME_PX + (press + 0.5) * self._column_px(), HEAD_PX + (row + 0.5) * self._row_px())

    def dot_of(self, key: str) -> QPointF:
        """Where the dot of a stamping lies in the widget."""
        plan = self._plan
        column = next(p for p, press in enumerate(plan.presses) if key in press.impressions) if plan else 0
        return self._centre(column, self._rows.index(key))

    def column_middle(self, press: int) -> float:
        """Where a column's middle lies in the widget, px from its left."""
        return self._centre(press, 0).x()

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        plan = self._plan
        if plan is None or not plan.presses:
            painter.setPen(theme.SOFT_INK)
            painter.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "Put images on the card at the Scene station; the timetable follows by itself.",
            )
            return
        self._draw_columns(painter, plan)
        names = self._session.names
        for row, key in enumerate(self._rows):
            self._draw_row(painter, row, key, names.get(key, key))
        last = {piece_key(key): row for row, key in enumerate(self._rows)}  # a layered image is masked after its last
        last |= {key: row for row, key in enumerate(self._rows)}
        for lying in self._lyings:
            if lying.impression in last:
                self._draw_lying(painter, lying, last[lying.impression])
        row = 0
        for column, press in enumerate(plan.presses):
            for key in press.impressions:
                held = self._drag is not None and self._drag.key == key
                self._draw_dot(painter, self._centre(column, row), key, is_faint=held, is_ink=press.is_ink)
                if key in press.turned:
                    self._draw_turn(painter, self._centre(column, row))
                row += 1
        if self._drag is not None:
            self._draw_dot(painter, self._centre(self._drag.column, self._drag.row), self._drag.key)
        if self.hasFocus():
            painter.setPen(QPen(theme.FERN, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)

    def _draw_columns(self, painter: QPainter, plan: MaskPlan) -> None:
        wide = self._column_px()
        for column in range(self._columns() + (self._drag is not None)):
            box = QRectF(NAME_PX + column * wide, 2, wide, self.height() - 4)
            here = column == (self._drag.column if self._drag else self.press)
            if self._drag is not None and self._drag.reasons[column]:
                painter.fillRect(box.adjusted(3, 24, -3, 0), QColor("#f6ecec"))
                painter.fillRect(box.adjusted(3, 24, -3, 0), QBrush(QColor("#ddc3c6"), Qt.BrushStyle.BDiagPattern))
            if here:
                painter.setPen(QPen(theme.HONEY, 1.5))
                painter.setBrush(QColor(251, 240, 214, 150 if self._drag else 255))
                painter.drawRoundedRect(box.adjusted(3, 0, -3, 0), 8, 8)
            painter.setFont(theme.font(12, QFont.Weight.Bold if here else QFont.Weight.Normal))
            painter.setPen(theme.INK)
            words = QFontMetrics(painter.font()).elidedText(
                self._head(plan, column, wide), Qt.TextElideMode.ElideRight, int(wide) - 8
            )
            painter.drawText(QRectF(box.left(), 4, wide, 22), Qt.AlignmentFlag.AlignCenter, words)

    def _head(self, plan: MaskPlan, column: int, wide: float) -> str:
        if column >= len(plan.presses):
            return "one more" if wide > 62 else "+"
        press = plan.presses[column]
        done = " done" if column in self._done and wide > 62 else ""
        if press.is_ink:
            return f"ink {self._session.names.get(press.impressions[0], '')}{done}" if wide > 40 else "ink"
        if press.by_hand:
            return f"by hand{done}" if wide > 54 else "hand"
        number = plan.number_of(column)
        where = " · cut out" if press.surface == SHEET and wide > 110 else ""
        return f"press {number}{where}{done}" if wide > 62 else str(number)

    def _draw_row(self, painter: QPainter, row: int, key: str, name: str) -> None:
        y = HEAD_PX + (row + 0.5) * self._row_px()
        chosen = piece_key(key) in self._session.selection
        painter.setPen(QPen(theme.LINE, 1))
        painter.drawLine(QPointF(NAME_PX, y), QPointF(self.width() - 16, y))
        painter.setFont(theme.font(13, QFont.Weight.Bold if chosen else QFont.Weight.Normal))
        painter.setPen(theme.INK)
        words = QFontMetrics(painter.font()).elidedText(name, Qt.TextElideMode.ElideRight, NAME_PX - 24)
        painter.drawText(QRectF(14, y - 10, NAME_PX - 20, 20), Qt.AlignmentFlag.AlignVCenter, words)

    def _draw_lying(self, painter: QPainter, lying: Lying, row: int) -> None:
        start, end = self._centre(lying.first, row), self._centre(lying.last, row)
        reach = self._column_px() * 0.38
        box = QRectF(start.x() - reach, start.y() - 6, end.x() - start.x() + 2 * reach, 12)
        painter.setPen(QPen(theme.HONEY, 1.2))
        painter.setBrush(theme.HONEY_WASH)
        painter.drawRoundedRect(box, 7, 7)

    def _draw_dot(
        self, painter: QPainter, at: QPointF, key: str, *, is_faint: bool = False, is_ink: bool = False
    ) -> None:
        colour = QColor(theme.INK)
        colour.setAlpha(70 if is_faint else 255)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        if is_ink:  # a wash: a broad stroke, not a dot
            painter.drawRoundedRect(QRectF(at.x() - 16, at.y() - 4, 32, 8), 4, 4)
        else:
            painter.drawEllipse(at, DOT_PX, DOT_PX)
        if piece_key(key) in self._pinned and not is_ink:
            painter.setPen(QPen(theme.HONEY_TEXT, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, DOT_PX + 2.5, DOT_PX + 2.5)

    def _draw_turn(self, painter: QPainter, at: QPointF) -> None:
        """Draw half a turn with an arrow's head beside a dot: the stamp stays, the panel is turned."""
        painter.setPen(QPen(theme.FERN, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        box = QRectF(at.x() - 22, at.y() - 6, 12, 12)
        painter.drawArc(box, 0, 180 * 16)
        tip = QPointF(box.right(), box.center().y())
        painter.drawLine(tip, tip + QPointF(-3.5, -2.5))
        painter.drawLine(tip, tip + QPointF(2.5, -3.5))

    # -- hands ---------------------------------------------------------------------------------------------------

    def _row_at(self, y: float) -> int:
        return int((y - HEAD_PX) // self._row_px())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        row = self._row_at(at.y())
        if at.x() >= NAME_PX and self._columns():
            self.choose(int((at.x() - NAME_PX) / self._column_px()))
        if 0 <= row < len(self._rows):
            key = self._rows[row]
            own = piece_key(key)
            chosen = self._session.selection
            if event.button() != Qt.MouseButton.LeftButton:
                if own not in chosen:  # the menu is about what is chosen, or else about this row
                    self._session.select({own})
                return
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self._session.select(chosen ^ {own})
            else:
                self._session.select({own})
            dot = self.dot_of(key)
            if abs(dot.x() - at.x()) <= CATCH_PX and abs(dot.y() - at.y()) <= CATCH_PX:
                self._take_up(key, row)

    def _take_up(self, key: str, row: int) -> None:
        """Take a dot into the hand, and say of every column whether it may go there."""
        plan, work = self._plan, self._session.work
        outcome = self._session.outcome
        if plan is None or outcome is None or outcome.work is not work:
            return
        home = next(p for p, press in enumerate(plan.presses) if key in press.impressions)
        if plan.presses[home].is_on_platform:
            problem = masks.pose(work, plan.presses[home].surface)
            columns, names = range(len(plan.presses) + 1), self._session.names
            reasons = [why_not(plan, problem, names, key, column) for column in columns]
            self._drag = _Drag(key, row, home, home, reasons)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        drag = self._drag
        if drag is None:
            return
        column = int((event.position().x() - NAME_PX) / self._column_px())
        column = max(0, min(column, len(drag.reasons) - 1))
        if column == drag.column:
            return
        drag.column = column
        self.update()
        if drag.reasons[column]:
            self.told.emit(drag.reasons[column])
        elif column == drag.home:
            self.told.emit("")
        elif column in drag.told:
            self.told.emit(drag.told[column])
        else:
            self.told.emit("working it out …")
            work, pin, plan = self._session.work, self._pin(drag), self._plan
            self.preview.ask(lambda: (column, *try_pin(work, pin, plan)))

    def _pin(self, drag: _Drag) -> Pin:
        plan = self._plan
        press = press_on(plan, plan.presses[drag.home].surface, drag.column) if plan else 0
        return Pin("press", (piece_key(drag.key),), press)

    def _take_preview(self, result: tuple[int, MaskPlan, str]) -> None:
        column, _, words = result
        if self._drag is not None:
            self._drag.told[column] = words
            if self._drag.column == column:
                self.told.emit(words)

    def _take_refusal(self, words: str) -> None:
        if self._drag is not None:
            self._drag.reasons[self._drag.column] = words
            self.told.emit(words)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        drag = self._drag
        if drag is None:
            return
        if drag.column != drag.home:
            if drag.reasons[drag.column]:
                self._session.said.emit(drag.reasons[drag.column])
            else:
                pin = self._pin(drag)
                name = self._session.names.get(drag.key, drag.key)
                self._session.edit_elsewhere(f"pin {name} to a press", lambda work: add_pin(work, pin))
        self._let_go()

    def _let_go(self) -> None:
        if self._drag is not None:
            self._drag = None
            self.preview.cancel()
            self.told.emit("")
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key == Qt.Key.Key_Escape and self._drag is not None:
            self._let_go()
        elif key in {Qt.Key.Key_Left, Qt.Key.Key_Right}:
            self.choose(self.press + (1 if key == Qt.Key.Key_Right else -1))
        elif key in {Qt.Key.Key_Up, Qt.Key.Key_Down} and self._rows:
            own = [piece_key(row) for row in self._rows]
            at = next((row for row, one in enumerate(own) if one in self._session.selection), -1)
            step = 1 if key == Qt.Key.Key_Down else -1
            self._session.select({own[(at + step) % len(own)]})
        else:
            event.ignore()
