"""Layouts of outlines on sheets, and how one is judged: exactly, whoever made it."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np
import shapely

from fair_thicket.model.basics import Ring
from fair_thicket.model.errors import GeometryError, InputError
from fair_thicket.model.sheets import Turns
from fair_thicket.model.wanted import GoOn
from fair_thicket.packing.bounds import fewest_by_size
from fair_thicket.packing.raster_nest import Spot, Wanted
from fair_thicket.shape.outline import to_area

CLOSE_MM = 1e-6
"""Gaps that are short by no more than this are kept."""
WHOLE = 0.98
"""Of an outline that is one piece; one that crosses itself falls into several."""
MOST_PIECES = 600


class NestPiece(NamedTuple):
    """A piece to nest: its outline about its own (0, 0), mm, and how many there are."""

    id: str
    outline: Ring
    copies: int = 1


class NestedSheet(NamedTuple):
    """A sheet with its pieces, and how far it is taken along its width, mm, the free edge not counted."""

    spots: tuple[Spot, ...]
    used_mm: float


class Nesting(NamedTuple):
    """A layout.

    Attributes
    ----------
    sheets : tuple of NestedSheet
    bound : int
        No layout takes fewer sheets.
    """

    sheets: tuple[NestedSheet, ...]
    bound: int


Layout = list[list[Spot]]


class Task:
    """What is to be laid out, and how a layout is judged."""

    def __init__(
        self,
        wanted: list[Wanted],
        room: tuple[float, float],
        gap_mm: float,
        edge_mm: float,
        turns: Turns,
        seed: int,
        go_on: GoOn,
        asked: GoOn,
    ) -> None:
        self.wanted, self.room, self.gap, self.edge, self.turns = wanted, room, gap_mm, edge_mm, turns
        self.seed, self.go_on = seed, go_on
        self.asked = asked  # a child that was started may end its second
        self.by_id = {one.id: one for one in wanted}
        self.sizes = [float(shapely.buffer(one.area, gap_mm / 2).area) for one in wanted]
        # pieces grown by half the gap share nothing, and all lie in the room grown by as much
        self.whole = float(shapely.buffer(shapely.box(0, 0, *room), gap_mm / 2).area)
        self.bound = fewest_by_size(self.sizes, self.whole)

    @property
    def angles(self) -> Sequence[float] | None:
        """Turns as the library asks for them."""
        return {"any": None, "half": (0.0, 180.0), "none": (0.0,)}[self.turns]

    def nesting(self, layout: Layout) -> Nesting:
        """Return a layout as it is told: places on the sheet, the fullest sheets first."""
        sheets = []
        for spots in sorted(layout, key=lambda one: -self.reach(one)):
            moved = tuple(one._replace(x_mm=one.x_mm + self.edge, y_mm=one.y_mm + self.edge) for one in spots)
            sheets.append(NestedSheet(moved, self.reach(spots)))
        return Nesting(tuple(sheets), self.bound)

    def reach(self, spots: Iterable[Spot]) -> float:
        """How far some places reach along the width."""
        return max((float(self.lay(one).bounds[2]) for one in spots), default=0.0)

    def lay(self, spot: Spot) -> shapely.Polygon:
        """Return a piece in its place."""
        return lay(self.by_id[spot.id].area, spot)

    def is_sound(self, spots: Sequence[Spot]) -> bool:
        """Whether pieces lie within the room and keep their gap, exactly."""
        laid = np.array([self.lay(one) for one in spots], dtype=object)
        left, top, right, bottom = shapely.bounds(laid).T
        if min(left.min(), top.min()) < -CLOSE_MM or right.max() > self.room[0] + CLOSE_MM:
            return False
        if bottom.max() > self.room[1] + CLOSE_MM:
            return False
        tree = shapely.STRtree(laid)
        first, second = tree.query(laid, predicate="dwithin", distance=max(self.gap - CLOSE_MM, 0.0))
        keep = first < second
        if self.gap > CLOSE_MM:
            return not keep.any()
        shared = shapely.area(shapely.intersection(laid[first[keep]], laid[second[keep]]))
        return bool((shared <= CLOSE_MM).all())


def lay(area: shapely.Polygon, spot: Spot) -> shapely.Polygon:
    """Turn an outline about (0, 0), clockwise as seen, and move it to its place."""
    turned = shapely.affinity.rotate(area, spot.angle_deg, origin=(0, 0))
    return shapely.affinity.translate(turned, spot.x_mm, spot.y_mm)


def wanted_of(pieces: Sequence[NestPiece]) -> list[Wanted]:
    """Return every single piece, the largest first."""
    if sum(piece.copies for piece in pieces) > MOST_PIECES:
        raise InputError(f"More than {MOST_PIECES} pieces cannot be nested at once; part the job.")
    found = []
    for piece in pieces:
        found += [Wanted(piece.id, area_of(piece))] * piece.copies
    return sorted(found, key=lambda one: -one.area.area)


def area_of(piece: NestPiece) -> shapely.Polygon:
    """Return the area of a piece's outline, filled.

    Raises
    ------
    InputError
        It encloses nothing, or falls into several parts.
    """
    try:
        area = to_area(piece.outline)
    except GeometryError:
        area = shapely.Polygon()
    parts = sorted(shapely.get_parts(area), key=lambda part: -part.area)
    if not parts or parts[0].area < WHOLE * area.area or parts[0].is_empty:
        raise InputError(f"The outline of “{piece.id}” encloses nothing, or crosses itself; draw it anew.")
    return shapely.Polygon(parts[0].exterior)


def lean_of(area: shapely.Polygon) -> float:
    """Return the turn, degrees clockwise, that lays the smallest box round an outline upright."""
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(area))
    if len(corners) < 3:
        return 0.0
    return -float(np.degrees(np.arctan2(*(corners[1] - corners[0])[::-1])))
