"""The colour map: one image large, in its colours; parts are chosen on it, and a handle turns where shadow lies."""

import math
from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.colour.image_picture import picture_of
from fair_thicket.edits.colouring import part_at, parts_of
from fair_thicket.edits.images import Image
from fair_thicket.ink.layings import SHADOW_DEG
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work
from fair_thicket.model.stash import Stamp

Part = tuple[int, ...]
ROOM_PX = 26
REACH = 0.16
"""Length of the handle, as a share of the image's longer side."""
GRIP_PX = 8


class Drawing(NamedTuple):
    """What the next drag draws a line for, or what clicks mark."""

    purpose: str
    is_spot: bool = False


class ColourMap(QWidget):
    """One image.

    Attributes
    ----------
    chosen : list of parts
    partsChosen : Signal()
    shadowAsked : Signal(float)
        Where shadow is to lie for the parts chosen, degrees in the image's own frame; asked while it is dragged.
    drawing : Drawing or None
        What the next drag, or the next click, is for.
    lineDrawn : Signal(str, (float, float), (float, float))
        What a line was drawn for, and its ends, mm from the image's middle.
    spotClicked : Signal(str, (float, float))
        What was marked, and where. Marking goes on until Escape.
    """

    partsChosen = Signal()
    shadowAsked = Signal(float)
    lineDrawn = Signal(str, object, object)
    spotClicked = Signal(str, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMinimumSize(QSize(360, 300))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The image to colour; arrow keys go from part to part")
        self.chosen: list[Part] = []
        self._stamp: Stamp | None = None
        self._image: Image | None = None
        self._light_deg = 0.0
        self._picture: QImage | None = None
        self._paths: dict[Part, QPainterPath] = {}
        self._under: Part = ()
        self._turning = False
        self.drawing: Drawing | None = None
        self._line: tuple[QPointF, QPointF] | None = None
        self.empty = "No image on the card yet.\nPut images on it at the Scene station."

    # -- what is shown -------------------------------------------------------------------------------------------

    def show_image(self, work: Work, pictures: dict[str, bytes], image: Image | None) -> None:
        """Show an image as it is coloured; None shows nothing."""
        if image is None:
            self._image = self._stamp = self._picture = None
            self._paths, self.chosen = {}, []
            self.update()
            return
        is_other = self._image is None or self._image.key != image.key
        self._image, self._stamp = image, work.stash.find(image.stamp)
        parts = parts_of(self._stamp)
        self._paths = {part: _path_of(self._stamp, part) for part in parts}
        self.chosen = [] if is_other else [part for part in self.chosen if part in self._paths]
        self._light_deg = (SHADOW_DEG[work.card.light] - image.angle_deg) % 360
        self._picture = picture_of(work, pictures, image)
        self.update()

    @property
    def parts(self) -> list[Part]:
        """Parts of the image that is shown."""
        return list(self._paths)

    def choose(self, parts: Sequence[Part]) -> None:
        """Choose parts."""
        self.chosen = [part for part in parts if part in self._paths]
        self.update()
        self.partsChosen.emit()

    def place_of(self, part: Part) -> QPointF:
        """Return a place within a part, in pixels of the widget."""
        path = self._paths[part]
        return self._to_view(_inner(path))

    # -- where things are ----------------------------------------------------------------------------------------

    def _scale(self) -> float:
        if self._stamp is None:
            return 1.0
        room_x, room_y = self.width() - 2 * ROOM_PX, self.height() - 2 * ROOM_PX
        return max(1.0, min(room_x / self._stamp.width_mm, room_y / self._stamp.height_mm))

    def _to_view(self, at: QPointF) -> QPointF:
        return QPointF(self.width() / 2, self.height() / 2) + at * self._scale()

    def _to_image(self, at: QPointF) -> QPointF:
        return (at - QPointF(self.width() / 2, self.height() / 2)) / self._scale()

    def _handle(self) -> tuple[QPointF, QPointF] | None:
        """Foot and grip of the handle, in pixels; None where no part with a run is chosen."""
        if self._stamp is None or self._image is None or not self.chosen:
            return None
        known = next((one for one in self._image.colouring if set(one.regions) & set(self.chosen[0])), None)
        if known is None or not known.shades:
            return None
        touches = {region.id for region in self._stamp.regions if region.is_touch}
        if touches & set(self.chosen[0]):
            return None
        angle = math.radians(self._light_deg if known.shadow_deg is None else known.shadow_deg)
        foot = self.place_of(self.chosen[0])
        reach = max(46.0, REACH * max(self._stamp.width_mm, self._stamp.height_mm) * self._scale())
        return foot, foot + QPointF(math.cos(angle), math.sin(angle)) * reach

    # -- hands ---------------------------------------------------------------------------------------------------

    def draw_next(self, drawing: Drawing) -> None:
        """Let the next drag draw a line, or clicks mark spots; Escape ends it."""
        self.drawing = drawing
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setFocus()

    def _end_drawing(self) -> None:
        self.drawing, self._line = None, None
        self.unsetCursor()
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.drawing is not None and self.drawing.is_spot:
            at = self._to_image(event.position())
            self.spotClicked.emit(self.drawing.purpose, (round(at.x(), 2), round(at.y(), 2)))
            return
        if self.drawing is not None:
            self._line = (event.position(), event.position())
            return
        handle = self._handle()
        if handle is not None and _apart(handle[1], event.position()) <= GRIP_PX + 5:
            self._turning = True
            return
        part = self._part_at(event.position())
        if not part:
            self.choose([])
        elif event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier):
            self.choose([one for one in self.chosen if one != part] if part in self.chosen else [*self.chosen, part])
        else:
            self.choose([part])

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._line is not None:
            self._line = (self._line[0], event.position())
            self.update()
            return
        if self._turning and self.chosen:
            off = event.position() - self.place_of(self.chosen[0])
            if abs(off.x()) + abs(off.y()) > 4:
                self.shadowAsked.emit(round(math.degrees(math.atan2(off.y(), off.x())) % 360, 1))
            return
        part = self._part_at(event.position())
        if part != self._under:
            self._under = part
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._turning = False
        if self._line is not None and self.drawing is not None:
            start, end = self._to_image(self._line[0]), self._to_image(event.position())
            purpose = self.drawing.purpose
            self._end_drawing()
            self.lineDrawn.emit(
                purpose, (round(start.x(), 3), round(start.y(), 3)), (round(end.x(), 3), round(end.y(), 3))
            )

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.drawing is not None and event.key() == Qt.Key.Key_Escape:
            self._end_drawing()
            return
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1}.get(
            Qt.Key(event.key())
        )
        parts = list(self._paths)
        if step is None or not parts:
            super().keyPressEvent(event)
            return
        at = parts.index(self.chosen[-1]) + step if self.chosen else (0 if step > 0 else -1)
        self.choose([parts[at % len(parts)]])

    def _part_at(self, at: QPointF) -> Part:
        if self._stamp is None:
            return ()
        place = self._to_image(at)
        return part_at(self._stamp, (place.x(), place.y()))

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        if self._stamp is None or self._picture is None:
            painter.setPen(theme.SOFT_INK)
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.empty)
            return
        scale = self._scale()
        wide, high = self._stamp.width_mm * scale, self._stamp.height_mm * scale
        box = QRectF((self.width() - wide) / 2, (self.height() - high) / 2, wide, high)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(255, 255, 255))
        painter.drawRoundedRect(box.adjusted(-14, -14, 14, 14), 6, 6)
        painter.drawImage(box, self._picture)
        painter.save()
        painter.translate(self.width() / 2, self.height() / 2)
        painter.scale(scale, scale)
        if self._under and self._under not in self.chosen:
            painter.fillPath(self._paths[self._under], QColor(214, 146, 30, 60))
        self._draw_marks(painter)
        for part in self.chosen:
            _outline(painter, self._paths[part])
        painter.restore()
        handle = self._handle()
        if handle is not None and self.drawing is None:
            _draw_handle(painter, *handle)
        if self._line is not None:
            painter.setPen(QPen(theme.BERRY, 2, Qt.PenStyle.DashLine))
            painter.drawLine(*self._line)
        if self.hasFocus():
            painter.setPen(QPen(theme.FERN, 1, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -2, -2))

    def _draw_marks(self, painter: QPainter) -> None:
        """Draw touches, each by a thin ring, and the folds of the parts chosen."""
        chosen = {region for part in self.chosen for region in part}
        for region in self._stamp.regions if self._stamp is not None else ():
            if region.is_touch:
                _stroke(painter, _path_of_rings((region.ring,)), theme.BERRY, Qt.PenStyle.DotLine)
            elif region.id in chosen:
                for (x, y), (to_x, to_y) in region.folds:
                    path = QPainterPath(QPointF(x, y))
                    path.lineTo(to_x, to_y)
                    _stroke(painter, path, theme.BERRY, Qt.PenStyle.DashLine)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()


def _stroke(painter: QPainter, path: QPainterPath, colour: QColor, style: Qt.PenStyle) -> None:
    pen = QPen(colour, 1.4, style)
    pen.setCosmetic(True)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)


def _outline(painter: QPainter, path: QPainterPath) -> None:
    """Draw a part's outline in two tones, so that it is seen on any colour."""
    for colour, width in ((theme.PAPER, 4.0), (theme.HONEY_TEXT, 2.0)):
        pen = QPen(colour, width)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)


def _draw_handle(painter: QPainter, foot: QPointF, grip: QPointF) -> None:
    """Draw the handle: a line to where shadow lies, with a dark half-disc as its grip."""
    for colour, width in ((theme.PAPER, 5.0), (theme.PINE, 2.0)):
        painter.setPen(QPen(colour, width))
        painter.drawLine(foot, grip)
    painter.setPen(QPen(theme.PAPER, 2))
    painter.setBrush(theme.PINE)
    painter.drawEllipse(grip, GRIP_PX, GRIP_PX)
    away = grip - foot
    turn = -math.degrees(math.atan2(away.y(), away.x()))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.HONEY)
    box = QRectF(grip.x() - GRIP_PX + 2.5, grip.y() - GRIP_PX + 2.5, 2 * GRIP_PX - 5, 2 * GRIP_PX - 5)
    painter.drawPie(box, round((turn + 90) * 16), 180 * 16)


def _path_of(stamp: Stamp, part: Part) -> QPainterPath:
    return _path_of_rings(
        tuple(ring for region in stamp.regions if region.id in part for ring in (region.ring, *region.holes))
    )


def _path_of_rings(rings: Sequence[Ring]) -> QPainterPath:
    path = QPainterPath()
    for ring in rings:
        path.addPolygon(QPolygonF([QPointF(x, y) for x, y in (*ring, ring[0])]))
    return path


def _inner(path: QPainterPath) -> QPointF:
    """Return a place well within a path: of a grid of places in its box the one nearest its middle."""
    box = path.boundingRect()
    spots = [
        QPointF(box.left() + box.width() * (column + 0.5) / 15, box.top() + box.height() * (row + 0.5) / 15)
        for row in range(15)
        for column in range(15)
    ]
    inside = [spot for spot in spots if path.contains(spot)]
    return min(inside, key=lambda spot: _apart(spot, box.center()), default=box.center())


def _apart(one: QPointF, other: QPointF) -> float:
    return math.hypot(one.x() - other.x(), one.y() - other.y())
