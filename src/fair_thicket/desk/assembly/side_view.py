"""The card from the side: cut at a height, straight below the card, drawn several times as thick as it is."""

from typing import NamedTuple

import shapely
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from fair_thicket.assembly.side import Side
from fair_thicket.desk import theme

THICKER = 10.0
ROOM_PX, NAME_PX, LEAST_PX = 30.0, 15.0, 3.0
FOOT_PX = 8.0
LEVEL_MM = 0.4
"""Foam is changed in steps of this when a piece is dragged up or down."""
FOAM = QColor("#f2d9a4")


class Bar(NamedTuple):
    """A stretch of a piece, or of its foam, where it is cut: from and to, mm along the card, and its levels, mm."""

    piece: str
    start_mm: float
    end_mm: float
    bottom_mm: float
    top_mm: float
    is_foam: bool
    colour: QColor


class SideView(QWidget):
    """Shows the cut.

    Attributes
    ----------
    bars : list of Bar
        From the back forward.
    picked : Signal(str)
        A piece that was clicked.
    lifted : Signal(str, float)
        A piece that was dragged to another level, and by how much, mm.
    """

    picked = Signal(str)
    lifted = Signal(str, float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("The card from the side")
        self.setToolTip("Drag a piece up or down to give it more or less foam")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.bars: list[Bar] = []
        self._names: dict[str, str] = {}
        self._left, self._scale, self._wide, self._most = 0.0, 1.0, 100.0, 1.0
        self._chosen = ""
        self._held: tuple[str, float] | None = None
        self._by = 0.0

    def sizeHint(self) -> QSize:
        """Ask for room for a raised card."""
        return QSize(600, 150)

    def show_side(self, side: Side | None, names: dict[str, str], cut_mm: float, chosen: str) -> None:
        """Show a side of a card cut at a height."""
        self.bars = bars_at(side, cut_mm) if side is not None else []
        self._names, self._chosen = names, chosen
        self._most = max([0.6, *(bar.top_mm for bar in self.bars)])
        self._wide = side.work.card.panel[0] if side is not None else 100.0
        self.update()

    def follow(self, left: float, scale: float) -> None:
        """Lie straight below the card: where it begins, and pixels a millimetre."""
        self._left, self._scale = left, scale
        self.update()

    @property
    def thicker(self) -> float:
        """How many times as thick as true the card is drawn: ten where there is room."""
        room = self.height() - ROOM_PX - FOOT_PX
        return max(1.0, min(THICKER, room / (self._most * self._scale)))

    def _box(self, bar: Bar) -> QRectF:
        up = self.thicker * self._scale
        ground = self.height() - FOOT_PX
        high = max(LEAST_PX, (bar.top_mm - bar.bottom_mm) * up)
        off = self._by * up if self._held is not None and bar.piece == self._held[0] else 0.0
        return QRectF(
            self._left + bar.start_mm * self._scale,
            ground - bar.bottom_mm * up - high - off,
            max(1.0, (bar.end_mm - bar.start_mm) * self._scale),
            high,
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ground = self.height() - FOOT_PX
        painter.fillRect(QRectF(self._left, ground, self._wide * self._scale, 4), theme.LINE)
        if not self.bars:
            painter.setPen(theme.SOFT_INK)
            painter.setFont(theme.font(13))
            words = "Nothing that is glued lies here. Move the dashed line, or cut something out and glue it."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
            return
        for bar in self.bars:
            box = self._box(bar)
            is_chosen = bar.piece == self._chosen
            painter.setPen(QPen(theme.HONEY_TEXT if is_chosen else QColor("#4a554e"), 2 if is_chosen else 0.8))
            painter.setBrush(FOAM if bar.is_foam else bar.colour)
            painter.drawRect(box)
        self._draw_names(painter)

    def _draw_names(self, painter: QPainter) -> None:
        """Name each piece once, above where it is widest; names that would lie on others are left out."""
        painter.setFont(theme.font(12))
        widest: dict[str, Bar] = {}
        for bar in self.bars:
            known = widest.get(bar.piece)
            if not bar.is_foam and (known is None or bar.end_mm - bar.start_mm > known.end_mm - known.start_mm):
                widest[bar.piece] = bar
        taken: list[QRectF] = []
        for bar in sorted(widest.values(), key=lambda one: (one.piece != self._chosen, -one.top_mm)):
            words = self._names.get(bar.piece, bar.piece)
            box = self._box(bar)
            wide = painter.fontMetrics().horizontalAdvance(words)
            spot = QRectF(box.center().x() - wide / 2, box.top() - NAME_PX - 1, wide, NAME_PX)
            spot.moveLeft(min(max(spot.left(), 2.0), self.width() - wide - 2.0))
            if spot.top() >= 0 and not any(spot.intersects(other) for other in taken):
                taken.append(spot)
                painter.setPen(theme.HONEY_TEXT if bar.piece == self._chosen else theme.INK)
                painter.drawText(QPointF(spot.left(), spot.bottom() - 3), words)

    def _at(self, place: QPointF) -> Bar | None:
        return next((bar for bar in reversed(self.bars) if self._box(bar).adjusted(0, -2, 0, 2).contains(place)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        bar = self._at(event.position())
        self._held = (bar.piece, event.position().y()) if bar is not None else None
        self._by = 0.0
        self.picked.emit(bar.piece if bar is not None else "")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            up = (self._held[1] - event.position().y()) / (self.thicker * self._scale)
            self._by = round(up / LEVEL_MM) * LEVEL_MM
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        held, by = self._held, self._by
        self._held, self._by = None, 0.0
        if held is not None and by:
            self.lifted.emit(held[0], by)
        self.update()


def bars_at(side: Side, cut_mm: float) -> list[Bar]:
    """Cut a side at a height: papers and their foam, from the back forward."""
    wide = side.work.card.panel[0]
    line = shapely.LineString([(-100.0, cut_mm), (wide + 100.0, cut_mm)])
    bars = []
    for rest in side.heights.rests:
        key = rest.piece.id
        for strip in side.foam.of(rest.key):
            for start, end in _stretches(strip.area, line):
                bars.append(Bar(key, start, end, rest.bottom_mm - strip.thick_mm, rest.bottom_mm, True, FOAM))
        colour = QColor(rest.piece.colour or "#ffffff")
        for start, end in _stretches(rest.area, line):
            bars.append(Bar(key, start, end, rest.bottom_mm, rest.top_mm, False, colour))
    return bars


def _stretches(area: shapely.Geometry, line: shapely.LineString) -> list[tuple[float, float]]:
    """Return where a line runs within an area, from the left."""
    shared = shapely.intersection(area, line)
    found = [part.bounds for part in shapely.get_parts(shared) if isinstance(part, shapely.LineString)]
    return sorted((bounds[0], bounds[2]) for bounds in found if bounds[2] - bounds[0] > 0.05)
