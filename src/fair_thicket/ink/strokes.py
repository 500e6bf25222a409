"""The marks of the hand in what is coloured: streaks of a marker, grain of a pencil, blooms of water, freckles."""

from collections.abc import Mapping
from functools import lru_cache
from types import MappingProxyType
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.ink.shadow_field import PX_PER_MM
from fair_thicket.model.supplies import Medium

Floats = NDArray[np.float32]
DOT_MM, DOTS_APART_MM = 0.32, 1.7
SLANT_DEG = 24.0
"""Of a hand's strokes."""
TEXTURE_PX = 512
"""Images share a texture up to multiples of this."""


class Hand(NamedTuple):
    """How a medium lies on paper.

    Attributes
    ----------
    streak, grain : float
        How much more or less ink there is where strokes overlap, and from the paper's grain.
    pool : float
        How much more gathers at the lines that stop it.
    soft : float
        How much softer the way from shade to shade is than of alcohol markers.
    strength : float
        How much of its ink a single going-over lays.
    """

    streak: float
    grain: float
    pool: float
    soft: float
    strength: float


HANDS: Mapping[Medium, Hand] = MappingProxyType(
    {
        "alcohol": Hand(0.10, 0.035, 0.22, 1.0, 1.0),
        "water": Hand(0.16, 0.05, 0.55, 1.7, 0.9),
        "pencil": Hand(0.16, 0.22, 0.05, 1.5, 0.75),
        "pigment": Hand(0.04, 0.05, 0.08, 2.2, 0.95),
    }
)
"""By eye; the trade gives no figures."""


@lru_cache(maxsize=12)
def texture_of(medium: Medium, side: int) -> Floats:
    """Streaks of strokes and the grain of paper on a square: how much more or less ink there is, about 1."""
    hand = HANDS[medium]
    chance = np.random.default_rng(7)
    wide = int(side * 1.5)
    strokes = chance.standard_normal((max(2, wide // 5), max(2, wide // 70))).astype(np.float32)
    streaks = cv2.warpAffine(
        strokes,
        _to_strokes(side, wide, strokes.shape),
        (side, side),
        flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REFLECT,
    )
    if medium == "water":
        streaks = cv2.GaussianBlur(streaks, (0, 0), 9.0) * 3
    grain = cv2.GaussianBlur(chance.standard_normal((side, side), dtype=np.float32), (0, 0), 0.8)
    made = 1 + hand.streak * streaks + hand.grain * 2 * grain
    return np.asarray(np.clip(made, 0.35 if medium == "pencil" else 0.6, 1.5), np.float32)


def _to_strokes(side: int, wide: int, shape: tuple[int, ...]) -> Floats:
    """Return the affine map from a square's pixels to strokes that are drawn out over a wider one and turned."""
    about_middle = cv2.getRotationMatrix2D((side / 2, side / 2), -SLANT_DEG, 1.0)
    about_middle[:, 2] += (wide - side) / 2
    drawn_out = np.array([[shape[1] / wide], [shape[0] / wide]])
    return np.asarray(drawn_out * about_middle, np.float32)


def texture(medium: Medium, shape: tuple[int, int]) -> Floats:
    """Return the texture of a medium for an image."""
    side = -(-max(shape) // TEXTURE_PX) * TEXTURE_PX
    return texture_of(medium, side)[: shape[0], : shape[1]]


def freckles(shape: tuple[int, int]) -> Floats:
    """Freckles, about evenly strewn: 1 in a dot, 0 beside."""
    chance = np.random.default_rng(11)
    dots = np.zeros(shape, np.float32)
    apart = DOTS_APART_MM * PX_PER_MM
    for row in np.arange(apart / 2, shape[0], apart):
        for column in np.arange(apart / 2, shape[1], apart):
            x, y = chance.uniform(-0.3, 0.3, 2) * apart
            radius = DOT_MM * PX_PER_MM * chance.uniform(0.7, 1.2)
            cv2.circle(dots, (round(column + x), round(row + y)), round(radius), 1.0, -1, cv2.LINE_AA)
    return dots
