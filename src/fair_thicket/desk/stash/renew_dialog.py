"""Outlines that run along their lines, beside what they would be: the maker chooses which are renewed."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QCheckBox, QDialog, QHBoxLayout, QVBoxLayout, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.controls import Column, button, card_frame, label, taking_row
from fair_thicket.desk.parts.pictures import StampPictures, box_of, ring_path
from fair_thicket.intake.renewing import Renewal
from fair_thicket.model.stash import Stamp

WIDE, HIGH = 176, 128
MOST_PX_PER_MM = 4.5
HELD = QColor(124, 194, 127, 90)


class OutlineThumb(QWidget):
    """A small picture of a stamp, with what its outline holds tinted and its pockets left open."""

    def __init__(self, stamp: Stamp, pictures: StampPictures, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._stamp, self._pictures = stamp, pictures
        self.setFixedSize(WIDE, HIGH)
        self.setAccessibleName(name)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        box = box_of(self._stamp)
        scale = min((WIDE - 4) / box.width(), (HIGH - 4) / box.height(), MOST_PX_PER_MM)
        picture = self._pictures.sample(self._stamp, scale * self.devicePixelRatioF())
        where = QRectF(0, 0, box.width() * scale, box.height() * scale)
        where.moveCenter(QPointF(WIDE / 2, HIGH / 2))
        painter.save()
        painter.translate(where.topLeft())
        painter.scale(scale, scale)
        painter.translate(-box.topLeft())
        path = QPainterPath()
        for ring in (self._stamp.outline, *self._stamp.pockets):
            path.addPath(ring_path(ring))
        painter.setPen(QPen(theme.FERN, 1.6 / scale))
        painter.setBrush(HELD)
        painter.drawPath(path)
        painter.restore()
        painter.drawPixmap(where, picture, QRectF(picture.rect()))


class RenewDialog(QDialog):
    """Outlines as they are and as they would be, side by side.

    Attributes
    ----------
    ticks : list of QCheckBox
        One an image, in the order of the renewals.
    """

    def __init__(
        self, renewals: Sequence[Renewal], pictures: StampPictures, after_words: str, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Renew outlines")
        self.resize(680, 640)
        self._renewals = renewals
        self.ticks: list[QCheckBox] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 18, 14)
        box.addWidget(label("Outlines that run along their lines", "heading"))
        box.addWidget(
            label(
                "Scissors go round a whole body, also where its lines leave gaps. At the left is what would be cut "
                f"out now, at the right what is found today. {after_words}",
                "soft",
                wrap=True,
            )
        )
        column = Column(spacing=8, margin=0)
        for renewal in renewals:
            column.box.addWidget(self._row(renewal, pictures))
        box.addWidget(column, 1)
        every = button("All", lambda: self._tick_all(True), "link")
        none = button("None", lambda: self._tick_all(False), "link")
        row, self._taken = taking_row(self, every, none)
        box.addLayout(row)
        self._show_taken()

    def _row(self, renewal: Renewal, pictures: StampPictures) -> QWidget:
        frame, box = card_frame()
        name = renewal.before.name
        tick = QCheckBox(name)
        tick.setChecked(True)
        tick.setAccessibleName(f"Renew the outline of {name}")
        tick.toggled.connect(self._show_taken)
        self.ticks.append(tick)
        row = QHBoxLayout()
        for stamp, words in ((renewal.before, "now"), (renewal.after, "renewed")):
            pair = QVBoxLayout()
            pair.addWidget(OutlineThumb(stamp, pictures, f"{name}, {words}"), 0, Qt.AlignmentFlag.AlignHCenter)
            pair.addWidget(label(words, "soft"), 0, Qt.AlignmentFlag.AlignHCenter)
            row.addLayout(pair, 1)
        told = label(f"holds {renewal.grown:.1f} times the paper", "soft", wrap=True)
        told.setFixedWidth(120)
        row.addWidget(told)
        box.addWidget(tick)
        box.addLayout(row)
        return frame

    @property
    def chosen(self) -> list[Renewal]:
        """Those that are ticked."""
        return [renewal for renewal, tick in zip(self._renewals, self.ticks, strict=True) if tick.isChecked()]

    def _tick_all(self, checked: bool) -> None:
        for tick in self.ticks:
            tick.setChecked(checked)

    def _show_taken(self) -> None:
        count = len(self.chosen)
        self._taken.setEnabled(count > 0)
        self._taken.setText(f"Renew {count}" if count else "Renew")
