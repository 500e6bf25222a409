"""Outlines placed one after the other on a raster of the sheet, each as far to the left as it goes.

Dependable and the same every time. An outline takes every cell that its paper, grown by half the gap, comes near to, so
that outlines that share no cell are apart; where all of an outline fits is told by one correlation (FFT) a turn.
"""

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.model.wanted import GoOn
from fair_thicket.shape.raster import fill

Floats = NDArray[np.float32]
CELLS = 230
"""Of the shorter side of a sheet."""
LEAST_CELL_MM = 0.15


class Spot(NamedTuple):
    """Where an outline lies: turned about (0, 0) by degrees clockwise, then moved; mm from the sheet's corner."""

    id: str
    x_mm: float
    y_mm: float
    angle_deg: float


class Wanted(NamedTuple):
    """An outline to be placed.

    Attributes
    ----------
    id : str
    area : Polygon
        About its own (0, 0), mm.
    """

    id: str
    area: shapely.Polygon


class _Turned(NamedTuple):
    """An outline turned: its cells, and where its (0, 0) lies from the first cell's corner, mm."""

    cells: NDArray[np.bool_]
    off: tuple[float, float]
    angle_deg: float


class Raster:
    """Sheets of one size, so many at most, on which outlines are placed.

    Attributes
    ----------
    sheets : list of lists of Spot
    left : list of str
        Ids of what fits no sheet.
    """

    def __init__(
        self,
        room_mm: tuple[float, float],
        *,
        gap_mm: float,
        angles: Sequence[float],
        cells: int = CELLS,
        most: int = 10_000,
    ) -> None:
        self._gap, self._angles, self._most = gap_mm, angles, most
        cell = max(LEAST_CELL_MM, min(room_mm) / cells)
        grown = (room_mm[0] + gap_mm, room_mm[1] + gap_mm)  # outlines are grown by half the gap, and so is the room
        self._shape = (max(1, round(grown[1] / cell)), max(1, round(grown[0] / cell)))
        self._cell = (grown[0] / self._shape[1], grown[1] / self._shape[0])  # a whole number of them fills the room
        self._taken: list[NDArray[np.bool_]] = []
        self._freely: list[NDArray[np.complex64]] = []
        self._known: dict[bytes, list[tuple[_Turned, NDArray[np.complex64]]]] = {}
        self.sheets: list[list[Spot]] = []
        self.left: list[str] = []

    def place_all(self, wanted: Sequence[Wanted], go_on: GoOn = lambda: True) -> bool:
        """Place outlines in their order, each on the first sheet that has room; whether there was time for all."""
        for one in wanted:
            if not go_on():
                return False
            self.place(one)
        return True

    def place(self, one: Wanted) -> None:
        """Place one outline."""
        turned = self._turned(one)
        for number in range(min(len(self._taken) + 1, self._most)):
            if number == len(self._taken):
                if not turned:
                    break
                self._open()
            best = self._best(number, turned)
            if best is not None:
                self._put(number, one.id, *best)
                return
            if number == len(self._taken) - 1 and not self.sheets[number]:
                for kept in (self._taken, self._freely, self.sheets):
                    kept.pop()  # not even an empty sheet takes it
                break
        self.left.append(one.id)

    def _open(self) -> None:
        self._taken.append(np.zeros(self._shape, bool))
        self._freely.append(_transform(self._taken[-1]))
        self.sheets.append([])

    def _turned(self, one: Wanted) -> list[tuple[_Turned, NDArray[np.complex64]]]:
        key = one.area.wkb
        if key not in self._known:
            made = [self._turn(one.area, angle) for angle in self._angles]
            high, wide = self._shape
            fits = [turned for turned in made if turned.cells.shape[0] <= high and turned.cells.shape[1] <= wide]
            self._known[key] = [(turned, _transform(turned.cells, self._shape).conj()) for turned in fits]
        return self._known[key]

    def _turn(self, area: shapely.Polygon, angle_deg: float) -> _Turned:
        turned = shapely.affinity.rotate(area, angle_deg, origin=(0, 0))
        reach = self._gap / 2 + math.hypot(*self._cell) / 2
        near = shapely.buffer(turned, reach, quad_segs=4)
        half = self._gap / 2
        left, top, right, bottom = (
            bound + off for bound, off in zip(turned.bounds, (-half, -half, half, half), strict=True)
        )
        wide, high = self._cell
        size = (max(1, math.ceil((bottom - top) / high - 1e-6)), max(1, math.ceil((right - left) / wide - 1e-6)))
        near = shapely.transform(near, lambda points: (points - (left, top)) / (wide, high))
        cells = fill(near, size, 1.0)
        return _Turned(cells, (-left, -top), angle_deg)

    def _best(
        self, number: int, turned: Sequence[tuple[_Turned, NDArray[np.complex64]]]
    ) -> tuple[_Turned, int, int] | None:
        """Find the turn and the place at which the right end comes farthest to the left, then highest up."""
        best: tuple[float, float, _Turned, int, int] | None = None
        for one, spectrum in turned:
            rows, columns = one.cells.shape
            shared = _back(self._freely[number] * spectrum, self._shape)
            free = shared[: self._shape[0] - rows + 1, : self._shape[1] - columns + 1] < 0.5
            at = np.flatnonzero(free.any(axis=0))
            if not len(at):
                continue
            column = int(at[0])
            row = int(free[:, column].argmax())
            key = (column + columns, row + rows)
            if best is None or key < best[:2]:
                best = (*key, one, row, column)
        return None if best is None else best[2:]

    def _put(self, number: int, key: str, turned: _Turned, row: int, column: int) -> None:
        rows, columns = turned.cells.shape
        self._taken[number][row : row + rows, column : column + columns] |= turned.cells
        self._freely[number] = _transform(self._taken[number])
        off = self._gap / 2
        x = column * self._cell[0] + turned.off[0] - off
        y = row * self._cell[1] + turned.off[1] - off
        self.sheets[number].append(Spot(key, x, y, turned.angle_deg))


def _transform(cells: NDArray[np.bool_], shape: tuple[int, int] | None = None) -> NDArray[np.complex64]:
    import scipy.fft  # takes long to load, and is needed only here

    made = scipy.fft.rfft2(cells.astype(np.float32), s=_even(shape or cells.shape))
    return np.asarray(made, np.complex64)


def _back(spectrum: NDArray[np.complex64], shape: tuple[int, int]) -> Floats:
    import scipy.fft

    return np.asarray(scipy.fft.irfft2(spectrum, s=_even(shape)), np.float32)


def _even(shape: tuple[int, ...]) -> tuple[int, int]:
    import scipy.fft

    return scipy.fft.next_fast_len(shape[0], real=True), scipy.fft.next_fast_len(shape[1], real=True)
