"""The simulated scanner: prints drawings on a page, lays it skewed on the glass and scans it.

It stands in for a real scanner in the demo and the tests, so that both go through the same door as a maker's own sheet.
"""

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache

import cv2
import numpy as np
import rectpack
import resvg_py
from numpy.typing import NDArray
from PIL import Image

from fair_thicket.fonts import FONTS
from fair_thicket.model.errors import PictureError
from fair_thicket.model.units import MM_PER_INCH

RENDERED = 128
"""Drawings kept rendered: for its size and for the page each is wanted twice, often at one resolution."""

TRUTH_DPI = 600.0
"""Resolution at which a drawing's true size is read: its edges to 0.02 mm."""


@dataclass(frozen=True)
class Drawing:
    """A drawing to be stamped on the simulated sheet.

    Attributes
    ----------
    name : str
    svg : str
    width_mm : float or None
        Width of its canvas; None takes the life size that the SVG states in mm.
    """

    name: str
    svg: str
    width_mm: float | None = None


@dataclass(frozen=True)
class Printed:
    """Where a drawing truly is: the bounding box of its ink on the page, mm."""

    name: str
    left: float
    top: float
    width_mm: float
    height_mm: float


@dataclass(frozen=True)
class Glass:
    """How a page is scanned.

    Attributes
    ----------
    dpi : float
    skew_deg : float
        The page lies turned clockwise by this.
    paper : float
        Grey of the paper, 0..1.
    noise : float
        Standard deviation of the sensor's noise, 0..1.
    slope : float
        How much light falls off across the page, as a share.
    dust : int
        Number of specks up to 0.4 mm.
    lid : float or None
        Grey of the lid seen round the page; None: the page fills the glass.
    seed : int
    """

    dpi: float = 300.0
    skew_deg: float = 0.0
    paper: float = 0.96
    noise: float = 0.015
    slope: float = 0.06
    dust: int = 40
    lid: float | None = 0.78
    seed: int = 1


@lru_cache(maxsize=RENDERED)
def render(drawing: Drawing, dpi: float) -> NDArray[np.uint8]:
    """Render a drawing on white paper, (rows, columns) uint8 grey, not to be written to.

    Raises
    ------
    PictureError
        When the SVG cannot be drawn.
    """
    try:
        if drawing.width_mm is None:
            png = resvg_py.svg_to_bytes(svg_string=drawing.svg, dpi=dpi, background="#ffffff", **FONTS)
        else:
            width = max(1, round(drawing.width_mm / MM_PER_INCH * dpi))
            png = resvg_py.svg_to_bytes(svg_string=drawing.svg, dpi=96.0, width=width, background="#ffffff", **FONTS)
    except ValueError as problem:
        raise PictureError(f"The drawing “{drawing.name}” cannot be drawn ({problem}).") from None
    grey = np.array(Image.open(io.BytesIO(png)).convert("L"))
    grey.setflags(write=False)
    return grey


def lay_out(
    drawings: Sequence[Drawing], sheet_mm: tuple[float, float], *, gap_mm: float = 7.0, margin_mm: float = 8.0
) -> list[Printed]:
    """Give each drawing a place on a sheet (rectangles packed by a library, never turned).

    Raises
    ------
    PictureError
        When they do not all fit.
    """
    boxes = [_ink_box(drawing) for drawing in drawings]
    packer = rectpack.newPacker(rotation=False, sort_algo=rectpack.SORT_SSIDE)
    tenth = 10  # the packer wants whole numbers: tenths of a millimetre
    for index, (_, _, width, height) in enumerate(boxes):
        packer.add_rect(math.ceil((width + gap_mm) * tenth), math.ceil((height + gap_mm) * tenth), rid=index)
    packer.add_bin(
        int((sheet_mm[0] - 2 * margin_mm + gap_mm) * tenth), int((sheet_mm[1] - 2 * margin_mm + gap_mm) * tenth)
    )
    packer.pack()
    places = {rid: (x / tenth + margin_mm, y / tenth + margin_mm) for _, x, y, _, _, rid in packer.rect_list()}
    if len(places) < len(drawings):
        raise PictureError(f"Only {len(places)} of {len(drawings)} drawings fit on the sheet; take a larger one.")
    return [
        Printed(drawing.name, *places[index], boxes[index][2], boxes[index][3])
        for index, drawing in enumerate(drawings)
    ]


@cache
def _ink_box(drawing: Drawing) -> tuple[float, float, float, float]:
    """Left, top, width and height of the ink on the drawing's own canvas, mm, read at 600 dpi."""
    grey = render(drawing, TRUTH_DPI)
    rows, columns = np.nonzero(grey < 128)
    if not len(rows):
        raise PictureError(f"The drawing “{drawing.name}” has no ink.")
    px_per_mm = TRUTH_DPI / MM_PER_INCH
    left, top = columns.min() / px_per_mm, rows.min() / px_per_mm
    return left, top, (columns.max() + 1) / px_per_mm - left, (rows.max() + 1) / px_per_mm - top


def scan_page(
    drawings: Sequence[Drawing], places: Sequence[Printed], sheet_mm: tuple[float, float], glass: Glass
) -> NDArray[np.uint8]:
    """Print drawings on a sheet and scan it.

    Parameters
    ----------
    drawings, places : same length
        See `lay_out`.
    sheet_mm : (width, height)
    glass : Glass

    Returns
    -------
    (rows, columns) uint8
        Grey scan; same input, same scan.
    """
    px_per_mm = glass.dpi / MM_PER_INCH
    page = _print_page(drawings, places, sheet_mm, glass.dpi)
    scan = _lay_on_glass(page, sheet_mm, glass, px_per_mm)
    chance = np.random.default_rng(glass.seed)
    _scatter_dust(scan, glass.dust, px_per_mm, chance)
    rows, columns = scan.shape
    light = 1 - glass.slope * (
        np.linspace(0, 1, columns, dtype=np.float32)[None, :] * 0.6
        + np.linspace(0, 1, rows, dtype=np.float32)[:, None] * 0.4
    )
    scan *= light
    scan += chance.standard_normal(scan.shape, dtype=np.float32) * glass.noise
    return np.asarray(np.clip(scan * 255, 0, 255), np.uint8)


def _print_page(
    drawings: Sequence[Drawing], places: Sequence[Printed], sheet_mm: tuple[float, float], dpi: float
) -> NDArray[np.float32]:
    """Put each drawing's ink on white paper; the ink's box is placed to a fraction of a pixel."""
    px_per_mm = dpi / MM_PER_INCH
    page = np.ones((round(sheet_mm[1] * px_per_mm), round(sheet_mm[0] * px_per_mm)), np.float32)
    finer = 2
    for drawing, place in zip(drawings, places, strict=True):
        grey = render(drawing, dpi * finer).astype(np.float32) / 255
        left, top, _, _ = _ink_box(drawing)
        x, y = (place.left - left) * px_per_mm, (place.top - top) * px_per_mm
        low_x, low_y = math.floor(x), math.floor(y)
        size = (math.ceil(grey.shape[1] / finer) + 2, math.ceil(grey.shape[0] / finer) + 2)
        soft = cv2.blur(grey, (finer, finer), anchor=(0, 0))
        matrix = np.array([[finer, 0, (low_x - x) * finer], [0, finer, (low_y - y) * finer]], np.float64)
        drawn = cv2.warpAffine(
            soft,
            matrix,
            size,
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_CONSTANT,
            borderValue=(1.0,),
        )
        rows = slice(max(low_y, 0), min(low_y + size[1], page.shape[0]))
        columns = slice(max(low_x, 0), min(low_x + size[0], page.shape[1]))
        page[rows, columns] *= drawn[
            rows.start - low_y : rows.stop - low_y, columns.start - low_x : columns.stop - low_x
        ]
    return page


def _lay_on_glass(
    page: NDArray[np.float32], sheet_mm: tuple[float, float], glass: Glass, px_per_mm: float
) -> NDArray[np.float32]:
    """Turn the page about its middle on the glass; ink is never quite black, the paper throws a thin shadow."""
    margin = 0.0 if glass.lid is None else 6.0 + math.sin(math.radians(abs(glass.skew_deg))) * max(sheet_mm) / 2
    width, height = (round((side + 2 * margin) * px_per_mm) for side in sheet_mm)
    angle = math.radians(glass.skew_deg)
    cosine, sine = math.cos(angle), math.sin(angle)
    middle = np.array([page.shape[1] / 2 - 0.5, page.shape[0] / 2 - 0.5])
    matrix = np.array([[cosine, -sine, 0.0], [sine, cosine, 0.0]])
    matrix[:, 2] = np.array([width / 2 - 0.5, height / 2 - 0.5]) - matrix[:, :2] @ middle
    outside = 1.0 if glass.lid is None else glass.lid / glass.paper
    seen = cv2.warpAffine(
        0.1 + 0.9 * page,
        matrix,
        (width, height),
        flags=cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(outside,),
    )
    return np.asarray(seen * glass.paper, np.float32)


def _scatter_dust(scan: NDArray[np.float32], count: int, px_per_mm: float, chance: np.random.Generator) -> None:
    rows, columns = scan.shape
    for x, y, radius, grey in zip(
        chance.uniform(0, columns, count),
        chance.uniform(0, rows, count),
        chance.uniform(0.05, 0.2, count),
        chance.uniform(0.3, 0.7, count),
        strict=True,
    ):
        reach = max(1, math.ceil(radius * px_per_mm))
        left, top = int(x) - reach, int(y) - reach
        yy, xx = np.mgrid[0 : 2 * reach + 1, 0 : 2 * reach + 1]
        speck = np.hypot(xx - reach, yy - reach) <= max(radius * px_per_mm, 0.5)
        r0, c0 = max(top, 0), max(left, 0)
        window = scan[r0 : top + 2 * reach + 1, c0 : left + 2 * reach + 1]
        window[speck[r0 - top : r0 - top + window.shape[0], c0 - left : c0 - left + window.shape[1]]] *= grey
