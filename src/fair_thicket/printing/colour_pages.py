"""Images to colour, life size in grey with their parts numbered and the runs beside them; and the list by marker."""

from collections.abc import Mapping, Sequence

import shapely
from reportlab.lib.colors import HexColor, white
from reportlab.lib.units import mm

from fair_thicket.colour.listing import Line, caution_of, list_colouring, say_line, say_spares
from fair_thicket.edits.colouring import parts_of
from fair_thicket.edits.images import Image, coloured_images
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.colouring import ColouredPart, Shade
from fair_thicket.model.stash import Stamp
from fair_thicket.printing.mask_sheets import faint_picture
from fair_thicket.printing.page import INK, MARGIN_MM, RULE, SOFT, Sheets
from fair_thicket.shape.outline import to_area

SWATCH_MM, ROW_MM, GAP_MM = 6.0, 7.2, 8.0
KEY_MM = 92.0
"""Width of the runs beside an image."""
FOOT_MM = 24.0
LEAST_MM2 = 1.0
Coloured = tuple[Image, list[str]]


def draw_colour_pages(sheets: Sheets, work: Work, pictures: Mapping[str, bytes]) -> None:
    """Print what is to be coloured on a side of a card; nothing where nothing is."""
    found = list_colouring(work)
    if not found.lines:
        return
    _draw_images(sheets, work, pictures)
    _draw_list(sheets, work, found.lines, found.minutes)


def _distinct(work: Work) -> list[Coloured]:
    """Images to colour, those that are coloured alike together, with their names."""
    names = name_pieces(work)
    found: dict[tuple[str, tuple[ColouredPart, ...]], Coloured] = {}
    for image in coloured_images(work):
        found.setdefault((image.stamp, image.colouring), (image, []))[1].append(names[image.key])
    return list(found.values())


def _draw_images(sheets: Sheets, work: Work, pictures: Mapping[str, bytes]) -> None:
    y = float("inf")
    for image, names in _distinct(work):
        stamp = work.stash.find(image.stamp)
        numbered = list(enumerate(parts_of(stamp), 1))
        rows = [(number, part) for number, regions in numbered if (part := _coloured(image, regions)) is not None]
        columns = 2 if stamp.width_mm + 2 * KEY_MM + 3 * GAP_MM <= sheets.width_mm - 2 * MARGIN_MM else 1
        deep = max(stamp.height_mm, -(-len(rows) // columns) * ROW_MM) + 9
        if y + deep > sheets.height_mm - FOOT_MM:
            sheets.start_page("Images to colour", wide_mm=0.0)
            words = "Life size. Each part has a number; beside it its run from dark to light, the dark side framed."
            sheets.text(MARGIN_MM, MARGIN_MM + 9, words, size=10, colour=SOFT)
            y = MARGIN_MM + 16
        told = names[0] if len(names) == 1 else f"{names[0]} and {len(names) - 1} more alike"
        sheets.text(MARGIN_MM, y + 3, told[:1].upper() + told[1:], size=10.5, style="SemiBold")
        _draw_image(sheets, stamp, pictures, (MARGIN_MM, y + 6), numbered)
        left = MARGIN_MM + stamp.width_mm + GAP_MM
        for index, (number, part) in enumerate(rows):
            column, row = index % columns, index // columns
            _draw_run(sheets, (left + column * KEY_MM, y + 6 + row * ROW_MM), number, part)
        y += deep + 4


def _coloured(image: Image, regions: Sequence[int]) -> ColouredPart | None:
    return next((part for part in image.colouring if set(part.regions) & set(regions)), None)


def _draw_image(
    sheets: Sheets,
    stamp: Stamp,
    pictures: Mapping[str, bytes],
    corner: tuple[float, float],
    numbered: Sequence[tuple[int, Sequence[int]]],
) -> None:
    """Draw an image in grey, with the number of its part in every region that has room for it."""
    data = pictures.get(stamp.picture)
    if data:
        sheets.canvas.drawImage(
            faint_picture(data, 0.5), corner[0] * mm, (sheets.height_mm - corner[1] - stamp.height_mm) * mm,
            stamp.width_mm * mm, stamp.height_mm * mm, mask="auto",
        )  # fmt: skip
    areas = {region.id: to_area(region.ring, region.holes) for region in stamp.regions}
    for number, regions in numbered:
        for region in regions:
            area = areas[region]
            if area.area < LEAST_MM2:
                continue
            spot = shapely.maximum_inscribed_circle(area, tolerance=0.1)
            x, y = shapely.get_coordinates(spot)[0].tolist()
            size = min(8.0, max(4.5, spot.length * 2.4))
            at = (corner[0] + stamp.width_mm / 2 + x, corner[1] + stamp.height_mm / 2 + y + size * 0.12)
            sheets.text(*at, str(number), size=size, style="Bold", centred=True)


def _draw_run(sheets: Sheets, at: tuple[float, float], number: int, part: ColouredPart) -> None:
    """Draw a part's number, its shades and their names."""
    x, y = at
    sheets.text(x, y + 4.4, f"{number}", size=9, style="Bold")
    x += 6
    shades = [shade for shade in (part.undertone, *part.shades, part.dots) if shade is not None]
    if not shades:
        sheets.text(x, y + 4.4, "stays white", size=9, colour=SOFT)
        return
    for shade in shades:
        _draw_swatch(sheets, (x, y), shade, is_dark=bool(part.shades) and shade == part.shades[0])
        x += SWATCH_MM + 0.8
    extra = "undertone first; " if part.undertone else ""
    extra += "dots last; " if part.dots else ""
    told = extra + ", ".join(shade.name or shade.colour for shade in shades)
    sheets.text(x + 1, y + 4.4, told, size=8.5)


def _draw_swatch(sheets: Sheets, at: tuple[float, float], shade: Shade, *, is_dark: bool) -> None:
    x, y = at
    corners = [(x, y), (x + SWATCH_MM, y), (x + SWATCH_MM, y + SWATCH_MM), (x, y + SWATCH_MM)]
    edge = {"width_pt": 1.4, "colour": INK} if is_dark else {"width_pt": 0.4, "colour": RULE}
    sheets.line(corners, closed=True, fill=HexColor(shade.colour), **edge)


def _draw_list(sheets: Sheets, work: Work, lines: Sequence[Line], minutes: float) -> None:
    """Print the list by marker, with boxes to tick."""
    y = float("inf")
    for number, line in enumerate(lines, 1):
        if y > sheets.height_mm - FOOT_MM - ROW_MM:
            sheets.start_page("Colour by marker")
            told = [f"Each marker is out once, on every part that takes it. About {minutes:.0f} minutes."]
            words = " ".join(one for one in (*told, say_spares(work), caution_of(work)) if one)
            width = sheets.width_mm - 2 * MARGIN_MM
            y = MARGIN_MM + 8 + sheets.paragraph(MARGIN_MM, MARGIN_MM + 7, words, width_mm=width, colour=SOFT) + 2
        box = [(MARGIN_MM, y), (MARGIN_MM + 4, y), (MARGIN_MM + 4, y + 4), (MARGIN_MM, y + 4)]
        sheets.line(box, closed=True, width_pt=0.8, fill=white)
        _draw_swatch(sheets, (MARGIN_MM + 7, y - 1), line.shade, is_dark=False)
        words = f"{number}.  {say_line(work, line)}"
        width = sheets.width_mm - 2 * MARGIN_MM - 18
        y += max(ROW_MM, sheets.paragraph(MARGIN_MM + 16, y - 0.6, words, width_mm=width) + 1.6)
