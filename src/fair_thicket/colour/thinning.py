"""Lines thinned to their middle, and the places where they end.

Notes
-----
T. Y. Zhang and C. Y. Suen, A fast parallel algorithm for thinning digital patterns, Communications of the ACM 27
(1984): pixels of the edge are taken away from two sides by turns while no line is broken. Here the eight neighbours of
every pixel are read as one number, which a table answers.
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

Bool = NDArray[np.bool_]
AROUND = ((-1, 0), (-1, 1), (0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1))
"""Rows and columns of the neighbours, clockwise from above."""
KERNEL = np.zeros((3, 3), np.float32)
for _bit, (_row, _column) in enumerate(AROUND):
    KERNEL[1 + _row, 1 + _column] = 1 << _bit


class End(NamedTuple):
    """Where a line ends, (row, column), and the way it was going, a unit vector (down, right)."""

    at: tuple[int, int]
    way: tuple[float, float]


BITS = (np.arange(256)[:, None] >> np.arange(8)) & 1
COUNT = BITS.sum(axis=1).astype(np.uint8)
"""How many neighbours there are, and below how many runs of them lie round the pixel."""
TURNS = ((BITS == 0) & (np.roll(BITS, -1, axis=1) == 1)).sum(axis=1).astype(np.uint8)

IS_END = (TURNS == 1) & (COUNT <= 2)


def _tables() -> tuple[Bool, Bool]:
    """Whether a pixel with those neighbours is taken away, in the first and in the second half of a round."""
    bits, count, turns = BITS, COUNT, TURNS
    north, east, south, west = bits[:, 0], bits[:, 2], bits[:, 4], bits[:, 6]
    may_go = (count >= 2) & (count <= 6) & (turns == 1)
    first = may_go & (north * east * south == 0) & (east * south * west == 0)
    second = may_go & (north * east * west == 0) & (north * south * west == 0)
    return first, second


TABLES = _tables()


def neighbours(mask: Bool) -> NDArray[np.uint8]:
    """Which of its eight neighbours every pixel has, one bit each, clockwise from above; beyond the edge is nothing."""
    return np.asarray(cv2.filter2D(mask.astype(np.uint8), cv2.CV_32F, KERNEL, borderType=cv2.BORDER_CONSTANT), np.uint8)


def thin(mask: Bool) -> Bool:
    """Thin a mask to lines one pixel wide."""
    left = mask.copy()
    while True:
        gone = 0
        for table in TABLES:
            away = left & table[neighbours(left)]
            gone += int(np.count_nonzero(away))
            left &= ~away
        if not gone:
            return left


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
    short = lines.copy()
    for _ in range(times):
        short &= ~is_end(neighbours(short))
    return short


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
