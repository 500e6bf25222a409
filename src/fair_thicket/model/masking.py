"""How the maker wants a card stamped: pins, ways to cut single masks, the table's habits. Values; nothing is computed.

Glossary
--------
pin
    What the maker has decided about the plan; the planner holds it and says what it costs.
lid
    The hinged side of the stamping platform that carries the stamps; it closes from the left, the right or the top.
"""

from typing import Annotated, Literal

import msgspec

from fair_thicket.model.basics import Key, SheetSide
from fair_thicket.model.bounds import MOST_PIECES

PinKind = Literal["first", "unmasked", "together", "press", "cut"]
Rim = Annotated[float, msgspec.Meta(ge=-1.0, le=3.0)]
Minutes = Annotated[float, msgspec.Meta(ge=0, le=240)]
Speed = Annotated[float, msgspec.Meta(ge=0.7, le=5000)]


class Pin(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """One decision of the maker's.

    Attributes
    ----------
    kind : str
        ``first`` (in the first press), ``unmasked`` (never masked: what is behind may print over it), ``together``
        (these share a press), ``press`` (in press number `press`), ``cut`` (cut out instead, with all that stands
        in front of it and touches it).
    pieces : tuple of str
    press : int
        Counted from 0, for ``press``.
    """

    kind: PinKind
    pieces: Annotated[tuple[Key, ...], msgspec.Meta(min_length=1, max_length=MOST_PIECES)]
    press: Annotated[int, msgspec.Meta(ge=0, le=500)] = 0


class MaskWay(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """How the mask of one piece is cut, where that is not as for the whole card.

    Attributes
    ----------
    piece : str
    kind : str
        ``whole``, or ``part``: only the part that what is behind comes near.
    rim_mm : float or None
        None takes the card's rim.
    is_loose : bool
        Thin stems and hairs are not cut up to: a little paper is left beside them.
    """

    piece: Key
    kind: Literal["whole", "part"] = "whole"
    rim_mm: Rim | None = None
    is_loose: bool = False


class Rates(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """How long things take at this maker's table (defaults: our own guesses, to be corrected).

    Attributes
    ----------
    place_min : float
        Placing one stamp in the platform; a stamp that is left in place for a half-turn takes none.
    press_min : float
        Inking, closing and looking, each press.
    lay_min : float
        Laying a mask down.
    rough_min : float
        Stamping a mask's outline on masking paper and cutting it out roughly.
    careful_mm_per_min : float
        Following a line with scissors.
    die_min : float
        Cutting one piece with its matching die.
    glue_min : float
        Gluing one piece in place.
    dry_min, slow_dry_min : float
        Until a mask may lie on an impression in ordinary, and in slow ink.
    wash_min, wash_dry_min : float
        Inking a wash; until it is dry.
    paste_dry_min : float
        Until paste is dry (about an hour: common practice).
    gsm : float
        Weight of the paper that is cut out, g/m2 (80 lb cover is 216: basis-weight conversion).
    paper_mm : float
        Thickness of that paper.
    """

    place_min: Minutes = 0.7
    press_min: Minutes = 0.8
    lay_min: Minutes = 0.3
    rough_min: Minutes = 0.6
    careful_mm_per_min: Speed = 70.0
    die_min: Minutes = 0.8
    glue_min: Minutes = 0.7
    dry_min: Minutes = 1.0
    slow_dry_min: Minutes = 6.0
    wash_min: Minutes = 5.0
    wash_dry_min: Minutes = 5.0
    paste_dry_min: Minutes = 60.0
    gsm: Annotated[float, msgspec.Meta(ge=2, le=1000)] = 216.0
    paper_mm: Annotated[float, msgspec.Meta(ge=0.01, le=3)] = 0.25


class Masking(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """All that the maker says of stamping and masking a card.

    Attributes
    ----------
    pins : tuple of Pin
    ways : tuple of MaskWay
    lid : str
        The side from which the platform's lid closes.
    sheet_mm : (float, float)
        Width and height of a sheet of masking paper.
    paper : str
        ``smooth`` or ``textured`` card: textured card is pressed twice (common practice).
    ink : str
        ``quick`` or ``slow`` drying: slow ink prints whole in one press (common practice).
    splatter_mm : float
        How far splatter flies.
    rates : Rates
    done : tuple of str
        Keys of the steps that are ticked off.
    """

    pins: Annotated[tuple[Pin, ...], msgspec.Meta(max_length=200)] = ()
    ways: Annotated[tuple[MaskWay, ...], msgspec.Meta(max_length=500)] = ()
    lid: Literal["left", "right", "top"] = "left"
    sheet_mm: tuple[SheetSide, SheetSide] = (101.6, 152.4)
    paper: Literal["smooth", "textured"] = "smooth"
    ink: Literal["quick", "slow"] = "quick"
    splatter_mm: Annotated[float, msgspec.Meta(ge=0, le=1000)] = 150.0
    rates: Rates = Rates()
    done: Annotated[tuple[Annotated[str, msgspec.Meta(max_length=200)], ...], msgspec.Meta(max_length=5000)] = ()

    def way_of(self, piece: str) -> MaskWay:
        """Return the way in which a piece's mask is cut."""
        return next((one for one in self.ways if one.piece == piece), MaskWay(piece))
