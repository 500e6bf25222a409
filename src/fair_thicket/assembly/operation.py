"""One operation, and what comes before it."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple


class After(NamedTuple):
    """What comes before an operation, why, and how long after its end at the soonest, minutes."""

    key: str
    because: str
    wait_min: float = 0.0


class Operation(NamedTuple):
    """One thing to do.

    Attributes
    ----------
    key : str
    kind : str
        ``stamp``, ``colour``, ``cut``, ``press``, ``tape``, ``ink``, ``lay``, ``glue``, ``trim``, ``set``, ``mark``,
        ``post``.
    words : str
    pieces : tuple of str
    minutes : float
        Of the maker's hands, for one card.
    tool : str
        What is in the hand: fewer changes are better.
    after : tuple of After
    """

    key: str
    kind: str
    words: str
    pieces: tuple[str, ...]
    minutes: float
    tool: str
    after: tuple[After, ...] = ()


def join_operations(operations: Sequence[Operation], first: str, then: str) -> list[Operation]:
    """Make one operation of two that are done in one go; it keeps the first's key, and waits for what either waits for.

    Operations that waited for the second wait for both. Unknown keys, and one of them twice, change nothing.
    """
    known = {one.key: one for one in operations}
    if first not in known or then not in known or first == then:
        return list(operations)
    one, other = known[first], known[then]
    both = one._replace(
        words=f"{one.words}. At once: {other.words[:1].lower()}{other.words[1:]}",
        pieces=(*one.pieces, *other.pieces),
        minutes=round(one.minutes + other.minutes, 2),
        after=tuple(edge for edge in _longest((*one.after, *other.after)) if edge.key not in {first, then}),
    )
    moved = []
    for each in operations:
        if each.key == first:
            moved.append(both)
        elif each.key != then:
            edges = (edge._replace(key=first) if edge.key == then else edge for edge in each.after)
            moved.append(each._replace(after=_longest(edges)))
    return moved


def _longest(edges: Iterable[After]) -> tuple[After, ...]:
    """Return for every operation waited for the edge with the longest wait."""
    kept: dict[str, After] = {}
    for edge in edges:
        if edge.key not in kept or edge.wait_min > kept[edge.key].wait_min:
            kept[edge.key] = edge
    return tuple(kept.values())
