"""What all pieces have, and what all pieces of paper have besides.

Glossary
--------
surface
    What a piece lies on: the card itself, or another piece of paper (`on`).
flap
    A part of a paper piece that lies elsewhere in the order than its body: a strand of a vine, the water before a slit.
held
    A point of a piece that belongs to a point of another: a hat to a head, a prop to a hand.
"""

from typing import Annotated, Literal

import msgspec

from fair_thicket.model.basics import Key, Outline, Place, Point, Size
from fair_thicket.model.bounds import MOST_FLAPS, MOST_WORDS

Degrees = Annotated[float, msgspec.Meta(ge=-360, le=360)]
Colour = Annotated[str, msgspec.Meta(pattern=r"^#[0-9a-f]{6}$")]
Height = Annotated[float, msgspec.Meta(ge=0, le=30)]
Words = Annotated[str, msgspec.Meta(max_length=MOST_WORDS)]
INK: Colour = "#26302b"
"""Ink of which nothing is said: near-black."""
QuarterTurn = Literal[0, 90, 180, 270]
CARD_EDGE = "card"
"""What `trim_to` says for a piece that is trimmed flush at the card's edge; no piece may have this id."""


class Form(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A simple shape about its own middle: of a die, a trimmer or scissors along a ruler.

    Attributes
    ----------
    kind : str
    width_mm, height_mm : float
    corner_mm : float
        Radius of the corners of a rectangle.
    """

    kind: Literal["rectangle", "ellipse"]
    width_mm: Size
    height_mm: Size
    corner_mm: Annotated[float, msgspec.Meta(ge=0, le=200)] = 0.0


class Window(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """An opening in a panel; its middle from the panel's middle, mm."""

    form: Form
    x: Place = 0.0
    y: Place = 0.0


class Flap(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A part of a piece's paper that goes elsewhere in the order.

    Attributes
    ----------
    ring : ring
        Encloses the part, mm from the piece's middle; what of the piece lies within is the flap.
    past : str
        Id of the piece whose place in the order it takes.
    side : str
        ``over`` that piece or ``under`` it.
    name : str
    slit : (point, point) or None
        Cut in the paper through which the other piece goes, mm from the piece's middle; None where none is needed.
    """

    ring: Outline
    past: Key
    side: Literal["over", "under"]
    name: Words = ""
    slit: tuple[Point, Point] | None = None


class Hold(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Where a piece is held: a point of its own and the point of another that it belongs to, mm from their middles."""

    by: Key
    own: Point
    at: Point


class Placed(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, kw_only=True):
    """What all pieces have.

    Attributes
    ----------
    name : str
        What the maker calls it; empty for the program's own name.
    on : str
        Id of the paper piece that it lies on; empty for the card itself.
    trim_to : str
        Cut flush along the outline of its surface (`on`'s id), along another piece's windows (that piece's id; its
        outline when it has none), at the card's edge (``card``); empty for not trimmed.
    copy_of : str
        Id of the piece that it is a duplicate of.
    colour : str or None
        Flat colour: of its paper, or of a coloured image.
    held : Hold or None
    written_over : bool
        A pen will write over it: its ink is to be pale.
    """

    name: Words = ""
    on: str = ""
    trim_to: str = ""
    copy_of: str = ""
    colour: Colour | None = None
    held: Hold | None = None
    written_over: bool = False


class PaperPiece(Placed, frozen=True, forbid_unknown_fields=True, omit_defaults=True, kw_only=True):
    """What all pieces of paper have: they are glued, have height, and may have flaps.

    Attributes
    ----------
    lift_mm : float
        Foam under it; 0 is flat.
    foam : str
        ``all`` under all of it, ``part`` only under what would hang beside a raised neighbour.
    layers : int
        How many equal cuts are glued up.
    glue : str
        ``all``, or only along its ``foot`` or at one ``point``: the rest stays free for tucking.
    slides_in : bool
        It is slid in under what lies over it when that is on the card already.
    translucent : bool
        Vellum: what is behind shows through.
    pattern : str
        Key of the patterned paper that it is cut from; empty for plain paper. `colour` then stands for it.
    pattern_turn : int
        How far the pattern's way up is turned on it, degrees clockwise.
    edge : str
        A line that its die leaves beside its edge: ``stitched`` or ``embossed``; empty for none.
    flaps : tuple of Flap
    """

    lift_mm: Height = 0.0
    foam: Literal["all", "part"] = "all"
    layers: Annotated[int, msgspec.Meta(ge=1, le=12)] = 1
    glue: Literal["all", "foot", "point"] = "all"
    slides_in: bool = False
    translucent: bool = False
    edge: Literal["", "stitched", "embossed"] = ""
    pattern: str = ""
    pattern_turn: QuarterTurn = 0
    flaps: Annotated[tuple[Flap, ...], msgspec.Meta(max_length=MOST_FLAPS)] = ()
