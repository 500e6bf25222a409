"""One sheet as it will lie on the table: pieces with their names, cuts with their numbers; images are moved by hand."""

import math
from collections.abc import Sequence
from typing import NamedTuple

import shapely
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QWidget
from shapely.geometry.base import BaseGeometry

from fair_thicket.desk import theme
from fair_thicket.desk.parts.ground_art import area_path
from fair_thicket.desk.parts.pictures import StampPictures, box_of
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.outline import Area

ROOM_PX = 22
STEP_MM, FINE_MM = 1.0, 0.2
NUMBER_PX = 10


class SheetPiece(NamedTuple):
    """A piece on a sheet.

    Attributes
    ----------
    name : str
    area : area
        In its place, mm from the sheet's corner.
    colour : str
        Of its paper.
    number : str
        Told beside its name; empty for none.
    stamp : Stamp or None
        Whose picture it bears, turned and moved as said.
    spot : (x, y, degrees)
    """

    name: str
    area: Area
    colour: str
    number: str = ""
    stamp: Stamp | None = None
    spot: tuple[float, float, float] = (0.0, 0.0, 0.0)


class SheetPicture(NamedTuple):
    """A sheet to show.

    Attributes
    ----------
    size_mm : (float, float)
    pieces : sequence of SheetPiece
    cuts : sequence of ((x, y), (x, y))
        In their order.
    free_mm : float
        Edge that stays free.
    gap_mm : float
        Least gap between pieces.
    is_movable : bool
    """

    size_mm: tuple[float, float]
    pieces: Sequence[SheetPiece]
    cuts: Sequence[tuple[tuple[float, float], tuple[float, float]]] = ()
    free_mm: float = 0.0
    gap_mm: float = 0.0
    is_movable: bool = False


class SheetView(QWidget):
    """Shows a sheet.

    Attributes
    ----------
    chosen : int
        Place of the piece that is chosen; -1 for none.
    told : Signal(str)
        What is to be said while a piece is pointed at or moved.
    moved : Signal(int, float, float)
        A piece was moved by so much, mm.
    """

    told = Signal(str)
    moved = Signal(int, float, float)

    def __init__(self, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMinimumSize(QSize(320, 260))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The sheet; arrow keys move the piece chosen, Tab goes on")
        self._pictures = pictures
        self.shown: SheetPicture | None = None
        self.empty = ""
        self.chosen = -1
        self._pressed: QPointF | None = None
        self._off = QPointF()

    def show_sheet(self, picture: SheetPicture | None, *, empty: str = "") -> None:
        """Show a sheet; None shows words instead."""
        self.shown, self.empty = picture, empty
        self._pressed, self._off = None, QPointF()
        if picture is None or self.chosen >= len(picture.pieces):
            self.chosen = -1
        self.update()

    # -- where things are ------------------------------------------------------------------------------------------

    def scale(self) -> float:
        """Pixels to the mm."""
        if self.shown is None:
            return 1.0
        wide, high = self.shown.size_mm
        return max(0.1, min((self.width() - 2 * ROOM_PX) / wide, (self.height() - 2 * ROOM_PX) / high))

    def corner(self) -> QPointF:
        """Where the sheet's corner lies, pixels."""
        if self.shown is None:
            return QPointF()
        wide, high = (side * self.scale() for side in self.shown.size_mm)
        return QPointF((self.width() - wide) / 2, (self.height() - high) / 2)

    def place_of(self, index: int) -> QPointF:
        """Return a place within a piece, pixels."""
        if self.shown is None:
            return QPointF()
        spot = self.shown.pieces[index].area.representative_point()
        return self.corner() + QPointF(spot.x, spot.y) * self.scale()

    def _at(self, at: QPointF) -> int:
        if self.shown is None:
            return -1
        place = (at - self.corner()) / self.scale()
        point = shapely.Point(place.x(), place.y())
        hits = [index for index, piece in enumerate(self.shown.pieces) if piece.area.contains(point)]
        return hits[-1] if hits else -1

    # -- hands -------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.chosen = self._at(event.position())
        if self.shown is not None and self.shown.is_movable and self.chosen >= 0:
            self._pressed = event.position()
        self._tell()
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None:
            self._off = (event.position() - self._pressed) / self.scale()
            self._tell()
            self.update()
        elif self.shown is not None:
            under = self._at(event.position())
            self.setToolTip(self.shown.pieces[under].name if under >= 0 else "")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        off, self._pressed, self._off = self._off, None, QPointF()
        if self.chosen >= 0 and math.hypot(off.x(), off.y()) > 0.05:
            self.moved.emit(self.chosen, off.x(), off.y())
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = FINE_MM if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else STEP_MM
        ways = {
            Qt.Key.Key_Left: (-step, 0.0), Qt.Key.Key_Right: (step, 0.0), Qt.Key.Key_Up: (0.0, -step),
            Qt.Key.Key_Down: (0.0, step),
        }  # fmt: skip
        way = ways.get(Qt.Key(event.key()))
        if self.shown is None or not self.shown.pieces:
            super().keyPressEvent(event)
        elif event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Space}:
            self.chosen = (self.chosen + 1) % len(self.shown.pieces)
            self._tell()
            self.update()
        elif way is not None and self.shown.is_movable and self.chosen >= 0:
            self.moved.emit(self.chosen, *way)
        else:
            super().keyPressEvent(event)

    def gap_told(self) -> str:
        """Say how near the piece chosen lies to others and to the edge; what is too near is named."""
        if self.shown is None or self.chosen < 0:
            return ""
        own = self._moved_area(self.chosen)
        others = [(piece.area, piece.name) for n, piece in enumerate(self.shown.pieces) if n != self.chosen]
        name = self.shown.pieces[self.chosen].name
        near = min(others, key=lambda one: own.distance(one[0]), default=None)
        left, top, right, bottom = own.bounds
        edge = min(left, top, self.shown.size_mm[0] - right, self.shown.size_mm[1] - bottom)
        told = f"{name}: {max(edge, 0):.1f} mm to the edge"
        if near is not None:
            gap = own.distance(near[0])
            told += f", {gap:.1f} mm to the {near[1]}" if gap > 0 else f", over the {near[1]}"
        if self.shown.is_movable and self._is_amiss(own):
            told += f" · at least {self.shown.gap_mm:g} mm between, {self.shown.free_mm:g} mm to the edge"
        return told

    def _tell(self) -> None:
        self.told.emit(self.gap_told())

    def _moved_area(self, index: int) -> BaseGeometry:
        area: BaseGeometry = self.shown.pieces[index].area if self.shown is not None else shapely.Polygon()
        if index != self.chosen or self._off.isNull():
            return area
        moved: BaseGeometry = shapely.affinity.translate(area, self._off.x(), self._off.y())
        return moved

    def _is_amiss(self, own: BaseGeometry) -> bool:
        if self.shown is None:
            return False
        left, top, right, bottom = own.bounds
        wide, high = self.shown.size_mm
        if min(left, top, wide - right, high - bottom) < self.shown.free_mm - 0.01:
            return True
        others = (piece.area for n, piece in enumerate(self.shown.pieces) if n != self.chosen)
        return any(own.distance(other) < self.shown.gap_mm - 0.01 for other in others)

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        if self.shown is None:
            painter.setPen(theme.SOFT_INK)
            painter.setFont(theme.font(14))
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, self.empty)
            return
        scale, corner = self.scale(), self.corner()
        wide, high = self.shown.size_mm
        sheet = QRectF(corner.x(), corner.y(), wide * scale, high * scale)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#bccac1"))
        painter.drawRect(sheet.translated(4, 4))
        painter.setPen(QPen(theme.LINE, 1))
        painter.setBrush(QColor("#fffefb"))
        painter.drawRect(sheet)
        if self.shown.free_mm:
            free = self.shown.free_mm * scale
            painter.setPen(QPen(theme.LINE, 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(sheet.adjusted(free, free, -free, -free))
        to_view = QTransform().translate(corner.x(), corner.y()).scale(scale, scale)
        for index, piece in enumerate(self.shown.pieces):
            self._draw_piece(painter, index, piece, to_view)
        for number, cut in enumerate(self.shown.cuts, 1):
            self._draw_cut(painter, cut, number, to_view)
        if self.hasFocus():
            painter.setPen(QPen(theme.FERN, 1, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -2, -2))

    def _draw_piece(self, painter: QPainter, index: int, piece: SheetPiece, to_view: QTransform) -> None:
        off = self._off if index == self.chosen else QPointF()
        own = QTransform().translate(off.x(), off.y()) * to_view
        path: QPainterPath = own.map(area_path(piece.area))
        is_chosen = index == self.chosen
        amiss = (
            is_chosen and self.shown is not None and self.shown.is_movable and self._is_amiss(self._moved_area(index))
        )
        painter.setBrush(QColor(piece.colour))
        edge = theme.BERRY if amiss else theme.HONEY if is_chosen else theme.SOFT_INK
        painter.setPen(QPen(edge, 2.4 if is_chosen else 1.0))
        painter.drawPath(path)
        if piece.stamp is not None:
            self._draw_image(painter, piece, piece.stamp, own)
        self._draw_name(painter, piece, path.boundingRect())

    def _draw_image(self, painter: QPainter, piece: SheetPiece, stamp: Stamp, own: QTransform) -> None:
        scale = own.m11()
        picture = self._pictures.get(stamp, scale * self.devicePixelRatioF())
        painter.save()
        painter.setTransform(own, True)
        painter.translate(piece.spot[0], piece.spot[1])
        painter.rotate(piece.spot[2])
        painter.drawPixmap(box_of(stamp), picture, QRectF(picture.rect()))
        painter.restore()

    def _draw_name(self, painter: QPainter, piece: SheetPiece, box: QRectF) -> None:
        if piece.stamp is None:
            painter.setFont(theme.font(12))
            words = painter.fontMetrics().elidedText(
                piece.name, Qt.TextElideMode.ElideRight, int(max(box.width() - 6, 0))
            )
            if box.height() > 14 and len(words) > 2:
                dark = QColor(piece.colour).lightnessF() < 0.45
                painter.setPen(theme.PAPER if dark else theme.INK)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        if piece.number:
            _draw_number(painter, QPointF(box.left() + 3, box.top() + 3), piece.number)

    def _draw_cut(
        self, painter: QPainter, cut: tuple[tuple[float, float], tuple[float, float]], number: int, to_view: QTransform
    ) -> None:
        start, end = (to_view.map(QPointF(*point)) for point in cut)
        painter.setPen(QPen(theme.HONEY_TEXT, 2, Qt.PenStyle.DashLine))
        painter.drawLine(start, end)
        along = end - start
        length = max(1.0, math.hypot(along.x(), along.y()))
        _draw_number(painter, start + along * min(0.5, 26 / length), str(number))


def _draw_number(painter: QPainter, at: QPointF, words: str) -> None:
    painter.setPen(QPen(theme.PINE, 1.2))
    painter.setBrush(theme.PAPER)
    painter.drawEllipse(at, NUMBER_PX, NUMBER_PX)
    painter.setFont(theme.font(12, QFont.Weight.Bold))
    painter.drawText(
        QRectF(at.x() - NUMBER_PX, at.y() - NUMBER_PX, 2 * NUMBER_PX, 2 * NUMBER_PX),
        Qt.AlignmentFlag.AlignCenter,
        words,
    )
