"""Stamps as pictures at the size in which they are shown, made once and kept."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from fair_thicket.model.basics import Ring
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.die_picture import CUT_EDGE, CUT_PAPER
from fair_thicket.shape.outline import open_pockets

MOST_KEPT = 600
CUT_MM, CUT_PX = 0.4, 1.3
"""A cut edge as drawn: about a stamp's line at life size, and never thinner than a screen shows plainly."""


def ring_path(ring: Ring) -> QPainterPath:
    """Turn a ring (mm) into a closed path."""
    path = QPainterPath()
    path.addPolygon(QPolygonF([QPointF(x, y) for x, y in ring]))
    path.closeSubpath()
    return path


class StampPictures:
    """Keeps the scaled pictures of stamps.

    Attributes
    ----------
    pictures : dict
        PNG bytes by name; the session's own, which only grows.
    """

    def __init__(self, pictures: dict[str, bytes]) -> None:
        self.pictures = pictures
        self._kept: dict[tuple[str, int, str, int], QPixmap] = {}
        self._images: dict[str, QImage] = {}

    def get(self, stamp: Stamp, px_per_mm: float, *, ground: QColor | None = None) -> QPixmap:
        """Picture of a stamp with a little room round it; `ground` fills its outline.

        Returns
        -------
        QPixmap
            `box_of(stamp)` in mm, scaled by px_per_mm.
        """
        tint = ground.name(QColor.NameFormat.HexArgb) if ground is not None else ""
        key = (stamp.picture, round(px_per_mm * 1000), tint, hash((stamp.outline, open_pockets(stamp))))
        return self._keep(key, lambda: self._draw(stamp, px_per_mm, ground))

    def _keep(self, key: tuple[str, int, str, int], draw: Callable[[], QPixmap]) -> QPixmap:
        if key not in self._kept:
            if len(self._kept) > MOST_KEPT:
                self._kept.clear()
            self._kept[key] = draw()
        return self._kept[key]

    def sample(self, stamp: Stamp, px_per_mm: float) -> QPixmap:
        """Picture of a stamp, or of what a die cuts: paper with an edge as heavy as a stamp's line; see `get`."""
        if not stamp.kind.is_plain:
            return self.get(stamp, px_per_mm)
        key = (stamp.picture, round(px_per_mm * 1000), "cut", hash((stamp.outline, stamp.pockets)))
        return self._keep(key, lambda: _draw_cut(stamp, px_per_mm))

    def _draw(self, stamp: Stamp, px_per_mm: float, ground: QColor | None) -> QPixmap:
        box = box_of(stamp)
        picture = QPixmap(QSize(max(1, round(box.width() * px_per_mm)), max(1, round(box.height() * px_per_mm))))
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.scale(picture.width() / box.width(), picture.height() / box.height())
        painter.translate(-box.left(), -box.top())
        if ground is not None:
            painter.fillPath(stamp_path(stamp), ground)
        image = self._image(stamp.picture)
        if not image.isNull():
            target = QRectF(-stamp.width_mm / 2, -stamp.height_mm / 2, stamp.width_mm, stamp.height_mm)
            wide = max(1, round(stamp.width_mm * px_per_mm))
            if (
                wide < image.width() / 2
            ):  # one smooth reduction keeps thin lines whole; the painter alone would drop them
                image = image.scaled(
                    wide * 2,
                    max(1, round(wide * 2 * stamp.height_mm / stamp.width_mm)),
                    Qt.AspectRatioMode.IgnoreAspectRatio,
                    Qt.TransformationMode.SmoothTransformation,
                )
            painter.drawImage(target, image)
        painter.end()
        return picture

    def _image(self, name: str) -> QImage:
        if name not in self._images:
            if name not in self.pictures:
                return QImage()
            self._images[name] = QImage.fromData(self.pictures[name])
        return self._images[name]


def _draw_cut(stamp: Stamp, px_per_mm: float) -> QPixmap:
    """Draw the paper that a die cuts, its openings left open; its blades would stand hair-thin beside stamped lines."""
    box = box_of(stamp)
    picture = QPixmap(QSize(max(1, round(box.width() * px_per_mm)), max(1, round(box.height() * px_per_mm))))
    picture.fill(Qt.GlobalColor.transparent)
    path = stamp_path(stamp)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(picture.width() / box.width(), picture.height() / box.height())
    painter.translate(-box.left(), -box.top())
    pen = QPen(QColor(*CUT_EDGE), max(CUT_MM, CUT_PX / px_per_mm))
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    painter.setPen(pen)
    painter.setBrush(QColor(*CUT_PAPER))
    painter.drawPath(path)
    painter.end()
    return picture


def stamp_path(stamp: Stamp) -> QPainterPath:
    """Outline of an image with what is open of it left out, mm from its middle."""
    path = ring_path(stamp.outline)
    for pocket in open_pockets(stamp):
        path.addPath(ring_path(pocket))  # odd-even: an opening is no paper
    return path


def box_of(stamp: Stamp) -> QRectF:
    """Box round a stamp's image with half a millimetre to spare, mm from its middle."""
    xs = [x for x, _ in stamp.outline]
    ys = [y for _, y in stamp.outline]
    left, right = min(-stamp.width_mm / 2, *xs) - 0.5, max(stamp.width_mm / 2, *xs) + 0.5
    top, bottom = min(-stamp.height_mm / 2, *ys) - 0.5, max(stamp.height_mm / 2, *ys) + 0.5
    return QRectF(left, top, right - left, bottom - top)
