"""A sheet of paper that is worked on: what was laid on it, in the order of the hands, and what it looks like now.

Nothing here knows what is to come: a resist keeps off only what is inked after it, water lifts only what is there.
"""

from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.ink_patch import Ink
from fair_thicket.ink.lifting import LEFT
from fair_thicket.ink.overlay import lay_over
from fair_thicket.shape.raster import BoolArray
from fair_thicket.shape.windows import Window, common_window, from_corner, size_of

Floats = NDArray[np.float32]


@dataclass(frozen=True)
class Lay:
    """One thing that was done to a sheet.

    Attributes
    ----------
    ink : Ink
        On the sheet's part of the panel; of colours laid by hand their tones, with `key` the piece's id.
    inked : (rows, columns) float32
        Share that took, 0..1, on the ink's patch.
    press : int
        Index of the press of the plan; -1 for colours laid by hand.
    is_colour : bool
        Colours of an image, laid over its lines.
    is_embossed : bool
        Powder was melted on it: it stays on top of what is inked later.
    spared : (rows, columns) float32 or None
        Share of every place that a clear resist kept as it was.
    """

    ink: Ink
    inked: Floats
    press: int = -1
    is_colour: bool = False
    is_embossed: bool = False
    spared: Floats | None = None


class SimulatedSheet:
    """One sheet.

    Attributes
    ----------
    key : str
        Id of its piece; empty for the card's base.
    window : (slice, slice)
        Rows and columns of the panel that it takes up: it is pictured where it will lie.
    bare : (rows, columns, 3) float32, sRGB 0..1
        The paper before anything is done to it.
    canvas : (rows, columns, 3) float32
        What it looks like now.
    lays : list of Lay
        What was done to it, one after the other.
    """

    def __init__(self, key: str, window: Window, bare: Floats, px_per_mm: float) -> None:
        self.key, self.window, self.bare, self.px = key, window, bare, px_per_mm
        self.canvas = bare.copy()
        self.lays: list[Lay] = []
        self._resists: list[tuple[Ink, Floats]] = []  # clear lines, and how much of every place they keep

    def press(self, ink: Ink, press: int, kept_off: BoolArray | None = None, *, is_embossed: bool = False) -> None:
        """Stamp or ink once.

        Parameters
        ----------
        kept_off : (rows, columns) bool or None
            On the ink's own patch: where masks lie, or the rubber does not reach.
        is_embossed : bool
            Powder is melted on it: what comes later does not take there.
        """
        own = ink.within(self.window)
        inked = _taken(ink, own, kept_off)
        spared = self._spared(own) if not is_embossed else None
        self._lay(Lay(own, inked, press, is_embossed=is_embossed, spared=spared))

    def emboss_clear(self, ink: Ink, kept_off: BoolArray | None = None) -> None:
        """Melt clear powder on lines: what is inked afterwards does not take there."""
        own = ink.within(self.window)
        self._resists.append((own, _taken(ink, own, kept_off)))

    def settle(self) -> None:
        """Forget how it came to look as it does: nothing more is done to it."""
        self.bare = self.canvas
        self.lays.clear()
        self._resists.clear()

    def _spared(self, own: Ink) -> Floats | None:
        """Return how much of an ink's patch clear resists keep as it is; None for nothing."""
        free = np.ones(own.passing.shape, np.float32)
        for resist, lines in self._resists:
            if resist.piece != own.piece:
                free = free * (1 - _on_window(lines, resist.window, own.window))
        return None if float(free.min(initial=1.0)) == 1.0 else 1 - free

    def colour(self, key: str, window: Window, tones: Floats, inside: BoolArray) -> None:
        """Lay an image's colours by hand: over its lines, but under those that cover, and not on those that resist.

        Parameters
        ----------
        window : (slice, slice)
            Of the panel, within the sheet.
        tones : (rows, columns, 3) float32
            As they are on white paper.
        inside : (rows, columns) bool
        """
        taken = inside.astype(np.float32)
        ink = Ink(key, key, window, 1 - taken, shapely.Polygon(), self.px, tones=np.asarray(tones, np.float32))
        lines = [_on_window(kept, resist.window, window) for resist, kept in self._resists]
        spared = 1 - np.prod([1 - one for one in lines], axis=0) if lines else None
        lay = Lay(ink, taken, is_colour=True, spared=None if spared is None else np.asarray(spared, np.float32))
        covering = [n for n, one in enumerate(self.lays) if one.ink.piece == key and one.ink.covers_somewhere]
        if covering:
            self.lays.insert(covering[0], lay)
            self._lay_anew()
        else:
            self._lay(lay)

    def lift(self, area: shapely.Geometry, wet: frozenset[str]) -> None:
        """Blot water that lay on an area: it lifts the ink of wet washes that are there by now."""
        for at, lay in enumerate(self.lays):
            if lay.ink.is_wash and lay.ink.piece in wet and lay.ink.area.intersects(area):
                soft = lay.ink.cover(area)
                self.lays[at] = replace(lay, inked=np.where(soft, LEFT * lay.inked, lay.inked))
        self._lay_anew()

    def _lay_anew(self) -> None:
        self.canvas = self.bare.copy()
        for lay in self.lays:
            self.put(self.canvas, lay, self.window)

    def put(self, canvas: Floats, lay: Lay, frame: Window) -> None:
        """Lay what was done on a canvas of a window of the panel: this sheet's own, or what a veil is laid over."""
        own = lay.ink.within(frame)
        part = from_corner(own.window, lay.ink.window)
        view, inked = canvas[from_corner(own.window, frame)], lay.inked[part]
        before = view.copy() if lay.spared is not None else None
        if lay.is_colour:
            here = inked > 0
            tint = own.tones if own.tones is not None else np.ones_like(view)
            view[here] = lay_over(view[here], tint[here])
        else:
            own.lay(view, inked)
        if lay.spared is not None and before is not None:
            view += (before - view) * lay.spared[part][:, :, None]

    def _lay(self, lay: Lay) -> None:
        on_top = [n for n, one in enumerate(self.lays) if _stays_over(one, lay)]
        if on_top:  # what is inked later does not take on melted powder
            self.lays.insert(on_top[0], lay)
            self._lay_anew()
        else:
            self.lays.append(lay)
            self.put(self.canvas, lay, self.window)


def _stays_over(one: Lay, later: Lay) -> bool:
    """Whether something embossed stays on top of what is laid later."""
    if not one.is_embossed or one.ink.piece == later.ink.piece:
        return False
    return 0 not in size_of(common_window(one.ink.window, later.ink.window))


def _taken(ink: Ink, own: Ink, kept_off: BoolArray | None) -> Floats:
    """Return how much of an ink takes on its part of a sheet: none under masks."""
    inked = 1 - ink.passing
    if kept_off is not None:
        inked = np.where(kept_off, np.float32(0.0), inked)
    return np.asarray(inked[from_corner(own.window, ink.window)], np.float32)


def _on_window(patch: Floats, there: Window, here: Window) -> Floats:
    """Return a patch of the panel as it lies on another window; nothing where it does not reach."""
    laid = np.zeros(size_of(here), np.float32)
    common = common_window(here, there)
    if 0 not in size_of(common):
        laid[from_corner(common, here)] = patch[from_corner(common, there)]
    return laid
