"""How far colours are from each other as the eye sees it, many at once.

Notes
-----
CIEDE2000: CIE 142:2001, as worked out by G. Sharma, W. Wu and E. N. Dalal, The CIEDE2000 color-difference formula:
implementation notes, supplementary test data, and mathematical observations, Color Research and Application 30 (2005).
All three weights are 1.
"""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fair_thicket.ink.mixing import to_lab
from fair_thicket.model.supplies import Colour

Floats = NDArray[np.float64]


def labs_of(colours: Sequence[Colour]) -> Floats:
    """CIELAB (D65) of colours, (n, 3) float."""
    return np.array([to_lab(colour) for colour in colours], np.float64).reshape(-1, 3)


def labs_of_levels(levels: NDArray[np.uint8]) -> Floats:
    """CIELAB (D65) of sRGB levels, many at once; of any shape that ends in 3.

    Notes
    -----
    IEC 61966-2-1 and CIE 15: the matrix and the white of sRGB.
    """
    share = levels.astype(np.float64) / 255
    linear = np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    x, y, z = (linear @ row / white for row, white in zip(_TO_XYZ, _TO_XYZ.sum(axis=1), strict=True))
    fx, fy, fz = (np.where(t > 216 / 24389, np.cbrt(t), (24389 / 27 * t + 16) / 116) for t in (x, y, z))
    return np.stack([116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)], axis=-1)


def levels_differ(one: NDArray[np.uint8], other: NDArray[np.uint8], least: float) -> NDArray[np.bool_]:
    """Tell where two pictures differ by more than so much CIEDE2000; (rows, columns, 3) uint8 each."""
    differ = np.zeros(one.shape[:2], bool)
    unequal = (one != other).any(axis=2)
    pairs = np.concatenate([one[unequal], other[unequal]], axis=1).astype(np.uint64)
    if not len(pairs):
        return differ
    packed = (pairs << (np.arange(6, dtype=np.uint64) * np.uint64(8))).sum(axis=1, dtype=np.uint64)
    kinds, of_kind = np.unique(packed, return_inverse=True)  # few colours meet few others
    apart = (kinds[:, None] >> (np.arange(6, dtype=np.uint64) * np.uint64(8))) & np.uint64(255)
    levels = apart.astype(np.uint8)
    is_far = difference(labs_of_levels(levels[:, :3]), labs_of_levels(levels[:, 3:])) > least
    differ[unequal] = is_far[of_kind.ravel()]
    return differ


_TO_XYZ = np.array(
    [[0.4123908, 0.3575843, 0.1804808], [0.212639, 0.7151687, 0.0721923], [0.0193308, 0.1191948, 0.9505322]]
)
_TO_XYZ.setflags(write=False)


def difference(one: Floats, other: Floats) -> Floats:
    """CIEDE2000 between colours.

    Parameters
    ----------
    one, other : (..., 3) float
        CIELAB; of shapes that fit each other.

    Returns
    -------
    (...) float
        1 is about what a careful eye just tells apart.
    """
    one, other = np.asarray(one, np.float64), np.asarray(other, np.float64)
    chroma = (np.hypot(one[..., 1], one[..., 2]) + np.hypot(other[..., 1], other[..., 2])) / 2
    more = 1 + 0.5 * (1 - _seventh(chroma))
    a_one, a_other = one[..., 1] * more, other[..., 1] * more
    chroma_one, chroma_other = np.hypot(a_one, one[..., 2]), np.hypot(a_other, other[..., 2])
    hue_one = np.degrees(np.arctan2(one[..., 2], a_one)) % 360
    hue_other = np.degrees(np.arctan2(other[..., 2], a_other)) % 360
    is_grey = chroma_one * chroma_other == 0

    turn = hue_other - hue_one
    turn = np.where(turn > 180, turn - 360, np.where(turn < -180, turn + 360, turn))
    turn = np.where(is_grey, 0.0, turn)
    lighter = other[..., 0] - one[..., 0]
    stronger = chroma_other - chroma_one
    across = 2 * np.sqrt(chroma_one * chroma_other) * np.sin(np.radians(turn) / 2)

    light = (one[..., 0] + other[..., 0]) / 2
    strong = (chroma_one + chroma_other) / 2
    both = hue_one + hue_other
    is_near = np.abs(hue_one - hue_other) <= 180
    mean = np.where(is_near, both / 2, np.where(both < 360, both / 2 + 180, both / 2 - 180))
    mean = np.where(is_grey, both, mean)
    weight = (
        1
        - 0.17 * _cosine(mean - 30)
        + 0.24 * _cosine(2 * mean)
        + 0.32 * _cosine(3 * mean + 6)
        - 0.20 * _cosine(4 * mean - 63)
    )
    off = (light - 50) ** 2
    lighter = lighter / (1 + 0.015 * off / np.sqrt(20 + off))
    stronger = stronger / (1 + 0.045 * strong)
    across = across / (1 + 0.015 * strong * weight)
    tilt = -np.sin(np.radians(60 * np.exp(-(((mean - 275) / 25) ** 2)))) * 2 * _seventh(strong)
    return np.asarray(np.sqrt(lighter**2 + stronger**2 + across**2 + tilt * stronger * across), np.float64)


@lru_cache(maxsize=4096)
def difference_of(one: Colour, other: Colour) -> float:
    """CIEDE2000 between two colours."""
    return float(difference(labs_of([one]), labs_of([other]))[0])


def _seventh(chroma: Floats) -> Floats:
    return np.asarray(np.sqrt(chroma**7 / (chroma**7 + 25.0**7)), np.float64)


def _cosine(degrees: Floats) -> Floats:
    return np.asarray(np.cos(np.radians(degrees)), np.float64)
