"""The demo: the Fernside post. Our own drawings, scanned by the simulated scanner, arranged on a card."""

from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from fair_thicket.model.card import Card, Work
from fair_thicket.model.formats import SHEETS
from fair_thicket.model.pieces import Impression
from fair_thicket.model.stash import Stash

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from fair_thicket.simulators.scanner import Drawing, Glass, Printed

CARD_FILE = Path(__file__).parent / "fernside-post.thicket"
"""The demo card as shipped: made by ``python -m fair_thicket.demo``, so that it opens at once."""

CARD_FILES = (
    CARD_FILE,
    Path(__file__).parent / "fern-window.thicket",
    Path(__file__).parent / "long-round.thicket",
    Path(__file__).parent / "dusk-stump.thicket",
    Path(__file__).parent / "cloud-sky.thicket",
    Path(__file__).parent / "night-round.thicket",
)
"""All demo cards: stamped; through a window; slimline; round a wash; under a stepped sky; with words and finishes."""

SUPPLIES_FILE = Path(__file__).parent / "supplies.csv"
"""Papers, inks and markers of the Fernside post; names and codes are our own inventions."""

SHEET_MM = SHEETS["letter"]

SHEET_GAP_MM = 13.0

# stamp, middle x, middle y (mm), turned (degrees); from the back to the front
SCENE: tuple[tuple[str, float, float, float], ...] = (
    ("tall-fern", 17.0, 66.0, -7.0),
    ("tall-fern", 122.5, 64.5, 8.0),
    ("stump-letterbox", 101.0, 81.0, 0.0),
    ("toadstool", 32.0, 79.5, -4.0),
    ("lantern", 51.5, 83.5, 0.0),
    ("toad-postmaster", 72.0, 80.5, 0.0),
    ("fern-sprig", 128.5, 90.5, 14.0),
    ("parcel", 58.0, 92.0, 3.0),
    ("ink-newt", 108.0, 95.0, 0.0),
    ("courier-snail", 27.5, 91.5, 0.0),
    ("moss-cushion", 75.5, 102.0, 0.0),
    ("moss-cushion", 117.5, 103.0, 0.0),
    ("moss-cushion", 40.0, 102.8, 0.0),
    ("letter", 94.0, 50.5, -12.0),
    ("dusk-moth", 105.5, 42.5, 10.0),
    ("spotted-beetle", 100.5, 64.5, -3.0),
    ("greeting-post", 50.0, 17.5, 0.0),
)


def drawings() -> "list[Drawing]":
    """Every demo drawing, by name, at its life size."""
    from fair_thicket.simulators.scanner import Drawing

    files = sorted((Path(__file__).parent / "art").glob("*.svg"))
    return [Drawing(file.stem, file.read_text(encoding="utf-8")) for file in files]


def sheet(glass: "Glass | None" = None) -> "tuple[NDArray[np.uint8], list[Printed]]":
    """Scan the demo sheet: the scan, and where each drawing truly is."""
    from fair_thicket.simulators.scanner import Glass, lay_out, scan_page

    made = drawings()
    places = lay_out(made, SHEET_MM, gap_mm=SHEET_GAP_MM)
    return scan_page(made, places, SHEET_MM, glass or Glass(skew_deg=0.8)), places


@cache
def demo_work() -> tuple[Work, dict[str, bytes]]:
    """Make the demo card out of the scanned demo sheet; the stamps' pictures come with it.

    Notes
    -----
    The names come from the drawing nearest to each found image: the one thing that a scan cannot know.
    """
    from fair_thicket.demo.colours import coloured, with_regions
    from fair_thicket.demo.dies import dies
    from fair_thicket.demo.marks import marked
    from fair_thicket.intake import scan_sheet
    from fair_thicket.intake.stamps import keep_images

    scan, places = sheet()
    found = scan_sheet(scan, dpi=300.0)
    names = []
    for image in found.images:
        nearest = min(
            places,
            key=lambda one: abs(one.left + one.width_mm / 2 - image.cx) + abs(one.top + one.height_mm / 2 - image.cy),
        )
        names.append(nearest.name.replace("-", " "))
    work, pictures = keep_images(Work(), found.images, names=names)
    cut, blades = dies()
    stamps = (*(marked(stamp) for stamp in work.stash.stamps), *cut)
    pieces: list[Impression] = []
    for stamp, x, y, angle in SCENE:
        number = 1 + sum(piece.stamp == stamp for piece in pieces)
        pieces.append(Impression(f"{stamp}-{number}", stamp, x, y, angle))
    card = Card(title="Fernside post", format="a2", landscape=True, pieces=tuple(pieces))
    kept = {**pictures, **blades}
    return coloured(with_regions(Work(card, Stash(stamps)), kept)), kept
