"""Drawings of five open sets that ship a coloured or filled companion: what it covers is the body that scissors cut.

Not one of these sets was learnt from. Chosen were drawings of things, by the words in their names (`things.txt`) or by
their folder, before anything was measured. From Debian: openclipart-svg 0.18 (public domain, by many hands): the dark
of a drawing is its ink, what is painted at all its body; left out were those whose edge is less than 92 % line or whose
lines are mostly finer than 0.28 mm at its size, which no stamp has. Each is taken twice: as it is, and as stamps often
are, its lines broken at one to three places by 0.5 to 4 mm. Thresholds were chosen by 45 others of that set. From npm,
@iconify-json/*: ph 1.2.2 (MIT, light with fill), solar 1.2.13 (CC BY 4.0, linear with bold), mingcute 1.2.8 (Apache
2.0, line with fill) and tabler 1.2.41 (MIT, outline with filled). Of pairs the body is what either covers.

Outlines are held against outlines: what is open within them is the pockets' business, and asked only where paint tells
(what a filled companion leaves white may be a handle's opening or a window, white on black). A companion less than nine
tenths of whose edge is drawn (three waves on a filled square) tells another body than the lines do, and is left out.
"""

import base64
import io
import json
import math
import zipfile
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
import resvg_py
from PIL import Image

from fair_thicket.intake.photo import photograph_of_sheet
from fair_thicket.intake.sheet import detect_sheet
from fair_thicket.model.plan import SheetImage
from fair_thicket.simulators.camera import Camera, take_photo
from fair_thicket.simulators.scanner import Drawing, Glass, Printed, lay_out, scan_page

FILE = Path(__file__).with_name("open_drawings.zip")
CLIPART = "openclipart"
PAIRS = ("solar", "mingcute", "tabler")
SETS = (CLIPART, "ph", *PAIRS)
PX_PER_MM = 10.0
FINE = 2
"""Broken lines are drawn on dots so many times finer."""
ROOM_MM, ROUGH_MM = 6.0, 15.0
LEAST_MM, MOST_MM = 26.0, 44.0
GAPS_MM, MOST_GAPS = (0.5, 4.0), 3
LEAST_BODY = 1.8
"""A drawing whose body is less than so many times its ink has no body to speak of."""
DRAWN, NEAR_MM = 0.9, 1.0
"""So much of a body's edge lies as near to lines as that, else it is another drawing's."""
DARK, DARKEST = 0.30, 0.18
"""Luminance, or 0.6 of the spread of its channels, from which on paint is no ink, and up to which it is all ink."""


class Known(NamedTuple):
    """A drawing, and what is true of it on a picture of its canvas, 10 px/mm.

    Attributes
    ----------
    body, ink : (rows, columns) uint8
    corner, size : (float, float)
        Of its ink, mm.
    unasked : (rows, columns) uint8
        1 where it is not known whether it is body.
    """

    name: str
    drawing: Drawing
    body: np.ndarray
    corner: tuple[float, float]
    size: tuple[float, float]
    ink: np.ndarray
    unasked: np.ndarray


def _svg(body: str, side: float) -> str:
    inner = body.replace("currentColor", "#000000")
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {side} {side}">{inner}</svg>'


def _seen(svg: str, width_mm: float) -> np.ndarray:
    """Draw on nothing, (rows, columns, 4) uint8 at 20 px/mm."""
    png = resvg_py.svg_to_bytes(svg_string=svg, width=FINE * round(width_mm * PX_PER_MM))
    return np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))


@cache
def _sets() -> dict[str, dict]:
    with zipfile.ZipFile(FILE) as archive:
        return {name: json.loads(archive.read(f"{name}.json")) for name in SETS}


def cases(name: str) -> list[tuple[str, bool]]:
    """Names of a set's drawings, and whether they are to be broken."""
    keys = list(_sets()[name]["drawings"])
    return [(key, is_broken) for key in keys for is_broken in ((False, True) if name == CLIPART else (False,))]


def drawings_of(name: str) -> list[tuple[str, str]]:
    """Names and SVGs of the lines of a set's drawings."""
    side = float(_sets()[name]["side"])
    return [(key, _svg(bodies[0], side)) for key, bodies in _sets()[name]["drawings"].items()]


def known(name: str, key: str, chance: np.random.Generator, *, is_broken: bool = False) -> Known | None:
    """Draw a drawing at a chance size of 26 to 44 mm; None where there is no body to speak of."""
    rough = _drawn(name, key, ROUGH_MM)[1]
    rows, columns = np.nonzero(rough)
    if not len(rows):
        return None
    long = max(np.ptp(rows), np.ptp(columns)) / (PX_PER_MM * FINE)
    width_mm = ROUGH_MM * chance.uniform(LEAST_MM, MOST_MM) / long
    fine, covered = _drawn(name, key, width_mm)
    size_px = (round(fine.shape[1] / FINE), round(fine.shape[0] / FINE))
    unbroken = (cv2.resize(fine, size_px, interpolation=cv2.INTER_AREA) >= 128).astype(np.uint8)
    if is_broken:
        fine = _broken(fine, chance)
    ink = (cv2.resize(fine, size_px, interpolation=cv2.INTER_AREA) >= 128).astype(np.uint8)
    whole = cv2.resize(covered.astype(np.uint8) * 255, size_px, interpolation=cv2.INTER_AREA) >= 128
    body = _with_ink((whole | (ink > 0)).astype(np.uint8), ink)
    if not ink.any() or body.sum() < LEAST_BODY * ink.sum() or _share_drawn(body, unbroken) < DRAWN:
        return None
    rows, columns = np.nonzero(ink)
    corner = (columns.min() / PX_PER_MM, rows.min() / PX_PER_MM)
    size = ((columns.max() + 1) / PX_PER_MM - corner[0], (rows.max() + 1) / PX_PER_MM - corner[1])
    drawing = Drawing(key, _as_svg(fine), width_mm=fine.shape[1] / (PX_PER_MM * FINE))
    unasked = np.zeros_like(body) if name == CLIPART else _filled(body) - body
    return Known(key, drawing, body, corner, size, ink, unasked)


def _drawn(name: str, key: str, width_mm: float) -> tuple[np.ndarray, np.ndarray]:
    """Ink (0..255) and what is covered (bool) of a drawing, 20 px/mm."""
    side, told = float(_sets()[name]["side"]), _sets()[name]["drawings"][key]
    if name == CLIPART:
        seen = _seen(told, width_mm).astype(np.float32) / 255
        colours, alpha = seen[..., :3], seen[..., 3]
        luminance = colours @ np.array([0.2126, 0.7152, 0.0722], np.float32)
        light = np.maximum(luminance, 0.6 * (colours.max(axis=-1) - colours.min(axis=-1)))
        ink = alpha * np.clip((DARK - light) / (DARK - DARKEST), 0, 1)
        return np.rint(255 * ink).astype(np.uint8), alpha > 0.35
    planes = [_seen(_svg(body, side), width_mm)[..., 3] for body in told]
    return planes[0], np.max(planes, axis=0) > 60


def _broken(ink: np.ndarray, chance: np.random.Generator) -> np.ndarray:
    """Rub out one to three places of the lines, right across them."""
    far = cv2.distanceTransform((ink >= 128).astype(np.uint8), cv2.DIST_L2, 5)
    middles = np.argwhere((far > 0) & (far >= cv2.dilate(far, np.ones((3, 3)))))
    broken = ink.copy()
    for row, column in middles[chance.integers(len(middles), size=int(chance.integers(1, MOST_GAPS + 1)))].tolist():
        half = chance.uniform(*GAPS_MM) / 2 * PX_PER_MM * FINE
        cv2.circle(broken, (column, row), max(1, round(math.hypot(half, far[row, column]))), 0, cv2.FILLED)
    return broken


def _as_svg(ink: np.ndarray) -> str:
    """Wrap ink in a drawing, a picture of it."""
    picture = Image.new("LA", ink.shape[::-1])
    picture.putalpha(Image.fromarray(ink))
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    data, (high, wide) = base64.b64encode(buffer.getvalue()).decode(), ink.shape
    image = f'<image width="{wide}" height="{high}" href="data:image/png;base64,{data}"/>'
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}">{image}</svg>'


def _with_ink(body: np.ndarray, ink: np.ndarray) -> np.ndarray:
    """Leave out parts of a body that hardly any line belongs to: colour beside the drawing."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(body, connectivity=8)
    inked = np.bincount(labels.ravel(), weights=ink.ravel(), minlength=count)
    bare = [number for number in range(1, count) if inked[number] < 0.02 * stats[number, cv2.CC_STAT_AREA]]
    return np.where(np.isin(labels, bare), 0, body).astype(np.uint8)


def _share_drawn(body: np.ndarray, ink: np.ndarray) -> float:
    whole = _filled(body)
    edge = whole - cv2.erode(whole, np.ones((3, 3), np.uint8))
    far = cv2.distanceTransform(1 - ink, cv2.DIST_L2, 5)
    return float((far[edge > 0] <= NEAR_MM * PX_PER_MM).mean())


def scanned(one: Known, glass: Glass) -> SheetImage:
    """Print a drawing alone on a sheet, scan it, and read it as one image."""
    sheet = (one.size[0] + 2 * ROOM_MM, one.size[1] + 2 * ROOM_MM)
    place = Printed(one.name, ROOM_MM, ROOM_MM, *one.size)
    pixels = scan_page([one.drawing], [place], sheet, glass)
    detected, _ = detect_sheet(pixels, dpi=glass.dpi)
    (image,) = detected.take([tuple(sorted(detected.numbers))])
    return image


def photographed(several: Sequence[Known], sheet: tuple[float, float], camera: Camera) -> list[SheetImage | None]:
    """Print drawings on a sheet, photograph it, and read each as one image; None where nothing is seen of it."""
    drawings = [one.drawing for one in several]
    places = lay_out(drawings, sheet, gap_mm=7, margin_mm=10)
    page = scan_page(drawings, places, sheet, Glass(dpi=400, lid=None, noise=0, slope=0, dust=0))
    detected = photograph_of_sheet(take_photo(page, sheet, camera), sheet).detected
    boxes = [(*part.min(axis=0), *part.max(axis=0)) for part in detected.parts]
    images: list[SheetImage | None] = []
    for place in places:
        right, bottom = place.left + place.width_mm, place.top + place.height_mm
        own = [
            number
            for number, box in zip(detected.numbers, boxes, strict=True)
            if box[0] > place.left - 2 and box[1] > place.top - 2 and box[2] < right + 2 and box[3] < bottom + 2
        ]
        images.append(next(iter(detected.take([tuple(sorted(own))] if own else [])), None))
    return images


def body_of(one: Known, image: SheetImage) -> np.ndarray:
    """Draw the body that was read on a picture of the drawing's canvas."""
    mask = np.zeros(one.body.shape, np.uint8)
    off = (one.corner[0] + one.size[0] / 2, one.corner[1] + one.size[1] / 2)  # both boxes are those of the ink
    for ring, value in ((image.outline, 1), *((pocket, 0) for pocket in image.pockets)):
        spots = (np.array(ring) + off) * PX_PER_MM - 0.5
        cv2.fillPoly(mask, [np.rint(spots * 16).astype(np.int32)], value, shift=4)
    return mask


def overlap(one: Known, read: np.ndarray) -> float:
    """Return the area of overlap of what two outlines hold over the area of their union: the body's, and the read."""
    true, found = _filled(one.body), _filled(read)
    return float((true & found).sum() / max(int((true | found).sum()), 1))


def closed_by_itself(one: Known) -> float:
    """Return the overlap of the body with the lines and what they close in by themselves."""
    return overlap(one, _filled(one.ink))


def pockets_are_right(one: Known, read: np.ndarray, least_mm2: float = 4.0) -> bool:
    """Whether every opening in the true body is one in what was read, and the other way round."""
    return all(
        (other[hole] == 0).mean() > 0.5
        for own, other in ((one.body, read), (read, one.body))
        for hole in _holes(own, least_mm2)
        if not one.unasked[hole].any()
    )


def _filled(body: np.ndarray) -> np.ndarray:
    rings, _ = cv2.findContours(body, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return cv2.drawContours(np.zeros_like(body), rings, -1, 1, cv2.FILLED)


def _holes(body: np.ndarray, least_mm2: float) -> list[np.ndarray]:
    count, labels, stats, _ = cv2.connectedComponentsWithStats(_filled(body) - body, connectivity=4)
    least = math.ceil(least_mm2 * PX_PER_MM**2)
    return [labels == number for number in range(1, count) if stats[number, cv2.CC_STAT_AREA] >= least]
