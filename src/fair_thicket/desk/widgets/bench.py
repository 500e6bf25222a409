"""The bench: the card front with its pieces, rulers along its edges, and live gaps while something is moved."""

import math
from collections.abc import Collection, Sequence

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap, QResizeEvent, QTransform
from PySide6.QtWidgets import QFrame, QGraphicsScene, QGraphicsView, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.session import Session
from fair_thicket.desk.theme.weights import WEIGHT_COLOURS
from fair_thicket.desk.widgets.bench_items import PieceItem, RestingLayers
from fair_thicket.desk.widgets.gaps import Gap, GapMeter
from fair_thicket.desk.widgets.pictures import StampPictures, box_of, ring_path
from fair_thicket.desk.widgets.rulers import Rulers
from fair_thicket.model.card import Impression, Work
from fair_thicket.model.finding import Finding
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import MM_PER_INCH, Unit, say_length
from fair_thicket.scene import edits

LEFT_PX, TOP_PX, RIGHT_PX, BOTTOM_PX = 62, 44, 36, 26
KNOB_PX = 26
UPRIGHT_SNAP_DEG = 2.0


class Bench(QGraphicsView):
    """Shows and moves the pieces of the session's card.

    Attributes
    ----------
    px_per_mm : float
        Scale of the view, in device-independent pixels.
    viewMoved : Signal()
        The card's place or scale in the view has changed.
    """

    viewMoved = Signal()

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("bench")
        self.setAccessibleName("Bench: the card front with its pieces")
        self._session, self._pictures = session, pictures
        self.px_per_mm = 4.0
        self._items: dict[str, PieceItem] = {}
        self._drag: _Drag | None = None
        self._gaps: Sequence[Gap] = ()
        self._finding: Finding | None = None
        self._ghost: tuple[Stamp, QPointF] | None = None
        self._resting: RestingLayers | None = None
        self._rulers = Rulers()
        self.setScene(QGraphicsScene(self))
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)
        self.setTransformationAnchor(QGraphicsView.ViewportAnchor.NoAnchor)
        self.setViewportUpdateMode(QGraphicsView.ViewportUpdateMode.FullViewportUpdate)
        self.setOptimizationFlag(QGraphicsView.OptimizationFlag.DontSavePainterState)
        self.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.setBackgroundBrush(theme.MIST)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        session.cardChanged.connect(self.refresh)
        session.selectionChanged.connect(self._show_selection)
        session.shown.connect(self.show_finding)
        self.refresh()

    # -- from the card -------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Bring the items in line with the card."""
        self._rest(())
        card, stash = self._session.work.card, self._session.work.stash
        wanted = {piece.id for piece in card.pieces}
        for key in [key for key in self._items if key not in wanted]:
            self.scene().removeItem(self._items.pop(key))
        for depth, piece in enumerate(card.pieces):
            stamp = stash.find(piece.stamp)
            item = self._items.get(piece.id)
            if item is None or item.stamp is not stamp:
                if item is not None:
                    self.scene().removeItem(item)
                item = PieceItem(piece, stamp, self.picture_of)
                self.scene().addItem(item)
                self._items[piece.id] = item
            elif item.piece is not piece:
                item.place(piece)
            item.setZValue(depth)
        self._finding = None
        self._gaps = ()
        self.fit()
        self._show_selection()

    def _show_selection(self) -> None:
        for key, item in self._items.items():
            item.is_chosen = key in self._session.selection
        self.viewport().update()

    def show_finding(self, finding: Finding | None) -> None:
        """Mark the places of a finding; None marks nothing."""
        self._finding = finding
        self.viewport().update()

    def picture_of(self, stamp: Stamp) -> QPixmap:
        """Return the stamp's picture at the view's scale, its outline filled with paper."""
        return self._pictures.get(stamp, self.px_per_mm * self.devicePixelRatioF(), ground=QColor(255, 255, 255))

    # -- view ----------------------------------------------------------------------------------------------------

    def fit(self) -> None:
        """Show the whole card as large as the room allows."""
        width, height = self._session.work.card.panel
        room_x = max(60, self.viewport().width() - LEFT_PX - RIGHT_PX)
        room_y = max(60, self.viewport().height() - TOP_PX - BOTTOM_PX)
        scale = min(room_x / width, room_y / height)
        left = LEFT_PX + (room_x - width * scale) / 2
        top = TOP_PX + (room_y - height * scale) / 2
        self.setSceneRect(
            -left / scale, -top / scale, self.viewport().width() / scale, self.viewport().height() / scale
        )
        if scale != self.px_per_mm or self.transform().m11() != scale:
            self.px_per_mm = scale
            self.setTransform(QTransform.fromScale(scale, scale))
        self.viewMoved.emit()
        self.viewport().update()

    def panel_left_px(self) -> int:
        """Where the card's left edge lies in the widget, px."""
        return self.mapFromScene(0.0, 0.0).x()

    def life_size(self) -> float:
        """How many times life size the card is shown, by the screen's stated resolution."""
        return self.px_per_mm / (self.screen().physicalDotsPerInch() / MM_PER_INCH)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit()

    def drawBackground(self, painter: QPainter, rect: QRectF | QRect) -> None:
        painter.fillRect(rect, theme.MIST)
        width, height = self._session.work.card.panel
        offset = 5 / self.px_per_mm
        painter.fillRect(QRectF(offset, offset, width, height), QColor("#bccac1"))
        painter.fillRect(QRectF(0, 0, width, height), QColor(255, 255, 255))

    def drawForeground(self, painter: QPainter, rect: QRectF | QRect) -> None:
        del rect
        card = self._session.work.card
        painter.save()
        painter.resetTransform()
        origin = QPointF(self.mapFromScene(0.0, 0.0))
        self._draw_edge(painter, origin)
        view = (self.viewport().size(), self.devicePixelRatioF())
        self._rulers.draw(painter, view, origin=origin, panel=card.panel, unit=card.unit, px_per_mm=self.px_per_mm)
        if not card.pieces and self._ghost is None:
            self._draw_invitation(painter, origin)
        self._draw_finding(painter)
        self._draw_knob(painter)
        self._draw_ghost(painter)
        self._draw_gaps(painter)
        painter.restore()

    def _draw_edge(self, painter: QPainter, origin: QPointF) -> None:
        width, height = self._session.work.card.panel
        painter.setPen(QPen(theme.SOFT_INK, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(origin.x(), origin.y(), width * self.px_per_mm, height * self.px_per_mm))

    def _draw_invitation(self, painter: QPainter, origin: QPointF) -> None:
        width, height = self._session.work.card.panel
        box = QRectF(origin.x(), origin.y(), width * self.px_per_mm, height * self.px_per_mm)
        painter.setPen(theme.SOFT_INK)
        painter.setFont(theme.font(15))
        if self._session.work.stash.stamps:
            words = "Drag an image from the drawer onto the card.\nNothing is stuck yet."
        else:
            words = "The drawer is empty.\nOpen a scan of stamped images at the Stash station."
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _draw_finding(self, painter: QPainter) -> None:
        if self._finding is None:
            return
        colour = QColor(WEIGHT_COLOURS[self._finding.weight])
        painter.setPen(QPen(colour, 2))
        wash = QColor(colour)
        wash.setAlpha(90)
        painter.setBrush(wash)
        for ring in self._finding.places:
            painter.drawPath(self.viewportTransform().map(ring_path(ring)))

    def _draw_knob(self, painter: QPainter) -> None:
        item = self._single()
        if item is None or (self._drag is not None and self._drag.kind != "turn"):
            return
        knob, foot = self._knob_at(item)
        painter.setPen(QPen(theme.HONEY, 2))
        painter.drawLine(foot, knob)
        painter.setBrush(theme.HONEY)
        painter.drawEllipse(knob, 6, 6)
        if self._drag is not None and self._drag.kind == "turn":
            words = f"{item.rotation():.0f}°"
            theme.draw_pill(painter, knob - QPointF(0, 20), words, ground=theme.HONEY, ink=theme.INK)

    def _draw_ghost(self, painter: QPainter) -> None:
        if self._ghost is None:
            return
        stamp, at = self._ghost
        picture = self.picture_of(stamp)
        box = box_of(stamp)
        where = QRectF(box.x() + at.x(), box.y() + at.y(), box.width(), box.height())
        painter.setOpacity(0.75)
        painter.drawPixmap(self.viewportTransform().mapRect(where), picture, QRectF(picture.rect()))
        painter.setOpacity(1)

    def _draw_gaps(self, painter: QPainter) -> None:
        unit = self._session.work.card.unit
        pills: list[QRectF] = []
        for gap in self._gaps:
            start = QPointF(self.mapFromScene(*gap.start))
            end = QPointF(self.mapFromScene(*gap.end))
            painter.setPen(QPen(theme.HONEY_TEXT, 1.5))
            painter.drawLine(start, end)
            words = f"{say_length(abs(gap.length_mm), unit)}{gap.words}"
            middle = (start + end) / 2
            pills.append(
                theme.draw_pill(
                    painter, middle, words, ground=theme.HONEY, ink=QColor("#1d1608"), clear_of=tuple(pills)
                )
            )

    # -- the mouse -----------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.show_finding(None)
        at = self.mapToScene(event.position().toPoint())
        single = self._single()
        if single is not None and (self._knob_at(single)[0] - event.position()).manhattanLength() < 16:
            self._drag = _Drag("turn", at, {single.piece.id: single.piece})
            return
        item = self._item_at(at)
        adding = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if item is None:
            if not adding:
                self._session.select(())
            self._drag = _Drag("choose", at, {})
            return
        key = item.piece.id
        chosen = self._session.selection
        if adding:
            self._session.select(chosen ^ {key})
        elif key not in chosen:
            self._session.select({key})
        pieces = {one: self._items[one].piece for one in self._session.selection}
        self._drag = _Drag("move", at, pieces) if pieces else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = self.mapToScene(event.position().toPoint())
        if self._drag is None:
            self._show_cursor(event.position(), at)
            return
        if not self._drag.moved and (at - self._drag.start).manhattanLength() * self.px_per_mm < 4:
            return
        if not self._drag.moved:
            self._drag.moved = True
            self._rest(self._drag.pieces.keys())
        if self._drag.kind == "move":
            self._drag_pieces(self._drag, at - self._drag.start)
        elif self._drag.kind == "turn":
            self._turn_piece(
                next(iter(self._drag.pieces.values())),
                at,
                free=bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier),
            )
        else:
            box = QRectF(self._drag.start, at).normalized()
            self._session.select(
                [key for key, item in self._items.items() if box.contains(item.sceneBoundingRect().center())]
            )
        self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        self._gaps = ()
        self._rest(())
        if drag is None or not drag.moved or event.button() != Qt.MouseButton.LeftButton:
            self.viewport().update()
            return
        if drag.kind == "move":
            by = self.mapToScene(event.position().toPoint()) - drag.start
            keys = frozenset(drag.pieces)
            self._session.edit(f"move {self._name_of(keys)}", lambda work: edits.move_by(work, keys, (by.x(), by.y())))
        elif drag.kind == "turn":
            key = next(iter(drag.pieces))
            angle = self._items[key].rotation()
            self._session.edit(f"turn {self._session.names[key]}", lambda work: edits.turn_to(work, {key}, angle))
        for key, item in self._items.items():  # whatever was not taken over goes back to its place
            item.place(self._session.work.card.find(key))
        self.viewport().update()

    def _drag_pieces(self, drag: "_Drag", by: QPointF) -> None:
        for key, piece in drag.pieces.items():
            self._items[key].setPos(piece.x + by.x(), piece.y + by.y())
        if drag.meter is None:
            drag.meter = GapMeter(self._session.work, drag.pieces.keys(), self._session.names)
        self._gaps = drag.meter.measure((by.x(), by.y()))

    def _rest(self, moving: Collection[str]) -> None:
        """Draw what rests once for a whole drag; nothing moving lifts the layers again."""
        if self._resting is not None:
            self._resting.lift()
        self._resting = RestingLayers(self, self._items.values(), moving) if moving else None

    def _turn_piece(self, piece: Impression, at: QPointF, *, free: bool) -> None:
        angle = math.degrees(math.atan2(at.x() - piece.x, piece.y - at.y()))
        nearest = round(angle / 90) * 90
        if not free and abs(angle - nearest) < UPRIGHT_SNAP_DEG:
            angle = nearest
        self._items[piece.id].setRotation(round(angle, 1))

    def _show_cursor(self, position: QPointF, at: QPointF) -> None:
        single = self._single()
        if single is not None and (self._knob_at(single)[0] - position).manhattanLength() < 16:
            self.viewport().setCursor(Qt.CursorShape.CrossCursor)
        elif self._item_at(at) is not None:
            self.viewport().setCursor(Qt.CursorShape.OpenHandCursor)
        else:
            self.viewport().unsetCursor()

    def _item_at(self, at: QPointF) -> PieceItem | None:
        for item in sorted(self._items.values(), key=lambda one: -one.zValue()):
            if item.holds(at):
                return item
        return None

    def _single(self) -> PieceItem | None:
        if len(self._session.selection) != 1:
            return None
        return self._items.get(next(iter(self._session.selection)))

    def _knob_at(self, item: PieceItem) -> tuple[QPointF, QPointF]:
        """Find the turning knob and the foot of its stem, in the view."""
        top = -item.stamp.height_mm / 2
        foot = self.mapFromScene(item.mapToScene(QPointF(0, top)))
        knob = self.mapFromScene(item.mapToScene(QPointF(0, top - KNOB_PX / self.px_per_mm)))
        return QPointF(knob), QPointF(foot)

    def _name_of(self, keys: frozenset[str]) -> str:
        return self._session.names[next(iter(keys))] if len(keys) == 1 else f"{len(keys)} images"

    # -- from the drawer -----------------------------------------------------------------------------------------

    def hover_stamp(self, stamp: Stamp, at_global: QPoint) -> None:
        """Show a stamp that is being dragged here from the drawer."""
        at = self.mapToScene(self.viewport().mapFromGlobal(at_global))
        inside = self.viewport().rect().contains(self.viewport().mapFromGlobal(at_global))
        self._ghost = (stamp, at) if inside else None
        self.viewport().update()

    def drop_stamp(self, stamp: Stamp, at_global: QPoint) -> bool:
        """Stamp an image where it was let go; outside the bench nothing happens."""
        self._ghost = None
        local = self.viewport().mapFromGlobal(at_global)
        self.viewport().update()
        if not self.viewport().rect().contains(local):
            return False
        at = self.mapToScene(local)
        return self.add_stamp(stamp, (at.x(), at.y()))

    def add_stamp(self, stamp: Stamp, at: tuple[float, float]) -> bool:
        """Stamp an image with its middle at a place of the panel, mm, and choose it."""
        added: list[str] = []

        def change(work: Work) -> Work:
            after, key = edits.add_impression(work, stamp.id, at)
            added.append(key)
            return after

        if not self._session.edit(f"stamp {stamp.name}", change):
            return False
        self._session.select(added)
        self.setFocus()
        return True

    # -- the keyboard --------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        way = ways.get(Qt.Key(event.key()))
        plain = not event.modifiers() & (Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.ControlModifier)
        if way is not None and plain and self._session.selection:
            self._nudge(way, far=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif event.key() in {Qt.Key.Key_Period, Qt.Key.Key_Comma} and self._items:
            self._choose_next(1 if event.key() == Qt.Key.Key_Period else -1)
        elif event.key() == Qt.Key.Key_Escape and self._drag is not None:
            self._give_up_drag()
        elif event.key() == Qt.Key.Key_Escape:
            self._session.select(())
        else:
            event.ignore()

    def _nudge(self, way: tuple[int, int], *, far: bool) -> None:
        step = MM_PER_INCH / 16 if self._session.work.card.unit is Unit.INCH else 1.0
        step *= 4 if far else 1
        keys = self._session.selection
        self._session.edit(
            f"nudge {self._name_of(keys)}",
            lambda work: edits.move_by(work, keys, (way[0] * step, way[1] * step)),
            merge_key="nudge " + " ".join(sorted(keys)),
        )

    def _choose_next(self, step: int) -> None:
        order = [piece.id for piece in self._session.work.card.pieces]
        current = [order.index(key) for key in self._session.selection if key in order]
        index = (current[0] + step) % len(order) if current else 0
        self._session.select({order[index]})

    def _give_up_drag(self) -> None:
        self._drag = None
        self._gaps = ()
        self._rest(())
        for key, item in self._items.items():
            item.place(self._session.work.card.find(key))
        self.viewport().update()


class _Drag:
    """A drag under way: what is done, where it began (mm), the pieces as they were, whether it has moved yet."""

    def __init__(self, kind: str, start: QPointF, pieces: dict[str, Impression]) -> None:
        self.kind, self.start, self.pieces, self.moved = kind, start, pieces, False
        self.meter: GapMeter | None = None
