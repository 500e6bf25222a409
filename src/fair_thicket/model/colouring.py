"""How an image is coloured: its regions, and the run of shades that each part of it gets.

Glossary
--------
region
    Paper that the lines of an image close; or a touch.
touch
    What is put on last and is closed by no line: a cheek, the glaze over an eye, a white dot.
fold
    A crease, or the rib of a leaf: shadow lies along it.
part
    Regions that are coloured as one.
run
    Shades of one part, from dark to light.
scheme
    Runs for an image under a name, kept with it and used again.
"""

from typing import Annotated, Literal

import msgspec

from fair_thicket.model.basics import Name, Outline, Point
from fair_thicket.model.bounds import (
    MOST_FOLDS,
    MOST_HOLES,
    MOST_PARTS,
    MOST_REGIONS,
    MOST_SCHEMES,
    MOST_SHADES,
)
from fair_thicket.model.supplies import Colour, Marker, Medium

RegionId = Annotated[int, msgspec.Meta(ge=1, le=100_000)]
Light = Literal["left", "above", "right"]
"""Side from which light falls on the card, always from above as well."""
ShadeOrder = Literal["dark first", "light first"]
Rounding = Literal["plain", "round", "panel"]
"""How a region is shaded: by the light alone, dark at all its edges, or dark at both sides as between two folds."""
RegionKind = Literal["closed", "cheek", "eye", "white dot"]
TOUCHES: tuple[RegionKind, ...] = ("cheek", "eye", "white dot")
"""In the order in which they are put on."""
Fold = tuple[Point, Point]


class Region(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A region of an image, mm from the image's middle; ids stay when the image is scanned anew.

    Attributes
    ----------
    id : int
    ring, holes
    kind : str
        Closed by lines, or the touch that it is.
    rounding : str
    folds : tuple of (point, point)
        Lines along which shadow lies.
    """

    id: RegionId
    ring: Outline
    holes: Annotated[tuple[Outline, ...], msgspec.Meta(max_length=MOST_HOLES)] = ()
    kind: RegionKind = "closed"
    rounding: Rounding = "plain"
    folds: Annotated[tuple[Fold, ...], msgspec.Meta(max_length=MOST_FOLDS)] = ()

    @property
    def is_touch(self) -> bool:
        """Whether it is put on over what lines close."""
        return self.kind != "closed"


class Shade(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A marker, pencil or ink as it is used: its colour on white paper, what the maker calls it, what it is."""

    colour: Colour
    name: Annotated[str, msgspec.Meta(max_length=120)] = ""
    medium: Medium = "alcohol"


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


def shade_of(marker: Marker) -> Shade:
    """Return a marker of the maker's as a shade."""
    return Shade(marker.colour, marker.name, marker.medium)


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
