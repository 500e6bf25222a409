"""Rulers along the card's own edges, in the maker's unit."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap

from fair_thicket.desk import theme
from fair_thicket.model.units import MM_PER_INCH, Unit


class Rulers:
    """Rulers drawn once and kept until the card's place, scale or unit in the view is another."""

    def __init__(self) -> None:
        self._picture = QPixmap()
        self._drawn_for: tuple[object, ...] = ()

    def draw(
        self,
        painter: QPainter,
        view: tuple[QSize, float],
        *,
        origin: QPointF,
        panel: tuple[float, float],
        unit: Unit,
        px_per_mm: float,
    ) -> None:
        """Draw the rulers over a view of a (size, device pixel ratio); see `draw_rulers`."""
        size, ratio = view
        wanted = (size, ratio, origin, panel, unit, px_per_mm)
        if wanted != self._drawn_for:
            self._drawn_for = wanted
            self._picture = QPixmap(size * ratio)
            self._picture.setDevicePixelRatio(ratio)
            self._picture.fill(Qt.GlobalColor.transparent)
            own = QPainter(self._picture)
            own.setRenderHint(QPainter.RenderHint.Antialiasing)
            draw_rulers(own, origin, panel, unit, px_per_mm)
            own.end()
        painter.drawPixmap(0, 0, self._picture)


def draw_rulers(painter: QPainter, origin: QPointF, panel: tuple[float, float], unit: Unit, px_per_mm: float) -> None:
    """Draw a ruler along the top and one along the left edge.

    Parameters
    ----------
    painter : QPainter
        In widget pixels.
    origin : QPointF
        The card's top left corner, px.
    panel : (width, height), mm
    unit : Unit
    px_per_mm : float
    """
    inches = unit is Unit.INCH
    step = MM_PER_INCH / 8 if inches else 5.0
    many = 8 if inches else 2
    painter.setFont(theme.font(12))
    for along_x, length in ((True, panel[0]), (False, panel[1])):
        for tick in range(math.floor(length / step + 1e-6) + 1):
            whole = tick % many == 0
            size = 10 if whole else 7 if tick % (many // 2) == 0 else 4
            at = tick * step * px_per_mm
            painter.setPen(QPen(theme.SOFT_INK, 1))
            if along_x:
                start = QPointF(origin.x() + at, origin.y() - 3)
                painter.drawLine(start, start - QPointF(0, size))
            else:
                start = QPointF(origin.x() - 3, origin.y() + at)
                painter.drawLine(start, start - QPointF(size, 0))
            if whole and (inches or tick % 4 == 0):
                _write(painter, start, str(tick // 8 if inches else tick * 5), along_x=along_x)


def _write(painter: QPainter, start: QPointF, words: str, *, along_x: bool) -> None:
    painter.setPen(theme.SOFT_INK)
    if along_x:
        painter.drawText(QRectF(start.x() - 20, start.y() - 26, 40, 14), Qt.AlignmentFlag.AlignCenter, words)
    else:
        box = QRectF(start.x() - 44, start.y() - 8, 30, 16)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
