"""Rectangles out of sheets of card stock by a guillotine trimmer: fewest sheets, then cuts, then the largest offcut.

Glossary
--------
pattern
    What is cut from one sheet: a block, and whatever is left beside it and below it.
offcut
    The larger of the two rectangles that are left of a sheet as one whole piece; left of an earlier card it is a sheet
    again, and counts for none: what is cut from it costs no new sheet.

Notes
-----
Patterns come from all blocks (`blocks`), chosen among by CP-SAT: first for the fewest sheets, then the fewest cuts,
then the largest offcut. Where there are too many blocks a quick packer gives patterns as well (`quick_cuts`); then only
the number of sheets can be proven, by the bound (`bounds`).
"""

import math
import time
from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

from fair_thicket.model.errors import InputError
from fair_thicket.model.wanted import GoOn
from fair_thicket.packing.blocks import Block, Kind, SheetKind, build_blocks, wastes_of
from fair_thicket.packing.bounds import fewest_by_size
from fair_thicket.packing.quick_cuts import pack_quickly

if TYPE_CHECKING:
    from fair_thicket.packing.choosing import Pattern

UNIT = 1000
"""Of a millimetre."""
SLACK = 2
"""Units by which a sheet is taken larger, so that what fills it exactly still does when its sides are rounded."""
MOST_PIECES = 400
LITTLE_WASTE = 0.02
"""Of a sheet: blocks with no more waste within them are tried first where there are too many."""
MOST_PATTERNS = 1500
"""Of very many the fullest are chosen among."""
BLOCKS_SHARE = 0.6
"""Of the time that may go into finding blocks."""
QUICK_SHARE = 0.3
"""Of the time that may go into quick plans; one is always found, where there is one."""


class StockSheet(NamedTuple):
    """A kind of sheet: its sides, mm, how many there are (None for as many as are wanted), whether it is an offcut."""

    id: str
    w_mm: float
    h_mm: float
    owned: int | None = None
    is_offcut: bool = False


class StockPiece(NamedTuple):
    """A kind of piece: its sides, mm, how many are wanted, and whether it may be turned."""

    id: str
    w_mm: float
    h_mm: float
    copies: int = 1
    turns: bool = True


class Stroke(NamedTuple):
    """One cut, from end to end, mm from the sheet's corner."""

    x1: float
    y1: float
    x2: float
    y2: float


class CutPiece(NamedTuple):
    """A piece on its sheet: the corner nearest the sheet's own, mm, whether it is turned, and its sides as it lies."""

    id: str
    x_mm: float
    y_mm: float
    turned: bool
    w_mm: float = 0.0
    h_mm: float = 0.0


class CutSheet(NamedTuple):
    """A sheet with its cuts in order, its pieces, and what is kept of it as one piece, mm; none: (0, 0)."""

    sheet: str
    cuts: tuple[Stroke, ...]
    pieces: tuple[CutPiece, ...]
    offcut_mm: tuple[float, float]


class StockPlan(NamedTuple):
    """A plan of cutting.

    Attributes
    ----------
    sheets : tuple of CutSheet
    bound : int
        No plan takes fewer sheets, offcuts not counted.
    is_fewest : bool
        Whether it takes the fewest sheets, proven, offcuts not counted.
    is_best : bool
        Whether cuts and offcut are proven as well.
    missing : dict of str to int
        Sheets that the plan takes beyond those that there are.
    """

    sheets: tuple[CutSheet, ...]
    bound: int
    is_fewest: bool
    is_best: bool
    missing: dict[str, int]


def plan_cuts(
    sheets: Sequence[StockSheet],
    pieces: Sequence[StockPiece],
    *,
    kerf_mm: float = 0.0,
    seconds: float = 1.85,
    go_on: GoOn = lambda: True,
) -> StockPlan:
    """Plan how rectangles are cut from sheets.

    Raises
    ------
    InputError
        No sheets; a piece that is larger than every sheet; more pieces than can be thought through.
    """
    wanted = [piece for piece in pieces if piece.copies > 0]
    _check_count(sheets, wanted)
    if not wanted:
        return StockPlan((), 0, is_fewest=True, is_best=True, missing={})
    task = _Task(sheets, wanted, kerf_mm, seconds, go_on)
    patterns, is_complete = task.patterns()
    from fair_thicket.packing.choosing import choose_patterns  # loads the solver

    chosen, is_best, bound = choose_patterns(
        patterns, task.demand, task.kinds, task.bound, end=task.end, known=task.quick
    )
    made = tuple(task.cut(one.sheet, one.block) for one in chosen)
    missing = _missing(sheets, [one.sheet for one in chosen])
    whole = sum(not sheets[one.sheet].is_offcut for one in chosen)
    is_fewest = whole == task.bound or (is_complete and whole == bound)
    best_bound = whole if is_fewest else task.bound
    return StockPlan(made, best_bound, is_fewest, is_best and is_complete and is_fewest, missing)


def _check_count(sheets: Sequence[StockSheet], pieces: Sequence[StockPiece]) -> None:
    if all(one.is_offcut for one in sheets):
        raise InputError("There is no sheet to cut from; say what card stock there is.")
    if sum(piece.copies for piece in pieces) > MOST_PIECES:
        raise InputError(f"More than {MOST_PIECES} pieces cannot be planned at once; part the job.")


def _missing(sheets: Sequence[StockSheet], used: Sequence[int]) -> dict[str, int]:
    """Count the sheets that a plan takes beyond those that there are."""
    over = {
        sheet.id: used.count(number) - sheet.owned for number, sheet in enumerate(sheets) if sheet.owned is not None
    }
    return {key: count for key, count in over.items() if count > 0}


class _Task:
    """Everything in whole units, and what is asked of it."""

    def __init__(
        self, sheets: Sequence[StockSheet], pieces: Sequence[StockPiece], kerf_mm: float, seconds: float, go_on: GoOn
    ) -> None:
        self._sheets, self._pieces, self._go_on = sheets, pieces, go_on
        self._seconds, self._begun = seconds, time.monotonic()
        self.end = self._begun + seconds
        self._kerf = round(kerf_mm * UNIT)
        self._sides = [(round(one.w_mm * UNIT) + SLACK, round(one.h_mm * UNIT) + SLACK) for one in sheets]
        self._kinds = [Kind(round(one.w_mm * UNIT), round(one.h_mm * UNIT), one.copies, one.turns) for one in pieces]
        self.demand = tuple(one.copies for one in pieces)
        self.kinds = [SheetKind(one.owned, one.is_offcut) for one in sheets]
        self._check_sizes()
        areas = [kind.width * kind.height for kind in self._kinds for _ in range(kind.copies)]
        self._area = sum(areas)
        self.quick: list[list[tuple[int, Block]]] = []
        sizes = [(w * h, one) for (w, h), one in zip(self._sides, sheets, strict=True)]
        self._largest = max(size for size, one in sizes if not one.is_offcut)
        self._on_offcuts = sum(size * (one.owned or 0) for size, one in sizes if one.is_offcut)
        self.bound = self._bound(areas, [(size, one.owned) for size, one in sizes if not one.is_offcut])

    def _check_sizes(self) -> None:
        for piece, kind in zip(self._pieces, self._kinds, strict=True):
            if not any(w <= W and h <= H for w, h, _ in kind.ways for W, H in self._sides):
                raise InputError(
                    f"“{piece.id}” of {piece.w_mm:g} × {piece.h_mm:g} mm is larger than every sheet there is; make it "
                    "of two, or take a larger sheet."
                )

    def _bound(self, areas: Sequence[int], sizes: Sequence[tuple[int, int | None]]) -> int:
        """Return a number of sheets, offcuts not counted, below which no plan can go, by areas alone."""
        if self._on_offcuts:
            return self._by_stock(sizes)
        return max(fewest_by_size([float(area) for area in areas], float(self._largest)), self._by_stock(sizes))

    def _by_stock(self, sizes: Sequence[tuple[int, int | None]]) -> int:
        """Return how many of the largest sheets that there are hold all the area that no offcut can."""
        left, used = self._area - self._on_offcuts, 0
        for size, count in sorted(sizes, key=lambda one: -one[0]):
            if left <= 0:
                break
            many = -(-left // size)
            take = many if count is None else min(many, count)
            used, left = used + take, left - take * size
        return used

    def patterns(self) -> "tuple[list[Pattern], bool]":
        """Find patterns for every kind of sheet, and tell whether those are all that count; the bound may rise."""
        from fair_thicket.packing.choosing import find_cover

        self.quick = self._quick()
        fewest = min((len(plan) for plan in self.quick), default=sum(self.demand))
        found = [one for plan in self.quick for one in plan]
        limit = self._begun + BLOCKS_SHARE * self._seconds
        # with fewer sheets there is so little to waste that often all blocks can be looked at, and none will do
        sheets = self.bound
        while sheets < fewest and time.monotonic() < limit and self._go_on():
            some, is_complete = self._blocks(self._spare(sheets), limit)
            cover = find_cover(self._worth(some), self.demand, self.kinds, sheets, seconds=limit - time.monotonic())
            if not is_complete and not cover:  # too many: those with little waste are the most hopeful
                some, _ = self._blocks(round(LITTLE_WASTE * self._largest), limit)
                cover = find_cover(self._worth(some), self.demand, self.kinds, sheets, seconds=limit - time.monotonic())
            found += some
            if cover:
                fewest = sheets
                self.quick.insert(0, cover)
            elif is_complete and cover is not None:
                self.bound = sheets + 1
            sheets += 1
        some, is_complete = self._blocks(self._spare(fewest), limit)
        found += some
        return self._worth(found), is_complete

    def _spare(self, sheets: int) -> int:
        """Area that a plan of so many sheets wastes in all: no single one of its sheets can waste more."""
        return sheets * self._largest + self._on_offcuts - self._area

    def _blocks(self, waste: int, limit: float) -> tuple[list[tuple[int, Block]], bool]:
        """Find what may be cut from a sheet with so little waste, and tell whether that is all."""
        found: list[tuple[int, Block]] = []
        is_complete = True
        for number, sheet in enumerate(self._sides):
            if not self._go_on() or (number and time.monotonic() > limit):
                return found, False
            blocks = build_blocks(self._kinds, sheet, kerf=self._kerf, most_waste=waste, end=limit)
            is_complete = is_complete and blocks.is_complete
            some = blocks.found if blocks.is_complete else self._fullest(blocks.found)
            found += [(number, block) for block in some]
        return found, is_complete

    def _worth(self, found: Sequence[tuple[int, Block]]) -> "list[Pattern]":
        """Return patterns that no other of the same pieces and sheet beats in cuts and offcut."""
        from fair_thicket.packing.choosing import Pattern

        kept: dict[tuple[int, tuple[int, ...]], list[Pattern]] = {}
        for sheet, block in found:
            wide, high = self._sides[sheet]
            right, below = wide - block.width, high - block.height
            width, height = self._keep(block, self._outer(sheet, block))
            offcut = width * height
            made = Pattern(sheet, block, block.cuts + (right > SLACK) + (below > SLACK), offcut)
            rivals = kept.setdefault((sheet, block.counts), [])
            if not any(one.cuts <= made.cuts and one.offcut >= made.offcut for one in rivals):
                rivals[:] = [one for one in rivals if one.cuts < made.cuts or one.offcut > made.offcut]
                rivals.append(made)
        return [one for rivals in kept.values() for one in rivals]

    def _fullest(self, blocks: Sequence[Block]) -> list[Block]:
        """Return the fullest of very many blocks, and all that are small."""
        sizes = [kind.width * kind.height for kind in self._kinds]

        def full(block: Block) -> float:
            return sum(n * size for n, size in zip(block.counts, sizes, strict=True)) / (block.width * block.height)

        return sorted(blocks, key=lambda block: -full(block) * sum(block.counts) ** 0.2)[:MOST_PATTERNS]

    def _quick(self) -> list[list[tuple[int, Block]]]:
        """Return whole plans by the quick packer, each from one kind of sheet: the largest first, until time is out."""
        limit = self._begun + QUICK_SHARE * self._seconds
        numbers = [number for number, sheet in enumerate(self._sheets) if not sheet.is_offcut]
        plans: dict[int, list[list[Block]]] = {}
        for number in sorted(numbers, key=lambda one: -math.prod(self._sides[one])):
            if any(plans.values()) and time.monotonic() > limit:
                break
            plans[number] = pack_quickly(self._kinds, self._sides[number], self._kerf, end=limit)
        return [[(number, block) for block in blocks] for number in sorted(plans) for blocks in plans[number]]

    def _outer(self, sheet: int, block: Block) -> tuple[int, int]:
        """Sides of what the first cut leaves whole beside a block, or below it: the larger of the two ways."""
        wide, high = (side - SLACK for side in self._sides[sheet])
        right, below = wide - block.width - self._kerf, high - block.height - self._kerf
        ways = [(max(right, 0), high), (wide, max(below, 0))]
        return max(ways, key=lambda way: way[0] * way[1])

    def _keep(self, block: Block, outer: tuple[int, int]) -> tuple[int, int]:
        """Sides of the largest piece that is left of a sheet."""
        return max([outer, *wastes_of(block, self._kerf)], key=lambda rest: rest[0] * rest[1])

    def cut(self, sheet: int, block: Block) -> CutSheet:
        """Lay a pattern out on its sheet."""
        wide, high = (side - SLACK for side in self._sides[sheet])
        cuts: list[Stroke] = []
        right, below = wide - block.width, high - block.height
        # the first cut keeps the larger of the two ways whole
        if right > 0 and (below <= 0 or max(right - self._kerf, 0) * high >= max(below - self._kerf, 0) * wide):
            cuts.append(_stroke(block.width, 0, block.width, high))
            cuts += [_stroke(0, block.height, block.width, block.height)] if below > 0 else []
        elif below > 0:
            cuts.append(_stroke(0, block.height, wide, block.height))
            cuts += [_stroke(block.width, 0, block.width, block.height)] if right > 0 else []
        pieces: list[CutPiece] = []
        self._part(block, (0, 0), cuts, pieces)
        offcut = self._keep(block, self._outer(sheet, block))
        kept = (offcut[0] / UNIT, offcut[1] / UNIT) if min(offcut) > 0 else (0.0, 0.0)
        return CutSheet(self._sheets[sheet].id, tuple(cuts), tuple(pieces), kept)

    def _part(self, block: Block, at: tuple[int, int], cuts: list[Stroke], pieces: list[CutPiece]) -> None:
        """Part a block whose corner lies at a place into its pieces."""
        x, y = at
        if block.parts is None:
            one = self._pieces[block.kind]
            sides = (one.h_mm, one.w_mm) if block.turned else (one.w_mm, one.h_mm)
            pieces.append(CutPiece(one.id, x / UNIT, y / UNIT, block.turned, *sides))
            return
        first, second = block.parts
        if block.beside:
            cuts.append(_stroke(x + first.width, y, x + first.width, y + block.height))
            places = ((first, x), (second, x + first.width + self._kerf))
            for part, left in places:
                if part.height < block.height:
                    cuts.append(_stroke(left, y + part.height, left + part.width, y + part.height))
                self._part(part, (left, y), cuts, pieces)
            return
        cuts.append(_stroke(x, y + first.height, x + block.width, y + first.height))
        for part, top in ((first, y), (second, y + first.height + self._kerf)):
            if part.width < block.width:
                cuts.append(_stroke(x + part.width, top, x + part.width, top + part.height))
            self._part(part, (x, top), cuts, pieces)


def _stroke(x1: int, y1: int, x2: int, y2: int) -> Stroke:
    return Stroke(x1 / UNIT, y1 / UNIT, x2 / UNIT, y2 / UNIT)
