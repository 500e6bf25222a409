"""A scanned sheet becomes separate stamps at true size."""

import math
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.intake.detection import Detected, Page, detect
from fair_thicket.intake.page import Grey, PagePlace, find_page, light_of
from fair_thicket.intake.picture import LEAST_DPI, MOST_DPI, Picture, read_picture
from fair_thicket.model.errors import PictureError
from fair_thicket.model.plan import Sheet, SheetImage
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH

DOUBTED_IMAGES, DOUBTED_MM = 60, 6.0
"""No sheet of stamps bears so many images half of which are so small (our own estimate)."""


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
    if dpi is None and sheet_mm is None:
        refuse_photo(picture, path.name)
    return scan_sheet(picture.pixels, dpi=dpi, stated_dpi=picture.dpi, sheet_mm=sheet_mm, gap_mm=gap_mm, name=path.name)


def refuse_photo(picture: Picture, name: str) -> None:
    """Refuse a photo that is to be read as a scan: the resolution that it states tells nothing of the sheet's size.

    Raises
    ------
    PictureError
    """
    if picture.is_photo:
        raise PictureError(
            f"{name} is a photo and no scan, so its scale is not known: say that it is one, and what tells its size "
            "(the sheet's own size, the printed reference card in it, or one length that you know)."
        )


def doubt_of(sheet: Sheet) -> str:
    """Say what is doubtful about what was found, as a sentence; empty for nothing.

    Very many tiny images are grain, a texture, or a scan at another scale than it states.
    """
    sides = sorted(max(image.width_mm, image.height_mm) for image in sheet.images)
    if len(sides) < DOUBTED_IMAGES or sides[len(sides) // 2] > DOUBTED_MM:
        return ""
    return (
        f"{len(sides)} images were found and half of them are under {DOUBTED_MM:g} mm: is the resolution of "
        f"{sheet.dpi:g} dpi right, and is it a scan of stamped images on plain paper?"
    )


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
    detected, resolution = detect_sheet(pixels, dpi=dpi, stated_dpi=stated_dpi, sheet_mm=sheet_mm, name=name)
    found = detected.group(gap_mm)
    images = detected.take(found.groups, found.greetings)
    if not images:
        raise PictureError(f"{name} shows no stamped image; is the sheet the right way up on the glass?")
    return describe(detected, images, resolution)


def detect_sheet(
    pixels: NDArray[np.uint8],
    *,
    dpi: float | None = None,
    stated_dpi: float | None = None,
    sheet_mm: tuple[float, float] | None = None,
    name: str = "The scan",
) -> tuple[Detected, float]:
    """Find the bits of ink on a scanned sheet, and the scan's resolution in dpi; see `scan_sheet`."""
    grey = darkest_of(pixels)
    if min(grey.shape) < 40:
        raise PictureError(f"{name} is only {grey.shape[1]} × {grey.shape[0]} pixels; scan the whole sheet.")
    resolution = _resolution(grey, dpi, stated_dpi, sheet_mm, name)
    planes: tuple[Grey, ...] = (grey,) if pixels.ndim == 2 else tuple(cv2.split(pixels))
    if resolution >= 1.5 * REHEARSAL_DPI:  # finer than needed: average pixels first, which also calms noise
        shrink = REHEARSAL_DPI / resolution
        planes = tuple(
            np.asarray(cv2.resize(plane, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA), np.uint8)
            for plane in planes
        )
        grey = planes[0] if len(planes) == 1 else darkest_of(np.dstack(planes))
    # the side that was rounded to whole pixels tells the exact working resolution
    working = resolution * grey.shape[1] / pixels.shape[1]
    page = ready_page(planes, find_page(grey, working), working / MM_PER_INCH, name=name)
    return detect(page), resolution


def ready_page(planes: tuple[Grey, ...], place: PagePlace, px_per_mm: float, *, name: str) -> Page:
    """Make a page ready for detection: find how bright its paper is, refuse what is black or blank."""
    dpi = px_per_mm * MM_PER_INCH
    lights = tuple(light_of(plane, dpi) for plane in planes)
    brightest = max(float(np.median(light)) for light in lights)
    if brightest < 60:
        raise PictureError(f"{name} is nearly black; images need light paper: scan the sheet again, lid closed.")
    darkest = min(float(plane.min()) - 0.85 * float(light.max()) for plane, light in zip(planes, lights, strict=True))
    if darkest > 0:
        raise PictureError(f"{name} is blank; stamp the images in dark ink and scan the sheet again.")
    return Page(planes, lights, place, px_per_mm)


def describe(detected: Detected, images: list[SheetImage], resolution: float) -> Sheet:
    """Tell a page with its images as a value."""
    page, place = detected.page, detected.page.place
    return Sheet(
        round(resolution, 2),
        round(place.width_mm, 3),
        round(place.height_mm, 3),
        round(place.skew_deg, 3),
        place.skew_from,
        tuple(images),
        page.planes[0].shape[1] / page.px_per_mm,
        (place.origin[0] / page.px_per_mm, place.origin[1] / page.px_per_mm),
    )


def darkest_of(pixels: NDArray[np.uint8]) -> Grey:
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
