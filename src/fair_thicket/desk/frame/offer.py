"""An offer at the head of the window that stands in nobody's way: words, what can be done, and later."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget


class Offer(QWidget):
    """A bar that is hidden until there is something to offer; answered or not, work goes on beneath it.

    Attributes
    ----------
    take, later : QPushButton
    """

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("offer")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._words = QLabel()
        self._words.setTextFormat(Qt.TextFormat.PlainText)
        self._words.setWordWrap(True)
        self.take, self.later = QPushButton(), QPushButton("Later")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 16, 6)
        row.addWidget(self._words, 1)
        row.addWidget(self.take)
        row.addWidget(self.later)
        self._taken: Callable[[], object] = lambda: None
        self._put_off: Callable[[], object] = lambda: None
        self.take.clicked.connect(lambda: self._answer(self._taken))
        self.later.clicked.connect(lambda: self._answer(self._put_off))
        self.hide()

    def make(
        self, words: str, take: str, taken: Callable[[], object], put_off: Callable[[], object] = lambda: None
    ) -> None:
        """Offer something.

        Parameters
        ----------
        take : str
            What the button says.
        taken, put_off : callable
            What happens then; the bar is gone before.
        """
        self._words.setText(words)
        self.take.setText(take)
        self._taken, self._put_off = taken, put_off
        self.setAccessibleName(words)
        self.show()

    def _answer(self, answer: Callable[[], object]) -> None:
        self.hide()
        answer()
