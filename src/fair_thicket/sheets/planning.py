"""All sheets of a card planned: stamping sheets with their placings, passes of the machine, cuts of card stock.

Glossary
--------
paper
    A colour of card stock, or one patterned paper, with the size of its sheets and how many there are.
"""

from collections import defaultdict, deque
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple, TypeVar

import shapely

from fair_thicket.ink.naming import say_colour
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import InputError
from fair_thicket.model.pieces import Border, Colour
from fair_thicket.model.sheets import Turns
from fair_thicket.model.stash import Stash
from fair_thicket.model.supplies import Paper, Supply
from fair_thicket.packing.nesting import Nesting, NestPiece, nest
from fair_thicket.packing.passes import PassPlan, plan_passes
from fair_thicket.packing.placings import Placing, plan_placings
from fair_thicket.packing.stock import StockPiece, StockPlan, StockSheet, plan_cuts
from fair_thicket.shape.outline import Area, to_area, to_outline
from fair_thicket.shape.paper import only_areas
from fair_thicket.sheets.things import Thing, list_things, spare_of

GoOn = Callable[[], bool]
Made = TypeVar("Made")
SLACK_MM = 1e-6
BORDER_ROOM_MM = 6.0
"""A piece of card for a border or a frame die is larger than the die by this (common practice: a little larger)."""


class Stock(NamedTuple):
    """A paper as it is taken: its name, colour, pattern, sheet, and how many sheets are left; None when not owned."""

    name: str
    colour: Colour
    pattern: str
    sheet_mm: tuple[float, float]
    left: int | None


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
    """

    stock: Stock
    sheet_mm: tuple[float, float]
    nesting: Nesting
    placings: tuple[tuple[Placing, ...], ...]


class CardStock(NamedTuple):
    """Sheets of one paper that are cut with a trimmer; ids are keys of things."""

    stock: Stock
    plan: StockPlan


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
        """Give the thing of a key."""
        return next(one for one in self.things if one.key == key)

    def stock_of(self, thing: Thing) -> Stock:
        """Give the paper that a thing of the plan is cut from."""
        paper = (thing.paper, thing.pattern)
        return next(need.stock for need in self.needs if (need.stock.colour, need.stock.pattern) == paper)


SECONDS = 1.85
"""For each kind of sheet: with the last strokes they are there within two."""


def plan_sheets(
    work: Work, supplies: Sequence[Supply] | None = None, *, seconds: float = SECONDS, go_on: GoOn = lambda: True
) -> SheetsPlan:
    """Plan the sheets of a card, as files hold it.

    Parameters
    ----------
    supplies : sequence of Supply, or None
        The maker's own; papers say their sheets. None takes a plan that is there, whatever it was made from.
    seconds : float
        For each kind of sheet.
    """
    papers = None if supplies is None else tuple(one for one in supplies if isinstance(one, Paper))
    kept = _recall(work, papers, seconds)
    if kept is not None:
        return kept
    things = list_things(work)
    by_paper: dict[tuple[Colour, str], list[Thing]] = defaultdict(list)
    for thing in things:
        by_paper[thing.paper, thing.pattern].append(thing)
    made = _Making(work, seconds, go_on)
    for (colour, pattern), own in by_paper.items():
        wanted = [one for one in own if one.copies]
        made.add(stock_of(work, colour, pattern, papers or (), [one.size_mm for one in wanted]), wanted)
    passes, dies = made.passes(things)
    whole = SheetsPlan(things, made.stamping, passes, made.stock, made.needs, made.misfits, dies)
    by_hand = _recall(work, papers, BY_HAND)
    if by_hand is not None:  # an image was moved while this was bettered: what was put somewhere stays there
        return by_hand
    if go_on():
        _kept.append(_Kept(work.card, work.stash, papers or (), seconds, whole))
    return whole


class _Kept(NamedTuple):
    card: Card
    stash: Stash
    papers: tuple[Paper, ...]
    seconds: float
    plan: SheetsPlan


_kept: deque[_Kept] = deque(maxlen=6)
BY_HAND = float("inf")
"""Seconds that a plan changed by hand stands for: none is thought about longer."""


OFFCUT_MM = 25.0
"""From this size on both ways an offcut is kept (our own guess): a strip, a greeting, the next card's mat."""


def offcuts_of(plan: SheetsPlan) -> list[Paper]:
    """Give the offcuts of card stock that are of use, as papers of their size."""
    found = []
    for one in plan.stock:
        for sheet in one.plan.sheets:
            width, height = sheet.offcut_mm
            if min(width, height) >= OFFCUT_MM:
                name = f"{one.stock.name}, offcut"[:120]
                found.append(
                    Paper(name, one.stock.colour, width_mm=round(width, 1), height_mm=round(height, 1), sheets_left=1)
                )
    return found


def keep_plan(work: Work, plan: SheetsPlan) -> None:
    """Keep a plan that was changed by hand: it is what is shown and printed of this very card."""
    papers = next((one.papers for one in reversed(tuple(_kept)) if one.card is work.card), ())
    _kept.append(_Kept(work.card, work.stash, papers, BY_HAND, plan))


def forget_plans() -> None:
    """Forget every plan that is kept: sheets are laid out anew."""
    _kept.clear()


def _recall(work: Work, papers: tuple[Paper, ...] | None, seconds: float) -> SheetsPlan | None:
    """Give the plan of this very card, where one was thought about at least as long: what is shown is printed."""
    for one in reversed(tuple(_kept)):
        is_of = one.card is work.card and one.stash is work.stash and papers in (None, one.papers)
        if is_of and one.seconds >= seconds:
            return one.plan
    return None


def stock_of(
    work: Work, colour: Colour, pattern: str, papers: Iterable[Paper], sizes: Sequence[tuple[float, float]]
) -> Stock:
    """Give the paper that things of some sizes are cut from: the maker's own of its colour, else a usual sheet.

    A single sheet that is too small for one of them is an offcut, and passed by.
    """
    rules = work.card.sheets
    if pattern and work.stash.has(pattern):
        paper = work.stash.find(pattern)
        return Stock(paper.name, colour, pattern, (paper.width_mm, paper.height_mm), None)
    whole = [
        one
        for one in papers
        if one.colour == colour
        and (one.sheets_left != 1 or all(is_within(size, (one.width_mm, one.height_mm)) for size in sizes))
    ]
    own = max(whole, key=lambda one: one.sheets_left, default=None)
    if own is not None:
        return Stock(own.name, colour, "", (own.width_mm, own.height_mm), own.sheets_left)
    return Stock(f"{say_colour(colour)} card", colour, "", rules.sheet_mm, None)


def is_within(size: tuple[float, float], sheet: tuple[float, float]) -> bool:
    """Whether a box of a size fits on a sheet, either way up."""
    (short, long), (narrow, wide) = sorted(size), sorted(sheet)
    return short <= narrow + SLACK_MM and long <= wide + SLACK_MM


class _Making:
    """A plan as it grows, paper by paper; what fits nowhere is kept as a sentence."""

    def __init__(self, work: Work, seconds: float, go_on: GoOn) -> None:
        self._work, self._seconds, self._go_on = work, seconds, go_on
        self.stamping: list[StampingSheets] = []
        self.stock: list[CardStock] = []
        self.needs: list[Need] = []
        self.misfits: list[str] = []

    def add(self, paper: Stock, things: Sequence[Thing]) -> None:
        """Plan the sheets of one paper."""
        images = [one for one in things if one.is_stamped]
        others = [one for one in things if not one.is_stamped]
        wanted = 0
        if images and (sheets := self._tried(lambda: _stamp(self._work, paper, images, self._seconds, self._go_on))):
            self.stamping.append(sheets)
            wanted += len(sheets.nesting.sheets)
        if others and (plan := self._tried(lambda: _cut(self._work, paper, others, self._seconds, self._go_on))):
            self.stock.append(CardStock(paper, plan))
            wanted += len(plan.sheets)
        self.needs.append(Need(paper, wanted))

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
    sheet = _within(stock.sheet_mm, rules.platform_mm)
    pieces = [
        NestPiece(one.key, to_outline(_whole(one))[0], one.copies + spare_of(work, one) * rules.cards) for one in images
    ]
    turns: Turns = rules.turns
    gap = rules.scissors_mm if any(one.tool != "die" for one in images) else 0.5
    made = nest(pieces, sheet, gap_mm=gap, edge_mm=rules.hold_mm, turns=turns, seconds=seconds, go_on=go_on)
    stamps = {one.key: one.stamp for one in images}
    owned = {stamp.id: stamp.copies for stamp in work.stash.stamps}
    placings = tuple(
        tuple(plan_placings(one.spots, [stamps[spot.id] for spot in one.spots], sheet, owned)) for one in made.sheets
    )
    return StampingSheets(stock, sheet, made, placings)


def _within(sheet: tuple[float, float], platform: tuple[float, float]) -> tuple[float, float]:
    """Give a sheet as large as the platform takes, lying as it lies best."""
    ways = [(min(sheet[0], wide), min(sheet[1], high)) for wide, high in (platform, platform[::-1])]
    width, height = max(ways, key=lambda way: way[0] * way[1])
    return (max(width, height), min(width, height))


def _whole(thing: Thing) -> shapely.Polygon:
    """Give a thing's outline as one ring; of one in several parts what holds them all."""
    parts = shapely.get_parts(thing.area)
    if len(parts) == 1:
        return shapely.Polygon(parts[0].exterior)
    hull = shapely.convex_hull(thing.area)
    return hull if isinstance(hull, shapely.Polygon) else shapely.Polygon(shapely.box(*thing.area.bounds))


def _cut(work: Work, stock: Stock, things: Sequence[Thing], seconds: float, go_on: GoOn) -> StockPlan:
    """Cut panels, strips and bases out of card stock, and what is die cut a rectangle a little larger than its die."""
    pieces = []
    for one in things:
        width, height = one.size_mm
        room = BORDER_ROOM_MM if one.tool in {"die", "knife"} else 0.0
        many = one.copies * (_cuts_of(work, one) if one.what == "border" else 1)
        if one.what == "border" and one.tool == "die":
            width = work.stash.find(one.stamp).width_mm
        pieces.append(StockPiece(one.key, width + room, height + room, many, turns=not stock.pattern))
    sheet = StockSheet(stock.name, *stock.sheet_mm, None)
    return plan_cuts([sheet], pieces, kerf_mm=work.card.sheets.kerf_mm, seconds=seconds, go_on=go_on)


def _cuts_of(work: Work, thing: Thing) -> int:
    """How many cuts of its die a border is joined from."""
    for pieces in (work.card.pieces, work.card.inside):
        for piece in pieces:
            if piece.id in thing.pieces and isinstance(piece, Border):
                die = work.stash.find(piece.stamp).width_mm
                return max(1, len(piece.cuts), -(-round(piece.length_mm) // max(1, round(die))))
    return 1


def _pass(work: Work, things: Sequence[Thing], shapes: dict[str, Area], seconds: float, go_on: GoOn) -> PassPlan:
    """Plan the passes of dies: each die once a pass, whatever paper lies under it."""
    dies: dict[tuple[str, bytes], NestPiece] = {}
    for one in things:
        if one.tool != "die" or not one.copies:
            continue
        is_border = one.what == "border"
        outline = _die_outline(work, one) if is_border else _whole(one)
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
    """Give what a border die cuts, about its middle."""
    stamp = work.stash.find(thing.stamp)
    return only_areas(to_area(stamp.outline, stamp.pockets))


def _die_outline(work: Work, thing: Thing) -> shapely.Polygon:
    """Give a border die's own steel: as long as the die is, as high as its cut."""
    stamp = work.stash.find(thing.stamp)
    return shapely.box(-stamp.width_mm / 2, -stamp.height_mm / 2, stamp.width_mm / 2, stamp.height_mm / 2)
