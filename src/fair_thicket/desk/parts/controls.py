"""Small parts that stations share: headings, buttons, choices, panes that scroll."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QDialogButtonBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)


def label(words: str, name: str = "", *, wrap: bool = False) -> QLabel:
    """Make a label with a style name of the theme."""
    made = _Wrapped(words) if wrap else QLabel(words)
    made.setObjectName(name)
    made.setTextFormat(Qt.TextFormat.PlainText)
    return made


class _Wrapped(QLabel):
    """Words over several lines, never lower than they need: a scrolling column asks for less than that."""

    def __init__(self, words: str) -> None:
        super().__init__(words)
        self.setWordWrap(True)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)

    def setText(self, words: str) -> None:
        super().setText(words)
        self._grow()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._grow()

    def _grow(self) -> None:
        self.setMinimumHeight(self.heightForWidth(self.width()) if self.text() else 0)


class Hint(QLabel):
    """Soft words that give way: what does not fit ends in an ellipsis, and the tooltip holds it whole."""

    def __init__(self, words: str = "", parent: QWidget | None = None) -> None:
        super().__init__(words, parent)
        self.setObjectName("soft")
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def minimumSizeHint(self) -> QSize:
        return QSize(40, super().minimumSizeHint().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        words = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        self.setToolTip(self.text() if words != self.text() else "")
        painter = QPainter(self)
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, words)


def ground(name: str, *, width: int = 0) -> QWidget:
    """Make a pane on a ground of the theme, such as ``mistPane``; of a fixed width if one is said."""
    made = QWidget()
    made.setObjectName(name)
    made.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    if width:
        made.setFixedWidth(width)
    return made


def head_row(heading: str, *more: QWidget) -> QHBoxLayout:
    """Make the row at the head of a pane: its heading, soft words beside it; what comes later stands at the right."""
    row = QHBoxLayout()
    row.setSpacing(10)
    row.addWidget(label(heading, "heading"))
    for widget in more:
        row.addWidget(widget, 1)
    if not more:
        row.addStretch(1)
    return row


def button(words: str, call: Callable[[], object], name: str = "", *, tip: str = "") -> QPushButton:
    """Make a button; `name` is its style in the theme."""
    made = QPushButton(words)
    made.setObjectName(name)
    made.setCursor(Qt.CursorShape.PointingHandCursor)
    made.setToolTip(tip)
    made.clicked.connect(lambda: call())
    return made


def taking_row(dialog: QDialog, *left: QWidget) -> tuple[QHBoxLayout, QPushButton]:
    """Make the foot of a dialog: what is given at the left, “Take this” and “Not now” at the right; and the former."""
    row = QHBoxLayout()
    for widget in left:
        row.addWidget(widget)
    row.addStretch(1)
    buttons = QDialogButtonBox()
    taken = buttons.addButton("Take this", QDialogButtonBox.ButtonRole.AcceptRole)
    taken.setObjectName("primary")
    buttons.addButton("Not now", QDialogButtonBox.ButtonRole.RejectRole)
    buttons.accepted.connect(dialog.accept)
    buttons.rejected.connect(dialog.reject)
    row.addWidget(buttons)
    return row, taken


class Choices(QWidget):
    """A row of buttons of which one is chosen.

    Attributes
    ----------
    buttons : list of QPushButton
    """

    def __init__(
        self,
        words: Sequence[str],
        chosen: Callable[[int], object],
        parent: QWidget | None = None,
        *,
        style: str = "choice",
    ) -> None:
        super().__init__(parent)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6 if style == "choice" else 4)
        self._group = QButtonGroup(self)
        self.buttons: list[QPushButton] = []
        for index, word in enumerate(words):
            made = QPushButton(word)
            made.setObjectName(style)
            made.setCheckable(True)
            made.setCursor(Qt.CursorShape.PointingHandCursor)
            self._group.addButton(made, index)
            self.buttons.append(made)
            row.addWidget(made)
        self._group.idClicked.connect(lambda index: chosen(index))

    def show_choice(self, index: int) -> None:
        """Show which is chosen; below 0 none is."""
        self._group.setExclusive(index >= 0)
        for number, made in enumerate(self.buttons):
            made.setChecked(number == index)
        self._group.setExclusive(True)


class Stepper(QWidget):
    """A value between a minus and a plus.

    Attributes
    ----------
    value : float
        As shown.
    less, more : QPushButton
    """

    def __init__(
        self,
        name: str,
        bounds: tuple[float, float],
        step: float,
        say: Callable[[float], str],
        changed: Callable[[float], object],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.value = bounds[0]
        self._bounds, self._say, self._changed = bounds, say, changed
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.less = button("–", lambda: self._ask(-step), "step", tip=f"{name}: less")
        self.more = button("+", lambda: self._ask(step), "step", tip=f"{name}: more")
        self._words = label("")
        self._words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        for made, word in ((self.less, "less"), (self.more, "more")):
            made.setAccessibleName(f"{name}: {word}")
        for part in (self.less, self._words, self.more):
            row.addWidget(part)
        self.show_value(self.value)

    def show_value(self, value: float) -> None:
        """Show a value without asking for anything."""
        self.value = value
        self._words.setText(self._say(value))
        self.less.setEnabled(value > self._bounds[0] + 1e-9)
        self.more.setEnabled(value < self._bounds[1] - 1e-9)

    def _ask(self, by: float) -> None:
        value = round(min(max(self.value + by, self._bounds[0]), self._bounds[1]), 6)
        self.show_value(value)
        self._changed(value)


class Column(QScrollArea):
    """A column of widgets that scrolls.

    Attributes
    ----------
    box : QVBoxLayout
        Where they go.
    """

    def __init__(self, *, spacing: int = 8, margin: int = 12, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        self.box = QVBoxLayout(body)
        self.box.setContentsMargins(margin, margin, margin, margin)
        self.box.setSpacing(spacing)
        self.box.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.setWidget(body)

    def clear(self) -> None:
        """Take every widget out."""
        while (entry := self.box.takeAt(0)) is not None:
            widget = entry.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()


class Stripe(QWidget):
    """A narrow upright band of colour beside words that say the same."""

    def __init__(self, colour: QColor, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._colour = colour
        self.setFixedWidth(6)

    def sizeHint(self) -> QSize:
        return QSize(6, 20)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._colour)
        painter.drawRoundedRect(self.rect(), 3, 3)


def card_frame() -> tuple[QFrame, QVBoxLayout]:
    """Make a white card with rounded corners, and its layout."""
    frame = QFrame()
    frame.setObjectName("card")
    box = QVBoxLayout(frame)
    box.setContentsMargins(12, 9, 12, 9)
    box.setSpacing(4)
    return frame, box
