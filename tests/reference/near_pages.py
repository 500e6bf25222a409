"""Pages on which images of one part lie 1.5 to 3 mm apart, and faint, blotchy impressions: both are easily misread.

Drawings of things from Lucide (see `loose_pages`) and of solar, mingcute and tabler (see `silhouette_truth`). On pages
in rows every second image is, by chance, the stamp beside it stamped once more. A blotchy page is printed with half its
ink and with bare spots of half a millimetre to three; its images are as large as what is left of them.
"""

import math
import re
from functools import cache
from typing import NamedTuple

import cv2
import numpy as np
from loose_pages import LETTER, Sized, Unit, lay, sized, things
from silhouette_truth import PAIRS, drawings_of

from fair_thicket.simulators.scanner import Drawing, Glass, Printed, scan_page

COUNT = 16
PX = 400
LEAST_BIT_MM2 = 0.15
"""What is left of a faint line and smaller is not asked for."""


class Scanned(NamedTuple):
    """A scan, and where its images truly are."""

    pixels: np.ndarray
    places: list[Printed]
    dpi: float


@cache
def drawings() -> tuple[Sized, ...]:
    """Take all drawings of the four sets."""
    others = [sized(*one, PX) for name in PAIRS for one in drawings_of(name)]
    return (*things("lucide"), *(one for one in others if one is not None))


@cache
def thinner(one: Sized, share: float) -> Sized:
    """Draw its strokes thinner."""
    svg = re.sub(r'stroke-width="([\d.]+)"', lambda at: f'stroke-width="{float(at[1]) * share}"', one.svg)
    return sized(one.name, svg, PX) or one


def page_of_pairs(number: int, *, in_rows: bool) -> Scanned:
    """Scan sixteen images of one part each in pairs 1.5 to 3 mm apart, even numbers at 300 and odd ones at 150 dpi."""
    chance = np.random.default_rng(7000 + number)
    pool = [one for one in drawings() if one.parts == 1]
    usual, gap_mm = chance.uniform(20, 36), float(chance.choice((5, 6, 7, 8)))
    units: list[list[Unit]] = []
    for count in range(COUNT):
        one, canvas = pool[int(chance.integers(len(pool)))], usual * chance.uniform(0.7, 1.4)
        drawing, width, height = Drawing(one.name, one.svg, width_mm=canvas), one.box[2] * canvas, one.box[3] * canvas
        if count % 2 == 0:
            units.append([Unit(drawing, 0.0, 0.0, width, height)])
            continue
        before, apart = units[-1][0], chance.uniform(1.5, 3)
        if in_rows and chance.random() < 0.5:
            drawing, width, height = before.drawing, before.width, before.height
        shift = 0.0 if in_rows else max(0.0, float(chance.uniform(-0.2, 0.4)))
        if chance.random() < 0.5:
            units[-1].append(Unit(drawing, before.width + apart, shift * before.height, width, height))
        else:
            units[-1].append(Unit(drawing, shift * before.width, before.height + apart, width, height))
    printed, places = lay(units, gap_mm)
    glass = Glass(
        dpi=(300.0, 150.0)[number % 2],
        skew_deg=float(chance.uniform(-3, 3)),
        noise=float(chance.uniform(0.01, 0.025)),
        dust=int(chance.integers(0, 120)),
        seed=number,
    )
    return Scanned(scan_page(printed, places, LETTER, glass), places, glass.dpi)


def blotchy_page(number: int) -> Scanned:
    """Scan eight to thirteen drawings printed faintly and in blotches."""
    chance = np.random.default_rng(9000 + number)
    usual, gap_mm = chance.uniform(24, 40), float(chance.choice((6, 8, 10)))
    units = []
    for _ in range(int(chance.integers(8, 14))):
        one, canvas = drawings()[int(chance.integers(len(drawings())))], usual * chance.uniform(0.8, 1.3)
        if chance.random() < 0.7:
            one = thinner(one, float(chance.choice((0.45, 0.6, 0.75))))
        drawing = Drawing(one.name, one.svg, width_mm=canvas)
        units.append([Unit(drawing, 0.0, 0.0, one.box[2] * canvas, one.box[3] * canvas)])
    printed, places = lay(units, gap_mm)
    glass = Glass(
        dpi=(300.0, 150.0)[number % 2],
        lid=None,
        noise=float(chance.uniform(0.01, 0.02)),
        dust=int(chance.integers(0, 60)),
        seed=number,
    )
    pixels = blotch(scan_page(printed, places, LETTER, glass), glass.dpi, chance)
    return Scanned(pixels, [what_is_left(pixels, glass.dpi, place) for place in places], glass.dpi)


def blotch(pixels: np.ndarray, dpi: float, chance: np.random.Generator) -> np.ndarray:
    """Take ink away where a stamp did not touch, and half of it everywhere."""
    px_per_mm, (high, wide) = dpi / 25.4, pixels.shape

    def cloud(size_mm: float) -> np.ndarray:
        cells = chance.standard_normal([math.ceil(side / px_per_mm / size_mm) + 2 for side in (high, wide)])
        soft = cv2.GaussianBlur(cells.astype(np.float32), (0, 0), 1.1)
        large = cv2.resize(soft, (wide, high), interpolation=cv2.INTER_CUBIC)
        return large / large.std()

    field = 0.7 * cloud(0.5) + 0.5 * cloud(3.0)
    least = np.quantile(field[::7, ::7], chance.uniform(0.08, 0.3))
    strength = np.clip((field - least) / 0.35, 0, 1) * chance.uniform(0.4, 0.65)
    seen = pixels.astype(np.float32)
    paper = np.maximum(cv2.dilate(seen, np.ones((int(3 * px_per_mm) | 1,) * 2)), 200)
    return np.clip(paper - (paper - seen) * strength, 0, 255).astype(np.uint8)


def what_is_left(pixels: np.ndarray, dpi: float, place: Printed) -> Printed:
    """Measure the ink that is left of an image."""
    px_per_mm = dpi / 25.4
    top, left = max(int(place.top * px_per_mm) - 2, 0), max(int(place.left * px_per_mm) - 2, 0)
    window = pixels[
        top : int((place.top + place.height_mm) * px_per_mm) + 3,
        left : int((place.left + place.width_mm) * px_per_mm) + 3,
    ]
    count, labels, stats, _ = cv2.connectedComponentsWithStats((window < 205).astype(np.uint8))
    bits = [k for k in range(1, count) if stats[k, cv2.CC_STAT_AREA] >= LEAST_BIT_MM2 * px_per_mm**2]
    rows, columns = np.nonzero(np.isin(labels, bits))
    return Printed(
        place.name,
        (left + columns.min()) / px_per_mm,
        (top + rows.min()) / px_per_mm,
        (np.ptp(columns) + 1) / px_per_mm,
        (np.ptp(rows) + 1) / px_per_mm,
    )
