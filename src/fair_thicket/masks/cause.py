"""One cause of what differs, and what was moved between the card as composed and the card as done."""

from collections.abc import Mapping
from typing import NamedTuple

from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Piece
from fair_thicket.shape.outline import Area
from fair_thicket.shape.raster import BoolArray

SAME_MM, SAME_DEG = 1e-6, 1e-6


class Cause(NamedTuple):
    """Why pixels differ.

    Attributes
    ----------
    kind, what, front, back, press
        As of a `Difference`.
    pixels : (rows, columns) bool
        Of the panel.
    edge : Polygon, MultiPolygon or None
        The front image's, for what is measured from it.
    """

    kind: str
    what: str
    front: str
    back: str
    press: int
    pixels: BoolArray
    edge: Area | None = None


class Moves:
    """The pieces of a card as composed, and as the hands have put them.

    Attributes
    ----------
    wanted, done : mapping of id to Piece
    """

    def __init__(self, wanted: Work, done: Work) -> None:
        self.wanted: Mapping[str, Piece] = {piece.id: piece for piece in wanted.card.pieces}
        self.done: Mapping[str, Piece] = {piece.id: piece for piece in done.card.pieces}

    def is_moved(self, key: str) -> bool:
        """Whether a piece lies beside its place."""
        one, other = self.wanted.get(key), self.done.get(key)
        if one is None or other is None:
            return False
        turned = abs(getattr(one, "angle_deg", 0.0) - getattr(other, "angle_deg", 0.0)) > SAME_DEG
        return turned or abs(one.x - other.x) > SAME_MM or abs(one.y - other.y) > SAME_MM

    def moved_with(self, key: str) -> str:
        """Return the piece that was moved, with all that lies on it: the lowest of them."""
        while (on := self.wanted[key].on if key in self.wanted else "") in self.wanted and self.is_moved(on):
            key = on
        return key
