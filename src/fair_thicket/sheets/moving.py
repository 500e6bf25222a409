"""Images moved on their sheet by hand; what is shown is what is printed."""

from fair_thicket.model.card import Work
from fair_thicket.packing.nesting import NestedSheet, Nesting, lay
from fair_thicket.packing.placings import plan_placings
from fair_thicket.sheets.planning import SheetsPlan, StampingSheets, keep_plan


def move_image(work: Work, plan: SheetsPlan, page: int, index: int, off_mm: tuple[float, float]) -> SheetsPlan:
    """Move an image of a stamping sheet.

    Parameters
    ----------
    work : Work
        Of which the plan is.
    page : int
        The sheet, counted over all papers.
    index : int
        Place of the image on it.
    off_mm : (float, float)
        To the right and down.
    """
    stamping = []
    for one in plan.stamping:
        count = len(one.nesting.sheets)
        stamping.append(_moved(work, plan, one, page, index, off_mm) if 0 <= page < count else one)
        page -= count
    made = plan._replace(stamping=stamping)
    keep_plan(work, made)
    return made


def _moved(
    work: Work, plan: SheetsPlan, one: StampingSheets, page: int, index: int, off_mm: tuple[float, float]
) -> StampingSheets:
    sheet = one.nesting.sheets[page]
    spots = tuple(
        spot._replace(x_mm=spot.x_mm + off_mm[0], y_mm=spot.y_mm + off_mm[1]) if number == index else spot
        for number, spot in enumerate(sheet.spots)
    )
    edge = work.card.sheets.hold_mm
    reach = max(lay(part, spot).bounds[2] for spot in spots for part in _parts(plan, spot.id))
    sheets = tuple(
        NestedSheet(spots, reach - edge) if number == page else other for number, other in enumerate(one.nesting.sheets)
    )
    owned = {stamp.id: stamp.copies for stamp in work.stash.stamps}
    stamps = [plan.find(spot.id).stamp for spot in spots]
    placings = tuple(
        tuple(plan_placings(spots, stamps, one.sheet_mm, owned)) if number == page else other
        for number, other in enumerate(one.placings)
    )
    return one._replace(nesting=Nesting(sheets, one.nesting.bound), placings=placings)


def _parts(plan: SheetsPlan, key: str) -> list:  # type: ignore[type-arg]  # polygons
    import shapely

    return list(shapely.get_parts(plan.find(key).area))
