"""How thick and heavy a card is, and which letter it goes as.

Notes
-----
Sizes of letters: Domestic Mail Manual of the United States, section 101 (5 to 11 1/2 in long, 3 1/2 to 6 1/8 in high,
0.007 to 1/4 in thick, length over height 1.3 to 2.5, to 3.5 oz), from memory. Tariffs change: the maker is told to ask.
"""

from collections.abc import Sequence
from typing import NamedTuple

from fair_thicket.assembly.foam import FoamPlan
from fair_thicket.assembly.glue import GluePlan
from fair_thicket.estimate.post import envelope_for, outer_size, paper_grams, thickness
from fair_thicket.laid.heights import Heights, Rest
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
SQUARE = 1.1
"""A card that is no longer for its height is square, and so is its usual envelope."""
ASK = "Check with your postal service: tariffs change."


class Post(NamedTuple):
    """A card as a letter.

    Attributes
    ----------
    thickness_mm : float
        At the highest place: base twice, both sides.
    grams : float
    envelope : str
        The smallest that takes it, as the card's unit says it; empty for none that is known.
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
    sides = [front, *([inside] if inside is not None else [])]
    high = sum(side.most_mm for side in sides)
    thick = thickness(work, high)
    grams = _base_grams(work) + sum(_grams(work, rest) for side in sides for rest in side.rests)
    grams += sum(strip.area.area * strip.thick_mm / 1000 * FOAM_G_CM3 for foam in foams for strip in foam.strips)
    grams += sum(glue.area_cm2 for glue in glues) * GLUE_G_CM2
    size = outer_size(work)
    envelope = envelope_for(work, size, high)
    is_square = max(size) <= SQUARE * min(size)
    posted = size if is_square or envelope is None else (envelope.width_mm, envelope.height_mm)
    said = "" if envelope is None else envelope.say(work.card.unit)
    return Post(round(thick, 2), round(grams, 1), said, tuple(_reasons(posted, thick, grams)))


def _base_grams(work: Work) -> float:
    width, height = work.card.panel
    return 2 * width * height / 1e6 * work.card.assembly.base_gsm


def _grams(work: Work, rest: Rest) -> float:
    if isinstance(rest.piece, Embellishment):
        return rest.area.area * rest.thick_mm / 1000 * EMBELLISHMENT_G_CM3
    return paper_grams(work.card.masking.rates, rest.area.area, rest.piece.layers)


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
