"""The panel as rehearsed: simulated paper, the masks that lie on it, and marks where it differs from the scene."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QSizePolicy, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.pictures import ring_path
from fair_thicket.ink.inking import Paper
from fair_thicket.model.basics import Ring


class PanelView(QWidget):
    """Shows a picture of the panel with layers over it; computes nothing."""

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(200, 150)
        self._size_mm = (100.0, 100.0)
        self._image: QImage | None = None
        self._scaled: QImage | None = None
        self._masks: Sequence[QPainterPath] = ()
        self._marks: Sequence[tuple[QPainterPath, QColor]] = ()
        self._outlines: Sequence[QPainterPath] = ()
        self._lit: Sequence[QPainterPath] = ()
        self._empty = ""

    def show_paper(self, paper: Paper | None, size_mm: tuple[float, float], *, empty: str = "") -> None:
        """Show a (rows, columns, 3) uint8 picture of a panel; None shows the words of `empty` instead."""
        self._size_mm, self._empty = size_mm, empty
        if paper is None:
            self._image = None
        else:
            steady = np.ascontiguousarray(paper)
            self._image = QImage(
                steady.data, steady.shape[1], steady.shape[0], 3 * steady.shape[1], QImage.Format.Format_RGB888
            ).copy()
        self._scaled = None
        self.update()

    def show_layers(
        self,
        *,
        masks: Sequence[Ring] = (),
        outlines: Sequence[Ring] = (),
        marks: Sequence[tuple[Ring, QColor]] = (),
        lit: Sequence[Ring] = (),
    ) -> None:
        """Show masks (honey), outlines of what is stamped now (fern), marks, and what is new lit up, rings in mm."""
        self._lit = [ring_path(ring) for ring in lit]
        self._masks = [ring_path(ring) for ring in masks]
        self._outlines = [ring_path(ring) for ring in outlines]
        self._marks = [(ring_path(ring), colour) for ring, colour in marks]
        self.update()

    def _panel_box(self) -> QRectF:
        width, height = self._size_mm
        scale = min((self.width() - 40) / width, (self.height() - 30) / height)
        return QRectF(
            (self.width() - width * scale) / 2, (self.height() - height * scale) / 2, width * scale, height * scale
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        box = self._panel_box()
        painter.fillRect(box.translated(5, 5), QColor("#bccac1"))
        painter.fillRect(box, QColor("white"))
        if self._image is None:
            painter.setPen(theme.SOFT_INK)
            painter.setFont(theme.font(15))
            painter.drawText(
                box.adjusted(20, 0, -20, 0), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._empty
            )
            return
        ratio = self.devicePixelRatioF()
        if self._scaled is None or abs(self._scaled.width() - box.width() * ratio) > 1:
            self._scaled = self._image.scaled(
                round(box.width() * ratio),
                round(box.height() * ratio),
                Qt.AspectRatioMode.IgnoreAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
        painter.drawImage(box, self._scaled)
        scale = box.width() / self._size_mm[0]
        to_view = QTransform().translate(box.left(), box.top()).scale(scale, scale)
        painter.setClipRect(box)
        wash = QColor(theme.HONEY)
        wash.setAlpha(120)
        for path in self._masks:
            painter.setPen(QPen(theme.HONEY_TEXT, 1.4))
            painter.setBrush(wash)
            painter.drawPath(to_view.map(path))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.FERN, 2.4))
        for path in self._outlines:
            painter.drawPath(to_view.map(path))
        for width, colour in ((7.0, theme.PAPER), (3.5, theme.HONEY)):
            painter.setPen(QPen(colour, width))
            for path in self._lit:
                painter.drawPath(to_view.map(path))
        painter.setClipping(False)
        for path, colour in self._marks:
            self._draw_mark(painter, to_view.mapRect(path.boundingRect()), colour)
        painter.setPen(QPen(theme.SOFT_INK, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)

    def _draw_mark(self, painter: QPainter, box: QRectF, colour: QColor) -> None:
        painter.setPen(QPen(colour, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        radius = max(9.0, max(box.width(), box.height()) / 2 + 4)
        painter.drawEllipse(QPointF(box.center()), radius, radius)
