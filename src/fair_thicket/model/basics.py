"""What values of every kind are made of: names, keys, places and rings, with their limits."""

from typing import Annotated

import msgspec

from fair_thicket.model.bounds import FARTHEST_MM, LARGEST_MM, LEAST_MM, LEAST_SHEET_MM

Place = Annotated[float, msgspec.Meta(ge=-FARTHEST_MM, le=FARTHEST_MM)]
Point = tuple[Place, Place]
Ring = tuple[Point, ...]
Size = Annotated[float, msgspec.Meta(ge=LEAST_MM, le=LARGEST_MM)]
SheetSide = Annotated[float, msgspec.Meta(ge=LEAST_SHEET_MM, le=LARGEST_MM)]
Name = Annotated[str, msgspec.Meta(min_length=1, max_length=120)]
Key = Annotated[str, msgspec.Meta(pattern=r"^[a-z0-9][a-z0-9-]{0,79}$")]
Outline = Annotated[Ring, msgspec.Meta(min_length=3, max_length=20000)]
Tag = Annotated[str, msgspec.Meta(min_length=1, max_length=40)]
