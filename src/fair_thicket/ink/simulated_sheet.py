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
    """

    ink: Ink
    inked: Floats
    press: int = -1
    is_colour: bool = False


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
        self._bare_lines: Floats | None = None  # share of every place that lies under an embossed resist

    def press(self, ink: Ink, press: int, kept_off: BoolArray | None = None) -> None:
        """Stamp or ink once; `kept_off`, on the ink's own patch, is where masks lie or the rubber does not reach."""
        inked = 1 - ink.passing
        if kept_off is not None:
            inked = np.where(kept_off, np.float32(0.0), inked)
        own = ink.within(self.window)
        inked = np.asarray(inked[from_corner(own.window, ink.window)], np.float32)
        if ink.is_wash and self._bare_lines is not None:
            inked = inked * (1 - self._bare_lines[from_corner(own.window, self.window)])
        self._lay(Lay(own, inked, press))

    def emboss_clear(self, ink: Ink, kept_off: BoolArray | None = None) -> None:
        """Melt clear powder on lines: what is inked afterwards does not take there."""
        inked = 1 - ink.passing
        if kept_off is not None:
            inked = np.where(kept_off, np.float32(0.0), inked)
        if self._bare_lines is None:
            self._bare_lines = np.zeros(self.canvas.shape[:2], np.float32)
        own = ink.within(self.window)
        there = from_corner(own.window, self.window)
        share = np.asarray(inked[from_corner(own.window, ink.window)], np.float32)
        self._bare_lines[there] = 1 - (1 - self._bare_lines[there]) * (1 - share)

    def colour(self, key: str, window: Window, tones: Floats, inside: BoolArray, *, is_covered: bool) -> None:
        """Lay an image's colours by hand: over its lines, and not on lines that cover or resist.

        Parameters
        ----------
        window : (slice, slice)
            Of the panel, within the sheet.
        tones : (rows, columns, 3) float32
            As they are on white paper.
        inside : (rows, columns) bool
        is_covered : bool
            Whether the image's own lines cover, or resist: colours do not take on them.
        """
        taken = inside.astype(np.float32)
        if is_covered:
            for lay in self.lays:
                if lay.ink.piece == key and not lay.is_colour:
                    taken = taken * (1 - _on_window(lay.inked, lay.ink.window, window))
            if self._bare_lines is not None:
                taken = taken * (1 - self._bare_lines[from_corner(window, self.window)])
        tint = np.asarray(1 - (1 - tones) * taken[:, :, None], np.float32)
        ink = Ink(key, key, window, 1 - taken, shapely.Polygon(), self.px, tones=tint)
        self._lay(Lay(ink, taken, is_colour=True))

    def lift(self, area: shapely.Geometry, wet: frozenset[str]) -> None:
        """Blot water that lay on an area: it lifts the ink of wet washes that are there by now."""
        for at, lay in enumerate(self.lays):
            if lay.ink.is_wash and lay.ink.piece in wet and lay.ink.area.intersects(area):
                soft = lay.ink.cover(area)
                self.lays[at] = replace(lay, inked=np.where(soft, LEFT * lay.inked, lay.inked))
        self.canvas = self.bare.copy()
        for lay in self.lays:
            self.put(self.canvas, lay, self.window)

    def put(self, canvas: Floats, lay: Lay, frame: Window) -> None:
        """Lay what was done on a canvas of a window of the panel: this sheet's own, or what a veil is laid over."""
        own = lay.ink.within(frame)
        view, inked = canvas[from_corner(own.window, frame)], lay.inked[from_corner(own.window, lay.ink.window)]
        if lay.is_colour:
            here = inked > 0
            tint = own.tones if own.tones is not None else np.ones_like(view)
            view[here] = lay_over(view[here], tint[here])
        else:
            own.lay(view, inked)

    def _lay(self, lay: Lay) -> None:
        self.lays.append(lay)
        self.put(self.canvas, lay, self.window)


def _on_window(patch: Floats, there: Window, here: Window) -> Floats:
    """Return a patch of the panel as it lies on another window; nothing where it does not reach."""
    laid = np.zeros(size_of(here), np.float32)
    common = common_window(here, there)
    if 0 not in size_of(common):
        laid[from_corner(common, here)] = patch[from_corner(common, there)]
    return laid
