"""What hands do to a card, one action after the other: what a rehearsal performs."""

from typing import Literal

import msgspec


class Action(msgspec.Struct, frozen=True):
    """One thing that is done.

    Attributes
    ----------
    kind : str
        ``press`` (a press of the plan, a wash, a stamp in the hand), ``colour`` (an image by its runs), ``words`` (a
        strip's are put on it), ``glue`` (a piece lands on its surface; finishes are set).
    piece : str
        Id of the piece; empty for a press.
    press : int
        Index of the press in the plan; -1 for all else.
    under : tuple of str
        Ids of pieces that are on the card already, and that it is slid in under.
    """

    kind: Literal["press", "colour", "words", "glue"]
    piece: str = ""
    press: int = -1
    under: tuple[str, ...] = ()
