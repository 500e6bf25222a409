"""How thick and heavy a card is, and which letter it goes as.

Notes
-----
Sizes of envelopes: ISO 269 (C6 114 x 162 mm, DL 110 x 220, C5 162 x 229). Sizes of letters: Domestic Mail Manual of
the United States, section 101 (5 to 11 1/2 in long, 3 1/2 to 6 1/8 in high, 0.007 to 1/4 in thick, length over height
1.3 to 2.5, to 3.5 oz), from memory. Tariffs change: the maker is told to ask.
"""

from collections.abc import Sequence
from typing import NamedTuple

import shapely

from fair_thicket.assembly.foam import FoamPlan
from fair_thicket.assembly.glue import GluePlan
from fair_thicket.assembly.heights import Heights, Rest
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Embellishment

FOAM_G_CM3, GLUE_G_CM2 = 0.07, 0.004
"""Weight of foam tape, and of what is glued (our own guesses)."""
EMBELLISHMENT_G_CM3 = 1.2
INCH, OUNCE_G = 25.4, 28.349523125
US_LONG, US_HIGH, US_RATIO = (5 * INCH, 11.5 * INCH), (3.5 * INCH, 6.125 * INCH), (1.3, 2.5)
US_GRAMS = 3.5 * OUNCE_G
EUROPE_THICK_MM = 5.0
"""Many European letter tariffs stop here (common practice)."""
ENVELOPES = {
    "A2 (4 3/8 x 5 3/4 in)": (4.375 * INCH, 5.75 * INCH),
    "C6 (114 x 162 mm)": (114.0, 162.0),
    "A6 (4 3/4 x 6 1/2 in)": (4.75 * INCH, 6.5 * INCH),
    "DL (110 x 220 mm)": (110.0, 220.0),
    "A7 (5 1/4 x 7 1/4 in)": (5.25 * INCH, 7.25 * INCH),
    "No. 10 (4 1/8 x 9 1/2 in)": (4.125 * INCH, 9.5 * INCH),
    "C5 (162 x 229 mm)": (162.0, 229.0),
}
"""By their area, the smallest first; inches from memory, the others ISO 269."""
FLAT_MM, SQUARE = 1.0, 1.1
"""A card that is no higher is flat; one that is no longer for its height is square, and so is its usual envelope."""
ROOM_MM = 3.0
"""Room that an envelope needs round a flat card, in all; a raised one wants its height more (common practice)."""
ASK = "Check with your postal service: tariffs change."


class Post(NamedTuple):
    """A card as a letter.

    Attributes
    ----------
    thickness_mm : float
        At the highest place: base twice, both sides.
    grams : float
    envelope : str
        The smallest that takes it; empty for none that is known.
    reasons : tuple of str
        Why it is no plain letter; empty where it may go as one.
    """

    thickness_mm: float
    grams: float
    envelope: str
    reasons: tuple[str, ...]


def weigh_post(
    work: Work, front: Heights, inside: Heights | None, foams: Sequence[FoamPlan], glues: Sequence[GluePlan]
) -> Post:
    """Tell how thick and heavy a card is, folded, and what it may go as; foam and glue of both its sides."""
    rules = work.card.assembly
    sides = [front, *([inside] if inside is not None else [])]
    thick = 2 * rules.base_mm + sum(side.most_mm for side in sides)
    grams = _base_grams(work) + sum(_grams(work, rest) for side in sides for rest in side.rests)
    grams += sum(strip.area.area * strip.thick_mm / 1000 * FOAM_G_CM3 for foam in foams for strip in foam.strips)
    grams += sum(glue.area_cm2 for glue in glues) * GLUE_G_CM2
    size = _outer_size(work, front)
    high = thick - 2 * rules.base_mm
    envelope = _envelope(size, high)
    is_square = max(size) <= SQUARE * min(size)
    posted = size if is_square else ENVELOPES.get(envelope, size)
    return Post(round(thick, 2), round(grams, 1), envelope, tuple(_reasons(posted, thick, grams)))


def _base_grams(work: Work) -> float:
    width, height = work.card.panel
    return 2 * width * height / 1e6 * work.card.assembly.base_gsm


def _grams(work: Work, rest: Rest) -> float:
    if isinstance(rest.piece, Embellishment):
        return rest.area.area * rest.thick_mm / 1000 * EMBELLISHMENT_G_CM3
    return rest.area.area / 1e6 * work.card.masking.rates.gsm * rest.piece.layers


def _outer_size(work: Work, front: Heights) -> tuple[float, float]:
    """Width and height of the card with all that hangs over its edge, mm."""
    width, height = work.card.panel
    whole = shapely.union_all([shapely.box(0, 0, width, height), *(rest.area for rest in front.rests)])
    left, top, right, bottom = whole.bounds
    return right - left, bottom - top


def _envelope(size: tuple[float, float], high_mm: float) -> str:
    room = ROOM_MM + max(0.0, high_mm - FLAT_MM)
    short, long = sorted(side + room for side in size)
    return next((name for name, (narrow, wide) in ENVELOPES.items() if short <= narrow and long <= wide), "")


def _reasons(size: tuple[float, float], thick: float, grams: float) -> list[str]:
    short, long = sorted(size)
    told = []
    if thick > EUROPE_THICK_MM:
        told.append(f"{thick:.1f} mm thick: many letters stop at {EUROPE_THICK_MM:.0f} mm, the US letter at 6.35 mm.")
    if not (US_LONG[0] <= long <= US_LONG[1] and US_HIGH[0] <= short <= US_HIGH[1]):
        told.append(f"{long:.0f} × {short:.0f} mm: a US letter is 127 to 292 mm long and 89 to 156 mm high.")
    if not US_RATIO[0] <= long / short <= US_RATIO[1]:
        told.append(f"{long / short:.2f} times as long as high: square and very long letters cost more in the US.")
    if grams > US_GRAMS:
        told.append(f"{grams:.0f} g: a US letter stops at {US_GRAMS:.0f} g.")
    return told
