"""The colouring list: by marker, or by image and part; every line has a box to tick it off."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from fair_thicket.colour.listing import (
    caution_of,
    key_of,
    list_colouring,
    list_parts,
    part_tick,
    say_line,
    say_spares,
)
from fair_thicket.desk.parts.controls import Choices, Column, label
from fair_thicket.desk.parts.tick_row import TickRow
from fair_thicket.desk.session.session import Session

ORDERS = ("By marker", "By image")
MOST_ROWS = 300
"""More lines would take too long to set up at every edit."""


class ListPane(QWidget):
    """The list.

    Attributes
    ----------
    rows : list of TickRow
    order : Choices
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._is_by_image = False
        self.rows: list[TickRow] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 4, 0, 0)
        self.order = Choices(ORDERS, self._choose, style="smallChoice")
        self.order.show_choice(0)
        box.addWidget(self.order)
        self._column = Column(spacing=4, margin=0)
        box.addWidget(self._column, 1)

    def _choose(self, index: int) -> None:
        self._is_by_image = index == 1
        self.order.show_choice(index)
        self.refresh()

    def refresh(self) -> None:
        """Show what is to be coloured."""
        self._column.clear()
        self.rows = []
        work = self._session.work
        found = list_colouring(work)
        if not found.lines:
            self._say("Nothing is coloured yet.")
            return
        least = "none fewer will do" if found.is_least else "the best found"
        self._say(f"{len(found.lines)} markers out, {least} · about {found.minutes:.0f} min")
        for words in (say_spares(work), caution_of(work)):
            if words:
                self._say(words)
        if self._is_by_image:
            self._show_images()
            return
        for number, one in enumerate(found.lines, 1):
            self._add(TickRow(key_of(one), f"{number}. {say_line(work, one)}", [one.shade], self._session))

    def _show_images(self) -> None:
        work = self._session.work
        for image, parts in list_parts(work):
            if len(self.rows) >= MOST_ROWS:
                self._say("The other images are on the printed list.")
                return
            name = self._session.names.get(image.key, image.key)
            self._column.box.addWidget(label(f"{name[:1].upper()}{name[1:]}", "subheading", wrap=True))
            for part in parts:
                words = f"{part.number}. {part.words}"
                self._add(TickRow(part_tick(image.key, part.number), words, part.shades, self._session))

    def _add(self, row: TickRow) -> None:
        self.rows.append(row)
        self._column.box.addWidget(row)

    def _say(self, words: str) -> None:
        self._column.box.addWidget(label(words, "soft", wrap=True))
