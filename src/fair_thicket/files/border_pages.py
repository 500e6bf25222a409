"""Borders to cut and join: every cut of a die life size, where to cut it, which way up it goes and where it is laid."""

import math
from itertools import pairwise

import shapely
from reportlab.lib.colors import HexColor
from shapely.affinity import scale, translate

from fair_thicket.files.page import INK, MARGIN_MM, RULE, SOFT, Sheets
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.pieces import Border
from fair_thicket.model.units import say_length
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.paper import reaches

FOOT_MM, TOP_MM, LABEL_MM = 22.0, 34.0, 11.0
GLUE = HexColor("#b06f0e")
KNIFE = "Trimmer or craft knife: metal ruler, cut away from the hand, cap the blade. The tool's own label comes first."


def draw_border_pages(sheets: Sheets, work: Work) -> None:
    """Print the cuts of every border that is joined, from the left."""
    names = name_pieces(work)
    y = math.inf
    for piece in work.card.pieces:
        if not isinstance(piece, Border) or len(piece.cuts) < 2 or not reaches(piece.cuts, piece.length_mm):
            continue
        stamp = work.stash.find(piece.stamp)
        die = translate(to_area(stamp.outline, stamp.pockets), stamp.width_mm / 2, 0)
        _, top, _, bottom = die.bounds
        for number in range(len(piece.cuts)):
            high = bottom - top
            if y + LABEL_MM + high > sheets.height_mm - FOOT_MM:
                sheets.start_page("Borders to cut and join", lying=stamp.width_mm > sheets.width_mm - 2 * MARGIN_MM)
                words = (
                    "Life size. Cut the die once for each, trim at the heavy lines; where it is striped it is glued."
                )
                sheets.text(MARGIN_MM, MARGIN_MM + 9, words, size=10, colour=SOFT)
                sheets.text(MARGIN_MM, MARGIN_MM + 14, KNIFE, size=9, colour=GLUE)
                y = TOP_MM
            _draw_cut(sheets, work, piece, number, die, y, names[piece.id])
            y += LABEL_MM + high


def _draw_cut(
    sheets: Sheets, work: Work, piece: Border, number: int, die: shapely.Geometry, y: float, name: str
) -> None:
    cut, unit = piece.cuts[number], work.card.unit
    _, top, right, bottom = shapely.bounds(die).tolist()
    shown = scale(die, -1, 1, origin=(right / 2, 0)) if cut.flipped else die
    low, high = (right - cut.to_mm, right - cut.from_mm) if cut.flipped else (cut.from_mm, cut.to_mm)
    over = ", turned over" if cut.flipped else ""
    where = f"its left end {say_length(max(0.0, cut.at_mm), unit)} from the border's"
    words = f"{name}, cut {number + 1} of {len(piece.cuts)}{over}"
    sheets.text(MARGIN_MM, y + 3.6, words, size=10, style="SemiBold")
    told = f"{say_length(cut.from_mm, unit)} to {say_length(cut.to_mm, unit)} of the die, {where}"
    sheets.text(MARGIN_MM, y + 7.6, told, size=8.5, colour=SOFT)
    shift = (MARGIN_MM, y + LABEL_MM - 1.5 - top)
    sheets.shape(translate(shown, *shift), width_pt=0.3, colour=RULE)
    stretch = shapely.intersection(shown, shapely.box(low, top - 1, high, bottom + 1))
    sheets.shape(translate(stretch, *shift), width_pt=1.3, colour=INK)
    for start, end in _under(piece, number):
        # places on the border, brought onto the drawn stretch
        left, right_end = low + start - cut.at_mm, low + end - cut.at_mm
        step = left
        while step < right_end:
            line = [(shift[0] + step, shift[1] + top), (shift[0] + step, shift[1] + bottom)]
            sheets.line(line, width_pt=0.3, colour=GLUE)
            step += 1.5


def _under(piece: Border, number: int) -> list[tuple[float, float]]:
    """Stretches of a cut that overlap its neighbours, mm from the border's left end."""
    ends = [(cut.at_mm, cut.at_mm + cut.to_mm - cut.from_mm) for cut in piece.cuts]
    zones = [(right[0], left[1]) for left, right in pairwise(ends)]
    return [zone for index, zone in enumerate(zones) if index in (number - 1, number)]
