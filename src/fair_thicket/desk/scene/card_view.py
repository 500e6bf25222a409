"""The card as the bench shows it: its pieces, rulers along its edges, what is pointed at, and gaps while one moves."""

from collections.abc import Collection, Sequence

import shapely
from PySide6.QtCore import QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPixmap, QResizeEvent, QTransform
from PySide6.QtWidgets import QFrame, QGraphicsScene, QGraphicsView, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.ground_art import Ground, area_path, grounds_of, picture_ground
from fair_thicket.desk.parts.leaf_art import LeafArt
from fair_thicket.desk.parts.pictures import StampPictures, box_of
from fair_thicket.desk.scene import bench_overlays as overlays
from fair_thicket.desk.scene.bench_items import LeafItem, RestingLayers
from fair_thicket.desk.scene.gaps import Gap
from fair_thicket.desk.scene.rulers import Rulers
from fair_thicket.desk.session.session import Session
from fair_thicket.ink.drawn import drawn_of
from fair_thicket.ink.layings import lay_images
from fair_thicket.ink.painter import Look
from fair_thicket.ink.shading import colour_all
from fair_thicket.laid.stack import Leaf, stack
from fair_thicket.model.card import Work
from fair_thicket.model.finding import Finding
from fair_thicket.model.stash import Stamp
from fair_thicket.scene.room import Room
from fair_thicket.scene.snapping import Guide
from fair_thicket.shape.paper import window_area

LEFT_PX, TOP_PX, RIGHT_PX, BOTTOM_PX = 62, 44, 36, 26
KNOB_PX = 26
EDGE_MM = 0.05
SHOWN = Look(shadows=True)


class CardView(QGraphicsView):
    """Shows the pieces of the session's card.

    Attributes
    ----------
    px_per_mm : float
        Scale of the view, in device-independent pixels.
    look : Look
        How the card is shown.
    ghost : (Stamp, QPointF) or None
        What is being dragged here, and where it is, mm.
    viewMoved : Signal()
        The card's place or scale in the view has changed.
    """

    viewMoved = Signal()

    def __init__(self, session: Session, pictures: StampPictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("bench")
        self.setAccessibleName("Bench: the card with its pieces")
        self._session, self._pictures = session, pictures
        self.px_per_mm = 4.0
        self.look = SHOWN
        self.are_frames_off = False
        self.life_px_per_mm: float | None = None
        self._art = LeafArt(pictures)
        self._items: dict[str, LeafItem] = {}
        self._base: QImage | None = None
        self._base_of: tuple[object, ...] = ()
        self._leaves: tuple[Leaf, ...] = ()
        self.ghost: tuple[Stamp, QPointF] | None = None
        self.over = overlays.Overlays()
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
        session.glanceChanged.connect(self._take_envelope)
        session.selectionChanged.connect(self._show_selection)
        session.shown.connect(self.show_finding)
        self.refresh()

    # -- from the card -------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Bring the items in line with the card."""
        self.rest(())
        self._leaves = self._session.view.leaves
        self.over.forget()
        self._take_envelope()
        self.fit()
        self._bring_items()
        self._show_selection()

    def _bring_items(self) -> None:
        work = self._session.work
        wanted = {leaf.key for leaf in self._leaves}
        for key in [key for key in self._items if key not in wanted]:
            self.scene().removeItem(self._items.pop(key))
        grounds = grounds_of(work, self._leaves, self._session.pictures)
        scale = self.px_per_mm * self.devicePixelRatioF()
        self._show_base(grounds[""], scale)
        if self.look.colours and not self._items:  # a card that is shown for the first time
            laid = (lay_images(work.card, work.stash, self._leaves, leaf) for leaf in self._leaves)
            colour_all([laying for images in laid for laying, _ in images], drawn_of(work).image)
        for depth, leaf in enumerate(self._leaves):
            art = self._art.get(leaf, work, grounds.get(leaf.piece.on, grounds[""]), self.look, scale)
            item = self._items.get(leaf.key)
            if item is None:
                item = self._items[leaf.key] = LeafItem(leaf.key, leaf.piece, art)
                self.scene().addItem(item)
            else:
                item.show_art(art)
                item.place(leaf.piece)
            item.setZValue(depth)
            item.setVisible(not self._is_away(leaf))

    def _show_base(self, ground: Ground, scale: float) -> None:
        """Picture the base where it is of patterned paper; anew only when something of it changed that shows."""
        panel = self._session.work.card.panel
        key = (ground.pattern, panel, self.look.grey, round(scale * 100))
        if key != self._base_of:
            self._base_of = key
            plain = ground._replace(washes=())
            box = QRectF(0, 0, *panel)
            self._base = picture_ground(plain, box, self.look, scale) if ground.pattern is not None else None

    def _is_away(self, leaf: Leaf) -> bool:
        piece = leaf.piece
        if self.are_frames_off and not window_area(piece, self._session.work.stash).is_empty:
            return True
        while piece.id not in self.look.without:
            if piece.on not in self._session.names:
                return False
            piece = self._session.work.card.find(piece.on)
        return True

    def show_look(self, look: Look) -> None:
        """Show the card another way."""
        self.look = look
        self._bring_items()
        self._show_selection()

    def show_frames(self, *, are_off: bool) -> None:
        """Lift every frame away, or lay them back."""
        self.are_frames_off = are_off
        self._bring_items()
        self.viewport().update()

    def _show_selection(self) -> None:
        for item in self._items.values():
            item.is_chosen = item.piece.id in self._session.selection
        self.viewport().update()

    def show_finding(self, finding: Finding | None) -> None:
        """Mark the places of a finding; None marks nothing."""
        self.over.finding = finding
        self.viewport().update()

    def show_earlier(self, work: Work | None) -> None:
        """Show the outlines of an earlier layout as a ghost; None shows none."""
        self.over.earlier = [] if work is None else [area_path(leaf.area) for leaf in stack(work)]
        self.viewport().update()

    def show_bare(self, surface: shapely.Geometry | None, needed: shapely.Geometry | None) -> None:
        """Hatch all of a surface that is not in the area where ink is needed; None hatches nothing."""
        self.over.bare = None
        if surface is not None and needed is not None:
            self.over.bare = area_path(shapely.difference(surface, needed))
        self.viewport().update()

    def area_of(self, key: str) -> shapely.Geometry:
        """Area in place of a piece's body, mm."""
        return next(leaf.area for leaf in self._leaves if leaf.key == key)

    def show_places(self, places: Sequence[Room]) -> None:
        """Show proposed places for a greeting."""
        self.over.places = places
        self.viewport().update()

    def show_outline(self, area: shapely.Geometry | None) -> None:
        """Outline an area, such as an overlap or a strand that is pointed at; None outlines nothing."""
        self.over.outlined = None if area is None else area_path(area)
        self.viewport().update()

    def try_order(self, work: Work | None) -> None:
        """Show the pieces in the order of a work, without changing the card; None shows the card's own."""
        for depth, leaf in enumerate(stack(work or self._session.work)):
            if leaf.key in self._items:
                self._items[leaf.key].setZValue(depth)
        self.viewport().update()

    def show_moves(self, gaps: Sequence[Gap], guides: Sequence[Guide]) -> None:
        """Show gaps and guides of what is being moved."""
        self.over.gaps, self.over.guides = gaps, guides

    def picture_of(self, stamp: Stamp) -> QPixmap:
        """Return the stamp's picture at the view's scale, its outline filled with paper."""
        return self._pictures.get(stamp, self.px_per_mm * self.devicePixelRatioF(), ground=QColor(255, 255, 255))

    # -- view ----------------------------------------------------------------------------------------------------

    def fit(self) -> None:
        """Show the whole card as large as the room allows, or at life size."""
        width, height = self._session.work.card.panel
        room_x = max(60, self.viewport().width() - LEFT_PX - RIGHT_PX)
        room_y = max(60, self.viewport().height() - TOP_PX - BOTTOM_PX)
        scale = self.life_px_per_mm or min(room_x / width, room_y / height)
        left = LEFT_PX + (room_x - width * scale) / 2
        top = TOP_PX + (room_y - height * scale) / 2
        self.setSceneRect(
            -left / scale, -top / scale, self.viewport().width() / scale, self.viewport().height() / scale
        )
        if scale != self.px_per_mm or self.transform().m11() != scale:
            self.px_per_mm = scale
            self.setTransform(QTransform.fromScale(scale, scale))
            if self._items:
                self._bring_items()
        self.viewMoved.emit()
        self.viewport().update()

    def panel_left_px(self) -> int:
        """Where the card's left edge lies in the widget, px."""
        return self.mapFromScene(0.0, 0.0).x()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit()

    def drawBackground(self, painter: QPainter, rect: QRectF | QRect) -> None:
        painter.fillRect(rect, theme.MIST)
        width, height = self._session.work.card.panel
        offset = 5 / self.px_per_mm
        painter.fillRect(QRectF(offset, offset, width, height), QColor("#bccac1"))
        paper = QColor(self._session.work.card.paper if self.look.colours else "#ffffff")
        painter.fillRect(QRectF(0, 0, width, height), paper)
        if self._base is not None and self.look.colours:
            painter.drawImage(QRectF(0, 0, width, height), self._base)

    def drawForeground(self, painter: QPainter, rect: QRectF | QRect) -> None:
        del rect
        card = self._session.work.card
        painter.save()
        painter.resetTransform()
        origin = QPointF(self.mapFromScene(0.0, 0.0))
        card_box = QRectF(origin.x(), origin.y(), card.panel[0] * self.px_per_mm, card.panel[1] * self.px_per_mm)
        overlays.draw_edge(painter, card_box)
        view = (self.viewport().size(), self.devicePixelRatioF())
        self._rulers.draw(painter, view, origin=origin, panel=card.panel, unit=card.unit, px_per_mm=self.px_per_mm)
        if not card.pieces and self.ghost is None:
            overlays.draw_invitation(painter, card_box, has_stamps=bool(self._session.work.stash.stamps))
        self.over.draw(painter, self.viewportTransform(), card.panel)
        self.draw_knob(painter)
        if self.ghost is not None:
            stamp, at = self.ghost
            overlays.draw_ghost(painter, self.picture_of(stamp), box_of(stamp), at, self.viewportTransform())
        self.over.draw_moves(painter, self.viewportTransform(), card.unit)
        self.draw_tool(painter)
        painter.restore()

    def draw_knob(self, painter: QPainter) -> None:
        """Draw what the chosen piece is turned by, in the view's pixels; a view that is only looked at has none."""

    def draw_tool(self, painter: QPainter) -> None:
        """Draw what the maker is drawing, in the view's pixels."""

    def _take_envelope(self) -> None:
        """Show the envelope that the card is for, where a glance at it has seen anything hang over its edge."""
        glance = self._session.glance
        self.over.envelope = glance.envelope if glance is not None and glance.work is self._session.work else None
        self.viewport().update()

    # -- while pieces are moved ------------------------------------------------------------------------------------

    def rest(self, moving: Collection[str]) -> None:
        """Draw what rests once for a whole drag; nothing moving lifts the layers again."""
        if self._resting is not None:
            self._resting.lift()
        self._resting = RestingLayers(self, self._items.values(), moving) if moving else None

    def place_items(self, work: Work, keys: Collection[str]) -> None:
        """Show pieces where they are in a work, without changing the card."""
        for item in self._items.values():
            if item.piece.id in keys:
                item.place(work.card.find(item.piece.id))

    def shift_items(self, keys: Collection[str], by: QPointF) -> None:
        """Show pieces moved from where the card has them."""
        for item in self._items.values():
            if item.piece.id in keys:
                item.setPos(item.piece.x + by.x(), item.piece.y + by.y())

    def item_at(self, at: QPointF) -> LeafItem | None:
        """Find the foremost leaf at a point of the panel, mm."""
        for item in sorted(self._items.values(), key=lambda one: -one.zValue()):
            if item.isVisible() and item.holds(at):
                return item
        return None

    def items_within(self, box: QRectF) -> list[str]:
        """Ids of the pieces whose middle lies in a box of the panel, mm."""
        return [
            key
            for key, item in self._items.items()
            if key == item.piece.id and box.contains(item.sceneBoundingRect().center())
        ]

    def angle_of(self, key: str) -> float:
        """Angle in degrees at which a piece is shown just now."""
        return self._items[key].rotation()

    def single(self) -> LeafItem | None:
        """Return the body of the chosen piece when it is one."""
        if len(self._session.selection) != 1:
            return None
        return self._items.get(next(iter(self._session.selection)))

    def knob_at(self, item: LeafItem) -> tuple[QPointF, QPointF]:
        """Find the turning knob and the foot of its stem, in the view."""
        top = item.top
        foot = self.mapFromScene(item.mapToScene(QPointF(0, top)))
        knob = self.mapFromScene(item.mapToScene(QPointF(0, top - KNOB_PX / self.px_per_mm)))
        return QPointF(knob), QPointF(foot)

    def name_of(self, keys: Collection[str]) -> str:
        """Say what is moved: its name, or how many."""
        return self._session.names[next(iter(keys))] if len(keys) == 1 else f"{len(keys)} pieces"
