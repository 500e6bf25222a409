"""What is done to a surface: ink blended, through a stencil, splattered; water, paste, texture. One struct a kind."""

from typing import Annotated, ClassVar, Literal, TypeGuard, TypeVar

import msgspec

from fair_thicket.model.basics import Key, Outline, Place, Point
from fair_thicket.model.pieces.placed import Colour, Degrees, Form, Placed

WASH: Colour = "#b9c6da"
"""Wash of which nothing is said: a pale dusk."""


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
    ring : ring or None
        In the place of a form: an image's own outline, mm from the wash's middle.
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
    ring: Outline | None = None
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


class Wash(Placed, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """What all washes have: they are done to a surface within a form. Each kind is a struct of its own.

    Attributes
    ----------
    coats : int
        Thin coats; three give an ink its full colour.
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
    glows_from : str
        Id of the piece that a glow, and the disc kept free round it, come from and go with; empty for a place.
    hides : str
        Whether a kind hides what it lies on: ``never``, ``white`` (where its ink is white or nearly so) or ``always``.
    is_wet, strays, is_ground : bool
        Of a kind: whether it is wet ink, which runs into other wet ink and which later water lifts; whether it lands
        beside its form; and whether figures can stand on it.
    """

    hides: ClassVar[Literal["never", "white", "always"]] = "never"
    is_wet: ClassVar[bool] = True
    strays: ClassVar[bool] = False
    is_ground: ClassVar[bool] = True

    id: Key
    form: Form
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    coats: Annotated[int, msgspec.Meta(ge=1, le=9)] = 3
    covers: Annotated[tuple[Cover, ...], msgspec.Meta(max_length=30)] = ()
    inks: Annotated[tuple[Colour, ...], msgspec.Meta(max_length=6)] = ()
    way: Literal["even", "linear", "band", "corner", "glow"] = "even"
    toward_deg: Degrees = 90.0
    centre: Point = (0.0, 0.0)
    glows_from: str = ""

    @property
    def noun(self) -> str:
        """What it is called when the maker has not named it."""
        return "wash"


class Blend(Wash, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="blend"):
    """Ink blended with a brush or foam."""


class Through(Wash, frozen=True, forbid_unknown_fields=True, omit_defaults=True, kw_only=True):
    """What is laid through a stencil.

    Attributes
    ----------
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
    """

    stencil: str = ""
    lays: Annotated[tuple[Lay, ...], msgspec.Meta(max_length=12)] = ()
    reach_mm: Annotated[float, msgspec.Meta(ge=0, le=300)] = 0.0
    taped: Annotated[tuple[Annotated[int, msgspec.Meta(ge=0, le=999)], ...], msgspec.Meta(max_length=100)] = ()


class Stencilled(Through, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="stencil"):
    """Ink through a stencil."""


class Paste(Through, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="paste"):
    """Paste spread through a stencil: raised, and it covers."""

    hides: ClassVar[Literal["never", "white", "always"]] = "always"
    is_wet: ClassVar[bool] = False

    @property
    def noun(self) -> str:
        """What it is called when the maker has not named it."""
        return "paste"


class Drops(Wash, frozen=True, forbid_unknown_fields=True, omit_defaults=True, kw_only=True):
    """What falls in drops.

    Attributes
    ----------
    drops : int
    seed : int
        The same seed scatters the same.
    """

    strays: ClassVar[bool] = True
    is_ground: ClassVar[bool] = False

    drops: Annotated[int, msgspec.Meta(ge=1, le=2000)] = 120
    seed: Annotated[int, msgspec.Meta(ge=0, le=1_000_000)] = 1


class Splatter(Drops, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="splatter"):
    """Ink splattered from a brush."""

    hides: ClassVar[Literal["never", "white", "always"]] = "white"

    @property
    def noun(self) -> str:
        """What it is called when the maker has not named it."""
        return "splatter"


class Water(Drops, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="water"):
    """Water on the washes inked before it, flicked or stamped, and blotted: it lifts their ink.

    Attributes
    ----------
    stamp : str
        Key of the stamp that it is stamped with, about its middle; empty for flicked drops.
    dwell_s : int
        So long it is left before it is blotted.
    """

    is_wet: ClassVar[bool] = False

    stamp: str = ""
    dwell_s: Annotated[int, msgspec.Meta(ge=1, le=600)] = 30

    @property
    def noun(self) -> str:
        """What it is called when the maker has not named it."""
        return "water drops"


class Texture(Wash, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="texture", kw_only=True):
    """Marks stamped late, one by one, where the ground is free.

    Attributes
    ----------
    mark : str
    mark_mm, pitch_mm : float
        Width of a mark (height of a tuft), and how far apart marks are meant to be.
    spots : tuple of point
        Middle of every mark, mm from the wash's middle, unturned.
    seed : int
        The same seed strays the same.
    """

    hides: ClassVar[Literal["never", "white", "always"]] = "white"
    is_wet: ClassVar[bool] = False

    mark: Literal["dot", "wave", "grass"] = "dot"
    mark_mm: Annotated[float, msgspec.Meta(ge=0.3, le=60)] = 1.2
    pitch_mm: Annotated[float, msgspec.Meta(ge=0.5, le=100)] = 4.0
    spots: Annotated[tuple[Point, ...], msgspec.Meta(max_length=3000)] = ()
    seed: Annotated[int, msgspec.Meta(ge=0, le=1_000_000)] = 1

    @property
    def noun(self) -> str:
        """What it is called when the maker has not named it."""
        return {"dot": "dots", "wave": "waves", "grass": "grass"}[self.mark]


AnyWash = Blend | Stencilled | Splatter | Water | Paste | Texture
"""Every kind of wash."""

AnyThrough = Stencilled | Paste
W = TypeVar("W", bound=AnyWash)


def as_kind(piece: AnyWash, kind: type[W], **fields: object) -> W:
    """Return a wash of another kind in its place; what only the old kind has is lost, `fields` are set anew."""
    own = {name: getattr(piece, name) for name in piece.__struct_fields__ if name in kind.__struct_fields__}
    return kind(**{**own, **fields})


def is_stepped(piece: object) -> TypeGuard[AnyThrough]:
    """Whether something is a wash inked through a stencil in several lays."""
    return isinstance(piece, Through) and bool(piece.stencil) and bool(piece.lays)
