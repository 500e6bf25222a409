"""Lines thinned to their middle, and the places where they end.

Notes
-----
Z. Guo and R. W. Hall, Parallel thinning with two-subiteration algorithms, Communications of the ACM 32 (1989): pixels
of the edge are taken away from two sides by turns while no line is broken, and none is shortened, whichever way it
runs. Here the eight neighbours of every pixel are read as one number, which a table answers.
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

Bool = NDArray[np.bool_]
Places = NDArray[np.intp]
AROUND = ((-1, 0), (-1, 1), (0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1))
"""Rows and columns of the neighbours, clockwise from above."""
KERNEL = np.zeros((3, 3), np.float32)
for _bit, (_row, _column) in enumerate(AROUND):
    KERNEL[1 + _row, 1 + _column] = 1 << _bit
KERNEL.setflags(write=False)


class End(NamedTuple):
    """Where a line ends, (row, column), and the way it was going, a unit vector (down, right)."""

    at: tuple[int, int]
    way: tuple[float, float]


BITS = (np.arange(256)[:, None] >> np.arange(8)) & 1
BITS.setflags(write=False)
COUNT = BITS.sum(axis=1).astype(np.uint8)
COUNT.setflags(write=False)
"""How many neighbours there are, and below how many runs of them lie round the pixel."""
TURNS = ((BITS == 0) & (np.roll(BITS, -1, axis=1) == 1)).sum(axis=1).astype(np.uint8)
TURNS.setflags(write=False)

MOST_ROUNDS = 60
"""Each takes a pixel away on every side: more than the widest line has at 600 dpi, 5 mm."""
IS_END = (TURNS == 1) & (COUNT <= 2)
IS_END.setflags(write=False)


def _tables() -> tuple[Bool, Bool]:
    """Whether a pixel with those neighbours is taken away, in the first and in the second half of a round."""
    north, north_east, east, south_east, south, south_west, west, north_west = BITS.T
    parts = (
        ((1 - north) & (north_east | east)) + ((1 - east) & (south_east | south))
        + ((1 - south) & (south_west | west)) + ((1 - west) & (north_west | north))
    )  # fmt: skip
    pairs = np.minimum(
        (north_west | north) + (north_east | east) + (south_east | south) + (south_west | west),
        (north | north_east) + (east | south_east) + (south | south_west) + (west | north_west),
    )
    may_go = (parts == 1) & (pairs >= 2) & (pairs <= 3)
    first = may_go & (((north | north_east | (1 - south_east)) & east) == 0)
    second = may_go & (((south | south_west | (1 - north_west)) & west) == 0)
    return first, second


TABLES = _tables()


def neighbours(mask: Bool) -> NDArray[np.uint8]:
    """Which of its eight neighbours every pixel has, one bit each, clockwise from above; beyond the edge is nothing."""
    return np.asarray(cv2.filter2D(mask.astype(np.uint8), cv2.CV_32F, KERNEL, borderType=cv2.BORDER_CONSTANT), np.uint8)


class _Pixels:
    """A mask from which pixels are taken away; only those round what has gone are looked at again."""

    def __init__(self, mask: Bool) -> None:
        self._shape = mask.shape
        self._wide = mask.shape[1] + 2
        self._flat = np.pad(mask, 1).astype(np.uint8).ravel()
        self._around = np.array([row * self._wide + column for row, column in AROUND])

    def every(self) -> Places:
        """Return all that are there."""
        return np.flatnonzero(self._flat.view(np.bool_))

    def bits(self, places: Places) -> NDArray[np.uint8]:
        """Which of its eight neighbours each has, one bit each, clockwise from above."""
        found = np.zeros(len(places), np.uint8)
        for bit, off in enumerate(self._around.tolist()):
            found |= self._flat[places + off] << np.uint8(bit)
        return found

    def take(self, places: Places) -> None:
        """Take pixels away."""
        self._flat[places] = 0

    def mark_near(self, places: Places, marks: NDArray[np.uint8]) -> None:
        """Mark what lies beside some places."""
        for off in self._around.tolist():
            marks[places + off] = 1

    def marked(self, marks: NDArray[np.uint8]) -> Places:
        """Return what is marked and there still; the marks are wiped out."""
        found = np.flatnonzero((marks & self._flat).view(np.bool_))
        marks[:] = 0
        return found

    def no_marks(self) -> NDArray[np.uint8]:
        """Return room for marks."""
        return np.zeros_like(self._flat)

    def mask(self) -> Bool:
        """Return what is left."""
        whole = self._flat.reshape(self._shape[0] + 2, self._wide)
        return np.ascontiguousarray(whole[1:-1, 1:-1]).view(np.bool_)


def thin(mask: Bool) -> Bool:
    """Thin a mask to lines one pixel wide; what is wider than any line stays as a smaller patch."""
    pixels = _Pixels(mask)
    ahead = (pixels.no_marks(), pixels.no_marks())  # what has changed round about since each half of a round
    places = pixels.every()
    for number in range(2 * MOST_ROUNDS):
        half = number % 2
        if number > 1:
            places = pixels.marked(ahead[half])
        elif number:
            places = pixels.every()
        away = places[TABLES[half][pixels.bits(places)]]
        pixels.take(away)
        for marks in ahead:
            pixels.mark_near(away, marks)
        if number > 1 and not (len(away) or ahead[1 - half].any()):
            break
    return pixels.mask()


def find_ends(mask: Bool, *, back_px: float) -> list[End]:
    """Find where lines of a mask end.

    Parameters
    ----------
    mask : (rows, columns) bool
    back_px : float
        The way a line was going is looked at over this length.

    Notes
    -----
    Twigs of the thinned lines that are shorter than the lines are wide come from corners and from ragged ends: the
    thinned lines are shortened by that much, which leaves only true ones, and each is then followed to where ink ends.
    """
    lines = thin(mask)
    wide = cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 3)
    half = float(np.median(wide[lines])) if lines.any() else 0.0
    short = _shorten(lines, round(1.3 * half + 2))
    around = neighbours(short)
    ends = []
    for row, column in np.argwhere(short & is_end(around)).tolist():
        walked = _walk_back(short, (row, column), round(back_px))
        row_back, column_back = walked[-1]
        length = float(np.hypot(row - row_back, column - column_back))
        if length >= 2:
            way = ((row - row_back) / length, (column - column_back) / length)
            ends.append(End(_tip(mask, (row, column), way), way))
    return ends


def is_end(around: NDArray[np.uint8]) -> Bool:
    """Whether pixels of thinned lines are ends, by their neighbours."""
    return np.asarray(IS_END[around], bool)


def _shorten(lines: Bool, times: int) -> Bool:
    """Take the last pixel of every line away, so many times."""
    pixels = _Pixels(lines)
    places, marks = pixels.every(), pixels.no_marks()
    for _ in range(min(times, MOST_ROUNDS)):
        ends = places[is_end(pixels.bits(places))]
        pixels.take(ends)
        pixels.mark_near(ends, marks)
        places = pixels.marked(marks)
    return pixels.mask()


def _walk_back(lines: Bool, start: tuple[int, int], most: int) -> list[tuple[int, int]]:
    """Walk along a line from its end to where it branches, or so far."""
    walked = [start]
    while len(walked) <= most:
        row, column = walked[-1]
        ahead = [
            (row + down, column + right)
            for down, right in AROUND
            if 0 <= row + down < lines.shape[0] and 0 <= column + right < lines.shape[1]
        ]
        ahead = [spot for spot in ahead if lines[spot] and spot not in walked[-3:]]
        if not ahead or len(ahead) > 2:
            return walked
        walked.append(ahead[0])
    return walked


def _tip(mask: Bool, start: tuple[int, int], way: tuple[float, float]) -> tuple[int, int]:
    """Follow a line on from a pixel of its middle to the last that is inked."""
    found = start
    for step in range(1, 200):
        row, column = round(start[0] + way[0] * step), round(start[1] + way[1] * step)
        if not (0 <= row < mask.shape[0] and 0 <= column < mask.shape[1] and mask[row, column]):
            return found
        found = (row, column)
    return found
