"""Washes of several inks: how far every place is on the way from the first ink to the last, and its colour there.

Glossary
--------
way
    0 where the first ink is by itself, 1 where the last is; inks between lie evenly along it.
"""

import itertools
import math
from collections.abc import Sequence
from functools import lru_cache

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.contrast import channels, luminance, to_colour
from fair_thicket.ink.mixing import mix, to_lab
from fair_thicket.ink.overlay import lay_over
from fair_thicket.model.pieces import WASH, AnyWash, Colour, is_stepped
from fair_thicket.shape.outline import to_area, turn_area, turn_points
from fair_thicket.shape.raster import BoolArray, fill
from fair_thicket.shape.washes import LaidStencil, lay_area

Floats = NDArray[np.float32]
SHADES = 361
"""Steps in which a blend is pictured: finer than a screen shows, and every ink of up to six falls on one."""
FULL_COATS = 3
SOFTEN_SHARE, SOFT_FROM_SHARE = 0.22, 0.45
"""A fade is smoothed over this share of its reach, in full from this share of it on (our own choice, by eye)."""
COARSE_SIGMA_PX = 5.0
WHITISH = 0.8
"""Drops and marks of a higher luminance are of white ink, which covers (common practice)."""
PAPER: Colour = "#ffffff"
MIXTURES, STRETCH = 40, 7.0
"""Mixtures looked at between two inks: shares from a thousandth to all but a thousandth, closest together there."""


def is_blended(piece: AnyWash) -> bool:
    """Whether a wash goes from one ink to another."""
    return len(piece.inks) > 1 and piece.way != "even" and not is_stepped(piece)


def is_opaque(piece: AnyWash) -> bool:
    """Whether a wash covers what it lies on: paste, and drops or marks of white and nearly white ink."""
    if piece.hides == "white":
        return luminance(wash_colour(piece)) > WHITISH
    return piece.hides == "always"


def wash_colour(piece: AnyWash) -> Colour:
    """Return the flat colour of a wash as it is coated: of a blended one its middle, of a stepped one its first.

    Notes
    -----
    Three thin coats give an ink its full colour (our own convention); K/S goes with the number of coats.
    """
    if is_blended(piece):
        red, green, blue = _shades(_coated(piece.inks, piece.coats))[SHADES // 2].tolist()
        return to_colour((red, green, blue))
    lays = piece.lays if is_stepped(piece) else ()
    ink = (lays[0].ink if lays else None) or (piece.inks[0] if piece.inks else piece.colour) or WASH
    return _coated((ink,), piece.coats)[0]


@lru_cache(maxsize=256)
def _coated(inks: tuple[Colour, ...], coats: int) -> tuple[Colour, ...]:
    return inks if coats == FULL_COATS else tuple(mix([ink], [coats / FULL_COATS]) for ink in inks)


def wash_tones(
    piece: AnyWash,
    corner_mm: tuple[float, float],
    size: tuple[int, int],
    px_per_mm: float,
    *,
    lays: Sequence[LaidStencil] = (),
) -> Floats:
    """Colour of a wash on white paper at every pixel of a raster.

    Parameters
    ----------
    lays
        What `list_lays` gives for it.
    corner_mm : (x, y)
        Where the raster's top left corner lies on the panel.
    size : (rows, columns)

    Returns
    -------
    (rows, columns, 3) float32, sRGB 0..1
    """
    if not is_blended(piece) and not lays:
        flat = np.array(channels(wash_colour(piece)), np.float32)
        return np.broadcast_to(flat, (*size, 3))
    if lays:
        return _stepped(piece, lays, corner_mm, size, px_per_mm)
    way = _way(piece, *_places(piece, corner_mm, size, px_per_mm))
    shade = np.clip(way * (SHADES - 1) + 0.5, 0, SHADES - 1).astype(np.uint16)
    return np.asarray(_shades(_coated(piece.inks, piece.coats))[shade], np.float32)


def tones_at(piece: AnyWash, points: NDArray[np.float64]) -> Floats:
    """Colour of a wash on white paper at places of the panel, (n, 2) mm; (n, 3) float32, sRGB 0..1."""
    if not is_blended(piece):
        return np.tile(np.array(channels(wash_colour(piece)), np.float32), (len(points), 1))
    local = turn_points(points - (piece.x, piece.y), -piece.angle_deg, 0, 0)
    way = np.clip(_way(piece, local[:, 0], local[:, 1]) * (SHADES - 1) + 0.5, 0, SHADES - 1)
    return np.asarray(_shades(_coated(piece.inks, piece.coats))[way.astype(np.uint16)], np.float32)


def wash_shares(piece: AnyWash, corner_mm: tuple[float, float], size: tuple[int, int], px_per_mm: float) -> Floats:
    """Share of every ink of a blended wash at every pixel: of two neighbours by how far along the way it lies.

    Returns
    -------
    (rows, columns, inks) float32, 0..1, in all 1
    """
    last = len(piece.inks) - 1
    way = np.clip(_way(piece, *_places(piece, corner_mm, size, px_per_mm)), 0, 1) * last
    shares = [np.clip(1 - np.abs(way - number), 0, 1) for number in range(last + 1)]
    return np.asarray(np.stack(shares, axis=2), np.float32)


def _places(
    piece: AnyWash, corner_mm: tuple[float, float], size: tuple[int, int], px_per_mm: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Places of a raster's pixels, mm from the wash's middle and unturned."""
    xs = corner_mm[0] + (np.arange(size[1]) + 0.5) / px_per_mm - piece.x
    ys = corner_mm[1] + (np.arange(size[0]) + 0.5) / px_per_mm - piece.y
    across, down = turn_points([(1, 0), (0, 1)], -piece.angle_deg, 0, 0)
    return xs[None, :] * across[0] + ys[:, None] * down[0], xs[None, :] * across[1] + ys[:, None] * down[1]


def _way(piece: AnyWash, x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far places, mm from the wash's middle and unturned, are on the way from the first ink to the last."""
    half_x, half_y = piece.form.width_mm / 2, piece.form.height_mm / 2
    angle = np.radians(piece.toward_deg)
    along_x, along_y = float(np.cos(angle)), float(np.sin(angle))
    if piece.way == "glow":
        at_x, at_y = piece.centre
        far = np.hypot(half_x + abs(at_x), half_y + abs(at_y))
        return np.asarray(np.hypot(x - at_x, y - at_y) / far)
    if piece.way == "corner":
        at_x, at_y = (-half_x if along_x >= 0 else half_x), (-half_y if along_y >= 0 else half_y)
        return np.asarray(np.hypot(x - at_x, y - at_y) / np.hypot(2 * half_x, 2 * half_y))
    reach = abs(along_x) * half_x + abs(along_y) * half_y
    straight = (x * along_x + y * along_y) / (2 * reach) + 0.5
    return np.abs(2 * straight - 1) if piece.way == "band" else straight


def _stepped(
    piece: AnyWash,
    lays: Sequence[LaidStencil],
    corner_mm: tuple[float, float],
    size: tuple[int, int],
    px_per_mm: float,
) -> Floats:
    """Lay the ink of every lay over what the lays before left."""

    def cover(area: shapely.Geometry, room: int = 0) -> BoolArray:
        placed = turn_area(area, piece.angle_deg, piece.x, piece.y)
        left, top = (corner - room / px_per_mm for corner in corner_mm)
        return fill(placed, (size[0] + 2 * room, size[1] + 2 * room), px_per_mm, left=left, top=top)

    tones = np.ones((*size, 3), np.float32)
    for laid in lays:
        (ink,) = _coated((laid.lay.ink or piece.colour or WASH,), piece.coats)
        inked = cover(lay_area(laid))
        if not inked.any():
            continue
        shade = np.zeros(int(inked.sum()), np.uint16)
        if laid.fades and laid.is_edge:
            room = int(laid.reach_mm * px_per_mm) + 1
            away = cv2.distanceTransform(
                (~cover(laid.place(to_area(laid.outline)), room)).astype(np.uint8), cv2.DIST_L2, 5
            )
            away = _softened(away, laid.reach_mm * px_per_mm)
            away = away[room : room + size[0], room : room + size[1]][inked] / (laid.reach_mm * px_per_mm)
            shade = (np.clip(away, 0, 1) * (SHADES - 1) + 0.5).astype(np.uint16)
        tones[inked] = lay_over(tones[inked], _shades((ink, PAPER))[shade])
    return tones


def _softened(away: Floats, reach_px: float) -> Floats:
    """Smooth the distances from a stencil's edge the more the farther from it.

    Distances alone make creases that run up from every cusp of the edge; no brush does that. At the edge itself the
    ink stays as crisp as the stencil cuts it.
    """
    sigma = max(0.5, SOFTEN_SHARE * reach_px)
    coarse = max(1.0, sigma / COARSE_SIGMA_PX)  # so smooth a field loses nothing in larger pixels, and they are few
    rows, columns = away.shape
    few = cv2.resize(away, (math.ceil(columns / coarse), math.ceil(rows / coarse)), interpolation=cv2.INTER_AREA)
    few = cv2.GaussianBlur(few, (0, 0), sigma / coarse)
    smooth = cv2.resize(few, (columns, rows), interpolation=cv2.INTER_CUBIC)
    far = np.clip(away / (SOFT_FROM_SHARE * reach_px), 0, 1)
    weight = far * far * (3 - 2 * far)
    return np.asarray(away + (smooth - away) * weight, np.float32)


@lru_cache(maxsize=64)
def _shades(inks: tuple[Colour, ...]) -> Floats:
    """Colours along the way through inks, (SHADES, 3) float32, sRGB 0..1.

    Notes
    -----
    Between two inks the colours are those of their mixtures (Kubelka and Munk); a little of a dark ink tints much, so
    the mixtures are laid out along the way by how far apart the eye sees them (distance in CIELAB), as a maker blends.
    """
    parts = [_between(first, second) for first, second in itertools.pairwise(inks)]
    places = np.linspace(0, len(parts), SHADES)
    shades = np.empty((SHADES, 3), np.float32)
    for number, (way, colours_seen) in enumerate(parts):
        here = (places >= number) & (places <= number + 1)
        for channel in range(3):
            shades[here, channel] = np.interp(places[here] - number, way, colours_seen[:, channel])
    shades.setflags(write=False)
    return shades


@lru_cache(maxsize=256)
def _between(first: Colour, second: Colour) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Mixtures of two inks, from the one to the other: how far along each lies to the eye, 0..1, and its colour."""
    shares = np.concatenate([[0.0], 1 / (1 + np.exp(-np.linspace(-STRETCH, STRETCH, MIXTURES))), [1.0]])
    colours = [first, *(mix([first, second], [1 - share, share]) for share in shares[1:-1].tolist()), second]
    seen = np.array([to_lab(colour) for colour in colours])
    way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(seen, axis=0), axis=1))])
    return way / max(way[-1], 1e-9), np.array([channels(colour) for colour in colours])
