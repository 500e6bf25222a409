"""How sheets are laid out for a card: how many cards, which margins, which plate; values only."""

from typing import Annotated, Literal

import msgspec

from fair_thicket.model.basics import Place, SheetSide
from fair_thicket.model.pieces import Colour

Turns = Literal["any", "half", "none"]
Gap = Annotated[float, msgspec.Meta(ge=0, le=50)]
MOST_LAID = 600
"""Images on the stamping sheets of one paper."""


class LaidImage(msgspec.Struct, frozen=True, forbid_unknown_fields=True, array_like=True):
    """An image on its stamping sheet: key of what it is made for, its middle, mm, and turn, degrees clockwise."""

    key: Annotated[str, msgspec.Meta(max_length=100)]
    x: Place
    y: Place
    angle_deg: Annotated[float, msgspec.Meta(ge=-360, le=360)]


class LaidByHand(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """The stamping sheets of one paper as a maker laid them out; they hold as long as the same is to be stamped."""

    colour: Colour
    sheets: Annotated[
        tuple[Annotated[tuple[LaidImage, ...], msgspec.Meta(max_length=MOST_LAID)], ...],
        msgspec.Meta(max_length=MOST_LAID),
    ]
    pattern: str = ""


class SheetRules(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """How a maker lays sheets out.

    Attributes
    ----------
    cards : int
        How many of the card are made.
    spares : bool
        Whether of every hard image one more is stamped.
    sheet_mm : (float, float)
        A sheet of card stock where the supplies do not say it: letter (ANSI A).
    platform_mm : (float, float)
        A sheet to be stamped is no larger.
    plate_mm : (float, float)
        Cutting plate of the machine (common practice: 6 x 8 3/4 in small, 8 1/2 x 12 1/2 in large).
    hold_mm : float
        Free edge of a stamping sheet, for a hand to hold it (common practice: 10 mm).
    scissors_mm : float
        Room between images that are cut by hand (common practice: 3 mm).
    die_gap_mm : float
        Room between dies on the plate (common practice: 3 mm).
    kerf_mm : float
        Lost at a cut: nothing with a blade.
    turns : str
        How images may lie on a stamping sheet.
    by_hand : tuple of LaidByHand
        Stamping sheets on which an image was moved by hand.
    """

    cards: Annotated[int, msgspec.Meta(ge=1, le=100)] = 1
    spares: bool = False
    sheet_mm: tuple[SheetSide, SheetSide] = (215.9, 279.4)
    platform_mm: tuple[SheetSide, SheetSide] = (215.9, 279.4)
    plate_mm: tuple[SheetSide, SheetSide] = (152.4, 222.25)
    hold_mm: Gap = 10.0
    scissors_mm: Gap = 3.0
    die_gap_mm: Gap = 3.0
    kerf_mm: Gap = 0.0
    turns: Turns = "any"
    by_hand: Annotated[tuple[LaidByHand, ...], msgspec.Meta(max_length=40)] = ()
