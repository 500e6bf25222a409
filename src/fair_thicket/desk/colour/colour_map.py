"""The colour map: one image large, in its colours; parts are chosen on it, and a handle turns where shadow lies."""

import math
from collections.abc import Sequence

import cv2
import numpy as np
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
from fair_thicket.edits.colouring import part_at, parts_of
from fair_thicket.ink.contrast import channels
from fair_thicket.ink.overlay import lay_over
from fair_thicket.ink.prints import decode_picture
from fair_thicket.ink.shading import SHADOW_DEG, Laying, colour_image, laying_of
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.pieces import INK, Cutout, Impression
from fair_thicket.model.stash import Stamp

Part = tuple[int, ...]
ROOM_PX = 26
REACH = 0.16
"""Length of the handle, as a share of the image's longer side."""
GRIP_PX = 8


class ColourMap(QWidget):
    """One image.

    Attributes
    ----------
    chosen : list of parts
    partsChosen : Signal()
    shadowAsked : Signal(float)
        Where shadow is to lie for the parts chosen, degrees in the image's own frame; asked while it is dragged.
    is_cutting : bool
        The next drag draws a line along which a region is parted.
    lineDrawn : Signal((float, float), (float, float))
        Such a line, mm from the image's middle.
    """

    partsChosen = Signal()
    shadowAsked = Signal(float)
    lineDrawn = Signal(object, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMinimumSize(QSize(360, 300))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The image to colour; arrow keys go from part to part")
        self.chosen: list[Part] = []
        self._stamp: Stamp | None = None
        self._piece: Impression | Cutout | None = None
        self._light_deg = 0.0
        self._picture: QImage | None = None
        self._paths: dict[Part, QPainterPath] = {}
        self._under: Part = ()
        self._turning = False
        self.is_cutting = False
        self._line: tuple[QPointF, QPointF] | None = None
        self.empty = "No image on the card yet.\nPut images on it at the Scene station."

    # -- what is shown -------------------------------------------------------------------------------------------

    def show_piece(self, work: Work, pictures: dict[str, bytes], key: str | None) -> None:
        """Show a piece's image as it is coloured; None shows nothing."""
        piece = work.card.find(key) if key else None
        if not isinstance(piece, Impression | Cutout):
            self._piece = self._stamp = self._picture = None
            self._paths, self.chosen = {}, []
            self.update()
            return
        is_other = self._piece is None or self._piece.id != piece.id
        self._piece, self._stamp = piece, work.stash.find(piece.stamp)
        parts = parts_of(self._stamp)
        self._paths = {part: _path_of(self._stamp, part) for part in parts}
        self.chosen = [] if is_other else [part for part in self.chosen if part in self._paths]
        self._light_deg = (SHADOW_DEG[work.card.light] - piece.angle_deg) % 360
        self._picture = picture_of(work, pictures, piece)
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
        """Give a place within a part, in pixels of the widget."""
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
        if self._stamp is None or self._piece is None or not self.chosen:
            return None
        known = next((one for one in self._piece.colouring if set(one.regions) & set(self.chosen[0])), None)
        if known is None or not known.shades:
            return None
        angle = math.radians(self._light_deg if known.shadow_deg is None else known.shadow_deg)
        foot = self.place_of(self.chosen[0])
        reach = max(46.0, REACH * max(self._stamp.width_mm, self._stamp.height_mm) * self._scale())
        return foot, foot + QPointF(math.cos(angle), math.sin(angle)) * reach

    # -- hands ---------------------------------------------------------------------------------------------------

    def cut_next(self) -> None:
        """Let the next drag draw a line along which a region is parted; Escape gives it up."""
        self.is_cutting = True
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setFocus()

    def _end_cut(self) -> None:
        self.is_cutting, self._line = False, None
        self.unsetCursor()
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.is_cutting:
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
        if self._line is not None:
            start, end = self._to_image(self._line[0]), self._to_image(event.position())
            self._end_cut()
            self.lineDrawn.emit((start.x(), start.y()), (end.x(), end.y()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.is_cutting and event.key() == Qt.Key.Key_Escape:
            self._end_cut()
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
        for part in self.chosen:
            _outline(painter, self._paths[part])
        painter.restore()
        handle = self._handle()
        if handle is not None and not self.is_cutting:
            _draw_handle(painter, *handle)
        if self._line is not None:
            painter.setPen(QPen(theme.BERRY, 2, Qt.PenStyle.DashLine))
            painter.drawLine(*self._line)
        if self.hasFocus():
            painter.setPen(QPen(theme.FERN, 1, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -2, -2))

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()


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
    path = QPainterPath()
    for region in stamp.regions:
        if region.id in part:
            for ring in (region.ring, *region.holes):
                path.addPolygon(QPolygonF([QPointF(x, y) for x, y in (*ring, ring[0])]))
    return path


def _inner(path: QPainterPath) -> QPointF:
    """Give a place well within a path: of a grid of places in its box the one nearest its middle."""
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


def picture_of(work: Work, pictures: dict[str, bytes], piece: Impression | Cutout) -> QImage:
    """Picture an image in its colours with its lines, at 300 dpi."""
    stamp = work.stash.find(piece.stamp)
    leaves = stack(work)
    leaf = next(leaf for leaf in leaves if leaf.key == piece.id)
    laying = laying_of(work.card, work.stash, leaves, leaf)
    if laying is None:
        laying = Laying(stamp, (), 0.0, work.card.shade_order)
    tones = colour_image(laying)
    paper = (piece.colour or WHITE) if isinstance(piece, Cutout) else WHITE
    seen = lay_over(np.array(channels(paper), np.float32), tones)
    data = pictures.get(stamp.picture, b"")
    if data:
        passing = np.asarray(
            cv2.resize(decode_picture(data), seen.shape[1::-1], interpolation=cv2.INTER_AREA), np.float32
        )
        ink = np.array(channels(piece.ink or INK), np.float32)
        share = passing[:, :, None]
        seen = lay_over(seen, share + (1 - share) * ink)
    pixels = np.ascontiguousarray(np.rint(seen * 255).astype(np.uint8))
    rows, columns = pixels.shape[:2]
    return QImage(pixels.data, columns, rows, 3 * columns, QImage.Format.Format_RGB888).copy()
