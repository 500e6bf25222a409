"""The timetable of masks: rows are images, columns presses; a dot is a stamping, a bar a mask that is lying."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.session import Session
from fair_thicket.model.card import piece_key
from fair_thicket.shape.masking_paper import Lying, list_lyings

HEAD_PX, NAME_PX = 30, 168
LEAST_ROW_PX, MOST_ROW_PX = 17, 26


class Timetable(QWidget):
    """Chart of a mask plan.

    Attributes
    ----------
    press : int
        The column that is looked at.
    pressChosen : Signal(int)
    """

    pressChosen = Signal(int)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Mask timetable")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self._session = session
        self.press = 0
        self._rows: list[str] = []
        self._lyings: tuple[Lying, ...] = ()
        session.outcomeChanged.connect(self.refresh)
        session.selectionChanged.connect(self.update)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(500, HEAD_PX + 22 * max(1, len(self._rows)) + 8)

    def minimumSizeHint(self) -> QSize:
        return QSize(320, HEAD_PX + LEAST_ROW_PX * max(1, len(self._rows)) + 8)

    def refresh(self) -> None:
        """Take over the newest plan; rows run in the order of stamping."""
        outcome = self._session.outcome
        plan = outcome.plan if outcome else None
        self._rows = [key for press in plan.presses for key in press.impressions] if plan else []
        self._lyings = list_lyings(plan) if plan else ()
        self.press = max(0, min(self.press, self._columns() - 1))
        self.updateGeometry()
        self.update()

    def choose(self, press: int) -> None:
        """Look at a press."""
        press = max(0, min(press, self._columns() - 1))
        if press != self.press:
            self.press = press
            self.update()
            self.pressChosen.emit(press)

    def _columns(self) -> int:
        return len(self._session.outcome.plan.presses) if self._session.outcome else 0

    def _column_px(self) -> float:
        return (self.width() - NAME_PX - 16) / max(1, self._columns())

    def _row_px(self) -> float:
        room = (self.height() - HEAD_PX - 8) / max(1, len(self._rows))
        return max(LEAST_ROW_PX, min(MOST_ROW_PX, room))

    def _centre(self, press: float, row: int) -> QPointF:
        return QPointF(NAME_PX + (press + 0.5) * self._column_px(), HEAD_PX + (row + 0.5) * self._row_px())

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        outcome = self._session.outcome
        if outcome is None or not outcome.plan.presses:
            painter.setPen(theme.SOFT_INK)
            painter.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "Put images on the card at the Scene station; the timetable follows by itself.",
            )
            return
        self._draw_column(painter)
        names = self._session.names
        for row, key in enumerate(self._rows):
            self._draw_row(painter, row, key, names.get(key, key))
        rows = {key: row for row, key in enumerate(self._rows)}
        last = {piece_key(key): row for row, key in enumerate(self._rows)}  # a layered image is masked after its last
        for lying in self._lyings:
            self._draw_lying(painter, lying, last[lying.impression])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.INK)
        for press, made in enumerate(outcome.plan.presses):
            for key in made.impressions:
                painter.drawEllipse(self._centre(press, rows[key]), 6, 6)
        if self.hasFocus():
            painter.setPen(QPen(theme.FERN, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)

    def _draw_column(self, painter: QPainter) -> None:
        wide = self._column_px()
        for press in range(self._columns()):
            box = QRectF(NAME_PX + press * wide, 2, wide, self.height() - 4)
            here = press == self.press
            if here:
                painter.setPen(QPen(theme.HONEY, 1.5))
                painter.setBrush(QColor("#fbf0d6"))
                painter.drawRoundedRect(box.adjusted(3, 0, -3, 0), 8, 8)
            painter.setFont(theme.font(12, QFont.Weight.Bold if here else QFont.Weight.Normal))
            painter.setPen(theme.INK)
            words = f"press {press + 1}" if wide > 62 else str(press + 1)
            painter.drawText(QRectF(box.left(), 4, wide, 22), Qt.AlignmentFlag.AlignCenter, words)

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

    def mousePressEvent(self, event: QMouseEvent) -> None:
        x, y = event.position().x(), event.position().y()
        if x >= NAME_PX and self._columns():
            self.choose(int((x - NAME_PX) / self._column_px()))
        row = int((y - HEAD_PX) // self._row_px())
        if 0 <= row < len(self._rows):
            self._session.select({piece_key(self._rows[row])})

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Left, Qt.Key.Key_Right}:
            self.choose(self.press + (1 if event.key() == Qt.Key.Key_Right else -1))
        else:
            event.ignore()
