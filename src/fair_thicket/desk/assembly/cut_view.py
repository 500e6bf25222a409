"""The card as it will be, with the line at which it is cut to be seen from the side; a click chooses a piece."""

import shapely
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QWidget

from fair_thicket.assembly import Heights
from fair_thicket.desk import theme
from fair_thicket.desk.parts.ground_art import area_path
from fair_thicket.desk.parts.panel_view import PanelView

NEAR_PX = 6.0
STEP_MM = 2.0
CUT_HERE_PX = 56.0


class CutView(PanelView):
    """Shows the card, the piece that is chosen, and the cut.

    Attributes
    ----------
    cut_mm : float
        Height of the cut, from the card's top.
    cutMoved : Signal()
    picked : Signal(str)
        A piece that was clicked.
    """

    cutMoved = Signal()
    picked = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("The card, and where it is cut", parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip("Drag the dashed line, or use the arrow keys; click a piece to choose it")
        self.cut_mm = 50.0
        self._heights: Heights | None = None
        self._chosen = ""
        self._moves = False

    def show_heights(self, heights: Heights | None, chosen: str) -> None:
        """Show which piece is chosen among those that lie so high."""
        self._heights, self._chosen = heights, chosen
        self.update()

    def left_and_scale(self) -> tuple[float, float]:
        """Return where the card begins from the left, and pixels a millimetre: the side view follows them."""
        box = self._panel_box()
        return box.left(), box.width() / self._size_mm[0]

    def set_cut(self, height_mm: float) -> None:
        """Cut at another height."""
        self.cut_mm = min(max(height_mm, 0.0), self._size_mm[1])
        self.update()
        self.cutMoved.emit()

    def _mm(self, place: QPointF) -> tuple[float, float]:
        box = self._panel_box()
        scale = box.width() / self._size_mm[0]
        return (place.x() - box.left()) / scale, (place.y() - box.top()) / scale

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self._panel_box()
        scale = box.width() / self._size_mm[0]
        if self._heights is not None and self._chosen:
            to_view = QTransform().translate(box.left(), box.top()).scale(scale, scale)
            painter.setPen(QPen(theme.HONEY, 2.5))
            for rest in self._heights.rests:
                if rest.piece.id == self._chosen:
                    painter.drawPath(to_view.map(area_path(rest.area)))
        y = box.top() + self.cut_mm * scale
        painter.setPen(QPen(theme.BERRY, 1.5, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(box.left() - 12, y), QPointF(box.right() + 12, y))
        painter.setFont(theme.font(12))
        beside = box.left() - CUT_HERE_PX if box.left() > CUT_HERE_PX else box.right() - CUT_HERE_PX
        painter.drawText(QPointF(beside, y - 4), "cut here")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        x, y = self._mm(event.position())
        scale = self.left_and_scale()[1]
        self._moves = abs(y - self.cut_mm) * scale <= NEAR_PX
        if not self._moves and self._heights is not None:
            spot = shapely.Point(x, y)
            found = [rest for rest in self._heights.rests if shapely.intersects(rest.area, spot)]
            self.picked.emit(found[-1].piece.id if found else "")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._moves:
            self.set_cut(self._mm(event.position())[1])

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        self._moves = False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        by = {Qt.Key.Key_Up: -STEP_MM, Qt.Key.Key_Down: STEP_MM}.get(Qt.Key(event.key()))
        if by is None:
            super().keyPressEvent(event)
        else:
            self.set_cut(self.cut_mm + by)
