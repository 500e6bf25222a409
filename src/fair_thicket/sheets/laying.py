"""What is laid on stamping sheets: outlines with their margins, room between them, and what was laid out by hand."""

from collections import Counter
from collections.abc import Sequence

import shapely

from fair_thicket.model.card import Card, Work
from fair_thicket.model.sheets import LaidByHand
from fair_thicket.packing.bounds import fewest_by_size
from fair_thicket.packing.layouts import NestedSheet, Nesting, NestPiece, lay
from fair_thicket.packing.raster_nest import Spot
from fair_thicket.shape.outline import to_outline
from fair_thicket.sheets.stocks import Stock
from fair_thicket.sheets.things import Thing, spare_of

DIES_APART_MM = 0.5
"""Images that dies cut have their margins already: so far apart they lie on a stamping sheet."""


def pieces_of(work: Work, images: Sequence[Thing]) -> list[NestPiece]:
    """Return what is laid on stamping sheets for images: their outlines with their margins, spares counted."""
    cards = work.card.sheets.cards
    return [
        NestPiece(one.key, to_outline(whole_outline(one))[0], one.copies + spare_of(work, one) * cards)
        for one in images
    ]


def gap_of(work: Work, images: Sequence[Thing]) -> float:
    """Room between images on a stamping sheet, mm: scissors want more than dies, that have their margins already."""
    return work.card.sheets.scissors_mm if any(one.tool != "die" for one in images) else DIES_APART_MM


def laid_by_hand(work: Work, stock: Stock, pieces: Sequence[NestPiece]) -> Nesting | None:
    """Return the stamping sheets of a paper as laid out by hand; None where other images are to be stamped."""
    laid = find_laid(work.card, stock)
    if laid is None:
        return None
    wanted = Counter({one.id: one.copies for one in pieces})
    if Counter(image.key for sheet in laid.sheets for image in sheet) != wanted:
        return None
    areas = {one.id: shapely.Polygon(one.outline) for one in pieces}
    hold = work.card.sheets.hold_mm
    sheets = []
    for sheet in laid.sheets:
        spots = tuple(Spot(one.key, one.x, one.y, one.angle_deg) for one in sheet)
        reach = max(float(lay(areas[spot.id], spot).bounds[2]) for spot in spots) if spots else hold
        sheets.append(NestedSheet(spots, reach - hold))
    room = stock.sheet_mm[0] * stock.sheet_mm[1]
    sizes = [float(areas[one.id].area) for one in pieces for _ in range(one.copies)]
    return Nesting(tuple(sheets), fewest_by_size(sizes, room))


def find_laid(card: Card, stock: Stock) -> LaidByHand | None:
    """Return what a card says of the stamping sheets of a paper that were laid out by hand."""
    paper = (stock.colour, stock.pattern)
    return next((one for one in card.sheets.by_hand if (one.colour, one.pattern) == paper), None)


def whole_outline(thing: Thing) -> shapely.Polygon:
    """Return a thing's outline as one ring; of one in several parts what holds them all."""
    parts = shapely.get_parts(thing.area)
    if len(parts) == 1:
        return shapely.Polygon(parts[0].exterior)
    hull = shapely.convex_hull(thing.area)
    return hull if isinstance(hull, shapely.Polygon) else shapely.Polygon(shapely.box(*thing.area.bounds))
