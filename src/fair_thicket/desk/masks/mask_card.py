"""Masks to cut, one card each: the stamp with its careful stretch, what the mask is for and how far it may slip."""

import shapely
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.controls import label
from fair_thicket.desk.parts.pictures import StampPictures, box_of, ring_path
from fair_thicket.laid.masking_paper import CutMask
from fair_thicket.shape.outline import to_rings


class MaskPicture(QWidget):
    """A stamp with its mask over it: hold-down paper pale, the careful stretch of the cut heavy."""

    def __init__(self, cut: CutMask, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._stamp, self._pictures = cut.stamp, pictures
        self._careful = [
            [QPointF(x, y) for x, y in shapely.get_coordinates(line).tolist()] for line in _lines_of(cut.careful)
        ]
        self._paper = [ring_path(ring) for ring in to_rings(cut.paper)]
        self._edge = [ring_path(ring) for ring in to_rings(cut.edge)]
        left, top, right, bottom = cut.paper.bounds if not cut.paper.is_empty else (-5.0, -5.0, 5.0, 5.0)
        self._box = QRectF(left, top, right - left, bottom - top)
        self.setFixedSize(84, 74)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        scale = min((self.width() - 6) / self._box.width(), (self.height() - 6) / self._box.height(), 3.0)
        painter.translate(self.width() / 2, self.height() / 2)
        painter.scale(scale, scale)
        painter.translate(-self._box.center())
        painter.setPen(_pen(theme.HONEY, 1.0))
        painter.setBrush(theme.HONEY_WASH)
        for path in self._paper:
            painter.drawPath(path)
        if self._stamp is not None:
            box = box_of(self._stamp)
            picture = self._pictures.get(self._stamp, scale * self.devicePixelRatioF(), ground=theme.HONEY_WASH)
            painter.drawPixmap(box, picture, QRectF(picture.rect()))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(_pen(theme.SOFT_INK, 0.8))
        for path in self._edge:
            painter.drawPath(path)
        painter.setPen(_pen(theme.BERRY, 2.6))
        for points in self._careful:
            painter.drawPolyline(points)


def _lines_of(shape: shapely.Geometry) -> list[shapely.Geometry]:
    return [part for part in shapely.get_parts(shape) if isinstance(part, shapely.LineString) and not part.is_empty]


def _pen(colour: QColor, width: float) -> QPen:
    pen = QPen(colour, width)
    pen.setCosmetic(True)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    return pen


class MaskCard(QWidget):
    """One mask to cut, with what it is for and how much of it needs care."""

    def __init__(self, words: tuple[str, str, str], picture: MaskPicture, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._words = words
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 4, 10, 4)
        row.addWidget(picture)
        box = QVBoxLayout()
        box.setSpacing(1)
        name = label(words[0], wrap=True)
        name.setStyleSheet("font-weight: 700;")
        self._slip = label("", "soft", wrap=True)
        careful = label(words[2], wrap=True)
        careful.setStyleSheet(f"color: {theme.BERRY.name()}; font-size: 12px;")
        box.addStretch(1)
        for part in (name, label(words[1], "soft", wrap=True), careful, self._slip):
            box.addWidget(part)
        box.addStretch(1)
        row.addLayout(box, 1)
        self.setAccessibleName(". ".join(words))

    def show_slip(self, words: str) -> None:
        """Say how far the mask may slip before it shows."""
        self._slip.setText(words)
        self.setAccessibleName(". ".join([*self._words, words]))
