"""From where on advice speaks: what the trade leaves open, as settings of a card with their usual values."""

from typing import Annotated

import msgspec

Share = Annotated[float, msgspec.Meta(ge=0, le=1)]
Length = Annotated[float, msgspec.Meta(ge=0, le=100)]


class Limits(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Limits of advice (defaults: common practice, but for the contrast, which is WCAG 2's).

    Attributes
    ----------
    covered_share : float
        More hidden than this is much for a figure.
    precious_share : float
        More hidden than this is too much for a face, a hand or words.
    lost_share : float
        More hidden than this and the piece is hardly worth making.
    near_mm : float
        Edges nearer than this without overlapping seem to kiss.
    clear_mm : float
        Room that words want round them.
    slip_deg : float
        Words that lean by less than this look like a slip.
    contrast : float
        Least contrast of words with what is behind them.
    ground_mm : float
        Feet may end this far above their ground.
    sunk_share : float
        More of a figure's height than this below the ground's edge looks sunk.
    contact_mm : float
        Points that belong together may be this far apart.
    envelope_mm : float
        Room that an envelope needs round the card, in all.
    ink_margin_mm : float
        Ink reaches this far under what covers it.
    """

    covered_share: Share = 0.35
    precious_share: Share = 0.0
    lost_share: Share = 0.85
    near_mm: Length = 0.8
    clear_mm: Length = 1.5
    slip_deg: Annotated[float, msgspec.Meta(ge=0.3, le=20)] = 3.0
    contrast: Annotated[float, msgspec.Meta(ge=1, le=21)] = 4.5
    ground_mm: Length = 1.0
    sunk_share: Share = 0.4
    contact_mm: Length = 1.0
    envelope_mm: Length = 3.0
    ink_margin_mm: Length = 3.0
