"""One image measured on its patch of the page: size, outline, pockets, and its clean picture."""

import io

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from fair_thicket.intake.page import FloatImage
from fair_thicket.intake.shaping import AS_FOUND, Shaping
from fair_thicket.intake.tracing import trace
from fair_thicket.model.basics import Point, Ring
from fair_thicket.model.plan import SheetImage

INK_GREY = 28
"""Grey of stamped ink in clean pictures, 0..255: never quite black."""
GRAIN = 0.12
"""Ink fainter than this is the grain of the paper."""
COLOURED = 0.18
"""Spread between the colours of a pixel from which on it counts as coloured."""
COLOURED_SHARE = 0.03


def take_image(
    shares: FloatImage,
    own: NDArray[np.bool_],
    corner: tuple[float, float],
    px_per_mm: float,
    members: tuple[int, ...],
    *,
    is_greeting: bool = False,
    shaping: Shaping = AS_FOUND,
) -> SheetImage | None:
    """Measure one image on its patch.

    Parameters
    ----------
    shares : (rows, columns, 1 or 3) float32
        Share of bare paper's brightness, 0..1.
    own : (rows, columns) bool
        Where the image's own ink may lie: other images that reach into the patch are left out.
    corner : (left, top)
        Of the patch on the page, mm.
    px_per_mm : float
    members : numbers of the parts it is made of
    is_greeting : bool
    shaping : Shaping
        What the maker said of its outline, page mm.

    Returns
    -------
    SheetImage or None
        None when there is too little ink to measure.
    """
    ink = np.where(own, 1 - shares.min(axis=-1), 0)
    strong = ink[ink > 0.14]
    if strong.size < 20:
        return None
    full = float(np.percentile(strong, 85))
    amount = np.clip(ink / full, 0, 1).astype(np.float32)
    traced = trace(amount, px_per_mm, loose=is_greeting, shaping=shaping.moved(*corner))
    if traced is None:
        return None
    left, top, right, bottom = traced.box
    middle = ((left + right) / 2, (top + bottom) / 2)
    coloured = shares if shares.shape[-1] == 3 and _is_coloured(shares, ink) else None
    return SheetImage(
        name="image",
        kind="greeting" if is_greeting else "image",
        cx=corner[0] + middle[0],
        cy=corner[1] + middle[1],
        width_mm=right - left,
        height_mm=bottom - top,
        outline=ring_from_middle(traced.outline, middle),
        pockets=tuple(ring_from_middle(ring, middle) for ring in traced.pockets),
        picture=_clean_picture(amount, coloured, traced.box, px_per_mm),
        members=members,
        is_coloured=coloured is not None,
        doubt=round(traced.doubt, 4),
    )


def ring_from_middle(ring: Ring, middle: Point) -> Ring:
    """Tell a ring from an image's middle, to a ten-thousandth of a millimetre."""
    return tuple((round(x - middle[0], 4), round(y - middle[1], 4)) for x, y in ring)


def _is_coloured(shares: FloatImage, ink: NDArray[np.float32]) -> bool:
    spread = shares.max(axis=-1) - shares.min(axis=-1)
    inked = ink > GRAIN
    return bool(inked.any() and (spread[inked] > COLOURED).mean() > COLOURED_SHARE)


def _clean_picture(
    amount: FloatImage, colours: FloatImage | None, box: tuple[float, float, float, float], px_per_mm: float
) -> bytes:
    """Picture of the ink on transparent paper, cut exactly to the box, as PNG."""
    left, top, right, bottom = box
    columns, rows = max(1, round((right - left) * px_per_mm)), max(1, round((bottom - top) * px_per_mm))
    matrix = np.array(
        [
            [(right - left) * px_per_mm / columns, 0, left * px_per_mm],
            [0, (bottom - top) * px_per_mm / rows, top * px_per_mm],
        ]
    )
    matrix[:, 2] += np.array([matrix[0, 0], matrix[1, 1]]) * 0.5 - 0.5

    def cut(plane: FloatImage) -> FloatImage:
        moved = cv2.warpAffine(plane, matrix, (columns, rows), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
        return np.asarray(moved, np.float32)

    # faint grain of the paper is no ink
    alpha = np.clip((cut(amount) - GRAIN) / (1 - GRAIN), 0, 1)
    if colours is None:
        return encode_clean(np.rint(alpha * 255).astype(np.uint8))
    return _encode_coloured(alpha, cut(colours))


def encode_clean(alpha: NDArray[np.uint8]) -> bytes:
    """Encode ink (rows, columns) uint8, 0 bare to 255 full, as PNG: one dark tone, its transparency per pixel."""
    picture = Image.fromarray(alpha, "P")
    picture.putpalette([INK_GREY] * 768)
    buffer = io.BytesIO()
    picture.save(buffer, "PNG", transparency=bytes(range(256)), compress_level=3)
    return buffer.getvalue()


def _encode_coloured(alpha: FloatImage, shares: FloatImage) -> bytes:
    """Encode colours so that on white paper they look as they were seen: what the transparency takes is given back."""
    clear = np.maximum(alpha, 1e-3)[:, :, None]
    colours = np.clip((shares - 1 + clear) / clear, 0, 1)
    pixels = np.concatenate([colours, alpha[:, :, None]], axis=-1)
    buffer = io.BytesIO()
    Image.fromarray(np.rint(pixels * 255).astype(np.uint8), "RGBA").save(buffer, "PNG", compress_level=3)
    return buffer.getvalue()
