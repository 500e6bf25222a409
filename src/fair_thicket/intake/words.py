"""Lines of separate glyphs among the parts of a page: that is how a greeting looks."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

TALLEST_MM = 9.0
"""Taller glyphs are more likely images in a row."""
LEAST_GLYPHS = 5
MOST_PAUSE = 1.1
"""Widest pause between words, in glyph heights."""
USUAL_PAUSE = 0.4
"""Usual pause between letters, at most, in glyph heights."""
LEAST_LENGTH = 3.0
"""A line is at least this many times as long as it is high."""


def find_lines(boxes: NDArray[np.float64], indices: Sequence[int]) -> list[list[int]]:
    """Find lines of glyphs.

    Parameters
    ----------
    boxes : (n, 4) float, mm
        Left, top, right, bottom of every part.
    indices : parts that may be glyphs
        Those inside others are left out by the caller.

    Returns
    -------
    list of lists of indices
        Each line from the left; dots and commas included.
    """
    tall = boxes[:, 3] - boxes[:, 1]
    glyphs = sorted((index for index in indices if 0.8 <= tall[index] <= TALLEST_MM), key=lambda i: boxes[i, 0])
    lines = [chain for chain in _chains(boxes, tall, glyphs) if _is_line(boxes, tall, chain)]
    taken = {index for line in lines for index in line}
    small = [index for index in indices if index not in taken and tall[index] <= TALLEST_MM / 2]
    for index in small if lines else ():
        own = next((line for line in lines if _lies_in(boxes, line, index)), None)
        if own is not None:
            own.append(index)
    return lines


def _chains(boxes: NDArray[np.float64], tall: NDArray[np.float64], glyphs: Sequence[int]) -> list[list[int]]:
    """Chain glyphs, from the left, each to the nearest chain that it goes on."""
    chains: list[list[int]] = []
    for index in glyphs:
        best = max(
            (chain for chain in chains if _goes_on(boxes, tall, chain[-1], index)),
            key=lambda chain: boxes[chain[-1], 2],
            default=None,
        )
        if best is None:
            chains.append([index])
        else:
            best.append(index)
    return chains


def _goes_on(boxes: NDArray[np.float64], tall: NDArray[np.float64], last: int, index: int) -> bool:
    high = max(tall[last], tall[index])
    shared = min(boxes[last, 3], boxes[index, 3]) - max(boxes[last, 1], boxes[index, 1])
    pause = boxes[index, 0] - boxes[last, 2]
    return bool(
        shared >= 0.4 * min(tall[last], tall[index])
        and -0.4 * high <= pause <= MOST_PAUSE * high
        and min(tall[last], tall[index]) >= high / 3.2
    )


def _is_line(boxes: NDArray[np.float64], tall: NDArray[np.float64], chain: Sequence[int]) -> bool:
    if len(chain) < LEAST_GLYPHS:
        return False
    own = boxes[list(chain)]
    usual = float(np.median(tall[list(chain)]))
    pauses = own[1:, 0] - own[:-1, 2]
    length = float(own[:, 2].max() - own[:, 0].min())
    feet = own[:, 3] - np.median(own[:, 3])
    return bool(
        float(np.median(pauses)) <= USUAL_PAUSE * usual
        and length >= LEAST_LENGTH * float(own[:, 3].max() - own[:, 1].min())
        and float(np.median(np.abs(feet))) <= 0.25 * usual
    )


def _lies_in(boxes: NDArray[np.float64], line: Sequence[int], index: int) -> bool:
    own = boxes[list(line)]
    high = float(own[:, 3].max() - own[:, 1].min())
    left, top, right, bottom = boxes[index]
    return bool(
        left >= own[:, 0].min() - 0.5 * high
        and right <= own[:, 2].max() + 0.5 * high
        and top >= own[:, 1].min() - 0.5 * high
        and bottom <= own[:, 3].max() + 0.3 * high
    )
