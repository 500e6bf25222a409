"""A card front with its pieces, and the work: the card together with the stash it draws on."""

from typing import Annotated, Literal

import msgspec

from fair_thicket.model.formats import FORMATS, Fold, find_format
from fair_thicket.model.stash import Key, Stamp, Stash
from fair_thicket.model.units import Unit

Place = Annotated[float, msgspec.Meta(ge=-2000, le=2000)]
Degrees = Annotated[float, msgspec.Meta(ge=-360, le=360)]
Rim = Annotated[float, msgspec.Meta(ge=-1.0, le=3.0)]
FormatKey = Literal["a2", "slimline", "5x7", "square6", "a6", "dl", "square144"]


class Impression(msgspec.Struct, frozen=True, forbid_unknown_fields=True, tag="impression"):
    """One stamped mark on the panel.

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
    """

    id: Key
    stamp: Key
    x: Place
    y: Place
    angle_deg: Degrees = 0.0


class Card(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A card front. Pieces run from the back to the front.

    Attributes
    ----------
    mask_rim_mm : float
        Where masks are cut: 0 on the line, above 0 outside it, below 0 inside it.
    """

    title: Annotated[str, msgspec.Meta(max_length=120)] = "untitled card"
    format: FormatKey = "a2"
    landscape: bool = True
    fold: Fold = Fold.TOP
    unit: Unit = Unit.INCH
    mask_rim_mm: Rim = 0.0
    pieces: Annotated[tuple[Impression, ...], msgspec.Meta(max_length=500)] = ()

    @property
    def panel(self) -> tuple[float, float]:
        """Width and height of the front as looked at, mm."""
        return find_format(self.format).front(landscape=self.landscape)

    def find(self, key: str) -> Impression:
        """Return the piece of that id, or the one that a layer belongs to; KeyError when there is none."""
        whole = piece_key(key)
        for piece in self.pieces:
            if piece.id == whole:
                return piece
        raise KeyError(key)


class Work(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A card together with the stash it draws on: what a file holds and what undo steps over."""

    card: Card = Card()
    stash: Stash = Stash()


def stamping_keys(piece: Impression, stamp: Stamp) -> tuple[str, ...]:
    """Keys of the stampings that make a piece: its own id, or one a layer, such as ``toad-1/2``."""
    if len(stamp.layers) < 2:
        return (piece.id,)
    return tuple(f"{piece.id}/{number}" for number in range(1, len(stamp.layers) + 1))


def piece_key(key: str) -> str:
    """Id of the piece that a stamping belongs to."""
    return key.partition("/")[0]


def name_pieces(work: Work) -> dict[str, str]:
    """Give every piece the name it goes by: its stamp's, numbered from the left when there are several.

    Returns
    -------
    dict of str to str
        Piece id to name, such as ``tall fern 2``; the layers of a layered image have names as well.
    """
    by_stamp: dict[str, list[Impression]] = {}
    for piece in work.card.pieces:
        by_stamp.setdefault(piece.stamp, []).append(piece)
    names = {}
    for stamp, pieces in by_stamp.items():
        name = work.stash.find(stamp).name
        ordered = sorted(pieces, key=lambda piece: (piece.x, piece.y, piece.id))
        for number, piece in enumerate(ordered, 1):
            names[piece.id] = name if len(pieces) == 1 else f"{name} {number}"
            for layer, key in enumerate(stamping_keys(piece, work.stash.find(stamp)), 1):
                names.setdefault(key, f"{names[piece.id]}, layer {layer}")
    return names


KNOWN_FORMATS = tuple(one.key for one in FORMATS)
