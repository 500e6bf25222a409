"""Washes of several inks: how far every place is on the way from the first ink to the last, and its colour there.

Glossary
--------
way
    0 where the first ink is by itself, 1 where the last is; inks between lie evenly along it.
"""

import itertools
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fair_thicket.model.pieces import WASH, Colour, Wash
from fair_thicket.shape.contrast import channels
from fair_thicket.shape.mixing import mix, to_lab
from fair_thicket.shape.outline import turn_points

Floats = NDArray[np.float32]
SHADES = 361
"""Steps in which a blend is pictured: finer than a screen shows, and every ink of up to six falls on one."""
MIXTURES, STRETCH = 40, 7.0
"""Mixtures looked at between two inks: shares from a thousandth to all but a thousandth, closest together there."""


def is_blended(piece: Wash) -> bool:
    """Whether a wash goes from one ink to another."""
    return len(piece.inks) > 1 and piece.way != "even"


def wash_colour(piece: Wash) -> Colour:
    """Give the flat colour of a wash: of a blended one that of its middle."""
    if not piece.inks:
        return piece.colour or WASH
    red, green, blue = _shades(piece.inks)[SHADES // 2 if is_blended(piece) else 0].tolist()
    return "#" + "".join(f"{round(part * 255):02x}" for part in (red, green, blue))


def wash_tones(piece: Wash, corner_mm: tuple[float, float], size: tuple[int, int], px_per_mm: float) -> Floats:
    """Colour of a wash on white paper at every pixel of a raster.

    Parameters
    ----------
    corner_mm : (x, y)
        Where the raster's top left corner lies on the panel.
    size : (rows, columns)

    Returns
    -------
    (rows, columns, 3) float32, sRGB 0..1
    """
    if not is_blended(piece):
        flat = np.array(channels(wash_colour(piece)), np.float32)
        return np.broadcast_to(flat, (*size, 3))
    xs = corner_mm[0] + (np.arange(size[1]) + 0.5) / px_per_mm - piece.x
    ys = corner_mm[1] + (np.arange(size[0]) + 0.5) / px_per_mm - piece.y
    across, down = turn_points([(1, 0), (0, 1)], -piece.angle_deg, 0, 0)
    x = xs[None, :] * across[0] + ys[:, None] * down[0]
    y = xs[None, :] * across[1] + ys[:, None] * down[1]
    shade = np.clip(_way(piece, x, y) * (SHADES - 1) + 0.5, 0, SHADES - 1).astype(np.uint16)
    return np.asarray(_shades(piece.inks)[shade], np.float32)


def _way(piece: Wash, x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
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


@lru_cache(maxsize=64)
def _shades(inks: tuple[Colour, ...]) -> Floats:
    """Colours along the way through inks, (SHADES, 3) float32, sRGB 0..1.

    Notes
    -----
    Between two inks the colours are those of their mixtures (Kubelka and Munk); a little of a dark ink tints much, so
    the mixtures are laid out along the way by how far apart the eye sees them (distance in CIELAB), as a maker blends.
    """
    if len(inks) == 1:
        return np.broadcast_to(np.array(channels(inks[0]), np.float32), (SHADES, 3))
    parts = []
    for first, second in itertools.pairwise(inks):
        shares = np.concatenate([[0.0], 1 / (1 + np.exp(-np.linspace(-STRETCH, STRETCH, MIXTURES))), [1.0]])
        colours = [first, *(mix([first, second], [1 - share, share]) for share in shares[1:-1].tolist()), second]
        seen = np.array([to_lab(colour) for colour in colours])
        way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(seen, axis=0), axis=1))])
        parts.append((way / max(way[-1], 1e-9), np.array([channels(colour) for colour in colours])))
    places = np.linspace(0, len(parts), SHADES)
    shades = np.empty((SHADES, 3), np.float32)
    for number, (way, colours_seen) in enumerate(parts):
        here = (places >= number) & (places <= number + 1)
        for channel in range(3):
            shades[here, channel] = np.interp(places[here] - number, way, colours_seen[:, channel])
    shades.setflags(write=False)
    return shades
