"""What each kind of wash does, and how it is told: one row a kind.

A new kind is a struct in `model.pieces.washes`, a name more in its `AnyWash`, and a row
in `WASHES`.
"""

from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import Any, Literal, NamedTuple

from fair_thicket.model.pieces import AnyWash, Blend, Paste, Splatter, Stencilled, Texture, Water, as_kind
from fair_thicket.model.stash import Stash
from fair_thicket.shape.outline import Area, to_area
from fair_thicket.shape.washes import drops_area, marks_area, through_area, under_covers

SPLATTER_MM, WATER_MM = (0.15, 1.1), (0.5, 3.2)
"""Radius of the smallest and the largest drop (our own guess)."""


class WashKind(NamedTuple):
    """What a kind of wash does, and how it is told.

    Attributes
    ----------
    choice : str
        What is done, for a maker to choose from.
    mind : str
        What is to be minded, told beside the choice.
    area : callable of (piece, stash, area of its form)
        Area about the wash's middle, mm, before covers.
    step : str
        One step of the work; the wash's {name}, its {stencil}, what is {taped} over, the {recipe} of its inks, its
        {coats} and {marks} are put in.
    coats : str
        Told on its page instead of coats of ink; empty where coats are counted.
    dries : str
        Whether it dries as ``ink`` or as ``paste``.
    last : str
        Told at the end of its page.
    has_colour : bool
        Whether it lays anything; water does not.
    """

    choice: str
    mind: str
    area: Callable[[Any, Stash, Area], Area]
    step: str
    coats: str = ""
    dries: Literal["ink", "paste"] = "ink"
    last: str = ""
    has_colour: bool = True


def _all_of_it(piece: Blend, stash: Stash, form: Area) -> Area:
    del piece, stash
    return form


def _splattered(piece: Splatter, stash: Stash, form: Area) -> Area:
    del stash
    return drops_area(form, piece.drops, piece.seed, SPLATTER_MM)


def _flicked(piece: Water, stash: Stash, form: Area) -> Area:
    if piece.stamp:
        return to_area(stash.find(piece.stamp).outline)
    return drops_area(form, piece.drops, piece.seed, WATER_MM)


def _marked(piece: Texture, stash: Stash, form: Area) -> Area:
    del stash
    return marks_area(form, piece.mark, piece.mark_mm, piece.spots)


BLEND = WashKind(
    choice="ink, blended",
    mind="Light first, several thin coats.",
    area=_all_of_it,
    step="Ink the {name}{recipe}: light first, {coats}",
)
STENCILLED = WashKind(
    choice="ink through a stencil",
    mind="Hold the stencil down with low-tack tape.",
    area=through_area,
    step="Ink the {name} through the {stencil}, held down with low-tack tape{taped}: {coats}",
)
SPLATTER = WashKind(
    choice="ink, splattered",
    mind="Splatter: cover all that is to stay clean.",
    area=_splattered,
    step="Splatter the {name} from a brush, from one side",
)
WATER = WashKind(
    choice="water, flicked on and blotted",
    mind="It lifts ink of the washes before it: cover all that is to keep its colour.",
    area=_flicked,
    step="Flick clean water on for the {name}, wait half a minute and blot it: it lifts the ink",
    coats="Clean water, blotted",
    has_colour=False,
)
PASTE = WashKind(
    choice="paste",
    mind="Raised, dry in about an hour; the stencil is washed at once. Ventilate; the maker's label comes first.",
    area=through_area,
    step="Spread the paste of the {name} thinly through the {stencil}, taped down{taped}; lift the stencil straight up "
    "and wash it at once. Ventilate; the maker's label comes first",
    coats="One thin layer",
    dries="paste",
    last="Wash the stencil at once. Ventilate; follow the maker's label first.",
)
TEXTURE = WashKind(
    choice="texture, stamped late",
    mind="Stamped late, while all lies flat, and only where a whole mark finds free ground.",
    area=_marked,
    step="Late, while all lies flat, stamp the {marks} marks of the {name} lightly where the ground is free",
    coats="One light press each",
)
WASHES: Mapping[type[AnyWash], WashKind] = MappingProxyType(
    {Blend: BLEND, Stencilled: STENCILLED, Splatter: SPLATTER, Water: WATER, Paste: PASTE, Texture: TEXTURE}
)
"""One row a kind, in the order in which they are offered."""


def kind_of(piece: AnyWash) -> WashKind:
    """Return what a wash's kind does; KeyError names the struct that has no row."""
    return WASHES[type(piece)]


def offered_kinds(piece: AnyWash) -> list[tuple[type[AnyWash], WashKind]]:
    """List what a wash can be made into, in the order in which it is offered."""
    return [(kind, kind_of(as_kind(piece, kind))) for kind in WASHES]


def wash_area(piece: AnyWash, stash: Stash, form: Area) -> Area:
    """Area that a wash inks, about its own middle, mm; `form` is its form's area."""
    return under_covers(kind_of(piece).area(piece, stash, form), piece.covers)
