"""A choice of ink by its colour: the maker's own inks first, then the card's, then plain ones."""

from collections.abc import Sequence

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QComboBox, QWidget

from fair_thicket.desk import theme
from fair_thicket.ink.naming import say_colour
from fair_thicket.model.palette import BRIDGES, PALETTE
from fair_thicket.model.supplies import Ink

SIDE_PX = 18


def swatch(colour: str) -> QIcon:
    """Draw a little field of a colour with a thin edge, so that white is seen as well."""
    picture = QPixmap(SIDE_PX, SIDE_PX)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(theme.LINE, 1))
    painter.setBrush(QColor(colour))
    painter.drawRoundedRect(1, 1, SIDE_PX - 2, SIDE_PX - 2, 4, 4)
    painter.end()
    return QIcon(picture)


class InkChoice(QComboBox):
    """Chooses an ink, or none.

    Attributes
    ----------
    colour : str
        Of the ink chosen; empty for none.
    """

    def __init__(self, name: str, own: Sequence[Ink], more: Sequence[str] = (), parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setIconSize(QSize(SIDE_PX, SIDE_PX))
        self.addItem("none", "")
        named = {one.colour: f"{one.name} (yours)" for one in own}
        for code in dict.fromkeys([*named, *more, *(code for _, code in (*PALETTE, *BRIDGES))]):
            self.addItem(swatch(code), named.get(code) or say_colour(code), code)

    @property
    def colour(self) -> str:
        """Of the ink chosen."""
        return str(self.currentData())

    def show_colour(self, colour: str) -> None:
        """Show an ink without asking for anything; one that is not listed is listed first."""
        is_blocked = self.blockSignals(True)
        at = self.findData(colour)
        if at < 0:
            self.insertItem(1, swatch(colour), say_colour(colour), colour)
            at = 1
        self.setCurrentIndex(at)
        self.blockSignals(is_blocked)
