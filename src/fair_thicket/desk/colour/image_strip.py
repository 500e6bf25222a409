"""The images on the card in a row, small and in their colours; one is chosen to be coloured."""

from collections.abc import Sequence

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from fair_thicket.desk.colour.image_picture import picture_of
from fair_thicket.desk.session.session import Session
from fair_thicket.edits.images import Image
from fair_thicket.model.colouring import ColouredPart

THUMB_PX = 72
MOST_THUMBS = 300


class ImageStrip(QListWidget):
    """A row of images.

    Attributes
    ----------
    chosen : Signal(str)
        Key of the image that is chosen.
    """

    chosen = Signal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._thumbs: dict[tuple[str, tuple[ColouredPart, ...]], QIcon] = {}
        self.setObjectName("imageStrip")
        self.setAccessibleName("Images on the card")
        self.setFlow(QListWidget.Flow.LeftToRight)
        self.setIconSize(QSize(THUMB_PX, THUMB_PX))
        self.setFixedHeight(THUMB_PX + 30)
        self.setSpacing(3)
        self.currentRowChanged.connect(self._choose)

    def show_images(self, there: Sequence[Image], chosen: str | None) -> None:
        """Show images, each in its colours, without choosing one."""
        keys = [image.key for image in there]
        is_blocked = self.blockSignals(True)
        if keys != [self.key_at(row) for row in range(self.count())]:
            self.clear()
            for image in there:
                name = self._session.names.get(image.key, image.key)
                item = QListWidgetItem("")
                item.setData(Qt.ItemDataRole.UserRole, image.key)
                item.setData(Qt.ItemDataRole.AccessibleTextRole, name)
                item.setToolTip(name)
                item.setSizeHint(QSize(THUMB_PX + 8, THUMB_PX + 10))
                self.addItem(item)
        for row, image in enumerate(there):
            self.item(row).setIcon(self._thumb(image))
        self.blockSignals(is_blocked)
        self.show_chosen(chosen)

    def show_chosen(self, key: str | None) -> None:
        """Show which image is chosen, without choosing it."""
        is_blocked = self.blockSignals(True)
        for row in range(self.count()):
            if self.key_at(row) == key:
                self.setCurrentRow(row)
        self.blockSignals(is_blocked)

    def key_at(self, row: int) -> str:
        """Return the key of the image in a place of the row."""
        return str(self.item(row).data(Qt.ItemDataRole.UserRole))

    def _choose(self, row: int) -> None:
        if row >= 0:
            self.chosen.emit(self.key_at(row))

    def _thumb(self, image: Image) -> QIcon:
        """Picture an image small, in its colours; kept while they are the same."""
        key = (image.stamp, image.colouring)
        if key not in self._thumbs:
            if len(self._thumbs) > MOST_THUMBS:
                self._thumbs.clear()
            picture = picture_of(self._session.work, self._session.pictures, image)
            small = picture.scaled(
                THUMB_PX, THUMB_PX, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
            )
            icon = QIcon()
            for mode in (QIcon.Mode.Normal, QIcon.Mode.Selected):  # a chosen image is not tinted
                icon.addPixmap(QPixmap.fromImage(small), mode)
            self._thumbs[key] = icon
        return self._thumbs[key]
