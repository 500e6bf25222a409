"""Why other paper lies on top of the rehearsed card than is wanted: not glued on, beside its place, or over another."""

from collections.abc import Iterator, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.laid.stack import Leaf
from fair_thicket.masks.cause import Cause, Moves
from fair_thicket.masks.differences import PX_PER_MM
from fair_thicket.masks.performance import Performance
from fair_thicket.model.pieces import PaperPiece, is_glued
from fair_thicket.shape.raster import BoolArray, fill


class PaperCauses:
    """Looks at what lies on top; `leaves` are the composed card's."""

    def __init__(self, moves: Moves, leaves: tuple[Leaf, ...], made: Performance) -> None:
        self._moves, self._leaves, self._made = moves, leaves, made
        self._landed = {entry.piece.id for entry in made.pile if isinstance(entry, Leaf)}
        self._size = made.sheets[""].canvas.shape[:2]

    def of_paper(self, seen: BoolArray) -> tuple[list[Cause], dict[str, BoolArray]]:
        """Tell where other paper lies on top than is wanted.

        Returns
        -------
        list of Cause
        dict of str to (rows, columns) bool
            Where the right paper lies on top and still differs, by its id; empty for the base.
        """
        wanted = [leaf for leaf in self._leaves if is_glued(leaf.piece)]
        done = [entry for entry in self._made.pile if isinstance(entry, Leaf)]
        causes, same = self._of_layer(seen, wanted, done)
        through = np.zeros(self._size, bool)
        for key, pixels in same.items():
            piece = self._moves.wanted.get(key)
            if isinstance(piece, PaperPiece) and piece.translucent:
                through |= pixels
        if through.any():  # what is seen through vellum lies below it
            opaque = [[leaf for leaf in leaves if leaf.hides] for leaves in (wanted, done)]
            more, below = self._of_layer(through, *opaque)
            causes += more
            for key, pixels in below.items():
                same[key] = same.get(key, np.zeros(self._size, bool)) | pixels
        return causes, same

    def _of_layer(
        self, seen: BoolArray, wanted: Sequence[Leaf], done: Sequence[Leaf]
    ) -> tuple[list[Cause], dict[str, BoolArray]]:
        """Tell where other paper lies on top, of some leaves alone, than is wanted."""
        above, below = self._top(wanted), self._top(done)
        names = ["", *dict.fromkeys(leaf.piece.id for leaf in (*wanted, *done))]
        number = {name: index for index, name in enumerate(names)}
        over = np.array([0, *(number[leaf.piece.id] for leaf in wanted)], np.int32)[above + 1]
        under = np.array([0, *(number[leaf.piece.id] for leaf in done)], np.int32)[below + 1]
        pairs = np.unique(over[seen].astype(np.int64) * len(names) + under[seen])
        causes: list[Cause] = []
        same: dict[str, BoolArray] = {}
        for pair in pairs.tolist():
            a, b = divmod(pair, len(names))
            here = seen & (over == a) & (under == b)
            if a == b:
                same[names[a]] = here
            else:
                causes += self._other_paper(names[a], names[b], here, wanted, done)
        return causes, same

    def _top(self, leaves: Sequence[Leaf]) -> NDArray[np.int32]:
        """Return the number of the leaf that lies on top, from 0, and -1 for the base."""
        top = np.full(self._size, -1, np.int32)
        for number, leaf in enumerate(leaves):
            top[fill(leaf.area, self._size, PX_PER_MM)] = number
        return top

    def _other_paper(
        self, a: str, b: str, here: BoolArray, wanted: Sequence[Leaf], done: Sequence[Leaf]
    ) -> Iterator[Cause]:
        """Tell why another piece lies on top than the one that is wanted there."""
        if a and a not in self._landed:
            yield Cause("missing", "paper", *self._whole_of(a), -1, here)
            return
        if a:
            there = self._cover(leaf for leaf in done if leaf.piece.id == a)
            if (here & ~there).any():
                yield Cause("place", "paper", *self._moved(a), -1, here & ~there)
            here = here & there
        belongs = self._cover(leaf for leaf in wanted if leaf.piece.id == b) if b else here
        if (here & ~belongs).any():
            kind = "place" if b in self._moves.wanted else "extra"
            yield Cause(kind, "paper", *self._moved(b), -1, here & ~belongs)
        if (here & belongs).any():
            yield Cause("order", "paper", b, a, -1, here & belongs)

    def _cover(self, leaves: Iterator[Leaf]) -> BoolArray:
        return fill(shapely.union_all([leaf.area for leaf in leaves]), self._size, PX_PER_MM)

    def _whole_of(self, key: str) -> tuple[str, str]:
        """Return the piece that is not there, with all that lies on it: the lowest of them."""
        while (on := self._moves.wanted[key].on) in self._moves.wanted and on not in self._landed:
            key = on
        return key, key

    def _moved(self, key: str) -> tuple[str, str]:
        return self._moves.moved_with(key), self._moves.moved_with(key)
