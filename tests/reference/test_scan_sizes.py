"""Sizes from scans against drawings whose size is known.

The drawings are our own demo sheet, and line drawings of an open icon set that we did not draw: Phosphor Icons 2
(MIT licence), taken from the package py-phosphor-icons. True sizes are read off each drawing rendered by itself at
600 dpi by resvg, the library that also prints the sheet; everything between is the program's own.
"""

from importlib import resources

import pytest

from fair_thicket.demo import SHEET_MM, drawings
from fair_thicket.intake import scan_sheet
from fair_thicket.model.plan import Sheet
from fair_thicket.simulators.scanner import Drawing, Glass, Printed, lay_out, scan_page
from making import EVERY

ICONS = [
    "bug-beetle", "butterfly", "fish", "flower-lotus", "horse", "house-line", "leaf", "mailbox", "envelope-simple",
    "moon-stars", "potted-plant", "rabbit", "tree-evergreen", "umbrella", "sailboat", "lamp", "gift", "cloud-rain",
    "wifi-high", "paw-print", "bicycle", "acorn",
]  # fmt: skip


def open_drawings() -> list[Drawing]:
    folder = resources.files("py_phosphor_icons") / "svgs" / "flat" / "regular"
    made = []
    for number, name in enumerate(ICONS):
        svg = (folder / f"{name}.svg").read_text().replace("currentColor", "#000000")
        made.append(Drawing(name, svg, width_mm=24.0 + number % 4 * 6.0))
    return made


def hold(sheet: Sheet, places: list[Printed]) -> None:
    """Every drawing found once, nothing else, sizes within 0.3 mm."""
    assert len(sheet.images) == len(places)
    for place in places:
        middle = (place.left + place.width_mm / 2, place.top + place.height_mm / 2)
        found = min(sheet.images, key=lambda one: abs(one.cx - middle[0]) + abs(one.cy - middle[1]))
        assert (found.cx, found.cy) == pytest.approx(middle, abs=0.5), place.name
        assert found.width_mm == pytest.approx(place.width_mm, abs=0.3), place.name
        assert found.height_mm == pytest.approx(place.height_mm, abs=0.3), place.name


@pytest.mark.parametrize(
    ("dpi", "skew"), [(150, 0.0), (150, 3.0), (300, 0.0), (300, 3.0), (600, 3.0)][:: 1 if EVERY == 1 else 3]
)
def test_every_demo_drawing_is_found_at_its_size(dpi: float, skew: float) -> None:
    made = drawings()
    places = lay_out(made, SHEET_MM)
    hold(scan_sheet(scan_page(made, places, SHEET_MM, Glass(dpi=dpi, skew_deg=skew, seed=int(dpi))), dpi=dpi), places)


@pytest.mark.parametrize(("dpi", "skew"), [(150, 3.0), (300, -3.0), (600, 3.0)][: 3 if EVERY == 1 else 2])
def test_line_drawings_that_we_did_not_draw_are_found_at_their_size(dpi: float, skew: float) -> None:
    made = open_drawings()
    places = lay_out(made, SHEET_MM, gap_mm=8.0)
    hold(scan_sheet(scan_page(made, places, SHEET_MM, Glass(dpi=dpi, skew_deg=skew, seed=5)), dpi=dpi), places)
