"""The regions of an image of the stash, read off its picture; ids that there were stay."""

from collections.abc import Sequence

import msgspec
import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from fair_thicket.colour.likes import find_parts
from fair_thicket.colour.regions import find_regions
from fair_thicket.ink.prints import decode_picture
from fair_thicket.model.basics import Ring
from fair_thicket.model.bounds import MOST_HOLES, MOST_REGIONS
from fair_thicket.model.colouring import TOUCHES, Region
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.outline import to_area, to_outline
from fair_thicket.shape.raster import fill

SAME_SHARE = 0.5
"""A region is the one that was there before when both share this of what they cover together."""


def read_regions(stamp: Stamp, picture: bytes) -> tuple[tuple[Region, ...], tuple[tuple[int, ...], ...]]:
    """Read an image's regions and parts off its picture.

    Parameters
    ----------
    stamp : Stamp
        Its earlier regions lend their ids, and what is marked on them; its touches stay.
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
    areas = _closed_areas(stamp, picture)
    earlier = {region.id: region for region in stamp.regions}
    closed = [region for region in stamp.regions if not region.is_touch]
    touches = [region for region in stamp.regions if region.is_touch]
    keys = _keys_of(areas, closed, frozenset(region.id for region in touches))
    regions = tuple(_to_region(key, area, earlier.get(key)) for key, area in zip(keys, areas, strict=True))
    parts = [tuple(regions[index].id for index in part) for part in find_parts(areas)]
    for kind in TOUCHES:
        parts += [own] if (own := tuple(region.id for region in touches if region.kind == kind)) else []
    return (*regions, *touches), tuple(parts)


def _closed_areas(stamp: Stamp, picture: bytes) -> list[BaseGeometry]:
    """Areas that the lines and the outline of an image close, mm from its middle; of very many the largest."""
    ink = 1 - decode_picture(picture)
    px_per_mm, middle = ink.shape[1] / stamp.width_mm, (stamp.width_mm / 2, stamp.height_mm / 2)
    body = fill(to_area(stamp.outline, stamp.pockets), ink.shape, px_per_mm, left=-middle[0], top=-middle[1])
    found = find_regions(np.asarray(ink, np.float32), px_per_mm, body)
    kept = {id(area) for area in sorted(found.areas, key=lambda area: -area.area)[:MOST_REGIONS]}
    return [shapely.affinity.translate(area, -middle[0], -middle[1]) for area in found.areas if id(area) in kept]


def _keys_of(areas: Sequence[BaseGeometry], earlier: Sequence[Region], taken_by: frozenset[int]) -> list[int]:
    """Return every area the id of the region that it was before, or one that is free."""
    known = {region.id: to_area(region.ring, region.holes) for region in earlier}
    keys: list[int | None] = []
    for area in areas:
        shared = {key: _likeness(area, before) for key, before in known.items() if area.intersects(before)}
        best = max(shared, key=lambda key: shared[key], default=None)
        keys.append(best if best is not None and shared[best] >= SAME_SHARE else None)
        if keys[-1] is not None:
            del known[keys[-1]]
    taken = {key for key in keys if key is not None} | {region.id for region in earlier} | taken_by
    free = iter(number for number in range(1, len(areas) + len(taken) + 1) if number not in taken)
    return [next(free) if key is None else key for key in keys]


def _likeness(one: shapely.Geometry, other: shapely.Geometry) -> float:
    return float(shapely.area(shapely.intersection(one, other)) / shapely.area(shapely.union(one, other)))


def _to_region(key: int, area: shapely.Geometry, before: Region | None) -> Region:
    outer, holes = to_outline(area)
    made = Region(key, _rounded(outer), tuple(_rounded(ring) for ring in holes[:MOST_HOLES]))
    return made if before is None else msgspec.structs.replace(made, rounding=before.rounding, folds=before.folds)


def _rounded(ring: Ring) -> Ring:
    return tuple((round(x, 3), round(y, 3)) for x, y in ring)
