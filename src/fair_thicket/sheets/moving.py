"""Images moved on their sheet by hand, as an edit of the card: what is shown is printed, saved and undone."""

import msgspec

from fair_thicket.edits.pieces import set_card
from fair_thicket.model.card import Work
from fair_thicket.model.sheets import LaidByHand, LaidImage
from fair_thicket.packing.layouts import Nesting, NestPiece
from fair_thicket.packing.placings import plan_placings
from fair_thicket.shape.outline import to_outline
from fair_thicket.sheets.laying import laid_by_hand, whole_outline
from fair_thicket.sheets.planning import SheetsPlan, StampingSheets


def move_image(work: Work, plan: SheetsPlan, page: int, index: int, off_mm: tuple[float, float]) -> Work:
    """Move an image of a stamping sheet; the sheets of its paper stay as they lie from then on.

    Parameters
    ----------
    work : Work
    plan : SheetsPlan
        Of the work as it is.
    page : int
        The sheet, counted over all papers.
    index : int
        Place of the image on it.
    off_mm : (float, float)
        To the right and down.
    """
    for one in plan.stamping:
        if page < len(one.nesting.sheets):
            return _set_laid(work, one, _moved(one.nesting, page, index, off_mm))
        page -= len(one.nesting.sheets)
    return work


def lay_anew(work: Work) -> Work:
    """Forget what was moved on stamping sheets by hand."""
    return set_card(work, sheets=msgspec.structs.replace(work.card.sheets, by_hand=()))


def as_moved(work: Work, plan: SheetsPlan) -> SheetsPlan:
    """Return the plan of a work that differs from the one planned by images moved on their sheets; all else stays."""
    return plan._replace(stamping=[_as_laid(work, plan, one) for one in plan.stamping])


def _moved(nesting: Nesting, page: int, index: int, off_mm: tuple[float, float]) -> tuple[tuple[LaidImage, ...], ...]:
    return tuple(
        tuple(
            LaidImage(spot.id, round(spot.x_mm + right, 3), round(spot.y_mm + down, 3), round(spot.angle_deg, 3))
            for at, spot in enumerate(sheet.spots)
            for right, down in [off_mm if (number, at) == (page, index) else (0.0, 0.0)]
        )
        for number, sheet in enumerate(nesting.sheets)
    )


def _set_laid(work: Work, one: StampingSheets, sheets: tuple[tuple[LaidImage, ...], ...]) -> Work:
    laid = LaidByHand(one.stock.colour, sheets, one.stock.pattern)
    rules = work.card.sheets
    others = tuple(other for other in rules.by_hand if (other.colour, other.pattern) != (laid.colour, laid.pattern))
    return set_card(work, sheets=msgspec.structs.replace(rules, by_hand=(*others, laid)))


def _as_laid(work: Work, plan: SheetsPlan, one: StampingSheets) -> StampingSheets:
    """Return the stamping sheets of a paper as the work says that they lie."""
    counts: dict[str, int] = {}
    for sheet in one.nesting.sheets:
        for spot in sheet.spots:
            counts[spot.id] = counts.get(spot.id, 0) + 1
    pieces = [NestPiece(key, to_outline(whole_outline(plan.find(key)))[0], many) for key, many in counts.items()]
    nesting = laid_by_hand(work, one.stock, pieces)
    if nesting is None:
        return one
    owned = {stamp.id: stamp.copies for stamp in work.stash.stamps}
    placings = tuple(
        tuple(plan_placings(sheet.spots, [plan.find(spot.id).stamp for spot in sheet.spots], one.sheet_mm, owned))
        for sheet in nesting.sheets
    )
    bound = one.nesting.bound
    return one._replace(nesting=nesting._replace(bound=bound), placings=placings, is_by_hand=True)
