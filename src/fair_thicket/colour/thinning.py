"""Lines thinned to their middle, and the places where they end.

Notes
-----
T. Y. Zhang and C. Y. Suen, A fast parallel algorithm for thinning digital patterns, Communications of the ACM 27 (1984):
pixels of the edge are taken away from two sides by turns while no line is broken. Here the eight neighbours of every
pixel are read as one number, which a table answers.
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
    """Where a line ends: a pixel of its middle, (row, column), and the way it was going, a unit vector (down, right)."""

    at: tuple[int, int]
    way: tuple[float, float]


BITS = (np.arange(256)[:, None] >> np.arange(8)) & 1
COUNT = BITS.sum(axis=1).astype(np.uint8)
"""How many neighbours there are, and below how many runs of them lie round the pixel."""
TURNS = ((BITS == 0) & (np.roll(BITS, -1, axis=1) == 1)).sum(axis=1).astype(np.uint8)


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
    A twig of the thinned lines that is shorter than the line is wide, where it branches off, is no end: it comes from a
    corner.
    """
    lines = thin(mask)
    around = neighbours(lines)
    runs = TURNS[around]
    wide = cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 3)
    ends = []
    for row, column in np.argwhere(lines & (runs == 1) & (COUNT[around] <= 2)).tolist():
        walked, branch = _walk_back(lines, runs, (row, column), max(back_px, 40.0))
        if branch is not None and len(walked) < 1.3 * float(wide[branch]) + 2:
            continue
        row_back, column_back = walked[min(len(walked) - 1, round(back_px))]
        length = float(np.hypot(row - row_back, column - column_back))
        if length >= 1:
            ends.append(End((row, column), ((row - row_back) / length, (column - column_back) / length)))
    return ends


def _walk_back(
    lines: Bool, runs: NDArray[np.uint8], start: tuple[int, int], most: float
) -> tuple[list[tuple[int, int]], tuple[int, int] | None]:
    """Walk along a line from its end to where it branches, or so far; gives the way, and the branch if there is one."""
    walked, before = [start], start
    while len(walked) < most:
        row, column = walked[-1]
        ahead = [
            (row + down, column + right)
            for down, right in AROUND
            if 0 <= row + down < lines.shape[0]
            and 0 <= column + right < lines.shape[1]
            and lines[row + down, column + right]
            and (row + down, column + right) not in (before, *walked[-3:])
        ]
        if not ahead:
            return walked, None
        before = walked[-1]
        walked.append(ahead[0])
        if runs[ahead[0]] > 2:
            return walked, ahead[0]
    return walked, None
