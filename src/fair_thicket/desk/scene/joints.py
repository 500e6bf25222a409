"""The joints of a border: its cuts pulled apart and together, each joint to be dragged, what it costs shown live."""

import msgspec
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget

from fair_thicket.backdrop.joining import OVERLAP_MM
from fair_thicket.backdrop.joints import joint_places, move_joint, room_of
from fair_thicket.backdrop.judging import best_span, hidden_stretches, measure_joints
from fair_thicket.desk import theme
from fair_thicket.desk.parts.controls import button, label, taking_row
from fair_thicket.desk.parts.ground_art import area_path
from fair_thicket.laid.hidden import hiders_of
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Border
from fair_thicket.model.units import say_length
from fair_thicket.shape.paper import lay_cuts

APART_MM, CATCH_PX = 9.0, 10.0
TINTS = ("#cfe0c8", "#f3e2b3", "#d8dfe8")


class JointView(QWidget):
    """Draws the cuts of a border, pulled apart above and together below; joints are dragged, or moved with the keys.

    Attributes
    ----------
    piece : Border
    chosen : int
        The joint that the keys move.
    moved : Signal()
    refused : Signal(str)
    """

    moved = Signal()
    refused = Signal(str)

    def __init__(self, work: Work, piece: Border, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(760, 300)
        self.setAccessibleName("Cuts of the border, pulled apart and together")
        self._stamp = work.stash.find(piece.stamp)
        self._hidden = hidden_stretches(work, piece)
        self.piece = piece
        self.chosen = 0
        self._held = False

    def show_piece(self, piece: Border) -> None:
        """Show a border with its cuts."""
        self.piece = piece
        self.chosen = min(self.chosen, max(0, len(piece.cuts) - 2))
        self.update()
        self.moved.emit()

    # -- places --------------------------------------------------------------------------------------------------

    def _scale(self) -> float:
        room = self.piece.length_mm + APART_MM * (len(self.piece.cuts) - 1)
        return min((self.width() - 40) / room, (self.height() - 90) / (2 * self._stamp.height_mm + 6))

    def _left(self) -> float:
        return (self.width() - self.piece.length_mm * self._scale()) / 2

    def handle_of(self, number: int) -> QPointF:
        """Where the handle of a joint lies in the widget."""
        x = self._left() + joint_places(self.piece.cuts)[number] * self._scale()
        return QPointF(x, self.height() - 24)

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        laid = lay_cuts(self._stamp.outline, self._stamp.pockets, self._stamp.width_mm, self.piece.cuts)
        scale, high = self._scale(), self._stamp.height_mm
        middle = (len(laid) - 1) / 2
        for row, y in ((0, 16 + high * scale / 2), (1, self.height() - 46 - high * scale / 2)):
            for number, area in enumerate(laid):
                apart = (number - middle) * APART_MM if row == 0 else 0.0
                painter.save()
                painter.translate(self._left() + apart * scale, y)
                painter.scale(scale, scale)
                tint = QColor(TINTS[number % len(TINTS)])
                tint.setAlpha(255 if row == 0 else 190)
                pen = QPen(theme.INK, 1.2)
                pen.setCosmetic(True)
                painter.setPen(pen)
                painter.setBrush(tint)
                painter.drawPath(area_path(area, None))
                painter.restore()
        self._draw_hidden(painter, scale)
        self._draw_joints(painter, scale, high)

    def _draw_hidden(self, painter: QPainter, scale: float) -> None:
        painter.setFont(theme.font(12))
        for start, end in self._hidden:
            box = QRectF(self._left() + start * scale, self.height() - 42, (end - start) * scale, 6)
            painter.fillRect(box, theme.FERN)

    def _draw_joints(self, painter: QPainter, scale: float, high: float) -> None:
        joints = measure_joints(self._stamp, self.piece)
        for number, joint in enumerate(joints):
            at = self.handle_of(number)
            x = self._left() + joint.at_mm * scale
            painter.setPen(QPen(theme.BERRY, 1.6, Qt.PenStyle.DashLine))
            top = self.height() - 46 - high * scale
            painter.drawLine(QPointF(x, top - 4), QPointF(x, self.height() - 34))
            painter.setPen(QPen(theme.HONEY_TEXT, 2 if number == self.chosen else 1))
            painter.setBrush(theme.HONEY if number == self.chosen else theme.HONEY_WASH)
            painter.drawEllipse(at, 8, 8)

    # -- hands ---------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for number in range(len(self.piece.cuts) - 1):
            away = event.position() - self.handle_of(number)
            if abs(away.x()) <= CATCH_PX and abs(away.y()) <= CATCH_PX:
                self.chosen, self._held = number, True
                self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self.move_to((event.position().x() - self._left()) / self._scale())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        del event
        self._held = False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -0.5, Qt.Key.Key_Right: 0.5}.get(Qt.Key(event.key()))
        if event.key() in {Qt.Key.Key_Up, Qt.Key.Key_Down}:
            self.chosen = (self.chosen + 1) % max(1, len(self.piece.cuts) - 1)
            self.update()
            self.moved.emit()
        elif step is not None:
            self.move_to(joint_places(self.piece.cuts)[self.chosen] + step)
        else:
            super().keyPressEvent(event)

    def move_to(self, at_mm: float) -> None:
        """Move the chosen joint as near to a place as the die reaches."""
        room = room_of(self._stamp, self.piece.cuts, self.chosen)
        if not room.low <= at_mm <= room.high:
            self.refused.emit(f"The die reaches from {room.low:.0f} to {room.high:.0f} mm; the joint stays within.")
        try:
            moved, _ = move_joint(self._stamp, self.piece, self.chosen, min(max(at_mm, room.low), room.high))
        except PaperError as problem:
            self.refused.emit(str(problem))
            return
        self.show_piece(moved)


class Joints(QDialog):
    """Asks where the joints of a border are to lie.

    Attributes
    ----------
    view : JointView
    note : QLabel
    """

    def __init__(self, work: Work, piece: Border, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._work = work
        self._unit, self._names = work.card.unit, name_pieces(work)
        # kept from when the advice was worked out, so this takes no time
        self._best = best_span(work.stash.find(piece.stamp), piece.length_mm, hidden_stretches(work, piece))
        self.setWindowTitle("Joints of a border")
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(8)
        box.addWidget(label(f"Joints of the {self._names[piece.id]}", "heading"))
        told = "Above pulled apart, below as glued. Drag a handle, or use the arrow keys; green: hidden by the scene."
        box.addWidget(label(told, "soft", wrap=True))
        self.view = JointView(work, piece)
        box.addWidget(self.view, 1)
        self.note = label("", wrap=True)
        self.note.setMinimumHeight(38)
        box.addWidget(self.note)
        best = button("Join it best", self.take_best, tip="Fewest cuts, the joints seen least")
        row, _ = taking_row(self, best)
        box.addLayout(row)
        self.view.moved.connect(self._tell)
        self.view.refused.connect(self.note.setText)
        if len(piece.cuts) < 2:
            self.take_best()
        self._tell()
        self.resize(900, 460)

    @property
    def piece(self) -> Border:
        """The border as it is now."""
        return self.view.piece

    def take_best(self) -> None:
        """Show the best way to join."""
        self.view.show_piece(msgspec.structs.replace(self.view.piece, cuts=self._best.cuts))

    def _tell(self) -> None:
        stamp = self._work.stash.find(self.piece.stamp)
        joints = measure_joints(stamp, self.piece)
        told = []
        for number, joint in enumerate(joints, 1):
            chosen = " (chosen)" if number - 1 == self.view.chosen else ""
            side = "left" if joint.left_over else "right"
            hiders = [self._names[key] for key in hiders_of(self._work, self.piece, joint.at_mm)]
            behind = f", hidden behind the {' and the '.join(hiders)}" if hiders else ""
            told.append(
                f"joint {number}{chosen} at {say_length(joint.at_mm, self._unit)}: edges {joint.mismatch_mm:.2f} mm "
                f"apart, {joint.peek_mm2:.1f} mm² peek out, the {side} cut on top{behind}"
            )
        words = "; ".join(told) if told else "One cut of the die reaches; there is no joint."
        self.note.setText(f"{len(self.piece.cuts)} cuts, {OVERLAP_MM:g} mm for the glue. {words}.")


def ask_joints(work: Work, piece: Border, parent: QWidget | None = None) -> Border | None:
    """Ask where the joints are to lie; None when the maker leaves them."""
    dialog = Joints(work, piece, parent)
    taken = dialog.exec()
    made = dialog.piece if taken else None
    dialog.deleteLater()
    return made
