"""The finished card as a picture: every leaf of the stack in its flat colour, with the lines of its images.

Glossary
--------
ground
    The surface as it is before anything is stamped on it: its paper, with the washes that were inked on it.
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from fair_thicket.ink.contrast import channels
from fair_thicket.ink.finish_looks import marks_of
from fair_thicket.ink.ground import VEIL, inked, lay_ink, lay_wash, put, shadow_of
from fair_thicket.ink.inking import to_levels
from fair_thicket.ink.layings import lay_images
from fair_thicket.ink.lettering import draw_words
from fair_thicket.ink.overlay import lay_over
from fair_thicket.ink.patterns import base_pattern, pattern_of, pattern_tones
from fair_thicket.ink.prints import Place, decode_picture, print_picture, rubbers_of
from fair_thicket.ink.shading import lay_tones
from fair_thicket.laid.stack import Leaf, stack
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.pieces import INK, Colour, Cutout, Impression, PaperPiece, Piece, Strip, Wash
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.outline import to_area, turn_points
from fair_thicket.shape.paper import only_areas, place, strip_tails
from fair_thicket.shape.raster import fill

Picture = NDArray[np.uint8]
Floats = NDArray[np.float32]
Window = tuple[slice, slice]
SOFT_MM = 0.15
"""A picture's last pixels fade out within this beyond its box: between two pixels of a coarse preview."""
BACK_SEEN = 0.82
"""What is left of the light on the back of a folded end."""
SHADOW = 0.72
"""What is left of the light in a shadow."""


@dataclass(frozen=True)
class Look:
    """How a card is to be pictured.

    Attributes
    ----------
    colours : bool
        Flat colours; else all paper is white and only washes, lines and edges are seen.
    lines : bool
        The images' own lines.
    shadows : bool
        A shadow under every piece that is raised, by its height.
    grey : bool
        In grey values, to judge light and dark.
    without : ids of pieces
        Lifted away, together with what lies on them.
    edge_mm : float
        Width of a thin edge round cut paper; 0 for none.
    """

    colours: bool = True
    lines: bool = True
    shadows: bool = False
    grey: bool = False
    without: frozenset[str] = frozenset()
    edge_mm: float = 0.0


PLAIN = Look()


def paint(work: Work, pictures: Mapping[str, bytes], *, dpi: float = 300, look: Look = PLAIN) -> Picture:
    """Picture a card.

    Returns
    -------
    (rows, columns, 3) uint8
        sRGB; the front exactly. What hangs over its edge is not in the picture.

    Raises
    ------
    PictureError
        When a stamp's picture is missing or damaged.

    Notes
    -----
    A pixel belongs to a leaf when its middle lies in it; ink over ink mixes.
    """
    px_per_mm = dpi / MM_PER_INCH
    width, height = work.card.panel
    size = (round(height * px_per_mm), round(width * px_per_mm))
    painter = Painter(work, pictures, size, px_per_mm, look)
    for leaf in painter.leaves:
        if not painter.is_away(leaf.piece):
            painter.lay(leaf)
    done: Picture = to_levels(painter.canvas)
    if look.grey:
        light = cv2.cvtColor(done, cv2.COLOR_RGB2GRAY)
        return np.repeat(light[:, :, None], 3, axis=2)
    return done


class Painter:
    """A canvas, and the ground beneath what is stamped."""

    def __init__(
        self, work: Work, pictures: Mapping[str, bytes], size: tuple[int, int], px_per_mm: float, look: Look = PLAIN
    ) -> None:
        self.work, self.look, self.px = work, look, px_per_mm
        self.leaves = stack(work)
        self._pictures = pictures
        self._decoded: dict[str, Floats] = {}
        base = channels(work.card.paper if look.colours else WHITE)
        self.canvas: Floats = np.empty((*size, 3), np.float32)
        pattern = base_pattern(work.card, work.stash, pictures) if look.colours else None
        self.canvas[:] = base if pattern is None else pattern_tones(pattern, _whole(size), px_per_mm)
        self.ground = self.canvas.copy()
        self._paper = {"": base}
        self._by_id = {piece.id: piece for piece in work.card.pieces}
        self._sheets = {leaf.piece.id: leaf.area for leaf in self.leaves if isinstance(leaf.piece, PaperPiece)}

    def is_away(self, piece: Piece) -> bool:
        seen: Collection[str] = self.look.without
        while piece.id not in seen:
            if piece.on not in self._by_id:
                return False
            piece = self._by_id[piece.on]
        return True

    def lay(self, leaf: Leaf) -> None:
        window, inside = self.cover(leaf.area)
        if not inside.any():
            return
        piece = leaf.piece
        if isinstance(piece, Wash):
            corner = (window[1].start / self.px, window[0].start / self.px)
            laid = inked(leaf, piece, self.work, self.leaves)
            seen, bare = self.canvas[window], self.ground[window]
            if np.array_equal(seen, bare):  # nothing is stamped there yet
                lay_wash([seen], laid, inside, corner, self.px)
                np.copyto(bare, seen)
            else:
                lay_wash([seen, bare], laid, inside, corner, self.px)
        elif isinstance(piece, Impression):
            self._stamp(leaf, piece, window, inside)
        else:
            self._glue(leaf, window, inside)

    def cover(self, area: BaseGeometry) -> tuple[Window, NDArray[np.bool_]]:
        """Window of the canvas round an area, and which of its pixels are inside."""
        rows, columns = self.canvas.shape[:2]
        if area.is_empty:
            return (slice(0, 0), slice(0, 0)), np.zeros((0, 0), bool)
        left, top, right, bottom = (bound * self.px for bound in area.bounds)
        low_x, high_x = (int(np.clip(bound, 0, columns)) for bound in (np.floor(left), np.ceil(right) + 1))
        low_y, high_y = (int(np.clip(bound, 0, rows)) for bound in (np.floor(top), np.ceil(bottom) + 1))
        window = (slice(low_y, high_y), slice(low_x, high_x))
        size = (high_y - low_y, high_x - low_x)
        if 0 in size:
            return window, np.zeros(size, bool)
        return window, fill(area, size, self.px, left=low_x / self.px, top=low_y / self.px)

    def _stamp(self, leaf: Leaf, piece: Impression, window: Window, inside: NDArray[np.bool_]) -> None:
        """Give an impression stands on its surface; a coloured one was masked while its surroundings were inked."""
        self._colour_in(leaf, piece, window, inside)
        self._print(leaf, piece)

    def _colour_in(self, leaf: Leaf, piece: Impression, window: Window, inside: NDArray[np.bool_]) -> None:
        """Clear an image's own place of what stands behind it, and lay its colours, where it has some."""
        bare = self.ground[window]
        tones = self.tones_of(leaf, window)
        if tones is not None:
            is_masked = isinstance(piece, Impression) and piece.shuns_washes
            under = self._bare(piece.on, window) if is_masked else bare
            bare = lay_over(under, tones)
        put(self.canvas[window], bare, inside)

    def _bare(self, surface: str, window: Window) -> Floats:
        """Give the bare paper of a surface on a window: its colour, or its pattern."""
        piece = self._by_id.get(surface)
        card, stash = self.work.card, self.work.stash
        pattern = None
        if self.look.colours:
            pattern = (
                base_pattern(card, stash, self._pictures) if piece is None else pattern_of(piece, stash, self._pictures)
            )
        if pattern is not None:
            return pattern_tones(pattern, window, self.px)
        tones = np.empty((window[0].stop - window[0].start, window[1].stop - window[1].start, 3), np.float32)
        tones[:] = self._paper.get(surface, (1.0, 1.0, 1.0))
        return tones

    def tones_of(self, leaf: Leaf, window: Window) -> Floats | None:
        """Give what an image is coloured with on a window of the canvas, as it is on white; None for nothing."""
        piece = leaf.piece
        if not isinstance(piece, Impression | Cutout) or not self.look.colours:
            return None
        flat = piece.colour if isinstance(piece, Impression) else None  # of a cutout it is its paper's
        tones = lay_tones(lay_images(self.work.card, self.work.stash, self.leaves, leaf), window, self.px)
        if tones is None:
            return None if flat is None else _tone(flat)
        return tones if flat is None else lay_over(tones, _tone(flat))

    def _print(self, leaf: Leaf, piece: Impression) -> None:
        """Lay the ink of an impression: all that its rubber prints, a line's soft edge beyond the outline as well."""
        stamp = self.work.stash.find(piece.stamp)
        place = (piece.x, piece.y, piece.angle_deg, False)
        window, inside = self.cover(self._inked(leaf, piece))
        if piece.resists and not piece.keeps_washes_off:
            return  # clear over ink: it shines, and the ink is seen through it
        if piece.resists:
            if self.look.lines:
                paper = self._paper.get(piece.on, (1.0, 1.0, 1.0))
                size = (stamp.width_mm, stamp.height_mm)
                bare_ink = "#" + "".join(f"{round(255 * level):02x}" for level in paper)
                self._lay_ink(self._picture(stamp.picture), size, place, bare_ink, window, inside, is_opaque=True)
            return
        for zone in piece.zones:
            within = turn_points(zone.ring, piece.angle_deg, piece.x, piece.y)
            part = inside & self._cover_same(to_area(within), window)
            self._draw_lines(stamp, place, zone.ink, window, part, is_opaque=piece.powder)
            inside = inside & ~part
        self._draw_lines(stamp, place, piece.ink, window, inside, is_opaque=piece.powder)

    def _inked(self, leaf: Leaf, piece: Impression) -> BaseGeometry:
        """Give where an impression's ink may lie, mm on the panel."""
        if piece.trim_to or piece.inked is not None:
            return leaf.area
        stamp = self.work.stash.find(piece.stamp)
        half_x, half_y = stamp.width_mm / 2 + SOFT_MM, stamp.height_mm / 2 + SOFT_MM
        reach = place(shapely.box(-half_x, -half_y, half_x, half_y), piece)
        surface = self._sheets.get(piece.on)
        return reach if surface is None else shapely.intersection(reach, surface)

    def _glue(self, leaf: Leaf, window: Window, inside: NDArray[np.bool_]) -> None:
        piece = leaf.piece
        if not isinstance(piece, PaperPiece):
            return
        self.shade(leaf)
        paper = channels((piece.colour or WHITE) if self.look.colours else WHITE)
        self._paper[piece.id] = paper
        view = self.canvas[window]
        tone = self._bare(piece.id, window)
        put(view, view + (tone - view) * np.float32(VEIL) if piece.translucent else tone, inside)
        self._draw_marks(leaf, window, inside)
        put(self.ground[window], view, inside)
        if self.look.edge_mm > 0:
            rim = inside & ~self._cover_same(shapely.buffer(leaf.sheet, -self.look.edge_mm), window)
            view[rim] *= np.float32(0.6)
        self.draw_own(leaf, window, inside)

    def draw_own(self, leaf: Leaf, window: Window, inside: NDArray[np.bool_]) -> None:
        """Give what a piece of paper bears: its stamped lines with their colours, or its words."""
        piece, tones = leaf.piece, self.tones_of(leaf, window)
        if tones is not None:
            put(self.canvas[window], lay_over(self.canvas[window], tones), inside)
        if isinstance(piece, Cutout) and piece.opening is None:
            stamp = self.work.stash.find(piece.stamp)
            own = (piece.x, piece.y, piece.angle_deg, piece.flipped)
            if not stamp.kind.is_plain:
                self._draw_lines(stamp, own, piece.ink, window, inside)
            for part in piece.joined:
                (x, y) = turn_points([(part.x, part.y)], piece.angle_deg, piece.x, piece.y)[0].tolist()
                other = self.work.stash.find(part.stamp)
                self._draw_lines(other, (x, y, piece.angle_deg + part.angle_deg, False), piece.ink, window, inside)
        elif isinstance(piece, Strip):
            self._draw_backs(piece, window, inside)
        if isinstance(piece, Strip) and piece.words and self.look.lines:
            passing = draw_words(piece.words, piece.words_mm, self.px * 2)
            size = (passing.shape[1] / self.px / 2, passing.shape[0] / self.px / 2)
            place = (piece.x, piece.y, piece.angle_deg, False)
            self._lay_ink(passing, size, place, piece.ink, window, inside, is_opaque=True)

    def _draw_marks(self, leaf: Leaf, window: Window, inside: NDArray[np.bool_]) -> None:
        """Draw lights, grains and stitches of finishes and of die lines."""
        for mark in marks_of(leaf.piece, self.work.stash):
            mark.lay(self.canvas[window], inside & self._cover_same(place(mark.area, leaf.piece), window))

    def _draw_backs(self, piece: Strip, window: Window, inside: NDArray[np.bool_]) -> None:
        """Darken the tails of folded ends: there the paper's back is seen, behind the strip."""
        front = shapely.box(-piece.width_mm / 2, -piece.height_mm / 2, piece.width_mm / 2, piece.height_mm / 2)
        for tail in strip_tails(piece.width_mm, piece.height_mm, piece.left, piece.right):
            behind = place(only_areas(shapely.difference(tail, front)), piece)
            part = inside & self._cover_same(behind, window)
            self.canvas[window][part] *= np.float32(BACK_SEEN)

    def _draw_lines(
        self,
        stamp: Stamp,
        place: Place,
        ink: Colour | None,
        window: Window,
        inside: NDArray[np.bool_],
        *,
        is_opaque: bool = False,
    ) -> None:
        if not self.look.lines:
            return
        for rubber in rubbers_of(stamp):
            size = (rubber.width_mm, rubber.height_mm)
            picture = self._picture(rubber.picture)
            self._lay_ink(picture, size, rubber.put(place), ink, window, inside, is_opaque=is_opaque)

    def _picture(self, name: str) -> Floats:
        if name not in self._decoded:
            self._decoded[name] = decode_picture(self._pictures.get(name, b""))
        return self._decoded[name]

    def _lay_ink(
        self,
        passing: Floats,
        size_mm: tuple[float, float],
        place: Place,
        ink: Colour | None,
        window: Window,
        inside: NDArray[np.bool_],
        *,
        is_opaque: bool = False,
    ) -> None:
        """Lay ink: `passing` is a picture of size_mm about its middle that is turned and moved to `place`.

        Dark ink lets its ground through; pale ink, as of pens and embossing powder, covers it.
        """
        if not inside.any():
            return
        laid = np.where(inside, print_picture(passing, size_mm, place, window, self.px), np.float32(1.0))
        lay_ink(self.canvas[window], laid, ink or INK, _tone(ink or INK), is_opaque=is_opaque)

    def reach(self, leaf: Leaf) -> Window:
        """Give the window that a leaf changes when it is laid, its shadow with it where shadows are pictured."""
        area: BaseGeometry = leaf.area
        if self.look.shadows and isinstance(leaf.piece, PaperPiece):
            right, down = shadow_of(leaf.piece)
            left, top, far, low = area.bounds if not area.is_empty else (0.0, 0.0, 0.0, 0.0)
            area = shapely.box(left - SOFT_MM, top - SOFT_MM, far + right + down + 1, low + 2 * down + 1)
        return self.cover(area)[0]

    def shade(self, leaf: Leaf) -> None:
        """Darken what lies to the lower right of a raised piece, by its height, where shadows are pictured."""
        if not self.look.shadows or not isinstance(leaf.piece, PaperPiece):
            return
        right, reach = shadow_of(leaf.piece)
        shadow = shapely.affinity.translate(leaf.area, right, reach)
        window, dark = self.cover(shapely.difference(shadow, leaf.sheet))
        if dark.any():
            soft = cv2.GaussianBlur(dark.astype(np.float32), (0, 0), max(0.6, reach * self.px * 0.3))
            self.canvas[window] *= (1 - (1 - SHADOW) * soft)[:, :, None]

    def _cover_same(self, area: BaseGeometry, window: Window) -> NDArray[np.bool_]:
        rows, columns = window
        size = (rows.stop - rows.start, columns.stop - columns.start)
        return fill(area, size, self.px, left=columns.start / self.px, top=rows.start / self.px)


def _whole(size: tuple[int, int]) -> Window:
    return slice(0, size[0]), slice(0, size[1])


def _tone(colour: Colour) -> Floats:
    return np.array(channels(colour), np.float32)
