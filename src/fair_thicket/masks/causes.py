"""Why a place of the rehearsed card is not as composed: read off what was done there, ink by ink and sheet by sheet."""

from collections.abc import Iterator, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.ink_patch import Ink
from fair_thicket.ink.simulated_sheet import Lay, SimulatedSheet
from fair_thicket.laid.mask_edges import rim_of
from fair_thicket.masks.cause import Cause, Moves
from fair_thicket.masks.differences import PX_PER_MM
from fair_thicket.masks.paper_causes import PaperCauses
from fair_thicket.masks.performance import Performance
from fair_thicket.masks.tolerances import CUT_INSIDE_MM
from fair_thicket.masks.wanted_inks import WantedInks
from fair_thicket.model.card import Work
from fair_thicket.model.keys import piece_key
from fair_thicket.model.pieces import Cutout, Impression, Piece, Strip, Water, is_glued
from fair_thicket.shape.outline import Area
from fair_thicket.shape.raster import BoolArray, fill
from fair_thicket.shape.windows import Window, common_window, from_corner, size_of, whole_window

Floats = NDArray[np.float32]
SHARE = 0.3
"""Less of an ink too much, or too little, is not what is seen."""
TWICE = 1.25
"""More of an ink than this was laid twice."""
TONE = 0.02
SOFT_MM = 0.25
"""A line's soft edge, and what lies beside it, go with it."""


class Causes:
    """Looks for causes; `accepted` are pixels that a tolerance explains."""

    def __init__(self, wanted: Work, inks: WantedInks, made: Performance) -> None:
        self._inks, self._made = inks, made
        self._moves = Moves(wanted, made.work)
        self._wanted, self._done = self._moves.wanted, self._moves.done
        self._card = wanted.card
        self._order = [piece.id for piece in wanted.card.pieces]
        self._leaf = {leaf.piece.id: leaf for leaf in inks.leaves if leaf.key == leaf.piece.id}
        self._size = made.sheets[""].canvas.shape[:2]
        self.accepted = np.zeros(self._size, bool)

    def of_moved(self, seen: BoolArray) -> Iterator[Cause]:
        """Tell of what was stamped or glued beside its place: all that differs where it is, and where it belongs."""
        for key in self._order:
            if not self._moves.is_moved(key) or key not in self._done:
                continue
            areas = [
                leaf.whole if not is_glued(leaf.piece) else leaf.sheet
                for leaf in (*self._inks.leaves, *self._made.leaves)
                if leaf.piece.id == key
            ]
            here = seen & fill(shapely.buffer(shapely.union_all(areas), SOFT_MM), self._size, PX_PER_MM)
            if here.any():
                what = "paper" if is_glued(self._wanted[key]) else "ink"
                yield Cause(
                    "place", what, self._moves.moved_with(key), self._moves.moved_with(key), self._press_of(key), here
                )

    def _press_of(self, key: str) -> int:
        presses = [p for p, press in enumerate(self._made.plan.presses) if key in map(piece_key, press.impressions)]
        return presses[-1] if presses else -1

    def of_paper(self, seen: BoolArray) -> tuple[list[Cause], dict[str, BoolArray]]:
        """Tell where other paper lies on top than is wanted; see `PaperCauses`."""
        return PaperCauses(self._moves, self._inks.leaves, self._made).of_paper(seen)

    def by_piece(self, pixels: BoolArray) -> dict[str, BoolArray]:
        """Share pixels out by the piece that is wanted on top there, ink included; empty for the base."""
        found: dict[str, BoolArray] = {}
        for leaf in reversed(self._inks.leaves):
            here = pixels & fill(leaf.area, self._size, PX_PER_MM) if pixels.any() else pixels
            if here.any():
                found[leaf.piece.id] = found.get(leaf.piece.id, here) | here
                pixels = pixels & ~here
        return found | ({"": pixels} if pixels.any() else {})

    # -- ink -----------------------------------------------------------------------------------------------------

    def of_ink(self, surface: str, seen: BoolArray) -> list[Cause]:
        """Tell why a sheet differs where it is seen, ink by ink."""
        sheet = self._made.sheets.get(surface)
        if sheet is None or not seen.any():
            return []
        laid: dict[str, list[Lay]] = {}
        for lay in [*sheet.lays, *(one for one in self._made.pile if isinstance(one, Lay))]:
            laid.setdefault("colour " + lay.ink.piece if lay.is_colour else lay.ink.key, []).append(lay)
        wanted = self._inks.on(surface)
        causes = [*self._of_water(surface, seen), *self._of_words(surface, seen, laid)]
        for key in dict.fromkeys([*wanted, *(key for key in laid if not key.startswith("colour "))]):
            if not isinstance(self._wanted.get(piece_key(key)), Strip):
                causes += self._of_one(key, wanted.get(key), laid.get(key, []), surface, sheet, seen)
        causes += self._of_colours(surface, seen, laid)
        found = np.zeros(self._size, bool)
        for cause in causes:
            found |= cause.pixels
        rest = seen & ~found & ~self.accepted
        return [*causes, *self._of_order(wanted, laid, rest)] if rest.any() else causes

    def _of_one(
        self, key: str, ink: Ink | None, lays: Sequence[Lay], surface: str, sheet: SimulatedSheet, seen: BoolArray
    ) -> Iterator[Cause]:
        """Tell where there is less, or more, of one ink than wanted, or another in its place."""
        piece = piece_key(ink.piece if ink is not None else key)
        window = self._window_of([*([ink] if ink is not None else []), *(lay.ink for lay in lays)], sheet.window)
        if 0 in size_of(window) or not seen[window].any():
            return
        want, most, sum_of = self._amounts(ink, lays, surface, window)
        own = self._wanted.get(piece) or self._done.get(piece)
        if isinstance(own, Impression) and own.resists:  # its lines are told by the inks that do not keep off them
            return
        less, more = seen[window] & (want - most > SHARE), seen[window] & (most - want > SHARE)
        if less.any():
            yield from self._less(piece, ink, lays, less, window)
        if more.any():
            yield from self._more(piece, ink, lays, more, window, surface)
        if ink is not None and lays:
            both = seen[window] & (want > SHARE) & (most > SHARE)
            yield from self._both(piece, ink, lays, both, both & (sum_of - want > TWICE - 1), window)

    def _both(
        self, piece: str, ink: Ink, lays: Sequence[Lay], both: BoolArray, more: BoolArray, window: Window
    ) -> Iterator[Cause]:
        """Tell where an ink is that is wanted, but twice, or in another colour."""
        if len(lays) > 1 and more.any():
            yield Cause("extra", "ink", piece, piece, lays[-1].press, self._panel(more, window))
        other = both & _is_other_ink(ink, lays[-1].ink, window) if both.any() else both
        if other.any():
            yield Cause("colour", "ink", piece, piece, lays[-1].press, self._panel(other, window))

    def _amounts(
        self, ink: Ink | None, lays: Sequence[Lay], surface: str, window: Window
    ) -> tuple[Floats, Floats, Floats]:
        """Return how much of an ink is wanted on a window, the most that was laid there at once, and in all."""
        want = np.zeros(size_of(window), np.float32)
        if ink is not None:
            _add(want, self._inks.share_of(ink, surface), ink.window, window)
        most, sum_of = np.zeros_like(want), np.zeros_like(want)
        for lay in lays:
            one = np.zeros_like(want)
            _add(one, lay.inked, lay.ink.window, window)
            most, sum_of = np.maximum(most, one), sum_of + one
        return want, most, sum_of

    def _less(
        self, piece: str, ink: Ink | None, lays: Sequence[Lay], less: BoolArray, window: Window
    ) -> Iterator[Cause]:
        if not lays:
            yield Cause("missing", "ink", piece, piece, -1, self._panel(less, window))
            return
        press, key = lays[-1].press, lays[-1].ink.key
        if self._moves.is_moved(piece):
            yield Cause("place", "ink", piece, piece, press, self._panel(less, window))
            return
        kept = self._made.kept.get((press, key))
        ahead = dict(self._inks.fronts(ink)) if ink is not None else {}
        for front, mask in kept.masks if kept is not None and ink is not None else ():
            under = less & self._fill(mask, window)
            less = less & ~under
            if not under.any():
                continue
            if front in ahead:
                edge = self._inks.edge_of(front, ahead[front])
                yield Cause("halo", "ink", front, piece, press, self._panel(under, window), edge)
            else:
                kind = "missing" if front == piece else "order"
                yield Cause(kind, "ink", front, piece, press, self._panel(under, window))
        if kept is not None and kept.skipped is not None and kept.masks:
            skipped = np.zeros(size_of(window), np.float32)
            _add(skipped, kept.skipped.astype(np.float32), kept.window, window)
            under = less & (skipped > 0)
            less = less & ~under
            if under.any():
                front, mask = min(kept.masks, key=lambda entry: _distance(entry[1], under, window))
                yield Cause("skip", "ink", front, piece, press, self._panel(under, window), mask)
        if less.any():
            yield Cause("missing", "ink", piece, piece, press, self._panel(less, window))

    def _more(
        self,
        piece: str,
        ink: Ink | None,
        lays: Sequence[Lay],
        more: BoolArray,
        window: Window,
        surface: str,
    ) -> Iterator[Cause]:
        press = lays[-1].press
        if ink is None or self._moves.is_moved(piece):
            yield Cause("extra" if ink is None else "place", "ink", piece, piece, press, self._panel(more, window))
            return
        beyond = more & ~self._fill(ink.limit, window) if ink.limit is not None else np.zeros_like(more)
        more = more & ~beyond
        if beyond.any():
            limit = self._wanted[piece].trim_to
            yield Cause("spill", "ink", limit, piece, press, self._panel(beyond, window), ink.limit)
        for front, area in self._inks.fronts(ink):
            edge = self._inks.edge_of(front, area)
            over = more & self._fill(edge, window)
            more = more & ~over
            if over.any():
                over = over & ~self._accept(front, area, over, window)
            if over.any():
                yield Cause("ghost", "ink", front, piece, press, self._panel(over, window), edge)
        for resist, lines in self._resists(surface, window) if ink.is_wash else ():
            over = more & (lines > SHARE)
            more = more & ~over
            if over.any():
                pressed = any(resist in self._made.plan.presses[p].impressions for p in self._made.changes)
                kind = "order" if pressed else "missing"
                yield Cause(kind, "ink", piece, piece_key(resist), press, self._panel(over, window))
        if more.any():
            yield Cause("extra", "ink", piece, piece, press, self._panel(more, window))

    def _accept(self, front: str, area: Area, over: BoolArray, window: Window) -> BoolArray:
        """Tell what a mask cut inside the line explains: a narrow band along the front image's own edge."""
        if not -CUT_INSIDE_MM - 1e-9 <= rim_of(self._card, front) < 0:
            return np.zeros_like(over)
        band = over & ~self._fill(shapely.buffer(area, -CUT_INSIDE_MM), window)
        self.accepted |= self._panel(band, window)
        return band

    def _resists(self, surface: str, window: Window) -> Iterator[tuple[str, Floats]]:
        for key, ink in self._inks.inks.items():
            piece = self._wanted[ink.piece]
            if isinstance(piece, Impression) and piece.on == surface and piece.keeps_washes_off:
                lines = np.zeros(size_of(window), np.float32)
                _add(lines, 1 - ink.passing, ink.window, window)
                yield key, lines

    def _of_water(self, surface: str, seen: BoolArray) -> Iterator[Cause]:
        """Tell of water that was not laid, or twice."""
        for key in self._order:
            piece = self._wanted[key]
            if isinstance(piece, Water) and piece.on == surface:
                times = sum(key in press.impressions for press in self._made.plan.presses)
                here = seen & fill(self._leaf[key].area, self._size, PX_PER_MM)
                if times != 1 and here.any():
                    yield Cause("extra" if times else "missing", "ink", key, key, -1, here)

    def _of_words(self, surface: str, seen: BoolArray, laid: dict[str, list[Lay]]) -> Iterator[Cause]:
        piece = self._wanted.get(surface)
        if isinstance(piece, Strip) and piece.words and len(laid.get(surface, ())) != 1:
            yield Cause("extra" if surface in laid else "missing", "words", surface, surface, -1, seen)

    def _of_colours(self, surface: str, seen: BoolArray, laid: dict[str, list[Lay]]) -> Iterator[Cause]:
        """Tell of images that were not coloured, twice, or in other shades."""
        for key in self._order:
            one, other = self._wanted[key], self._done.get(key)
            at = key if isinstance(one, Cutout) else one.on
            if at != surface or not isinstance(one, Impression | Cutout) or not _colours_of(one):
                continue
            here = seen & fill(self._leaf[key].area, self._size, PX_PER_MM)
            times = len(laid.get("colour " + key, ()))
            if not here.any() or (times == 1 and _colours_of(one) == _colours_of(other)):
                continue
            kind = "missing" if not times else "extra" if times > 1 else "colour"
            yield Cause(kind, "colour", key, key, -1, here)

    def _of_order(self, wanted: dict[str, Ink], laid: dict[str, list[Lay]], rest: BoolArray) -> Iterator[Cause]:
        """Tell where an ink that covers lies under what was laid after it, though all inks are there."""
        whole = whole_window(self._size)
        done = [lay for lays in laid.values() for lay in lays]
        number = {id(lay): n for n, lay in enumerate(self._laid_in_order(done))}
        for key, ink in wanted.items():
            if key not in laid or not ink.covers_somewhere:
                continue
            own = laid[key][-1]
            later = np.zeros(self._size, np.float32)
            for lay in done:
                if number[id(lay)] > number[id(own)]:
                    _add(later, lay.inked, lay.ink.window, whole)
            share = np.zeros(self._size, np.float32)
            _add(share, own.inked, own.ink.window, whole)
            here = rest & (share > SHARE) & (later > SHARE)
            if here.any():
                rest = rest & ~here
                yield Cause("order", "ink", piece_key(key), piece_key(key), own.press, here)

    def _laid_in_order(self, lays: Sequence[Lay]) -> list[Lay]:
        """Sort what was done to one sheet as it was done."""
        order = [lay for sheet in self._made.sheets.values() for lay in sheet.lays]
        places = {id(lay): n for n, lay in enumerate(order)}
        return sorted(lays, key=lambda lay: places.get(id(lay), len(places)))

    def _window_of(self, inks: Sequence[Ink], sheet: Window) -> Window:
        """Return the window of a sheet that holds all patches of some inks."""
        rows, columns = (
            slice(
                min((one.window[axis].start for one in inks), default=0),
                max((one.window[axis].stop for one in inks), default=0),
            )
            for axis in (0, 1)
        )
        return common_window((rows, columns), sheet)

    def _fill(self, area: shapely.Geometry, window: Window) -> BoolArray:
        left, top = window[1].start / PX_PER_MM, window[0].start / PX_PER_MM
        return fill(area, size_of(window), PX_PER_MM, left=left, top=top)

    def _panel(self, pixels: BoolArray, window: Window) -> BoolArray:
        whole = np.zeros(self._size, bool)
        whole[window] = pixels
        return whole


def _colours_of(piece: Piece | None) -> object:
    """Return what an image is coloured with by hand; what is flat on a cutout is its paper."""
    if isinstance(piece, Impression):
        return (piece.colour, piece.colouring) if piece.is_coloured else None
    if isinstance(piece, Cutout):
        parts = tuple(part.colouring for part in piece.joined)
        return (piece.colouring, parts) if piece.colouring or any(parts) else None
    return None


def _is_other_ink(one: Ink, other: Ink, window: Window) -> BoolArray:
    """Tell where two inks differ in colour on a window of the panel."""
    here = np.abs(_tones_on(one, window) - _tones_on(other, window)).max(axis=2) > TONE
    colours = [[(tone, covers) for _, tone, covers in ink.zones] for ink in (one, other)]
    if one.is_opaque != other.is_opaque or colours[0] != colours[1]:
        return np.ones_like(here)
    return np.asarray(here, bool)


def _tones_on(ink: Ink, window: Window) -> Floats:
    """Return what an ink lets through on a window of the panel, zones left out; (rows, columns, 3)."""
    tones = np.broadcast_to(np.array(ink.tone, np.float32), (*size_of(window), 3)).copy()
    common = common_window(window, ink.window)
    if ink.tones is not None and 0 not in size_of(common):
        tones[from_corner(common, window)] = ink.tones[from_corner(common, ink.window)]
    return tones


def _add(whole: Floats, patch: Floats, there: Window, here: Window) -> None:
    """Add a patch of the panel to another window of it."""
    common = common_window(here, there)
    if 0 not in size_of(common):
        whole[from_corner(common, here)] += patch[from_corner(common, there)]


def _distance(area: Area, pixels: BoolArray, window: Window) -> float:
    rows, columns = np.nonzero(pixels)
    spot = shapely.Point((columns.mean() + window[1].start) / PX_PER_MM, (rows.mean() + window[0].start) / PX_PER_MM)
    return float(shapely.distance(area, spot))
