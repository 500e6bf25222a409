"""Measures the screen once, against a bank card or a ruler, so that a card can be shown at life size."""

from PySide6.QtCore import QRectF, QSettings, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QHBoxLayout, QSlider, QVBoxLayout, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.controls import button, label

BANK_CARD_MM = (85.60, 53.98)
"""Identification card of format ID-1 (ISO/IEC 7810)."""
LEAST_PX_PER_MM, MOST_PX_PER_MM = 2.0, 14.0
KEY = "screen/px_per_mm"


def screen_scale(widget: QWidget) -> float:
    """Pixels per mm of the screen: as measured, else as the screen says of itself."""
    kept = QSettings().value(KEY)
    if kept is not None:
        value = float(str(kept))
        if LEAST_PX_PER_MM <= value <= MOST_PX_PER_MM:
            return value
    return max(LEAST_PX_PER_MM, min(MOST_PX_PER_MM, widget.screen().physicalDotsPerInch() / 25.4))


def keep_scale(px_per_mm: float) -> None:
    """Keep the measured scale for this and later sessions."""
    QSettings().setValue(KEY, px_per_mm)


class _Outline(QWidget):
    """The outline of a bank card, and a ruler along its foot."""

    def __init__(self, px_per_mm: float) -> None:
        super().__init__()
        self.px_per_mm = px_per_mm
        self.setMinimumSize(460, 330)
        self.setAccessibleName("Outline of a bank card with a ruler")

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.MIST)
        width, height = (side * self.px_per_mm for side in BANK_CARD_MM)
        box = QRectF((self.width() - width) / 2, max(6.0, (self.height() - 40 - height) / 2), width, height)
        painter.setPen(QPen(theme.PINE, 2))
        painter.setBrush(theme.PAPER)
        painter.drawRoundedRect(box, 3.18 * self.px_per_mm, 3.18 * self.px_per_mm)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "lay a bank card here")
        foot = box.bottom() + 8
        painter.setPen(QPen(theme.SOFT_INK, 1))
        for mm in range(86):
            x = box.left() + mm * self.px_per_mm
            painter.drawLine(int(x), int(foot), int(x), int(foot + (12 if mm % 10 == 0 else 8 if mm % 5 == 0 else 5)))
            if mm % 20 == 0:
                painter.drawText(QRectF(x - 20, foot + 12, 40, 16), Qt.AlignmentFlag.AlignCenter, str(mm))


class MeasureScreen(QDialog):
    """Lets the maker pull an outline to the size of a real bank card.

    Attributes
    ----------
    slider : QSlider
        Hundredths of a pixel per mm.
    """

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Measure this screen")
        self.resize(560, 520)
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 18, 14)
        box.setSpacing(10)
        box.addWidget(label("Measure this screen", "heading"))
        words = (
            "Lay a bank card flat on the screen, or a ruler, and pull until the outline is as large. Once is enough."
        )
        box.addWidget(label(words, "soft", wrap=True))
        start = screen_scale(parent)
        self._outline = _Outline(start)
        box.addWidget(self._outline, 1)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Size of the outline")
        self.slider.setRange(round(LEAST_PX_PER_MM * 100), round(MOST_PX_PER_MM * 100))
        self.slider.setValue(round(start * 100))
        self.slider.valueChanged.connect(self._pull)
        box.addWidget(self.slider)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(button("Not now", self.reject))
        row.addWidget(button("It fits", self.accept, "primary"))
        box.addLayout(row)

    def _pull(self, value: int) -> None:
        self._outline.px_per_mm = value / 100
        self._outline.update()

    @property
    def px_per_mm(self) -> float:
        """Scale as pulled."""
        return self.slider.value() / 100
