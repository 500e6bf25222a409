"""Card formats and envelopes, as sold and as folded (CRAFT figures: common practice; ISO 216, ISO 269)."""

import enum
from collections.abc import Mapping
from types import MappingProxyType

import msgspec

from fair_thicket.model.errors import PaperError
from fair_thicket.model.units import MM_PER_INCH, Unit, say_size

LONG_RATIO = 1.9
"""An envelope longer than so many times its height is told by its size."""


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
        return blank_of(self.front(landscape=landscape), fold)


def blank_of(front: tuple[float, float], fold: Fold) -> tuple[float, float, float]:
    """Width and height of the flat blank of a front, and where it is scored from its top or left, mm."""
    width, height = front
    if fold is Fold.TOP:
        return width, 2 * height, height
    return 2 * width, height, width


class Envelope(msgspec.Struct, frozen=True):
    """An envelope's outside, the long side as width, in mm; `is_inch` where it is sold in inches."""

    name: str
    width_mm: float
    height_mm: float
    is_inch: bool = False

    def say(self, unit: Unit) -> str:
        """Say it as makers do: a long one by its size, the others by name."""
        if self.width_mm > LONG_RATIO * self.height_mm:
            return f"long envelope of {say_size(self.width_mm, self.height_mm, unit)}"
        return self.name if "envelope" in self.name else f"{self.name} envelope"


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
    Envelope("A2 envelope", 5.75 * MM_PER_INCH, 4.375 * MM_PER_INCH, True),
    Envelope("A6 envelope", 6.5 * MM_PER_INCH, 4.75 * MM_PER_INCH, True),
    Envelope("A7 envelope", 7.25 * MM_PER_INCH, 5.25 * MM_PER_INCH, True),
    Envelope("No. 10 envelope", 9.5 * MM_PER_INCH, 4.125 * MM_PER_INCH, True),
    Envelope("C6", 162, 114),
    Envelope("DL", 220, 110),
    Envelope("C5", 229, 162),
)

SHEETS: Mapping[str, tuple[float, float]] = MappingProxyType(
    {
        "letter": (8.5 * MM_PER_INCH, 11 * MM_PER_INCH),
        "a4": (210.0, 297.0),
        "a5": (148.0, 210.0),
    }
)
"""Sheets that are scanned and printed on, upright, width and height in mm."""


def smallest_envelope(width_mm: float, height_mm: float, unit: Unit | None = None) -> Envelope | None:
    """Return the smallest envelope that takes a card of that size either way round; None when none does.

    Parameters
    ----------
    unit : Unit or None
        Of the maker, who buys envelopes of that system where one fits; None for either.
    """
    long, short = max(width_mm, height_mm), min(width_mm, height_mm)
    fitting = [one for one in ENVELOPES if one.width_mm >= long and one.height_mm >= short]
    own = [one for one in fitting if one.is_inch == (unit is Unit.INCH)]
    fitting = own if own and unit is not None else fitting
    return min(fitting, key=lambda one: one.width_mm * one.height_mm, default=None)


class Border(msgspec.Struct, frozen=True):
    """What of a layer shows round a smaller one that lies on it, mm."""

    left: float
    top: float
    right: float
    bottom: float

    @property
    def is_even(self) -> bool:
        """Whether all four sides show alike, to a tenth of a millimetre."""
        sides = (self.left, self.top, self.right, self.bottom)
        return max(sides) - min(sides) <= 0.1


def border_of(outer: tuple[float, float], inner: tuple[float, float], off: tuple[float, float] = (0, 0)) -> Border:
    """Border that a layer shows round one that lies centred on it, or off its centre by (x, y) mm."""
    across, down = (outer[0] - inner[0]) / 2, (outer[1] - inner[1]) / 2
    return Border(across + off[0], down + off[1], across - off[0], down - off[1])


def all_round(outer: tuple[float, float], border_mm: float) -> tuple[float, float]:
    """Size to cut so that a border of `border_mm` shows all round: twice the border off each dimension.

    Raises
    ------
    PaperError
        When nothing would be left.
    """
    width, height = outer[0] - 2 * border_mm, outer[1] - 2 * border_mm
    if width <= 0 or height <= 0:
        raise PaperError(f"A border of {border_mm:g} mm all round leaves nothing of {outer[0]:g} by {outer[1]:g} mm.")
    return width, height


def find_format(key: str) -> CardFormat:
    """Return the format of that key; the first one when the key is unknown (files are checked when read)."""
    return next((one for one in FORMATS if one.key == key), FORMATS[0])
