"""A picture of one image by itself: how much ink lies where."""

import io
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
import resvg_py
from numpy.typing import NDArray
from PIL import Image

from fair_thicket.fonts import FONTS
from fair_thicket.intake.drawing_file import SVG_DPI, drawing_size
from fair_thicket.intake.page import light_of
from fair_thicket.intake.picture import LEAST_DPI, MOST_DPI, read_picture
from fair_thicket.intake.silhouette import find_silhouette
from fair_thicket.intake.svg_guard import read_guarded, to_text
from fair_thicket.intake.tracing import LINE_SHARE
from fair_thicket.model.errors import DrawingError, PictureError
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH

DRAWN_DPI = 2 * REHEARSAL_DPI
FINE_MM2 = 10_000.0
"""Drawings larger than this are looked at in fewer dots."""
MOST_PIXELS = 20_000_000
LEAST_PX = 8
LEAST_INK = 0.14


class Single(NamedTuple):
    """An image by itself.

    Attributes
    ----------
    ink : (rows, columns) float32, 0..1
        Of its full strength.
    px_per_mm : float
    """

    ink: NDArray[np.float32]
    px_per_mm: float


def read_single(path: Path, *, dpi: float | None = None) -> Single:
    """Read a picture or a drawing of one image.

    Parameters
    ----------
    dpi : float or None
        Of a picture; None goes by the file. A drawing states its size itself.

    Raises
    ------
    InputError
        One sentence: see `picture.read_picture` and `svg_guard`; no resolution; nothing inked.
    """
    if path.suffix.lower() == ".svg":
        return _draw(to_text(read_guarded(path)), path.name)
    picture = read_picture(path)
    resolution = dpi or picture.dpi
    if resolution is None:
        raise PictureError(f"{path.name} does not say its resolution; say --dpi, such as --dpi 300.")
    if not LEAST_DPI <= resolution <= MOST_DPI:
        raise PictureError(
            f"{path.name} was not scanned at {resolution:g} dpi; say what is true, {LEAST_DPI:g} to {MOST_DPI:g}."
        )
    if min(picture.pixels.shape[:2]) < LEAST_PX:
        raise PictureError(f"{path.name} is only a few dots large; scan the image at 300 dpi.")
    if picture.pixels.shape[0] * picture.pixels.shape[1] > MOST_PIXELS:
        raise PictureError(f"{path.name} is too large for one image; cut it out of its page first.")
    grey = picture.pixels if picture.pixels.ndim == 2 else picture.pixels.min(axis=-1)
    light = light_of(np.asarray(grey, np.uint8), resolution)
    paper = cv2.resize(light, grey.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return _of_shares(grey.astype(np.float32) / np.maximum(paper, 1.0), resolution, path.name)


def find_body(single: Single) -> NDArray[np.bool_]:
    """Return what the outline of an image holds, (rows, columns) bool."""
    lines = (single.ink >= LINE_SHARE).astype(np.uint8)
    return np.asarray(find_silhouette(single.ink, lines, single.px_per_mm).body > 0)


def _draw(text: str, name: str) -> Single:
    width, height = drawing_size(text, name)
    dpi = DRAWN_DPI if width * height <= FINE_MM2 else REHEARSAL_DPI
    px_per_mm = dpi / MM_PER_INCH
    if width * height * px_per_mm**2 > MOST_PIXELS:
        raise DrawingError(f"{name} is {width:.0f} × {height:.0f} mm large; an image is far smaller.")
    try:
        wide = max(1, round(width * px_per_mm))
        png = resvg_py.svg_to_bytes(svg_string=text, dpi=SVG_DPI, width=wide, background="#ffffff", **FONTS)
    except ValueError:
        raise DrawingError(f"{name} cannot be drawn; export it again as plain SVG.") from None
    with Image.open(io.BytesIO(png)) as drawn:
        grey = np.asarray(drawn.convert("L"), np.float32) / np.float32(255)
    return _of_shares(grey, dpi, name)


def _of_shares(shares: NDArray[np.float32], dpi: float, name: str) -> Single:
    ink = np.clip(1 - shares, 0, 1)
    strong = ink[ink > LEAST_INK]
    if strong.size < 20:
        raise PictureError(f"{name} shows nothing stamped or drawn; choose the picture of an image.")
    return Single(np.asarray(np.clip(ink / np.percentile(strong, 85), 0, 1), np.float32), dpi / MM_PER_INCH)
