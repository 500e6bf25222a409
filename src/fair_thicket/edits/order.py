"""What may lie in front of what: stamped marks under glue, and what a piece carries right on it."""

from collections.abc import Sequence

import msgspec

from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work, carried_by, name_pieces, order_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Impression, Piece, Wash
from fair_thicket.shape.overlap import find_overlaps


def settle(work: Work) -> Work:
    """Bring a card's pieces into the order that paper allows (see `order_pieces`)."""
    ordered = order_pieces(work.card.pieces)
    if ordered == work.card.pieces:
        return work
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=ordered))


def refuse_order(work: Work, wanted: Sequence[Piece], settled: Sequence[Piece]) -> None:
    """Refuse a wanted order where it shows that paper settles otherwise.

    Raises
    ------
    PaperError
        With the reason and the way out.
    """
    if tuple(wanted) == tuple(settled):
        return
    leaves = {leaf.key: leaf.area for leaf in stack(work) if leaf.key == leaf.piece.id}
    ids = [piece.id for piece in wanted]
    places = {piece.id: index for index, piece in enumerate(settled)}
    for i, j in find_overlaps([leaves[key] for key in ids]):
        if places[ids[i]] > places[ids[j]]:
            raise PaperError(_reason(work, wanted[i], wanted[j]))


def _reason(work: Work, back: Piece, front: Piece) -> str:
    """Say why `front` cannot lie in front of `back`."""
    names = name_pieces(work)
    below, above = names[back.id], names[front.id]
    pieces = work.card.pieces
    if back.id in carried_by(pieces, front.id):
        return f"The {below} lies on the {above}, so it stays in front of it; take it off first."
    if isinstance(front, Wash):
        return f"The {above} is inked before anything else, so it stays behind the {below}."
    if isinstance(front, Impression):
        return (
            f"The {above} is stamped, and what is stamped cannot be in front of what is glued over it: the {below}. "
            f"Cut the {above} out, or stamp it on the {below}."
        )
    for one, other in ((back, above), (front, below)):
        carrier = next((names[piece.id] for piece in pieces if one.id in carried_by(pieces, piece.id)), "")
        if carrier:
            return (
                f"The {names[one.id]} is glued to the {carrier}, and the two go together: bring the {carrier} past "
                f"the {other} as a whole, or make a flap."
            )
    return f"Paper does not let the {above} lie in front of the {below}."
