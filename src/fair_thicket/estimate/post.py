"""What paper weighs, and the envelope that takes a card: one table (`model.formats`), one rule of room."""

import shapely

from fair_thicket.laid.heights import find_heights
from fair_thicket.laid.pinned import as_planned
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work
from fair_thicket.model.formats import Envelope, smallest_envelope
from fair_thicket.model.masking import Rates
from fair_thicket.model.pieces import PaperPiece
from fair_thicket.model.sides import sides_of

MM2_PER_M2 = 1e6
FLAT_MM = 1.0
"""A card that is no higher is flat; a raised one wants as much more room as it is higher (common practice)."""


def paper_grams(rates: Rates, area_mm2: float, layers: int = 1) -> float:
    """Grams of paper that is glued on."""
    return area_mm2 / MM2_PER_M2 * rates.gsm * layers


def room_mm(work: Work, high_mm: float) -> float:
    """Room that an envelope needs round a card in all, for what is glued on it so high on both sides together."""
    return work.card.limits.envelope_mm + max(0.0, high_mm - FLAT_MM)


def glued_height(work: Work) -> float:
    """Height of all that is glued on a card, both sides together, mm."""
    return round(sum(find_heights(as_planned(side)).most_mm for _, side in sides_of(work)), 3)


def thickness(work: Work, high_mm: float) -> float:
    """Thickness of a folded card with what is glued on it so high on both sides together, mm."""
    return 2 * work.card.assembly.base_mm + high_mm


def outer_size(work: Work) -> tuple[float, float]:
    """Width and height of the card as it lies in its envelope, with all paper that hangs over its edge, mm."""
    width, height = work.card.panel
    leaves = [leaf for _, side in sides_of(work) for leaf in stack(as_planned(side))]
    glued = [leaf.area for leaf in leaves if isinstance(leaf.piece, PaperPiece) and not leaf.area.is_empty]
    left, top, right, bottom = shapely.total_bounds([shapely.box(0, 0, width, height), *glued]).tolist()
    return right - left, bottom - top


def envelope_for(work: Work, size: tuple[float, float], high_mm: float) -> Envelope | None:
    """Return the smallest envelope that takes a size, in the card's own unit where there is one; None for none."""
    room = room_mm(work, high_mm)
    return smallest_envelope(size[0] + room, size[1] + room, work.card.unit)
