"""A hill drawn freehand over the picture of the card: click points, drag them, and see the edge they make."""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QComboBox, QDialog, QVBoxLayout, QWidget

from fair_thicket.backdrop.hills import draw_hill, hill_outline, smooth_line
from fair_thicket.backdrop.reaching import sheet_under
from fair_thicket.desk import theme
from fair_thicket.desk.parts.controls import button, label, taking_row
from fair_thicket.desk.parts.ink_choice import swatch
from fair_thicket.desk.session.background import Worker
from fair_thicket.ink.painting import paint
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.palette import PALETTE
from fair_thicket.model.pieces import Border
from fair_thicket.model.units import say_length

ROOM_PX, CATCH_PX, KNOB_PX = 26.0, 11.0, 6.5
NUDGE_MM = 0.5
DPI = 150.0
FIRST = ((0.12, 0.72), (0.38, 0.58), (0.64, 0.7), (0.88, 0.6))
"""Where the first points stand: shares of the sheet's width and height."""
Spot = tuple[float, float]
Levels = NDArray[np.uint8]


class HillView(QWidget):
    """Draws the card, and over it the hill that the points make.

    Attributes
    ----------
    points : list of (x, y), mm on the panel
    chosen : int
        The point that keys move.
    colour : str
    changed : Signal()
    """

    changed = Signal()

    def __init__(self, work: Work, on: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(560, 420)
        self.setAccessibleName("The card with the hill; points are clicked, dragged and deleted")
        self._panel = work.card.panel
        self._picture = QImage()
        self._is_ready = False
        left, top, right, bottom = sheet_under(work, Border("hill", "hill", 10.0, 0.0, 0.0, on=on)).bounds
        self._sheet = QRectF(left, top, right - left, bottom - top)
        self.points: list[Spot] = [(left + x * (right - left), top + y * (bottom - top)) for x, y in FIRST]
        self.chosen = 0
        self.colour = "#8aa465"
        self._held = False

    def sizeHint(self) -> QSize:
        return QSize(760, 560)

    def show_card(self, levels: Levels) -> None:
        """Show the card as painted; from now on the hill is drawn as well."""
        rows, columns = levels.shape[:2]
        self._picture = QImage(levels.data, columns, rows, 3 * columns, QImage.Format.Format_RGB888).copy()
        self._is_ready = True
        self._changed()

    # -- places --------------------------------------------------------------------------------------------------

    def _scale(self) -> float:
        width, height = self._panel
        return min((self.width() - 2 * ROOM_PX) / width, (self.height() - 2 * ROOM_PX) / height)

    def _corner(self) -> QPointF:
        width, height = self._panel
        scale = self._scale()
        return QPointF((self.width() - width * scale) / 2, (self.height() - height * scale) / 2)

    def to_view(self, spot: Spot) -> QPointF:
        """Where a place of the panel, mm, lies in the widget."""
        return self._corner() + QPointF(*spot) * self._scale()

    def _to_panel(self, place: QPointF) -> Spot:
        spot = (place - self._corner()) / self._scale()
        x = min(max(spot.x(), self._sheet.left()), self._sheet.right())
        y = min(max(spot.y(), self._sheet.top()), self._sheet.bottom() - 1.0)
        return round(x, 2), round(y, 2)

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.MIST)
        width, height = self._panel
        scale = self._scale()
        painter.drawImage(QRectF(self._corner(), QSize(round(width * scale), round(height * scale))), self._picture)
        if self._is_ready:
            self._draw_hill(painter)
        for number, spot in enumerate(self.points):
            painter.setPen(QPen(theme.HONEY_TEXT, 2 if number == self.chosen else 1))
            painter.setBrush(theme.HONEY if number == self.chosen else theme.HONEY_WASH)
            painter.drawEllipse(self.to_view(spot), KNOB_PX, KNOB_PX)

    def _draw_hill(self, painter: QPainter) -> None:
        try:
            line = smooth_line(self.points, self._sheet.left(), self._sheet.right())
        except PaperError:
            return
        path = QPainterPath(self.to_view((float(line[0][0]), self._sheet.bottom())))
        for x, y in line.tolist():
            path.lineTo(self.to_view((x, y)))
        path.lineTo(self.to_view((self._sheet.right(), self._sheet.bottom())))
        fill = QColor(self.colour)
        fill.setAlpha(205)
        painter.setPen(QPen(theme.PINE, 1.4))
        painter.setBrush(fill)
        painter.drawPath(path)

    # -- hands ---------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for number, spot in enumerate(self.points):
            away = event.position() - self.to_view(spot)
            if abs(away.x()) <= CATCH_PX and abs(away.y()) <= CATCH_PX:
                self.chosen, self._held = number, True
                self.update()
                return
        self.points.append(self._to_panel(event.position()))
        self.chosen, self._held = len(self.points) - 1, True
        self._changed()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self.points[self.chosen] = self._to_panel(event.position())
            self._changed()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        self._held = False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (-NUDGE_MM, 0.0),
            Qt.Key.Key_Right: (NUDGE_MM, 0.0),
            Qt.Key.Key_Up: (0.0, -NUDGE_MM),
            Qt.Key.Key_Down: (0.0, NUDGE_MM),
        }
        key = Qt.Key(event.key())
        if key in steps and self.points:
            (x, y), (right, down) = self.points[self.chosen], steps[key]
            self.points[self.chosen] = self._to_panel(self.to_view((x + right, y + down)))
            self._changed()
        elif key in {Qt.Key.Key_Comma, Qt.Key.Key_Period} and self.points:
            order = sorted(range(len(self.points)), key=lambda index: self.points[index])
            at = order.index(self.chosen) + (1 if key == Qt.Key.Key_Period else -1)
            self.chosen = order[at % len(order)]
            self.update()
        elif key in {Qt.Key.Key_Delete, Qt.Key.Key_Backspace}:
            self.remove_point()
        else:
            super().keyPressEvent(event)

    def remove_point(self) -> None:
        """Take the chosen point away."""
        if self.points:
            del self.points[self.chosen]
            self.chosen = max(0, min(self.chosen, len(self.points) - 1))
            self._changed()

    def _changed(self) -> None:
        self.update()
        self.changed.emit()


def _paint_and_load(work: Work, pictures: dict[str, bytes]) -> Levels:
    """Paint the card, and draw one line so that the library for it is loaded."""
    smooth_line([(0.0, 0.0), (10.0, 1.0)], 0.0, 10.0)
    return paint(work, pictures, dpi=DPI)


class Hill(QDialog):
    """Asks for a hill.

    Attributes
    ----------
    view : HillView
    colour : QComboBox
    note : QLabel
    worker : Worker
        Paints the card.
    """

    def __init__(
        self,
        work: Work,
        pictures: Mapping[str, bytes],
        on: str,
        papers: Sequence[tuple[str, str]] = PALETTE,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._work, self._on = work, on
        self.setWindowTitle("Draw a hill")
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(8)
        box.addWidget(label("Draw a hill", "heading"))
        words = "Click where its edge is to pass; drag points, or use the arrow keys; Delete takes one away."
        box.addWidget(label(words, "soft", wrap=True))
        self.view = HillView(work, on)
        box.addWidget(self.view, 1)
        self.note = label("", wrap=True)
        self.note.setMinimumHeight(22)
        box.addWidget(self.note)
        self.colour = QComboBox()
        self.colour.setAccessibleName("Paper of the hill")
        for name, code in papers:
            self.colour.addItem(swatch(code), name, code)
        self.colour.setCurrentIndex(self.colour.findData(self.view.colour))
        self.colour.currentIndexChanged.connect(lambda _: self._recolour())
        fewer = button("Take the point away", self.view.remove_point, tip="Delete")
        row, self._done = taking_row(self, label("Paper"), self.colour, fewer)
        box.addLayout(row)
        self._done.setEnabled(False)
        self.view.changed.connect(self._look)
        self.worker = Worker(self)
        self.worker.done.connect(self.view.show_card)
        self.worker.failed.connect(self.note.setText)
        self.finished.connect(lambda _: self.worker.close())
        painted = dict(pictures)
        self.worker.ask(lambda: _paint_and_load(work, painted))
        self.resize(820, 680)

    def _recolour(self) -> None:
        self.view.colour = str(self.colour.currentData())
        self.view.update()

    def _look(self) -> None:
        try:
            _, _, (width, height) = hill_outline(self._work, self.view.points, on=self._on)
        except PaperError as problem:
            self.note.setText(str(problem))
            self._done.setEnabled(False)
            return
        unit = self._work.card.unit
        size = f"{say_length(width, unit)} wide, {say_length(height, unit)} at its highest"
        self.note.setText(f"{size}. A guide to cut along is printed with the plan, life size.")
        self._done.setEnabled(True)

    def make(self) -> tuple[Work, str, dict[str, bytes]]:
        """Put the hill on the card."""
        return draw_hill(self._work, self.view.points, self.view.colour, on=self._on)


def ask_hill(
    work: Work,
    pictures: Mapping[str, bytes],
    on: str,
    papers: Sequence[tuple[str, str]] = PALETTE,
    parent: QWidget | None = None,
) -> tuple[Work, str, dict[str, bytes]] | None:
    """Ask for a hill; None when the maker draws none after all."""
    dialog = Hill(work, pictures, on, papers, parent)
    taken = dialog.exec()
    made = dialog.make() if taken else None
    dialog.deleteLater()
    return made
