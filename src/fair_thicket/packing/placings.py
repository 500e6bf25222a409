"""Which stamps lie in the platform together, so that a sheet is stamped with the fewest placings.

Glossary
--------
placing
    Stamps laid in the platform's lid at their places, pressed, and taken out again.
half-turned pair
    Two impressions of one stamp of which each is the other turned by half a turn about the sheet's middle: with the
    stamp left in place the sheet is turned round and pressed again.
"""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from fair_thicket.packing.raster_nest import Spot

SAME_MM, SAME_DEG = 0.3, 0.5
"""A sheet that is turned round by hand comes to lie as well as this."""


class Placing(NamedTuple):
    """One placing: places of impressions on the sheet's list, and of those that are pressed after the half turn."""

    first: tuple[int, ...]
    turned: tuple[int, ...]


def plan_placings(
    spots: Sequence[Spot], stamps: Sequence[str], sheet_mm: tuple[float, float], owned: Mapping[str, int]
) -> list[Placing]:
    """Plan how a sheet is stamped.

    Parameters
    ----------
    spots : sequence of Spot
        Where the images lie, turned about their own (0, 0), which is their middle.
    stamps : sequence of str
        The stamp of each.
    owned : mapping of stamp to count
        How many of it there are; one where nothing is said.

    Notes
    -----
    Exact: images on one sheet never overlap, so that different stamps are never in each other's way; a stamp needs a
    placing for every impression, or for every half-turned pair, shared among its copies, and the stamp that needs most
    decides.
    """
    units: dict[str, list[tuple[int, int | None]]] = defaultdict(list)
    paired: set[int] = set()
    for index, (spot, stamp) in enumerate(zip(spots, stamps, strict=True)):
        if index in paired:
            continue
        partner = next(
            (
                other
                for other in range(index + 1, len(spots))
                if other not in paired and stamps[other] == stamp and are_half_turned(spot, spots[other], sheet_mm)
            ),
            None,
        )
        if partner is not None:
            paired.add(partner)
        units[stamp].append((index, partner))
    count = max((math.ceil(len(own) / owned.get(stamp, 1)) for stamp, own in units.items()), default=0)
    placings = []
    for number in range(count):
        taken = [
            unit
            for stamp, own in units.items()
            for unit in own[number * owned.get(stamp, 1) : (number + 1) * owned.get(stamp, 1)]
        ]
        turned = tuple(partner for _, partner in taken if partner is not None)
        placings.append(Placing(tuple(first for first, _ in taken), turned))
    return placings


def are_half_turned(one: Spot, other: Spot, sheet_mm: tuple[float, float]) -> bool:
    """Whether a place becomes another when the sheet is turned half round."""
    off = math.hypot(one.x_mm + other.x_mm - sheet_mm[0], one.y_mm + other.y_mm - sheet_mm[1])
    turn = (one.angle_deg + 180 - other.angle_deg + 180) % 360 - 180
    return off <= SAME_MM and abs(turn) <= SAME_DEG
