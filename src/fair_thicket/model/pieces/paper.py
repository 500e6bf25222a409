"""Plain paper: panels and frames, strips for words, borders; and what is set on a card last."""

from typing import Annotated, Literal

import msgspec

from fair_thicket.model.basics import Key, Place, Point, Size
from fair_thicket.model.bounds import LEAST_MM, MOST_CUTS
from fair_thicket.model.finishes import Finish, name_finish
from fair_thicket.model.pieces.placed import Colour, Degrees, Form, PaperPiece, Window, Words
from fair_thicket.model.spans import Cut

End = Literal["straight", "fishtail", "folded", "tag"]


class Panel(PaperPiece, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="panel"):
    """Plain paper of a simple shape: a panel or a mat; with windows a frame or a ring."""

    id: Key
    form: Form
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    windows: Annotated[tuple[Window, ...], msgspec.Meta(max_length=40)] = ()

    @property
    def noun(self) -> str:
        """What it is called when the maker has not named it."""
        if not self.windows:
            return "panel"
        return "ring" if self.form.kind == "ellipse" else "frame"


class Strip(PaperPiece, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="strip"):
    """A strip or banner for words.

    Attributes
    ----------
    width_mm, height_mm : float
        Of the strip without folded ends.
    left, right : str
        Its ends: ``straight``, ``fishtail``, ``folded`` back with a tail that shows below, or ``tag``: corners cut off,
        with a hole for a string.
    words : str
        Written, printed or die cut on it, a newline for every further line; a stamped greeting is an impression that
        lies on it.
    words_mm : float
        Height of the letters, from the foot of a line to the top of its capitals.
    powder : bool
        Its words are stamped and embossed with powder of their ink's colour.
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
    powder: bool = False

    @property
    def noun(self) -> str:
        """What it is called when the maker has not named it."""
        return f"strip “{self.words.replace(chr(10), ' ')}”" if self.words else "greeting strip"


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


class Embellishment(PaperPiece, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="embellishment"):
    """Finishes of one kind and size, sequins, drops, dabs, twine: one, a line or a scatter.

    Attributes
    ----------
    size_mm : float
    shape : str
    spots : tuple of point
        Middle of each, mm from the piece's middle; twine runs from spot to spot.
    """

    id: Key
    size_mm: Annotated[float, msgspec.Meta(ge=LEAST_MM, le=60)]
    x: Place
    y: Place
    angle_deg: Degrees = 0.0
    shape: Finish = "round"
    spots: Annotated[tuple[Point, ...], msgspec.Meta(min_length=1, max_length=400)] = ((0.0, 0.0),)

    @property
    def noun(self) -> str:
        """What it is called when the maker has not named it."""
        return name_finish(self.shape, len(self.spots))
