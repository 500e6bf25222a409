"""What lies on the bench: pieces, and layers that stand in for those that rest while others are dragged."""

from collections.abc import Callable, Collection, Iterable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap
from PySide6.QtWidgets import QGraphicsItem, QGraphicsView, QStyleOptionGraphicsItem, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.widgets.pictures import box_of, ring_path
from fair_thicket.model.pieces import Impression
from fair_thicket.model.stash import Stamp


class PieceItem(QGraphicsItem):
    """One impression on the bench: paper within its outline, its ink over it."""

    def __init__(self, piece: Impression, stamp: Stamp, picture_of: Callable[[Stamp], QPixmap]) -> None:
        super().__init__()
        self.stamp, self._picture_of = stamp, picture_of
        self.is_chosen = False
        self._box = box_of(stamp)
        self._path = ring_path(stamp.outline)
        self.place(piece)

    def place(self, piece: Impression) -> None:
        """Take the piece's place and turn from the card."""
        self.piece = piece
        self.setPos(piece.x, piece.y)
        self.setRotation(piece.angle_deg)

    def boundingRect(self) -> QRectF:
        return self._box

    def holds(self, point: QPointF) -> bool:
        """Say whether a point of the panel (mm) lies on the image."""
        return self._path.contains(self.mapFromScene(point))

    def paint(self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None) -> None:
        del option, widget
        self.draw(painter)

    def draw(self, painter: QPainter) -> None:
        """Draw the piece about its own middle, mm."""
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, bool(self.rotation() % 90))
        picture = self._picture_of(self.stamp)
        painter.drawPixmap(self._box, picture, QRectF(picture.rect()))
        if self.is_chosen:
            pen = QPen(theme.HONEY, 2)
            pen.setCosmetic(True)
            pen.setStyle(Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawPath(self._path)


class LayerItem(QGraphicsItem):
    """A picture of the whole view, drawn as it is."""

    def __init__(self, picture: QPixmap, seen: QRectF) -> None:
        super().__init__()
        self._picture, self._seen = picture, seen

    def boundingRect(self) -> QRectF:
        return self._seen

    def paint(self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None) -> None:
        del option, widget
        painter.resetTransform()
        painter.drawPixmap(0, 0, self._picture)


class RestingLayers:
    """While some pieces are dragged, all that rest are drawn once: one picture for each run between moving ones.

    A frame of a drag then costs a few pictures instead of one for every piece on the card.
    """

    def __init__(self, view: QGraphicsView, pieces: Iterable[PieceItem], moving: Collection[str]) -> None:
        self._scene = view.scene()
        self._hidden: list[PieceItem] = []
        self._layers: list[LayerItem] = []
        run: list[PieceItem] = []
        for item in sorted(pieces, key=lambda one: one.zValue()):
            if item.piece.id in moving:
                self._lay(view, run)
                run = []
            else:
                run.append(item)
        self._lay(view, run)

    def _lay(self, view: QGraphicsView, run: list[PieceItem]) -> None:
        if not run:
            return
        port = view.viewport()
        picture = QPixmap(port.size() * port.devicePixelRatioF())
        picture.setDevicePixelRatio(port.devicePixelRatioF())
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for item in run:
            painter.setTransform(item.sceneTransform() * view.viewportTransform())
            item.draw(painter)
            item.setVisible(False)
        painter.end()
        layer = LayerItem(picture, view.mapToScene(port.rect()).boundingRect())
        layer.setZValue(run[0].zValue())
        self._scene.addItem(layer)
        self._layers.append(layer)
        self._hidden += run

    def lift(self) -> None:
        """Take the layers off and show the pieces again."""
        for layer in self._layers:
            self._scene.removeItem(layer)
        for item in self._hidden:
            item.setVisible(True)
        self._layers, self._hidden = [], []
