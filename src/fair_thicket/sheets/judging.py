"""What is to be said of sheets before they are laid out: what fits none, what runs short, what stands in for it."""

from collections import defaultdict
from collections.abc import Iterator, Sequence

from fair_thicket.edits.trimming import find_equal_borders
from fair_thicket.ink.difference import difference_of
from fair_thicket.ink.naming import say_colour
from fair_thicket.model.card import Work
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.supplies import Paper, Supply
from fair_thicket.model.units import say_length, say_size
from fair_thicket.packing.bounds import fewest_by_size
from fair_thicket.sheets.planning import is_within, stock_of
from fair_thicket.sheets.things import Thing, list_things

LEAST_OVER_MM, MOST_OVER_MM = 0.8, 12.0
"""A base that is higher by less is equal to the eye; by more it is meant so (our own guess)."""
NEAR_ENOUGH = 8.0
"""A paper that differs by less from a missing one stands in for it unseen (our own guess)."""


def judge(work: Work, supplies: Sequence[Supply] = ()) -> list[Finding]:
    """Judge the sheets of a card, as files hold it."""
    papers = [one for one in supplies if isinstance(one, Paper)]
    things = [one for one in list_things(work) if one.copies]
    return [*_too_large(work, things, papers), *_short(work, things, papers), *_unequal(work)]


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
        sizes = [float(one.area.area) for one in own for _ in range(one.copies)]
        least = fewest_by_size(sizes, stock.sheet_mm[0] * stock.sheet_mm[1])
        if least <= stock.left:
            continue
        others = [one for one in papers if one.colour != colour and one.sheets_left >= least]
        nearest = min(others, key=lambda one: difference_of(one.colour, colour), default=None)
        text = f"At least {least} are wanted and {stock.left} are left: buy {least - stock.left}."
        if nearest is not None:
            off = difference_of(nearest.colour, colour)
            how = "unseen" if off <= NEAR_ENOUGH else f"{off:.0f} off"
            text += f" {nearest.name} ({say_colour(nearest.colour)}) could stand in, {how}."
        yield Finding(
            "sheets-short",
            Weight.CAUTION,
            f"Too few sheets of {stock.name}",
            text,
            float(least - stock.left),
            "count",
            tuple(dict.fromkeys(key for one in own for key in one.pieces)),
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
