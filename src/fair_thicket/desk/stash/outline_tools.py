"""The row of tools with which an outline is mended: how tight it runs, for one image or the page, and back again."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QSlider, QWidget

from fair_thicket.desk.parts.controls import Choices, button, label
from fair_thicket.desk.session.background import timer_of
from fair_thicket.intake.shaping import LIKELY, LOOSEST, TIGHTEST

STEPS = 100
SOON_MS = 40


class OutlineTools(QWidget):
    """Says what the maker wants of an outline; changes nothing itself.

    Attributes
    ----------
    slider : QSlider
        To the right the outline runs looser.
    whole_page : bool
        Whether the slider speaks of all images of the page.
    likelyAsked : Signal(float)
        What is likelier to be body than this shall be body.
    forgetAsked, nextAsked, doneAsked : Signal()
    """

    likelyAsked = Signal(float)
    forgetAsked = Signal()
    nextAsked = Signal()
    doneAsked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.whole_page = False
        self._soon = timer_of(self, SOON_MS, self._ask_likely)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(label("tighter", "soft"))
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, STEPS)
        self.slider.setFixedWidth(120)
        self.slider.setAccessibleName("How tight the outline runs: to the right it is looser")
        self.slider.valueChanged.connect(lambda _: self._soon.start())
        row.addWidget(self.slider)
        row.addWidget(label("looser", "soft"))
        row.addSpacing(6)
        self.scope = Choices(["this image", "all of the page"], self._take_scope)
        self.scope.show_choice(0)
        row.addWidget(self.scope)
        self.forget_button = button("As found", self.forgetAsked.emit, tip="Forget what was said of this outline")
        self.next_button = button("Next", self.nextAsked.emit, tip="The next image, those in doubt first (N)")
        self.done_button = button("Done", self.doneAsked.emit, "primary", tip="See the whole page again (Esc)")
        for made in (self.forget_button, self.next_button, self.done_button):
            row.addWidget(made)
        row.addStretch(1)

    def _take_scope(self, index: int) -> None:
        self.whole_page = index == 1
        self.scope.show_choice(index)

    def _ask_likely(self) -> None:
        self.likelyAsked.emit(_to_likely(self.slider.value()))

    def show_likely(self, likely: float) -> None:
        """Show how tight an outline runs."""
        if _to_likely(self.slider.value()) != likely:
            self.slider.blockSignals(True)
            self.slider.setValue(_to_step(likely))
            self.slider.blockSignals(False)


def _to_likely(step: int) -> float:
    """Turn a place of the slider into a likelihood: the middle is as it is found."""
    half = STEPS / 2
    reach = (LIKELY - LOOSEST) if step > half else (TIGHTEST - LIKELY)
    return round(LIKELY - (step - half) / half * reach, 4)


def _to_step(likely: float) -> int:
    reach = (LIKELY - LOOSEST) if likely < LIKELY else (TIGHTEST - LIKELY)
    return round(STEPS / 2 + (LIKELY - likely) / reach * STEPS / 2)
