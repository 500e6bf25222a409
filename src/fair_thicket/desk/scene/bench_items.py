"""What lies on the bench: leaves of the stack, and layers in place of those that rest during a drag."""

from collections.abc import Collection, Iterable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap, QTransform
from PySide6.QtWidgets import QGraphicsItem, QGraphicsView, QStyleOptionGraphicsItem, QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.leaf_art import Art
from fair_thicket.model.pieces import Piece


class LeafItem(QGraphicsItem):
    """One leaf on the bench.

    Attributes
    ----------
    key : str
        Of the leaf: a piece's id or a flap's key.
    piece : Piece
    is_chosen : bool
    """

    def __init__(self, key: str, piece: Piece, art: Art) -> None:
        super().__init__()
        self.key = key
        self.is_chosen = False
        self._art = art
        self.place(piece)

    def show_art(self, art: Art) -> None:
        """Take over another drawing."""
        if art is not self._art:
            self.prepareGeometryChange()
            self._art = art
            self.update()

    def place(self, piece: Piece) -> None:
        """Take the piece's place and turn from the card."""
        self.piece = piece
        self.setPos(piece.x, piece.y)
        self.setRotation(piece.angle_deg)

    def boundingRect(self) -> QRectF:
        return QTransform().rotate(-self._art.angle_deg).mapRect(self._art.box)

    @property
    def top(self) -> float:
        """Upper edge of the leaf about its piece's middle, mm."""
        return self._art.path.boundingRect().top()

    def holds(self, point: QPointF) -> bool:
        """Say whether a point of the panel (mm) lies on the leaf."""
        return self._art.path.contains(self.mapFromScene(point))

    def paint(self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None) -> None:
        del option, widget
        self.draw(painter)

    def draw(self, painter: QPainter) -> None:
        """Draw the leaf about its piece's middle, mm."""
        art = self._art
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.rotation() != art.angle_deg)
        if art.darkens:
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Multiply)
        painter.rotate(-art.angle_deg)
        painter.drawPixmap(art.box, art.picture, QRectF(art.picture.rect()))
        painter.rotate(art.angle_deg)
        if art.darkens:
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceOver)
        if self.is_chosen:
            self.draw_choice(painter)

    def draw_choice(self, painter: QPainter) -> None:
        """Draw the dashed line round what is chosen."""
        pen = QPen(theme.HONEY, 2)
        pen.setCosmetic(True)
        pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(self._art.path)


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

    def __init__(self, view: QGraphicsView, items: Iterable[LeafItem], moving: Collection[str]) -> None:
        self._scene = view.scene()
        self._hidden: list[LeafItem] = []
        self._layers: list[LayerItem] = []
        run: list[LeafItem] = []
        ordered = sorted(items, key=lambda one: one.zValue())
        self._lowest = next((item for item in ordered if item.isVisible()), None)
        for item in ordered:
            if item.piece.id in moving:
                self._lay(view, run)
                run = []
            elif item.isVisible():
                run.append(item)
        self._lay(view, run)

    def _lay(self, view: QGraphicsView, run: list[LeafItem]) -> None:
        if not run:
            return
        port = view.viewport()
        picture = QPixmap(port.size() * port.devicePixelRatioF())
        picture.setDevicePixelRatio(port.devicePixelRatioF())
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if run[0] is self._lowest:  # it lies on the card, which washes darken
            painter.setTransform(view.viewportTransform())
            view.drawBackground(painter, view.mapToScene(port.rect()).boundingRect())
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
