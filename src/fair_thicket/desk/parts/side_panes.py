"""What lies at the right of a station: panes of which one is shown, and the choice among them."""

from PySide6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from fair_thicket.desk.parts.controls import Choices


class SidePanes(QWidget):
    """Panes, each with its word; the first is shown.

    Attributes
    ----------
    choices : Choices
    """

    def __init__(self, panes: dict[str, QWidget], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        self.choices = Choices(tuple(panes), self.show_pane, style="smallChoice")
        box.addWidget(self.choices)
        self._stack = QStackedWidget()
        for pane in panes.values():
            self._stack.addWidget(pane)
        box.addWidget(self._stack, 1)
        self.show_pane(0)

    def show_pane(self, index: int) -> None:
        """Show the pane of a number."""
        self.choices.show_choice(index)
        self._stack.setCurrentIndex(index)
