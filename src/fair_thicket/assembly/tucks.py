"""What is slid in under a piece that is glued already: how deep, by which edge, in which time, whether it goes at all.

Glossary
--------
tuck
    One piece slid in under another after that is on the card.
window
    While liquid glue is young an edge can still be lifted: then the two are done in one go, one right after the other.

Notes
-----
A piece that is glued along its foot or at a point leaves an edge free for good: what slides there has all the time.
The way in is the piece's own part under the edge, drawn out the way it came; whatever holds the upper piece down on
that way stops it (exact polygons, the way in steps of half a millimetre). Common practice.
"""

from collections.abc import Sequence
from functools import partial
from typing import NamedTuple

import numpy as np
import shapely

from fair_thicket.assembly.foam import FoamPlan
from fair_thicket.assembly.glue import Glue, GluePlan
from fair_thicket.laid.heights import Heights, Rest
from fair_thicket.model.card import Work, carried_by
from fair_thicket.model.keys import is_flap
from fair_thicket.model.pieces import Embellishment, PaperPiece
from fair_thicket.shape.outline import NOTHING, Area, only_areas

STEP_MM = 0.5
LEAST_MM2 = 1.0
"""Less of a piece under another is no tuck."""
STOPS_MM2 = 0.5
"""So much glue in the way stops a piece."""
YOUNG = frozenset({"liquid glue", "fine tip"})
"""Glue that is young for a minute; tape and foam hold at once."""


class Tuck(NamedTuple):
    """One piece slid in under another.

    Attributes
    ----------
    piece, under : str
        Ids.
    depth_mm : float
        How far its deepest point lies in from where it goes under.
    opening_mm : float
        Width of it where it goes under.
    edge : str
        Which edge of the upper piece it goes under: ``left``, ``right``, ``upper``, ``lower``.
    in_window : bool
        It goes only while the glue of the upper piece is young: both are done in one go.
    because : str
        Why it does not go at all; empty where it goes.
    """

    piece: str
    under: str
    depth_mm: float
    opening_mm: float
    edge: str
    in_window: bool
    because: str = ""


def find_tucks(work: Work, heights: Heights, foam: FoamPlan, glue: GluePlan) -> tuple[Tuck, ...]:
    """Find what is slid in where the maker wants it, for every piece that lies over it."""
    rests = [rest for rest in heights.rests if not is_flap(rest.key)]
    order = {rest.key: index for index, rest in enumerate(rests)}
    glues = {one.piece: one for one in glue.glues}
    found = []
    for rest in rests:
        if not rest.piece.slides_in:
            continue
        on_it = {rest.key, *carried_by(work.card.pieces, rest.key)}
        for other in rests[order[rest.key] + 1 :]:
            if other.key in on_it or isinstance(other.piece, Embellishment):
                continue
            under = only_areas(shapely.intersection(rest.area, other.area))
            if under.area > LEAST_MM2:
                found.append(_tuck(rest, other, under, foam, glues.get(other.key)))
    return tuple(map(partial(_alone_while_young, tucks=found), found))


def _alone_while_young(tuck: Tuck, tucks: Sequence[Tuck]) -> Tuck:
    """Refuse what would have to be slid in while one glue is young, and under something else as well."""
    others = [one for one in tucks if one.piece == tuck.piece and one is not tuck]
    if not tuck.in_window or not others:
        return tuck
    return tuck._replace(in_window=False, because="its glue holds before the piece is under everything else")


def _tuck(rest: Rest, other: Rest, under: Area, foam: FoamPlan, glue: Glue | None) -> Tuck:
    out = only_areas(shapely.difference(rest.area, other.area))
    if out.area < LEAST_MM2:
        return Tuck(rest.key, other.key, 0.0, 0.0, "", False, "it lies wholly under it: there is nothing to hold it by")
    depth = max(float(shapely.distance(shapely.Point(spot), out)) for spot in shapely.get_coordinates(under))
    opening = float(shapely.length(shapely.intersection(rest.area, shapely.boundary(other.area))))
    way = _way(under, depth, _outward(under, out))
    strips = [one.area for one in foam.of(other.key)]
    held = only_areas(shapely.intersection(way, shapely.union_all(strips))) if strips else NOTHING
    told = (round(depth, 1), round(opening, 1), _edge_of(under, out))
    if held.area > STOPS_MM2:
        return Tuck(rest.key, other.key, *told, False, f"{held.area:.0f} mm² of foam under it are in the way")
    stuck = only_areas(shapely.intersection(way, glue.area)).area if glue is not None else 0.0
    if stuck <= STOPS_MM2:
        return Tuck(rest.key, other.key, *told, False)
    if glue is not None and glue.kind in YOUNG:
        return Tuck(rest.key, other.key, *told, True)
    return Tuck(rest.key, other.key, *told, False, f"{stuck:.0f} mm² of {glue.kind if glue else 'glue'} hold it there")


def _outward(under: Area, out: Area) -> tuple[float, float]:
    """Return the direction in which a piece is drawn out again, of length 1."""
    start, end = under.centroid, out.centroid
    along = np.array([end.x - start.x, end.y - start.y])
    length = float(np.hypot(*along))
    return (0.0, 1.0) if length < 1e-9 else (float(along[0] / length), float(along[1] / length))


def _way(under: Area, depth_mm: float, outward: tuple[float, float]) -> Area:
    """Return all that the part under another piece passes over on its way in."""
    steps = np.arange(0.0, depth_mm + STEP_MM, STEP_MM)
    places = [shapely.affinity.translate(under, outward[0] * step, outward[1] * step) for step in steps]
    return only_areas(shapely.union_all(places))


def _edge_of(under: Area, out: Area) -> str:
    x, y = _outward(under, out)
    if abs(x) > abs(y):
        return "right" if x > 0 else "left"
    return "lower" if y > 0 else "upper"


def order_of_tucks(work: Work, tucks: Sequence[Tuck]) -> "Slides":
    """Say of what is slid in what comes before it; what does not go with all that lies over it is glued as usual."""
    refused = {one.piece for one in tucks if one.because}
    goes = [one for one in tucks if one.piece not in refused]
    under: dict[str, list[str]] = {}
    for one in goes:
        under.setdefault(one.piece, []).append(one.under)
    carried = {
        key: tuple(
            one.id
            for one in work.card.pieces
            if one.id in carried_by(work.card.pieces, key)
            and isinstance(one, PaperPiece)
            and not isinstance(one, Embellishment)
        )
        for key in under
    }
    return Slides({key: tuple(keys) for key, keys in under.items()}, carried, tuple(goes))


class Slides(NamedTuple):
    """What is slid in.

    Attributes
    ----------
    under : mapping of str to tuple of str
        For every piece that is slid in those that are glued before it though they lie over it.
    carried : mapping of str to tuple of str
        What is glued on it by then.
    tucks : tuple of Tuck
    """

    under: dict[str, tuple[str, ...]]
    carried: dict[str, tuple[str, ...]]
    tucks: tuple[Tuck, ...]

    def skips(self, back: str, front: str) -> bool:
        """Whether a piece need not be glued before one that lies over it: it, or what carries it, is slid in there."""
        return any(front in over and (back == key or back in self.carried[key]) for key, over in self.under.items())

    def is_on(self, key: str, carrier: str) -> bool:
        """Whether a piece is glued on one that is slid in: before that is."""
        return key in self.carried.get(carrier, ())
