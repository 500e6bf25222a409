"""Leaves of the stack drawn once at the view's scale, about their piece's middle, and kept."""

import math
from typing import NamedTuple

import msgspec
import numpy as np
import shapely
from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontMetricsF,
    QImage,
    QPainter,
    QPainterPath,
    QPen,
    QPixmap,
    QPolygonF,
    QTransform,
)

from fair_thicket.desk import theme
from fair_thicket.desk.widgets.pictures import StampPictures, box_of, ring_path
from fair_thicket.ink.contrast import channels, luminance
from fair_thicket.ink.gradients import is_blended, is_opaque, wash_colour, wash_tones
from fair_thicket.ink.lifting import lifted_area, soften
from fair_thicket.ink.overlay import lay_colour, lay_over
from fair_thicket.ink.painting import CAPITAL, FLAT_SHADOW_MM, VEIL, Look
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.pieces import (
    INK,
    AnyWash,
    Cutout,
    Embellishment,
    Impression,
    InkZone,
    PaperPiece,
    Piece,
    Strip,
    Wash,
)
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.outline import turn_points
from fair_thicket.shape.raster import fill
from fair_thicket.shape.stack import Leaf
from fair_thicket.shape.wash_kinds import kind_of
from fair_thicket.shape.washes import LaidStencil, list_lays

ROOM_MM = 0.6
MOST_KEPT = 400


class Inked(NamedTuple):
    """A wash as it is inked.

    Attributes
    ----------
    wash : Wash
    area, lifted : bytes
        In place on the panel, as WKB: where it is inked, and where water lifts its ink again.
    lays : tuple of LaidStencil
    """

    wash: AnyWash
    area: bytes
    lifted: bytes
    lays: tuple[LaidStencil, ...]


class Ground(NamedTuple):
    """What an impression stands on, or a wash is inked on.

    Attributes
    ----------
    colour : str
        Of the surface's paper.
    washes : tuple of Inked
        On it, from the first.
    is_lined : bool
        The surface bears lines, or lets through what is behind; both are seen through a wash.
    """

    colour: str
    washes: tuple[Inked, ...] = ()
    is_lined: bool = False

    def below(self, key: str) -> "Ground":
        """Give the ground as it is when the wash of that id has just been inked."""
        keys = [wash.id for wash, *_ in self.washes]
        return self._replace(washes=self.washes[: keys.index(key) + 1] if key in keys else ())


class Art(NamedTuple):
    """A leaf as drawn, turned as its piece is turned, so that showing it is plain copying of pixels.

    Attributes
    ----------
    picture : QPixmap
    box : QRectF
        What the picture fills, mm from the piece's middle, upright on the panel.
    angle_deg : float
        How far the piece was turned.
    path : QPainterPath
        Outline of the leaf about the piece's middle, unturned, mm.
    darkens : bool
        It is laid over what bears lines, and lets them through.
    """

    picture: QPixmap
    box: QRectF
    angle_deg: float
    path: QPainterPath
    darkens: bool = False


def area_path(area: shapely.Geometry, piece: Piece | None = None) -> QPainterPath:
    """Turn an area into a path, holes left open; as seen from a piece's middle, unturned, if one is given."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for part in shapely.get_parts(area):
        if isinstance(part, shapely.Polygon) and not part.is_empty:
            for ring in (part.exterior, *part.interiors):
                points = np.asarray(ring.coords)
                if piece is not None:
                    points = turn_points(points - (piece.x, piece.y), -piece.angle_deg, 0, 0)
                path.addPolygon(QPolygonF([QPointF(x, y) for x, y in points.tolist()]))
                path.closeSubpath()
    return path


def grounds_of(work: Work, leaves: "tuple[Leaf, ...]") -> dict[str, Ground]:
    """Ground of every surface that is stamped on."""
    colours = {"": work.card.paper, **{piece.id: piece.colour or WHITE for piece in work.card.pieces}}
    washes: dict[str, list[Inked]] = {}
    for leaf in leaves:
        if isinstance(leaf.piece, Wash) and not leaf.area.is_empty:
            washes.setdefault(leaf.piece.on, []).append(inked(leaf, leaf.piece, work, leaves))
    lined = {
        piece.id
        for piece in work.card.pieces
        if isinstance(piece, Cutout) or (isinstance(piece, PaperPiece) and piece.translucent)
    }
    return {key: Ground(colour, tuple(washes.get(key, ())), key in lined) for key, colour in colours.items()}


def inked(leaf: Leaf, piece: AnyWash, work: Work, leaves: "tuple[Leaf, ...]") -> Inked:
    """Give a wash as it is inked; the leaves are the card's."""
    lifted = lifted_area(work.card, leaves, piece)
    return Inked(piece, leaf.area.wkb, lifted.wkb, list_lays(piece, work.stash))


class LeafArt:
    """Draws leaves and keeps what it drew."""

    def __init__(self, pictures: StampPictures) -> None:
        self._pictures = pictures
        self._kept: dict[tuple[object, ...], Art] = {}

    def get(self, leaf: Leaf, work: Work, ground: Ground, look: Look, px_per_mm: float) -> Art:
        """Return a leaf's art; drawn anew only when something of it changed that shows."""
        still = msgspec.structs.replace(leaf.piece, x=0.0, y=0.0, held=None, on="", name="", copy_of="")
        is_cut = bool(leaf.piece.trim_to) or leaf.area is not leaf.whole or isinstance(leaf.piece, PaperPiece | Wash)
        shape = (leaf.area.wkb, leaf.piece.x, leaf.piece.y) if _is_bound(leaf, is_cut) else ()
        own = (leaf.piece.x, leaf.piece.y) if ground.washes else ()
        marks = self._stamp_marks(leaf.piece, work)
        key = (leaf.key.partition("~")[2], still, ground, look, round(px_per_mm * 1000), shape, own, marks)
        if key not in self._kept:
            if len(self._kept) > MOST_KEPT:
                self._kept.clear()
            self._kept[key] = self._draw(leaf, work, ground, look, px_per_mm)
        return self._kept[key]

    def _stamp_marks(self, piece: Piece, work: Work) -> tuple[object, ...]:
        """Tell apart what shows of the stash's things: their outlines and pictures."""
        if isinstance(piece, Impression | Cutout):
            stamp = work.stash.find(piece.stamp)
            return (stamp.picture, hash(stamp.outline), stamp.die_margin_mm, stamp.kind)
        return ()

    def _draw(self, leaf: Leaf, work: Work, ground: Ground, look: Look, px_per_mm: float) -> Art:
        piece = leaf.piece
        path = area_path(leaf.area, piece)
        reach = _shadow_mm(piece, look)
        turn = QTransform().rotate(piece.angle_deg)
        upright = turn.map(path)
        box = upright.boundingRect().adjusted(-ROOM_MM, -ROOM_MM, ROOM_MM + reach, ROOM_MM + reach)
        size = QSize(max(1, math.ceil(box.width() * px_per_mm)), max(1, math.ceil(box.height() * px_per_mm)))
        box.setSize(QSizeF(size.width() / px_per_mm, size.height() / px_per_mm))
        picture = QPixmap(size)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.scale(px_per_mm, px_per_mm)
        painter.translate(-box.left(), -box.top())
        if reach:  # light comes from the upper left of the card, however a piece is turned
            cast = upright.translated(reach * 0.7, reach)
            if leaf.sheet is not leaf.area:  # a flap casts none on its own body
                cast = cast.subtracted(turn.map(area_path(leaf.sheet, piece)))
            painter.fillPath(cast, QColor(20, 26, 22, 70))
        painter.rotate(piece.angle_deg)
        if isinstance(piece, Wash):
            own = ground.below(piece.id)
            under = Ground(WHITE, own.washes[-1:]) if ground.is_lined else own
            _fill_ground(painter, under, path, piece, look, px_per_mm)
        elif isinstance(piece, Impression):
            self._draw_impression(painter, piece, path, work, ground, look, px_per_mm)
        else:
            sheet = path if leaf.sheet is leaf.area else area_path(leaf.sheet, piece)
            self._draw_paper(painter, piece, path, sheet, work, look, px_per_mm)
        painter.end()
        return Art(picture, box, piece.angle_deg, path, isinstance(piece, Wash) and ground.is_lined)

    def _draw_impression(
        self,
        painter: QPainter,
        piece: Impression,
        path: QPainterPath,
        work: Work,
        ground: Ground,
        look: Look,
        px_per_mm: float,
    ) -> None:
        if piece.colour is not None:
            painter.fillPath(path, paint_colour(lay_colour(ground.colour, piece.colour), look))
        else:
            _fill_ground(painter, ground, path, piece, look, px_per_mm)
        painter.save()
        painter.setClipPath(path)
        if look.lines:
            stamp = work.stash.find(piece.stamp)
            self._draw_lines(painter, stamp, ground.colour if piece.resists else piece.ink, look, px_per_mm)
            for zone in reversed(() if piece.resists else piece.zones):  # the first zone lies over the later ones
                self._draw_zone(painter, stamp, zone, look, px_per_mm)
        painter.restore()

    def _draw_zone(self, painter: QPainter, stamp: Stamp, zone: InkZone, look: Look, px_per_mm: float) -> None:
        """Draw a part of an impression's lines in the zone's own colour."""
        painter.save()
        painter.setClipPath(ring_path(zone.ring), Qt.ClipOperation.IntersectClip)
        self._draw_lines(painter, stamp, zone.ink, look, px_per_mm)
        painter.restore()

    def _draw_paper(
        self,
        painter: QPainter,
        piece: PaperPiece,
        path: QPainterPath,
        sheet: QPainterPath,
        work: Work,
        look: Look,
        px_per_mm: float,
    ) -> None:
        colour = paint_colour(piece.colour or WHITE, look)
        if piece.translucent:
            colour.setAlphaF(VEIL)
        painter.fillPath(path, colour)
        painter.save()
        painter.setClipPath(path)
        if isinstance(piece, Cutout) and piece.opening is None and look.lines:
            stamp = work.stash.find(piece.stamp)
            if not stamp.kind.is_plain:
                self._draw_lines(painter, stamp, piece.ink, look, px_per_mm)
            for part in piece.joined:
                painter.save()
                painter.translate(part.x, part.y)
                painter.rotate(part.angle_deg)
                self._draw_lines(painter, work.stash.find(part.stamp), piece.ink, look, px_per_mm)
                painter.restore()
        elif isinstance(piece, Strip) and piece.words and look.lines:
            _draw_words(painter, piece, look)
        painter.restore()
        edge = QColor(colour).darker(150 if luminance(colour.name()) > 0.03 else 60)
        edge.setAlphaF(0.75)
        pen = QPen(edge, 2.0)  # half of it falls outside and is clipped
        pen.setCosmetic(True)
        painter.save()
        painter.setClipPath(path)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(sheet)  # a flap has no edge where it holds on to its body
        painter.restore()
        if isinstance(piece, Embellishment):
            _draw_shine(painter, piece)

    def _draw_lines(self, painter: QPainter, stamp: Stamp, ink: str | None, look: Look, px_per_mm: float) -> None:
        picture = self._pictures.get(stamp, px_per_mm)
        if ink is not None and look.colours:
            picture = _coloured(picture, paint_colour(ink, look))
        painter.drawPixmap(box_of(stamp), picture, QRectF(picture.rect()))


def _fill_ground(
    painter: QPainter, ground: Ground, path: QPainterPath, piece: Piece, look: Look, px_per_mm: float
) -> None:
    """Fill a path with paper and the washes on it; the painter stands at the piece's middle, turned with it, in mm."""
    painter.fillPath(path, paint_colour(ground.colour, look))
    if not look.colours or not ground.washes:
        return
    wash, area, lifted, lays = ground.washes[0]
    is_plain = not lays and not is_blended(wash) and kind_of(wash).has_colour and shapely.from_wkb(lifted).is_empty
    if len(ground.washes) == 1 and is_plain:
        part = path if wash is piece else area_path(shapely.from_wkb(area), piece).intersected(path)
        colour = wash_colour(wash) if is_opaque(wash) else lay_colour(ground.colour, wash_colour(wash))
        painter.fillPath(part, paint_colour(colour, look))
        return
    to_panel = QTransform().translate(piece.x, piece.y).rotate(piece.angle_deg)
    box = to_panel.mapRect(path.boundingRect())
    image = picture_ground(ground, box, look, px_per_mm, edge_of=piece)
    painter.save()
    painter.setClipPath(path, Qt.ClipOperation.IntersectClip)
    painter.setTransform(to_panel.inverted()[0], True)
    painter.drawImage(QRectF(box.left(), box.top(), image.width() / px_per_mm, image.height() / px_per_mm), image)
    painter.restore()


def picture_ground(
    ground: Ground, box: QRectF, look: Look, px_per_mm: float, *, edge_of: Piece | None = None
) -> QImage:
    """Picture paper and its washes over a box of the panel, mm: ink over ink as it mixes.

    The wash that is `edge_of` is pictured a pixel wider, for what clips it to be smooth.
    """
    size = (max(1, math.ceil(box.height() * px_per_mm)), max(1, math.ceil(box.width() * px_per_mm)))
    seen = np.empty((*size, 3), np.float32)
    seen[:] = channels(ground.colour)
    for wash, area, lifted, lays in ground.washes:
        shape = shapely.from_wkb(area)
        shape = shapely.buffer(shape, 1 / px_per_mm) if wash is edge_of else shape
        inside = fill(shape, size, px_per_mm, left=box.left(), top=box.top())
        if not kind_of(wash).has_colour or not inside.any():
            continue
        tones = wash_tones(wash, (box.left(), box.top()), size, px_per_mm, lays=lays)
        soft = fill(shapely.from_wkb(lifted), size, px_per_mm, left=box.left(), top=box.top())
        laid = soften(tones[inside], soft[inside])
        seen[inside] = laid if is_opaque(wash) else lay_over(seen[inside], laid)
    levels = np.rint(seen * 255).astype(np.uint8)
    image = QImage(levels.data, size[1], size[0], 3 * size[1], QImage.Format.Format_RGB888).copy()
    return image.convertToFormat(QImage.Format.Format_Grayscale8) if look.grey else image


def _is_bound(leaf: Leaf, is_cut: bool) -> bool:
    """Whether a leaf's shape depends on where it lies, as that of trimmed pieces and washes does."""
    piece = leaf.piece
    return is_cut and (bool(piece.trim_to) or isinstance(piece, Impression | Wash))


def _shadow_mm(piece: Piece, look: Look) -> float:
    if not look.shadows or not isinstance(piece, PaperPiece):
        return 0.0
    return piece.lift_mm * 0.6 + FLAT_SHADOW_MM


def paint_colour(colour: str, look: Look) -> QColor:
    """Colour as it is shown: white paper where colours are off, its lightness where only grey is wanted."""
    if not look.colours:
        return QColor(WHITE)
    shown = QColor(colour)
    if look.grey:
        grey = round(255 * (luminance(colour) ** (1 / 2.2)))
        return QColor(grey, grey, grey)
    return shown


def _coloured(picture: QPixmap, colour: QColor) -> QPixmap:
    coloured = QPixmap(picture)
    painter = QPainter(coloured)
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceIn)
    painter.fillRect(coloured.rect(), colour)
    painter.end()
    return coloured


def _draw_words(painter: QPainter, piece: Strip, look: Look) -> None:
    """Write a strip's words: drawn large and scaled, so that letters keep their widths at any scale."""
    font = theme.font(200, QFont.Weight.DemiBold)
    scale = piece.words_mm / CAPITAL / 200
    width = QFontMetricsF(font).horizontalAdvance(piece.words)
    painter.save()
    painter.scale(scale, scale)
    path = QPainterPath()
    path.addText(QPointF(-width / 2, 200 * CAPITAL / 2), font, piece.words)
    painter.fillPath(path, paint_colour(piece.ink or INK, look))
    painter.restore()


def _draw_shine(painter: QPainter, piece: Embellishment) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(255, 255, 255, 170))
    for x, y in piece.spots:
        painter.drawEllipse(QPointF(x - piece.size_mm * 0.15, y - piece.size_mm * 0.15), *(2 * [piece.size_mm * 0.1]))
