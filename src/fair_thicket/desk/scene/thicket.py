"""The thicket: what stands in front of what, straight below the card. Drag a bar up to bring its piece forward."""

from collections.abc import Callable

import shapely
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from fair_thicket import edits
from fair_thicket.desk import theme
from fair_thicket.desk.scene.thicket_layout import Bar, Layout, Thread, lay_rows, order_for_drop
from fair_thicket.desk.session.session import Session
from fair_thicket.edits.flaps import send_part
from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import Work, carried_by, is_sheet
from fair_thicket.model.errors import PaperError
from fair_thicket.model.keys import flap_number, piece_key
from fair_thicket.model.pieces import PaperPiece, stamps_of

HEAD_PX, FOOT_PX = 6, 8
MOST_ROW_PX, LEAST_ROW_PX = 25, 17
MOST_THREADS = 70
"""With more overlaps than this only the threads of what is chosen or pointed at are drawn."""
WRITTEN_ROW_PX = 14
THREAD_REACH_PX = 4


class Thicket(QWidget):
    """A chart of the order whose x is the card's x.

    Attributes
    ----------
    layout_rows : Layout
        Bars and threads as last worked out.
    pointedAt : Signal(object)
        Area in place that the pointer shows: what two leaves share, or a leaf; None for none.
    orderTried : Signal(object)
        The work as it would be if the dragged bar were dropped here; None when there is nothing to try.
    """

    pointedAt = Signal(object)
    orderTried = Signal(object)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Thicket: what stands in front of what")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self._session = session
        self._left_px, self._px_per_mm = 60.0, 4.0
        self.layout_rows = Layout((), ())
        self._leaves: dict[str, Leaf] = {}
        self._dragged: Bar | None = None
        self._refusal = ""
        self._pointed = ""
        self._tried_level: float | None = None
        self._grip, self._pointer = QPointF(), QPointF()
        session.cardChanged.connect(self.refresh)
        session.selectionChanged.connect(self.update)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(400, 180)

    def minimumSizeHint(self) -> QSize:
        return QSize(200, 90)

    def refresh(self) -> None:
        """Work the rows out anew."""
        self._dragged, self._refusal, self._tried_level = None, "", None
        view = self._session.view
        self._leaves = {leaf.key: leaf for leaf in view.leaves}
        self.layout_rows = lay_rows(view)
        # a card with many levels makes the chart higher than its place, which then scrolls
        self.setMinimumHeight(max(90, HEAD_PX + FOOT_PX + self.layout_rows.rows * LEAST_ROW_PX))
        self.update()

    def align(self, left_px: float, px_per_mm: float) -> None:
        """Take over where the bench shows the card's left edge, and its scale."""
        self._left_px, self._px_per_mm = left_px, px_per_mm
        self.update()

    # -- places --------------------------------------------------------------------------------------------------

    def _row_px(self) -> float:
        rows = max(1, self.layout_rows.rows)
        return max(LEAST_ROW_PX, min(MOST_ROW_PX, (self.height() - HEAD_PX - FOOT_PX) / rows))

    def bar_box(self, bar: Bar) -> QRectF:
        """Box of a bar in the widget, px."""
        step = self._row_px()
        top = self.height() - FOOT_PX - (bar.row + 1) * step
        left = self._left_px + bar.left * self._px_per_mm
        return QRectF(left, top + 2, max(10.0, (bar.right - bar.left) * self._px_per_mm), step - 4)

    def _level_at(self, y: float) -> float:
        """Height in the order that a place in the widget stands for: always half-way between two rows."""
        raw = (self.height() - FOOT_PX - y) / self._row_px()
        return float(max(0, min(self.layout_rows.rows, round(raw)))) - 0.5

    def _bar_at(self, point: QPointF) -> Bar | None:
        for bar in reversed(self.layout_rows.bars):
            if self.bar_box(bar).adjusted(-1, -2, 1, 2).contains(point):
                return bar
        return None

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER)
        self._draw_axis(painter)
        boxes = {bar.key: self.bar_box(bar) for bar in self.layout_rows.bars}
        for bar in self.layout_rows.bars:
            if bar.is_flap and bar.piece in boxes:
                self._draw_tie(painter, boxes[bar.key], boxes[bar.piece])
        is_crowded = len(self.layout_rows.threads) > MOST_THREADS
        asked = {*self._session.selection, self._pointed}
        for thread in self.layout_rows.threads:
            # everything lies over panels and washes: their threads tell nothing until they are asked for
            is_quiet = is_crowded or is_sheet(self._leaves[thread.back].piece)
            if not is_quiet or asked & {thread.back, thread.front}:
                self._draw_thread(painter, thread, boxes)
        for bar in self.layout_rows.bars:
            if self._dragged is None or bar.key != self._dragged.key:
                self._draw_bar(painter, bar, boxes[bar.key])
        if self._dragged is not None:
            self._draw_dragged(painter, self._dragged)
        if not self.layout_rows.bars:
            painter.setPen(theme.SOFT_INK)
            painter.setFont(theme.font(13))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Each image on the card gets a bar here.")
        if self.hasFocus():
            painter.setPen(QPen(theme.FERN, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(2, 2, -2, -2), 6, 6)

    def _draw_axis(self, painter: QPainter) -> None:
        """Draw the growing stem at the left: the panel at its foot, the front at its tip."""
        x = 26.0
        top, foot = 20.0, self.height() - 20.0
        painter.setPen(QPen(theme.MOSS, 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawLine(QPointF(x, foot), QPointF(x, top))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.MOSS)
        for share in (0.25, 0.5, 0.75):
            y = foot + (top - foot) * share
            side = 1 if share != 0.5 else -1
            painter.drawPath(theme.leaf_path(QPointF(x + side * 11, y - 8), QPointF(x, y)))
        painter.setFont(theme.font(12))
        painter.setPen(theme.SOFT_INK)
        painter.drawText(QRectF(4, 2, 60, 15), Qt.AlignmentFlag.AlignLeft, "front")
        painter.drawText(QRectF(4, self.height() - 17, 60, 15), Qt.AlignmentFlag.AlignLeft, "panel")

    def _draw_thread(self, painter: QPainter, thread: Thread, boxes: dict[str, QRectF]) -> None:
        chosen = bool(self._session.selection & {thread.back, thread.front})
        painter.setPen(QPen(theme.BERRY if chosen else QColor("#b3a98f"), 2 if chosen else 1.3))
        x = self._left_px + thread.x * self._px_per_mm
        painter.drawLine(QPointF(x, boxes[thread.back].center().y()), QPointF(x, boxes[thread.front].center().y()))

    def _draw_tie(self, painter: QPainter, flap: QRectF, body: QRectF) -> None:
        """Tie a flap's bar to its body's by two cords, as the paper is tied."""
        painter.setPen(QPen(theme.FERN, 1.6, Qt.PenStyle.DotLine))
        for x in (flap.left() + 3, flap.right() - 3):
            painter.drawLine(QPointF(x, flap.center().y()), QPointF(x, body.center().y()))

    def _draw_bar(self, painter: QPainter, bar: Bar, box: QRectF) -> None:
        chosen = bar.piece in self._session.selection
        ground = theme.HONEY if chosen else self._tint(bar.piece)
        painter.setPen(QPen(theme.INK, 1.5) if chosen else Qt.PenStyle.NoPen)
        if bar.is_flap:
            painter.setPen(QPen(theme.INK if chosen else ground.darker(140), 1.5, Qt.PenStyle.DashLine))
        painter.setBrush(ground)
        radius = min(5.0, box.height() / 2)
        painter.drawRoundedRect(box, radius, radius)
        if box.height() < WRITTEN_ROW_PX - 4:
            return
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        painter.setPen(theme.INK if chosen else QColor("white"))
        name = self._session.names.get(bar.key, bar.key)
        words = QFontMetrics(painter.font()).elidedText(name, Qt.TextElideMode.ElideRight, int(box.width() - 8))
        if len(words) > 1 or words == name:
            painter.drawText(box.adjusted(5, 0, -3, 0), Qt.AlignmentFlag.AlignVCenter, words)

    def _tint(self, key: str) -> QColor:
        """Colour of a bar: one for each stamp, in the order of the stash; plain paper has its own."""
        used = stamps_of(self._session.work.card.find(key))
        if not used:
            return QColor(theme.PLAIN_TINT)
        keys = [one.id for one in self._session.work.stash.stamps]
        return QColor(theme.BAR_TINTS[keys.index(used[0]) % len(theme.BAR_TINTS)])

    def _draw_dragged(self, painter: QPainter, bar: Bar) -> None:
        level = self._level_at(self._pointer.y())
        y = self.height() - FOOT_PX - (level + 0.5) * self._row_px()
        painter.setPen(QPen(theme.BERRY if self._refusal else theme.HONEY, 3))
        painter.drawLine(QPointF(self._left_px - 8, y), QPointF(self.width() - 12, y))
        box = self.bar_box(bar)
        box.moveTop(self._pointer.y() - self._grip.y())
        self._draw_bar(painter, bar, box)
        if self._refusal:
            place = QPointF(self.width() / 2, max(14.0, y - 14))
            theme.draw_pill(painter, place, "paper does not let it", ground=theme.BERRY, ink=QColor("white"))

    # -- the mouse and the keyboard ------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        bar = self._bar_at(event.position())
        if bar is None:
            self._session.select(())
            return
        self._session.select({bar.piece})
        self._dragged = bar
        self._pointer = event.position()
        self._grip = event.position() - self.bar_box(bar).topLeft()
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is not None:
            self._pointer = event.position()
            self._try_drop(self._dragged)
            self.update()
            return
        self._point_at(event)

    def _point_at(self, event: QMouseEvent) -> None:
        """Tell what lies under the pointer, here and on the card."""
        bar = self._bar_at(event.position())
        self.setCursor(Qt.CursorShape.OpenHandCursor if bar else Qt.CursorShape.ArrowCursor)
        place = event.globalPosition().toPoint()
        if self._pointed != (bar.key if bar else ""):
            self._pointed = bar.key if bar else ""
            self.update()
        if bar is not None:
            QToolTip.showText(place, self._tell(bar), self)
            self.pointedAt.emit(self._leaves[bar.key].area)
            return
        thread = self._thread_at(event.position())
        if thread is None:
            self.pointedAt.emit(None)
            return
        names = self._session.names
        words = f"{names[thread.front]} over {names[thread.back]}: {thread.area_mm2:.0f} mm²"
        QToolTip.showText(place, words, self)
        self.pointedAt.emit(shapely.intersection(self._leaves[thread.back].area, self._leaves[thread.front].area))

    def _thread_at(self, point: QPointF) -> Thread | None:
        boxes = {bar.key: self.bar_box(bar) for bar in self.layout_rows.bars}
        for thread in self.layout_rows.threads:
            x = self._left_px + thread.x * self._px_per_mm
            top, foot = boxes[thread.front].center().y(), boxes[thread.back].center().y()
            if abs(point.x() - x) <= THREAD_REACH_PX and min(top, foot) <= point.y() <= max(top, foot):
                return thread
        return None

    def leaveEvent(self, event: QEvent) -> None:
        super().leaveEvent(event)
        self._pointed = ""
        self.update()
        self.pointedAt.emit(None)

    def _try_drop(self, bar: Bar) -> None:
        """Show on the card what a drop here would make of it, or that paper refuses it."""
        level = self._level_at(self._pointer.y())
        if level == self._tried_level:
            return
        self._tried_level, self._refusal = level, ""
        try:
            self.orderTried.emit(self._dropped(bar, level)(self._session.work))
        except PaperError as problem:
            self._refusal = str(problem)
            self.orderTried.emit(None)

    def _dropped(self, bar: Bar, level: float) -> Callable[[Work], Work]:
        """Return the edit that a drop of a bar at a level means."""
        if abs(level - bar.row) <= 0.5:
            return lambda work: work
        if bar.is_flap:
            return lambda work: self._send_flap(work, bar, level)
        order = order_for_drop(self.layout_rows, bar.key, level)
        carried = carried_by(self._session.work.card.pieces, bar.key)
        order = [key for key in order if key not in carried]
        at = order.index(bar.key) + 1
        block = [piece.id for piece in self._session.work.card.pieces if piece.id in carried]
        return lambda work: edits.set_order(work, [*order[:at], *block, *order[at:]])

    def _send_flap(self, work: Work, bar: Bar, level: float) -> Work:
        """Send a flap over the highest piece below the level that it overlaps, else under the lowest above it."""
        piece = work.card.find(bar.piece)
        number = flap_number(bar.key)
        if not isinstance(piece, PaperPiece) or number is None:
            return work
        flap = piece.flaps[number]
        met = {
            one.back if one.front == bar.key else one.front
            for one in self.layout_rows.threads
            if bar.key in {one.back, one.front}
        }
        others = sorted(
            (one for one in self.layout_rows.bars if one.key in met and one.piece != bar.piece), key=lambda one: one.row
        )
        below = [one for one in others if one.row < level]
        if below:
            return send_part(work, bar.piece, flap.ring, past=piece_key(below[-1].key), side="over", name=flap.name)
        if others:
            return send_part(work, bar.piece, flap.ring, past=piece_key(others[0].key), side="under", name=flap.name)
        return work

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        bar, self._dragged = self._dragged, None
        if bar is None:
            return
        self.update()
        level = self._level_at(event.position().y())
        is_refused, self._refusal, self._tried_level = bool(self._refusal), "", None
        self.orderTried.emit(None)
        if abs(level - bar.row) <= 0.5:
            return
        name = self._session.names[bar.key]
        moved = self._session.edit(f"reorder {name}", self._dropped(bar, level))
        if (
            not moved
            and not is_refused
            and not any(bar.key in {one.back, one.front} for one in self.layout_rows.threads)
        ):
            self._session.said.emit(f"{name.capitalize()} overlaps nothing, so any place in the order is the same.")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        order = [piece.id for piece in self._session.work.card.pieces]
        if event.key() in {Qt.Key.Key_Left, Qt.Key.Key_Right} and order:
            bodies = [bar for bar in self.layout_rows.bars if not bar.is_flap]
            by_place = [bar.key for bar in sorted(bodies, key=lambda bar: (bar.left, bar.row))]
            current = [by_place.index(key) for key in self._session.selection if key in by_place]
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            self._session.select({by_place[(current[0] + step) % len(by_place)] if current else by_place[0]})
        elif event.key() in {Qt.Key.Key_Up, Qt.Key.Key_Down} and self._session.selection:
            keys = self._session.selection
            step = 1 if event.key() == Qt.Key.Key_Up else -1
            self._session.edit(
                "bring forward" if step > 0 else "send back", lambda work: edits.step_past_overlap(work, keys, step)
            )
        else:
            event.ignore()

    def _tell(self, bar: Bar) -> str:
        names = self._session.names
        lines = [names.get(bar.key, bar.key)]
        for thread in self.layout_rows.threads:
            if thread.front == bar.key:
                lines.append(f"in front of {names[thread.back]}: {thread.area_mm2:.0f} mm²")
            elif thread.back == bar.key:
                lines.append(f"behind {names[thread.front]}: {thread.area_mm2:.0f} mm²")
        return "\n".join(lines)
