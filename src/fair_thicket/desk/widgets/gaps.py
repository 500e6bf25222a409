"""Gaps of what is being moved: to the nearest edges of the card and to its nearest neighbour."""

from collections.abc import Collection, Mapping
from functools import lru_cache

import msgspec
import shapely

from fair_thicket.model.card import Impression, Work
from fair_thicket.model.stash import Point, Stamp
from fair_thicket.shape.outline import Area, footprint

FAR_MM = 40.0


class Gap(msgspec.Struct, frozen=True):
    """A distance to be drawn: its ends on the panel, its length (below 0: over the edge), words after the figure."""

    start: Point
    end: Point
    length_mm: float
    words: str = ""


@lru_cache(maxsize=1024)
def _footprint(piece: Impression, stamp: Stamp) -> Area:
    return footprint(piece, stamp)


def measure_gaps(work: Work, keys: Collection[str], by: tuple[float, float], names: Mapping[str, str]) -> list[Gap]:
    """Measure the gaps of pieces that are being moved.

    Parameters
    ----------
    work : Work
    keys : ids of the moved pieces
    by : (x, y), mm
        How far they are moved from their places in `work`.
    names : mapping of id to name

    Returns
    -------
    list of Gap
        To the nearer of left and right, of top and bottom, and to the nearest neighbour not overlapped.
    """
    shapes = [_footprint(piece, work.stash.find(piece.stamp)) for piece in work.card.pieces if piece.id in keys]
    if not shapes:
        return []
    moved = shapely.transform(shapely.union_all(shapes), lambda points: points + by)
    left, top, right, bottom = moved.bounds
    width, height = work.card.panel
    middle_x, middle_y = (left + right) / 2, (top + bottom) / 2
    gaps = [
        min(
            (Gap((0, middle_y), (left, middle_y), left), Gap((right, middle_y), (width, middle_y), width - right)),
            key=lambda gap: gap.length_mm,
        ),
        min(
            (Gap((middle_x, 0), (middle_x, top), top), Gap((middle_x, bottom), (middle_x, height), height - bottom)),
            key=lambda gap: gap.length_mm,
        ),
    ]
    told = [Gap(gap.start, gap.end, gap.length_mm, " over" if gap.length_mm < -0.05 else "") for gap in gaps]
    return told + _nearest_neighbour(work, keys, moved, names)


def _nearest_neighbour(
    work: Work, keys: Collection[str], moved: shapely.Geometry, names: Mapping[str, str]
) -> list[Gap]:
    others = [piece for piece in work.card.pieces if piece.id not in keys]
    if not others:
        return []
    shapes = [_footprint(piece, work.stash.find(piece.stamp)) for piece in others]
    distances = shapely.distance(moved, shapes)
    near = [(float(distance), index) for index, distance in enumerate(distances) if 0 < distance < FAR_MM]
    if not near:
        return []
    distance, index = min(near)
    (x0, y0), (x1, y1) = shapely.shortest_line(moved, shapes[index]).coords
    return [Gap((x0, y0), (x1, y1), distance, f" to {names[others[index].id]}")]
