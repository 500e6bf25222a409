"""One sentence for the maker at the foot of the window."""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QLabel, QWidget

MESSAGE_MS = 6000


class Message(QLabel):
    """One sentence at the foot of the window that goes by itself."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("message")
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.hide()
        self._clock = QTimer(self)
        self._clock.setSingleShot(True)
        self._clock.timeout.connect(self.hide)

    def say(self, words: str) -> None:
        """Show a sentence for a while."""
        self.setText(words)
        self.place()
        self.show()
        self.raise_()
        self._clock.start(max(MESSAGE_MS, 60 * len(words)))

    def place(self) -> None:
        """Stand at the foot of the window, in the middle."""
        parent = self.parentWidget()
        if parent is None:
            return
        self.setMaximumWidth(min(620, parent.width() - 80))
        self.setMinimumWidth(min(self.maximumWidth(), self.fontMetrics().horizontalAdvance(self.text()) + 40))
        self.adjustSize()
        self.move((parent.width() - self.width()) // 2, parent.height() - self.height() - 18)
