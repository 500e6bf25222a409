"""What the maker owns. A stamp has one size and one face: nothing here scales or mirrors it."""

from collections.abc import Collection
from typing import Annotated

import msgspec

Point = tuple[float, float]
Ring = tuple[Point, ...]
Size = Annotated[float, msgspec.Meta(gt=0, le=1000)]
Name = Annotated[str, msgspec.Meta(min_length=1, max_length=120)]
Key = Annotated[str, msgspec.Meta(pattern=r"^[a-z0-9][a-z0-9-]{0,79}$")]
Outline = Annotated[Ring, msgspec.Meta(min_length=3, max_length=20000)]


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
        Paper wholly enclosed by ink. They belong to the image; a mask cut by its outline covers them.
    picture : str
        Name of its clean picture (ink on transparent paper), the width_mm by height_mm box exactly.
    copies : int
        How many of this stamp the maker owns.
    """

    id: Key
    name: Name
    width_mm: Size
    height_mm: Size
    outline: Outline
    picture: Annotated[str, msgspec.Meta(pattern=r"^images/[a-z0-9-]+\.png$")]
    pockets: tuple[Outline, ...] = ()
    copies: Annotated[int, msgspec.Meta(ge=1, le=20)] = 1


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
