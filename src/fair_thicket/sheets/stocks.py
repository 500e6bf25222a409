"""Papers as they are taken: which sheets of a colour there are, other sizes of it, and offcuts of earlier cards."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from fair_thicket.ink.naming import say_colour
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Colour
from fair_thicket.model.supplies import Paper

SLACK_MM = 1e-6
OFFCUT = ", offcut"
"""What an offcut is called among the supplies."""
MOST_SIZES = 8
"""So many other sizes of a paper are thought about."""


class Stock(NamedTuple):
    """A paper as it is taken: its name, colour, pattern, sheet, and how many sheets are left; None when not owned."""

    name: str
    colour: Colour
    pattern: str
    sheet_mm: tuple[float, float]
    left: int | None
    is_offcut: bool = False


def stock_of(
    work: Work, colour: Colour, pattern: str, papers: Iterable[Paper], sizes: Sequence[tuple[float, float]]
) -> Stock:
    """Return the paper that things of some sizes are cut from: the maker's own of its colour, else a usual sheet.

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


def others_of(main: Stock, papers: Iterable[Paper]) -> list[Stock]:
    """Return the other sheets that there are of a paper's colour: other sizes, and offcuts.

    A single sheet that is smaller than the paper's own, or one called so, is an offcut: what is cut from it costs none.
    """
    if main.pattern:
        return []
    found = []
    for one in papers:
        size = (one.width_mm, one.height_mm)
        is_main = (one.name, size, one.sheets_left) == (main.name, main.sheet_mm, main.left)
        if one.colour == main.colour and one.sheets_left and not is_main:
            is_less = one.width_mm * one.height_mm < main.sheet_mm[0] * main.sheet_mm[1]
            is_offcut = is_less and (one.sheets_left == 1 or OFFCUT in one.name)
            found.append(Stock(one.name, one.colour, "", size, one.sheets_left, is_offcut))
    return sorted(set(found), key=lambda one: (not one.is_offcut, one.sheet_mm[0] * one.sheet_mm[1]))[:MOST_SIZES]


def is_within(size: tuple[float, float], sheet: tuple[float, float]) -> bool:
    """Whether a box of a size fits on a sheet, either way up."""
    (short, long), (narrow, wide) = sorted(size), sorted(sheet)
    return short <= narrow + SLACK_MM and long <= wide + SLACK_MM


def within_platform(work: Work, stock: Stock) -> tuple[float, float]:
    """Return the size of a paper's sheet as the platform takes it, lying as it lies best, mm."""
    sheet, platform = stock.sheet_mm, work.card.sheets.platform_mm
    ways = [(min(sheet[0], wide), min(sheet[1], high)) for wide, high in (platform, platform[::-1])]
    width, height = max(ways, key=lambda way: way[0] * way[1])
    return (max(width, height), min(width, height))
