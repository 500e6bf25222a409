"""The regions of an image of the stash, read off its picture; ids that there were stay."""

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from fair_thicket.colour.likes import find_parts
from fair_thicket.colour.regions import find_regions
from fair_thicket.ink.prints import decode_picture
from fair_thicket.model.basics import Ring
from fair_thicket.model.bounds import MOST_HOLES, MOST_REGIONS
from fair_thicket.model.colouring import Region
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.outline import to_area, to_outline

SAME_SHARE = 0.5
"""A region is the one that was there before when both share this of what they cover together."""


def read_regions(stamp: Stamp, picture: bytes) -> tuple[tuple[Region, ...], tuple[tuple[int, ...], ...]]:
    """Read an image's regions and parts off its picture.

    Parameters
    ----------
    stamp : Stamp
        Its earlier regions lend their ids.
    picture : bytes
        Its clean picture, as PNG.

    Returns
    -------
    regions, parts

    Raises
    ------
    PictureError
        When the picture is damaged.
    """
    ink = 1 - decode_picture(picture)
    px_per_mm = ink.shape[1] / stamp.width_mm
    found = find_regions(np.asarray(ink, np.float32), px_per_mm)
    areas = sorted(found.areas, key=lambda area: -area.area)[:MOST_REGIONS]
    kept = {id(area) for area in areas}
    areas = [area for area in found.areas if id(area) in kept]
    middle = (stamp.width_mm / 2, stamp.height_mm / 2)
    areas = [shapely.affinity.translate(area, -middle[0], -middle[1]) for area in areas]
    regions = tuple(_to_region(key, area) for key, area in zip(_keys_of(areas, stamp.regions), areas, strict=True))
    parts = tuple(tuple(regions[index].id for index in part) for part in find_parts(areas))
    return regions, parts


def _keys_of(areas: Sequence[BaseGeometry], earlier: Sequence[Region]) -> list[int]:
    """Give every area the id of the region that it was before, or one that is free."""
    known = {region.id: to_area(region.ring, region.holes) for region in earlier}
    keys: list[int | None] = []
    for area in areas:
        shared = {key: _likeness(area, before) for key, before in known.items() if area.intersects(before)}
        best = max(shared, key=lambda key: shared[key], default=None)
        keys.append(best if best is not None and shared[best] >= SAME_SHARE else None)
        if keys[-1] is not None:
            del known[keys[-1]]
    taken = {key for key in keys if key is not None} | {region.id for region in earlier}
    free = iter(number for number in range(1, len(areas) + len(taken) + 1) if number not in taken)
    return [next(free) if key is None else key for key in keys]


def _likeness(one: shapely.Geometry, other: shapely.Geometry) -> float:
    return float(shapely.area(shapely.intersection(one, other)) / shapely.area(shapely.union(one, other)))


def _to_region(key: int, area: shapely.Geometry) -> Region:
    outer, holes = to_outline(area)
    return Region(key, _rounded(outer), tuple(_rounded(ring) for ring in holes[:MOST_HOLES]))


def _rounded(ring: Ring) -> Ring:
    return tuple((round(x, 3), round(y, 3)) for x, y in ring)
