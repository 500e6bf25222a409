"""Ink laid over what is there already, on whole pictures: K/S adds up, channel by channel, as in `mixing`.

Notes
-----
Tables in the place of powers and logarithms: a front at 300 dpi has six million values. Both tables are finer than a
level of 255 everywhere: the first is even in sRGB, the second in the square root of K/S, which near white goes with
the lightness lost.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fair_thicket.ink.contrast import luminance
from fair_thicket.ink.mixing import mix, reflectance
from fair_thicket.model.pieces import Colour

Floats = NDArray[np.float32]
FINE, FINER = 4095, 16383
BLACK = 1e-5
"""Reflectance of black in a picture: an ink of pure red stays pure red."""


COVERS = 0.4
"""Ink of a higher luminance than this covers its ground: white, pale and pigment ink, embossing powder (WCAG 2.1's
relative luminance; the limit is our own convention)."""


def covers(ink: Colour) -> bool:
    """Whether an ink covers what lies under it; darker ink lets it through and mixes with it."""
    return luminance(ink) > COVERS


def lay_over(below: Floats, over: Floats) -> Floats:
    """Lay ink over a picture.

    Parameters
    ----------
    below : float32, sRGB 0..1
        What is there: paper, with ink or without; of any shape.
    over : float32, sRGB 0..1
        The ink as it looks on white paper, of the same shape or one that fits it.

    Returns
    -------
    float32, sRGB 0..1
        What is seen; over white it is the ink itself, and the order of two inks makes no difference.
    """
    return levels_of(k_of(below) + k_of(over))


def k_of(levels: Floats) -> Floats:
    """K/S of a picture's levels, sRGB 0..1; of any shape."""
    return np.asarray(_tables()[0].take(_index(levels, FINE)), np.float32)


def levels_of(k: Floats) -> Floats:
    """Levels of a picture, sRGB 0..1, of a K/S of any shape."""
    root = np.asarray(np.sqrt(k), np.float32)
    np.divide(root, 1 + root, out=root)  # 0 to 1
    root *= FINER
    root += np.float32(0.5)
    return np.asarray(_tables()[1].take(root.astype(np.uint16)), np.float32)


def lay_colour(below: Colour, over: Colour) -> Colour:
    """Lay an ink over a flat colour; see `lay_over`."""
    return over if below == "#ffffff" else _laid(below, over)


@lru_cache(maxsize=512)
def _laid(below: Colour, over: Colour) -> Colour:
    return mix([below, over])


def _index(values: Floats, last: int) -> NDArray[np.uint16]:
    scaled = np.asarray(np.clip(values, 0, 1), np.float32)
    scaled *= np.float32(last)
    scaled += np.float32(0.5)
    return scaled.astype(np.uint16)


@lru_cache(maxsize=1)
def _tables() -> tuple[Floats, Floats]:
    """K/S of every step of sRGB, and sRGB of every step of r / (1 + r), r the square root of K/S."""
    level = np.arange(FINE + 1) / FINE
    linear = np.where(level <= 0.04045, level / 12.92, ((level + 0.055) / 1.055) ** 2.4)
    bounded = np.maximum(linear, BLACK)
    to_k = ((1 - bounded) ** 2 / (2 * bounded)).astype(np.float32)
    part = np.arange(FINER + 1) / FINER
    light = reflectance((part / np.maximum(1 - part, 1e-9)) ** 2)
    shown = np.where(light <= 0.0031308, light * 12.92, 1.055 * np.maximum(light, 0) ** (1 / 2.4) - 0.055)
    return to_k, np.clip(shown, 0, 1).astype(np.float32)
