"""Ink on a patch of the panel: what one stamping, or one wash, prints. Ink over ink mixes, or covers."""

from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.ground import LEAST
from fair_thicket.ink.overlay import lay_over
from fair_thicket.shape.outline import Area
from fair_thicket.shape.raster import BoolArray, fill
from fair_thicket.shape.windows import Window, common_window, from_corner, size_of

Floats = NDArray[np.float32]


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

    @property
    def covers_somewhere(self) -> bool:
        """Whether it, or a zone of it, covers what is there."""
        return self.is_opaque or any(is_covering for *_, is_covering in self.zones)

    def cover(self, area: shapely.Geometry) -> BoolArray:
        """Rasterise an area on this patch."""
        rows, columns = self.window
        left, top = columns.start / self.px_per_mm, rows.start / self.px_per_mm
        return fill(area, size_of(self.window), self.px_per_mm, left=left, top=top)

    def grown(self, room: int) -> "Ink":
        """Return the patch with so many pixels more on every side, bare; it may lie partly beside the panel."""
        rows, columns = self.window
        window = (slice(rows.start - room, rows.stop + room), slice(columns.start - room, columns.stop + room))
        bare = np.pad(self.passing, room, constant_values=1.0)
        return replace(self, window=window, passing=bare, zones=(), tones=None)

    def within(self, frame: Window) -> "Ink":
        """Return what of the patch lies within a window of the panel; it may be empty."""
        window = common_window(self.window, frame)
        part = from_corner(window, self.window)
        zones = tuple((inside[part], tone, is_covering) for inside, tone, is_covering in self.zones)
        tones = None if self.tones is None else self.tones[part]
        return replace(self, window=window, passing=self.passing[part], zones=zones, tones=tones)

    def lay(self, view: Floats, inked: Floats) -> None:
        """Lay the ink on what lies under its patch.

        Parameters
        ----------
        view : (rows, columns, 3) float32, sRGB 0..1
            Changed in place.
        inked : (rows, columns) float32
            Share of the patch that takes ink, 0..1: `1 - passing`, less where something keeps it off.
        """
        here = inked > LEAST
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
        if not self.covers_somewhere:
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
