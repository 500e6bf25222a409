"""Palettes from a picture or a patterned paper, and the maker's own families that come nearest to them."""

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.colour.offers import Offer
from fair_thicket.ink.difference import difference, labs_of
from fair_thicket.ink.oklab import from_oklab, to_oklab
from fair_thicket.model.supplies import Colour

MOST_COLOURS = 6
LOOK_PX = 160
"""Colours are counted on a picture no larger than this."""
LEAST_SHARE = 0.015
SAME = 7.0
"""Colours nearer to each other than this (CIEDE2000) are one."""


class Tint(NamedTuple):
    """A main colour of a picture, and how much of it there is, 0..1."""

    colour: Colour
    share: float


class Match(NamedTuple):
    """A main colour and the family of the maker's that comes nearest to it, with the distance (CIEDE2000)."""

    tint: Tint
    family: str
    off: float


def palette_of(pixels: NDArray[np.uint8], *, count: int = MOST_COLOURS) -> list[Tint]:
    """Find the main colours of a picture, white and greys included, the largest first.

    Parameters
    ----------
    pixels : (rows, columns) or (rows, columns, 3) uint8
        Grey, or sRGB.

    Notes
    -----
    k-means in Oklab (OpenCV, three starts, the same every time) on a small picture; colours that the eye hardly tells
    apart are taken together.
    """
    colours = pixels if pixels.ndim == 3 else np.repeat(pixels[:, :, None], 3, axis=2)
    scale = min(1.0, LOOK_PX / max(colours.shape[:2]))
    small = cv2.resize(colours, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else colours
    labs = to_oklab(np.asarray(small.reshape(-1, 3), np.float32) / np.float32(255))
    labs = np.repeat(labs, 4, axis=0) if len(labs) < 4 else labs  # fewer rows than channels would be read as columns
    clusters = min(2 * count, len(np.unique(labs.round(3), axis=0)))
    cv2.setRNGSeed(5)
    stop = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 30, 1e-4)
    _, which, middles = cv2.kmeans(labs, clusters, np.zeros(0, np.int32), stop, 3, cv2.KMEANS_PP_CENTERS)
    shares = np.bincount(which.ravel(), minlength=clusters) / len(labs)
    found: list[Tint] = []
    for index in np.argsort(-shares):
        if shares[index] < LEAST_SHARE and found:
            break
        colour = "#" + "".join(f"{round(255 * float(level)):02x}" for level in from_oklab(middles[index]))
        near = [n for n, one in enumerate(found) if difference(labs_of([one.colour]), labs_of([colour]))[0] < SAME]
        if near:
            found[near[0]] = found[near[0]]._replace(share=found[near[0]].share + float(shares[index]))
        else:
            found.append(Tint(colour, float(shares[index])))
    return sorted(found, key=lambda tint: -tint.share)[:count]


def match_palette(tints: Sequence[Tint], families: Sequence[Offer]) -> list[Match]:
    """Match main colours to families, by the shade of each that comes nearest; none without families."""
    if not families:
        return []
    matches = []
    for tint in tints:
        own = labs_of([tint.colour])[0]
        offs = [float(difference(labs_of([shade.colour for shade in one.shades]), own).min()) for one in families]
        nearest = int(np.argmin(offs))
        matches.append(Match(tint, families[nearest].name, offs[nearest]))
    return matches
