"""The back of a piece, with its foam and where glue may go."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QSizePolicy, QWidget

from fair_thicket.assembly.side import Side
from fair_thicket.desk import theme
from fair_thicket.desk.parts.ground_art import area_path
from fair_thicket.shape.outline import Area

FOAM, GLUE = QColor("#eec25a"), QColor("#cfe0d6")
ROOM_PX = 10


class BackView(QWidget):
    """Shows one piece from behind, upright."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("The back of the piece")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(150, 110)
        self._parts: list[tuple[Area, QColor, QColor]] = []

    def sizeHint(self) -> QSize:
        """Ask for a little more than the least."""
        return QSize(200, 140)

    def show_piece(self, side: Side | None, key: str) -> None:
        """Show the back of a piece of a side; nothing where it is no paper."""
        self._parts = []
        rest = next((one for one in side.heights.rests if one.key == key), None) if side is not None else None
        if side is not None and rest is not None:
            glue = [one.area for one in side.glue.glues if one.piece == key]
            foam = [one.area for one in side.foam.of(key)]
            self._parts.append((rest.from_behind(rest.area), QColor("white"), theme.INK))
            self._parts += [(rest.from_behind(area), GLUE, theme.LINE) for area in glue]
            self._parts += [(rest.from_behind(area), FOAM, theme.HONEY_TEXT) for area in foam]
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self._parts:
            painter.setPen(theme.SOFT_INK)
            painter.setFont(theme.font(13))
            words = "Choose a piece that is glued: its back is shown here."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
            return
        left, top, right, bottom = self._parts[0][0].bounds
        wide, high = max(right - left, 1.0), max(bottom - top, 1.0)
        scale = min((self.width() - 2 * ROOM_PX) / wide, (self.height() - 2 * ROOM_PX) / high)
        to_view = QTransform().translate(
            (self.width() - wide * scale) / 2 - left * scale, (self.height() - high * scale) / 2 - top * scale
        )
        to_view.scale(scale, scale)
        for area, fill, edge in self._parts:
            painter.setPen(QPen(edge, 1.0))
            painter.setBrush(fill)
            painter.drawPath(to_view.map(area_path(area)))
