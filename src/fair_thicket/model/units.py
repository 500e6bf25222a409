"""Lengths as makers say and type them: inches in fractions, or millimetres."""

import enum
import math
import re
from fractions import Fraction
from types import MappingProxyType

from fair_thicket.model.errors import LengthError

MM_PER_INCH = 25.4
_LONGEST_MM = 5000.0
_NUMBER = re.compile(
    r"""^\s*(?P<sign>[-\u2212]?)\s*
    (?:(?P<whole>\d{1,6})(?:\s+|-))?(?:(?P<top>\d{1,6})\s*/\s*(?P<bottom>\d{1,6})|(?P<plain>\d{1,6}(?:[.,]\d{1,9})?|[.,]\d{1,9}))
    \s*(?P<unit>mm|millimet(?:er|re)s?|cm|centimet(?:er|re)s?|in\.?|inch|inches|"|\u2033|\u201d)?\s*$""",
    re.VERBOSE | re.IGNORECASE,
)
_VULGAR = MappingProxyType({"¼": " 1/4", "½": " 1/2", "¾": " 3/4", "⅛": " 1/8", "⅜": " 3/8", "⅝": " 5/8", "⅞": " 7/8"})


class Unit(enum.Enum):
    """The unit in which a maker thinks."""

    INCH = "in"
    MM = "mm"


def parse_length(text: str, unit: Unit = Unit.INCH) -> float:
    """Read a typed length into millimetres.

    Parameters
    ----------
    text : str
        Such as ``4 1/8``, ``4 1/8 in``, ``4.125"``, ``105 mm``, ``10,5cm``; a fraction sign like ¼ will do.
    unit : Unit
        What a bare number means.

    Returns
    -------
    float
        Millimetres.

    Raises
    ------
    LengthError
        When the text is no length, is endless or is above 5 m.
    """
    spelled = text
    for sign, fraction in _VULGAR.items():
        spelled = spelled.replace(sign, fraction)
    match = _NUMBER.match(spelled)
    if match is None or (match["whole"] and match["plain"]):
        raise LengthError(text)
    if match["top"] and int(match["bottom"]) == 0:
        raise LengthError(text)
    if match["top"]:
        value = Fraction(int(match["whole"] or 0)) + Fraction(int(match["top"]), int(match["bottom"]))
    else:
        value = Fraction(match["plain"].replace(",", "."))
    length = float(value) * _mm_per(match["unit"], unit)
    if not math.isfinite(length) or length > _LONGEST_MM:
        raise LengthError(text)
    return -length if match["sign"] else length


def _mm_per(word: str | None, unit: Unit) -> float:
    if not word:
        return MM_PER_INCH if unit is Unit.INCH else 1.0
    lower = word.lower()
    if lower.startswith(("mm", "milli")):
        return 1.0
    if lower.startswith("c"):
        return 10.0
    return MM_PER_INCH


def say_length(length_mm: float, unit: Unit, *, parts: int = 16) -> str:
    """Say a length the way a maker would read it from a ruler.

    Parameters
    ----------
    length_mm : float
    unit : Unit
    parts : int
        Inches are rounded to 1/parts, reduced.

    Returns
    -------
    str
        Such as ``4 1/8 in``, ``-3/16 in``, ``under 1/16 in`` or ``104.8 mm``. A millimetre value keeps one decimal.
    """
    if unit is Unit.MM:
        # a front of 4 1/4 in is 107.95 mm: halves round away from nothing, as on a ruler
        text = f"{length_mm + math.copysign(1e-9, length_mm):.1f}"
        return f"{text.removesuffix('.0')} mm" if text != "-0.0" else "0 mm"
    steps = round(abs(length_mm) / MM_PER_INCH * parts)
    if steps == 0:
        return "0 in" if abs(length_mm) < 0.05 else f"under 1/{parts} in"
    sign = "-" if length_mm < 0 else ""
    return f"{sign}{_say_fraction(Fraction(steps, parts))} in"


def _say_fraction(value: Fraction) -> str:
    whole, rest = divmod(value, 1)
    if rest == 0:
        return str(whole)
    return f"{whole} {rest}" if whole else str(rest)


def say_area(area_mm2: float) -> str:
    """Say an area: in cm² from one cm² on, below that in mm², such as ``12 mm²`` or ``3.4 cm²``."""
    if area_mm2 < 99.5:
        return f"{area_mm2:.0f} mm²" if area_mm2 >= 9.5 else f"{area_mm2:.1f} mm²"
    return f"{area_mm2 / 100:.1f} cm²"


def say_size(width_mm: float, height_mm: float, unit: Unit) -> str:
    """Say a width by a height, such as ``4 1/4 × 5 1/2 in``."""
    width, height = say_length(width_mm, unit), say_length(height_mm, unit)
    return f"{width.removesuffix(' ' + unit.value)} × {height}"
