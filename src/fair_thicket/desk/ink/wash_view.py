"""A wash on its panel as it comes out, with the outlines of what else stands there: what dialogs about washes show."""

import shapely
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QWidget

from fair_thicket.desk import theme
from fair_thicket.desk.parts.ground_art import Ground, area_path, picture_ground
from fair_thicket.ink.ground import Inked
from fair_thicket.ink.painter import Look
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.pieces import AnyWash, Wash
from fair_thicket.shape.outline import NOTHING
from fair_thicket.shape.paper import footprint, form_area, place
from fair_thicket.shape.washes import list_lays

ROOM_PX, ROUGH = 34.0, 0.5


class WashView(QWidget):
    """Draws the panel with a wash as inked; other washes and colours of pieces are left out, for the ink to be seen.

    Attributes
    ----------
    piece : Wash
    is_rough : bool
        Half as fine, while something is dragged: the hand must not wait for the ink.
    changed : Signal()
        The maker has changed something with the mouse or the keys.
    """

    changed = Signal()

    def __init__(self, work: Work, piece: AnyWash, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(480, 400)
        self.setAccessibleName(name)
        self.work, self.piece = work, piece
        self.is_rough = False
        self._scene = [area_path(leaf.area) for leaf in stack(work) if not isinstance(leaf.piece, Wash)]
        self._pictured: object = None
        self._picture = QImage()
        self._paper, self._inked = QColor(WHITE), QPainterPath()

    def sizeHint(self) -> QSize:
        return QSize(640, 520)

    def show_piece(self, piece: AnyWash) -> None:
        """Show a wash."""
        self.piece = piece
        self.update()

    def show_rough(self, *, is_rough: bool) -> None:
        """Draw half as fine from now on, or in full again."""
        self.is_rough = is_rough
        self.update()

    # -- places --------------------------------------------------------------------------------------------------

    def extent(self) -> QRectF:
        """Return what must be in view, mm on the panel."""
        return QRectF(0, 0, *self.work.card.panel)

    def to_view(self) -> QTransform:
        """From places of the panel, mm, to the widget."""
        seen = self.extent()
        scale = min((self.width() - 2 * ROOM_PX) / seen.width(), (self.height() - 2 * ROOM_PX) / seen.height())
        middle = seen.center()
        return (
            QTransform.fromTranslate(self.width() / 2, self.height() / 2)
            .scale(scale, scale)
            .translate(-middle.x(), -middle.y())
        )

    def to_panel(self) -> QTransform:
        """From places about the wash's middle, unturned, to places of the panel, mm."""
        return QTransform.fromTranslate(self.piece.x, self.piece.y).rotate(self.piece.angle_deg)

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.MIST)
        view = self.to_view()
        painter.save()
        painter.setTransform(view, True)
        self._draw_panel(painter, view.m11())
        painter.restore()
        self.draw_more(painter)

    def make_ground(self) -> tuple[Ground, shapely.Geometry]:
        """Return the paper with the wash on it, and the area that is inked."""
        area, lays = footprint(self.piece, self.work.stash), list_lays(self.piece, self.work.stash)
        on = next((one.colour for one in self.work.card.pieces if one.id == self.piece.on), self.work.card.paper)
        return Ground(on or WHITE, (Inked(self.piece, area.wkb, NOTHING.wkb, lays),)), area

    def draw_more(self, painter: QPainter) -> None:
        """Draw what a dialog adds; the painter stands in the widget's own pixels."""

    def _draw_panel(self, painter: QPainter, scale: float) -> None:
        box = QRectF(0, 0, *self.work.card.panel)
        scale *= ROUGH if self.is_rough else 1.0
        key = (self.piece, round(scale * 100))
        if self._pictured != key:
            ground, area = self.make_ground()
            self._paper, self._inked = QColor(ground.colour), area_path(area)
            picture = picture_ground(ground, box, Look(), scale, edge_of=self.piece)
            self._pictured, self._picture = key, picture
        painter.fillRect(box, self._paper)
        painter.save()
        painter.setClipPath(self._inked)
        painter.drawImage(box, self._picture)
        painter.restore()
        pen = QPen(theme.LINE, 1)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        form = area_path(place(form_area(self.piece.form), self.piece))
        pen.setStyle(Qt.PenStyle.DotLine)
        painter.setPen(pen)
        painter.drawPath(form)
        self._draw_scene(painter)

    def _draw_scene(self, painter: QPainter) -> None:
        """Draw the outlines of what else stands on the card, faintly: the wash is made for it."""
        faint = QColor(theme.SOFT_INK)
        faint.setAlpha(110)
        pen = QPen(faint, 1)
        pen.setCosmetic(True)
        painter.setPen(pen)
        for path in self._scene:
            painter.drawPath(path)
