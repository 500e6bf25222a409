"""A coloured image as its markers lay it: shades from dark to light, soft where they blend, pooling at the edges.

Glossary
--------
field
    How much a place lies in shadow: away from the light, near an edge. Cut at the shares of the
    shades it tells which shade lies where.
share
    How much of a part each shade takes: shadow a quarter to a third, the lightest at least a third (common practice).
streak
    Where two strokes of a marker overlap there is a little more ink.
pooling
    Ink gathers at the lines that stop it.
"""

from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.contrast import channels
from fair_thicket.ink.difference import difference_of
from fair_thicket.ink.overlay import k_of, levels_of
from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import Card
from fair_thicket.model.colouring import ColouredPart, Light, Region, ShadeOrder
from fair_thicket.model.pieces import Cutout, Impression
from fair_thicket.model.stash import Stamp, Stash
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.outline import to_area, turn_area_back
from fair_thicket.shape.raster import fill, grow_labels

Floats = NDArray[np.float32]
Bool = NDArray[np.bool_]
Own = tuple[tuple[Region, ...], tuple[tuple[float, float], ...], tuple[float, float]]
"""Regions, outline and size of an image."""
Patch = tuple[tuple[slice, slice], Bool, Floats]
PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH
SHADOW_DEG: dict[Light, float] = {"left": 50.0, "above": 90.0, "right": 130.0}
"""Where shadow lies when light falls from a side and from above, degrees clockwise from the right."""
SHARES = {
    1: (1.0,),
    2: (0.4, 0.6),
    3: (0.28, 0.34, 0.38),
    4: (0.22, 0.2, 0.22, 0.36),
    5: (0.18, 0.15, 0.16, 0.17, 0.34),
    6: (0.15, 0.13, 0.12, 0.13, 0.14, 0.33),
}
"""Of shades from dark to light (common practice: shadow a quarter to a third, the lightest at least a third)."""
AWAY, NEAR_EDGE = 0.62, 0.38
"""How much of the field each cause makes."""
UNDER = 0.9
"""How much more ink is laid beside what overlaps: a further coat."""
UNDER_MM = 2.2
"""So far the shadow of what overlaps reaches, in sigmas of its fading."""
SOFT, FAR_STEP = 0.13, 22.0
"""Softness of the way from shade to shade, as a share of the field; steps larger than this (CIEDE2000) stay hard."""
LINE_MM = 0.6
"""Colour goes under lines as far as this."""
STREAK, GRAIN, POOL = 0.10, 0.035, 0.22
POOL_MM = 0.22
DOT_MM, DOTS_APART_MM = 0.32, 1.7
SAMPLES = 2000
TEXTURE_PX = 512
"""Images share a texture up to multiples of this."""


class Laying(NamedTuple):
    """An image as it is to be coloured.

    Attributes
    ----------
    stamp : Stamp
    colouring : tuple of ColouredPart
    shadow_deg : float
        Where shadow lies in the image's own frame, degrees clockwise from the right.
    order : str
        How the maker lays a run.
    over : bytes
        What overlaps it, in its own frame, mm, as WKB; empty for nothing.
    """

    stamp: Stamp
    colouring: tuple[ColouredPart, ...]
    shadow_deg: float
    order: ShadeOrder
    over: bytes = b""


def laying_of(card: Card, stash: Stash, leaves: tuple[Leaf, ...], leaf: Leaf) -> Laying | None:
    """Tell how the image of a leaf is to be coloured; None for what is not coloured by its regions."""
    piece = leaf.piece
    if not isinstance(piece, Impression | Cutout) or not piece.colouring:
        return None
    at = next(index for index, one in enumerate(leaves) if one.key == leaf.key)
    fronts = [
        one.area
        for one in leaves[at + 1 :]
        if one.hides and one.piece.id != piece.id and one.area.intersects(leaf.area)
    ]
    over = b""
    if fronts:
        cover = shapely.intersection(shapely.union_all(fronts), leaf.area)
        over = shapely.simplify(turn_area_back(cover, piece.angle_deg, piece.x, piece.y), 0.05).wkb
    shadow = (SHADOW_DEG[card.light] - piece.angle_deg) % 360
    return Laying(stash.find(piece.stamp), piece.colouring, shadow, card.shade_order, over)


@lru_cache(maxsize=96)
def colour_image(laying: Laying) -> Floats:
    """Colour an image; kept, and so not to be written to.

    Returns
    -------
    (rows, columns, 3) float32
        What its inks are on white paper at 300 dpi, its box exactly, sRGB 0..1; white where nothing is laid.
    """
    absorbed = _absorb(laying._replace(over=b""))
    if laying.over:
        absorbed = absorbed * (1 + UNDER * _under(laying, absorbed.shape[:2]))[:, :, None]
    tones = levels_of(absorbed)
    tones.setflags(write=False)
    return tones


@lru_cache(maxsize=96)
def _absorb(laying: Laying) -> Floats:
    """K/S of all inks of an image on which nothing lies, (rows, columns, 3)."""
    stamp = laying.stamp
    own = (stamp.regions, stamp.outline, (stamp.width_mm, stamp.height_mm))
    absorbed = np.zeros((*_labels(*own).shape, 3), np.float32)
    for part in laying.colouring:
        shadow = laying.shadow_deg if part.shadow_deg is None else part.shadow_deg
        for window, inside, k in _lay_part(own, part, shadow, laying.order):
            cv2.copyTo(k, inside.view(np.uint8), absorbed[window])
    absorbed.setflags(write=False)
    return absorbed


@lru_cache(maxsize=400)
def _lay_part(own: Own, part: ColouredPart, shadow_deg: float, order: ShadeOrder) -> tuple[Patch, ...]:
    """Lay a part: for each of its regions the window, where it is, and its K/S; kept, so that a change costs little."""
    if not (part.shades or part.undertone or part.dots):
        return ()  # it stays white
    labels = _labels(*own)
    texture = _texture(labels.shape)
    patches: list[Patch] = []
    for region in part.regions:
        window = _window_of(labels, region)
        if window is not None:
            inside = labels[window] == region
            k = _lay_region(part, inside, shadow_deg, order) * texture[window][:, :, None]
            patches.append((window, inside, k))
    return tuple(patches)


def _lay_region(part: ColouredPart, inside: Bool, shadow_deg: float, order: ShadeOrder) -> Floats:
    """K/S of a region of a part on its window, (rows, columns, 3)."""
    away = np.pad(inside, 1)
    depth = cv2.distanceTransform(away.astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    k = np.zeros((*inside.shape, 3), np.float32)
    if part.shades:
        k += _lay_run(part, _field(inside, depth, shadow_deg), inside, order)
    if part.undertone is not None:
        k += np.float32(0.6) * _k(part.undertone.colour)
    if part.dots is not None:
        k += _dots(inside.shape)[:, :, None] * _k(part.dots.colour)
    k *= (1 + POOL * np.exp(-depth / (POOL_MM * PX_PER_MM)))[:, :, None]
    return k


def _lay_run(part: ColouredPart, field: Floats, inside: Bool, order: ShadeOrder) -> Floats:
    """Lay shades from dark to light by the field; each way from one to the next is as soft as the two blend."""
    colours = [shade.colour for shade in part.shades]
    values = field[inside]
    values = np.sort(values[:: max(1, len(values) // SAMPLES)])  # shares to a hundredth need no more
    k = np.broadcast_to(_k(colours[-1]), (*field.shape, 3)).copy()
    reach = float(values[-1] - values[0]) or 1.0
    edge = 1.2 if order == "dark first" else 0.75  # a light marker laid last pushes a darker edge out
    upto = 0.0
    for share, dark, light in zip(SHARES[len(colours)], colours, colours[1:], strict=False):
        upto += share
        limit = values[min(len(values) - 1, int((1 - upto) * len(values)))]
        step = difference_of(dark, light)
        soft = max(0.02, SOFT * edge * min(1.0, FAR_STEP / max(step, 1.0)) ** 2) * reach
        share_dark = np.clip((field - limit) / soft / 2 + 0.5, 0, 1)
        share_dark = share_dark * share_dark * (3 - 2 * share_dark)
        k += share_dark[:, :, None] * (_k(dark) - _k(light))
    return k


def _field(inside: Bool, depth: Floats, shadow_deg: float) -> Floats:
    """Tell how much every place of a region lies in shadow."""
    rows, columns = np.indices(inside.shape, dtype=np.float32)
    angle = np.radians(shadow_deg)
    along: Floats = np.asarray(columns * np.cos(angle) + rows * np.sin(angle), np.float32)
    own = along[inside]
    low, high = float(own.min()), float(own.max())
    away = (along - low) / max(high - low, 1.0)
    deepest = float(depth.max())
    near = 1 - np.minimum(depth / max(0.55 * deepest, 1.0), 1)
    field = AWAY * away + NEAR_EDGE * near
    sigma = max(0.6, min(0.05 * min(inside.shape), 0.5 * PX_PER_MM))
    return np.asarray(cv2.GaussianBlur(np.asarray(field, np.float32), (0, 0), sigma), np.float32)


def _under(laying: Laying, shape: tuple[int, int]) -> Floats:
    """Tell how deep every place lies in the shadow of what overlaps the image."""
    if not laying.over:
        return np.zeros(shape, np.float32)
    stamp = laying.stamp
    over = fill(shapely.from_wkb(laying.over), shape, PX_PER_MM, left=-stamp.width_mm / 2, top=-stamp.height_mm / 2)
    away = cv2.distanceTransform((~over).astype(np.uint8), cv2.DIST_L2, 5)
    return np.asarray(np.exp(-0.5 * (away / (UNDER_MM * PX_PER_MM)) ** 2), np.float32)


@lru_cache(maxsize=48)
def _labels(
    regions: tuple[Region, ...], outline: tuple[tuple[float, float], ...], size_mm: tuple[float, float]
) -> NDArray[np.int32]:
    """Give the number of the region of every pixel of an image, grown under its lines; 0 for none."""
    shape = (max(1, round(size_mm[1] * PX_PER_MM)), max(1, round(size_mm[0] * PX_PER_MM)))
    labels = np.zeros(shape, np.int32)
    left, top = -size_mm[0] / 2, -size_mm[1] / 2
    for region in regions:
        ring = (np.array(region.ring) - (left, top)) * PX_PER_MM
        low = np.floor(ring.min(axis=0)).astype(int).clip(0)
        high = np.ceil(ring.max(axis=0)).astype(int) + 1
        window = (slice(low[1], min(high[1], shape[0])), slice(low[0], min(high[0], shape[1])))
        patch = (window[0].stop - window[0].start, window[1].stop - window[1].start)
        if min(patch) > 0:
            corner = (left + low[0] / PX_PER_MM, top + low[1] / PX_PER_MM)
            inside = fill(to_area(region.ring, region.holes), patch, PX_PER_MM, left=corner[0], top=corner[1])
            labels[window][inside] = region.id
    return _grow(labels, fill(to_area(outline), shape, PX_PER_MM, left=left, top=top))


def _grow(labels: NDArray[np.int32], inside: Bool) -> NDArray[np.int32]:
    """Grow regions under the lines between them, each to the middle of a line, not beyond the image."""
    grown = np.where(inside, grow_labels(labels, LINE_MM * PX_PER_MM), labels).astype(np.int32)
    grown.setflags(write=False)
    return grown


def _window_of(labels: NDArray[np.int32], region: int) -> tuple[slice, slice] | None:
    left, top, wide, high = cv2.boundingRect((labels == region).astype(np.uint8))
    return (slice(top, top + high), slice(left, left + wide)) if wide and high else None


def _texture(shape: tuple[int, int]) -> Floats:
    """Streaks of strokes and the grain of paper: how much more or less ink there is, about 1."""
    side = -(-max(shape) // TEXTURE_PX) * TEXTURE_PX
    return _square_texture(side)[: shape[0], : shape[1]]


@lru_cache(maxsize=6)
def _square_texture(side: int) -> Floats:
    chance = np.random.default_rng(7)
    wide = int(side * 1.5)
    strokes = chance.standard_normal((max(2, wide // 5), max(2, wide // 70))).astype(np.float32)
    streaks = cv2.resize(strokes, (wide, wide), interpolation=cv2.INTER_CUBIC)
    turn = cv2.getRotationMatrix2D((wide / 2, wide / 2), 24.0, 1.0)
    streaks = cv2.warpAffine(streaks, turn, (wide, wide), borderMode=cv2.BORDER_REFLECT)
    at = (wide - side) // 2
    grain = cv2.GaussianBlur(chance.standard_normal((side, side), dtype=np.float32), (0, 0), 0.8)
    made = 1 + STREAK * streaks[at : at + side, at : at + side] + GRAIN * 2 * grain
    return np.asarray(np.clip(made, 0.6, 1.5), np.float32)


def _dots(shape: tuple[int, int]) -> Floats:
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


@lru_cache(maxsize=512)
def _k(colour: str) -> Floats:
    return k_of(np.array(channels(colour), np.float32))
