"""Random pages of drawings with many loose parts, from three open sets that the grouping was not learnt from.

Tabler Icons (MIT licence, package pytablericons), Font Awesome Free's solid drawings (CC BY 4.0, package
fontawesomefree) and Lucide (ISC licence, package lucide). Only drawings of things are taken, chosen by their names
before anything was measured: signs of interfaces, such as three lines for a menu, are no images. Half of each page is
of drawings with four loose parts or more. Every second page has pairs that lie 1.5 mm apart.
"""

import io
import math
import re
import zipfile
from collections.abc import Iterator, Sequence
from functools import cache
from importlib import resources
from importlib.util import find_spec
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
import rectpack
import resvg_py
from PIL import Image

from fair_thicket.simulators.scanner import Drawing, Glass, Printed, scan_page

LETTER = (215.9, 279.4)
MARGIN_MM = 8.0
PAIR_MM = 1.5
MANY = 4
THINGS = frozenset((Path(__file__).parent / "things.txt").read_text(encoding="utf-8").split())
SIGNS = re.compile(
    r"(off|slash|plus|minus|x|check|cancel|exclamation|question|circle|square|arrow|pause|code|search|cog|bolt|edit|"
    r"share|pin|up|down|discount|dollar|user|lock|alert|alt|dots|percent|music-note|hourglass|smile|face|tower|signal|"
    r"logo|app|device|network|programming|database|crypto)(-|$)"
)
SETS = ("tabler", "solid", "lucide")


class LoosePage(NamedTuple):
    """A page to be scanned, and where each drawing truly is."""

    drawings: list[Drawing]
    places: list[Printed]
    glass: Glass


def _files(name: str) -> Iterator[tuple[str, str]]:
    """Give names and texts of a set's drawings."""
    if name == "lucide":
        with resources.as_file(resources.files("lucide") / "lucide.zip") as path, zipfile.ZipFile(path) as archive:
            for file in sorted(archive.namelist()):
                if file.endswith(".svg"):
                    yield file.rpartition("/")[2].removesuffix(".svg"), archive.read(file).decode()
        return
    package, inner = (
        ("pytablericons", "icons/outline")
        if name == "tabler"
        else ("fontawesomefree", "static/fontawesomefree/svgs/solid")
    )
    spec = find_spec(package)  # not imported: its own code wants what is not needed here
    if spec is None or spec.submodule_search_locations is None:
        raise ModuleNotFoundError(f"{package} is not installed; see bench.grouping")
    folder = Path(spec.submodule_search_locations[0]) / inner
    for entry in sorted(folder.iterdir(), key=lambda one: one.name):
        if entry.name.endswith(".svg"):
            yield entry.name.removesuffix(".svg"), entry.read_text(encoding="utf-8")


class Sized(NamedTuple):
    """A drawing whose canvas is 1 wide: its ink's left, top, width and height, and how many parts it has."""

    name: str
    svg: str
    box: tuple[float, float, float, float]
    parts: int


def sized(name: str, svg: str, px: int = 600) -> Sized | None:
    """Measure a drawing on so many pixels; None for one without ink."""
    png = resvg_py.svg_to_bytes(svg_string=svg, width=px, background="#ffffff", skip_system_fonts=True)
    ink = np.asarray(Image.open(io.BytesIO(png)).convert("L")) < 128
    rows, columns = np.nonzero(ink)
    if not len(rows):
        return None
    left, top = columns.min() / px, rows.min() / px
    box = (left, top, (columns.max() + 1) / px - left, (rows.max() + 1) / px - top)
    return Sized(name, svg, box, cv2.connectedComponents(ink.astype(np.uint8))[0] - 1)


@cache
def things(name: str) -> tuple[Sized, ...]:
    """Take the drawings of things of a set."""
    found = [
        sized(words, text.replace("currentColor", "#000000"))
        for words, text in _files(name)
        if THINGS & set(words.split("-")) and not SIGNS.search(words)
    ]
    return tuple(one for one in found if one is not None)


class Unit(NamedTuple):
    """A drawing, its place within a pair, and the size of its ink, mm."""

    drawing: Drawing
    x: float
    y: float
    width: float
    height: float


def lay(units: Sequence[Sequence[Unit]], gap_mm: float) -> tuple[list[Drawing], list[Printed]]:
    """Pack drawings, or pairs of them, on a letter sheet; what finds no room stays away."""
    packer = rectpack.newPacker(rotation=False, sort_algo=rectpack.SORT_SSIDE)
    for index, unit in enumerate(units):
        wide, high = max(one.x + one.width for one in unit), max(one.y + one.height for one in unit)
        packer.add_rect(math.ceil((wide + gap_mm) * 10), math.ceil((high + gap_mm) * 10), rid=index)
    packer.add_bin(*(int((side - 2 * MARGIN_MM + gap_mm) * 10) for side in LETTER))
    packer.pack()
    placed = [
        (one, left / 10 + MARGIN_MM + one.x, top / 10 + MARGIN_MM + one.y)
        for _, left, top, _, _, index in packer.rect_list()
        for one in units[index]
    ]
    places = [Printed(one.drawing.name, left, top, one.width, one.height) for one, left, top in placed]
    return [one.drawing for one, _, _ in placed], places


def loose_page(number: int, sets: tuple[str, ...] = SETS) -> LoosePage:
    """Lay out a page of its own for every number: even ones at 150, odd ones at 300 dpi (turn about by fours)."""
    chance = np.random.default_rng(1000 + number)
    gap = float(chance.choice((4.0, 5.0, 6.0, 7.0, 8.0, 9.0)))
    usual = chance.uniform(18, 34)
    units: list[list[Unit]] = []
    for _ in range(int(chance.integers(8, 22))):
        pool = things(sets[int(chance.integers(len(sets)))])
        loose = [one for one in pool if one.parts >= MANY]
        source = loose if chance.random() < 0.5 else pool
        one = source[int(chance.integers(len(source)))]
        canvas = usual * chance.uniform(0.8, 1.3)
        width, height = one.box[2] * canvas, one.box[3] * canvas
        drawing = Drawing(one.name, one.svg, width_mm=canvas)
        if number % 2 and units and len(units[-1]) == 1 and chance.random() < 0.4:
            before = units[-1][0]
            units[-1].append(Unit(drawing, before.width + PAIR_MM, 0.1 * before.height, width, height))
        else:
            units.append([Unit(drawing, 0.0, 0.0, width, height)])
    drawings, places = lay(units, gap)
    glass = Glass(
        dpi=(150.0, 300.0)[number // 2 % 2],
        skew_deg=float(chance.uniform(-3, 3)),
        noise=float(chance.uniform(0.01, 0.025)),
        dust=int(chance.integers(0, 150)),
        seed=number,
    )
    return LoosePage(drawings, places, glass)


def scan(page: LoosePage) -> np.ndarray:
    """Scan a page, (rows, columns) uint8."""
    return scan_page(page.drawings, page.places, LETTER, page.glass)
