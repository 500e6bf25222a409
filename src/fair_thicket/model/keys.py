"""Keys of what a piece is made of: built and read here, and nowhere else.

A piece's own id is its key. Then there are, counted from 0, its flaps (``vine-1~2`` is the third) and the further
images of a joint cutout (``snail-1+2``), and counted from 1 the layers of an image (``toad-1/2``, ``snail-1+0/2``). No
id bears one of these signs.
"""

from typing import NamedTuple

FLAP, PART, LAYER = "~", "+", "/"


class PieceKey(NamedTuple):
    """A key by what it names.

    Attributes
    ----------
    piece : str
        Id of the piece.
    part, flap, layer : int or None
        Number of a further image, of a flap, and of a layer (this one from 1).
    """

    piece: str
    part: int | None = None
    flap: int | None = None
    layer: int | None = None

    def __str__(self) -> str:
        ends = ((PART, self.part), (FLAP, self.flap), (LAYER, self.layer))
        return self.piece + "".join(f"{sign}{number}" for sign, number in ends if number is not None)


def read_key(key: str) -> PieceKey:
    """Read a key.

    Raises
    ------
    ValueError
        When what follows a sign is no number.

    Examples
    --------
    >>> read_key("snail-1+0/2")
    PieceKey(piece='snail-1', part=0, flap=None, layer=2)
    """
    rest, layer = _cut(key, LAYER)
    rest, flap = _cut(rest, FLAP)
    piece, part = _cut(rest, PART)
    return PieceKey(piece, part, flap, layer)


def piece_key(key: str) -> str:
    """Return the id of the piece that a stamping, a flap or an image of a joint cutout belongs to.

    >>> piece_key("snail-1+0/2"), piece_key("vine-1~2"), piece_key("toad-1")
    ('snail-1', 'vine-1', 'toad-1')
    """
    return key.partition(LAYER)[0].partition(FLAP)[0].partition(PART)[0]


def image_key(key: str) -> str:
    """Return the key of the image that a stamping is a layer of.

    >>> image_key("snail-1+0/2"), image_key("toad-1")
    ('snail-1+0', 'toad-1')
    """
    return key.partition(LAYER)[0]


def flap_number(key: str) -> int | None:
    """Return which flap of its piece a key names; None for no flap."""
    return read_key(key).flap


def is_flap(key: str) -> bool:
    """Whether a key names a flap."""
    return FLAP in key


def part_key(piece: str, number: int) -> str:
    """Return the key of a further image of a joint cutout, counted from 0."""
    return str(PieceKey(piece, part=number))


def flap_key(piece: str, number: int) -> str:
    """Return the key of a flap, counted from 0."""
    return str(PieceKey(piece, flap=number))


def layer_key(image: str, number: int) -> str:
    """Return the key of a layer of an image, counted from 1."""
    return f"{image}{LAYER}{number}"


def _cut(key: str, sign: str) -> tuple[str, int | None]:
    before, found, number = key.partition(sign)
    return before, int(number) if found else None
