"""A picture of a card, shown as large as there is room for."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from fair_thicket.desk import theme
from fair_thicket.ink.painting import Picture


class PictureView(QWidget):
    """Shows a picture as large as there is room for."""

    def __init__(self, name: str, least: tuple[int, int] = (300, 230)) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setMinimumSize(*least)
        self._image: QImage | None = None

    def sizeHint(self) -> QSize:
        return QSize(440, 330)

    def show_picture(self, picture: Picture | None) -> None:
        """Show a (rows, columns, 3) uint8 picture; None shows that it is being painted."""
        self._image = None
        if picture is not None:
            rows, columns, _ = picture.shape
            self._image = QImage(picture.tobytes(), columns, rows, columns * 3, QImage.Format.Format_RGB888).copy()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.MIST)
        if self._image is None:
            painter.setPen(theme.SOFT_INK)
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "painting …")
            return
        width, height = self._image.width(), self._image.height()
        scale = min((self.width() - 24) / width, (self.height() - 24) / height)
        box = QRectF(
            (self.width() - width * scale) / 2, (self.height() - height * scale) / 2, width * scale, height * scale
        )
        painter.fillRect(box.translated(4, 4), QColor("#bccac1"))
        painter.drawImage(box, self._image)
        painter.setPen(QPen(theme.SOFT_INK, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
