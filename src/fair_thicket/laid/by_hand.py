"""What is stamped by hand once everything is glued: only a small stamp, on flat ground that is free.

Common practice: what goes under the platform is stamped before anything is raised; a trail or a word that is to meet a
figure may still be stamped by hand beside it.
"""

import shapely

from fair_thicket.laid.stack import Leaf, stack
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Impression, PaperPiece, Piece, is_glued

CLEAR_MM = 1.0
"""What is glued keeps so far from the stamp: it would lean on it (our own estimate)."""
SMALL_MM = 60.0
"""A longer stamp is not pressed evenly by hand (our own estimate)."""


def stamped_by_hand(work: Work) -> frozenset[str]:
    """Ids of the impressions that are stamped by hand at the end: the maker wants it, and nothing is against it."""
    wanted = [piece for piece in work.card.pieces if isinstance(piece, Impression) and piece.stamped == "by hand"]
    return frozenset(piece.id for piece in wanted if not why_not_by_hand(work, piece)[0])


def why_not_by_hand(work: Work, piece: Impression) -> tuple[str, tuple[str, ...]]:
    """Say why an impression cannot be stamped by hand when all is glued; empty where it can.

    Returns
    -------
    (str, tuple of str)
        The end of a sentence that begins with its name, and the ids of pieces in the way.
    """
    stamp = work.stash.find(piece.stamp)
    if max(stamp.width_mm, stamp.height_mm) > SMALL_MM:
        return "is too large to be pressed evenly by hand", ()
    if piece.is_embossed or piece.is_coloured:
        return "is coloured or embossed, which wants the card still bare", ()
    if _is_raised(work, piece):
        return "lies on foam, which gives way under the hand", (piece.on,)
    return _in_the_way(work, piece)


def _in_the_way(work: Work, piece: Impression) -> tuple[str, tuple[str, ...]]:
    leaves = stack(work)
    own = next(leaf for leaf in leaves if leaf.piece.id == piece.id)
    block = shapely.buffer(own.whole, CLEAR_MM)
    above = leaves[leaves.index(own) + 1 :]
    glued = [leaf.piece.id for leaf in above if is_glued(leaf.piece) and _meet(leaf, block)]
    if glued:
        return f"would be stamped on what is glued, or within {CLEAR_MM:g} mm of it", tuple(dict.fromkeys(glued))
    stamped = [
        leaf.piece.id
        for leaf in leaves
        if isinstance(leaf.piece, Impression) and leaf is not own and _meet(leaf, own.whole)
    ]
    return ("overlaps what is stamped", tuple(stamped)) if stamped else ("", ())


def _meet(leaf: Leaf, area: shapely.Geometry) -> bool:
    return bool(shapely.intersects(leaf.area, area))


def _is_raised(work: Work, piece: Impression) -> bool:
    """Whether any paper under an impression lies on foam."""
    by_id: dict[str, Piece] = {one.id: one for one in work.card.pieces}
    at = by_id.get(piece.on)
    seen: set[str] = set()
    while isinstance(at, PaperPiece) and at.id not in seen:
        if at.lift_mm:
            return True
        seen.add(at.id)
        at = by_id.get(at.on)
    return False
