"""What is seen for the moment in which the desk is set up: the card's own preview where the bench will be."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QWidget

from fair_thicket.desk import theme

CARD_SHARE = 0.62


class Threshold(QWidget):
    """Shows a preview and says that the desk is being set up."""

    def __init__(self, preview: bytes | None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("The desk is being set up")
        self._picture = QPixmap()
        if preview:
            self._picture.loadFromData(preview)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.MIST)
        box = QRectF(0, 0, self.width() * CARD_SHARE, self.height() * CARD_SHARE)
        if not self._picture.isNull():
            size = self._picture.size().scaled(box.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
            box = QRectF(0, 0, size.width(), size.height())
            box.moveCenter(QRectF(self.rect()).center())
            painter.fillRect(box.translated(5, 5), QColor("#bccac1"))
            painter.drawPixmap(box, self._picture, QRectF(self._picture.rect()))
        painter.setPen(theme.SOFT_INK)
        painter.setFont(theme.font(14))
        foot = QRectF(self.rect()).adjusted(0, self.height() - 70, 0, -20)
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, "Setting up the desk …")
