"""A patterned paper taken in from its picture: scanned or photographed flat, at true size."""

from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np

from fair_thicket.intake.picture import read_picture
from fair_thicket.model.errors import PictureError
from fair_thicket.model.units import MM_PER_INCH

MOST_SIDE_PX = 2400
"""A tile is kept no finer than this: a letter sheet at some 220 dpi."""
LEAST_SIDE_PX = 8


class PatternPicture(NamedTuple):
    """The picture of a patterned paper.

    Attributes
    ----------
    png : bytes
        In colour.
    width_px, height_px : int
    dpi : float or None
        As kept; None when the file does not say it.
    """

    png: bytes
    width_px: int
    height_px: int
    dpi: float | None

    @property
    def width_mm(self) -> float | None:
        """How wide it is by what the file says."""
        return self.width_px / self.dpi * MM_PER_INCH if self.dpi else None


def read_patterned(path: Path) -> PatternPicture:
    """Read the picture of a patterned paper; see `picture.read_picture` for what is refused.

    Raises
    ------
    PictureError
    """
    picture = read_picture(path)
    pixels = picture.pixels if picture.pixels.ndim == 3 else np.repeat(picture.pixels[:, :, None], 3, axis=2)
    rows, columns = pixels.shape[:2]
    if min(rows, columns) < LEAST_SIDE_PX:
        raise PictureError(f"{path.name} is only {columns} × {rows} pixels large; scan the paper at 150 dpi or more.")
    share = min(1.0, MOST_SIDE_PX / max(rows, columns))
    if share < 1:
        size = (max(1, round(columns * share)), max(1, round(rows * share)))
        pixels = np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)
    _, data = cv2.imencode(".png", cv2.cvtColor(pixels, cv2.COLOR_RGB2BGR))
    rows, columns = pixels.shape[:2]
    return PatternPicture(data.tobytes(), columns, rows, picture.dpi * share if picture.dpi else None)
