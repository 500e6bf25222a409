"""A blended wash as it comes out, with a handle: the middle of a glow, or the direction in which it goes over."""

import math

import msgspec
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.ink.wash_view import WashView
from fair_thicket.ink.gradients import is_blended
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import AnyWash

KNOB_PX, CATCH_PX, ARROW_SHARE = 9.0, 14.0, 0.3
CATCH_DEG, STEP_DEG, STEP_MM = 15.0, 5.0, 1.0
FARTHEST_MM = 1000.0


class BlendView(WashView):
    """Draws a wash and the handle of its way; the handle is dragged, or moved with the arrow keys."""

    def __init__(self, work: Work, piece: AnyWash, parent: QWidget | None = None) -> None:
        super().__init__(work, piece, "The wash as it comes out, with the handle of its way", parent)
        self._is_held = False

    @property
    def has_handle(self) -> bool:
        """Whether the way has a middle or a direction."""
        return is_blended(self.piece)

    def handle(self) -> QPointF:
        """Where the handle lies in the widget."""
        return (self.to_panel() * self.to_view()).map(self._tip())

    def _tip(self) -> QPointF:
        """Place of the handle about the wash's middle, unturned, mm."""
        if self.piece.way == "glow":
            return QPointF(*self.piece.centre)
        reach = ARROW_SHARE * min(self.piece.form.width_mm, self.piece.form.height_mm)
        angle = math.radians(self.piece.toward_deg)
        return QPointF(reach * math.cos(angle), reach * math.sin(angle))

    # -- painting ------------------------------------------------------------------------------------------------

    def draw_more(self, painter: QPainter) -> None:
        """Draw the handle: a ring for a glow, an arrow for a direction."""
        if not self.has_handle:
            return
        tip = self.handle()
        for colour, width in ((theme.PAPER, 4.0), (theme.HONEY_TEXT, 1.8)):
            painter.setPen(QPen(colour, width))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if self.piece.way != "glow":
                painter.drawLine((self.to_panel() * self.to_view()).map(QPointF(0, 0)), tip)
            painter.drawEllipse(tip, KNOB_PX, KNOB_PX)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.HONEY)
        painter.drawEllipse(tip, KNOB_PX - 3, KNOB_PX - 3)

    # -- hands ---------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        away = event.position() - self.handle()
        on_it = abs(away.x()) <= CATCH_PX and abs(away.y()) <= CATCH_PX
        self._is_held = self.has_handle and (on_it or self.piece.way == "glow")
        if self._is_held and not on_it:  # a click anywhere puts a glow there
            self._drag_to(event.position(), is_free=False)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._is_held:
            self.is_rough = True
            self._drag_to(event.position(), is_free=bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        self._is_held = False
        self.show_rough(is_rough=False)

    def _drag_to(self, place: QPointF, *, is_free: bool) -> None:
        back, _ = (self.to_panel() * self.to_view()).inverted()
        spot = back.map(place)
        if self.piece.way == "glow":
            self._put_centre(spot.x(), spot.y())
        elif abs(spot.x()) + abs(spot.y()) > 1e-6:
            angle = math.degrees(math.atan2(spot.y(), spot.x()))
            self._put_angle(angle if is_free else round(angle / CATCH_DEG) * CATCH_DEG)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1),
            Qt.Key.Key_Down: (0, 1),
        }
        key = Qt.Key(event.key())
        if key not in steps or not self.has_handle:
            super().keyPressEvent(event)
            return
        right, down = steps[key]
        if self.piece.way == "glow":
            x, y = self.piece.centre
            self._put_centre(x + right * STEP_MM, y + down * STEP_MM)
        else:
            self._put_angle(self.piece.toward_deg + (right + down) * STEP_DEG)

    def _put_centre(self, x: float, y: float) -> None:
        x, y = (round(min(max(value, -FARTHEST_MM), FARTHEST_MM), 2) for value in (x, y))
        self.show_piece(msgspec.structs.replace(self.piece, centre=(x, y)))
        self.changed.emit()

    def _put_angle(self, angle_deg: float) -> None:
        turned = round((angle_deg + 180) % 360 - 180, 1)
        self.show_piece(msgspec.structs.replace(self.piece, toward_deg=turned))
        self.changed.emit()
