"""Images: stamped on their surface, or stamped elsewhere and cut out."""

from typing import Annotated, Literal

import msgspec

from fair_thicket.model.basics import Key, Outline, Place
from fair_thicket.model.bounds import MOST_CUT_AWAY, MOST_CUTS, MOST_JOINED, MOST_LAMP_MM
from fair_thicket.model.colouring import Colouring
from fair_thicket.model.pieces.placed import Colour, Degrees, PaperPiece, Placed
from fair_thicket.model.spans import Cut

LampReach = Annotated[float, msgspec.Meta(ge=0, le=MOST_LAMP_MM)]


class Part(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A further image of a joint cutout: its middle from the cutout's middle, mm, its turn, and its runs."""

    stamp: Key
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    colouring: Colouring = ()


class InkZone(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A part of a stamp that is inked in a colour of its own; encloses it, mm from the image's middle."""

    ring: Outline
    ink: Colour


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
    colouring : tuple of ColouredPart
        Runs of its parts; what is in none is left as the flat colour, or the paper, has it.
    powder : bool
        Embossed with powder of its ink's colour: it covers whatever lies under it, and is heated.
    stamped : str
        ``before inks``: first, and masked from washes where it is coloured; ``over dry inks``: once the washes of its
        surface are dry, by platform; ``by hand``: when everything is glued, on ground that is flat and free.
    lamp_mm : float
        A lamp or a fire: what lies within this of its middle is lit by it; 0 for what gives no light.
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
    powder: bool = False
    stamped: Literal["before inks", "over dry inks", "by hand"] = "before inks"
    colouring: Colouring = ()
    lamp_mm: LampReach = 0.0

    @property
    def is_coloured(self) -> bool:
        """Whether it is coloured in: flat, or by its regions."""
        return self.colour is not None or bool(self.colouring)

    @property
    def shuns_washes(self) -> bool:
        """Whether it lies under its mask while its surface is inked: it was coloured, and stands there by then."""
        return self.is_coloured and not self.resists and self.stamped == "before inks"

    @property
    def keeps_washes_off(self) -> bool:
        """Whether its lines stay as the paper was: embossed clear before any ink; over dry inks it only shines."""
        return self.resists and self.stamped == "before inks"

    @property
    def is_embossed(self) -> bool:
        """Whether powder is melted on it, clear or coloured."""
        return self.resists or self.powder


class Cutout(PaperPiece, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="cutout"):
    """An image or a plain die shape cut out of paper and glued on.

    Attributes
    ----------
    margin_mm : float or None
        White left round the image; None takes the matching die's, 0 is cut on the line.
    flipped : bool
        Turned over, as only plain paper can be.
    colouring : tuple of ColouredPart
        Runs of the parts of its image, on its paper.
    lamp_mm : float
        As of an impression.
    joined : tuple of Part
        Images that were stamped beside the first and cut out with it as one, from the back to the front.
    opening : int or None
        It is what fell out of that opening of the die, counted from 0.
    cut_away : tuple of ring
        Parts that are trimmed off, mm from its middle.
    print_of : str
        Id of another cutout that it is cut from the same print as: they are stamped once.
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
    colouring: Colouring = ()
    lamp_mm: LampReach = 0.0
    joined: Annotated[tuple[Part, ...], msgspec.Meta(max_length=MOST_JOINED)] = ()
    opening: Annotated[int, msgspec.Meta(ge=0)] | None = None
    cut_away: Annotated[tuple[Outline, ...], msgspec.Meta(max_length=MOST_CUT_AWAY)] = ()
    print_of: str = ""
    across: Annotated[tuple[Cut, ...], msgspec.Meta(max_length=MOST_CUTS)] = ()
    down: Annotated[tuple[Cut, ...], msgspec.Meta(max_length=MOST_CUTS)] = ()

    @property
    def is_coloured(self) -> bool:
        """Whether any of its images is coloured by hand; a flat colour is its paper's."""
        return bool(self.colouring) or any(part.colouring for part in self.joined)


def as_cut(piece: Impression) -> Cutout:
    """Return an impression as an image that is stamped on other paper, cut out and glued in its place."""
    return Cutout(
        piece.id, piece.stamp, piece.x, piece.y, piece.angle_deg,
        name=piece.name, on=piece.on, trim_to=piece.trim_to, copy_of=piece.copy_of, colour=piece.colour,
        held=piece.held, ink=piece.ink, colouring=piece.colouring, lamp_mm=piece.lamp_mm,
    )  # fmt: skip


def as_stamped(piece: Cutout) -> Impression:
    """Return a cut image as one that is stamped straight on its surface; what only paper can do is lost."""
    return Impression(
        piece.id, piece.stamp, piece.x, piece.y, piece.angle_deg, name=piece.name, on=piece.on,
        trim_to=piece.trim_to, copy_of=piece.copy_of, colour=piece.colour, held=piece.held, ink=piece.ink,
        colouring=piece.colouring, lamp_mm=piece.lamp_mm,
    )  # fmt: skip
