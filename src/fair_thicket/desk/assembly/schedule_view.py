"""The work as bars along the time: what hands do, and below it what dries meanwhile."""

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from fair_thicket.assembly.scheduling import Schedule
from fair_thicket.desk import theme

KINDS = {
    "stamp": "#3f6f4a", "colour": "#8a6a3b", "cut": "#5d6f8c", "press": "#3f6f4a", "ink": "#7d5a78",
    "glue": "#5f7d3c", "lay": "#4b7a78", "tape": "#6d6552", "trim": "#5d6f8c", "set": "#9a5a44", "post": "#6d6552",
}  # fmt: skip
WORDS = {"press": "stamp", "lay": "lay out"}
"""Of kinds that are not called as makers call them."""
BAR_PX, DRY_PX, MARGIN_PX = 22.0, 12.0, 8.0


class ScheduleView(QWidget):
    """Shows a schedule; a click or the arrow keys choose a step.

    Attributes
    ----------
    chosen : int
        Place of the step that is chosen.
    picked : Signal(int)
    """

    picked = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("The schedule")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(62)
        self.chosen = 0
        self._made: Schedule | None = None

    def sizeHint(self) -> QSize:
        """Ask for a strip."""
        return QSize(600, 62)

    def show_schedule(self, made: Schedule | None, chosen: int) -> None:
        """Show a schedule and which of its steps is chosen."""
        self._made, self.chosen = made, chosen
        self.update()

    def _x(self, minute: float) -> float:
        made = self._made
        whole = made.minutes if made is not None and made.minutes else 1.0
        return MARGIN_PX + (self.width() - 2 * MARGIN_PX) * minute / whole

    def box_of(self, index: int) -> QRectF:
        """Return the bar of a step."""
        if self._made is None:
            return QRectF()
        one = self._made.steps[index]
        left, right = self._x(one.start_min), self._x(one.end_min)
        return QRectF(left, MARGIN_PX, max(2.0, right - left - 1), BAR_PX)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.SAND)
        if self._made is None or not self._made.steps:
            return
        painter.setFont(theme.font(12))
        for index, one in enumerate(self._made.steps):
            box = self.box_of(index)
            is_chosen = index == self.chosen
            painter.setPen(QPen(theme.HONEY_TEXT, 2) if is_chosen else Qt.PenStyle.NoPen)
            painter.setBrush(QColor(KINDS.get(one.operation.kind, "#6d6552")))
            painter.drawRoundedRect(box, 3, 3)
            words = WORDS.get(one.operation.kind, one.operation.kind)
            if painter.fontMetrics().horizontalAdvance(words) + 6 < box.width():
                painter.setPen(QColor("white"))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        self._draw_drying(painter)

    def _draw_drying(self, painter: QPainter) -> None:
        """Draw what has to dry before others can go on."""
        made = self._made
        if made is None:
            return
        waits: dict[str, float] = {}
        for one in made.steps:
            for edge in one.operation.after:
                waits[edge.key] = max(waits.get(edge.key, 0.0), edge.wait_min)
        painter.setPen(QPen(QColor("#55807a"), 1, Qt.PenStyle.DashLine))
        painter.setBrush(QColor("#dbe9e4"))
        top = MARGIN_PX + BAR_PX + 5
        for one in made.steps:
            wait = waits.get(one.operation.key, 0.0)
            left, right = self._x(one.end_min), self._x(min(made.minutes, one.end_min + wait))
            if right - left >= 2:
                painter.drawRect(QRectF(left, top, right - left, DRY_PX))

    def _at(self, place: QPointF) -> int:
        steps = range(len(self._made.steps)) if self._made is not None else range(0)
        return next((index for index in steps if self.box_of(index).contains(place)), -1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = self._at(event.position())
        if index >= 0:
            self.picked.emit(index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if by and self._made is not None and 0 <= self.chosen + by < len(self._made.steps):
            self.picked.emit(self.chosen + by)
        elif not by:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and self._made is not None:
            index = self._at(QPointF(event.pos()))
            if index >= 0:
                one = self._made.steps[index]
                QToolTip.showText(event.globalPos(), f"{one.start_min:.0f} min: {one.operation.words}", self)
                return True
        return super().event(event)
