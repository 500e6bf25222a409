"""The path: stations down the left edge in the order of the work, each with what is still to settle."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QVBoxLayout, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.frame.station import Station

STEM_X = 26


class StationMark(QWidget):
    """One station on the path: a number on the stem, its name, what is still to settle.

    Attributes
    ----------
    chosen : Signal()
    """

    chosen = Signal()

    def __init__(self, number: int, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.number, self.name = number, name
        self.state = ""
        self.is_here = False
        self.is_open = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFixedHeight(78)
        self.setAccessibleName(name)

    def show_state(self, state: str, *, is_open: bool, is_here: bool) -> None:
        """Show what is still to settle, and whether this station is the present one."""
        if (state, is_open, is_here) != (self.state, self.is_open, self.is_here):
            self.state, self.is_open, self.is_here = state, is_open, is_here
            self.setAccessibleName(f"{self.name}, {state}")
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(116, 78)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.is_here or self.hasFocus():
            painter.setPen(QPen(theme.FERN, 2) if self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(QColor("#f8f3e6") if self.is_here else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(5, 8, self.width() - 9, 62), 9, 9)
        middle = QPointF(STEM_X, 39)
        painter.setPen(QPen(theme.MOSS, 4))
        painter.drawLine(QPointF(STEM_X, 0), QPointF(STEM_X, 78))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.MOSS)
        side = 1 if self.number % 2 else -1
        painter.drawPath(theme.leaf_path(QPointF(STEM_X + side * 15, 68), QPointF(STEM_X, 76)))
        painter.setPen(QPen(theme.PINE, 2))
        painter.setBrush(theme.PINE if self.is_here else QColor("white"))
        painter.drawEllipse(middle, 15, 15)
        painter.setFont(theme.font(14, QFont.Weight.Bold))
        painter.setPen(QColor("white") if self.is_here else theme.PINE)
        painter.drawText(
            QRectF(middle.x() - 15, middle.y() - 15, 30, 30), Qt.AlignmentFlag.AlignCenter, str(self.number)
        )
        painter.setPen(theme.INK)
        painter.setFont(theme.font(14, QFont.Weight.Bold if self.is_here else QFont.Weight.Normal))
        painter.drawText(QPointF(48, 37), self.name)
        painter.setFont(theme.font(12))
        painter.setPen(theme.HONEY_TEXT if self.is_open else theme.FERN)
        painter.drawText(QPointF(48, 53), self.state)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space}:
            self.chosen.emit()
        else:
            super().keyPressEvent(event)


class PathBar(QWidget):
    """All stations.

    Attributes
    ----------
    marks : dict of str to StationMark
        By the keys of the stations.
    chosen : Signal(str)
    """

    chosen = Signal(str)

    def __init__(self, stations: Sequence[Station], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("pathBar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(122)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 10, 0, 0)
        box.setSpacing(0)
        self.marks: dict[str, StationMark] = {}
        for number, station in enumerate(stations, start=1):
            mark = StationMark(number, station.title)
            mark.chosen.connect(lambda key=station.key: self.chosen.emit(key))
            self.marks[station.key] = mark
            box.addWidget(mark)
        box.addStretch(1)
