"""Ink on a panel: clean pictures turned into what they print, and the scene as composed. Ink over ink mixes."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.contrast import channels
from fair_thicket.ink.finish_looks import marks_of
from fair_thicket.ink.gradients import is_blended, is_opaque, wash_colour, wash_tones
from fair_thicket.ink.ground import LEAST
from fair_thicket.ink.lifting import lifted_area
from fair_thicket.ink.overlay import covers, lay_over
from fair_thicket.ink.patterns import base_pattern, pattern_of, pattern_tones
from fair_thicket.ink.prints import Rubber, decode_picture, print_picture, rubbers_of
from fair_thicket.laid.stack import Leaf, stack
from fair_thicket.model.card import WHITE, Work, stamping_keys
from fair_thicket.model.pieces import CARD_EDGE, INK, AnyWash, Impression, Wash, is_glued, is_stepped
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.outline import Area, to_area, turn_points
from fair_thicket.shape.paper import place
from fair_thicket.shape.raster import BoolArray, fill
from fair_thicket.shape.wash_kinds import kind_of
from fair_thicket.shape.washes import LIFT, list_lays

Paper = NDArray[np.uint8]


@dataclass(frozen=True)
class Ink:
    """An impression's print, or a wash's ink, on a patch of the panel.

    Attributes
    ----------
    key : str
        Of the stamping: the piece's id, or a layer's.
    piece : str
    window : (slice, slice)
        Rows and columns of the panel.
    passing : (rows, columns) float32
        Share of bare paper: 0 where it is inked, 1 where it is not.
    area : Polygon or MultiPolygon
        Footprint, mm.
    px_per_mm : float
    tone : (red, green, blue)
        What the ink lets through, each 0..1.
    zones : tuple of (bool array, tone, whether it covers)
        Parts of the patch that are inked in other tones.
    is_wash : bool
    is_opaque : bool
        It covers what is there: paste, white and pale ink (see `overlay.covers`).
    limit : Polygon or MultiPolygon or None
        A counter mask keeps it within this.
    tones : (rows, columns, 3) float32 or None
        Of a wash blended from several inks: what it lets through, place by place; `tone` is then the mean.
    """

    key: str
    piece: str
    window: tuple[slice, slice]
    passing: NDArray[np.float32]
    area: Area
    px_per_mm: float
    tone: tuple[float, float, float] = (0.0, 0.0, 0.0)
    zones: tuple[tuple[BoolArray, tuple[float, float, float], bool], ...] = ()
    is_wash: bool = False
    is_opaque: bool = False
    limit: Area | None = None
    tones: NDArray[np.float32] | None = None

    @property
    def strength(self) -> float:
        """How far the ink differs from white paper, 0..1."""
        return 1 - min(self.tone)

    def cover(self, area: shapely.Geometry) -> BoolArray:
        """Rasterise an area on this patch."""
        rows, columns = self.window
        return fill(
            area,
            (rows.stop - rows.start, columns.stop - columns.start),
            self.px_per_mm,
            left=columns.start / self.px_per_mm,
            top=rows.start / self.px_per_mm,
        )

    def grown(self, room: int) -> "Ink":
        """Give the patch with so many pixels more on every side, bare; it may lie partly beside the panel."""
        rows, columns = self.window
        window = (slice(rows.start - room, rows.stop + room), slice(columns.start - room, columns.stop + room))
        bare = np.pad(self.passing, room, constant_values=1.0)
        return replace(self, window=window, passing=bare, zones=(), tones=None)

    def lay(self, paper: NDArray[np.float32], kept_off: BoolArray | None = None) -> None:
        """Lay the ink on paper, (rows, columns, 3) float32 of the whole panel, but not where it is kept off."""
        inked = 1 - self.passing
        if kept_off is not None:
            inked = np.where(kept_off, np.float32(0.0), inked)
        view, here = paper[self.window], inked > LEAST
        if not here.any():
            return
        covering = self._covering(here)
        for channel in range(3):
            passing = np.asarray(1 - inked * self._absorbed(channel), np.float32)
            below = view[:, :, channel]
            if covering is not None:
                np.copyto(below, passing + (1 - inked) * (below - 1), where=covering)
            mixing = here if covering is None else here & ~covering
            mixes = mixing & (below < 1)  # on bare white paper an ink is itself
            mixed = lay_over(below[mixes], passing[mixes])
            np.copyto(below, passing, where=mixing)
            below[mixes] = mixed

    def _covering(self, here: BoolArray) -> BoolArray | None:
        """Where the ink covers instead of mixing; None for nowhere."""
        if not self.is_opaque and not any(is_covering for *_, is_covering in self.zones):
            return None
        covering = here.copy() if self.is_opaque else np.zeros_like(here)
        for part, _, is_covering in self.zones:
            covering[part] = here[part] & is_covering
        return covering

    def _absorbed(self, channel: int) -> NDArray[np.float32] | np.float32:
        """Share of a channel's light that the ink takes."""
        if self.tones is not None:
            return np.asarray(1 - self.tones[:, :, channel], np.float32)
        plain = np.float32(1 - self.tone[channel])
        if not self.zones:
            return plain
        absorbed = np.full(self.passing.shape, plain, np.float32)
        for part, tone, _ in self.zones:
            absorbed[part] = 1 - tone[channel]
        return absorbed


def panel_pixels(work: Work, dpi: float) -> tuple[int, int]:
    """Rows and columns of the panel at a resolution."""
    width, height = work.card.panel
    return round(height * dpi / MM_PER_INCH), round(width * dpi / MM_PER_INCH)


def bare_paper(work: Work, pictures: Mapping[str, bytes], dpi: float) -> NDArray[np.float32]:
    """Picture the panel before anything is inked: the base, and every paper that is inked on where it will lie.

    Returns
    -------
    (rows, columns, 3) float32, sRGB 0..1
    """
    paper = np.empty((*panel_pixels(work, dpi), 3), np.float32)
    whole, px_per_mm = (slice(0, paper.shape[0]), slice(0, paper.shape[1])), dpi / MM_PER_INCH
    base = base_pattern(work.card, work.stash, pictures)
    paper[:] = channels(work.card.paper) if base is None else pattern_tones(base, whole, px_per_mm)
    for leaf in carriers_of(work):
        inside = fill(leaf.area, paper.shape[:2], px_per_mm)
        pattern = pattern_of(leaf.piece, work.stash, pictures)
        if pattern is not None:
            paper[inside] = pattern_tones(pattern, whole, px_per_mm)[inside]
        else:
            paper[inside] = channels(getattr(leaf.piece, "colour", None) or WHITE)
        for mark in marks_of(leaf.piece, work.stash):
            mark.lay(paper, inside & fill(place(mark.area, leaf.piece), paper.shape[:2], px_per_mm))
    return paper


def carriers_of(work: Work) -> list[Leaf]:
    """Give leaves of opaque papers that are inked on, from the back."""
    inked = {piece.on for piece in work.card.pieces if isinstance(piece, Impression | Wash)}
    return [leaf for leaf in stack(work) if leaf.piece.id in inked and leaf.hides and is_glued(leaf.piece)]


def _hidden(work: Work) -> dict[str, shapely.Geometry]:
    """Give what will lie over each surface that is inked on: other papers that are inked on."""
    carriers = carriers_of(work)
    hidden: dict[str, shapely.Geometry] = {}
    for surface in {piece.on for piece in work.card.pieces if isinstance(piece, Impression | Wash)}:
        at = [index for index, leaf in enumerate(carriers) if leaf.piece.id == surface]
        over = [leaf.area for leaf in carriers[at[-1] + 1 if at else 0 :] if leaf.piece.id != surface]
        if over:
            hidden[surface] = shapely.union_all(over)
    return hidden


def lay_inks(work: Work, pictures: Mapping[str, bytes], dpi: float) -> dict[str, Ink]:
    """Print every impression of a card on a patch of its own, a layered one layer by layer, and every wash; by key.

    Raises
    ------
    PictureError
        When a stamp's picture is missing or damaged.
    """
    decoded: dict[str, NDArray[np.float32]] = {}
    inks: dict[str, Ink] = {}
    leaves = stack(work)
    areas = {leaf.piece.id: leaf.whole for leaf in leaves if isinstance(leaf.piece, Impression | Wash)}
    for piece in work.card.pieces:
        if not isinstance(piece, Impression):
            continue
        stamp = work.stash.find(piece.stamp)
        area = areas[piece.id]
        keys = stamping_keys(piece, stamp)
        for key, rubber in zip(keys, rubbers_of(stamp), strict=True):
            if rubber.picture not in decoded:
                decoded[rubber.picture] = decode_picture(pictures.get(rubber.picture, b""))
            ink = _print(key, piece, rubber, decoded[rubber.picture], area, work.card.panel, dpi)
            inks[key] = _in_its_tones(_limited(ink, piece), piece)
    for piece in work.card.pieces:
        if isinstance(piece, Wash):
            ink = _wash(work, piece, areas[piece.id], inks, dpi)
            lifted = lifted_area(work.card, leaves, piece)
            softer = (
                ink.passing
                if lifted.is_empty
                else np.where(ink.cover(lifted), 1 - LEFT * (1 - ink.passing), ink.passing)
            )
            inks[piece.id] = replace(ink, passing=softer)
    hidden, sheets = _hidden(work), {leaf.piece.id: leaf.sheet for leaf in leaves if is_glued(leaf.piece)}
    on = {piece.id: piece.on for piece in work.card.pieces}
    for key, ink in inks.items():
        inks[key] = _on_its_sheet(ink, sheets.get(on[ink.piece]), hidden.get(on[ink.piece]))
    return inks


def _on_its_sheet(ink: Ink, sheet: Area | None, hidden: shapely.Geometry | None) -> Ink:
    """Keep ink to its sheet: what falls beside it, and what another will hide, is not pictured."""
    bare: BoolArray | None = None
    if sheet is not None and not sheet.covers(ink.area):
        bare = ~ink.cover(sheet)
    if hidden is not None and shapely.intersects(hidden, ink.area):
        over = ink.cover(hidden)
        bare = over if bare is None else bare | over
    return ink if bare is None else replace(ink, passing=np.where(bare, np.float32(1.0), ink.passing))


CLEAR = (1.0, 1.0, 1.0)
LEFT = np.float32(1 - LIFT)


def _in_its_tones(ink: Ink, piece: Impression) -> Ink:
    if piece.resists:
        return replace(ink, tone=CLEAR)
    zones = tuple(
        (
            ink.cover(to_area(turn_points(zone.ring, piece.angle_deg, piece.x, piece.y))),
            channels(zone.ink),
            piece.powder or covers(zone.ink),
        )
        for zone in piece.zones
    )
    return replace(
        ink, tone=channels(piece.ink or INK), zones=zones, is_opaque=piece.powder or covers(piece.ink or INK)
    )


def _wash(work: Work, piece: AnyWash, area: Area, inks: Mapping[str, Ink], dpi: float) -> Ink:
    """Ink a wash: everywhere in its area but on the lines of what was embossed before."""
    px_per_mm = dpi / MM_PER_INCH
    rows, columns = panel_pixels(work, dpi)
    left, top, right, bottom = area.bounds if not area.is_empty else (0.0, 0.0, 0.0, 0.0)
    low_x, high_x = (int(np.clip(x, 0, columns)) for x in (np.floor(left * px_per_mm), np.ceil(right * px_per_mm)))
    low_y, high_y = (int(np.clip(y, 0, rows)) for y in (np.floor(top * px_per_mm), np.ceil(bottom * px_per_mm)))
    window = (slice(low_y, high_y), slice(low_x, high_x))
    bare = np.ones((high_y - low_y, high_x - low_x), np.float32)
    tone = channels(wash_colour(piece)) if kind_of(piece).has_colour else CLEAR
    tones = None
    if (is_blended(piece) or is_stepped(piece)) and bare.size:
        corner, lays = (low_x / px_per_mm, low_y / px_per_mm), list_lays(piece, work.stash)
        tones = wash_tones(piece, corner, bare.shape, px_per_mm, lays=lays)
        red, green, blue = tones.mean(axis=(0, 1)).tolist()
        tone = (red, green, blue)
    ink = Ink(
        piece.id,
        piece.id,
        window,
        bare,
        area,
        px_per_mm,
        tone,
        is_wash=True,
        tones=tones,
        is_opaque=is_opaque(piece),
    )
    inked = ink.cover(area).astype(np.float32)
    for other in work.card.pieces:
        if isinstance(other, Impression) and other.keeps_washes_off and other.on == piece.on:
            for key in stamping_keys(other, work.stash.find(other.stamp)):
                _take_off(inked, ink, inks[key])
    return replace(ink, passing=1 - inked)


def _take_off(inked: NDArray[np.float32], ink: Ink, resist: Ink) -> None:
    """Take from a wash what the lines of a resist do not let through."""
    rows, columns = ink.window
    their_rows, their_columns = resist.window
    top, bottom = max(rows.start, their_rows.start), min(rows.stop, their_rows.stop)
    left, right = max(columns.start, their_columns.start), min(columns.stop, their_columns.stop)
    if top < bottom and left < right:
        inked[top - rows.start : bottom - rows.start, left - columns.start : right - columns.start] *= resist.passing[
            top - their_rows.start : bottom - their_rows.start, left - their_columns.start : right - their_columns.start
        ]


def _print(
    key: str,
    piece: Impression,
    rubber: Rubber,
    picture: NDArray[np.float32],
    area: Area,
    panel: tuple[float, float],
    dpi: float,
) -> Ink:
    """Turn and move a picture into its place; the window is clipped to the panel and may be empty."""
    place = rubber.put((piece.x, piece.y, piece.angle_deg, False))
    px_per_mm = dpi / MM_PER_INCH
    size = (round(panel[1] * px_per_mm), round(panel[0] * px_per_mm))
    corner = np.hypot(rubber.width_mm, rubber.height_mm) / 2 + 0.5
    low_x, high_x = (int(np.clip((place[0] + side * corner) * px_per_mm, 0, size[1])) for side in (-1, 1))
    low_y, high_y = (int(np.clip((place[1] + side * corner) * px_per_mm, 0, size[0])) for side in (-1, 1))
    window = (slice(low_y, high_y), slice(low_x, high_x))
    if low_x >= high_x or low_y >= high_y:
        return Ink(key, piece.id, window, np.ones((high_y - low_y, high_x - low_x), np.float32), area, px_per_mm)
    passing = print_picture(picture, (rubber.width_mm, rubber.height_mm), place, window, px_per_mm)
    return Ink(key, piece.id, window, passing, area, px_per_mm)


def _limited(ink: Ink, piece: Impression) -> Ink:
    """Ink only where the stamp was inked; what keeps it within a shape is a counter mask, or the edge of its paper."""
    if piece.inked is not None:
        ring = turn_points(piece.inked, piece.angle_deg, piece.x, piece.y)
        ink = replace(ink, passing=np.where(ink.cover(to_area(ring)), ink.passing, np.float32(1.0)))
    if not piece.trim_to:
        return ink
    if piece.trim_to not in (CARD_EDGE, piece.on):
        return replace(ink, limit=ink.area)
    return replace(ink, passing=np.where(ink.cover(ink.area), ink.passing, np.float32(1.0)))


def compose(work: Work, pictures: Mapping[str, bytes], *, dpi: float = 300) -> Paper:
    """Picture all that is stamped on a card; see `compose_inks`. Glued pieces are left out (see `painting.paint`)."""
    return compose_inks(work, pictures, lay_inks(work, pictures, dpi), dpi)


def compose_inks(work: Work, pictures: Mapping[str, bytes], inks: Mapping[str, Ink], dpi: float) -> Paper:
    """Picture what is stamped as it was composed: every image whole, interrupted by what stands in front of it.

    Returns
    -------
    (rows, columns, 3) uint8
        sRGB on the papers' own colours, in the tones of the inks; images that are coloured later are bare inside.
    """
    paper = bare_paper(work, pictures, dpi)
    fronts = fronts_of(work, inks)
    for ink in inks.values():
        ahead = [inks_area for _, inks_area in fronts[ink.key]]
        covered = ink.cover(shapely.union_all(ahead)) if ahead else None
        if ink.limit is not None:
            outside = ~ink.cover(ink.limit)
            covered = outside if covered is None else covered | outside
        ink.lay(paper, covered)
    return to_levels(paper)


def fronts_of(work: Work, inks: Mapping[str, Ink]) -> dict[str, list[tuple[str, Area]]]:
    """For each stamping the pieces that stand in front of it, touch it and interrupt it, with their footprints."""
    order = [piece for piece in work.card.pieces if isinstance(piece, Impression)]
    places = {piece.id: index for index, piece in enumerate(order)}
    areas = {ink.piece: ink.area for ink in inks.values()}
    surfaces = {piece.id: piece.on for piece in work.card.pieces}
    found: dict[str, list[tuple[str, Area]]] = {}
    for ink in inks.values():
        shunning = (one for one in order if one.shuns_washes)
        ahead = shunning if ink.is_wash else order[places[ink.piece] + 1 :]
        found[ink.key] = [
            (one.id, areas[one.id])
            for one in ahead
            if one.on == surfaces[ink.piece] and areas[one.id].intersects(ink.area)
        ]
    return found


def to_levels(paper: NDArray[np.float32]) -> Paper:
    """Turn light 0..1 into levels 0..255."""
    if not paper.size:
        return np.zeros(paper.shape, np.uint8)
    levels = cv2.multiply(paper.reshape(len(paper), -1), 255.0, dtype=cv2.CV_8U)  # rounds, and stays within
    return np.asarray(levels, np.uint8).reshape(paper.shape)
