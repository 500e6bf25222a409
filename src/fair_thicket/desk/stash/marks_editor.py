"""An image with its marks: feet, faces and words to keep clear, where it looks, hands, seats and open pockets."""

import math
from collections.abc import Sequence
from typing import Literal

import msgspec
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QTransform
from PySide6.QtWidgets import QSizePolicy, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.pictures import StampPictures, box_of, ring_path
from fair_thicket.edits.image_marks import open_mark
from fair_thicket.model.basics import Point, Ring
from fair_thicket.model.stash import Contact, Marks, Stamp, Zone
from fair_thicket.shape.outline import open_pockets

TOOLS: tuple[tuple[str, str], ...] = (
    ("feet", "Drag along the line on which it stands"),
    ("face", "Drag a frame round a face: it must stay in sight"),
    ("words", "Drag a frame round words: they must stay in sight"),
    ("looks", "Drag the way it looks or points"),
    ("hand", "Click where it can hold something"),
    ("seat", "Click where something can sit or stand"),
    ("hole", "Click in a pocket to open it: what is behind shows through"),
)
ZONE_INK = {"face": theme.BERRY, "words": QColor("#5d6f8c"), "other": theme.SOFT_INK}


class MarksEditor(QWidget):
    """Shows and takes marks; what is asked for is told, nothing is changed here.

    Attributes
    ----------
    tool : str
        One of `TOOLS`.
    marksAsked : Signal(object)
        The marks as they should be.
    """

    marksAsked = Signal(object)

    def __init__(self, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("The image with its marks")
        self.setMinimumSize(240, 150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.tool = "feet"
        self._pictures = pictures
        self._stamp: Stamp | None = None
        self._start: Point | None = None
        self._end: Point = (0.0, 0.0)

    def sizeHint(self) -> QSize:
        return QSize(300, 240)

    def show_stamp(self, stamp: Stamp | None) -> None:
        """Show an image with its marks; None shows nothing."""
        self._stamp = stamp
        self._start = None
        self.update()

    def to_widget(self) -> QTransform:
        """Lead from the image's mm to the widget."""
        if self._stamp is None:
            return QTransform()
        box = box_of(self._stamp).adjusted(-2, -2, 2, 2)
        scale = min((self.width() - 20) / box.width(), (self.height() - 20) / box.height(), 14.0)
        shift = QTransform().translate(self.width() / 2, self.height() / 2).scale(scale, scale)
        return QTransform().translate(-box.center().x(), -box.center().y()) * shift

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.setPen(QPen(theme.LINE, 1))
        painter.setBrush(QColor("white"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 8, 8)
        stamp = self._stamp
        if stamp is None:
            painter.setPen(theme.SOFT_INK)
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Choose an image to see and set its marks.")
            return
        place = self.to_widget()
        scale = place.m11()
        picture = self._pictures.sample(stamp, scale * self.devicePixelRatioF())
        painter.drawPixmap(place.mapRect(box_of(stamp)), picture, QRectF(picture.rect()))
        if not stamp.kind.is_plain:
            self._draw_pockets(painter, stamp, place)
        self._draw_marks(painter, stamp.marks, place)
        if self._start is not None:
            painter.setPen(QPen(theme.HONEY_TEXT, 2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            start, end = place.map(QPointF(*self._start)), place.map(QPointF(*self._end))
            if self.tool in {"face", "words"}:
                painter.drawRect(QRectF(start, end).normalized())
            else:
                painter.drawLine(start, end)

    def _draw_pockets(self, painter: QPainter, stamp: Stamp, place: QTransform) -> None:
        """Hatch what is open; the others are seen while they can be opened."""
        opened = open_pockets(stamp)
        for ring in stamp.pockets:
            is_open = ring in opened
            if not is_open and self.tool != "hole":
                continue
            painter.setPen(QPen(theme.FERN, 1.5, Qt.PenStyle.SolidLine if is_open else Qt.PenStyle.DotLine))
            painter.setBrush(QBrush(theme.FERN, Qt.BrushStyle.BDiagPattern) if is_open else Qt.BrushStyle.NoBrush)
            path = place.map(ring_path(ring))
            painter.drawPath(path)
            if self.tool == "hole":
                _tag(painter, path.boundingRect().center(), "open" if is_open else "paper", theme.FERN, centred=True)

    def _draw_marks(self, painter: QPainter, marks: Marks, place: QTransform) -> None:
        for zone in marks.zones:
            colour = QColor(ZONE_INK[zone.what])
            painter.setPen(QPen(colour, 2))
            colour.setAlpha(40)
            painter.setBrush(colour)
            path = place.map(ring_path(zone.ring))
            painter.drawPath(path)
            _tag(painter, path.boundingRect().topLeft() + QPointF(0, -9), zone.what, ZONE_INK[zone.what])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if marks.feet is not None:
            style = Qt.PenStyle.DashLine if marks.is_guess else Qt.PenStyle.SolidLine
            start, end = (place.map(QPointF(*point)) for point in marks.feet)
            painter.setPen(QPen(theme.FERN, 4, style, Qt.PenCapStyle.RoundCap))
            painter.drawLine(start, end)
            words = "feet, a guess" if marks.is_guess else "feet"
            _tag(painter, (start + end) / 2 + QPointF(0, 13), words, theme.FERN, centred=True)
        if marks.looks_deg is not None:
            _draw_look(painter, QPointF(self.width() / 2, self.height() / 2), marks.looks_deg)
        for contact in marks.contacts:
            at = place.map(QPointF(*contact.at))
            painter.setPen(QPen(theme.HONEY_TEXT, 2))
            painter.setBrush(theme.HONEY)
            painter.drawEllipse(at, 6, 6)
            _tag(painter, at + QPointF(9, 0), contact.what, theme.HONEY_TEXT)

    # -- the mouse -----------------------------------------------------------------------------------------------

    def _at(self, event: QMouseEvent) -> Point:
        point = self.to_widget().inverted()[0].map(event.position())
        return round(point.x(), 3), round(point.y(), 3)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self._stamp is not None:
            self._start = self._end = self._at(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._start is not None:
            self._end = self._at(event)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        start, self._start = self._start, None
        if start is None or self._stamp is None:
            return
        self.update()
        pockets = () if self._stamp.kind.is_plain else self._stamp.pockets  # a die's openings are always open
        marks = place_mark(self._stamp.marks, self.tool, start, self._at(event), pockets)
        if marks != self._stamp.marks:
            self.marksAsked.emit(marks)


def place_mark(marks: Marks, tool: str, start: Point, end: Point, pockets: Sequence[Ring] = ()) -> Marks:
    """Place a mark by a drag from one point to another (mm); a click on a mark of its kind takes it away."""
    if tool == "hole":
        return open_mark(marks, pockets, end)
    is_click = math.dist(start, end) < 1
    if tool == "feet":
        feet = None if is_click else (min(start, end), max(start, end))
        return msgspec.structs.replace(marks, feet=feet, is_guess=False)
    if tool == "looks":
        way = round(math.degrees(math.atan2(end[1] - start[1], end[0] - start[0])), 1)
        return msgspec.structs.replace(marks, looks_deg=None if is_click else way)
    if tool in {"hand", "seat"}:
        near = [one for one in marks.contacts if math.dist(one.at, end) < 1.5]
        kept = tuple(one for one in marks.contacts if one not in near)
        contact = Contact("hand" if tool == "hand" else "seat", end)
        return msgspec.structs.replace(marks, contacts=kept if near else (*kept, contact))
    return _place_zone(marks, "face" if tool == "face" else "words", start, end)


def _place_zone(marks: Marks, what: Literal["face", "words"], start: Point, end: Point) -> Marks:
    if math.dist(start, end) < 1:
        kept = tuple(zone for zone in marks.zones if not _holds(zone, end))
        return msgspec.structs.replace(marks, zones=kept)
    (left, right), (top, bottom) = (sorted(pair) for pair in zip(start, end, strict=True))
    if min(right - left, bottom - top) < 0.5:
        return marks
    ring = ((left, top), (right, top), (right, bottom), (left, bottom))
    return msgspec.structs.replace(marks, zones=(*marks.zones, Zone(what, ring)))


def _holds(zone: Zone, point: Point) -> bool:
    polygon = QPolygonF([QPointF(x, y) for x, y in zone.ring])
    return polygon.containsPoint(QPointF(*point), Qt.FillRule.OddEvenFill)


def _tag(painter: QPainter, at: QPointF, words: str, ink: QColor, *, centred: bool = False) -> None:
    """Write a word on paper of its own, so that it reads over the image's lines."""
    painter.setFont(theme.font(12, theme.font().Weight.DemiBold))
    wide = painter.fontMetrics().horizontalAdvance(words) + 16
    middle = at if centred else at + QPointF(wide / 2, 0)
    theme.draw_pill(painter, middle, words, ground=theme.PAPER, ink=ink)


def _draw_look(painter: QPainter, middle: QPointF, angle_deg: float) -> None:
    """Draw an arrow from the middle the way the image looks."""
    angle = math.radians(angle_deg)
    along = QPointF(math.cos(angle), math.sin(angle))
    across = QPointF(-along.y(), along.x())
    tip = middle + along * 64
    painter.setPen(QPen(theme.HONEY_TEXT, 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawLine(middle, tip)
    for side in (1, -1):
        painter.drawLine(tip, tip - along * 11 + across * 7 * side)
    _tag(painter, tip + along * 8, "looks", theme.HONEY_TEXT)
