"""Drawings of five open sets that ship a coloured or filled companion: what it covers is the body that scissors cut.

Not one of these sets was learnt from. Chosen are drawings of things, by the words in their names (`things.txt`), before
anything was measured. From npm, @iconify-json/*: streamline-ultimate-color and streamline-cyber-color 1.2.2 (CC BY 4.0,
dark lines with colour under them, which tells the body by itself), solar 1.2.13 (CC BY 4.0, linear and bold), mingcute
1.2.8 (Apache 2.0, line and fill) and tabler 1.2.41 (MIT, outline and filled). Of pairs the body is what either covers.
"""

import io
import json
import math
import re
import zipfile
from functools import cache
from pathlib import Path
from typing import NamedTuple
from xml.etree import ElementTree as ET

import cv2
import numpy as np
import resvg_py
from defusedxml.ElementTree import fromstring
from PIL import Image

from fair_thicket.intake.scanner import Drawing, Glass, Printed, scan_page
from fair_thicket.intake.sheet import detect_sheet
from fair_thicket.model.plan import SheetImage

FILE = Path(__file__).with_name("open_drawings.zip")
COLOURED = ("streamline-ultimate-color", "streamline-cyber-color")
PAIRS = ("solar", "mingcute", "tabler")
SETS = (*COLOURED, *PAIRS)
PX_PER_MM = 10.0
ROOM_MM = 6.0
LEAST_MM, MOST_MM = 26.0, 44.0
LEAST_BODY = 1.8
"""A drawing whose body is less than so many times its ink has no body to speak of."""
DARK = 0.11


class Known(NamedTuple):
    """A drawing, and its body on a picture of its canvas, 10 px/mm."""

    name: str
    drawing: Drawing
    body: np.ndarray
    corner: tuple[float, float]
    size: tuple[float, float]


def _is_dark(colour: str) -> bool:
    code = {"currentColor": "#000", "black": "#000", "white": "#fff"}.get(colour, colour)
    if not re.fullmatch(r"#[0-9a-fA-F]{6}|#[0-9a-fA-F]{3}", code):
        return False
    code = code if len(code) == 7 else "#" + "".join(sign * 2 for sign in code[1:])
    red, green, blue = (int(code[at : at + 2], 16) / 255 for at in (1, 3, 5))
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue <= DARK


def _lines_of(body: str, width: float, *, any_stroke: bool) -> str:
    """Paint strokes black and all else white, so that what lies over a line hides it."""
    root = fromstring(f'<svg xmlns="http://www.w3.org/2000/svg">{body}</svg>')

    def paint(node: ET.Element, given: dict[str, str]) -> None:
        for child in node:
            own = given | {key: child.attrib[key] for key in ("fill", "stroke", "stroke-width") if key in child.attrib}
            if len(child):
                paint(child, own)
                continue
            if own.get("fill", "#000") != "none":
                child.set("fill", "#000" if _is_dark(own.get("fill", "#000")) else "#fff")
            if own.get("stroke", "none") != "none":
                child.set("stroke", "#000" if any_stroke or _is_dark(own["stroke"]) else "#fff")
                child.set("stroke-width", str(float(own.get("stroke-width", "1")) * width))

    paint(root, {})
    return "".join(ET.tostring(child, encoding="unicode") for child in root)


def _svg(body: str, side: float) -> str:
    inner = body.replace("currentColor", "#000000")
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {side} {side}">{inner}</svg>'


def _seen(svg: str, width_mm: float) -> np.ndarray:
    """Draw on nothing, (rows, columns, 4) uint8 at 10 px/mm."""
    png = resvg_py.svg_to_bytes(svg_string=svg, width=round(width_mm * PX_PER_MM))
    return np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))


@cache
def _sets() -> dict[str, dict]:
    with zipfile.ZipFile(FILE) as archive:
        return {name: json.loads(archive.read(f"{name}.json")) for name in SETS}


def names_of(name: str) -> list[str]:
    """Names of a set's drawings."""
    return list(_sets()[name]["drawings"])


def drawings_of(name: str) -> list[tuple[str, str]]:
    """Names and SVGs of the lines of a set's drawings."""
    side = float(_sets()[name]["side"])
    return [(key, _svg(bodies[0], side)) for key, bodies in _sets()[name]["drawings"].items()]


def known(name: str, key: str, chance: np.random.Generator) -> Known | None:
    """Draw a drawing at a chance size of 26 to 44 mm; None where there is no body to speak of."""
    side, bodies = float(_sets()[name]["side"]), _sets()[name]["drawings"][key]
    lines = (
        _svg(_lines_of(bodies[0], chance.uniform(0.55, 1.0), any_stroke=name == COLOURED[1]), side)
        if name in COLOURED
        else _svg(bodies[0], side)
    )
    wholes = [_svg(body, side) for body in bodies]
    rough = np.max([_seen(svg, 30.0)[..., 3] for svg in wholes], axis=0) > 60
    rows, columns = np.nonzero(rough)
    if not len(rows):
        return None
    long = max(np.ptp(rows), np.ptp(columns)) / PX_PER_MM
    width_mm = 30.0 * chance.uniform(LEAST_MM, MOST_MM) / long
    drawn = _seen(lines, width_mm)
    ink = (drawn[..., 3] / 255 * (1 - drawn[..., 0] / 255) >= 0.5).astype(np.uint8)
    covered = np.max([_seen(svg, width_mm)[..., 3] for svg in wholes], axis=0) > 60
    body = _with_ink((covered | (ink > 0)).astype(np.uint8), ink)
    if not ink.any() or body.sum() < LEAST_BODY * ink.sum():
        return None
    rows, columns = np.nonzero(ink)
    corner = (columns.min() / PX_PER_MM, rows.min() / PX_PER_MM)
    size = ((columns.max() + 1) / PX_PER_MM - corner[0], (rows.max() + 1) / PX_PER_MM - corner[1])
    return Known(key, Drawing(key, lines, width_mm=width_mm), body, corner, size)


def _with_ink(body: np.ndarray, ink: np.ndarray) -> np.ndarray:
    """Leave out parts of a body that hardly any line belongs to: colour beside the drawing."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(body, connectivity=8)
    inked = np.bincount(labels.ravel(), weights=ink.ravel(), minlength=count)
    bare = [number for number in range(1, count) if inked[number] < 0.02 * stats[number, cv2.CC_STAT_AREA]]
    return np.where(np.isin(labels, bare), 0, body).astype(np.uint8)


def scanned(one: Known, glass: Glass) -> SheetImage:
    """Print a drawing alone on a sheet, scan it, and read it as one image."""
    sheet = (one.size[0] + 2 * ROOM_MM, one.size[1] + 2 * ROOM_MM)
    place = Printed(one.name, ROOM_MM, ROOM_MM, *one.size)
    pixels = scan_page([one.drawing], [place], sheet, glass)
    detected, _ = detect_sheet(pixels, dpi=glass.dpi)
    (image,) = detected.take([tuple(sorted(detected.numbers))])
    return image


def body_of(one: Known, image: SheetImage) -> np.ndarray:
    """Draw the body that was read on a picture of the drawing's canvas."""
    mask = np.zeros(one.body.shape, np.uint8)
    off = (one.corner[0] + one.size[0] / 2, one.corner[1] + one.size[1] / 2)  # both boxes are those of the ink
    for ring, value in ((image.outline, 1), *((pocket, 0) for pocket in image.pockets)):
        spots = (np.array(ring) + off) * PX_PER_MM - 0.5
        cv2.fillPoly(mask, [np.rint(spots * 16).astype(np.int32)], value, shift=4)
    return mask


def overlap(one: np.ndarray, other: np.ndarray) -> float:
    """Return the area of overlap over the area of union."""
    return float((one & other).sum() / max(int((one | other).sum()), 1))


def closed_by_itself(one: Known) -> float:
    """Return the overlap of the body with the lines and what they close in by themselves."""
    drawn = _seen(one.drawing.svg, one.drawing.width_mm or 30.0)
    ink = (drawn[..., 3] / 255 * (1 - drawn[..., 0] / 255) >= 0.5).astype(np.uint8)
    rings, _ = cv2.findContours(ink, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return overlap(cv2.drawContours(np.zeros_like(ink), rings, -1, 1, cv2.FILLED), one.body)


def pockets_are_right(one: Known, read: np.ndarray, least_mm2: float = 4.0) -> bool:
    """Whether every opening in the true body is one in what was read, and the other way round."""
    return all(
        (other[hole] == 0).mean() > 0.5
        for own, other in ((one.body, read), (read, one.body))
        for hole in _holes(own, least_mm2)
    )


def _holes(body: np.ndarray, least_mm2: float) -> list[np.ndarray]:
    rings, _ = cv2.findContours(body, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    filled = cv2.drawContours(np.zeros_like(body), rings, -1, 1, cv2.FILLED)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(filled - body, connectivity=4)
    least = math.ceil(least_mm2 * PX_PER_MM**2)
    return [labels == number for number in range(1, count) if stats[number, cv2.CC_STAT_AREA] >= least]
