"""A page with every found image outlined and numbered: click to choose, drag to frame or to cut; one near at hand."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFont,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QTransform,
)
from PySide6.QtWidgets import QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.pictures import ring_path
from fair_thicket.model.plan import Sheet, SheetImage
from fair_thicket.model.units import Unit, say_size

ROOM_PX, NEAR_PX = 14, 40
STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class PageView(QWidget):
    """Shows a page; computes nothing.

    Attributes
    ----------
    chosen : frozenset of int
        Places in the list of images.
    is_cutting : bool
        Whether the next drag draws a line to cut along, or marks a length.
    near : int or None
        The image that is seen near at hand, its outline being mended: a click turns an area, a drag closes a gap.
    areaPicked, gapDrawn : Signal(object)
        A place, or two places, page mm, of the image that is near.
    choiceChanged : Signal()
    picked : Signal(int)
        An image was clicked by itself.
    cutDrawn : Signal(object)
        Two places: page mm when cutting, and shares of the picture when a length is marked.
    """

    choiceChanged = Signal()
    picked = Signal(int)
    cutDrawn = Signal(object)
    areaPicked = Signal(object)
    gapDrawn = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("The page with the images that were found")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.chosen: frozenset[int] = frozenset()
        self.is_cutting = False
        self.near: int | None = None
        self._cross = QPointF()
        self._cross_from: QPointF | None = None
        self._pictures: dict[bytes, QImage] = {}
        self.unit = Unit.INCH
        self._image: QImage | None = None
        self._scaled: QImage | None = None
        self._sheet: Sheet | None = None
        self._paths: list[QPainterPath] = []
        self._start: QPointF | None = None
        self._end = QPointF()

    def show_page(self, sheet: Sheet | None, picture: NDArray[np.uint8] | None) -> None:
        """Show a page with its images; None shows nothing."""
        self._sheet = sheet
        if picture is None or sheet is None:
            self._image, self._paths = None, []
        else:
            self._image = _to_image(picture)
            to_picture = _page_to_picture(sheet, self._image.width())
            self._paths = [to_picture.map(_path_of(one)) for one in sheet.images]
        self._scaled = None
        count = len(sheet.images) if sheet is not None else 0
        self.choose(index for index in self.chosen if index < count)
        if self.near is not None and self.near >= count:
            self.near = None
        self.update()

    def look_near(self, index: int | None) -> None:
        """See one image near at hand, or the whole page again."""
        self.near = index
        self._cross_from = None
        if index is not None and self._sheet is not None:
            self._cross = QPointF(self._sheet.images[index].cx, self._sheet.images[index].cy)
        self.setCursor(Qt.CursorShape.ArrowCursor if index is None else Qt.CursorShape.CrossCursor)
        self.update()

    def choose(self, indices: object) -> None:
        """Choose images by their places in the list."""
        chosen = frozenset(indices)  # type: ignore[call-overload]
        if chosen != self.chosen:
            self.chosen = chosen
            self.choiceChanged.emit()
        self.update()

    def _fit(self) -> QTransform:
        if self._image is None:
            return QTransform()
        if self.near is not None:
            return self._fit_near(self._paths[self.near].boundingRect())
        room_x, room_y = self.width() - 2 * ROOM_PX, self.height() - 2 * ROOM_PX
        scale = max(0.01, min(room_x / self._image.width(), room_y / self._image.height()))
        left = (self.width() - self._image.width() * scale) / 2
        top = (self.height() - self._image.height() * scale) / 2
        return QTransform().translate(left, top).scale(scale, scale)

    def _fit_near(self, box: QRectF) -> QTransform:
        """Fit one image's box (pixels of the picture) into the widget, with some of what lies about it."""
        room = QRectF(self.rect()).adjusted(NEAR_PX, NEAR_PX, -NEAR_PX, -NEAR_PX)
        scale = max(0.01, min(room.width() / box.width(), room.height() / box.height()))
        middle = room.center()
        return (
            QTransform()
            .translate(middle.x(), middle.y())
            .scale(scale, scale)
            .translate(-box.center().x(), -box.center().y())
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        image, sheet = self._image, self._sheet
        if image is None or sheet is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.near is not None:
            self._paint_near(painter, sheet, self.near)
            return
        fit = self._fit()
        box = fit.mapRect(QRectF(image.rect()))
        ratio = self.devicePixelRatioF()
        if self._scaled is None or abs(self._scaled.width() - box.width() * ratio) > 1:
            self._scaled = image.scaled(
                (box.size() * ratio).toSize(),
                Qt.AspectRatioMode.IgnoreAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
        painter.drawImage(box, self._scaled)
        for index, path in enumerate(self._paths):
            is_doubtful = sheet.images[index].is_doubtful
            self._draw_outline(painter, fit.map(path), is_chosen=index in self.chosen, is_doubtful=is_doubtful)
        boxes = [fit.mapRect(path.boundingRect()) for path in self._paths]
        for index, box in enumerate(boxes):
            self._draw_number(painter, box, index, is_doubtful=sheet.images[index].is_doubtful)
        for index in sorted(self.chosen):
            others = boxes[:index] + boxes[index + 1 :]
            self._draw_size(painter, boxes[index], sheet.images[index], [*others, *map(_badge, boxes)])
        self._draw_drag(painter, is_line=self.is_cutting)

    def _draw_drag(self, painter: QPainter, *, is_line: bool) -> None:
        """Draw what is being dragged, and whether the keys come here."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._start is not None:
            painter.setPen(QPen(theme.BERRY, 2, Qt.PenStyle.DashLine))
            if is_line:
                painter.drawLine(self._start, self._end)
            else:
                painter.drawRect(QRectF(self._start, self._end).normalized())
        if self.hasFocus():
            painter.setPen(QPen(theme.FERN, 2))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)

    def _paint_near(self, painter: QPainter, sheet: Sheet, index: int) -> None:
        """Paint one image near at hand: its body washed, its clean picture, its outline, the cross for the keys."""
        fit, image = self._fit(), sheet.images[index]
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), Qt.GlobalColor.white)
        path = fit.map(self._paths[index])
        wash = QColor("#7cc27f")
        wash.setAlpha(90)
        painter.fillPath(path, wash)
        if image.picture not in self._pictures:
            self._pictures = {image.picture: QImage.fromData(image.picture)}
        whole = self._to_picture() * fit
        painter.save()
        painter.setTransform(whole)
        box = QRectF(-image.width_mm / 2, -image.height_mm / 2, image.width_mm, image.height_mm)
        painter.drawImage(box.translated(image.cx, image.cy), self._pictures[image.picture])
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.BERRY, 1.6))
        painter.drawPath(path)
        if self.hasFocus():
            cross = whole.map(self._cross)
            painter.setPen(QPen(theme.HONEY_TEXT, 1.6))
            painter.drawLine(cross - QPointF(9, 0), cross + QPointF(9, 0))
            painter.drawLine(cross - QPointF(0, 9), cross + QPointF(0, 9))
            if self._cross_from is not None:
                painter.setPen(QPen(theme.BERRY, 2, Qt.PenStyle.DashLine))
                painter.drawLine(whole.map(self._cross_from), cross)
        self._draw_drag(painter, is_line=True)

    def _draw_outline(self, painter: QPainter, path: QPainterPath, *, is_chosen: bool, is_doubtful: bool) -> None:
        wash = QColor(theme.HONEY if is_chosen else QColor("#7cc27f"))
        wash.setAlpha(110 if is_chosen else 55)
        line = Qt.PenStyle.DashLine if is_doubtful else Qt.PenStyle.SolidLine
        marked = is_chosen or is_doubtful
        painter.setPen(QPen(theme.HONEY_TEXT if marked else theme.FERN, 2.4 if marked else 1.4, line))
        painter.setBrush(wash)
        painter.drawPath(path)

    def _draw_number(self, painter: QPainter, box: QRectF, index: int, *, is_doubtful: bool) -> None:
        """Draw the number beside the top left corner, with a mark of doubt where the outline is in doubt."""
        is_chosen = index in self.chosen
        badge = _badge(box)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.HONEY if is_chosen or is_doubtful else theme.PINE)
        painter.drawEllipse(badge)
        painter.setFont(theme.font(12, QFont.Weight.Bold))
        painter.setPen(theme.INK if is_chosen or is_doubtful else QColor("white"))
        words = f"{index + 1}?" if is_doubtful else str(index + 1)
        painter.drawText(badge.adjusted(-4, 0, 4, 0), Qt.AlignmentFlag.AlignCenter, words)

    def _draw_size(self, painter: QPainter, box: QRectF, image: SheetImage, others: Sequence[QRectF]) -> None:
        """Draw the size below the image, above or beside it: where it covers least of what is there."""
        words = say_size(image.width_mm, image.height_mm, self.unit)
        width, height = theme.pill_size(painter, words)
        middle, aside = box.center(), box.width() / 2 + width / 2 + 3
        places = [
            QPointF(middle.x(), box.bottom() + 13), QPointF(middle.x(), box.top() - 13),
            QPointF(middle.x() + aside, middle.y()), QPointF(middle.x() - aside, middle.y()),
        ]  # fmt: skip

        def covered(at: QPointF) -> float:
            pill = QRectF(at.x() - width / 2, at.y() - height / 2, width, height)
            met = [pill.intersected(other) for other in others if pill.intersects(other)]
            beyond = pill.width() * pill.height() if not QRectF(self.rect()).contains(pill) else 0.0
            return beyond + sum(part.width() * part.height() for part in met)

        theme.draw_pill(painter, min(places, key=covered), words, ground=theme.HONEY, ink=theme.INK)

    # -- the mouse and the keyboard ------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self._image is not None:
            self._start = self._end = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._start is not None:
            self._end = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        start, self._start = self._start, None
        if start is None:
            return
        self.update()
        adding = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        moved = (event.position() - start).manhattanLength() > 5
        if self.near is not None:
            if moved:
                self.gapDrawn.emit((self.to_page(start), self.to_page(event.position())))
            else:
                self.areaPicked.emit(self.to_page(start))
        elif self.is_cutting and moved:
            self.cutDrawn.emit((start, event.position()))
        elif moved:
            frame = QRectF(start, event.position()).normalized()
            fit = self._fit()
            inside = {
                index
                for index, path in enumerate(self._paths)
                if frame.contains(fit.mapRect(path.boundingRect()).center())
            }
            self.choose(self.chosen | inside if adding else inside)
        else:
            hit = self._image_at(event.position())
            if hit is None:
                self.choose(self.chosen if adding else ())
            else:
                self.choose(self.chosen ^ {hit} if adding else {hit})
                if not adding:
                    self.picked.emit(hit)

    def _image_at(self, point: QPointF) -> int | None:
        """Find the smallest image whose box holds a point: outlines may be thin."""
        fit = self._fit()
        boxes = [(index, fit.mapRect(path.boundingRect())) for index, path in enumerate(self._paths)]
        held = [(box.width() * box.height(), index) for index, box in boxes if box.contains(point)]
        return min(held)[1] if held else None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        count = len(self._paths)
        if self.near is not None:
            self._press_near(event)
        elif event.key() in {Qt.Key.Key_Left, Qt.Key.Key_Right} and count:
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            now = min(self.chosen) if self.chosen else (-1 if step > 0 else 0)
            self.choose({(now + step) % count})
        elif event.key() == Qt.Key.Key_Escape:
            self.choose(())
        else:
            event.ignore()

    def _press_near(self, event: QKeyEvent) -> None:
        """Move the cross by a millimetre, by a tenth with Shift; turn the area under it; draw a line with it."""
        step = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        if event.key() in STEPS:
            x, y = STEPS[Qt.Key(event.key())]
            self._cross += QPointF(x * step, y * step)
        elif event.key() == Qt.Key.Key_Space:
            self.areaPicked.emit((self._cross.x(), self._cross.y()))
        elif event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            start, self._cross_from = self._cross_from, QPointF(self._cross)
            if start is not None:
                self._cross_from = None
                self.gapDrawn.emit(((start.x(), start.y()), (self._cross.x(), self._cross.y())))
        elif event.key() == Qt.Key.Key_Escape and self._cross_from is not None:
            self._cross_from = None
        else:
            event.ignore()
        self.update()

    # -- places --------------------------------------------------------------------------------------------------

    def to_page(self, point: QPointF) -> tuple[float, float]:
        """Turn a place in the widget into page mm."""
        at = (self._to_picture() * self._fit()).inverted()[0].map(point)
        return at.x(), at.y()

    def spot_of(self, place: tuple[float, float]) -> QPointF:
        """Where a place of the page (mm) is in the widget."""
        return (self._to_picture() * self._fit()).map(QPointF(*place))

    def _to_picture(self) -> QTransform:
        if self._image is None or self._sheet is None:
            return QTransform()
        return _page_to_picture(self._sheet, self._image.width())

    def to_share(self, point: QPointF) -> tuple[float, float]:
        """Turn a place in the widget into shares of the picture's width and height."""
        if self._image is None:
            return (0.0, 0.0)
        at = self._fit().inverted()[0].map(point)
        return at.x() / self._image.width(), at.y() / self._image.height()

    def place_of(self, index: int) -> QPointF:
        """Middle of an image in the widget."""
        return self._fit().mapRect(self._paths[index].boundingRect()).center()


def _to_image(picture: NDArray[np.uint8]) -> QImage:
    rows, columns = picture.shape[:2]
    wide = picture.ndim == 3
    kind = QImage.Format.Format_RGB888 if wide else QImage.Format.Format_Grayscale8
    return QImage(picture.data, columns, rows, columns * (3 if wide else 1), kind).copy()


def _page_to_picture(sheet: Sheet, width_px: int) -> QTransform:
    """Lead from page mm to pixels of a small picture of the scan, by the skew and the origin that the sheet tells."""
    small = width_px / sheet.scan_width_mm
    turned = QTransform().rotate(sheet.skew_deg)
    shift = QTransform().translate(sheet.origin_mm[0] * small, sheet.origin_mm[1] * small)
    return QTransform().scale(small, small) * turned * shift


def _path_of(image: SheetImage) -> QPainterPath:
    """Return the outline of an image with its pockets left open, page mm."""
    path = QPainterPath()
    for ring in (image.outline, *image.pockets):
        path.addPath(ring_path(tuple((x + image.cx, y + image.cy) for x, y in ring)))
    return path


def _badge(box: QRectF) -> QRectF:
    """Where the number of an image stands: over the top left corner of its box."""
    return QRectF(box.left() - 14, box.top() - 14, 20, 20)
