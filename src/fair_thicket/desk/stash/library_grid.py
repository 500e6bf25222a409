"""Images of the library as a grid of small cards; thumbs are decoded when they are first shown."""

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from fair_thicket.desk import theme
from fair_thicket.library import Entry

TILE = QSize(112, 122)
Index = QModelIndex | QPersistentModelIndex


class Entries(QAbstractListModel):
    """Images found in the library; thumbs are decoded when they are first shown."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.entries: list[Entry] = []
        self._thumbs: dict[int, QPixmap] = {}

    def show(self, entries: list[Entry]) -> None:
        """Take other entries."""
        self.beginResetModel()
        self.entries = entries
        if len(self._thumbs) > 4000:
            self._thumbs.clear()
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.entries)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        entry = self.entries[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return entry.name
        if role == Qt.ItemDataRole.DecorationRole:
            if entry.id not in self._thumbs:
                picture = QPixmap()
                picture.loadFromData(entry.thumb)
                self._thumbs[entry.id] = picture
            return self._thumbs[entry.id]
        if role == Qt.ItemDataRole.ToolTipRole:
            return f"{entry.name} · {entry.set_name or 'no set'} · {entry.kind.value}"
        return None

    def forget(self, number: int) -> None:
        """Forget a thumb whose image was changed."""
        self._thumbs.pop(number, None)


class Tile(QStyledItemDelegate):
    """Draws an image of the library as a small card with its name."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        del option, index
        return TILE

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        painter.save()
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(QRect(option.rect)).adjusted(4, 4, -4, -4)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.setPen(QPen(theme.HONEY, 2) if chosen else QPen(theme.LINE, 1))
        painter.setBrush(theme.HONEY_WASH if chosen else QColor("white"))
        painter.drawRoundedRect(box, 8, 8)
        picture = index.data(Qt.ItemDataRole.DecorationRole)
        room = box.adjusted(8, 6, -8, -24)
        size = picture.size().scaled(room.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
        place = QRectF(0, 0, size.width(), size.height())
        place.moveCenter(room.center())
        painter.drawPixmap(place, picture, QRectF(picture.rect()))
        painter.setFont(theme.font(12))
        painter.setPen(theme.INK)
        words = painter.fontMetrics().elidedText(index.data(), Qt.TextElideMode.ElideRight, int(box.width()) - 10)
        foot = QRectF(box.left() + 4, box.bottom() - 21, box.width() - 8, 18)
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, words)
        painter.restore()
