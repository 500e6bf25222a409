"""How an image is coloured: its regions, and the run of shades that each part of it gets.

Glossary
--------
region
    Paper that the lines of an image close.
part
    Regions that are coloured as one.
run
    Shades of one part, from dark to light.
scheme
    Runs for an image under a name, kept with it and used again.
"""

from typing import Annotated, Literal

import msgspec

from fair_thicket.model.basics import Name, Outline
from fair_thicket.model.bounds import MOST_HOLES, MOST_PARTS, MOST_REGIONS, MOST_SCHEMES, MOST_SHADES
from fair_thicket.model.supplies import Colour

RegionId = Annotated[int, msgspec.Meta(ge=1, le=100_000)]
Light = Literal["left", "above", "right"]
"""Side from which light falls on the card, always from above as well."""
ShadeOrder = Literal["dark first", "light first"]


class Region(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A region of an image, mm from the image's middle; ids stay when the image is scanned anew."""

    id: RegionId
    ring: Outline
    holes: Annotated[tuple[Outline, ...], msgspec.Meta(max_length=MOST_HOLES)] = ()


class Shade(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A marker, pencil or ink as it is used: its colour on white paper, and what the maker calls it."""

    colour: Colour
    name: Annotated[str, msgspec.Meta(max_length=120)] = ""


class ColouredPart(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A part of an image and what it is coloured with.

    Attributes
    ----------
    regions : tuple of int
    shades : tuple of Shade
        From dark to light; none: it stays white, on purpose.
    shadow_deg : float or None
        Where its shadow lies in the image's own frame, degrees clockwise from the right; None goes by the card's light.
    undertone : Shade or None
        Laid beneath all.
    dots : Shade or None
        Freckles over it.
    """

    regions: Annotated[tuple[RegionId, ...], msgspec.Meta(min_length=1, max_length=MOST_REGIONS)]
    shades: Annotated[tuple[Shade, ...], msgspec.Meta(max_length=MOST_SHADES)] = ()
    shadow_deg: Annotated[float, msgspec.Meta(ge=-360, le=360)] | None = None
    undertone: Shade | None = None
    dots: Shade | None = None


Colouring = Annotated[tuple[ColouredPart, ...], msgspec.Meta(max_length=MOST_PARTS)]
Parts = Annotated[
    tuple[Annotated[tuple[RegionId, ...], msgspec.Meta(min_length=1, max_length=MOST_REGIONS)], ...],
    msgspec.Meta(max_length=MOST_PARTS),
]


class Scheme(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A colouring under a name."""

    name: Name
    colouring: Colouring


Regions = Annotated[tuple[Region, ...], msgspec.Meta(max_length=MOST_REGIONS)]
Schemes = Annotated[tuple[Scheme, ...], msgspec.Meta(max_length=MOST_SCHEMES)]


def prune(colouring: tuple[ColouredPart, ...], known: frozenset[int]) -> tuple[ColouredPart, ...]:
    """Leave out of a colouring what an image has no longer."""
    kept = []
    for part in colouring:
        regions = tuple(region for region in part.regions if region in known)
        if regions:
            kept.append(part if regions == part.regions else msgspec.structs.replace(part, regions=regions))
    return tuple(kept)


def shades_of(colouring: tuple[ColouredPart, ...]) -> list[Shade]:
    """Every shade that a colouring needs, each once, in the order of its parts."""
    found: dict[Shade, None] = {}
    for part in colouring:
        for shade in (*part.shades, part.undertone, part.dots):
            if shade is not None:
                found[shade] = None
    return list(found)
