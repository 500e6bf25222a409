"""All keys and what the mouse does, in groups that scroll, with a line to search them by."""

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from fair_thicket.desk.parts.controls import Column, button, label

Rows = Sequence[tuple[str, str]]
MOUSE: Rows = (
    ("Drag from the drawer", "stamp an image"),
    ("Drag on the card", "move it; it catches on middle lines and equal gaps (Ctrl: it does not)"),
    ("Drag the honey knob", "turn it (Ctrl: no catch at upright)"),
    ("Shift and click", "choose several"),
    ("Drag a bar of the thicket up", "bring it forward"),
    ("Drag a dot of the timetable", "stamp it in another press"),
    ("Drop files on the window", "open scans, photos, SVG drawings or a card"),
)
ON_THE_BENCH: Rows = (
    ("Arrow keys", "nudge 1/16 in or 1 mm (Shift: four times as far)"),
    (", and .", "choose the piece before, or the next"),
    ("Escape", "give up a line that is being drawn; choose nothing"),
)
ELSEWHERE: Rows = (
    ("Enter", "drawer: stamp the chosen image in the middle of the card"),
    ("Left and right", "thicket: choose the next bar; timetable: step to the next press; new images: the next one"),
    ("Up and down", "thicket: bring it forward or send it back; timetable: choose a row"),
    ("Escape", "timetable: let go of a dot; new images: choose none"),
    ("Enter or Space", "path: go to the station that is marked"),
    (", . Space and arrows", "stencil: choose a lay, turn it over, slide it; hill: choose a point, move it"),
    ("Delete", "hill: take the point away"),
    ("Left and right", "joints: move the joint; blend: turn the way the inks run"),
)


class Keys(QDialog):
    """Lists keys.

    Attributes
    ----------
    search : QLineEdit
    """

    def __init__(self, actions: Rows, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys and mouse")
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.addWidget(label("Keys and mouse", "heading"))
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search, such as: mask, Alt, turn")
        self.search.setAccessibleName("Search the keys")
        self.search.textChanged.connect(self._show)
        box.addWidget(self.search)
        self._column = Column(spacing=10, margin=0)
        box.addWidget(self._column, 1)
        box.addWidget(button("Close", self.accept), 0, Qt.AlignmentFlag.AlignRight)
        self._groups = (
            ("With the mouse", MOUSE),
            ("On the bench", ON_THE_BENCH),
            ("In other places, where the marked thing has the focus", ELSEWHERE),
            ("Anywhere", tuple(actions)),
        )
        parent_height = parent.height() if parent is not None else 800
        self.resize(620, min(640, parent_height - 60))
        self._show("")

    def _show(self, sought: str) -> None:
        """Show the rows in which what is sought stands."""
        self._column.clear()
        plain = sought.casefold().strip()
        for title, rows in self._groups:
            found = [row for row in rows if plain in f"{row[0]} {row[1]}".casefold()]
            if not found:
                continue
            self._column.box.addWidget(label(title, "subheading"))
            table = QWidget()
            grid = QGridLayout(table)
            grid.setContentsMargins(0, 0, 0, 0)
            grid.setHorizontalSpacing(14)
            grid.setVerticalSpacing(4)
            grid.setColumnStretch(1, 1)
            grid.setColumnMinimumWidth(0, 190)
            for number, (keys, words) in enumerate(found):
                head = QLabel(keys)
                head.setTextFormat(Qt.TextFormat.PlainText)
                head.setStyleSheet("font-weight: 600;")
                grid.addWidget(head, number, 0, Qt.AlignmentFlag.AlignTop)
                grid.addWidget(label(words, wrap=True), number, 1)
            self._column.box.addWidget(table)
        if not self._column.box.count():
            self._column.box.addWidget(label("No key does that.", "soft"))
