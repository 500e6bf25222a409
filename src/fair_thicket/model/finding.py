"""What an engine has to say about a card: a measure, a reason and, where one exists, a remedy."""

import enum
from collections.abc import Collection

import msgspec

from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Dismissal
from fair_thicket.model.masking import Masking
from fair_thicket.model.pieces import Piece


class Weight(enum.IntEnum):
    """How much a finding matters; the worst comes first."""

    TROUBLE = 3
    CAUTION = 2
    NOTE = 1
    GOOD = 0


class Remedy(msgspec.Struct, frozen=True):
    """A change that one click applies: pieces as they should be, another order, or another mask rim.

    Attributes
    ----------
    words : str
        What the button says.
    pieces : tuple of Piece
        Each takes the place of the piece with its id.
    mask_rim_mm : float or None
    order : tuple of str
        Ids of all pieces as they should lie, from the back to the front; empty leaves the order alone.
    masking : Masking or None
        How it should be stamped instead.
    """

    words: str
    pieces: tuple[Piece, ...] = ()
    mask_rim_mm: float | None = None
    order: tuple[str, ...] = ()
    masking: Masking | None = None


class Finding(msgspec.Struct, frozen=True):
    """One piece of advice.

    Attributes
    ----------
    code : str
        Kind of finding, such as ``covered``.
    weight : Weight
    title, text : str
        A headline; the measure and the reason in whole sentences.
    measure : float
        The figure that was judged.
    unit : str
        Unit of the measure: ``mm``, ``mm2``, ``share``, ``ratio``, ``deg``, ``difference`` (CIEDE2000) or ``count``.
    pieces : tuple of str
        Ids of the pieces concerned, the one to act on first.
    places : tuple of rings
        Where on the panel, mm, to be shown.
    remedy : Remedy or None
    more : tuple of Remedy
        Other ways that settle it as well.
    station : str
        The station it belongs to: ``scene``, ``masks``.
    is_dismissed : bool
        Whether the maker has heard it and does not want it again.
    """

    code: str
    weight: Weight
    title: str
    text: str
    measure: float
    unit: str
    pieces: tuple[str, ...] = ()
    places: tuple[Ring, ...] = ()
    remedy: Remedy | None = None
    station: str = "scene"
    is_dismissed: bool = False
    more: tuple[Remedy, ...] = ()

    def marked(self, dismissed: Collection[Dismissal]) -> "Finding":
        """Give it marked as dismissed, where the maker has said so of its kind and its piece."""
        own = Dismissal(self.code, self.pieces[0] if self.pieces else "")
        return msgspec.structs.replace(self, is_dismissed=own in dismissed)
