"""What is to be said of sheets before they are laid out: what fits none, what runs short, what stands in for it."""

import itertools
import math
from collections import defaultdict
from collections.abc import Iterator, Sequence

import shapely

from fair_thicket.edits.trimming import find_equal_borders
from fair_thicket.ink.difference import difference_of
from fair_thicket.ink.naming import say_colour
from fair_thicket.model.card import Work
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import Colour
from fair_thicket.model.supplies import Paper, Supply
from fair_thicket.model.units import say_length, say_size
from fair_thicket.packing.bounds import fewest_by_size
from fair_thicket.packing.layouts import NestedSheet, lay
from fair_thicket.sheets.laying import gap_of, laid_by_hand, pieces_of, whole_outline
from fair_thicket.sheets.stocks import Stock, is_within, others_of, stock_of, within_platform
from fair_thicket.sheets.things import Thing, list_things

LEAST_OVER_MM, MOST_OVER_MM = 0.8, 12.0
"""A base that is higher by less is equal to the eye; by more it is meant so (our own guess)."""
SLACK_MM = 0.05
"""Images on a sheet are said to lie badly from this much on: a hand does not see less."""
NEAR_ENOUGH = 8.0
"""A paper that differs by less from a missing one stands in for it unseen (our own guess)."""


def judge(work: Work, supplies: Sequence[Supply] = ()) -> list[Finding]:
    """Judge the sheets of a card, as files hold it."""
    papers = [one for one in supplies if isinstance(one, Paper)]
    things = [one for one in list_things(work) if one.copies]
    return [
        *_too_large(work, things, papers),
        *_short(work, things, papers),
        *_laid_badly(work, things, papers),
        *_unequal(work),
    ]


def _too_large(work: Work, things: Sequence[Thing], papers: Sequence[Paper]) -> Iterator[Finding]:
    """Tell what is larger than a sheet of its paper."""
    for one in things:
        stock = stock_of(work, one.paper, one.pattern, papers, [one.size_mm])
        if not is_within(one.size_mm, stock.sheet_mm):
            (short, long), (narrow, wide) = sorted(one.size_mm), sorted(stock.sheet_mm)
            unit = work.card.unit
            yield Finding(
                "too-large",
                Weight.CAUTION,
                f"The {one.name} is larger than a sheet of {stock.name}",
                f"It measures {say_size(*one.size_mm, unit)}, a sheet {say_size(*stock.sheet_mm, unit)}: join it of "
                "two, or take a larger sheet.",
                round(max(short - narrow, long - wide), 1),
                "mm",
                one.pieces,
            )


def _short(work: Work, things: Sequence[Thing], papers: Sequence[Paper]) -> Iterator[Finding]:
    """Tell papers of which there are too few sheets, by area alone: no layout could do with those."""
    by_paper: dict[tuple[str, str], list[Thing]] = defaultdict(list)
    for one in things:
        by_paper[one.paper, one.pattern].append(one)
    for (colour, pattern), own in by_paper.items():
        stock = stock_of(work, colour, pattern, papers, [one.size_mm for one in own])
        if stock.left is None:
            continue
        least = _fewest(own, stock, papers)
        if least <= stock.left:
            continue
        text = f"At least {least} are wanted and {stock.left} are left: buy {least - stock.left}."
        text += _say_stand_in(colour, [one for one in papers if one.sheets_left >= least])
        yield Finding(
            "sheets-short",
            Weight.CAUTION,
            f"Too few sheets of {stock.name}",
            text,
            float(least - stock.left),
            "count",
            tuple(dict.fromkeys(key for one in own for key in one.pieces)),
        )


def _fewest(things: Sequence[Thing], stock: Stock, papers: Sequence[Paper]) -> int:
    """Return how many sheets of a paper things take at least, beside other sizes and offcuts of it that there are."""
    sizes = [float(one.area.area) for one in things for _ in range(one.copies)]
    room = stock.sheet_mm[0] * stock.sheet_mm[1]
    beside = sum(one.sheet_mm[0] * one.sheet_mm[1] * (one.left or 0) for one in others_of(stock, papers))
    return math.ceil(max(0.0, sum(sizes) - beside) / room) if beside else fewest_by_size(sizes, room)


def _say_stand_in(colour: Colour, papers: Sequence[Paper]) -> str:
    """Say which paper comes nearest to one of another colour; nothing where there is none."""
    others = [one for one in papers if one.colour != colour]
    if not others:
        return ""
    nearest = min(others, key=lambda one: difference_of(one.colour, colour))
    off = difference_of(nearest.colour, colour)
    how = "unseen" if off <= NEAR_ENOUGH else f"{off:.0f} off"
    return f" {nearest.name} ({say_colour(nearest.colour)}) could stand in, {how}."


def _laid_badly(work: Work, things: Sequence[Thing], papers: Sequence[Paper]) -> Iterator[Finding]:
    """Tell images that were moved by hand too near to each other or into the sheet's free edge."""
    for laid in work.card.sheets.by_hand:
        own = [one for one in things if one.is_stamped and (one.paper, one.pattern) == (laid.colour, laid.pattern)]
        stock = stock_of(work, laid.colour, laid.pattern, papers, [one.size_mm for one in own])
        nesting = laid_by_hand(work, stock, pieces_of(work, own))
        if nesting is None:
            continue
        for sheet in nesting.sheets:
            near, out = _faults(work, stock, own, sheet)
            if near or out:
                yield _say_laid(own, near, out, gap_of(work, own))


def _faults(
    work: Work, stock: Stock, own: Sequence[Thing], sheet: NestedSheet
) -> tuple[list[tuple[float, str, str]], list[str]]:
    """Find the images of a sheet that lie too near to each other, mm, and those in its free edge or beyond."""
    areas = {one.key: whole_outline(one) for one in own}
    gap, hold = gap_of(work, own), work.card.sheets.hold_mm
    wide, high = within_platform(work, stock)
    room = shapely.box(hold - SLACK_MM, hold - SLACK_MM, wide - hold + SLACK_MM, high - hold + SLACK_MM)
    placed = [(lay(areas[spot.id], spot), spot.id) for spot in sheet.spots]
    near = [
        (a.distance(b), one, other)
        for (a, one), (b, other) in itertools.combinations(placed, 2)
        if shapely.dwithin(a, b, gap - SLACK_MM)
    ]
    return near, [key for area, key in placed if not room.contains(area)]


def _say_laid(own: Sequence[Thing], near: Sequence[tuple[float, str, str]], out: Sequence[str], gap: float) -> Finding:
    known = {one.key: one for one in own}
    told = []
    if near:
        least, one, other = min(near)
        apart = f"{least:.1f} mm apart" if least > 0 else "over each other"
        told.append(f"The {known[one].name} and the {known[other].name} lie {apart}; {gap:.1f} mm are wanted.")
    if out:
        told.append(f"The {known[out[0]].name} lies in the free edge that a hand holds, or off the sheet.")
    keys = [key for _, *both in near for key in both] + list(out)
    text = " ".join([*told, "Move them apart, or take Sheets, More, Lay all out anew."])
    measure = min((least for least, _, _ in near), default=0.0)
    pieces = tuple(dict.fromkeys(piece for key in keys for piece in known[key].pieces))
    return Finding(
        "laid-badly", Weight.CAUTION, "Images lie badly on a stamping sheet", text, round(measure, 1), "mm", pieces
    )


def _unequal(work: Work) -> Iterator[Finding]:
    """Tell a base that is a little too high for equal borders round its panel."""
    found = find_equal_borders(work)
    if found is None:
        return
    height = work.card.panel[1]
    over = height - found.height_mm
    if LEAST_OVER_MM <= over <= MOST_OVER_MM:
        unit = work.card.unit
        yield Finding(
            "unequal-borders",
            Weight.NOTE,
            "The base's borders are not equal",
            f"They are {say_length(found.border_mm, unit)} at the sides. Trimmed to "
            f"{say_length(found.height_mm, unit)} (panel height + base width - panel width) the base shows as much all "
            "round: Card, Trim the base to equal borders.",
            round(over, 1),
            "mm",
            (found.panel,),
        )
