"""Hard pages for the intake, made of drawings that we did not draw.

Two open sets, taken from packages: Phosphor Icons 2 (MIT licence, py-phosphor-icons) and Heroicons 2 (MIT licence,
heroicons). Greetings are set in the shipped typeface. Where each drawing truly is, is read off the drawing itself at
600 dpi (see `intake.scanner`).
"""

import zipfile
from dataclasses import replace
from importlib import resources
from typing import NamedTuple

import numpy as np

from fair_thicket.model.plan import SheetImage
from fair_thicket.simulators.camera import Camera, draw_card, take_photo
from fair_thicket.simulators.scanner import Drawing, Glass, Printed, lay_out, scan_page

LETTER = (215.9, 279.4)
FIRST = resources.files("py_phosphor_icons") / "svgs" / "flat" / "regular"
SECOND = resources.files("heroicons") / "heroicons.zip"

PLAIN = [
    "bug-beetle", "butterfly", "fish", "flower-lotus", "horse", "house-line", "leaf", "mailbox", "envelope-simple",
    "moon-stars", "potted-plant", "rabbit", "tree-evergreen", "umbrella", "sailboat", "lamp", "gift", "bicycle",
    "acorn", "anchor", "balloon", "bird", "cactus", "cake", "cat", "carrot", "cherries", "coffee", "cow", "dog",
    "feather", "key",
]  # fmt: skip
LOOSE = ["wifi-high", "paw-print", "cloud-rain", "cloud-snow", "hand-waving", "sun", "sparkle", "drop-half",
         "confetti",          "shooting-star", "campfire", "sun-horizon"]  # fmt: skip
OTHERS = ["fire", "cake", "camera", "gift", "home", "key", "light-bulb", "moon", "musical-note", "paper-airplane",
          "puzzle-piece", "rocket-launch", "star", "sun", "trophy", "truck", "globe-alt", "heart", "bug-ant", "bell",
          "beaker", "academic-cap", "cloud", "cube", "envelope-open", "flag", "face-smile"]  # fmt: skip
WORDS = ["with every good wish", "thinking of you", "a note to say hello", "hooray for today"]


def first(name: str, width_mm: float) -> Drawing:
    svg = (FIRST / f"{name}.svg").read_text().replace("currentColor", "#000000")
    return Drawing(name, svg, width_mm=width_mm)


def second(name: str, width_mm: float) -> Drawing:
    with resources.as_file(SECOND) as path, zipfile.ZipFile(path) as archive:
        svg = archive.read(f"outline/{name}.svg").decode().replace("currentColor", "#000000")
    return Drawing(name, svg, width_mm=width_mm)


def words(text: str, height_mm: float) -> Drawing:
    wide = 0.62 * height_mm * len(text) + 4
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}mm" height="{2 * height_mm}mm" '
        f'viewBox="0 0 {wide} {2 * height_mm}"><text x="2" y="{1.4 * height_mm}" font-size="{height_mm}" '
        f'font-family="Fernbank Sans">{text}</text></svg>'
    )
    return Drawing(text, svg)


class HardPage(NamedTuple):
    """A page to be scanned: its drawings, how near they lie, and the glass."""

    name: str
    drawings: list[Drawing]
    gap_mm: float
    glass: Glass


def hard_pages() -> list[HardPage]:
    """Eight pages of 8 to 25 drawings: skew to 4 degrees, noise, dust, falling light, near neighbours, loose parts."""

    def sized(names: list[str], start: float, step: float = 3.0) -> list[Drawing]:
        return [first(name, start + step * (k % 5)) for k, name in enumerate(names)]

    def others(names: list[str], start: float, step: float = 4.0) -> list[Drawing]:
        return [second(name, start + step * (k % 4)) for k, name in enumerate(names)]

    return [
        HardPage("plain", sized(PLAIN[:20], 24), 7, Glass(skew_deg=1.2, seed=1)),
        HardPage("second set", others(OTHERS[:22], 22), 7, Glass(skew_deg=-2.5, noise=0.025, seed=2)),
        HardPage("skewed", sized(PLAIN[12:], 26), 6, Glass(skew_deg=4.0, slope=0.15, seed=3)),
        HardPage("near", sized([*PLAIN[:9], *PLAIN[10:17]], 24) + others(OTHERS[22:], 26), 1.5,
                 Glass(skew_deg=0.6, dust=80, seed=4)),
        HardPage("loose parts", sized(LOOSE, 30), 9, Glass(skew_deg=-1.5, seed=5)),
        HardPage("words", sized(PLAIN[20:28], 26) + [words(t, 6.5 + k) for k, t in enumerate(WORDS)], 6,
                 Glass(skew_deg=2.0, seed=6)),
        HardPage("noise and dust", others(OTHERS[4:26], 24), 6, Glass(skew_deg=-4.0, noise=0.04, dust=250, seed=7)),
        HardPage("cream, no lid", sized(PLAIN[4:12], 34), 8, Glass(paper=0.82, slope=0.2, lid=None, seed=8)),
    ]  # fmt: skip


def scan(page: HardPage, dpi: float) -> tuple[np.ndarray, list[Printed]]:
    """Scan a page at a resolution; the pixels, and where each drawing truly is."""
    places = lay_out(page.drawings, LETTER, gap_mm=page.gap_mm)
    glass = Glass(**{**page.glass.__dict__, "dpi": dpi})
    return scan_page(page.drawings, places, LETTER, glass), places


class Snapshot(NamedTuple):
    """A photo, where each drawing truly is on the page, and the page's size."""

    pixels: np.ndarray
    places: list[Printed]


def photo(drawings: list[Drawing], camera: Camera) -> Snapshot:
    """Photograph a letter sheet of drawings that shows whole."""
    places = lay_out(drawings, LETTER, gap_mm=7, margin_mm=12)
    page = scan_page(drawings, places, LETTER, Glass(dpi=400, lid=None, noise=0, slope=0, dust=0))
    return Snapshot(take_photo(page, LETTER, camera), places)


def photo_with_card(drawings: list[Drawing], camera: Camera) -> Snapshot:
    """Photograph the middle of a large sheet, the reference card below the drawings; its edges are out of sight.

    Places are told from the card's top left corner.
    """
    large, corner = (420.0, 420.0), (165.0, 232.0)
    places = lay_out(drawings, (170.0, 110.0), gap_mm=7, margin_mm=3)
    moved = [replace(one, left=one.left + 125, top=one.top + 125) for one in places]
    page = scan_page(drawings, moved, large, Glass(dpi=400, lid=None, noise=0, slope=0, dust=0))
    draw_card(page, 400 / 25.4, corner)
    told = [replace(one, left=one.left - corner[0], top=one.top - corner[1]) for one in moved]
    return Snapshot(take_photo(page, large, camera), told)


class Tally(NamedTuple):
    """What came of a page: drawings, those found as one piece each, images too many, errors of size in mm."""

    drawings: int
    found: int
    spurious: list[str]
    missed: list[str]
    errors: list[float]


def tally(images: tuple[SheetImage, ...], places: list[Printed], *, share: bool = False) -> Tally:
    """Hold found images against the truth: one piece has its middle within 1 mm and its size within 1 mm.

    `share` gives the errors as shares of the true size.
    """
    free = list(images)
    missed, errors = [], []
    for place in places:
        x, y = place.left + place.width_mm / 2, place.top + place.height_mm / 2
        near = [
            one
            for one in free
            if abs(one.cx - x) < 1 + 0.01 * abs(x)
            and abs(one.cy - y) < 1 + 0.01 * abs(y)
            and abs(one.width_mm - place.width_mm) < 1
            and abs(one.height_mm - place.height_mm) < 1
        ]
        if not near:
            missed.append(place.name)
            continue
        one = min(near, key=lambda image: abs(image.cx - x) + abs(image.cy - y))
        free.remove(one)
        for seen, true in ((one.width_mm, place.width_mm), (one.height_mm, place.height_mm)):
            errors.append(abs(seen - true) / (true if share else 1))
    spurious = [f"{one.name} at {one.cx:.0f}, {one.cy:.0f}: {one.width_mm:.1f} x {one.height_mm:.1f}" for one in free]
    return Tally(len(places), len(places) - len(missed), spurious, missed, errors)
