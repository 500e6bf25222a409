"""Paper that is glued on paper: piles that grow as pieces land, and the order of what lies in them.

Glossary
--------
pile
    Paper that lies on one another, from below: on the card's base, or on a piece that is not glued on yet.
"""

from collections.abc import Mapping, Sequence

from fair_thicket.ink.simulated_sheet import Lay
from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import Work, carried_by
from fair_thicket.model.keys import flap_number
from fair_thicket.model.performance import Action
from fair_thicket.model.pieces import Flap, PaperPiece, is_glued

Entry = Leaf | Lay
"""What lies in a pile: paper, or ink that was stamped by hand on all that lay there."""


class Piles:
    """All piles of a side.

    Attributes
    ----------
    on_base : list of Entry
        What lies on the card's base, from below.
    """

    def __init__(self, work: Work, parts: Mapping[str, Sequence[Leaf]]) -> None:
        self._work, self._parts = work, parts
        self._by_id = {piece.id: piece for piece in work.card.pieces}
        self._piles = {key: self._own_pile(key) for key in parts} | {"": list[Entry]()}

    @property
    def on_base(self) -> list[Entry]:
        return self._piles[""]

    def _own_pile(self, key: str) -> list[Entry]:
        """Return a piece's own paper: its body, then its flaps."""
        parts = sorted(self._parts[key], key=lambda leaf: leaf.key != key)
        return list[Entry](parts)

    def land(self, action: Action) -> bool:
        """Land a piece, with all glued on it, on the pile that its surface lies in; False where there is none."""
        piece = self._by_id.get(action.piece)
        if not isinstance(piece, PaperPiece) or action.piece not in self._piles:
            return False
        entries = self._piles.pop(action.piece)
        pile = self._piles[self._root(piece)]
        over = (n for n, entry in enumerate(pile) if any(_is_of(entry, key) for key in action.under))
        place = min(over, default=len(pile))
        pile[place:place] = entries
        for entry in list(pile):
            flap = _flap_of(entry)
            if flap is not None and isinstance(entry, Leaf):
                self._place(pile, entry, flap, piece.id)
        return True

    def _place(self, pile: list[Entry], entry: Leaf, flap: Flap, landed: str) -> None:
        """Bring a loose part of paper to its place, when it or what it goes past has just landed."""
        past, own = self._by_id.get(flap.past), entry.piece.id == landed
        if past is not None and not is_glued(past):
            if own or landed == past.on:  # ink is no paper: it lies on the ink's sheet, under all else there
                pile.remove(entry)
                pile.insert(max(_places_of(pile, past.on), default=-1) + 1, entry)
            return
        there = _places_of(pile, flap.past)
        if not there:
            return
        if flap.side == "under" and own:
            pile.remove(entry)
            pile.insert(there[0], entry)
        elif flap.side == "over" and self._comes_over(flap, entry, landed):
            pile.remove(entry)
            pile.append(entry)

    def _comes_over(self, flap: Flap, entry: Leaf, landed: str) -> bool:
        """Whether a part that was left loose is laid over what has just landed: what it goes past, or lies on that."""
        return entry.piece.id != landed and landed in {flap.past, *carried_by(self._work.card.pieces, flap.past)}

    def _root(self, piece: PaperPiece) -> str:
        """Return whose pile a piece's surface lies in: the base's, once all of it is glued there."""
        if piece.on not in self._parts:
            return ""
        if piece.on in self._piles:
            return piece.on
        found = (key for key, pile in self._piles.items() if any(_is_of(entry, piece.on) for entry in pile))
        return next(found, "")


def _is_of(entry: Entry, key: str) -> bool:
    return isinstance(entry, Leaf) and entry.piece.id == key


def _places_of(pile: Sequence[Entry], key: str) -> list[int]:
    return [n for n, entry in enumerate(pile) if _is_of(entry, key)]


def _flap_of(entry: Entry) -> Flap | None:
    """Return which flap a leaf is; None for what is none."""
    if not isinstance(entry, Leaf) or not isinstance(entry.piece, PaperPiece):
        return None
    number = flap_number(entry.key)
    return None if number is None else entry.piece.flaps[number]
