"""One operation, and what comes before it."""

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
        ``stamp``, ``colour``, ``cut``, ``press``, ``tape``, ``ink``, ``lay``, ``glue``, ``trim``, ``set``, ``post``.
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
