"""The thicket: what stands in front of what, straight below the card. Drag a bar up to bring its piece forward."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.session import Session
from fair_thicket.desk.widgets.thicket_layout import Bar, Layout, Thread, lay_rows, order_for_drop
from fair_thicket.scene import edits

HEAD_PX, FOOT_PX = 6, 8
MOST_ROW_PX, LEAST_ROW_PX = 25, 15


class Thicket(QWidget):
    """A chart of the order whose x is the card's x.

    Attributes
    ----------
    layout_rows : Layout
        Bars and threads as last worked out.
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Thicket: what stands in front of what")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self._session = session
        self._left_px, self._px_per_mm = 60.0, 4.0
        self.layout_rows = Layout((), ())
        self._dragged: Bar | None = None
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
        self._dragged = None
        self.layout_rows = lay_rows(self._session.work)
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
        for thread in self.layout_rows.threads:
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

    def _draw_bar(self, painter: QPainter, bar: Bar, box: QRectF) -> None:
        chosen = bar.key in self._session.selection
        ground = theme.HONEY if chosen else self._tint(bar.key)
        painter.setPen(QPen(theme.INK, 1.5) if chosen else Qt.PenStyle.NoPen)
        painter.setBrush(ground)
        painter.drawRoundedRect(box, 5, 5)
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        painter.setPen(theme.INK if chosen else QColor("white"))
        name = self._session.names.get(bar.key, bar.key)
        words = QFontMetrics(painter.font()).elidedText(name, Qt.TextElideMode.ElideRight, int(box.width() - 8))
        if len(words) > 1 or words == name:
            painter.drawText(box.adjusted(5, 0, -3, 0), Qt.AlignmentFlag.AlignVCenter, words)

    def _tint(self, key: str) -> QColor:
        """Colour of a bar: one for each stamp, in the order of the stash."""
        stamp = self._session.work.card.find(key).stamp
        keys = [one.id for one in self._session.work.stash.stamps]
        return QColor(theme.BAR_TINTS[keys.index(stamp) % len(theme.BAR_TINTS)])

    def _draw_dragged(self, painter: QPainter, bar: Bar) -> None:
        level = self._level_at(self._pointer.y())
        y = self.height() - FOOT_PX - (level + 0.5) * self._row_px()
        painter.setPen(QPen(theme.HONEY, 3))
        painter.drawLine(QPointF(self._left_px - 8, y), QPointF(self.width() - 12, y))
        box = self.bar_box(bar)
        box.moveTop(self._pointer.y() - self._grip.y())
        self._draw_bar(painter, bar, box)

    # -- the mouse and the keyboard ------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        bar = self._bar_at(event.position())
        if bar is None:
            self._session.select(())
            return
        self._session.select({bar.key})
        self._dragged = bar
        self._pointer = event.position()
        self._grip = event.position() - self.bar_box(bar).topLeft()
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is not None:
            self._pointer = event.position()
            self.update()
            return
        bar = self._bar_at(event.position())
        self.setCursor(Qt.CursorShape.OpenHandCursor if bar else Qt.CursorShape.ArrowCursor)
        if bar is not None:
            QToolTip.showText(event.globalPosition().toPoint(), self._tell(bar), self)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        bar, self._dragged = self._dragged, None
        if bar is None:
            return
        self.update()
        level = self._level_at(event.position().y())
        if abs(level - bar.row) <= 0.5:
            return
        order = order_for_drop(self.layout_rows, bar.key, level)
        name = self._session.names[bar.key]
        moved = self._session.edit(f"reorder {name}", lambda work: edits.set_order(work, order))
        if not moved and not any(bar.key in {one.back, one.front} for one in self.layout_rows.threads):
            self._session.said.emit(f"{name.capitalize()} overlaps nothing, so any place in the order is the same.")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        order = [piece.id for piece in self._session.work.card.pieces]
        if event.key() in {Qt.Key.Key_Left, Qt.Key.Key_Right} and order:
            by_place = [bar.key for bar in sorted(self.layout_rows.bars, key=lambda bar: (bar.left, bar.row))]
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
