"""What is stamped and inked on, drawn at the view's scale: paper with its washes, ink over ink as it mixes."""

import math
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import shapely
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPolygonF, QTransform

from fair_thicket.ink.contrast import channels, luminance
from fair_thicket.ink.drawn import drawn_of
from fair_thicket.ink.gradients import is_blended, is_opaque, wash_colour
from fair_thicket.ink.ground import Floats, Inked, inked, lay_wash
from fair_thicket.ink.overlay import lay_colour
from fair_thicket.ink.painter import Look
from fair_thicket.ink.patterns import Patterned, base_pattern, pattern_of, pattern_tones
from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.errors import PictureError
from fair_thicket.model.pieces import Cutout, PaperPiece, Piece, Wash
from fair_thicket.shape.outline import turn_points
from fair_thicket.shape.raster import fill
from fair_thicket.shape.wash_kinds import kind_of


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
    pattern : Patterned or None
        Of the surface's paper, where it has one.
    """

    colour: str
    washes: tuple[Inked, ...] = ()
    is_lined: bool = False
    pattern: Patterned | None = None

    def below(self, key: str) -> "Ground":
        """Return the ground as it is when the wash of that id has just been inked."""
        keys = [wash.id for wash, *_ in self.washes]
        return self._replace(washes=self.washes[: keys.index(key) + 1] if key in keys else ())


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


def grounds_of(work: Work, leaves: "tuple[Leaf, ...]", pictures: Mapping[str, bytes]) -> dict[str, Ground]:
    """Ground of every surface that is stamped on; a paper whose picture is not among `pictures` is shown plain."""
    patterns: dict[str, Patterned | None] = {"": shown_pattern(None, work, pictures)}
    patterns |= {piece.id: shown_pattern(piece, work, pictures) for piece in work.card.pieces}
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
    return {
        key: Ground(colour, tuple(washes.get(key, ())), key in lined, patterns[key]) for key, colour in colours.items()
    }


def shown_pattern(piece: Piece | None, work: Work, pictures: Mapping[str, bytes]) -> Patterned | None:
    """Return the pattern of a piece, or of the base for None; none where its picture is missing or damaged."""
    try:
        decode_by = drawn_of(work).tile
        if piece is None:
            return base_pattern(work.card, work.stash, pictures, decode_by=decode_by)
        return pattern_of(piece, work.stash, pictures, decode_by=decode_by)
    except PictureError:
        return None


def _flat_ink(ground: Ground) -> str | None:
    """Colour of the paper where its one plain wash lies; None where there are more, or one that is not flat."""
    if len(ground.washes) != 1 or ground.pattern is not None:
        return None
    wash, _, lifted, lays = ground.washes[0]
    if lays or is_blended(wash) or not kind_of(wash).has_colour or not shapely.from_wkb(lifted).is_empty:
        return None
    return wash_colour(wash) if is_opaque(wash) else lay_colour(ground.colour, wash_colour(wash))


def flat_colour(ground: Ground, area: shapely.Geometry) -> str | None:
    """Colour of the ground all over an area of the panel; None where it changes there."""
    if not ground.washes:
        return ground.colour if ground.pattern is None else None
    ink = _flat_ink(ground)
    return ink if ink is not None and shapely.from_wkb(ground.washes[0].area).covers(area) else None


def fill_ground(
    painter: QPainter, ground: Ground, path: QPainterPath, piece: Piece, look: Look, px_per_mm: float
) -> None:
    """Fill a path with paper and the washes on it; the painter stands at the piece's middle, turned with it, in mm."""
    painter.fillPath(path, paint_colour(ground.colour, look))
    if not look.colours or not (ground.washes or ground.pattern):
        return
    inked_flat = _flat_ink(ground)
    if inked_flat is not None:
        wash, area, *_ = ground.washes[0]
        part = path if wash is piece else area_path(shapely.from_wkb(area), piece).intersected(path)
        painter.fillPath(part, paint_colour(inked_flat, look))
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
    """Picture paper and its washes over a box of the panel, mm; see `ground_tones`."""
    return to_image(ground_tones(ground, box, px_per_mm, edge_of=edge_of), look)


def ground_tones(ground: Ground, box: QRectF, px_per_mm: float, *, edge_of: Piece | None = None) -> Floats:
    """Tones of paper and its washes over a box of the panel, mm: ink over ink as it mixes.

    The wash that is `edge_of` reaches a pixel further, for what clips it to be smooth.

    Returns
    -------
    (rows, columns, 3) float32, sRGB 0..1
    """
    size = (max(1, math.ceil(box.height() * px_per_mm)), max(1, math.ceil(box.width() * px_per_mm)))
    seen = _paper_tones(ground, box, size, px_per_mm)
    for laid in ground.washes:
        shape = shapely.from_wkb(laid.area)
        shape = shapely.buffer(shape, 1 / px_per_mm) if laid.wash is edge_of else shape
        inside = fill(shape, size, px_per_mm, left=box.left(), top=box.top())
        lay_wash([seen], laid, inside, (box.left(), box.top()), px_per_mm)
    return seen


def _paper_tones(ground: Ground, box: QRectF, size: tuple[int, int], px_per_mm: float) -> Floats:
    if ground.pattern is None:
        seen = np.empty((*size, 3), np.float32)
        seen[:] = channels(ground.colour)
        return seen
    moved = ground.pattern._replace(x=ground.pattern.x - box.left(), y=ground.pattern.y - box.top())
    return pattern_tones(moved, (slice(0, size[0]), slice(0, size[1])), px_per_mm)


def to_image(tones: Floats, look: Look) -> QImage:
    """Turn tones into an image."""
    rows, columns = tones.shape[:2]
    levels = np.rint(tones * 255).astype(np.uint8)
    image = QImage(levels.data, columns, rows, 3 * columns, QImage.Format.Format_RGB888).copy()
    return image.convertToFormat(QImage.Format.Format_Grayscale8) if look.grey else image


def paint_colour(colour: str, look: Look) -> QColor:
    """Colour as it is shown: white paper where colours are off, its lightness where only grey is wanted."""
    if not look.colours:
        return QColor(WHITE)
    shown = QColor(colour)
    if look.grey:
        grey = round(255 * (luminance(colour) ** (1 / 2.2)))
        return QColor(grey, grey, grey)
    return shown
