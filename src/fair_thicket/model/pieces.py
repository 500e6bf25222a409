"""Every kind of piece that a card can bear. Frozen values, mm and degrees clockwise as seen; nothing is computed here.

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

from fair_thicket.model.bounds import (
    MOST_CUT_AWAY,
    MOST_CUTS,
    MOST_FLAPS,
    MOST_JOINED,
    MOST_WORDS,
)
from fair_thicket.model.spans import Cut
from fair_thicket.model.stash import Key, Outline, Place, Point, Size

Degrees = Annotated[float, msgspec.Meta(ge=-360, le=360)]
Colour = Annotated[str, msgspec.Meta(pattern=r"^#[0-9a-f]{6}$")]
Height = Annotated[float, msgspec.Meta(ge=0, le=30)]
Words = Annotated[str, msgspec.Meta(max_length=MOST_WORDS)]
INK: Colour = "#26302b"
"""Ink of which nothing is said: near-black."""
WASH: Colour = "#b9c6da"
"""Wash of which nothing is said: a pale dusk."""
End = Literal["straight", "fishtail", "folded"]
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


class Part(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A further image of a joint cutout: its middle from the cutout's middle, mm, and its turn."""

    stamp: Key
    x: Place
    y: Place
    angle_deg: Degrees = 0.0


class InkZone(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A part of a stamp that is inked in a colour of its own; encloses it, mm from the image's middle."""

    ring: Outline
    ink: Colour


class Cover(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """What keeps a wash off a part of its surface; places are mm from the wash's middle, turned with it.

    Attributes
    ----------
    kind : str
        ``disc`` (a shape is covered), ``counter`` (all but a shape is covered: the opening left when a disc is cut),
        ``tape`` (a strip over a fold, or over an opening of a stencil), ``sheet`` (scrap against splatter), ``torn``
        (everything to the right of a ragged line, looking from its start to its end, is covered).
    form : Form or None
        For all but ``torn``.
    x, y, angle_deg : float
        Of the form.
    line : (point, point) or None
        For ``torn``.
    ragged_mm : float
        How far a torn edge strays.
    seed : int
        The same seed tears the same edge.
    """

    kind: Literal["disc", "counter", "tape", "sheet", "torn"]
    form: Form | None = None
    x: Place = 0.0
    y: Place = 0.0
    angle_deg: Degrees = 0.0
    line: tuple[Point, Point] | None = None
    ragged_mm: Annotated[float, msgspec.Meta(ge=0, le=20)] = 1.5
    seed: Annotated[int, msgspec.Meta(ge=0, le=1_000_000)] = 1


class Lay(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """One lay of a stencil that is stepped: where its middle lies from the wash's middle, mm, and what is inked then.

    Attributes
    ----------
    flipped : bool
        Turned over.
    ink : str or None
        None for the wash's own colour.
    """

    x: Place
    y: Place
    flipped: bool = False
    ink: Colour | None = None


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
    """

    name: Words = ""
    on: str = ""
    trim_to: str = ""
    copy_of: str = ""
    colour: Colour | None = None
    held: Hold | None = None


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
    translucent : bool
        Vellum: what is behind shows through.
    flaps : tuple of Flap
    """

    lift_mm: Height = 0.0
    foam: Literal["all", "part"] = "all"
    layers: Annotated[int, msgspec.Meta(ge=1, le=12)] = 1
    glue: Literal["all", "foot", "point"] = "all"
    translucent: bool = False
    flaps: Annotated[tuple[Flap, ...], msgspec.Meta(max_length=MOST_FLAPS)] = ()


class Impression(Placed, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="impression"):
    """One stamped mark on its surface.

    Attributes
    ----------
    id : str
        Key within the card.
    stamp : str
        Key of the stamp that makes it.
    x, y : float
        Middle of the image on the panel, mm from the panel's top left.
    angle_deg : float
        Turned clockwise as seen.
    ink : str or None
        Colour of its lines; None for near-black.
    inked : ring or None
        Only this part of the stamp is inked, mm from its middle.
    is_taped : bool
        The rest is taped off before inking, and the tape peeled off before pressing; else it is just not inked.
    zones : tuple of InkZone
        Parts that are inked in colours of their own.
    resists : bool
        Embossed clear: water-based ink does not take on its lines.
    """

    id: Key
    stamp: Key
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    ink: Colour | None = None
    inked: Outline | None = None
    is_taped: bool = False
    zones: Annotated[tuple[InkZone, ...], msgspec.Meta(max_length=12)] = ()
    resists: bool = False


class Cutout(PaperPiece, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="cutout"):
    """An image or a plain die shape cut out of paper and glued on.

    Attributes
    ----------
    margin_mm : float or None
        White left round the image; None takes the matching die's, 0 is cut on the line.
    flipped : bool
        Turned over, as only plain paper can be.
    joined : tuple of Part
        Images that were stamped beside the first and cut out with it as one, from the back to the front.
    opening : int or None
        It is what fell out of that opening of the die, counted from 0.
    cut_away : tuple of ring
        Parts that are trimmed off, mm from its middle.
    across, down : tuple of Cut
        A frame die made wider, and higher: the cuts that it is joined from, from the left, and from the top.
    """

    id: Key
    stamp: Key
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    margin_mm: Annotated[float, msgspec.Meta(ge=0, le=20)] | None = None
    flipped: bool = False
    ink: Colour | None = None
    joined: Annotated[tuple[Part, ...], msgspec.Meta(max_length=MOST_JOINED)] = ()
    opening: Annotated[int, msgspec.Meta(ge=0)] | None = None
    cut_away: Annotated[tuple[Outline, ...], msgspec.Meta(max_length=MOST_CUT_AWAY)] = ()
    across: Annotated[tuple[Cut, ...], msgspec.Meta(max_length=MOST_CUTS)] = ()
    down: Annotated[tuple[Cut, ...], msgspec.Meta(max_length=MOST_CUTS)] = ()


class Panel(PaperPiece, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="panel"):
    """Plain paper of a simple shape: a panel or a mat; with windows a frame or a ring."""

    id: Key
    form: Form
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    windows: Annotated[tuple[Window, ...], msgspec.Meta(max_length=40)] = ()


class Strip(PaperPiece, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="strip"):
    """A strip or banner for words.

    Attributes
    ----------
    width_mm, height_mm : float
        Of the strip without folded ends.
    left, right : str
        Its ends: ``straight``, ``fishtail``, or ``folded`` back with a tail that shows below.
    words : str
        Written, printed or die cut on it; a stamped greeting is an impression that lies on it.
    words_mm : float
        Height of the letters, from the foot of a line to the top of its capitals.
    """

    id: Key
    width_mm: Size
    height_mm: Size
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    left: End = "straight"
    right: End = "straight"
    words: Words = ""
    words_mm: Annotated[float, msgspec.Meta(ge=1, le=60)] = 4.0
    ink: Colour | None = None


class Border(PaperPiece, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="border"):
    """A strip with an edge from a border die, repeated to a length.

    Attributes
    ----------
    length_mm : float
        As trimmed.
    start_mm : float
        Where on the die the left end lies.
    flipped : bool
        Turned over.
    cuts : tuple of Cut
        Cuts that it is joined from, from the left; none, or some that do not reach its length, for the die set end
        to end.
    """

    id: Key
    stamp: Key
    length_mm: Size
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    start_mm: Annotated[float, msgspec.Meta(ge=0, le=1000)] = 0.0
    flipped: bool = False
    cuts: Annotated[tuple[Cut, ...], msgspec.Meta(max_length=MOST_CUTS)] = ()


class Wash(Placed, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="wash"):
    """What is done to a surface within a form: ink blended, through a stencil, splattered; water, paste, texture.

    Attributes
    ----------
    how : str
        ``blend``, ``stencil`` and ``splatter`` lay ink. ``water`` is flicked on the washes inked before it and blotted:
        it lifts their ink. ``paste`` is spread through a stencil: raised, and it covers. ``texture`` is stamped late,
        mark by mark, where the ground is free.
    stencil : str
        Key of the stencil in the stash, about the wash's middle: ink goes through its openings; one without openings
        (a border strip) is inked beyond its edge. Empty for none.
    lays : tuple of Lay
        How the stencil is stepped; none for a single lay about the wash's middle. A border that is stepped is inked
        above its edge.
    reach_mm : float
        How far above a stepped edge ink reaches, fading out; 0 for as far as the wash goes, in full strength.
    taped : tuple of int
        Openings of the stencil that are taped over, counted from 0.
    coats : int
        Thin coats; three give an ink its full colour.
    drops : int
        How many drops a splatter, or flicked water, leaves.
    seed : int
        The same seed splatters the same.
    covers : tuple of Cover
    inks : tuple of colour
        Several inks blended into each other, the first where the way begins; none for `colour` alone.
    way : str
        ``even``; ``linear`` from edge to edge; ``band`` from a band in the middle to both edges; ``corner`` from a
        corner; ``glow`` from a point outward.
    toward_deg : float
        Direction from the first ink to the last, 0 to the right, clockwise as seen, turned with the wash.
    centre : (x, y)
        Of a glow, mm from the wash's middle, unturned.
    mark : str
        Of a texture: ``dot``, ``wave`` or ``grass``.
    mark_mm, pitch_mm : float
        Of a texture: width of a mark (height of a tuft), and how far apart marks are meant to be.
    spots : tuple of point
        Of a texture: middle of every mark, mm from the wash's middle, unturned.
    glows_from : str
        Id of the piece that a glow, and the disc kept free round it, come from and go with; empty for a place.
    """

    id: Key
    form: Form
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    how: Literal["blend", "stencil", "splatter", "water", "paste", "texture"] = "blend"
    stencil: str = ""
    lays: Annotated[tuple[Lay, ...], msgspec.Meta(max_length=12)] = ()
    reach_mm: Annotated[float, msgspec.Meta(ge=0, le=300)] = 0.0
    taped: Annotated[tuple[Annotated[int, msgspec.Meta(ge=0, le=999)], ...], msgspec.Meta(max_length=100)] = ()
    coats: Annotated[int, msgspec.Meta(ge=1, le=9)] = 3
    drops: Annotated[int, msgspec.Meta(ge=1, le=2000)] = 120
    seed: Annotated[int, msgspec.Meta(ge=0, le=1_000_000)] = 1
    covers: Annotated[tuple[Cover, ...], msgspec.Meta(max_length=30)] = ()
    inks: Annotated[tuple[Colour, ...], msgspec.Meta(max_length=6)] = ()
    way: Literal["even", "linear", "band", "corner", "glow"] = "even"
    toward_deg: Degrees = 90.0
    centre: Point = (0.0, 0.0)
    mark: Literal["dot", "wave", "grass"] = "dot"
    mark_mm: Annotated[float, msgspec.Meta(ge=0.3, le=60)] = 1.2
    pitch_mm: Annotated[float, msgspec.Meta(ge=0.5, le=100)] = 4.0
    spots: Annotated[tuple[Point, ...], msgspec.Meta(max_length=3000)] = ()
    glows_from: str = ""


class Embellishment(PaperPiece, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="embellishment"):
    """Sequins, drops or gems of one size: one, a line or a scatter.

    Attributes
    ----------
    size_mm : float
    shape : str
    spots : tuple of point
        Middle of each, mm from the piece's middle.
    """

    id: Key
    size_mm: Annotated[float, msgspec.Meta(gt=0, le=60)]
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    shape: Literal["round", "drop", "star"] = "round"
    spots: Annotated[tuple[Point, ...], msgspec.Meta(min_length=1, max_length=400)] = ((0.0, 0.0),)


Piece = Impression | Cutout | Panel | Strip | Border | Wash | Embellishment
Glued = Cutout | Panel | Strip | Border | Embellishment
"""Pieces of paper, as `PaperPiece` says."""


def stamps_of(piece: Piece) -> tuple[str, ...]:
    """Keys of the things in the stash that a piece is made with."""
    if isinstance(piece, Cutout):
        return (piece.stamp, *(part.stamp for part in piece.joined))
    if isinstance(piece, Wash):
        return (piece.stencil,) if piece.stencil else ()
    return (piece.stamp,) if isinstance(piece, Impression | Border) else ()


def is_glued(piece: Piece) -> bool:
    """Whether it is put on with glue, and so lies in front of all that is stamped on its surface."""
    return isinstance(piece, PaperPiece)


def as_cut(piece: Impression) -> Cutout:
    """Give an impression as an image that is stamped on other paper, cut out and glued in its place."""
    return Cutout(
        piece.id, piece.stamp, piece.x, piece.y, piece.angle_deg,
        name=piece.name, on=piece.on, trim_to=piece.trim_to, copy_of=piece.copy_of, colour=piece.colour,
        held=piece.held, ink=piece.ink,
    )  # fmt: skip


def as_stamped(piece: Cutout) -> Impression:
    """Give a cut image as one that is stamped straight on its surface; what only paper can do is lost."""
    return Impression(
        piece.id, piece.stamp, piece.x, piece.y, piece.angle_deg, name=piece.name, on=piece.on,
        trim_to=piece.trim_to, copy_of=piece.copy_of, colour=piece.colour, held=piece.held, ink=piece.ink,
    )  # fmt: skip
