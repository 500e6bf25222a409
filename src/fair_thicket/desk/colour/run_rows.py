"""Runs to choose from, each as its shades lie beside each other, from dark to light."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QSizePolicy, QWidget

from fair_thicket.colour.offers import Offer
from fair_thicket.desk import theme

ROW_PX, SHADE_PX = 40, 26


class RunRow(QAbstractButton):
    """One run: its shades, its name, and what is wrong with it."""

    def __init__(self, offer: Offer, take: Callable[[], object], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.offer = offer
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        names = ", ".join(shade.name or shade.colour for shade in offer.shades)
        self.setAccessibleName(f"Colour with {names}")
        self.setToolTip(f"{names}, from dark to light" + (f"; {offer.trouble}" if offer.trouble else ""))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.clicked.connect(lambda: take())

    def sizeHint(self) -> QSize:
        return QSize(240, ROW_PX)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.underMouse() or self.hasFocus():
            painter.setPen(QPen(theme.FERN, 1.5) if self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(theme.MIST)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)
        x = 6.0
        for shade in self.offer.shades:
            painter.setPen(QPen(theme.LINE, 1))
            painter.setBrush(QColor(shade.colour))
            painter.drawRoundedRect(QRectF(x, 6, SHADE_PX, ROW_PX - 12), 4, 4)
            x += SHADE_PX + 2
        words = self.offer.name + (" · out" if self.offer.is_out else "")
        room = QRectF(x + 6, 0, self.width() - x - 10, ROW_PX)
        painter.setPen(theme.INK)
        painter.setFont(theme.font(13))
        if self.offer.trouble:
            upper = room.adjusted(0, 4, 0, -ROW_PX / 2)
            painter.drawText(upper, Qt.AlignmentFlag.AlignVCenter, self._fit(painter, words, room))
            painter.setPen(theme.HONEY_TEXT)
            painter.setFont(theme.font(12))
            lower = room.adjusted(0, ROW_PX / 2, 0, -4)
            painter.drawText(lower, Qt.AlignmentFlag.AlignVCenter, self._fit(painter, self.offer.trouble, room))
        else:
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, self._fit(painter, words, room))

    def _fit(self, painter: QPainter, words: str, room: QRectF) -> str:
        return painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room.width()))
