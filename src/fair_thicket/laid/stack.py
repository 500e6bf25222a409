"""The card as a stack of paper: every piece, and every flap, in place and trimmed, from the back to the front.

Glossary
--------
leaf
    What lies at one height: the body of a piece, or one of its flaps.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import shapely
from shapely.geometry import box

from fair_thicket.model.card import Card, Work, carried_by, order_pieces
from fair_thicket.model.derived import derive
from fair_thicket.model.keys import flap_key, flap_number
from fair_thicket.model.pieces import CARD_EDGE, Flap, Impression, PaperPiece, Piece, Wash, is_glued
from fair_thicket.model.stash import Stash
from fair_thicket.shape.outline import Area, only_areas
from fair_thicket.shape.paper import flap_areas, footprint, local_area, place, window_area


@dataclass(frozen=True, eq=False)
class Leaf:
    """One leaf of the stack.

    Attributes
    ----------
    key : str
        The piece's id, or a flap's key.
    piece : Piece
    area : Polygon or MultiPolygon
        In place, mm: what is there after trimming; of ink only what falls on its surface.
    whole : Polygon or MultiPolygon
        The same, with the ink that falls beside its surface.
    sheet : Polygon or MultiPolygon
        All of its piece's paper, flaps and body together: only along its outline has the paper an edge.
    """

    key: str
    piece: Piece
    area: Area
    whole: Area
    sheet: Area

    @property
    def hides(self) -> bool:
        """Whether what is behind is not seen through it."""
        piece = self.piece
        return not isinstance(piece, Wash) and not (isinstance(piece, PaperPiece) and piece.translucent)


def paper_of(card: Card) -> shapely.Polygon:
    """Return the card's front as an area, mm."""
    return box(0, 0, *card.panel)


def stack(work: Work) -> tuple[Leaf, ...]:
    """Lay every leaf of a card in its place; once, the work holds them.

    Leaves of pieces that are as they were on the work that it was made from are taken over as the same objects.
    """

    def lay(before: "_Laid | None") -> _Laid:
        is_like = before is not None and before.stash is work.stash and before.panel == work.card.panel
        return _Laid(work.stash, work.card.panel, lay_leaves(work, before.leaves if before and is_like else ()))

    return derive(work, "leaves", lay).leaves


class _Laid(NamedTuple):
    """Leaves, the stash that they were laid from, and the size of the panel that they were laid on."""

    stash: Stash
    panel: tuple[float, float]
    leaves: tuple[Leaf, ...]


def lay_leaves(work: Work, earlier: Sequence[Leaf]) -> tuple[Leaf, ...]:
    """Lay every leaf; those of pieces that are as they were, and lean on such, are taken over."""
    pieces = order_pieces(work.card.pieces)
    known = {leaf.key: leaf for leaf in earlier}
    by_id = {piece.id: piece for piece in pieces}
    fresh = {piece.id for piece in pieces if piece.id not in known or known[piece.id].piece is not piece}
    paper = paper_of(work.card)
    bodies: dict[str, Leaf] = {}
    flaps: list[Leaf] = []
    for piece in pieces:
        leans_on = {piece.on, piece.trim_to} & by_id.keys()
        if not fresh & {piece.id, *leans_on} and piece.trim_to != CARD_EDGE and _lies(piece, known, by_id):
            leaves = _known_leaves(piece, known)
        else:
            fresh.add(piece.id)
            leaves = _lay(piece, work.stash, by_id, bodies, paper)
        bodies[piece.id] = leaves[0]
        flaps += leaves[1:]
    return _insert(pieces, list(bodies.values()), flaps)


def _known_leaves(piece: Piece, known: dict[str, Leaf]) -> list[Leaf]:
    """Return the leaves of a piece as they lay: its body first, then its flaps."""
    keys = [flap_key(piece.id, n) for n in range(len(piece.flaps))] if isinstance(piece, PaperPiece) else []
    return [known[key] for key in [piece.id, *keys] if key in known]


def _flap_of(leaf: Leaf) -> Flap:
    number = flap_number(leaf.key)
    if number is None or not isinstance(leaf.piece, PaperPiece):
        raise TypeError("only paper has flaps")
    return leaf.piece.flaps[number]


def _lies(piece: Piece, known: dict[str, Leaf], by_id: dict[str, Piece]) -> bool:
    """Whether the flaps of a piece go past the same pieces as when it was laid: none has gone or come back."""
    if not isinstance(piece, PaperPiece):
        return True
    return all((flap.past in by_id) == (flap_key(piece.id, n) in known) for n, flap in enumerate(piece.flaps))


def _lay(
    piece: Piece, stash: Stash, by_id: dict[str, Piece], bodies: dict[str, Leaf], paper: shapely.Polygon
) -> list[Leaf]:
    """Lay one piece: its body first, then its flaps."""
    trim = _trim_region(piece, stash, by_id, paper)

    def cut(area: Area) -> Area:
        return area if trim is None else only_areas(shapely.intersection(area, trim))

    own = local_area(piece, stash)
    if not isinstance(piece, PaperPiece) or not piece.flaps:
        whole = cut(place(own, piece))
        area = whole
        surface = bodies.get(piece.on)
        if isinstance(piece, Wash):
            area = whole = only_areas(shapely.intersection(whole, surface.area if surface else paper))
        elif isinstance(piece, Impression) and surface is not None:
            area = only_areas(shapely.intersection(whole, surface.area))
        return [Leaf(piece.id, piece, area, whole, whole)]
    parts = flap_areas(piece, own)
    rest = only_areas(shapely.difference(own, shapely.union_all(parts)))
    moved = [part for part in enumerate(parts) if piece.flaps[part[0]].past in by_id]
    stay = [part for index, part in enumerate(parts) if piece.flaps[index].past not in by_id]
    body = cut(place(only_areas(shapely.union_all([rest, *stay])) if stay else rest, piece))
    sheet = cut(place(own, piece))
    leaves = [Leaf(piece.id, piece, body, body, sheet)]
    for index, part in moved:
        area = cut(place(part, piece))
        leaves.append(Leaf(flap_key(piece.id, index), piece, area, area, sheet))
    return leaves


def _trim_region(piece: Piece, stash: Stash, by_id: dict[str, Piece], paper: shapely.Polygon) -> Area | None:
    if not piece.trim_to:
        return None
    if piece.trim_to == CARD_EDGE:
        return paper
    other = by_id.get(piece.trim_to)
    if other is None:
        return None
    windows = window_area(other, stash)
    if piece.trim_to == piece.on or windows.is_empty:
        outer = footprint(other, stash)
        return only_areas(shapely.union(outer, windows)) if not windows.is_empty else outer
    return windows


def _insert(pieces: Sequence[Piece], bodies: list[Leaf], flaps: Sequence[Leaf]) -> tuple[Leaf, ...]:
    """Put each flap right over or right under the piece that it goes past, together with what that piece carries.

    Ink is no paper: what goes past it lies on its sheet, over all ink there, whatever side is asked for.
    """
    order = [piece.id for piece in pieces]
    before: dict[int, list[Leaf]] = {}
    after: dict[int, list[Leaf]] = {}
    for leaf in flaps:
        flap = _flap_of(leaf)
        at = order.index(flap.past)
        if not is_glued(pieces[at]):
            inks = (n for n, piece in enumerate(pieces) if piece.on == pieces[at].on and not is_glued(piece))
            after.setdefault(max(inks), []).append(leaf)
        elif flap.side == "under":
            before.setdefault(at, []).append(leaf)
        else:
            last = max([at, *(order.index(key) for key in carried_by(pieces, flap.past))])
            after.setdefault(last, []).append(leaf)
    leaves: list[Leaf] = []
    for index, body in enumerate(bodies):
        leaves += [*before.get(index, ()), body, *after.get(index, ())]
    return tuple(leaves)
