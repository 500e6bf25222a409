"""Colours read off a scanned swatch card: its patches are found by themselves, in rows."""

from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.intake.detection import Page
from fair_thicket.intake.page import find_page
from fair_thicket.intake.picture import read_picture
from fair_thicket.intake.sheet import darkest_of, ready_page
from fair_thicket.model.errors import PictureError
from fair_thicket.model.units import MM_PER_INCH

LOOK_PX_PER_MM = 4.0
LEAST_MM = 4.0
FULL_SHARE = 0.72
"""A patch fills at least this share of the box round it: discs do, drawings do not."""
TINT = 0.04


class Swatch(NamedTuple):
    """A patch of colour.

    Attributes
    ----------
    row, column : int
        From the top and the left.
    colour : str
        Its colour on the card's own paper taken as white, sRGB such as ``#3c6e47``.
    box : (left, top, right, bottom)
        Page mm.
    """

    row: int
    column: int
    colour: str
    box: tuple[float, float, float, float]


def read_card(path: Path) -> list[Swatch]:
    """Read a scanned swatch card; without a resolution 300 dpi is taken: colours need no scale.

    Raises
    ------
    PictureError
        See `picture.read_picture` and `read_swatches`.
    """
    picture = read_picture(path)
    return read_swatches(picture.pixels, picture.dpi or 300.0, name=path.name)


def read_swatches(pixels: NDArray[np.uint8], dpi: float, *, name: str = "The scan") -> list[Swatch]:
    """Find the patches of a swatch card and their colours.

    Parameters
    ----------
    pixels : (rows, columns, 3) uint8
        sRGB.
    dpi : float

    Returns
    -------
    list of Swatch
        Row by row from the top, each from the left.

    Raises
    ------
    PictureError
        When the scan is grey, or shows no patches.
    """
    if pixels.ndim != 3:
        raise PictureError(f"{name} is a grey scan; scan the swatch card in colour.")
    planes = tuple(cv2.split(pixels))
    page = ready_page(planes, find_page(darkest_of(pixels), dpi), dpi / MM_PER_INCH, name=name)
    return _find(page, name)


def _find(page: Page, name: str) -> list[Swatch]:
    whole = (0.0, 0.0, page.place.width_mm, page.place.height_mm)
    shares = page.cut(whole, LOOK_PX_PER_MM).shares
    soft = cv2.medianBlur(np.rint(shares * 255).astype(np.uint8), 5).astype(np.float32) / 255
    tinted = ((1 - soft.min(axis=-1)) > TINT).astype(np.uint8)
    tinted = cv2.morphologyEx(tinted, cv2.MORPH_OPEN, np.ones((7, 7), np.uint8))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(tinted, connectivity=4)
    found = []
    for number in range(1, count):
        left, top, width, height, area = (int(value) for value in stats[number])
        large = min(width, height) >= LEAST_MM * LOOK_PX_PER_MM
        if large and area >= FULL_SHARE * width * height and max(width, height) < 0.6 * max(labels.shape):
            inside = cv2.erode((labels == number).astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
            colour = np.median(soft[inside], axis=0)
            box = tuple(value / LOOK_PX_PER_MM for value in (left, top, left + width, top + height))
            found.append((box, "#" + "".join(f"{round(float(value) * 255):02x}" for value in colour)))
    if not found:
        raise PictureError(f"{name} shows no patches of colour; leave white between them, each 4 mm or larger.")
    return _in_rows(found)


def _in_rows(found: Sequence[tuple[tuple[float, ...], str]]) -> list[Swatch]:
    rows: list[list[tuple[tuple[float, ...], str]]] = []
    for box, colour in sorted(found, key=lambda one: one[0][1] + one[0][3]):
        middle = (box[1] + box[3]) / 2
        if rows and rows[-1][0][0][1] <= middle <= rows[-1][0][0][3]:
            rows[-1].append((box, colour))
        else:
            rows.append([(box, colour)])
    return [
        Swatch(number, place, colour, (box[0], box[1], box[2], box[3]))
        for number, row in enumerate(rows)
        for place, (box, colour) in enumerate(sorted(row))
    ]
