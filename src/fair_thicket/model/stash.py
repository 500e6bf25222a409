"""What the maker owns. A stamp has one size and one face: nothing here scales or mirrors it."""

import enum
from collections.abc import Collection
from typing import Annotated, Literal

import msgspec

from fair_thicket.model.basics import Key, Name, Outline, Point, Size, Tag
from fair_thicket.model.bounds import MOST_COPIES, MOST_LAYERS, MOST_POCKETS
from fair_thicket.model.colouring import Parts, Regions, Schemes

DIE_MARGIN_MM = 1.6
"""White left round an image by its matching die, unless the maker says otherwise (common practice)."""


class Kind(enum.Enum):
    """What a thing in the stash is."""

    STAMP = "stamp"
    GREETING = "greeting"
    DIE = "die shape"
    BORDER = "border die"
    BACKDROP = "backdrop die"
    STENCIL = "stencil"
    PAPER = "patterned paper"

    @property
    def is_plain(self) -> bool:
        """Whether it is cut from plain paper and so may be turned over, unless the maker says otherwise."""
        return self in {Kind.DIE, Kind.BORDER, Kind.BACKDROP, Kind.STENCIL}


class Zone(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A part of an image that must stay in sight, mm from the image's middle."""

    what: Literal["face", "words", "other"]
    ring: Outline


class Contact(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A point where another image may hold on or sit, mm from the image's middle."""

    what: Literal["hand", "seat"]
    at: Point


class Marks(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What later stations must know of an image; everything may be left unsaid.

    Attributes
    ----------
    feet : (point, point) or None
        The line on which it stands, mm from its middle.
    zones : tuple of Zone
    looks_deg : float or None
        Where it looks or points: 0 to the right, clockwise as seen.
    contacts : tuple of Contact
    light : str or None
        Side from which light falls on it.
    flies : bool
        Needs no ground.
    is_guess : bool
        Whether the feet are the program's guess and not yet the maker's word.
    open_at : tuple of points
        Each lies in a pocket that shows what is behind: scissors and masks leave it open. Other pockets are paper.
    """

    feet: tuple[Point, Point] | None = None
    zones: Annotated[tuple[Zone, ...], msgspec.Meta(max_length=20)] = ()
    looks_deg: Annotated[float, msgspec.Meta(ge=-360, le=360)] | None = None
    contacts: Annotated[tuple[Contact, ...], msgspec.Meta(max_length=20)] = ()
    light: Literal["left", "right", "above"] | None = None
    flies: bool = False
    is_guess: bool = False
    open_at: Annotated[tuple[Point, ...], msgspec.Meta(max_length=MOST_POCKETS)] = ()


PictureName = Annotated[str, msgspec.Meta(pattern=r"^images/[a-z0-9-]+\.png$")]


class Layer(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One stamp of a layered image, registered to the whole.

    Attributes
    ----------
    name : str
    x, y : float
        Middle of its picture, mm from the middle of the whole image.
    width_mm, height_mm : float
    picture : str
        Name of its clean picture, the width_mm by height_mm box exactly.
    """

    name: Name
    x: Annotated[float, msgspec.Meta(ge=-500, le=500)]
    y: Annotated[float, msgspec.Meta(ge=-500, le=500)]
    width_mm: Size
    height_mm: Size
    picture: PictureName


DRAWN_TAG = "drawn"
"""Tag of an edge that was drawn freehand and is cut by hand, along a printed guide."""


class Stamp(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A stamp and the image it makes, at true size.

    Coordinates are millimetres from the middle of the image's bounding box, x right, y down.

    Attributes
    ----------
    id : str
        Key within the stash.
    name : str
        What the maker calls it.
    width_mm, height_mm : float
        The inked image's bounding box.
    outline : ring
        The outer edge of the image, closed implicitly; the scissors' line.
    pockets : rings
        Paper within the outline that is no part of the image; masks cover it unless a mark opens it. A die's openings.
    picture : str
        Name of its clean picture (ink on transparent paper), the width_mm by height_mm box exactly.
    copies : int
        How many of this stamp the maker owns.
    kind : Kind
    set_name : str
        The set it came with; empty for none.
    tags : tuple of str
    may_flip : bool
        Whether what it makes can be turned over: never an impression.
    die_margin_mm : float or None
        Margin of its matching die; None when it is cut out by hand.
    marks : Marks
    layers : tuple of Layer
        Of a layered stamp: what is stamped first comes first. Outline and picture are then those of the whole image.
    regions : tuple of Region
        Of its lines; none until it is to be coloured.
    parts : tuple of tuples of int
        Ids of regions that are coloured as one; a region in none is a part for itself.
    schemes : tuple of Scheme
    """

    id: Key
    name: Name
    width_mm: Size
    height_mm: Size
    outline: Outline
    picture: PictureName
    pockets: Annotated[tuple[Outline, ...], msgspec.Meta(max_length=MOST_POCKETS)] = ()
    copies: Annotated[int, msgspec.Meta(ge=1, le=MOST_COPIES)] = 1
    kind: Kind = Kind.STAMP
    set_name: Annotated[str, msgspec.Meta(max_length=120)] = ""
    tags: Annotated[tuple[Tag, ...], msgspec.Meta(max_length=40)] = ()
    may_flip: bool = False
    die_margin_mm: Annotated[float, msgspec.Meta(ge=0, le=20)] | None = None
    marks: Marks = Marks()
    layers: Annotated[tuple[Layer, ...], msgspec.Meta(max_length=MOST_LAYERS)] = ()
    regions: Regions = ()
    parts: Parts = ()
    schemes: Schemes = ()

    @property
    def pictures(self) -> tuple[str, ...]:
        """Names of all pictures that belong to it."""
        return (self.picture, *(layer.picture for layer in self.layers))


class Stash(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The stamps at hand, in the order in which they came."""

    stamps: tuple[Stamp, ...] = ()

    def find(self, key: str) -> Stamp:
        """Return the stamp of that id.

        Raises
        ------
        KeyError
            When there is none; card files are checked for it when read.
        """
        for stamp in self.stamps:
            if stamp.id == key:
                return stamp
        raise KeyError(key)

    def has(self, key: str) -> bool:
        """Say whether a stamp of that id is at hand."""
        return any(stamp.id == key for stamp in self.stamps)


def new_key(name: str, taken: Collection[str]) -> str:
    """Make a key out of a name that is not taken yet."""
    plain = "".join(letter if letter.isascii() and letter.isalnum() else "-" for letter in name.lower())
    stem = "-".join(part for part in plain.split("-") if part)[:60] or "image"
    key, number = stem, 2
    while key in taken:
        key, number = f"{stem}-{number}", number + 1
    return key
