"""Rows of a list of stamps: a small picture, a name to type, a size, and what comes after it."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.controls import label
from fair_thicket.desk.parts.pictures import StampPictures, box_of
from fair_thicket.model.stash import Stamp


class Thumb(QWidget):
    """A small picture of a stamp or of a found image."""

    def __init__(self, stamp: Stamp, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._stamp, self._pictures = stamp, pictures
        self.setFixedSize(60, 54)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = box_of(self._stamp)
        scale = min(self.width() / box.width(), self.height() / box.height(), 2.2)
        picture = self._pictures.sample(self._stamp, scale * self.devicePixelRatioF())
        where = QRectF(0, 0, box.width() * scale, box.height() * scale)
        where.moveCenter(QPointF(self.width() / 2, self.height() / 2))
        painter.drawPixmap(where, picture, QRectF(picture.rect()))


class StampRow(QWidget):
    """One line of a list.

    Attributes
    ----------
    name : QLineEdit
    row : QHBoxLayout
        More may be put at its end.
    is_chosen : bool
    pressed : Signal(bool)
        The row was clicked; whether to add it to what is chosen.
    """

    pressed = Signal(bool)

    def __init__(self, picture: QWidget, name: str, size: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.is_chosen = False
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(8, 4, 8, 4)
        self.row.addWidget(picture)
        box = QVBoxLayout()
        box.setSpacing(2)
        self.name = QLineEdit(name)
        self.name.setMaxLength(80)
        self.name.setCursorPosition(0)
        self.name.setAccessibleName(f"Name of {name}")
        box.addWidget(self.name)
        self.size_words = label(size, "soft")
        box.addWidget(self.size_words)
        self.row.addLayout(box, 1)

    def show_chosen(self, is_chosen: bool) -> None:
        """Show whether the row's image is chosen."""
        self.is_chosen = is_chosen
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.HONEY, 2) if self.is_chosen else QPen(theme.LINE, 1))
        painter.setBrush(theme.HONEY_WASH if self.is_chosen else Qt.GlobalColor.white)
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 8, 8)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.pressed.emit(bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
