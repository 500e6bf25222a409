"""One side of a card with all that is known of it."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

from fair_thicket.assembly.foam import FoamPlan
from fair_thicket.assembly.glue import GluePlan
from fair_thicket.laid.heights import Heights
from fair_thicket.model.card import Work
from fair_thicket.model.plan import MaskPlan

NONE: Mapping[str, float] = MappingProxyType({})


class Side(NamedTuple):
    """A side of a card with all that is known of it; minutes of colouring by piece where they are known."""

    name: str
    work: Work
    plan: MaskPlan
    heights: Heights
    foam: FoamPlan
    glue: GluePlan
    colour_min: Mapping[str, float] = NONE

    @property
    def prefix(self) -> str:
        """What the keys of its steps begin with; nothing for the front."""
        return "" if self.name == "front" else f"{self.name} "
