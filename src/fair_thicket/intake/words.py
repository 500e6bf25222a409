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
WIDEST = 2.5
"""What is wider than so many glyph heights is no letter, though joined letters may be."""
CROWD, CROWDED_SHARE = 1.5, 0.3
"""Letters are nearer to each other than to anything beside their line. Where so large a share of them has a loose bit
of a letter's size within so many usual pauses, they are parts of drawings in a row, such as grains or rays."""


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
    loose = _all_but(glyphs, lines)
    lines = [line for line in lines if not _is_crowded(boxes, line, loose)]
    for index in _all_but(indices, lines) if lines else ():
        if tall[index] <= TALLEST_MM / 2:
            own = next((line for line in lines if _lies_in(boxes, line, index)), None)
            if own is not None:
                own.append(index)
    return lines


def _all_but(indices: Sequence[int], lines: Sequence[Sequence[int]]) -> list[int]:
    """Return those that are in no line."""
    taken = {index for line in lines for index in line}
    return [index for index in indices if index not in taken]


def _chains(boxes: NDArray[np.float64], tall: NDArray[np.float64], glyphs: Sequence[int]) -> list[list[int]]:
    """Chain glyphs, from the left, each to the nearest chain that it goes on."""
    chains: list[list[int]] = []
    ends = np.empty(len(glyphs), np.int64)  # the last glyph of each chain
    for index in glyphs:
        last = ends[: len(chains)]
        goes_on = np.flatnonzero(_go_on(boxes, tall, last, index))
        if len(goes_on):
            best = int(goes_on[np.argmax(boxes[last[goes_on], 2])])
            chains[best].append(index)
        else:
            best = len(chains)
            chains.append([index])
        ends[best] = index
    return chains


def _go_on(
    boxes: NDArray[np.float64], tall: NDArray[np.float64], last: NDArray[np.int64], index: int
) -> NDArray[np.bool_]:
    """Say of each of some glyphs whether another could be the next one of its line."""
    high, low = np.maximum(tall[last], tall[index]), np.minimum(tall[last], tall[index])
    shared = np.minimum(boxes[last, 3], boxes[index, 3]) - np.maximum(boxes[last, 1], boxes[index, 1])
    pause = boxes[index, 0] - boxes[last, 2]
    fits = (shared >= 0.4 * low) & (-0.4 * high <= pause) & (pause <= MOST_PAUSE * high) & (low >= high / 3.2)
    return np.asarray(fits, np.bool_)


def _is_line(boxes: NDArray[np.float64], tall: NDArray[np.float64], chain: Sequence[int]) -> bool:
    own = boxes[list(chain)]
    usual = float(np.median(tall[list(chain)]))
    if int((own[:, 2] - own[:, 0] <= WIDEST * usual).sum()) < LEAST_GLYPHS:
        return False
    pauses = own[1:, 0] - own[:-1, 2]
    length = float(own[:, 2].max() - own[:, 0].min())
    feet = own[:, 3] - np.median(own[:, 3])
    return bool(
        float(np.median(pauses)) <= USUAL_PAUSE * usual
        and length >= LEAST_LENGTH * float(own[:, 3].max() - own[:, 1].min())
        and float(np.median(np.abs(feet))) <= 0.25 * usual
    )


def _is_crowded(boxes: NDArray[np.float64], line: Sequence[int], loose: Sequence[int]) -> bool:
    """Say whether loose bits that are no dots of its letters lie about a line as near as its own glyphs do."""
    own, others = boxes[list(line)], boxes[[index for index in loose if not _lies_in(boxes, line, index)]]
    if not len(others):
        return False
    pause = max(float(np.median(own[1:, 0] - own[:-1, 2])), 0.0)
    beside = np.maximum(own[:, None, 0] - others[None, :, 2], others[None, :, 0] - own[:, None, 2])
    above = np.maximum(own[:, None, 1] - others[None, :, 3], others[None, :, 1] - own[:, None, 3])
    gaps = np.hypot(np.maximum(beside, 0), np.maximum(above, 0)).min(axis=1)
    return float((gaps <= CROWD * pause).mean()) >= CROWDED_SHARE


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
