"""Borders to cut and join: every cut of a die life size, where to cut it, which way up it goes and where it is laid."""

import math
from itertools import pairwise

import shapely
from reportlab.lib.colors import HexColor
from shapely.affinity import scale, translate

from fair_thicket.laid.hidden import hiders_of, spare_foot
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.pieces import Border, Cutout
from fair_thicket.model.spans import Cut
from fair_thicket.model.stash import DRAWN_TAG, Stamp
from fair_thicket.model.units import MM_PER_INCH, Unit, say_length
from fair_thicket.printing.page import INK, MARGIN_MM, RULE, SOFT, Sheets
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.paper import reaches

FOOT_MM, TOP_MM, LABEL_MM = 22.0, 34.0, 11.0
LEAST_SPARE_MM = 5.0
"""Less is not worth a cut."""
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
                words = (
                    "Life size. Cut the die once for each, trim at the heavy lines; where it is striped it is glued."
                )
                _start(sheets, "Borders to cut and join", words, wide_mm=stamp.width_mm)
                y = TOP_MM
            _draw_cut(sheets, work, piece, number, die, y, names[piece.id])
            y += LABEL_MM + high


def _start(sheets: Sheets, heading: str, words: str, *, wide_mm: float) -> None:
    """Begin a page of things to cut, lying where what is cut is wide, with what to do and the usual caution."""
    sheets.start_page(heading, wide_mm=wide_mm)
    sheets.text(MARGIN_MM, MARGIN_MM + 9, words, size=10, colour=SOFT)
    sheets.text(MARGIN_MM, MARGIN_MM + 14, KNIFE, size=9, colour=GLUE)


def draw_frame_pages(sheets: Sheets, work: Work) -> None:
    """Print the pieces of every frame that is made wider or higher: a page each, trimmed at the heavy lines."""
    names = name_pieces(work)
    for piece in work.card.pieces:
        if isinstance(piece, Cutout) and (piece.across or piece.down):
            stamp = work.stash.find(piece.stamp)
            left, top, right, bottom = to_area(stamp.outline).bounds
            across = piece.across or (Cut(0.0, right - left, 0.0),)
            down = piece.down or (Cut(0.0, bottom - top, 0.0),)
            pairs = [(one, other) for other in down for one in across]
            for number, pair in enumerate(pairs, 1):
                _draw_frame_piece(sheets, work, stamp, pair, f"{names[piece.id]}, piece {number} of {len(pairs)}")


def _draw_frame_piece(sheets: Sheets, work: Work, stamp: Stamp, pair: tuple[Cut, Cut], name: str) -> None:
    (across, down), unit = pair, work.card.unit
    area = to_area(stamp.outline, stamp.pockets)
    left, top, right, _ = area.bounds
    words = "Life size. Cut the die once for each piece, trim at the heavy lines."
    _start(sheets, "Frames to cut and join", words, wide_mm=right - left)
    sheets.text(MARGIN_MM, TOP_MM + 3.6, name, size=10, style="SemiBold")
    stretches = [f"{say_length(one.from_mm, unit)} to {say_length(one.to_mm, unit)}" for one in pair]
    x, y = (say_length(max(0.0, one.at_mm), unit) for one in pair)
    told = f"{stretches[0]} from the left, {stretches[1]} from the top; its corner at {x} and {y}"
    sheets.text(MARGIN_MM, TOP_MM + 7.6, told, size=8.5, colour=SOFT)
    shift = (MARGIN_MM - left, TOP_MM + LABEL_MM - top)
    sheets.shape(translate(area, *shift), width_pt=0.3, colour=RULE)
    box = shapely.box(left + across.from_mm, top + down.from_mm, left + across.to_mm, top + down.to_mm)
    sheets.shape(translate(shapely.intersection(area, box), *shift), width_pt=1.3, colour=INK)


def draw_hill_pages(sheets: Sheets, work: Work) -> None:
    """Print every edge that was drawn freehand as a guide to cut along, with its height at every mark."""
    names, drawn = name_pieces(work), set()
    for piece in work.card.pieces:
        if not isinstance(piece, Border) or piece.stamp in drawn:
            continue
        stamp = work.stash.find(piece.stamp)
        if DRAWN_TAG in stamp.tags:
            drawn.add(piece.stamp)
            _draw_guide(sheets, work, stamp, names[piece.id])


def _draw_guide(sheets: Sheets, work: Work, stamp: Stamp, name: str) -> None:
    """Draw a guide: the edge life size, and how high it stands above its foot at even steps from its left end."""
    unit = work.card.unit
    area = to_area(stamp.outline)
    left, top, right, bottom = area.bounds
    words = "Life size. Lay card under this sheet and cut along the heavy line; heights are measured from the foot."
    _start(sheets, "Hills to cut by hand", words, wide_mm=right - left)
    sheets.text(MARGIN_MM, TOP_MM + 3.6, name, size=10, style="SemiBold")
    shift = (MARGIN_MM - left, TOP_MM + LABEL_MM - top)
    sheets.shape(translate(area, *shift), width_pt=1.3, colour=INK)
    step = MM_PER_INCH if unit is Unit.INCH else 20.0
    at, foot = left, shift[1] + bottom
    while at <= right + 0.01:
        column = shapely.intersection(area, shapely.LineString([(min(at, right - 0.01), top - 1), (at, bottom + 1)]))
        high = float(column.length) if not column.is_empty else bottom - top
        x = shift[0] + at
        sheets.line([(x, foot - high), (x, foot + 3)], width_pt=0.3, colour=RULE)
        sheets.text(x + 0.6, foot + 5.4, say_length(high, unit), size=7.5, colour=SOFT)
        sheets.text(x + 0.6, foot + 8.8, f"at {say_length(at - left, unit)}", size=7.5, colour=SOFT)
        at += step


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
    behind = _behind(work, piece, number)
    told = f"{say_length(cut.from_mm, unit)} to {say_length(cut.to_mm, unit)} of the die, {where}{behind}"
    sheets.text(MARGIN_MM, y + 7.6, told, size=8.5, colour=SOFT)
    shift = (MARGIN_MM, y + LABEL_MM - 1.5 - top)
    sheets.shape(translate(shown, *shift), width_pt=0.3, colour=RULE)
    stretch = shapely.intersection(shown, shapely.box(low, top - 1, high, bottom + 1))
    sheets.shape(translate(stretch, *shift), width_pt=1.3, colour=INK)
    spare = spare_foot(work, piece)
    if spare > LEAST_SPARE_MM:
        y_foot = shift[1] + bottom - spare
        sheets.line([(shift[0] + low, y_foot), (shift[0] + high, y_foot)], width_pt=0.5, colour=GLUE, dashes=(3, 2))
        told = f"{say_length(spare, unit)} below the dashed line stay hidden and may be cut off"
        sheets.text(shift[0] + low + 2, y_foot + 3.2, told, size=7.5, colour=GLUE)
    for start, end in _under(piece, number):
        # places on the border, brought onto the drawn stretch
        left, right_end = low + start - cut.at_mm, low + end - cut.at_mm
        step = left
        while step < right_end:
            line = [(shift[0] + step, shift[1] + top), (shift[0] + step, shift[1] + bottom)]
            sheets.line(line, width_pt=0.3, colour=GLUE)
            step += 1.5


def _behind(work: Work, piece: Border, number: int) -> str:
    """Say what hides the joint at a cut's right end."""
    if number + 1 >= len(piece.cuts):
        return ""
    cut, after = piece.cuts[number : number + 2]
    middle = (after.at_mm + cut.at_mm + cut.to_mm - cut.from_mm) / 2
    names = name_pieces(work)
    hiders = [names[key] for key in hiders_of(work, piece, middle)]
    return f"; its right joint lies behind the {' and the '.join(hiders)}" if hiders else ""


def _under(piece: Border, number: int) -> list[tuple[float, float]]:
    """Stretches of a cut that overlap its neighbours, mm from the border's left end."""
    ends = [(cut.at_mm, cut.at_mm + cut.to_mm - cut.from_mm) for cut in piece.cuts]
    zones = [(right[0], left[1]) for left, right in pairwise(ends)]
    return [zone for index, zone in enumerate(zones) if index in (number - 1, number)]
