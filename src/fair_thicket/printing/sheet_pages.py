"""The cut list, stamping sheets and plates life size, and how card stock is cut, cut by cut."""

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from reportlab.lib.colors import HexColor
from shapely.geometry.base import BaseGeometry

from fair_thicket.model.card import Work
from fair_thicket.model.units import Unit, say_length, say_size
from fair_thicket.packing.layouts import NestedSheet
from fair_thicket.packing.stock import CutSheet
from fair_thicket.printing.cut_file import laid
from fair_thicket.printing.mask_sheets import HONEY
from fair_thicket.printing.page import INK, MARGIN_MM, RULE, SOFT, Sheets, shorten, spread, width_of
from fair_thicket.sheets import SheetsPlan, plan_sheets
from fair_thicket.sheets.planning import CardStock, StampingSheets
from fair_thicket.sheets.things import Thing

Floats = NDArray[np.float64]
FOOT_MM, ROW_MM, NUMBER_MM, RADIUS_MM, HOW_MM = 24.0, 8.2, 2.8, 2.2, 105.0
NAME_PT, LEAST_PT, LINE_MM = 9.0, 5.0, 2.4
PALE = HexColor("#f2eee2")
MACHINE = (
    "Die-cutting machine: fingers off the rollers, dies away from children. Trimmer and knife: metal ruler, cut away "
    "from the hand, cap the blade. The tool's own label comes first."
)
PRESSES = "New stamps are pressed 3 times in place, textured paper 2, slow black ink once, clear ink twice."


def draw_sheet_pages(sheets: Sheets, work: Work, masks: Sequence[Thing] = (), plan: SheetsPlan | None = None) -> None:
    """Print how the sheets of a card are laid out; `work` is as files hold it, with the front in front.

    Parameters
    ----------
    masks : sequence of Thing
        To be cut as well; they are printed life size elsewhere, and here only listed.
    plan : SheetsPlan or None
        As it is shown; None for a quick one, of papers as usual.
    """
    plan = plan_sheets(work, seconds=0.0, go_on=sheets.go_on) if plan is None else plan
    sheets.ask_wanted()
    unit = work.card.unit
    _draw_list(sheets, plan, work, masks)
    for stamping in plan.stamping:
        for number, sheet in enumerate(stamping.nesting.sheets, 1):
            _draw_stamping(sheets, plan, stamping, number, sheet, unit)
    for number, one in enumerate(plan.passes.passes, 1):
        _draw_pass(sheets, plan, work, number, one)
    _draw_cuts(sheets, plan, unit)


def _draw_list(sheets: Sheets, plan: SheetsPlan, work: Work, masks: Sequence[Thing]) -> None:
    """Print what there is to make, with boxes to tick, and the sheets that are wanted."""
    y = float("inf")
    cards = work.card.sheets.cards
    for one in (*plan.things, *masks):
        if y > sheets.height_mm - FOOT_MM - ROW_MM:
            sheets.start_page("What to make")
            words = f"For {cards} cards. {MACHINE}" if cards > 1 else MACHINE
            width = sheets.width_mm - 2 * MARGIN_MM
            y = MARGIN_MM + 8 + sheets.paragraph(MARGIN_MM, MARGIN_MM + 7, words, width_mm=width, colour=SOFT) + 2
        box = [(MARGIN_MM, y), (MARGIN_MM + 4, y), (MARGIN_MM + 4, y + 4), (MARGIN_MM, y + 4)]
        sheets.line(box, closed=True, width_pt=0.8)
        swatch = [(x + 7, top) for x, top in box]
        sheets.line(swatch, closed=True, width_pt=0.4, colour=RULE, fill=HexColor(one.paper))
        size = say_size(*one.size_mm, work.card.unit)
        sheets.text(MARGIN_MM + 14, y + 3.4, f"{one.copies} ×", size=10, style="SemiBold")
        sheets.text(MARGIN_MM + 25, y + 3.4, f"{one.name}, {size}", size=10)
        told = ", ".join(word for word in (f"{one.what} with {_with(one)}", one.note) if word)
        width = sheets.width_mm - 2 * MARGIN_MM - HOW_MM
        deep = sheets.paragraph(MARGIN_MM + HOW_MM, y + 0.2, told, width_mm=width, size=8.5, colour=SOFT)
        y += max(ROW_MM, deep + 2)
    for need in plan.needs:
        if y > sheets.height_mm - FOOT_MM - ROW_MM:
            sheets.start_page("What to make")
            y = MARGIN_MM + 10
        left = "" if need.stock.left is None else f"; {need.stock.left} left"
        size = say_size(*need.stock.sheet_mm, work.card.unit)
        words = f"{_count(need.wanted, 'sheet')} of {need.stock.name}, {size}{left}"
        sheets.text(MARGIN_MM, y + 4, words, size=10, style="SemiBold")
        y += ROW_MM * 0.8


def _with(thing: Thing) -> str:
    return {"die": "its die", "scissors": "scissors", "trimmer": "the trimmer", "knife": "a knife"}[thing.tool]


def _start(sheets: Sheets, heading: str, words: str, *, wide_mm: float = 0.0) -> float:
    """Begin a page with some words below its heading; gives where they end."""
    sheets.start_page(heading, wide_mm=wide_mm)
    width = sheets.width_mm - 2 * MARGIN_MM
    return MARGIN_MM + 6 + sheets.paragraph(MARGIN_MM, MARGIN_MM + 6, words, width_mm=width, size=9, colour=SOFT) + 3


def _draw_stamping(
    sheets: Sheets, plan: SheetsPlan, stamping: StampingSheets, number: int, sheet: NestedSheet, unit: Unit
) -> None:
    """Print a stamping sheet, upright and life size where it fits the page, every image with its name and placing."""
    placings = stamping.placings[number - 1]
    of = {index: place for place, one in enumerate(placings, 1) for index in (*one.first, *one.turned)}
    width, height = stamping.sheet_mm
    heading = f"Stamping sheet {number}: {stamping.stock.name}"
    sheets.start_page(heading)
    free_x = sheets.width_mm if height <= sheets.width_mm + 0.1 else sheets.width_mm - 2 * MARGIN_MM
    free_y = sheets.height_mm - MARGIN_MM - 26 - FOOT_MM
    reach = min(width, sheet.used_mm + 22)
    scale = min(1.0, (free_x + 0.1) / height, free_y / reach)
    said = "Life size, turned upright" if scale == 1 else f"Drawn at {scale:.0%}, turned upright"
    placed = "one placing" if len(placings) == 1 else f"{len(placings)} placings"
    words = (
        f"{said}; the sheet is {say_size(width, height, unit)}. {_count(len(sheet.spots), 'image')} in {placed}; the "
        f"number tells in which. {PRESSES}"
    )
    sheets.paragraph(MARGIN_MM, MARGIN_MM + 6, words, width_mm=sheets.width_mm - 2 * MARGIN_MM, size=9, colour=SOFT)
    left = (sheets.width_mm - height * scale) / 2
    view = _View(sheets, (left, MARGIN_MM + 22), stamping.sheet_mm, scale, is_upright=True)
    view.draw(shapely.box(0, 0, min(width, free_y / scale), height), width_pt=0.5, colour=RULE)
    for index, spot in enumerate(sheet.spots):
        thing = plan.find(spot.id)
        area = laid(thing.area, spot)
        view.draw(area, width_pt=0.8)
        view.name(area, f"{of.get(index, 1)}  {thing.name}")


def _count(number: int, word: str) -> str:
    return f"{number} {word}{'s' * (number != 1)}"


def _draw_pass(sheets: Sheets, plan: SheetsPlan, work: Work, number: int, one: NestedSheet) -> None:
    """Print a plate with its dies, life size where it fits."""
    rules, unit = work.card.sheets, work.card.unit
    gap = say_length(rules.die_gap_mm, unit)
    words = f"{_count(len(one.spots), 'die')} at least {gap} apart, held with low-tack tape. {MACHINE}"
    top = _start(sheets, f"Pass {number} of the machine", words)
    room = (sheets.width_mm - 2 * MARGIN_MM, sheets.height_mm - top - FOOT_MM)
    scale = min(1.0, room[0] / rules.plate_mm[0], room[1] / rules.plate_mm[1])
    view = _View(sheets, (MARGIN_MM, top), rules.plate_mm, scale)
    view.draw(shapely.box(0, 0, *rules.plate_mm), width_pt=0.6, colour=RULE)
    for spot in one.spots:
        thing = plan.find(spot.id)
        area = laid(plan.dies[spot.id], spot)
        view.draw(area, width_pt=1.2)
        view.name(area, thing.name)


def _draw_cuts(sheets: Sheets, plan: SheetsPlan, unit: Unit) -> None:
    """Print how every sheet of card stock is cut, four a page: the cuts numbered in the order of the trimmer."""
    every = [(one, number, cut) for one in plan.stock for number, cut in enumerate(one.plan.sheets, 1)]
    for index, (stock, number, cut) in enumerate(every):
        if index % 4 == 0:
            words = "Each cut goes right across what is in hand, in the order of the numbers; not life size."
            top = _start(sheets, "How card stock is cut", words)
            cell = ((sheets.width_mm - 2 * MARGIN_MM) / 2, (sheets.height_mm - top - FOOT_MM) / 2)
        corner = (MARGIN_MM + index % 2 * cell[0], top + index % 4 // 2 * cell[1])
        _draw_cut(sheets, plan, (stock, number, cut), (corner, cell), unit)


def _draw_cut(
    sheets: Sheets,
    plan: SheetsPlan,
    which: tuple[CardStock, int, CutSheet],
    where: tuple[tuple[float, float], tuple[float, float]],
    unit: Unit,
) -> None:
    stock, number, cut = which
    (left, top), cell = where
    paper = stock.stock_of(cut)
    size = paper.sheet_mm
    offcut = f"; keep {say_size(*cut.offcut_mm, unit)}" if min(cut.offcut_mm) > 0 else ""
    sheets.text(left, top + 3, f"{paper.name}, sheet {number}", size=10, style="SemiBold")
    told = f"{say_size(*size, unit)}, {_count(len(cut.cuts), 'cut')}{offcut}"
    sheets.text(left, top + 7.5, told, size=8.5, colour=SOFT)
    scale = min((cell[0] - 10) / size[0], (cell[1] - 18) / size[1])
    view = _View(sheets, (left, top + 11), size, scale)
    view.draw(shapely.box(0, 0, *size), width_pt=0.6, colour=RULE)
    for piece in cut.pieces:
        thing = plan.find(piece.id)
        area = shapely.box(piece.x_mm, piece.y_mm, piece.x_mm + piece.w_mm, piece.y_mm + piece.h_mm)
        view.draw(area, width_pt=0.4, fill=PALE)
        view.name(area, f"{thing.name}, {say_size(piece.w_mm, piece.h_mm, unit)}")
    view.strokes([np.array([(one.x1, one.y1), (one.x2, one.y2)]) for one in cut.cuts])


class _View:
    """A sheet drawn on a page: by its corner and its scale; upright where its width runs down the page."""

    def __init__(
        self,
        sheets: Sheets,
        corner: tuple[float, float],
        size_mm: tuple[float, float],
        scale: float,
        *,
        is_upright: bool = False,
    ) -> None:
        self._sheets, self._corner, self._size, self._scale = sheets, corner, size_mm, scale
        self._is_upright = is_upright

    def _put(self, points: Floats) -> Floats:
        placed = points[:, ::-1] * (-1, 1) + (self._size[1], 0) if self._is_upright else points
        made: Floats = placed * self._scale + self._corner
        return made

    def draw(self, area: shapely.Geometry, **how: object) -> None:
        """Draw an area."""
        self._sheets.shape(shapely.transform(area, self._put), **how)

    def name(self, area: BaseGeometry, words: str) -> None:
        """Write words within an area, as large as there is room for."""
        placed = shapely.transform(area, self._put)
        spot = placed.centroid if placed.covers(placed.centroid) else placed.representative_point()
        left, top, right, bottom = placed.bounds
        size = min(NAME_PT, NAME_PT * (right - left) * 0.94 / width_of(words, NAME_PT))
        lines = [words]
        if size < LEAST_PT:  # a small thing: its name, and its size below it where there is room
            lines = words.rsplit(", ", 1)[: 2 if bottom - top >= 2 * LINE_MM else 1]
        for row, line in enumerate(lines):
            told = shorten(line, right - left, LEAST_PT)
            size = min(NAME_PT, max(LEAST_PT, NAME_PT * (right - left) * 0.94 / width_of(told, NAME_PT)))
            half = width_of(told, size) / 2
            x = max(left + half, min(spot.x, right - half))
            self._sheets.text(x, spot.y + 1 + (row - (len(lines) - 1) / 2) * LINE_MM, told, size=size, centred=True)

    def strokes(self, lines: Sequence[Floats]) -> None:
        """Draw cuts, each with its number beyond its end, where no name of what it cuts off is."""
        ends = []
        for line in lines:
            points = self._put(line)
            self._sheets.line(points.tolist(), width_pt=1.4, colour=HONEY, dashes=(4, 2))
            along = points[1] - points[0]
            x, y = (points[1] + along * (NUMBER_MM / max(float(np.hypot(*along)), 1e-6))).tolist()
            ends.append((x, y))
        for number, (x, y) in enumerate(spread(ends, 2 * RADIUS_MM), 1):
            self._sheets.shape(
                shapely.Point(x, y).buffer(RADIUS_MM), width_pt=0.8, colour=INK, fill=HexColor("#ffffff")
            )
            self._sheets.text(x, y + 1.0, str(number), size=7.5, style="Bold", centred=True)
