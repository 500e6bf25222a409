"""Cutting guides life size: what is trimmed by what it lies on, with the line to cut."""

from collections.abc import Mapping

import numpy as np
import shapely
from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm

from fair_thicket.model.card import Work
from fair_thicket.printing.mask_sheets import HONEY, faint_picture
from fair_thicket.printing.page import INK, MARGIN_MM, RULE, SOFT, Sheets
from fair_thicket.sheets.trims import Trim, list_trims

GAP_MM, WORDS_MM, FOOT_MM = 10.0, 12.0, 24.0
LOST = HexColor("#d9d3c4")
LEAST_MM = 48.0
"""A guide is given so much width at least, for its words."""


def draw_trim_pages(sheets: Sheets, work: Work, pictures: Mapping[str, bytes]) -> None:
    """Print a guide for everything that is trimmed, life size; nothing where nothing is."""
    x, y, deep = MARGIN_MM, float("inf"), 0.0
    for trim in list_trims(work):
        left, top, right, bottom = trim.whole.bounds
        wide, high = max(right - left, LEAST_MM), bottom - top + WORDS_MM
        if x + wide > sheets.width_mm - MARGIN_MM and x > MARGIN_MM:
            x, y, deep = MARGIN_MM, y + deep + GAP_MM, 0.0
        if y + high > sheets.height_mm - FOOT_MM or sheets.is_too_narrow(wide):
            sheets.start_page("Trim last", wide_mm=wide)
            words = (
                "Life size. Lay the piece dry on the card first and see that nothing more is lost; then cut along the "
                "heavy line. What is shaded falls off."
            )
            width = sheets.width_mm - 2 * MARGIN_MM
            x, deep = MARGIN_MM, 0.0
            y = MARGIN_MM + 8 + sheets.paragraph(MARGIN_MM, MARGIN_MM + 7, words, width_mm=width, colour=SOFT) + 4
        _draw_trim(sheets, work, pictures, trim, (x, y))
        x, deep = x + wide + GAP_MM, max(deep, high)


def _draw_trim(
    sheets: Sheets, work: Work, pictures: Mapping[str, bytes], trim: Trim, corner: tuple[float, float]
) -> None:
    """Print one guide: its words, its picture, its outline and its line."""
    x, y = corner
    sheets.text(x, y + 3.4, trim.name[:1].upper() + trim.name[1:], size=10, style="SemiBold")
    how = "one straight cut" if trim.is_straight else "cut along the line"
    sheets.text(x, y + 7.6, f"{how}, at the {trim.along}", size=8.5, colour=SOFT)
    left, top, _, _ = trim.whole.bounds
    off = np.array([x - left, y + WORDS_MM - top])
    lost = shapely.transform(shapely.difference(trim.whole, trim.kept), lambda points: points + off)
    sheets.shape(lost, width_pt=0.3, colour=LOST, fill=LOST)
    stamp = work.stash.find(trim.stamp) if trim.stamp else None
    data = pictures.get(stamp.picture) if stamp is not None else None
    if stamp is not None and data:
        at = (off[0] - stamp.width_mm / 2, off[1] - stamp.height_mm / 2)
        sheets.canvas.drawImage(
            faint_picture(data, 0.5), at[0] * mm, (sheets.height_mm - at[1] - stamp.height_mm) * mm,
            stamp.width_mm * mm, stamp.height_mm * mm, mask="auto",
        )  # fmt: skip
    sheets.shape(shapely.transform(trim.whole, lambda points: points + off), width_pt=0.5, colour=RULE)
    for part in shapely.get_parts(trim.line):
        line = shapely.get_coordinates(part) + off
        sheets.line(line.tolist(), width_pt=2.2, colour=HONEY)
        sheets.line(line.tolist(), width_pt=0.7, colour=INK, dashes=(4, 2))
