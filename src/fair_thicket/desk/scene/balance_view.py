"""The balance of the card as a small diagram, with words."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.session.session import Session
from fair_thicket.model.units import Unit, say_length
from fair_thicket.scene.balance import Balance, tell_balance

HIGH_PX = 104
WIDE_PX = 112


class BalanceView(QWidget):
    """Middle lines, thirds, the centre of weight and the room for words, drawn small; figures beside it."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._balance: Balance | None = None
        self.lines: list[str] = []
        self.setFixedHeight(HIGH_PX)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        session.balanceChanged.connect(self.refresh)
        session.cardChanged.connect(self.refresh)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(264, HIGH_PX)

    def refresh(self) -> None:
        """Show the balance as last worked out."""
        self._balance = self._session.balance if self._session.work.card.pieces else None
        unit = self._session.work.card.unit
        self.lines = tell_balance(self._balance, lambda mm: say_length(mm, unit)) if self._balance else []
        self.setAccessibleName("Balance: " + ", ".join(self.lines or ["nothing on the card"]))
        self.setToolTip("\n".join([*self.lines, *self._tell_thirds(unit)]))
        self.update()

    def _tell_thirds(self, unit: Unit) -> list[str]:
        """Say how far the heaviest piece lies from where the thirds cross."""
        if self._balance is None or self._balance.heaviest not in self._session.names:
            return []
        name, apart = self._session.names[self._balance.heaviest], say_length(self._balance.thirds_mm, unit)
        return [f"The {name} weighs most; its middle is {apart} from where two thirds cross"]

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width, height = self._session.work.card.panel
        scale = min((WIDE_PX - 8) / width, (HIGH_PX - 10) / height)
        box = QRectF(
            2 + (WIDE_PX - 6 - width * scale) / 2, (HIGH_PX - height * scale) / 2, width * scale, height * scale
        )
        painter.setPen(QPen(theme.LINE, 1))
        painter.setBrush(theme.SAND)
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(QPen(QColor("#c9bfa6"), 1, Qt.PenStyle.DotLine))
        for share in (1 / 3, 2 / 3):
            x, y = box.left() + box.width() * share, box.top() + box.height() * share
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        painter.setPen(QPen(theme.MOSS, 1.2))
        middle = box.center()
        painter.drawLine(QPointF(middle.x(), box.top()), QPointF(middle.x(), box.bottom()))
        painter.drawLine(QPointF(box.left(), middle.y()), QPointF(box.right(), middle.y()))
        balance = self._balance
        painter.setFont(theme.font(12))
        if balance is None:
            painter.setPen(theme.SOFT_INK)
            words = QRectF(WIDE_PX + 6, 0, self.width() - WIDE_PX - 6, self.height())
            painter.drawText(
                words, Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, "It shows when pieces lie on the card."
            )
            return
        if balance.room is not None:
            room = balance.room
            free = QRectF(
                box.left() + room.left * scale,
                box.top() + room.top * scale,
                room.width_mm * scale,
                room.height_mm * scale,
            )
            painter.setPen(QPen(theme.FERN, 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(QColor(55, 102, 65, 40))
            painter.drawRect(free)
        centre = box.topLeft() + QPointF(*balance.centre) * scale
        painter.setPen(QPen(theme.INK, 1.2))
        painter.setBrush(theme.HONEY)
        painter.drawEllipse(centre, 5.5, 5.5)
        painter.setPen(theme.INK)
        step = min(19.0, (self.height() - 6) / max(1, len(self.lines)))
        top = (self.height() - step * len(self.lines)) / 2
        room_px = self.width() - WIDE_PX - 8
        for number, line in enumerate(self.lines):
            words_box = QRectF(WIDE_PX + 6, top + number * step, room_px, step)
            shown = painter.fontMetrics().elidedText(line, Qt.TextElideMode.ElideRight, int(room_px))
            painter.drawText(words_box, Qt.AlignmentFlag.AlignVCenter, shown)
