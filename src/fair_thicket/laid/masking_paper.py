"""Masks as cut from masking paper: which part follows the line, what may stay on to hold it down, where each lies.

Glossary
--------
edge
    The outline that the mask follows: the image's, with its rim, loosened at thin stems, or only a part of it.
hold-down
    Paper left on round the edge where nothing is stamped while the mask lies: it needs no care and keeps the mask flat.
hinge
    Where a strip of low-tack tape holds the mask: on the hold-down, as far from the careful line as may be.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import msgspec
import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon

from fair_thicket.laid.mask_edges import LOOSE_MM, mask_edge
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work
from fair_thicket.model.keys import piece_key, read_key
from fair_thicket.model.masking import MaskWay
from fair_thicket.model.pieces import Cutout, Impression
from fair_thicket.model.plan import SHEET, CounterMask, Mask, MaskPlan
from fair_thicket.model.stash import Stamp
from fair_thicket.model.tolerance import REACH_MM
from fair_thicket.shape.outline import Area, image_area, only_areas, turn_area, turn_area_back
from fair_thicket.shape.paper import footprint, local_area, opening_of
from fair_thicket.shape.stretch import along

COUNTER_MM = 10.0
"""Masking paper round the opening of a counter mask: a stamp that runs over it stays on it."""
HOLD_MM = 6.0
"""How wide hold-down paper is left round a mask."""
SLIVER_MM = 1.5
"""Hold-down paper narrower than twice this is cut off."""


class Lying(msgspec.Struct, frozen=True):
    """A mask lying on an impression, from before press `first` until after press `last` (indices)."""

    mask: int
    impression: str
    first: int
    last: int


def list_lyings(plan: MaskPlan) -> tuple[Lying, ...]:
    """Say when each mask lies where; a mask stays where it is until another impression needs it."""
    found = []
    for index, mask in enumerate(plan.masks):
        needs = [(p, key) for p, press in enumerate(plan.presses) for key in press.masked if key in mask.serves]
        current: Lying | None = None
        for p, key in needs:
            if current is not None and current.impression == key:
                current = Lying(index, key, current.first, p)
            else:
                if current is not None:
                    found.append(current)
                current = Lying(index, key, p, p)
        if current is not None:
            found.append(current)
    return tuple(sorted(found, key=lambda lying: (lying.first, lying.mask)))


@dataclass(frozen=True)
class CutMask:
    """One mask as it is cut, mm from the middle of its image, unturned.

    Attributes
    ----------
    mask : Mask
    stamp : Stamp or None
        None for a counter mask of a plain shape.
    edge : Polygon or MultiPolygon
        What it must cover and no more.
    paper : Polygon or MultiPolygon
        The edge together with the hold-down paper: this is cut out.
    careful : lines
        Where its outline must be followed with care.
    rim_mm : float
    hinge : (x, y) or None
    """

    mask: Mask
    stamp: Stamp | None
    edge: Area
    paper: Area
    careful: shapely.Geometry
    rim_mm: float
    hinge: tuple[float, float] | None


class MaskingPaper:
    """All masks of a plan.

    Attributes
    ----------
    lyings : tuple of Lying
    cuts : tuple of CutMask
        In the order of the plan's masks.
    counter_cuts : tuple of CutMask
        In the order of the plan's counter masks; their edge is the opening.
    """

    def __init__(self, work: Work, plan: MaskPlan) -> None:
        self._work, self._plan = work, plan
        self.lyings = list_lyings(plan)
        self._lying: dict[Lying, Area] = {}
        self._areas = {leaf.key: leaf.whole for leaf in stack(work)}

    @cached_property
    def cuts(self) -> tuple[CutMask, ...]:
        return tuple(self._cut(index, mask) for index, mask in enumerate(self._plan.masks))

    @cached_property
    def counter_cuts(self) -> tuple[CutMask, ...]:
        return tuple(self._counter_cut(counter) for counter in self._plan.counters)

    def _counter_cut(self, counter: CounterMask) -> CutMask:
        """Cut an opening out of a piece of masking paper; seen from the middle of the piece that it is of."""
        piece = self._work.card.find(counter.opening)
        opening = turn_area_back(opening_of(piece, self._work.stash), piece.angle_deg, piece.x, piece.y)
        serves = tuple(piece_key(key) for key in counter.serves)
        reach = shapely.union_all(
            [shapely.buffer(footprint(self._work.card.find(key), self._work.stash), REACH_MM) for key in serves]
        )
        near = turn_area_back(reach, piece.angle_deg, piece.x, piece.y)
        rough = shapely.buffer(shapely.convex_hull(opening), COUNTER_MM, quad_segs=8)
        stamp = self._work.stash.find(piece.stamp) if isinstance(piece, Impression | Cutout) else None
        mask = Mask(stamp.id if stamp else "", serves, counter.careful_mm, counter.full_mm)
        careful = shapely.intersection(opening.boundary, near)
        return CutMask(
            mask, stamp, only_areas(opening), only_areas(shapely.difference(rough, opening)), careful, 0.0, None
        )

    def during(self, press: int) -> list[Area]:
        """Paper of all masks that lie on the card during a press (an index), mm."""
        if self._plan.presses[press].surface == SHEET:
            return []
        areas = [self.lying_area(one) for one in self.lyings if one.first <= press <= one.last]
        for counter, cut in zip(self._plan.counters, self.counter_cuts, strict=True):
            if press in counter.presses:
                piece = self._work.card.find(counter.opening)
                areas.append(turn_area(cut.paper, piece.angle_deg, piece.x, piece.y))
        return areas

    def lying_area(self, lying: Lying) -> Area:
        """Paper of a mask where it lies on the panel, mm."""
        if lying not in self._lying:
            x, y, angle = self._spot(lying.impression)
            paper = self.cuts[lying.mask].paper
            self._lying[lying] = turn_area(paper, angle, x, y)
        return self._lying[lying]

    # -- places --------------------------------------------------------------------------------------------------

    def _spot(self, key: str) -> tuple[float, float, float]:
        """Place and turn of an image; on the sheet to cut from, as seen from the middle of its cutout."""
        piece = self._work.card.find(key)
        if isinstance(piece, Cutout):
            number = read_key(key).part
            if number is not None:
                part = piece.joined[number]
                return part.x, part.y, part.angle_deg
            return 0.0, 0.0, 0.0
        return piece.x, piece.y, piece.angle_deg

    def _area(self, key: str) -> Area:
        """Footprint of a stamping, in the same place as `_spot` says."""
        piece = self._work.card.find(key)
        if not isinstance(piece, Cutout):
            return self._areas[piece.id]
        stamp = self._work.stash.find(_stamp_key(piece, key))
        x, y, angle = self._spot(key)
        return turn_area(image_area(stamp), angle, x, y)

    def _to_mask(self, area: shapely.Geometry, key: str) -> shapely.Geometry:
        """Bring an area from where an image lies back to the image's own middle."""
        x, y, angle = self._spot(key)
        return turn_area_back(area, angle, x, y)

    # -- cutting -------------------------------------------------------------------------------------------------

    def _cut(self, index: int, mask: Mask) -> CutMask:
        work = self._work
        stamp = work.stash.find(mask.stamp)
        way = self._way_of(mask)
        rim = work.card.mask_rim_mm if way.rim_mm is None else way.rim_mm
        lyings = [one for one in self.lyings if one.mask == index]
        edge = mask_edge(self._image(mask, stamp), rim, is_loose=way.is_loose)
        if way.kind == "part":
            near = [self._over(one, REACH_MM, touching=True) for one in lyings]
            edge = only_areas(shapely.intersection(edge, shapely.union_all(near)))
        paper = self._with_hold_down(edge, lyings)
        lines = shapely.union_all([LineString(along(np.asarray(stamp.outline), one)) for one in mask.stretches])
        reach = abs(rim) + 0.05 + (LOOSE_MM if way.is_loose else 0.0)
        careful = lines
        if rim or way.is_loose:
            careful = shapely.intersection(edge.boundary, shapely.buffer(lines, reach, cap_style="flat"))
        return CutMask(mask, stamp, edge, paper, careful, rim, _hinge(edge, paper, careful))

    def _way_of(self, mask: Mask) -> MaskWay:
        """Return how a mask is cut: as asked for any image that it serves."""
        ways = [self._work.card.masking.way_of(piece_key(key)) for key in mask.serves]
        return next((one for one in ways if one.kind != "whole" or one.is_loose or one.rim_mm is not None), ways[0])

    def _image(self, mask: Mask, stamp: Stamp) -> Area:
        """Say what of the image is to be covered: less than its outline where it is inked in part or trimmed."""
        partial = []
        for key in mask.serves:
            piece = self._work.card.find(key)
            if isinstance(piece, Impression) and piece.stamp != stamp.id:
                return image_area(stamp)  # a mask of another image was taken
            if isinstance(piece, Impression) and (piece.inked is not None or piece.trim_to):
                partial.append(only_areas(self._to_mask(self._areas[piece.id], key)))
            elif isinstance(piece, Impression):
                return local_area(piece, self._work.stash)
            else:
                return image_area(stamp)
        return only_areas(shapely.union_all(partial))

    def _over(self, lying: Lying, reach: float, *, touching: bool = False) -> shapely.Geometry:
        """Return what is stamped or inked while a mask lies, grown by a reach, as seen from the mask."""
        own = self._area(lying.impression)
        surface = self._plan.presses[lying.first].surface
        keys = [
            key
            for press in self._plan.presses[lying.first : lying.last + 1]
            for key in press.impressions
            if press.surface == surface and self._is_beside(key, lying.impression)
        ]
        areas = [self._area(key) for key in keys]
        wanted = [area for area in areas if not touching or area.intersects(own)]
        grown = shapely.union_all([shapely.buffer(area, reach, quad_segs=8) for area in wanted])
        return self._to_mask(grown, lying.impression)

    def _is_beside(self, key: str, other: str) -> bool:
        """Whether two stampings share paper: on the sheet to cut from, pieces lie far apart."""
        on_sheet = isinstance(self._work.card.find(key), Cutout)
        return not on_sheet or piece_key(key) == piece_key(other)

    def _with_hold_down(self, edge: Area, lyings: Sequence[Lying]) -> Area:
        if edge.is_empty:
            return edge
        rough: shapely.Geometry = shapely.buffer(shapely.convex_hull(edge), HOLD_MM, quad_segs=8)
        for one in lyings:
            rough = shapely.difference(rough, self._over(one, REACH_MM))
        # slivers hold nothing down
        rough = shapely.buffer(shapely.buffer(rough, -SLIVER_MM, quad_segs=6), SLIVER_MM * 0.98, quad_segs=6)
        held = only_areas(shapely.union(rough, edge))
        # scraps that hang on nothing are cut off
        return only_areas(
            shapely.union_all([part for part in shapely.get_parts(held) if shapely.intersects(part, edge)])
        )


def _stamp_key(piece: Cutout, key: str) -> str:
    number = read_key(key).part
    return piece.stamp if number is None else piece.joined[number].stamp


def _hinge(edge: Area, paper: Area, careful: shapely.Geometry) -> tuple[float, float] | None:
    """Place of the hinge: the middle of the widest hold-down paper that is far from the careful line."""
    spare = only_areas(shapely.difference(paper, shapely.buffer(edge, 0.5)))
    best: tuple[float, Point] | None = None
    for part in shapely.get_parts(spare):
        if isinstance(part, Polygon) and part.area > 20:
            spot = part.representative_point()
            far = part.area if shapely.is_empty(careful) else float(shapely.distance(careful, spot))
            if best is None or far > best[0]:
                best = (far, spot)
    return (float(best[1].x), float(best[1].y)) if best else None


def is_on_panel(plan: MaskPlan, lying: Lying) -> bool:
    """Whether a mask lies on the card, and not on the sheet to cut from."""
    return plan.presses[lying.first].surface != SHEET
