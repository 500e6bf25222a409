"""Papers, inks and markers: what a maker colours and cuts, with its colour and weight."""

from types import MappingProxyType
from typing import Annotated, Literal

import msgspec

from fair_thicket.model.basics import Name
from fair_thicket.model.errors import InputError
from fair_thicket.model.units import MM_PER_INCH

GRAMS_PER_POUND = 453.59237
SHEETS_PER_REAM = 500
BASIS_SHEETS_IN = MappingProxyType({"cover": (20.0, 26.0), "text": (25.0, 38.0)})
"""Sheet by which a ream is weighed in pounds: the definition of basis weight."""

Colour = Annotated[str, msgspec.Meta(pattern=r"^#[0-9a-f]{6}$")]
Code = Annotated[str, msgspec.Meta(max_length=40)]
Side = Annotated[float, msgspec.Meta(gt=0, le=2000)]


Medium = Literal["alcohol", "water", "pencil", "pigment"]
"""What images are coloured with: alcohol markers, water colour or water-based markers, pencils, pigment ink."""
LineInk = Literal["", "marker-proof", "waterproof", "pigment", "no line"]
"""What an ink for lines bears; empty while it is not known."""
Surface = Literal["", "smooth", "uncoated", "water colour"]
"""How a paper takes ink; empty while it is not known."""


class Paper(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="paper"):
    """A paper: its colour (sRGB), weight, sheet size, how many sheets are left, and how it takes ink."""

    name: Name
    colour: Colour = "#ffffff"
    code: Code = ""
    weight_gsm: Annotated[float, msgspec.Meta(gt=0, le=2000)] = 298.0
    width_mm: Side = 215.9
    height_mm: Side = 279.4
    sheets_left: Annotated[int, msgspec.Meta(ge=0, le=100_000)] = 0
    surface: Surface = ""


class Ink(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="ink"):
    """An ink pad: its colour on white paper (sRGB), and what its lines bear."""

    name: Name
    colour: Colour
    code: Code = ""
    lines: LineInk = ""


class Marker(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="marker"):
    """A marker, pencil or colour, and what it lays.

    Attributes
    ----------
    name : str
    colour : str
        As it is laid on white paper: of the maker's own swatch.
    code, family : str
        The family of shades that it belongs to.
    cap : str or None
        What its cap or label promises, where it is known.
    medium : str
    """

    name: Name
    colour: Colour
    code: Code = ""
    family: Code = ""
    cap: Colour | None = None
    medium: Medium = "alcohol"


Supply = Paper | Ink | Marker


def pounds_to_gsm(pounds: float, basis: str) -> float:
    """Turn a basis weight into grams a square metre.

    Parameters
    ----------
    pounds : float
        Weight of 500 sheets of the basis size.
    basis : str
        ``cover`` (20 by 26 in) or ``text`` (25 by 38 in).

    Examples
    --------
    >>> round(pounds_to_gsm(110, "cover"))
    298
    """
    width, height = BASIS_SHEETS_IN[basis]
    area_m2 = width * height * (MM_PER_INCH / 1000) ** 2
    return pounds * GRAMS_PER_POUND / (SHEETS_PER_REAM * area_m2)


def parse_weight(text: str) -> float:
    """Read a typed paper weight into grams a square metre.

    Parameters
    ----------
    text : str
        Such as ``300``, ``300 gsm``, ``300 g/m2``, ``110 lb cover`` or ``70 lb text``.

    Raises
    ------
    InputError
        When it is no weight, or pounds without their kind.
    """
    words = text.lower().replace("²", "2").replace(",", ".").split()
    number = words[0].rstrip("lbgsm/2#") if words else ""
    rest = (words[0][len(number) :] + " " + " ".join(words[1:])).strip() if words else ""
    try:
        value = float(number)
    except ValueError:
        value = 0.0
    if not 0 < value <= 2000:
        raise InputError(f"“{text[:24]}” is not a paper weight; type it like 300 gsm or 110 lb cover.")
    if not rest or rest in {"g", "gsm", "g/m2", "gm2"}:
        return value
    basis = rest.split()[-1]
    if basis not in BASIS_SHEETS_IN or ("lb" not in rest and "#" not in rest):
        raise InputError(f"“{text[:24]}” leaves open which pounds are meant; say lb cover or lb text, or grams.")
    return pounds_to_gsm(value, basis)


def say_weight(weight_gsm: float) -> str:
    """Say a weight in both ways, such as ``298 g/m² (110 lb cover)``."""
    cover = weight_gsm / pounds_to_gsm(1, "cover")
    return f"{weight_gsm:.0f} g/m² ({cover:.0f} lb cover)"
