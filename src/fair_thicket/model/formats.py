"""Card formats and envelopes, as sold and as folded (CRAFT figures: common practice; ISO 216, ISO 269)."""

import enum

import msgspec

from fair_thicket.model.units import MM_PER_INCH


class Fold(enum.Enum):
    """Which side of the front the fold lies on."""

    TOP = "top"
    SIDE = "side"


class CardFormat(msgspec.Struct, frozen=True):
    """A card front held upright (portrait), in mm. The blank is twice the front along the folded side.

    Attributes
    ----------
    key : str
        What the card file says.
    name : str
        What the maker reads.
    width_mm, height_mm : float
        The upright front.
    """

    key: str
    name: str
    width_mm: float
    height_mm: float

    def front(self, *, landscape: bool) -> tuple[float, float]:
        """Width and height in mm as the card is looked at."""
        return (self.height_mm, self.width_mm) if landscape else (self.width_mm, self.height_mm)

    def blank(self, fold: Fold, *, landscape: bool) -> tuple[float, float, float]:
        """Width and height of the flat blank as it lies, and where it is scored from its top or left, in mm."""
        width, height = self.front(landscape=landscape)
        if fold is Fold.TOP:
            return width, 2 * height, height
        return 2 * width, height, width


class Envelope(msgspec.Struct, frozen=True):
    """An envelope's outside, the long side as width, in mm."""

    name: str
    width_mm: float
    height_mm: float


def _inches(key: str, name: str, width_in: float, height_in: float) -> CardFormat:
    return CardFormat(key, name, width_in * MM_PER_INCH, height_in * MM_PER_INCH)


FORMATS: tuple[CardFormat, ...] = (
    _inches("a2", "A2", 4.25, 5.5),
    _inches("slimline", "slimline", 3.5, 8.5),
    _inches("5x7", "5 × 7", 5, 7),
    _inches("square6", "square 6", 6, 6),
    CardFormat("a6", "A6", 105, 148),
    CardFormat("dl", "DL card", 99, 210),
    CardFormat("square144", "square 144 mm", 144, 144),
)

ENVELOPES: tuple[Envelope, ...] = (
    Envelope("A2 envelope", 5.75 * MM_PER_INCH, 4.375 * MM_PER_INCH),
    Envelope("A6 envelope", 6.5 * MM_PER_INCH, 4.75 * MM_PER_INCH),
    Envelope("A7 envelope", 7.25 * MM_PER_INCH, 5.25 * MM_PER_INCH),
    Envelope("No. 10 envelope", 9.5 * MM_PER_INCH, 4.125 * MM_PER_INCH),
    Envelope("C6", 162, 114),
    Envelope("DL", 220, 110),
    Envelope("C5", 229, 162),
)

SHEETS: dict[str, tuple[float, float]] = {
    "letter": (8.5 * MM_PER_INCH, 11 * MM_PER_INCH),
    "a4": (210.0, 297.0),
    "a5": (148.0, 210.0),
}
"""Sheets that are scanned and printed on, upright, width and height in mm."""


def find_format(key: str) -> CardFormat:
    """Return the format of that key; the first one when the key is unknown (files are checked when read)."""
    return next((one for one in FORMATS if one.key == key), FORMATS[0])
