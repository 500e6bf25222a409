"""What the station shows of a plan: every sheet, plate and piece of card stock as a picture with its words."""

from typing import NamedTuple

import shapely

from fair_thicket.desk.sheets.sheet_view import SheetPicture, SheetPiece
from fair_thicket.model.card import Work
from fair_thicket.model.units import Unit, say_length, say_size
from fair_thicket.printing.cut_file import laid
from fair_thicket.shape.outline import only_areas
from fair_thicket.sheets import SheetsPlan
from fair_thicket.sheets.laying import DIES_APART_MM
from fair_thicket.sheets.planning import CardStock, Need, StampingSheets


class Page(NamedTuple):
    """One sheet: its heading, what is to be said of it, and its picture."""

    heading: str
    words: str
    picture: SheetPicture


def stamping_pages(work: Work, plan: SheetsPlan) -> list[Page]:
    """Return the sheets that images are stamped on."""
    pages = []
    for one in plan.stamping:
        for number, sheet in enumerate(one.nesting.sheets):
            placings = one.placings[number]
            of = {index: place for place, told in enumerate(placings, 1) for index in (*told.first, *told.turned)}
            pieces = []
            for index, spot in enumerate(sheet.spots):
                thing = plan.find(spot.id)
                place = (spot.x_mm, spot.y_mm, spot.angle_deg)
                stamp = work.stash.find(thing.stamp)
                number_told = str(of.get(index, 1)) if len(placings) > 1 else ""
                area = laid(thing.area, spot)
                pieces.append(SheetPiece(thing.name, area, thing.paper, number_told, stamp, place))
            rules = work.card.sheets
            by_die = all(plan.find(spot.id).tool == "die" for spot in sheet.spots)
            picture = SheetPicture(
                one.sheet_mm,
                pieces,
                free_mm=rules.hold_mm,
                gap_mm=DIES_APART_MM if by_die else rules.scissors_mm,
                is_movable=True,
            )
            pages.append(Page(_heading(one, number), _tell_stamping(one, number, work.card.unit), picture))
    return pages


def _heading(one: StampingSheets, number: int) -> str:
    count = len(one.nesting.sheets)
    return f"{one.stock.name}, sheet {number + 1} of {count}"


def _tell_stamping(one: StampingSheets, number: int, unit: Unit) -> str:
    sheet, count = one.nesting.sheets[number], len(one.nesting.sheets)
    proof = "none fewer will do" if count == one.nesting.bound else f"at least {one.nesting.bound} are wanted"
    placings = one.placings[number]
    turned = sum(len(told.turned) for told in placings)
    placed = "one placing" if len(placings) == 1 else f"{len(placings)} placings, numbered"
    halves = f", {turned} of the images by a half turn" if turned else ""
    left = one.sheet_mm[0] - sheet.used_mm
    proof += "; as moved by hand" if one.is_by_hand else ""
    return (
        f"{count} sheet{'s' * (count != 1)}, {proof}. {len(sheet.spots)} images in {placed}{halves}; a strip of "
        f"{say_length(max(left, 0), unit)} stays free."
    )


def pass_pages(work: Work, plan: SheetsPlan) -> list[Page]:
    """Return the passes of the machine."""
    pages = []
    count = len(plan.passes.passes)
    proof = "none fewer will do" if plan.passes.is_fewest else f"at least {plan.passes.bound} are wanted"
    for number, one in enumerate(plan.passes.passes, 1):
        pieces = [
            SheetPiece(plan.find(spot.id).name, laid(plan.dies[spot.id], spot), plan.find(spot.id).paper)
            for spot in one.spots
        ]
        gap = say_length(work.card.sheets.die_gap_mm, work.card.unit)
        words = f"{count} pass{'es' * (count != 1)}, {proof}. Each die once a pass, at least {gap} apart."
        picture = SheetPicture(work.card.sheets.plate_mm, pieces)
        pages.append(Page(f"Pass {number} of {count}", words, picture))
    return pages


def stock_pages(work: Work, plan: SheetsPlan) -> list[Page]:
    """Return the sheets of card stock with their cuts."""
    pages = []
    for one in plan.stock:
        for number, sheet in enumerate(one.plan.sheets, 1):
            pieces = []
            for piece in sheet.pieces:
                box = shapely.box(piece.x_mm, piece.y_mm, piece.x_mm + piece.w_mm, piece.y_mm + piece.h_mm)
                thing = plan.find(piece.id)
                pieces.append(SheetPiece(thing.name, only_areas(box), thing.paper))
            cuts = [((cut.x1, cut.y1), (cut.x2, cut.y2)) for cut in sheet.cuts]
            stock = one.stock_of(sheet)
            picture = SheetPicture(stock.sheet_mm, pieces, cuts)
            pages.append(
                Page(
                    f"{stock.name}, sheet {number} of {len(one.plan.sheets)}",
                    _tell_stock(one, number, work.card.unit),
                    picture,
                )
            )
    return pages


def _tell_stock(one: CardStock, number: int, unit: Unit) -> str:
    sheet = one.plan.sheets[number - 1]
    offcuts = sum(one.stock_of(each).is_offcut for each in one.plan.sheets)
    count = len(one.plan.sheets) - offcuts
    proof = "none fewer will do" if one.plan.is_fewest else f"at least {one.plan.bound} are wanted"
    best = ", nor fewer cuts" if one.plan.is_best else ""
    taken = f"{count} sheet{'s' * (count != 1)}, {proof}{best}" if count else "No new sheet"
    beside = f"; {offcuts} offcut{'s' * (offcuts != 1)} used up" if offcuts else ""
    keep = f" Keep {say_size(*sheet.offcut_mm, unit)}." if min(sheet.offcut_mm) > 0 else ""
    return (
        f"{taken}{beside}. {len(sheet.cuts)} cut{'s' * (len(sheet.cuts) != 1)} in "
        f"the order of the numbers, each right across.{keep}"
    )


def say_need(need: Need, unit: Unit) -> str:
    """Say how many sheets of a paper are wanted; of an offcut its size as well."""
    if need.stock.is_offcut:
        return f"{need.stock.name} of {say_size(*need.stock.sheet_mm, unit)}"
    return f"{need.wanted} sheet{'s' * (need.wanted != 1)} of {need.stock.name}"
