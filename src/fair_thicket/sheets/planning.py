"""All sheets of a card planned: stamping sheets with their placings, passes of the machine, cuts of card stock.

Glossary
--------
paper
    A colour of card stock, or one patterned paper, with the size of its sheets and how many there are.
"""

from collections import defaultdict
from collections.abc import Callable, Sequence
from typing import NamedTuple, TypeVar

import shapely

from fair_thicket.laid.cutting import cuts_of
from fair_thicket.model.card import Work
from fair_thicket.model.errors import InputError
from fair_thicket.model.pieces import Border, Colour
from fair_thicket.model.sheets import Turns
from fair_thicket.model.supplies import Paper, Supply
from fair_thicket.model.wanted import GoOn
from fair_thicket.packing.layouts import Nesting, NestPiece
from fair_thicket.packing.nesting import nest
from fair_thicket.packing.passes import PassPlan, plan_passes
from fair_thicket.packing.placings import Placing, plan_placings
from fair_thicket.packing.stock import CutSheet, StockPiece, StockPlan, StockSheet, plan_cuts
from fair_thicket.shape.outline import Area, only_areas, to_area, to_outline
from fair_thicket.sheets.laying import gap_of, laid_by_hand, pieces_of, whole_outline
from fair_thicket.sheets.stocks import OFFCUT, Stock, others_of, stock_of, within_platform
from fair_thicket.sheets.things import Thing, list_things

Made = TypeVar("Made")
BORDER_ROOM_MM = 6.0
"""A piece of card for a border or a frame die is larger than the die by this (common practice: a little larger)."""


class StampingSheets(NamedTuple):
    """Sheets of one paper that are stamped, and how.

    Attributes
    ----------
    stock : Stock
    sheet_mm : (float, float)
        As it goes into the platform.
    nesting : Nesting
        Ids are keys of things.
    placings : tuple of tuple of Placing
        Of each sheet.
    is_by_hand : bool
        Whether an image was moved by hand.
    """

    stock: Stock
    sheet_mm: tuple[float, float]
    nesting: Nesting
    placings: tuple[tuple[Placing, ...], ...]
    is_by_hand: bool = False


class CardStock(NamedTuple):
    """Sheets of one colour that are cut with a trimmer; ids of pieces are keys of things.

    Attributes
    ----------
    stock : Stock
        What most is cut from.
    plan : StockPlan
    others : tuple of Stock
        Other sizes of it and offcuts, that are taken as well.
    """

    stock: Stock
    plan: StockPlan
    others: tuple[Stock, ...] = ()

    def stock_of(self, sheet: CutSheet) -> Stock:
        """Return the paper of a sheet of the plan."""
        return (self.stock, *self.others)[int(sheet.sheet)]


class Need(NamedTuple):
    """How many sheets of a paper are wanted, and how many there are; None when it is not owned."""

    stock: Stock
    wanted: int

    @property
    def short(self) -> int:
        """Sheets to buy."""
        return max(0, self.wanted - (self.stock.left or 0))


class SheetsPlan(NamedTuple):
    """All sheets of a card.

    Attributes
    ----------
    things : list of Thing
    stamping : list of StampingSheets
    passes : PassPlan
        Ids are keys of things; a die that is also laid for another thing has that thing's key.
    stock : list of CardStock
    needs : list of Need
    misfits : list of str
        Whole sentences about what fits nowhere.
    dies : dict of str to area
        What lies on the plate for each key of a pass: a border's die is longer or shorter than the border.
    """

    things: list[Thing]
    stamping: list[StampingSheets]
    passes: PassPlan
    stock: list[CardStock]
    needs: list[Need]
    misfits: list[str]
    dies: dict[str, Area]

    def find(self, key: str) -> Thing:
        """Return the thing of a key."""
        return next(one for one in self.things if one.key == key)

    def stock_of(self, thing: Thing) -> Stock:
        """Return the paper that a thing of the plan is cut from."""
        paper = (thing.paper, thing.pattern)
        return next(need.stock for need in self.needs if (need.stock.colour, need.stock.pattern) == paper)


SECONDS = 1.85
"""For each kind of sheet: with the last strokes they are there within two."""


def plan_sheets(
    work: Work, supplies: Sequence[Supply] = (), *, seconds: float = SECONDS, go_on: GoOn = lambda: True
) -> SheetsPlan:
    """Plan the sheets of a card, as files hold it.

    Parameters
    ----------
    supplies : sequence of Supply
        The maker's own; papers say their sheets.
    seconds : float
        For each kind of sheet.
    """
    papers = tuple(one for one in supplies if isinstance(one, Paper))
    things = list_things(work)
    by_paper: dict[tuple[Colour, str], list[Thing]] = defaultdict(list)
    for thing in things:
        by_paper[thing.paper, thing.pattern].append(thing)
    made = _Making(work, seconds, go_on)
    for (colour, pattern), own in by_paper.items():
        wanted = [one for one in own if one.copies]
        main = stock_of(work, colour, pattern, papers, [one.size_mm for one in wanted])
        made.add(main, wanted, others_of(main, papers))
    passes, dies = made.passes(things)
    return SheetsPlan(things, made.stamping, passes, made.stock, made.needs, made.misfits, dies)


OFFCUT_MM = 25.0
"""From this size on both ways an offcut is kept (our own guess): a strip, a greeting, the next card's mat."""


def offcuts_of(plan: SheetsPlan) -> list[Paper]:
    """Return the offcuts of card stock that are of use, as papers of their size."""
    found = []
    for one in plan.stock:
        for sheet in one.plan.sheets:
            width, height = sheet.offcut_mm
            if min(width, height) >= OFFCUT_MM:
                paper = one.stock_of(sheet)
                name = paper.name if paper.name.endswith(OFFCUT) else f"{paper.name[:110]}{OFFCUT}"
                found.append(
                    Paper(name, paper.colour, width_mm=round(width, 1), height_mm=round(height, 1), sheets_left=1)
                )
    return found


class _Making:
    """A plan as it grows, paper by paper; what fits nowhere is kept as a sentence."""

    def __init__(self, work: Work, seconds: float, go_on: GoOn) -> None:
        self._work, self._seconds, self._go_on = work, seconds, go_on
        self.stamping: list[StampingSheets] = []
        self.stock: list[CardStock] = []
        self.needs: list[Need] = []
        self.misfits: list[str] = []

    def add(self, paper: Stock, things: Sequence[Thing], sizes: Sequence[Stock] = ()) -> None:
        """Plan the sheets of one paper; other sizes of it and offcuts are there for what is cut out."""
        images = [one for one in things if one.is_stamped]
        others = [one for one in things if not one.is_stamped]
        wanted, taken = 0, [0] * len(sizes)
        if images and (sheets := self._tried(lambda: _stamp(self._work, paper, images, self._seconds, self._go_on))):
            self.stamping.append(sheets)
            wanted += len(sheets.nesting.sheets)
        kinds = (paper, *sizes)
        if others and (plan := self._tried(lambda: _cut(self._work, kinds, others, self._seconds, self._go_on))):
            self.stock.append(CardStock(paper, plan, tuple(sizes)))
            used = [int(sheet.sheet) for sheet in plan.sheets]
            wanted += used.count(0)
            taken = [used.count(number) for number in range(1, len(kinds))]
        self.needs.append(Need(paper, wanted))
        self.needs += [Need(one, count) for one, count in zip(sizes, taken, strict=True) if count]

    def passes(self, things: Sequence[Thing]) -> tuple[PassPlan, dict[str, Area]]:
        """Plan the passes of the machine; gives as well what lies on the plate for each key."""
        dies: dict[str, Area] = {}
        plan = self._tried(lambda: _pass(self._work, things, dies, self._seconds, self._go_on))
        return plan or PassPlan((), 0), dies

    def _tried(self, make: Callable[[], Made]) -> Made | None:
        try:
            return make()
        except InputError as problem:
            self.misfits.append(str(problem))
            return None


def _stamp(work: Work, stock: Stock, images: Sequence[Thing], seconds: float, go_on: GoOn) -> StampingSheets:
    rules = work.card.sheets
    sheet = within_platform(work, stock)
    pieces = pieces_of(work, images)
    turns: Turns = rules.turns
    gap = gap_of(work, images)
    by_hand = laid_by_hand(work, stock, pieces)
    made = by_hand or nest(pieces, sheet, gap_mm=gap, edge_mm=rules.hold_mm, turns=turns, seconds=seconds, go_on=go_on)
    stamps = {one.key: one.stamp for one in images}
    owned = {stamp.id: stamp.copies for stamp in work.stash.stamps}
    placings = tuple(
        tuple(plan_placings(one.spots, [stamps[spot.id] for spot in one.spots], sheet, owned)) for one in made.sheets
    )
    return StampingSheets(stock, sheet, made, placings, by_hand is not None)


def _cut(work: Work, kinds: Sequence[Stock], things: Sequence[Thing], seconds: float, go_on: GoOn) -> StockPlan:
    """Cut panels, strips and bases out of card stock, and what is die cut a rectangle a little larger than its die."""
    pieces = []
    for one in things:
        width, height = one.size_mm
        room = BORDER_ROOM_MM if one.tool in {"die", "knife"} else 0.0
        many = one.copies * (_cuts_of(work, one) if one.what == "border" else 1)
        if one.what == "border" and one.tool == "die":
            width = work.stash.find(one.stamp).width_mm
        pieces.append(StockPiece(one.key, width + room, height + room, many, turns=not kinds[0].pattern))
    sheets = [
        StockSheet(str(number), *one.sheet_mm, one.left if number else None, one.is_offcut)
        for number, one in enumerate(kinds)
    ]  # of the first as many as are wanted: what is short is bought
    return plan_cuts(sheets, pieces, kerf_mm=work.card.sheets.kerf_mm, seconds=seconds, go_on=go_on)


def _cuts_of(work: Work, thing: Thing) -> int:
    """How many cuts of its die a border is joined from."""
    for pieces in (work.card.pieces, work.card.inside):
        for piece in pieces:
            if piece.id in thing.pieces and isinstance(piece, Border):
                return cuts_of(piece, work.stash)
    return 1


def _pass(work: Work, things: Sequence[Thing], shapes: dict[str, Area], seconds: float, go_on: GoOn) -> PassPlan:
    """Plan the passes of dies: each die once a pass, whatever paper lies under it."""
    dies: dict[tuple[str, bytes], NestPiece] = {}
    for one in things:
        if one.tool != "die" or not one.copies:
            continue
        is_border = one.what == "border"
        outline = _die_outline(work, one) if is_border else whole_outline(one)
        many = one.copies * (_cuts_of(work, one) if is_border else 1)
        shapes[one.key] = _die_shape(work, one) if is_border else one.area
        key = (one.stamp, b"" if one.stamp and is_border else shapely.normalize(outline).wkb)
        known = dies.get(key)
        ring = to_outline(outline)[0]
        dies[key] = NestPiece(one.key, ring, many) if known is None else known._replace(copies=known.copies + many)
    return plan_passes(
        list(dies.values()), work.card.sheets.plate_mm, gap_mm=work.card.sheets.die_gap_mm, seconds=seconds, go_on=go_on
    )


def _die_shape(work: Work, thing: Thing) -> Area:
    """Return what a border die cuts, about its middle."""
    stamp = work.stash.find(thing.stamp)
    return only_areas(to_area(stamp.outline, stamp.pockets))


def _die_outline(work: Work, thing: Thing) -> shapely.Polygon:
    """Return a border die's own steel: as long as the die is, as high as its cut."""
    stamp = work.stash.find(thing.stamp)
    return shapely.box(-stamp.width_mm / 2, -stamp.height_mm / 2, stamp.width_mm / 2, stamp.height_mm / 2)
