"""Which adhesive holds what lies flat, where it may go, and where it may not: never seen, never near what stays free.

Notes
-----
Kinds and their reasons are common practice: tape on panels, by the piece's own width; liquid glue on cut images,
through a fine tip on fine ones; on vellum only behind what is opaque; one dot for what stays free; foam on bumps.
"""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

import shapely

from fair_thicket.assembly.foam import free_parts
from fair_thicket.laid.heights import Heights, Rest
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work
from fair_thicket.model.finishes import find_finish
from fair_thicket.model.keys import is_flap
from fair_thicket.model.pieces import Border, Embellishment, Impression, Panel, Paste, Strip
from fair_thicket.shape.outline import NOTHING, Area, only_areas, turn_area, turn_area_back

Kind = Literal["tape", "liquid glue", "fine tip", "behind what is opaque", "one dot", "along its foot", "drop"]
IN_MM, FINE_IN_MM = 1.0, 0.4
"""Glue stays so far in from the edge; on fine cuts less, or nothing would hold them."""
FINE_MM = 3.0
"""What is nowhere wider is a fine cut."""
DOT_MM, FOOT_MM = 4.0, 8.0
TAPES_MM = (10.0, 6.0, 3.0)
"""Widths of double-sided tape (common practice: 3, 6, 10 mm)."""
BECAUSE: Mapping[Kind, str] = MappingProxyType(
    {
        "tape": "lies flat and takes no shifting",
        "liquid glue": "a minute to shift it",
        "fine tip": "thin, or it oozes out",
        "behind what is opaque": "vellum lets glue shine through; under weight till it is dry",
        "one dot": "the rest stays free",
        "along its foot": "the rest stays free for tucking",
        "drop": "set on last, dries lying flat",
    }
)


class Glue(NamedTuple):
    """What holds a piece flat: kind, where, in place, mm, and the width of tape; 0 for none."""

    piece: str
    kind: Kind
    area: Area
    tape_mm: float = 0.0


class GluePlan(NamedTuple):
    """All glue of a side, and pieces for which no place is left to glue them."""

    glues: tuple[Glue, ...]
    loose: tuple[str, ...]

    @property
    def area_cm2(self) -> float:
        """All that is covered with glue or tape."""
        return sum(one.area.area for one in self.glues) / 100


def plan_glue(work: Work, heights: Heights) -> GluePlan:
    """Say for everything that lies on something how it is glued there."""
    free = free_parts(heights, work.card.assembly)
    bumps = _bumps(work)
    glues, loose = [], []
    for rest in heights.rests:
        if is_flap(rest.key) or rest.contact.is_empty or _holds_itself(rest):
            continue
        kind = _kind_of(rest)
        area = _zone(work, rest, kind, heights)
        for keep_off in (free.get(rest.key, NOTHING), bumps):
            if not keep_off.is_empty:
                area = only_areas(shapely.difference(area, keep_off))
        if area.area >= 1.0:
            glues.append(Glue(rest.key, kind, area, _tape_of(rest) if kind == "tape" else 0.0))
        elif rest.how == "flat":
            loose.append(rest.key)
    return GluePlan(tuple(glues), tuple(loose))


def _holds_itself(rest: Rest) -> bool:
    """Whether it is ink, gloss or glitter glue, which needs no other."""
    return isinstance(rest.piece, Embellishment) and not find_finish(rest.piece.shape).is_glued


def _kind_of(rest: Rest) -> Kind:
    piece = rest.piece
    if isinstance(piece, Embellishment):
        return "drop"
    if piece.translucent:
        return "behind what is opaque"
    if piece.glue != "all":
        return "one dot" if piece.glue == "point" else "along its foot"
    if isinstance(piece, Panel | Strip | Border) and width_of(rest) > FINE_MM:
        return "tape"
    return "liquid glue" if width_of(rest) > FINE_MM else "fine tip"


def width_of(rest: Rest) -> float:
    """Width of a piece where it is widest, mm: of the largest circle within it."""
    return 2 * float(shapely.maximum_inscribed_circle(rest.area, tolerance=0.2).length)


def _tape_of(rest: Rest) -> float:
    """Return the widest tape that goes at least twice into the piece's own width, or the narrowest."""
    return next((tape for tape in TAPES_MM if tape * 2 + 2 * IN_MM <= width_of(rest)), TAPES_MM[-1])


def _zone(work: Work, rest: Rest, kind: Kind, heights: Heights) -> Area:
    """Return where glue may go: within the piece, where it lies on something, out of sight."""
    inset = FINE_IN_MM if kind in {"fine tip", "drop"} else IN_MM
    within = only_areas(shapely.intersection(shapely.buffer(rest.area, -inset), shapely.buffer(rest.contact, -0.1)))
    if kind == "behind what is opaque":
        return only_areas(shapely.intersection(within, shapely.buffer(_opaque_over(work, rest, heights), -inset)))
    if kind == "one dot":
        spot = rest.area.centroid if within.contains(rest.area.centroid) else shapely.point_on_surface(within)
        return only_areas(shapely.intersection(shapely.buffer(spot, DOT_MM / 2), within))
    if kind == "along its foot":
        return only_areas(shapely.intersection(within, _foot(rest)))
    return within


def _foot(rest: Rest) -> Area:
    """Return the lowest strip of a piece in its own frame, laid in place."""
    piece = rest.piece
    own = turn_area_back(rest.area, piece.angle_deg, piece.x, piece.y)
    left, _, right, bottom = own.bounds
    return turn_area(shapely.box(left, bottom - FOOT_MM, right, bottom), piece.angle_deg, piece.x, piece.y)


def _opaque_over(work: Work, rest: Rest, heights: Heights) -> Area:
    """Return what hides glue behind vellum: opaque paper that lies on it, and the lines of images stamped on it."""
    order = [one.key for one in heights.rests]
    above = [one.area for one in heights.rests[order.index(rest.key) + 1 :] if not one.piece.translucent]
    stamped = [
        leaf.area for leaf in stack(work) if isinstance(leaf.piece, Impression) and leaf.piece.on == rest.piece.id
    ]
    return only_areas(shapely.union_all([*above, *stamped])) if above or stamped else NOTHING


def _bumps(work: Work) -> Area:
    """Return where paste stands up from the ground: a flat bond fails there."""
    areas = [leaf.area for leaf in stack(work) if isinstance(leaf.piece, Paste)]
    return only_areas(shapely.union_all(areas)) if areas else NOTHING
