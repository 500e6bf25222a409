"""How a card is put together: thicknesses, tapes and distances, as settings of a card; values only."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Annotated

import msgspec

from fair_thicket.model.units import Unit

Thickness = Annotated[float, msgspec.Meta(ge=0.02, le=5)]
Distance = Annotated[float, msgspec.Meta(ge=0, le=60)]
Width = Annotated[float, msgspec.Meta(ge=1, le=60)]
Minutes = Annotated[float, msgspec.Meta(ge=0, le=10_000)]
Weight = Annotated[float, msgspec.Meta(ge=3, le=2000)]


Step = Annotated[str, msgspec.Meta(min_length=1, max_length=120)]


MOST_TOOK = 400


USUAL_FOAM_MM: Mapping[Unit, tuple[float, ...]] = MappingProxyType({Unit.INCH: (1.6, 3.2), Unit.MM: (1.0, 2.0, 3.0)})
"""Foam is sold in 1/16 and 1/8 in, and in 1, 2 and 3 mm (common practice); an eighth is told as 3.2 mm."""


class Took(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a step of a kind was planned to take, and really took, minutes for one card."""

    kind: Annotated[str, msgspec.Meta(min_length=1, max_length=20)]
    planned_min: Annotated[float, msgspec.Meta(ge=0.001, le=10_000)]
    real_min: Minutes


class AssemblyRules(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """How a maker glues (defaults: common practice, but for thicknesses in the middle of what is usual).

    Attributes
    ----------
    base_mm, base_gsm : float
        Thickness and weight of the card base (110 lb cover: 298 g/m2).
    foam_widths : tuple of float
        Widths of foam tape owned, mm.
    foam_mm : tuple of float
        Thicknesses of foam owned, mm; none for those that are usual where the card's unit is (see `usual_foam`).
    foam_in_mm : float
        Foam stays so far in from every edge.
    foam_reach_mm : float
        No part of a sheet is farther from foam: it would sink when pressed.
    glue_free_mm : float
        No glue comes nearer to what must stay free.
    hold_min : float
        Liquid glue holds after so long.
    vellum_min, gloss_min : float
        Vellum dries under weight; glossy drops and glue dry flat.
    shortened_mm : float
        So much higher is the base cut than it ends: it is trimmed at its foot when the front is finished.
    order : tuple of (str, str)
        Keys of steps of which the maker wants the first before the second.
    took : tuple of Took
        The newest last.
    """

    base_mm: Thickness = 0.35
    base_gsm: Weight = 298.0
    foam_widths: Annotated[tuple[Width, ...], msgspec.Meta(min_length=1, max_length=8)] = (12.0, 6.0, 3.0)
    foam_mm: Annotated[tuple[Annotated[float, msgspec.Meta(ge=0.2, le=20)], ...], msgspec.Meta(max_length=8)] = ()
    foam_in_mm: Distance = 2.5
    foam_reach_mm: Annotated[float, msgspec.Meta(ge=4, le=60)] = 12.0
    glue_free_mm: Distance = 4.0
    hold_min: Minutes = 5.0
    vellum_min: Minutes = 15.0
    gloss_min: Minutes = 240.0
    shortened_mm: Annotated[float, msgspec.Meta(ge=0, le=300)] = 0.0
    order: Annotated[tuple[tuple[Step, Step], ...], msgspec.Meta(max_length=200)] = ()
    took: Annotated[tuple[Took, ...], msgspec.Meta(max_length=MOST_TOOK)] = ()
