"""Lays the card leaf by leaf on a canvas: paper in its colour, with the lines, colours and words of its images.

Glossary
--------
ground
    The surface as it is before anything is stamped on it: its paper, with the washes that were inked on it.
"""

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, replace

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from fair_thicket.ink.contrast import channels
from fair_thicket.ink.drawn import drawn_of
from fair_thicket.ink.finish_looks import marks_of
from fair_thicket.ink.ground import VEIL, inked, lay_ink, lay_wash, put, shadow_of
from fair_thicket.ink.ink_patch import Ink
from fair_thicket.ink.layings import lay_images
from fair_thicket.ink.lettering import draw_words
from fair_thicket.ink.overlay import lay_over
from fair_thicket.ink.patterns import base_pattern, pattern_of, pattern_tones
from fair_thicket.ink.prints import Place, print_picture, rubbers_of
from fair_thicket.ink.shading import lay_tones
from fair_thicket.laid.mask_edges import rims_over
from fair_thicket.laid.stack import Leaf, stack
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.pieces import INK, Colour, Cutout, Impression, PaperPiece, Piece, Strip, Wash, is_glued
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.outline import only_areas, to_area, turn_points
from fair_thicket.shape.paper import place, strip_tails
from fair_thicket.shape.raster import fill
from fair_thicket.shape.windows import Window, size_of, whole_window

Floats = NDArray[np.float32]
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


class Painter:
    """A canvas, and the ground beneath what is stamped."""

    def __init__(
        self, work: Work, pictures: Mapping[str, bytes], size: tuple[int, int], px_per_mm: float, look: Look = PLAIN
    ) -> None:
        self.work, self.look, self.px = work, look, px_per_mm
        self.leaves = stack(work)
        self._pictures = pictures
        self._drawn = drawn_of(work)
        base = channels(work.card.paper if look.colours else WHITE)
        self.canvas: Floats = np.empty((*size, 3), np.float32)
        pattern = base_pattern(work.card, work.stash, pictures, decode_by=self._drawn.tile) if look.colours else None
        self.canvas[:] = base if pattern is None else pattern_tones(pattern, whole_window(size), px_per_mm)
        self.ground = self.canvas.copy()
        self._paper = {"": base}
        self._by_id = {piece.id: piece for piece in work.card.pieces}
        self._sheets = {leaf.piece.id: leaf.sheet for leaf in self.leaves if isinstance(leaf.piece, PaperPiece)}

    def settle(self) -> None:
        """Forget its own canvas, but for its size: from now on it draws on others alone."""
        self.canvas = self.ground = np.broadcast_to(np.float32(1), self.canvas.shape)

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
        if not is_glued(piece):
            inside = inside & ~self._rims(leaf, window)
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
            self._stamp(leaf, piece, window)
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

    def _rims(self, leaf: Leaf, window: Window) -> NDArray[np.bool_] | np.bool_:
        """Where the masks of images in front, with the rims that the maker wants, keep a leaf's ink off."""
        spared = rims_over(self.work.card, leaf, self.leaves) if leaf in self.leaves else None
        return np.bool_(False) if spared is None else self._cover_same(spared, window)

    def _stamp(self, leaf: Leaf, piece: Impression, window: Window) -> None:
        """Stamp an image on its surface; a coloured one was masked while its surroundings were inked."""
        self._colour_in(leaf, piece, window, self._cover_same(leaf.area, window))  # colours go up to what is in front
        self._print(leaf, piece)

    def _colour_in(self, leaf: Leaf, piece: Impression, window: Window, inside: NDArray[np.bool_]) -> None:
        """Clear an image's own place of what stands behind it, and lay its colours, where it has some."""
        bare = self.ground[window]
        tones = self.tones_of(leaf, window)
        if tones is not None:
            is_masked = isinstance(piece, Impression) and piece.shuns_washes
            under = self._bare(piece.on, window) if is_masked and not self._is_veil(piece.on) else bare
            bare = lay_over(under, tones)
        put(self.canvas[window], bare, inside)

    def _is_veil(self, surface: str) -> bool:
        piece = self._by_id.get(surface)
        return isinstance(piece, PaperPiece) and piece.translucent

    def _bare(self, surface: str, window: Window) -> Floats:
        """Return the bare paper of a surface on a window: its colour, or its pattern."""
        piece = self._by_id.get(surface)
        card, stash = self.work.card, self.work.stash
        pattern = None
        if self.look.colours:
            pattern = (
                base_pattern(card, stash, self._pictures, decode_by=self._drawn.tile)
                if piece is None
                else pattern_of(piece, stash, self._pictures, decode_by=self._drawn.tile)
            )
        if pattern is not None:
            return pattern_tones(pattern, window, self.px)
        tones = np.empty((window[0].stop - window[0].start, window[1].stop - window[1].start, 3), np.float32)
        tones[:] = self._paper.get(surface, (1.0, 1.0, 1.0))
        return tones

    def tones_of(self, leaf: Leaf, window: Window) -> Floats | None:
        """Return what an image is coloured with on a window of the canvas, as it is on white; None for nothing."""
        piece = leaf.piece
        if not isinstance(piece, Impression | Cutout) or not self.look.colours:
            return None
        flat = piece.colour if isinstance(piece, Impression) else None  # of a cutout it is its paper's
        laid = lay_images(self.work.card, self.work.stash, self.leaves, leaf)
        tones = lay_tones(laid, window, self.px, self._drawn.image)
        if tones is None:
            return None if flat is None else _tone(flat)
        return tones if flat is None else lay_over(tones, _tone(flat))

    def _print(self, leaf: Leaf, piece: Impression) -> None:
        """Lay the ink of an impression: all that its rubber prints, a line's soft edge beyond the outline as well."""
        stamp = self.work.stash.find(piece.stamp)
        place = (piece.x, piece.y, piece.angle_deg, False)
        window, inside = self.cover(self._inked(leaf, piece))
        inside = inside & ~self._rims(leaf, window)
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
        """Return where an impression's ink may lie, mm on the panel."""
        if piece.trim_to or leaf not in self.leaves:  # only a part of it is laid
            return leaf.area
        stamp = self.work.stash.find(piece.stamp)
        half_x, half_y = stamp.width_mm / 2 + SOFT_MM, stamp.height_mm / 2 + SOFT_MM
        reach: BaseGeometry = place(shapely.box(-half_x, -half_y, half_x, half_y), piece)
        if piece.inked is not None:
            ring = turn_points(piece.inked, piece.angle_deg, piece.x, piece.y)
            reach = shapely.intersection(reach, to_area(ring))
        surface = self._sheets.get(piece.on)
        return reach if surface is None else shapely.intersection(reach, surface)

    def _glue(self, leaf: Leaf, window: Window, inside: NDArray[np.bool_]) -> None:
        piece = leaf.piece
        if not isinstance(piece, PaperPiece):
            return
        self.shade(leaf)
        self._paper[piece.id] = self._paper_of(piece)
        view = self.canvas[window]
        tone = self._bare(piece.id, window)
        put(view, view + (tone - view) * np.float32(VEIL) if piece.translucent else tone, inside)
        self._draw_marks(view, leaf, window, inside)
        if self.look.edge_mm > 0:
            rim = inside & ~self._cover_same(shapely.buffer(leaf.sheet, -self.look.edge_mm), window)
            view[rim] *= np.float32(0.6)
        self.draw_own(leaf, window, inside)
        put(self.ground[window], view, inside)  # what is stamped on it comes over its own lines and words
        if leaf.key != piece.id:
            self._ink_flap(leaf)

    def _ink_flap(self, leaf: Leaf) -> None:
        """Lay on a flap what was stamped and inked on its piece: the sheet was whole then."""
        for other in self.leaves:
            if other.piece.on == leaf.piece.id and not is_glued(other.piece):
                self.lay(replace(other, area=only_areas(shapely.intersection(other.whole, leaf.area))))

    def _paper_of(self, piece: PaperPiece) -> tuple[float, float, float]:
        return channels((piece.colour or WHITE) if self.look.colours else WHITE)

    def bare_sheet(self, piece: Piece, window: Window) -> Floats:
        """Return the bare paper that a piece is cut from on a window of the panel: its colour, or its pattern."""
        if isinstance(piece, PaperPiece):
            self._paper[piece.id] = self._paper_of(piece)
        return np.array(self._bare(piece.id, window), np.float32)

    def dress(self, view: Floats, leaf: Leaf, window: Window, inside: NDArray[np.bool_]) -> None:
        """Draw what paper has before anything is done to it: what its die leaves, and backs of folded ends."""
        self._draw_marks(view, leaf, window, inside)
        if isinstance(leaf.piece, Strip):
            self._draw_backs(view, leaf.piece, window, inside)

    def words_of(self, piece: Strip, window: Window) -> Ink | None:
        """Return the ink of a strip's words on a window of the panel; None where it says nothing."""
        if not piece.words:
            return None
        passing = draw_words(piece.words, piece.words_mm, self.px * 2)
        size = (passing.shape[1] / self.px / 2, passing.shape[0] / self.px / 2)
        printed = print_picture(passing, size, (piece.x, piece.y, piece.angle_deg, False), window, self.px)
        tone = channels(piece.ink or INK)
        return Ink(piece.id, piece.id, window, printed, self._sheets[piece.id], self.px, tone, is_opaque=True)

    def draw_own(self, leaf: Leaf, window: Window, inside: NDArray[np.bool_]) -> None:
        """Draw what a piece of paper bears: its stamped lines with their colours, or its words."""
        piece, tones = leaf.piece, self.tones_of(leaf, window)
        if tones is not None:
            put(self.canvas[window], lay_over(self.canvas[window], tones), inside)
        if isinstance(piece, Cutout) and piece.opening is None:
            for stamp, at, free in self._images_of(piece, window):
                self._draw_lines(stamp, at, piece.ink, window, inside & free)
        elif isinstance(piece, Strip):
            self._draw_backs(self.canvas[window], piece, window, inside)
            ink = self.words_of(piece, window) if self.look.lines else None
            if ink is not None:
                ink.lay(self.canvas[window], np.where(inside, 1 - ink.passing, np.float32(0.0)))

    def _images_of(self, piece: Cutout, window: Window) -> Iterator[tuple[Stamp, Place, NDArray[np.bool_]]]:
        """Yield the images of a cutout from the back, each with its place and where none in front interrupts it."""
        stamp = self.work.stash.find(piece.stamp)
        images = [] if stamp.kind.is_plain else [(stamp, (piece.x, piece.y, piece.angle_deg, piece.flipped))]
        for part in piece.joined:
            (x, y) = turn_points([(part.x, part.y)], piece.angle_deg, piece.x, piece.y)[0].tolist()
            images.append((self.work.stash.find(part.stamp), (x, y, piece.angle_deg + part.angle_deg, False)))
        free = np.ones(size_of(window), bool)
        frees = []
        for one, (x, y, angle_deg, _) in reversed(images):
            frees.append(free)
            if len(images) > 1:
                free = free & ~self._cover_same(to_area(turn_points(one.outline, angle_deg, x, y)), window)
        for (one, at), its_own in zip(images, reversed(frees), strict=True):
            yield one, at, its_own

    def _draw_marks(self, view: Floats, leaf: Leaf, window: Window, inside: NDArray[np.bool_]) -> None:
        """Draw lights, grains and stitches of finishes and of die lines."""
        for mark in marks_of(leaf.piece, self.work.stash):
            mark.lay(view, inside & self._cover_same(place(mark.area, leaf.piece), window))

    def _draw_backs(self, view: Floats, piece: Strip, window: Window, inside: NDArray[np.bool_]) -> None:
        """Darken the tails of folded ends: there the paper's back is seen, behind the strip."""
        front = shapely.box(-piece.width_mm / 2, -piece.height_mm / 2, piece.width_mm / 2, piece.height_mm / 2)
        for tail in strip_tails(piece.width_mm, piece.height_mm, piece.left, piece.right):
            behind = place(only_areas(shapely.difference(tail, front)), piece)
            part = inside & self._cover_same(behind, window)
            view[part] *= np.float32(BACK_SEEN)

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
        return self._drawn.picture(self._pictures.get(name, b""))

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
        """Return the window that a leaf changes when it is laid, its shadow with it where shadows are pictured."""
        area: BaseGeometry = leaf.area
        if self.look.shadows and isinstance(leaf.piece, PaperPiece):
            right, down = shadow_of(leaf.piece)
            left, top, far, low = area.bounds if not area.is_empty else (0.0, 0.0, 0.0, 0.0)
            area = shapely.box(left - SOFT_MM, top - SOFT_MM, far + right + down + 1, low + 2 * down + 1)
        return self.cover(area)[0]

    def shade(self, leaf: Leaf) -> None:
        """Darken what lies beside a raised piece, where shadows are pictured."""
        if self.look.shadows:
            self.cast_shadow(leaf, self.canvas)

    def cast_shadow(self, leaf: Leaf, canvas: Floats) -> None:
        """Darken what lies to the lower right of a raised piece, by its height, on a canvas of the whole panel."""
        if not isinstance(leaf.piece, PaperPiece):
            return
        right, reach = shadow_of(leaf.piece)
        shadow = shapely.affinity.translate(leaf.area, right, reach)
        window, dark = self.cover(only_areas(shapely.difference(shadow, leaf.sheet)))
        if dark.any():
            soft = cv2.GaussianBlur(dark.astype(np.float32), (0, 0), max(0.6, reach * self.px * 0.3))
            canvas[window] *= (1 - (1 - SHADOW) * soft)[:, :, None]

    def _cover_same(self, area: shapely.Geometry, window: Window) -> NDArray[np.bool_]:
        rows, columns = window
        return fill(area, size_of(window), self.px, left=columns.start / self.px, top=rows.start / self.px)


def _tone(colour: Colour) -> Floats:
    return np.array(channels(colour), np.float32)
