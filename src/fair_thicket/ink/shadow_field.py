"""How much every place of a region lies in shadow: away from the light, at its edges, along its folds.

Glossary
--------
field
    Grows from light to shadow; cut at the shares of the shades it tells which shade lies where. Only its order counts.
lamp
    A piece of the card that gives light: near it shadow lies away from it instead of from the card's light.
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.model.colouring import Fold, Region
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH

Floats = NDArray[np.float32]
Bool = NDArray[np.bool_]
Lamp = tuple[float, float, float]
"""Middle and reach of a lamp, mm in the frame of an image."""
PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH
AWAY, NEAR_EDGE = 0.62, 0.38
"""How much of the field each cause makes."""
ROUND_AWAY, ROUND_EDGE = 0.25, 0.75
"""The same of what is round, or a panel between folds: dark at both edges, light in the middle."""
FOLD = 0.7
"""How much more a fold counts than everything else together."""
FOLD_SHARE, LEAST_FOLD_MM = 0.45, 0.5
"""How far the shadow of a fold reaches: a share of the way to the edge, and no less than this."""
LIT_SHARE = 0.4
"""Right beside a lamp darker shades take so much less room."""


class Shadow(NamedTuple):
    """Where shadow lies on an image.

    Attributes
    ----------
    deg : float
        From light to shadow, degrees clockwise from the right in the image's own frame.
    lamps : tuple of Lamp
        That reach it.
    """

    deg: float
    lamps: tuple[Lamp, ...] = ()


def find_field(inside: Bool, depth: Floats, shadow: Shadow, region: Region, corner: tuple[float, float]) -> Floats:
    """Tell how much every place of a region lies in shadow.

    Parameters
    ----------
    inside : (rows, columns) bool
        The region on its window, 300 dpi.
    depth : (rows, columns) float32
        Way to its edge, pixels.
    shadow : Shadow
    region : Region
        Its rounding and folds count.
    corner : (float, float)
        Left and top of the window, mm from the image's middle.

    Returns
    -------
    (rows, columns) float32
    """
    high, wide = inside.shape
    rows = np.arange(high, dtype=np.float32)[:, None]
    columns = np.arange(wide, dtype=np.float32)[None, :]
    away = _away(inside, rows, columns, shadow, corner)
    deepest = max(float(depth.max()), 1.0)
    if region.rounding == "panel":
        near, shares = _across(inside, rows, columns), (ROUND_AWAY, ROUND_EDGE)
    elif region.rounding == "round":
        near, shares = 1 - depth / deepest, (ROUND_AWAY, ROUND_EDGE)
    else:
        near, shares = 1 - np.minimum(depth / max(0.55 * deepest, 1.0), 1), (AWAY, NEAR_EDGE)
    field = shares[0] * away + shares[1] * near
    if region.folds:
        field = field * (1 - FOLD) + FOLD * _along_folds(inside.shape, region.folds, corner, deepest)
    sigma = max(0.6, min(0.05 * min(inside.shape), 0.5 * PX_PER_MM))
    return np.asarray(cv2.GaussianBlur(np.asarray(field, np.float32), (0, 0), sigma), np.float32)


def _away(inside: Bool, rows: Floats, columns: Floats, shadow: Shadow, corner: tuple[float, float]) -> Floats:
    """Tell how far every place lies away from the light, 0 to 1; near a lamp, away from the lamp."""
    angle = np.radians(shadow.deg)
    away = _scaled(columns * np.float32(np.cos(angle)) + rows * np.float32(np.sin(angle)), inside)
    for x, y, reach in shadow.lamps:
        across = columns - (x - corner[0]) * PX_PER_MM
        down = rows - (y - corner[1]) * PX_PER_MM
        off = np.asarray(np.hypot(across, down), np.float32)
        weight = max(0.0, 1 - float(off[inside].mean()) / (reach * PX_PER_MM))
        away = (1 - weight) * away + weight * _scaled(off, inside)
    return away


def lit_share(inside: Bool, lamps: tuple[Lamp, ...], corner: tuple[float, float]) -> float:
    """Tell how much of its darkness a region keeps: 1 out of reach of every lamp, less near one."""
    if not lamps:
        return 1.0
    sums = cv2.moments(inside.view(np.uint8), binaryImage=True)
    x, y = (at + sums[way] / sums["m00"] / PX_PER_MM for at, way in zip(corner, ("m10", "m01"), strict=True))
    nearest = max(1 - np.hypot(x - lamp[0], y - lamp[1]) / lamp[2] for lamp in lamps)
    return 1 - LIT_SHARE * max(0.0, float(nearest))


def _scaled(values: Floats, inside: Bool) -> Floats:
    own = values[inside]
    low, high = float(own.min()), float(own.max())
    return np.asarray((values - low) / max(high - low, 1.0), np.float32)


def _across(inside: Bool, rows: Floats, columns: Floats) -> Floats:
    """Tell how far every place lies from the middle of a region across its long way: 0 there, 1 at both sides."""
    down, right = np.nonzero(inside)
    x, y = np.asarray(right, np.float32), np.asarray(down, np.float32)
    _, axes = np.linalg.eigh(np.cov(np.stack([x, y]).astype(np.float64))) if len(x) > 2 else (0, np.eye(2))
    (cross_x, cross_y), (along_x, along_y) = axes[:, 0], axes[:, 1]
    along = np.rint(columns * along_x + rows * along_y).astype(np.int64)
    cross = columns * cross_x + rows * cross_y
    first = int(along[inside].min())
    count = int(along[inside].max()) - first + 1
    place = np.clip(along - first, 0, count - 1)
    low, high = np.full(count, np.inf), np.full(count, -np.inf)
    np.minimum.at(low, place[inside], cross[inside])
    np.maximum.at(high, place[inside], cross[inside])
    empty = ~np.isfinite(low)
    low[empty], high[empty] = 0.0, 0.0
    middle, half = (low + high) / 2, np.maximum((high - low) / 2, 1.0)
    return np.asarray(np.clip(np.abs(cross - middle[place]) / half[place], 0, 1), np.float32)


def _along_folds(
    shape: tuple[int, ...], folds: tuple[Fold, ...], corner: tuple[float, float], deepest: float
) -> Floats:
    """Tell how near every place lies to a fold: 1 on it."""
    free = np.ones(shape, np.uint8)
    for line in folds:
        ends = [tuple(round((at - edge) * PX_PER_MM) for at, edge in zip(point, corner, strict=True)) for point in line]
        cv2.line(free, ends[0], ends[1], 0, 1)
    off = cv2.distanceTransform(free, cv2.DIST_L2, 5)
    reach = max(FOLD_SHARE * deepest, LEAST_FOLD_MM * PX_PER_MM)
    return np.asarray(np.exp(-off / reach), np.float32)
