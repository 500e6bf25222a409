"""Leaves of the stack drawn once at the view's scale, about their piece's middle, and kept."""

import math
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray
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
    QTransform,
)

from fair_thicket.desk import theme
from fair_thicket.desk.parts.ground_art import (
    Ground,
    area_path,
    fill_ground,
    flat_colour,
    ground_tones,
    paint_colour,
    shown_pattern,
    to_image,
)
from fair_thicket.desk.parts.pictures import StampPictures, box_of, ring_path
from fair_thicket.ink.contrast import channels, luminance
from fair_thicket.ink.drawn import drawn_of
from fair_thicket.ink.finish_looks import Mark, marks_of
from fair_thicket.ink.ground import VEIL, shadow_of
from fair_thicket.ink.layings import lay_images
from fair_thicket.ink.lettering import CAPITAL, LINE_PITCH, words_height
from fair_thicket.ink.overlay import covers, lay_colour, lay_over
from fair_thicket.ink.painter import BACK_SEEN, Look
from fair_thicket.ink.patterns import pattern_tones
from fair_thicket.ink.shading import lay_tones
from fair_thicket.laid.stack import Leaf, stack
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.keys import flap_number
from fair_thicket.model.pieces import (
    INK,
    Cutout,
    Impression,
    InkZone,
    PaperPiece,
    Piece,
    Strip,
    Wash,
)
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.outline import open_pockets, to_outline, to_rings
from fair_thicket.shape.paper import strip_tails

ROOM_MM = 0.6
MOST_KEPT = 400


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


class LeafArt:
    """Draws leaves and keeps what it drew."""

    def __init__(self, pictures: StampPictures) -> None:
        self._pictures = pictures
        self._kept: dict[tuple[object, ...], Art] = {}

    def get(self, leaf: Leaf, work: Work, ground: Ground, look: Look, px_per_mm: float) -> Art:
        """Return a leaf's art; drawn anew only when something of it changed that shows."""
        still = msgspec.structs.replace(leaf.piece, x=0.0, y=0.0, held=None, on="", name="", copy_of="")
        shape = (leaf.area.wkb, leaf.piece.x, leaf.piece.y) if _is_bound(leaf) else ()
        own = (leaf.piece.x, leaf.piece.y) if ground.washes else ()
        marks = self._stamp_marks(leaf.piece, work)
        laid = lay_images(work.card, work.stash, stack(work), leaf) if look.colours else ()
        how = tuple((hash(laying.stamp.regions), laying[1:]) for laying, _ in laid)
        key = (flap_number(leaf.key), still, ground, look, round(px_per_mm * 1000), shape, own, marks, how)
        if key not in self._kept:
            if len(self._kept) > MOST_KEPT:
                self._kept.clear()
            self._kept[key] = self._draw(leaf, work, ground, look, px_per_mm)
        return self._kept[key]

    def _stamp_marks(self, piece: Piece, work: Work) -> tuple[object, ...]:
        """Tell apart what shows of the stash's things: their outlines and pictures."""
        if isinstance(piece, Impression | Cutout):
            stamp = work.stash.find(piece.stamp)
            shape = hash((stamp.outline, open_pockets(stamp), stamp.die_margin_mm, stamp.kind))
            return (stamp.picture, shape, *_pattern_marks(piece, work))
        return _pattern_marks(piece, work)

    def _draw(self, leaf: Leaf, work: Work, ground: Ground, look: Look, px_per_mm: float) -> Art:
        piece = leaf.piece
        path = area_path(leaf.area, piece)
        shadow = shadow_of(piece) if look.shadows and isinstance(piece, PaperPiece) else (0.0, 0.0)
        reach = max(shadow)
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
            cast = upright.translated(*shadow)
            if leaf.sheet is not leaf.area:  # a flap casts none on its own body
                cast = cast.subtracted(turn.map(area_path(leaf.sheet, piece)))
            painter.fillPath(cast, QColor(20, 26, 22, 70))
        painter.rotate(piece.angle_deg)
        if isinstance(piece, Wash):
            own = ground.below(piece.id)
            under = Ground(WHITE, own.washes[-1:]) if ground.is_lined else own
            fill_ground(painter, under, path, piece, look, px_per_mm)
        elif isinstance(piece, Impression):
            self._draw_impression(painter, leaf, piece, path, box, work, ground, look, px_per_mm)
        else:
            sheet = path if leaf.sheet is leaf.area else area_path(leaf.sheet, piece)
            self._draw_paper(painter, leaf, piece, path, sheet, box, work, look, px_per_mm)
        painter.end()
        return Art(picture, box, piece.angle_deg, path, isinstance(piece, Wash) and ground.is_lined)

    def _draw_impression(
        self,
        painter: QPainter,
        leaf: Leaf,
        piece: Impression,
        path: QPainterPath,
        box: QRectF,
        work: Work,
        ground: Ground,
        look: Look,
        px_per_mm: float,
    ) -> None:
        own, tones = _own_ground(leaf, piece, work, ground, look, box, px_per_mm)
        stamp = work.stash.find(piece.stamp)
        if tones is not None or not _is_on_veil(piece, work):  # through vellum one sees what lies behind
            painter.fillPath(path, paint_colour(own or ground.colour, look))
        painter.save()
        painter.setClipPath(path)
        if tones is not None:
            _draw_under(painter, to_image(tones, look))
        for ink, zone in _inks_of(piece, ground) if look.lines else ():
            painter.save()
            if zone is not None:
                painter.setClipPath(ring_path(zone.ring), Qt.ClipOperation.IntersectClip)
            is_itself = piece.is_embossed or covers(ink)
            if is_itself or tones is None:
                shown = ink if is_itself or own is None else lay_colour(own, ink)
                self._draw_lines(painter, stamp, shown, look, px_per_mm)
            else:
                self._draw_on(painter, tones, stamp, ink, look, px_per_mm)
            painter.restore()
        painter.restore()

    def _draw_on(
        self,
        painter: QPainter,
        tones: NDArray[np.float32],
        stamp: Stamp,
        ink: str,
        look: Look,
        px_per_mm: float,
    ) -> None:
        """Draw lines in an ink that lets through what changes from place to place; one that covers is itself."""
        if covers(ink):
            self._draw_lines(painter, stamp, ink, look, px_per_mm)
            return
        mixed = lay_over(tones, np.array(channels(ink), np.float32))
        self._draw_mixed(painter, stamp, to_image(mixed, look), look, px_per_mm)

    def _draw_mixed(self, painter: QPainter, stamp: Stamp, mixed: QImage, look: Look, px_per_mm: float) -> None:
        """Draw an image's lines in colours that change from place to place; `mixed` fills all that is painted on."""
        layer = QPixmap(mixed.size())
        layer.fill(Qt.GlobalColor.transparent)
        own = QPainter(layer)
        own.setRenderHints(painter.renderHints())
        own.setTransform(painter.transform())
        self._draw_lines(own, stamp, INK, look, px_per_mm)
        own.resetTransform()
        own.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceIn)
        own.drawImage(0, 0, mixed)
        own.end()
        _draw_under(painter, layer.toImage())

    def _draw_paper(
        self,
        painter: QPainter,
        leaf: Leaf,
        piece: PaperPiece,
        path: QPainterPath,
        sheet: QPainterPath,
        box: QRectF,
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
        pattern = shown_pattern(leaf.piece, work, self._pictures.pictures) if look.colours else None
        if pattern is not None:
            moved = pattern._replace(x=-box.left(), y=-box.top())
            window = (slice(0, round(box.height() * px_per_mm)), slice(0, round(box.width() * px_per_mm)))
            painter.setOpacity(VEIL if piece.translucent else 1.0)
            _draw_under(painter, to_image(pattern_tones(moved, window, px_per_mm), look))
            painter.setOpacity(1.0)
        if isinstance(piece, Cutout) and piece.opening is None and look.lines:
            self._draw_cut_image(painter, leaf, piece, box, work, look, px_per_mm)
        elif isinstance(piece, Strip):
            _draw_backs(painter, piece)
            if piece.words and look.lines:
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
        painter.save()
        painter.setClipPath(path)
        for mark in marks_of(leaf.piece, work.stash):
            shade = QColor("white" if mark.is_light else "black")
            shade.setAlphaF(mark.share)
            painter.fillPath(_mark_path(mark), shade)
        painter.restore()

    def _draw_cut_image(
        self,
        painter: QPainter,
        leaf: Leaf,
        piece: Cutout,
        box: QRectF,
        work: Work,
        look: Look,
        px_per_mm: float,
    ) -> None:
        stamp, ink = work.stash.find(piece.stamp), _ink_on(piece.colour or WHITE, piece.ink)
        tones = _coloured_tones(leaf, work, piece.colour or WHITE, box, px_per_mm) if look.colours else None
        if tones is not None:
            _draw_under(painter, to_image(tones, look))
            self._draw_on(painter, tones, stamp, piece.ink or INK, look, px_per_mm)
        elif not stamp.kind.is_plain:
            self._draw_lines(painter, stamp, ink, look, px_per_mm)
        for part in piece.joined:
            painter.save()
            painter.translate(part.x, part.y)
            painter.rotate(part.angle_deg)
            self._draw_lines(painter, work.stash.find(part.stamp), ink, look, px_per_mm)
            painter.restore()

    def _draw_lines(self, painter: QPainter, stamp: Stamp, ink: str, look: Look, px_per_mm: float) -> None:
        picture = self._pictures.get(stamp, px_per_mm)
        if look.colours:
            picture = _coloured(picture, paint_colour(ink, look))
        painter.drawPixmap(box_of(stamp), picture, QRectF(picture.rect()))


def _own_ground(
    leaf: Leaf, piece: Impression, work: Work, ground: Ground, look: Look, box: QRectF, px_per_mm: float
) -> tuple[str | None, NDArray[np.float32] | None]:
    """Return the one colour that an impression's lines lie on, or the tones where it changes from place to place."""
    own: str | None = ground.colour
    if piece.colour is not None:
        own = lay_colour(ground.colour, piece.colour)
    elif look.colours and not piece.colouring:
        own = flat_colour(ground, leaf.area)
    tones = _coloured_tones(leaf, work, own or ground.colour, box, px_per_mm) if look.colours else None
    if tones is not None:
        return None, tones
    return own, None if own is not None else ground_tones(ground, box.translated(piece.x, piece.y), px_per_mm)


def _coloured_tones(leaf: Leaf, work: Work, paper: str, box: QRectF, px_per_mm: float) -> NDArray[np.float32] | None:
    """Return a coloured image's tones on its paper, for every pixel of its art; None for what is not coloured so."""
    laid = lay_images(work.card, work.stash, stack(work), leaf)
    window = (slice(0, round(box.height() * px_per_mm)), slice(0, round(box.width() * px_per_mm)))
    off = (-box.left() - leaf.piece.x, -box.top() - leaf.piece.y)
    tones = lay_tones(laid, window, px_per_mm, drawn_of(work).image, off=off)
    return None if tones is None else lay_over(np.array(channels(paper), np.float32), tones)


def _is_on_veil(piece: Impression, work: Work) -> bool:
    surface = next((one for one in work.card.pieces if one.id == piece.on), None)
    return isinstance(surface, PaperPiece) and surface.translucent and not piece.is_coloured


def _is_bound(leaf: Leaf) -> bool:
    """Whether a leaf's shape depends on where it lies, as that of trimmed pieces and washes does."""
    piece, is_trimmed = leaf.piece, bool(leaf.piece.trim_to)
    return is_trimmed or isinstance(piece, Wash) or (isinstance(piece, Impression) and leaf.area is not leaf.whole)


def _pattern_marks(piece: Piece, work: Work) -> tuple[object, ...]:
    """Tell apart patterned papers by their pictures."""
    if isinstance(piece, PaperPiece) and piece.pattern and work.stash.has(piece.pattern):
        paper = work.stash.find(piece.pattern)
        return (paper.picture, paper.width_mm)
    return ()


def _ink_on(ground: str, ink: str | None) -> str:
    """Colour of an ink's lines on a flat ground."""
    shown = ink or INK
    return shown if covers(shown) else lay_colour(ground, shown)


def _draw_under(painter: QPainter, image: QImage) -> None:
    """Draw an image over all that is painted on, whatever way the painter stands; its clip holds."""
    painter.save()
    painter.resetTransform()
    painter.drawImage(0, 0, image)
    painter.restore()


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
    measure = QFontMetricsF(font)
    painter.save()
    painter.scale(scale, scale)
    path = QPainterPath()
    foot = words_height(piece.words, 200 * CAPITAL) / 2
    for number, line in enumerate(reversed(piece.words.split("\n"))):
        base = foot - number * LINE_PITCH * 200 * CAPITAL
        path.addText(QPointF(-measure.horizontalAdvance(line) / 2, base), font, line)
    painter.fillPath(path, paint_colour(piece.ink or INK, look))
    painter.restore()


def _draw_backs(painter: QPainter, piece: Strip) -> None:
    """Darken the tails of folded ends: there the paper's back is seen."""
    front = QPainterPath()
    front.addRect(QRectF(-piece.width_mm / 2, -piece.height_mm / 2, piece.width_mm, piece.height_mm))
    shade = QColor(0, 0, 0, round(255 * (1 - BACK_SEEN)))
    for tail in strip_tails(piece.width_mm, piece.height_mm, piece.left, piece.right):
        painter.fillPath(ring_path(to_outline(tail)[0]).subtracted(front), shade)


def _mark_path(mark: Mark) -> QPainterPath:
    path = QPainterPath()
    for ring in to_rings(mark.area):
        path.addPath(ring_path(ring))
    return path


def _inks_of(piece: Impression, ground: Ground) -> list[tuple[str, InkZone | None]]:
    """Inks of an image with the part of it that each is for, in the order of laying."""
    if piece.resists:
        return [(ground.colour, None)] if piece.keeps_washes_off else []
    zones = [(zone.ink, zone) for zone in reversed(piece.zones)]  # the first zone lies over the later ones
    return [(piece.ink or INK, None), *zones]
