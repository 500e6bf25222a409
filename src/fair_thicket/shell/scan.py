"""Sheets and dies: what is found on a scan, and how a border spans a length."""

import argparse
import sys
from typing import TYPE_CHECKING

from fair_thicket.model.errors import InputError
from fair_thicket.model.formats import SHEETS
from fair_thicket.model.units import Unit, parse_length
from fair_thicket.shell.output import print_json

if TYPE_CHECKING:
    from fair_thicket.intake.sorting import Way
    from fair_thicket.model.basics import Ring
    from fair_thicket.model.plan import SheetImage

ACROSS = ((0.0, 0.5), (1.0, 0.5))
"""Unless said otherwise a known length is what the photo shows from its left edge to its right."""


def sheet_size(words: str) -> tuple[float, float]:
    """Read the size of a sheet, mm: ``letter``, ``a4``, or a width and height such as ``216x279``."""
    if words.lower() in SHEETS:
        return SHEETS[words.lower()]
    parts = words.lower().replace("×", "x").split("x")
    if len(parts) != 2:
        raise InputError(f"“{words[:30]}” is not a sheet; say letter, a4, or a width and height like 216x279.")
    width, height = (parse_length(part, Unit.MM) for part in parts)
    return width, height


def way_of(options: argparse.Namespace) -> "Way":
    """Say how a page is to be read, by what was typed.

    Raises
    ------
    InputError
        When it is not said what tells a photo's size, or things are said that do not go together.
    """
    from fair_thicket.intake.sorting import Way

    size = sheet_size(options.size) if options.size else None
    length = parse_length(options.length, Unit.MM) if options.length else 0.0
    if not options.photo:
        if options.card or options.length:
            raise InputError("--card and --length tell the size of a photo; say --photo as well.")
        return Way("scan", dpi=options.dpi, sheet_mm=size)
    if options.dpi is not None:
        raise InputError("A photo has no resolution of its own; say --sheet, --card or --length instead of --dpi.")
    if sum((bool(size), bool(options.card), bool(length))) != 1:
        raise InputError("Say one thing that tells the photo's size: --sheet letter|a4|WxH, --card or --length MM.")
    if options.card:
        return Way("card")
    if size:
        return Way("photo", sheet_mm=size)
    return Way("length", ends=options.between or ACROSS, length_mm=length)


def ends_of(words: str) -> tuple[tuple[float, float], tuple[float, float]]:
    """Read two places in a photo, as shares of its width and height: ``0.1,0.5,0.9,0.5``."""
    x0, y0, x1, y1 = (float(part) for part in words.split(","))
    if not all(0 <= share <= 1 for share in (x0, y0, x1, y1)):
        raise argparse.ArgumentTypeError("say four shares from 0 to 1, such as 0.1,0.5,0.9,0.5")
    return (x0, y0), (x1, y1)


def scan(options: argparse.Namespace) -> int:
    """Find the stamped images on a scanned or photographed sheet."""
    from fair_thicket.intake.apart import PAGE_S, run_apart
    from fair_thicket.intake.sheet import doubt_of
    from fair_thicket.intake.sorting import read_sheet

    name = options.sheet.name
    sheet = run_apart(read_sheet, options.sheet, way_of(options), gap_mm=options.gap, name=name, seconds=PAGE_S)
    doubt = doubt_of(sheet)
    if doubt:
        print(f"fair-thicket: {doubt}", file=sys.stderr)
    if options.json:
        return print_json(
            {
                "dpi": sheet.dpi,
                "page": {"w_mm": sheet.width_mm, "h_mm": sheet.height_mm, "skew_deg": sheet.skew_deg},
                "images": [
                    {
                        "name": image.name,
                        "cx_mm": round(image.cx, 3),
                        "cy_mm": round(image.cy, 3),
                        "w_mm": round(image.width_mm, 3),
                        "h_mm": round(image.height_mm, 3),
                        "outline": _on_page(image, image.outline),
                        "pockets": [_on_page(image, ring) for ring in image.pockets],
                    }
                    for image in sheet.images
                ],
            }
        )
    turned = f", turned {sheet.skew_deg:.1f}°" if sheet.skew_from != "none" else ""
    print(
        f"{len(sheet.images)} images on a page of {sheet.width_mm:.1f} × {sheet.height_mm:.1f} mm "
        f"at {sheet.dpi:g} dpi{turned}"
    )
    for image in sheet.images:
        print(f"  {image.name:10} {image.width_mm:6.1f} × {image.height_mm:.1f} mm at {image.cx:.1f}, {image.cy:.1f}")
    return 0


def _on_page(image: "SheetImage", ring: "Ring") -> list[list[float]]:
    return [[round(x + image.cx, 3), round(y + image.cy, 3)] for x, y in ring]


def span(options: argparse.Namespace) -> int:
    """Span a length with cuts of a border die."""
    from fair_thicket.backdrop import Joining, span_area
    from fair_thicket.intake.apart import DRAWING_S, run_apart
    from fair_thicket.intake.drawing_file import read_drawing
    from fair_thicket.shape.outline import to_area

    length = parse_length(options.to, Unit.MM)
    overlap = parse_length(options.overlap, Unit.MM) if options.overlap else 6.0
    if not 0.5 <= length <= 5000:
        raise InputError(f"{length:g} mm is out of range; take 0.5 to 5000 mm.")
    if not 0.25 <= overlap <= 50:
        raise InputError(f"An overlap of {overlap:g} mm is out of range; take 0.25 to 50 mm.")
    sheet = run_apart(read_drawing, options.border, as_dies=True, name=options.border.name, seconds=DRAWING_S)
    largest = max(sheet.images, key=lambda image: image.width_mm)
    area = to_area(largest.outline, largest.pockets)
    joining = Joining(may_flip=options.flip, overlap_mm=overlap, keep_ends=options.frame)
    found = span_area(area, length, joining)
    if options.json:
        return print_json(
            {
                "pieces": [
                    {"from_mm": cut.from_mm, "to_mm": cut.to_mm, "flipped": cut.flipped, "at_mm": cut.at_mm}
                    for cut in found.cuts
                ],
                "joints": [
                    {"at_mm": joint.at_mm, "mismatch_mm": joint.mismatch_mm, "peek_mm2": joint.peek_mm2}
                    for joint in found.joints
                ],
                "optimal": found.optimal,
            }
        )
    again = f", repeats every {found.repeat_mm:.2f} mm" if found.repeat_mm else ""
    print(f"{len(found.cuts)} cut{'s' * (len(found.cuts) > 1)} of a die of {largest.width_mm:.1f} mm{again}")
    for number, cut in enumerate(found.cuts, 1):
        over = ", turned over" if cut.flipped else ""
        print(f"  cut {number}: {cut.from_mm:.2f} to {cut.to_mm:.2f} mm of the die{over}, laid at {cut.at_mm:.2f} mm")
    for joint in found.joints:
        side = "left" if joint.left_over else "right"
        print(
            f"  joint at {joint.at_mm:.2f} mm, the {side} cut on top: edges {joint.mismatch_mm:.2f} mm apart, "
            f"{joint.peek_mm2:.1f} mm² peek out"
        )
    return 0
