"""The images on a side of a card that can be coloured: pieces, and the further images of joint cutouts.

Glossary
--------
key
    The piece's id; of a further image of a joint cutout, `part_key`.
"""

from collections.abc import Callable, Collection, Iterable
from typing import NamedTuple

import msgspec

from fair_thicket.model.card import WHITE, Card, Work
from fair_thicket.model.colouring import ColouredPart
from fair_thicket.model.errors import PaperError
from fair_thicket.model.keys import part_key, piece_key
from fair_thicket.model.pieces import Colour, Cutout, Impression, Part, Piece
from fair_thicket.model.stash import Kind

Colouring = tuple[ColouredPart, ...]


class Image(NamedTuple):
    """One image on a card.

    Attributes
    ----------
    key : str
    stamp : str
    piece : Impression or Cutout
        That bears it.
    colouring : tuple of ColouredPart
    angle_deg : float
        Turned clockwise on the card.
    """

    key: str
    stamp: str
    piece: Impression | Cutout
    colouring: Colouring
    angle_deg: float


def images_of(work: Work) -> list[Image]:
    """List the images on a side of a card that can be coloured by their parts, from the back to the front."""
    stamped = {stamp.id for stamp in work.stash.stamps if stamp.kind is Kind.STAMP}
    return [image for piece in work.card.pieces for image in _images_on(piece) if image.stamp in stamped]


def coloured_images(work: Work) -> list[Image]:
    """List those that are coloured."""
    return [image for piece in work.card.pieces for image in _images_on(piece) if image.colouring]


def _images_on(piece: Piece) -> Iterable[Image]:
    if not isinstance(piece, Impression | Cutout):
        return
    yield Image(piece.id, piece.stamp, piece, piece.colouring, piece.angle_deg)
    for index, part in enumerate(piece.joined if isinstance(piece, Cutout) else ()):
        angle_deg = (piece.angle_deg + part.angle_deg) % 360
        yield Image(part_key(piece.id, index), part.stamp, piece, part.colouring, angle_deg)


def find_image(work: Work, key: str) -> Image:
    """Return the image of that key.

    Raises
    ------
    PaperError
        When it is no image.
    """
    piece = next((one for one in work.card.pieces if one.id == piece_key(key)), None)
    for image in _images_on(piece) if piece is not None else ():
        if image.key == key:
            return image
    raise PaperError("Only images are coloured by their parts.")


def paper_under(card: Card, image: Image) -> Colour:
    """Colour of the paper that an image is coloured on."""
    if isinstance(image.piece, Cutout):
        return image.piece.colour or WHITE
    if not image.piece.on:
        return card.paper
    return card.find(image.piece.on).colour or WHITE


def recolour_pieces(
    pieces: Iterable[Piece], change: Callable[[str, str, Colouring], Colouring], keys: Collection[str] | None = None
) -> tuple[Piece, ...]:
    """Change the colours of images.

    Parameters
    ----------
    change : callable of (key, stamp, colouring)
        Gives the new colouring.
    keys : collection of str or None
        Only these; None for all.
    """
    return tuple(_recoloured(piece, change, keys) for piece in pieces)


def _recoloured(
    piece: Piece, change: Callable[[str, str, Colouring], Colouring], keys: Collection[str] | None
) -> Piece:
    if not isinstance(piece, Impression | Cutout):
        return piece

    def changed(key: str, stamp: str, colouring: Colouring) -> Colouring:
        return change(key, stamp, colouring) if keys is None or key in keys else colouring

    own = changed(piece.id, piece.stamp, piece.colouring)
    made: Impression | Cutout = piece if own == piece.colouring else msgspec.structs.replace(piece, colouring=own)
    if isinstance(made, Cutout) and made.joined:
        joined = tuple(
            _part(part, changed(part_key(made.id, index), part.stamp, part.colouring))
            for index, part in enumerate(made.joined)
        )
        made = made if joined == made.joined else msgspec.structs.replace(made, joined=joined)
    return made


def _part(part: Part, colouring: Colouring) -> Part:
    return part if colouring == part.colouring else msgspec.structs.replace(part, colouring=colouring)
