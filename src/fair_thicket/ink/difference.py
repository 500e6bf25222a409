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
