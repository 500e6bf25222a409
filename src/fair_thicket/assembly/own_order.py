"""The maker's own order of steps: kept where no rule is broken, refused with the rule where one would be."""

from collections.abc import Sequence
from typing import NamedTuple

import msgspec

from fair_thicket.assembly.operation import After, Operation
from fair_thicket.edits.pieces import set_card
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError

OWN = "you want it so"


class Broken(NamedTuple):
    """A wish that cannot be had: what was to come before what, and the rule against it."""

    first: str
    then: str
    because: str


def with_own_order(
    operations: Sequence[Operation], order: Sequence[tuple[str, str]]
) -> tuple[list[Operation], list[Broken]]:
    """Add the maker's wishes to what comes before what; those that a rule stands against are given back."""
    made = {one.key: one for one in operations}
    broken = []
    for first, then in order:
        if first not in made or then not in made:
            continue
        way = find_way(list(made.values()), then, first)
        if way:
            broken.append(Broken(made[first].words, made[then].words, way[-1].because))
        else:
            made[then] = made[then]._replace(after=(*made[then].after, After(first, OWN)))
    return list(made.values()), broken


def find_way(operations: Sequence[Operation], early: str, late: str) -> list[After]:
    """Return the edges by which one operation has to come before another; nothing where it need not."""
    known = {one.key: one for one in operations}
    ways: dict[str, list[After]] = {late: []}
    ahead = [late]
    while ahead:
        key = ahead.pop()
        for edge in known[key].after if key in known else ():
            if edge.key not in ways:
                ways[edge.key] = [*ways[key], edge]
                ahead.append(edge.key)
    return ways.get(early, [])


def want_before(work: Work, operations: Sequence[Operation], first: str, then: str) -> Work:
    """Want one step before another.

    Raises
    ------
    PaperError
        When a rule is against it: told with its because.
    """
    way = find_way(operations, then, first)
    if way:
        known = {one.key: one.words for one in operations}
        raise PaperError(f"“{_short(known[first])}” comes after “{_short(known[then])}”, because {way[-1].because}.")
    order = tuple(pair for pair in work.card.assembly.order if pair != (then, first))
    return _set_order(work, (*order, (first, then)))


def forget_order(work: Work) -> Work:
    """Forget the maker's own order."""
    return _set_order(work, ())


def _set_order(work: Work, order: tuple[tuple[str, str], ...]) -> Work:
    return set_card(work, assembly=msgspec.structs.replace(work.card.assembly, order=order))


def _short(words: str) -> str:
    return words.partition(":")[0]
