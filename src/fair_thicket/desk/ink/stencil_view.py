"""A stencil stepped over a wash, drawn as it comes out: lays are dragged, moved with the keys, turned over, taped."""

import msgspec
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QWidget

from fair_thicket.backdrop.stencils import GRID_MM
from fair_thicket.desk import theme
from fair_thicket.desk.ink.wash_view import WashView
from fair_thicket.desk.parts.ground_art import area_path
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import AnyThrough, AnyWash, Lay, Stencilled, Through, as_kind
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.washes import list_lays

CATCH_PX, KNOB_PX = 13.0, 10.0
KEYS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


class StencilView(WashView):
    """Draws the panel with the wash as inked, and the stencil's outline for every lay.

    Attributes
    ----------
    chosen : int
        The lay that is moved with the keys; its outline is heavy.
    """

    def __init__(self, work: Work, piece: AnyThrough, parent: QWidget | None = None) -> None:
        super().__init__(work, piece, "The stencil over the wash, lay by lay", parent)
        self.chosen = 0
        self._held: tuple[QPointF, Lay] | None = None

    @property
    def laid(self) -> AnyThrough:
        """The wash, as one with a stencil."""
        return self.piece if isinstance(self.piece, Through) else as_kind(self.piece, Stencilled)

    def show_piece(self, piece: AnyWash) -> None:
        """Show a wash with its lays."""
        super().show_piece(piece)
        self.chosen = min(self.chosen, max(0, len(self.laid.lays) - 1))

    # -- places --------------------------------------------------------------------------------------------------

    def _half(self) -> tuple[float, float]:
        """Half the stencil's width and height, mm."""
        if not self.laid.stencil:
            return self.piece.form.width_mm / 2, self.piece.form.height_mm / 2
        stencil = self.work.stash.find(self.laid.stencil)
        return stencil.width_mm / 2, stencil.height_mm / 2

    def extent(self) -> QRectF:
        """Return the panel and every lay of the stencil, mm."""
        seen = super().extent()
        half_x, half_y = self._half()
        place = self.to_panel()
        for lay in self.laid.lays:
            box = QRectF(lay.x - half_x, lay.y - half_y, 2 * half_x, 2 * half_y)
            seen = seen.united(place.mapRect(box))
        return seen

    def knob_of(self, number: int) -> QPointF:
        """Where the numbered knob of a lay lies in the widget: beyond the stencil's lower left corner."""
        half_x, half_y = self._half()
        lay = self.laid.lays[number]
        corner = (self.to_panel() * self.to_view()).map(QPointF(lay.x - half_x, lay.y + half_y))
        return corner - QPointF(KNOB_PX + 4, 0)

    # -- painting ------------------------------------------------------------------------------------------------

    def draw_more(self, painter: QPainter) -> None:
        """Draw the stencil's outline and the number of every lay."""
        painter.save()
        painter.setTransform(self.to_panel() * self.to_view(), True)
        for number, laid in enumerate(list_lays(self.piece, self.work.stash)):
            pen = QPen(theme.HONEY_TEXT if number == self.chosen else theme.PINE, 2.2 if number == self.chosen else 1.0)
            pen.setCosmetic(True)
            if number != self.chosen:
                pen.setStyle(Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawPath(area_path(laid.place(to_area(laid.outline, laid.openings))))
        self._draw_tape(painter)
        painter.restore()
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        for number in range(len(self.laid.lays)):
            knob = self.knob_of(number)
            is_chosen = number == self.chosen
            painter.setPen(QPen(theme.HONEY_TEXT, 2 if is_chosen else 1))
            painter.setBrush(theme.HONEY if is_chosen else theme.HONEY_WASH)
            painter.drawEllipse(knob, KNOB_PX, KNOB_PX)
            painter.setPen(theme.INK)
            box = QRectF(knob.x() - KNOB_PX, knob.y() - KNOB_PX, 2 * KNOB_PX, 2 * KNOB_PX)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{number + 1}")

    def _draw_tape(self, painter: QPainter) -> None:
        """Draw tape over the openings of the chosen lay that are taped."""
        tape = QColor(theme.HONEY_WASH)
        tape.setAlpha(220)
        for path in self._openings().items():
            if path[0] in self.laid.taped:
                painter.fillPath(path[1], tape)
                painter.drawPath(path[1])

    def _openings(self) -> dict[int, QPainterPath]:
        """Return the openings of the chosen lay, taped ones as well, by number."""
        if not self.laid.lays or not self.laid.stencil:
            return {}
        lay = self.laid.lays[self.chosen]
        side = -1 if lay.flipped else 1
        return {
            number: _rings_path((tuple((side * x + lay.x, y + lay.y) for x, y in ring),))
            for number, ring in enumerate(self.work.stash.find(self.laid.stencil).pockets)
        }

    # -- hands ---------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for number in range(len(self.laid.lays)):
            away = event.position() - self.knob_of(number)
            if abs(away.x()) <= CATCH_PX and abs(away.y()) <= CATCH_PX:
                self.chosen = number
                self._held = (event.position(), self.laid.lays[number])
                self.show_rough(is_rough=True)
                self.changed.emit()
                return
        back, _ = (self.to_panel() * self.to_view()).inverted()
        spot = back.map(event.position())
        for number, path in self._openings().items():
            if path.contains(spot):
                self.toggle_tape(number)
                return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None:
            return
        start, lay = self._held
        back, _ = (self.to_panel() * self.to_view()).inverted()
        by = back.map(event.position()) - back.map(start)
        grid = GRID_MM[self.work.card.unit]
        self._put(lay.x + round(by.x() / grid) * grid, lay.y + round(by.y() / grid) * grid)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        self._held = None
        self.show_rough(is_rough=False)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if not self.laid.lays:
            super().keyPressEvent(event)
        elif key in KEYS:
            step = GRID_MM[self.work.card.unit] * (4 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1)
            right, down = KEYS[key]
            lay = self.laid.lays[self.chosen]
            self._put(lay.x + right * step, lay.y + down * step)
        elif key in {Qt.Key.Key_Comma, Qt.Key.Key_Period}:
            self.chosen = (self.chosen + (1 if key == Qt.Key.Key_Period else -1)) % len(self.laid.lays)
            self.update()
            self.changed.emit()
        elif key == Qt.Key.Key_Space:
            self.turn_over()
        else:
            super().keyPressEvent(event)

    def turn_over(self) -> None:
        """Turn the stencil of the chosen lay over."""
        if self.laid.lays:
            lay = self.laid.lays[self.chosen]
            self._change(msgspec.structs.replace(lay, flipped=not lay.flipped))

    def toggle_tape(self, number: int) -> None:
        """Tape an opening of the stencil over, or peel the tape off."""
        taped = set(self.laid.taped) ^ {number}
        self.show_piece(msgspec.structs.replace(self.piece, taped=tuple(sorted(taped))))
        self.changed.emit()

    def _put(self, x: float, y: float) -> None:
        reach = self.piece.form.width_mm + self.piece.form.height_mm
        lay = self.laid.lays[self.chosen]
        x, y = (round(min(max(value, -reach), reach), 4) for value in (x, y))
        self._change(msgspec.structs.replace(lay, x=x, y=y))

    def _change(self, lay: Lay) -> None:
        lays = list(self.laid.lays)
        lays[self.chosen] = lay
        self.show_piece(msgspec.structs.replace(self.piece, lays=tuple(lays)))
        self.changed.emit()


def _rings_path(rings: tuple[Ring, ...]) -> QPainterPath:
    path = QPainterPath()
    for ring in rings:
        path.addPolygon(QPolygonF([QPointF(x, y) for x, y in ring]))
        path.closeSubpath()
    return path
