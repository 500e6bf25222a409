"""The line that a mask follows: the image's own, with the rim that the maker wants, loosened at thin stems."""

import shapely

from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import Card
from fair_thicket.model.pieces import Impression, Piece
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.shape.outline import Area, only_areas

STEM_MM = 1.2
"""Parts of an image thinner than this are stems and hairs (our own guess)."""
STEM_MM2 = 0.5
"""Smaller thin parts are corners of what is thick."""
LOOSE_MM = 0.8
"""Paper left beside a stem that is not cut up to (our own guess)."""
QUAD_SEGS = 12


def rim_of(card: Card, key: str) -> float:
    """Return where an image's mask is cut: mm outside its line, below 0 inside it."""
    rim = card.masking.way_of(key).rim_mm
    return card.mask_rim_mm if rim is None else rim


def mask_edge(image: Area, rim_mm: float, *, is_loose: bool) -> Area:
    """Return the area that a mask covers at least, and no more where it is cut with care."""
    edge = _loosened(image) if is_loose else image
    return only_areas(shapely.buffer(edge, rim_mm, quad_segs=QUAD_SEGS)) if rim_mm else edge


def rims_over(card: Card, leaf: Leaf, leaves: tuple[Leaf, ...]) -> shapely.Geometry | None:
    """Return what the masks of images in front keep bare of a stamped or inked leaf beside those images.

    Only rims that the maker wants, of images that are masked from this leaf: they overlap it, lie on the same surface,
    and are not pinned never to be masked. None for nothing.
    """
    if not (card.mask_rim_mm > 0 or card.masking.ways):
        return None
    own = leaf.piece
    found = [
        edge_of(card, front)
        for front in leaves[leaves.index(leaf) + 1 :]
        if isinstance(front.piece, Impression) and front.piece.on == own.on and _is_masked(card, front, own)
        if _has_rim(card, front.piece) and shapely.intersection(front.whole, leaf.whole).area > OVERLAP_MM2
    ]
    return shapely.union_all(found) if found else None


def _has_rim(card: Card, piece: Impression) -> bool:
    return rim_of(card, piece.id) > 0 or card.masking.way_of(piece.id).is_loose


def _is_masked(card: Card, front: Leaf, back: Piece) -> bool:
    if any(pin.kind == "unmasked" and front.piece.id in pin.pieces for pin in card.masking.pins):
        return False
    return isinstance(back, Impression) or (isinstance(front.piece, Impression) and front.piece.shuns_washes)


def edge_of(card: Card, front: Leaf) -> Area:
    """Return what the mask of an image covers, mm on the panel; one that is cut inside the line counts as on it."""
    key = front.piece.id
    return mask_edge(front.whole, max(0.0, rim_of(card, key)), is_loose=card.masking.way_of(key).is_loose)


def _loosened(image: Area) -> Area:
    """Leave paper beside stems and hairs."""
    half = STEM_MM / 2
    # mitred, so that the corners of what is thick come back whole
    thick = shapely.buffer(shapely.buffer(image, -half, join_style="mitre"), half * 1.05, join_style="mitre")
    thin = [part for part in shapely.get_parts(shapely.difference(image, thick)) if shapely.area(part) > STEM_MM2]
    return only_areas(shapely.union_all([image, *(shapely.buffer(part, LOOSE_MM, quad_segs=8) for part in thin)]))
