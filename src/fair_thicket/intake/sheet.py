"""A scanned sheet becomes separate stamps at true size."""

import io
import math
import os
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from fair_thicket.intake.grouping import group_parts
from fair_thicket.intake.page import FloatImage, Grey, PagePlace, find_page, light_of
from fair_thicket.intake.picture import LEAST_DPI, MOST_DPI, read_picture
from fair_thicket.intake.tracing import trace
from fair_thicket.model.errors import PictureError
from fair_thicket.model.plan import Sheet, SheetImage
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH

PICTURE_PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH
DETECT_PX_PER_MM = 150 / MM_PER_INCH
EDGE_MM = 1.2
"""Strip along the page's edges that is not looked at: shadows of the paper's own edge."""
MARGIN_MM = 1.0
INK_GREY = 28
"""Grey of stamped ink in clean pictures, 0..255: never quite black."""


def scan_file(
    path: Path, *, dpi: float | None = None, sheet_mm: tuple[float, float] | None = None, gap_mm: float | None = None
) -> Sheet:
    """Read a scan and find its images; see `scan_sheet`.

    Raises
    ------
    PictureError
        When the file cannot be read, states no resolution and none is given, or shows no image.
    """
    picture = read_picture(path)
    return scan_sheet(picture.pixels, dpi=dpi, stated_dpi=picture.dpi, sheet_mm=sheet_mm, gap_mm=gap_mm, name=path.name)


def scan_sheet(
    pixels: NDArray[np.uint8],
    *,
    dpi: float | None = None,
    stated_dpi: float | None = None,
    sheet_mm: tuple[float, float] | None = None,
    gap_mm: float | None = None,
    name: str = "The scan",
) -> Sheet:
    """Find the stamped images on a scanned white sheet.

    Parameters
    ----------
    pixels : (rows, columns) or (rows, columns, 3) uint8
    dpi : float or None
        Resolution said by the maker; it comes before anything else.
    stated_dpi : float or None
        Resolution that the file states.
    sheet_mm : (width, height) or None
        Size of the sheet, either way round, to work the resolution out from.
    gap_mm : float or None
        Parts nearer than this are one image; None finds it.
    name : str
        What to call the scan in sentences.

    Returns
    -------
    Sheet
        Images in reading order. Their sizes are true to the resolution; the page's skew is taken out.

    Raises
    ------
    PictureError
        No or absurd resolution, an empty sheet, a black one.

    Notes
    -----
    The page is looked for at a coarse scale, images are detected at 150 dpi and measured at 300 dpi on patches of
    their own, so memory stays near that of the page itself.
    """
    grey = _grey_of(pixels)
    if min(grey.shape) < 40:
        raise PictureError(f"{name} is only {grey.shape[1]} × {grey.shape[0]} pixels; scan the whole sheet.")
    resolution = _resolution(grey, dpi, stated_dpi, sheet_mm, name)
    if resolution >= 1.5 * REHEARSAL_DPI:  # finer than needed: average pixels first, which also calms noise
        shrink = REHEARSAL_DPI / resolution
        grey = np.asarray(cv2.resize(grey, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA), np.uint8)
    # the side that was rounded to whole pixels tells the exact working resolution
    working = resolution * grey.shape[1] / pixels.shape[1]
    place = find_page(grey, working)
    light = light_of(grey, working)
    _refuse_blank(grey, light, name)
    images = _find_images(grey, light, place, working, gap_mm)
    if not images:
        raise PictureError(f"{name} shows no stamped image; is the sheet the right way up on the glass?")
    return Sheet(
        round(resolution, 2),
        round(place.width_mm, 3),
        round(place.height_mm, 3),
        round(place.skew_deg, 3),
        place.skew_from,
        tuple(images),
        grey.shape[1] / working * MM_PER_INCH,
        (place.origin[0] / working * MM_PER_INCH, place.origin[1] / working * MM_PER_INCH),
    )


def _grey_of(pixels: NDArray[np.uint8]) -> Grey:
    """Darkest of the channels: coloured ink stays dark, and white stays white."""
    if pixels.ndim == 2:
        return pixels
    red, green, blue = (pixels[:, :, channel] for channel in range(3))
    return np.asarray(cv2.min(cv2.min(red, green), blue), np.uint8)


def _resolution(
    grey: Grey, dpi: float | None, stated: float | None, sheet_mm: tuple[float, float] | None, name: str
) -> float:
    if dpi is not None:
        if not (math.isfinite(dpi) and LEAST_DPI <= dpi <= MOST_DPI):
            raise PictureError(
                f"{dpi:g} dpi is not a scanner's resolution; give one from {LEAST_DPI:g} to {MOST_DPI:g}."
            )
        return dpi
    if sheet_mm is not None:
        return _from_sheet(grey, sheet_mm, name)
    if stated is None:
        raise PictureError(f"{name} does not say its resolution; say it (such as 300 dpi) or the sheet's size.")
    longest = max(grey.shape) / stated * MM_PER_INCH
    if longest > 1300 or longest < 15:
        raise PictureError(
            f"{name} says {stated:g} dpi, which would make the page {longest:.0f} mm long; "
            "say the right resolution or the sheet's size."
        )
    return stated


def _from_sheet(grey: Grey, sheet_mm: tuple[float, float], name: str) -> float:
    """Work the resolution out from the page's pixels and the sheet's size, either way round."""
    place = find_page(grey, MM_PER_INCH)  # one pixel a millimetre: sizes come out in pixels
    seen = sorted((place.width_mm, place.height_mm))
    wanted = sorted(sheet_mm)
    if wanted[0] <= 0:
        raise PictureError("A sheet needs a width and a height above nothing, such as 8.5x11.")
    across, down = seen[0] / wanted[0], seen[1] / wanted[1]
    if abs(across - down) > 0.03 * max(across, down):
        raise PictureError(
            f"{name} is not shaped like a sheet of {wanted[0]:.0f} × {wanted[1]:.0f} mm; say the resolution instead."
        )
    dpi = (across + down) / 2 * MM_PER_INCH
    if not LEAST_DPI <= dpi <= MOST_DPI:
        raise PictureError(f"That sheet size would make {dpi:.0f} dpi of {name}; check the size.")
    return dpi


def _refuse_blank(grey: Grey, light: FloatImage, name: str) -> None:
    if float(np.median(light)) < 60:
        raise PictureError(f"{name} is nearly black; images need light paper: scan the sheet again, lid closed.")
    if int(grey.min()) > 0.85 * float(light.max()):
        raise PictureError(f"{name} is blank; stamp the images in dark ink and scan the sheet again.")


def _find_images(grey: Grey, light: FloatImage, place: PagePlace, dpi: float, gap_mm: float | None) -> list[SheetImage]:
    px_per_mm = dpi / MM_PER_INCH
    detect = _Patch.cut(grey, light, place, px_per_mm, (0.0, 0.0, place.width_mm, place.height_mm), DETECT_PX_PER_MM)
    labels, parts, numbers = _find_parts(detect.ink, place)

    def take(members: list[int]) -> SheetImage | None:
        points = np.concatenate([parts[index] for index in members])
        box = (*(points.min(axis=0) - MARGIN_MM), *(points.max(axis=0) + MARGIN_MM))
        patch = _Patch.cut(grey, light, place, px_per_mm, box, PICTURE_PX_PER_MM)
        return _take_image(patch, labels, [numbers[index] for index in members])

    with ThreadPoolExecutor(os.cpu_count() or 2) as pool:  # the image and geometry libraries let go of the lock
        taken = list(pool.map(take, group_parts(parts, gap_mm=gap_mm)))
    return _in_reading_order([image for image in taken if image is not None])


def _find_parts(ink: FloatImage, place: PagePlace) -> tuple[NDArray[np.int32], list[NDArray[np.float64]], list[int]]:
    """Label the connected bits of ink on the page; contours in page mm."""
    few = ink[::3, ::3]  # noise is the same everywhere: a ninth of the pixels tells it
    noise = float(np.median(np.abs(few - np.median(few)))) * 1.48
    dark = (ink > max(0.14, 6 * noise)).astype(np.uint8)
    edge = round(EDGE_MM * DETECT_PX_PER_MM)
    if place.skew_from == "edges":
        dark[:edge], dark[-edge:], dark[:, :edge], dark[:, -edge:] = 0, 0, 0, 0
    count, labels, stats, _ = cv2.connectedComponentsWithStats(dark, connectivity=8)
    parts, numbers = [], []
    rows, columns = dark.shape
    for number in range(1, count):
        left, top, width, height, _ = stats[number].tolist()
        if width > 0.9 * columns or height > 0.9 * rows:
            continue  # a frame of shadow round the page
        crop = (labels[top : top + height, left : left + width] == number).astype(np.uint8)
        dense = max(cv2.findContours(crop, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0], key=len)
        contour = cv2.approxPolyDP(dense, 0.5, True)
        parts.append((contour[:, 0, :] + (left + 0.5, top + 0.5)) / DETECT_PX_PER_MM)
        numbers.append(number)
    return np.asarray(labels, np.int32), parts, numbers


class _Patch:
    """A piece of the page without skew and with even light.

    Attributes
    ----------
    ink : (rows, columns) float32
        How much darker than bare paper, 0 to 1.
    left, top : float
        Its top left corner on the page, mm.
    px_per_mm : float
    """

    def __init__(self, ink: FloatImage, left: float, top: float, px_per_mm: float) -> None:
        self.ink, self.left, self.top, self.px_per_mm = ink, left, top, px_per_mm

    @classmethod
    def cut(
        cls,
        grey: Grey,
        light: FloatImage,
        place: PagePlace,
        px_per_mm: float,
        box: tuple[float, float, float, float],
        at_px_per_mm: float,
    ) -> "_Patch":
        """Cut a box (page mm) out of the scan at a resolution of its own."""
        left, top, right, bottom = box
        size = (max(1, math.ceil((right - left) * at_px_per_mm)), max(1, math.ceil((bottom - top) * at_px_per_mm)))
        to_scan = place.to_scan(px_per_mm)
        # patch pixel middle -> page mm -> scan pixel middle
        matrix = to_scan.copy()
        matrix[:, :2] /= at_px_per_mm
        corner = np.array([left + 0.5 / at_px_per_mm, top + 0.5 / at_px_per_mm])
        matrix[:, 2] = to_scan[:, :2] @ corner + to_scan[:, 2] - 0.5
        smooth = cv2.INTER_LINEAR if px_per_mm > 0.8 * at_px_per_mm else cv2.INTER_CUBIC
        flags = smooth | cv2.WARP_INVERSE_MAP
        seen = cv2.warpAffine(grey, matrix, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
        shrink = np.array([light.shape[1] / grey.shape[1], light.shape[0] / grey.shape[0]])
        coarse = matrix * shrink[:, None]
        coarse[:, 2] += 0.5 * shrink - 0.5
        paper = cv2.warpAffine(
            light, coarse, size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE
        )
        ink = 1 - seen.astype(np.float32) / np.maximum(paper, 1)
        return cls(np.asarray(np.clip(ink, 0, 1), np.float32), left, top, at_px_per_mm)


def _take_image(patch: _Patch, labels: NDArray[np.int32], own: list[int]) -> SheetImage | None:
    """Measure one image on its patch; other images that reach into the patch are taken out."""
    ink = np.where(_own_pixels(patch, labels, own), patch.ink, 0)
    strong = ink[ink > 0.14]
    if strong.size < 20:
        return None
    full = float(np.percentile(strong, 85))
    amount = np.clip(ink / full, 0, 1).astype(np.float32)
    traced = trace(amount, patch.px_per_mm)
    if traced is None:
        return None
    left, top, right, bottom = traced.box
    middle = ((left + right) / 2, (top + bottom) / 2)

    def from_middle(ring: tuple[tuple[float, float], ...]) -> tuple[tuple[float, float], ...]:
        return tuple((round(x - middle[0], 4), round(y - middle[1], 4)) for x, y in ring)

    return SheetImage(
        name="image",
        cx=patch.left + middle[0],
        cy=patch.top + middle[1],
        width_mm=right - left,
        height_mm=bottom - top,
        outline=from_middle(traced.outline),
        pockets=tuple(from_middle(ring) for ring in traced.pockets),
        picture=_clean_picture(amount, traced.box, patch.px_per_mm),
    )


def _own_pixels(patch: _Patch, labels: NDArray[np.int32], own: list[int]) -> NDArray[np.bool_]:
    """Mark the pixels of a patch that lie on or beside the image's own ink, as found at the coarser scale."""
    rows, columns = patch.ink.shape
    ratio = DETECT_PX_PER_MM / patch.px_per_mm
    low_x, low_y = (max(0, math.floor(side * DETECT_PX_PER_MM) - 4) for side in (patch.left, patch.top))
    window = labels[low_y : low_y + math.ceil(rows * ratio) + 9, low_x : low_x + math.ceil(columns * ratio) + 9]
    grown = cv2.dilate(np.isin(window, own).astype(np.uint8), np.ones((5, 5), np.uint8))
    matrix = np.array(
        [
            [ratio, 0, patch.left * DETECT_PX_PER_MM - low_x + 0.5 * ratio - 0.5],
            [0, ratio, patch.top * DETECT_PX_PER_MM - low_y + 0.5 * ratio - 0.5],
        ]
    )
    placed = cv2.warpAffine(grown, matrix, (columns, rows), flags=cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP)
    return np.asarray(placed > 0)


def _clean_picture(amount: FloatImage, box: tuple[float, float, float, float], px_per_mm: float) -> bytes:
    """Picture of the ink on transparent paper, cut exactly to the box, as PNG (black with transparency)."""
    left, top, right, bottom = box
    columns, rows = max(1, round((right - left) * px_per_mm)), max(1, round((bottom - top) * px_per_mm))
    matrix = np.array(
        [
            [(right - left) * px_per_mm / columns, 0, left * px_per_mm],
            [0, (bottom - top) * px_per_mm / rows, top * px_per_mm],
        ]
    )
    matrix[:, 2] += np.array([matrix[0, 0], matrix[1, 1]]) * 0.5 - 0.5
    cut = cv2.warpAffine(amount, matrix, (columns, rows), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    # faint grain of the paper is no ink
    alpha = np.rint(np.clip((cut - 0.12) / 0.88, 0, 1) * 255).astype(np.uint8)
    return encode_clean(alpha)


def encode_clean(alpha: NDArray[np.uint8]) -> bytes:
    """Encode ink (rows, columns) uint8, 0 bare to 255 full, as PNG: one dark tone, its transparency per pixel."""
    picture = Image.fromarray(alpha, "P")
    picture.putpalette([INK_GREY] * 768)
    buffer = io.BytesIO()
    picture.save(buffer, "PNG", transparency=bytes(range(256)), compress_level=3)
    return buffer.getvalue()


def _in_reading_order(images: list[SheetImage]) -> list[SheetImage]:
    """Sort into rows from the top, each from the left, and number them."""
    rows: list[list[SheetImage]] = []
    for image in sorted(images, key=lambda one: one.cy):
        if (
            rows
            and image.cy - image.height_mm / 4 < max(one.cy for one in rows[-1])
            and (image.cy < rows[-1][0].cy + rows[-1][0].height_mm / 2)
        ):
            rows[-1].append(image)
        else:
            rows.append([image])
    ordered = [image for row in rows for image in sorted(row, key=lambda one: one.cx)]
    return [
        SheetImage(
            f"image {number}", one.cx, one.cy, one.width_mm, one.height_mm, one.outline, one.pockets, one.picture
        )
        for number, one in enumerate(ordered, 1)
    ]
