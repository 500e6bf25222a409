"""How high everything lies, and how each piece rests on what is under it.

Glossary
--------
level
    Height above the face of the card base, mm.
rest
    How one piece lies: on what, how much of it hangs, and over how much room.
to give
    Paper laid over steps no higher than a sheet or two gives and lies on all of them; over higher ones it stays level.
shim
    Foam of just the difference under what would hang.

Notes
-----
The card is kept as levels, each with the area that lies at it (exact polygons, no two overlapping). A piece glued flat
gives over small steps; over higher ones it lies level on the highest. A piece on foam lies level, its foam above the
level that most of it is over, and no lower than the highest thing under it.
"""

from collections.abc import Iterable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Literal, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.laid.stack import Leaf, paper_of, stack
from fair_thicket.model.card import Work
from fair_thicket.model.derived import derive
from fair_thicket.model.finishes import find_finish
from fair_thicket.model.pieces import Border, Cutout, Embellishment, Panel, PaperPiece, Strip
from fair_thicket.shape.outline import NOTHING, Area, only_areas, turn_area_back
from fair_thicket.shape.prepared import prepared

GIVES_MM = 0.75
"""Paper gives over steps up to this: two sheets of card (our own guess)."""
LEAST_MM2 = 1.0
"""Smaller overlaps do not lift a piece."""
SIMPLE_MM = 0.1
"""Outlines are taken so much simpler: less than scissors stray."""
How = Literal["flat", "raised", "bridging", "tipping", "hanging"]
Floats = NDArray[np.float64]
Levels = list[tuple[float, Area]]
Glued = Border | Cutout | Embellishment | Panel | Strip
"""Pieces of paper, and what is set on last."""


class Rest(NamedTuple):
    """How a piece rests.

    Attributes
    ----------
    key : str
        The piece's id, or a flap's key.
    piece : piece
    area : area
        Its paper, in place, mm.
    bottom_mm, top_mm : float
        Its lower and upper face where it is highest.
    thick_mm : float
        Of its own paper, all layers.
    how : str
        ``flat``, ``raised`` on foam, ``bridging`` between two supports, ``tipping`` over one, ``hanging`` over nothing.
    contact : area
        Where it lies right on what is under it.
    gaps : tuple of (float, area)
        Room under it, mm, and where.
    beyond : area
        Where nothing at all is under it: past the card's edge.
    under : tuple of str
        What it lies on or over, from the back forward.
    """

    key: str
    piece: Glued
    area: Area
    bottom_mm: float
    top_mm: float
    thick_mm: float
    how: How
    contact: Area
    gaps: tuple[tuple[float, Area], ...]
    beyond: Area
    under: tuple[str, ...]

    def from_behind(self, area: Area) -> Area:
        """Return an area as it is seen on the piece's back: in the piece's own frame, upright, mirrored."""
        own = turn_area_back(area, self.piece.angle_deg, self.piece.x, self.piece.y)
        return only_areas(shapely.transform(own, lambda points: points * np.array([-1.0, 1.0])))


class Heights(NamedTuple):
    """A side of a card by its heights: its pieces from the back forward, and parts that cover it, each at its level."""

    rests: tuple[Rest, ...]
    parts: tuple[tuple[float, Area], ...]

    @property
    def levels(self) -> Levels:
        """All levels, the lowest first, each with all that lies at it."""
        return sorted(_merged(self.parts), key=lambda one: one[0])

    @property
    def most_mm(self) -> float:
        """The highest place."""
        return max((level for level, _ in self.parts), default=0.0)

    def find(self, key: str) -> Rest:
        """Return how a piece rests; KeyError when it is no paper."""
        for rest in self.rests:
            if rest.key == key:
                return rest
        raise KeyError(key)


def find_heights(work: Work) -> Heights:
    """Find how high everything lies on the side of a card that is in front; once, the work holds it.

    What lies below the first piece that is another one than on the work it was made from is taken over from there.
    """
    made = derive(work, "heights", lambda before: _rise(work, before))
    return Heights(tuple(made.rests), made.fields[-1].parts())


def _rise(work: Work, before: "_Made | None") -> "_Made":
    paper, paper_mm = paper_of(work.card), work.card.masking.rates.paper_mm
    leaves = [leaf for leaf in stack(work) if isinstance(leaf.piece, PaperPiece) and not leaf.area.is_empty]
    made, simple = _resume(leaves, paper, paper_mm, before)
    with ThreadPoolExecutor(1, thread_name_prefix="heights") as beside:
        for leaf in leaves[len(made.rests) :]:
            area = simple.get(id(leaf)) or _simpler(leaf.area)
            field = made.fields[-1].copy()
            if isinstance(leaf.piece, PaperPiece):
                rest = _lay(leaf.key, leaf.piece, area, field.under(area, beside), paper_mm, made.rests)
                field.lay(rest)
                made.rests.append(rest)
                made.fields.append(field)
    return made


def _simpler(area: Area) -> Area:
    simple = only_areas(shapely.simplify(area, SIMPLE_MM))
    return area if simple.is_empty else simple


class _Made(NamedTuple):
    """What was found for a card: its leaves, and after each of them the field."""

    leaves: list[Leaf]
    paper: Area
    paper_mm: float
    rests: list[Rest]
    fields: "list[_Field]"


def _resume(leaves: list[Leaf], paper: Area, paper_mm: float, before: _Made | None) -> tuple[_Made, dict[int, Area]]:
    """Begin with what is the same as on the card before.

    Also the simpler outlines of its leaves, by identity: those that are still there are taken over.
    """
    if before is None or before.paper_mm != paper_mm or not before.paper.equals(paper):
        return _Made(leaves, paper, paper_mm, [], [_Field(paper)]), {}
    pairs = zip(before.leaves, leaves, strict=False)
    same = next((n for n, (then, now) in enumerate(pairs) if then is not now), min(len(before.leaves), len(leaves)))
    simple = {id(leaf): rest.area for leaf, rest in zip(before.leaves, before.rests, strict=True)}
    return _Made(leaves, paper, paper_mm, before.rests[:same], before.fields[: same + 1]), simple


class _Field:
    """The card as parts, each at its level; no two overlap."""

    def __init__(self, paper: Area) -> None:
        self._level: Floats = np.zeros(1)
        self._part = np.array([paper], dtype=object)
        self._near: NDArray[np.intp] = np.zeros(0, np.intp)
        self._left: Future[NDArray[np.object_]] | None = None
        self._shares: Levels = []

    def copy(self) -> "_Field":
        """Return a field to lay more on; this one stays as it is."""
        other = _Field(NOTHING)
        other._level, other._part = self._level, self._part
        return other

    def under(self, area: Area, beside: ThreadPoolExecutor) -> Levels:
        """Return what of each level lies under an area that is to be laid next."""
        self._near = np.flatnonzero(shapely.intersects(prepared(area), self._part))
        near = self._part[self._near]
        self._left = beside.submit(shapely.difference, near, area)  # needed to lay it, and GEOS leaves a core free
        shared = shapely.intersection(near, area)
        self._shares = _merged(zip(self._level[self._near].tolist(), shared, strict=True))
        return self._shares

    def lay(self, rest: Rest) -> None:
        """Lay what was asked about last: flat it lies on every level, else all at its own."""
        left = shapely.difference(self._part[self._near], rest.area) if self._left is None else self._left.result()
        self._left = None
        if rest.how == "flat":
            new = [(round(level + rest.thick_mm, 3), shared) for level, shared in self._shares]
            new += [] if rest.beyond.is_empty else [(rest.top_mm, rest.beyond)]
        else:
            new = [(rest.top_mm, rest.area)]
        is_left = shapely.area(left) > 0
        others = np.ones(len(self._part), bool)
        others[self._near] = False
        self._level = np.concatenate(
            [self._level[others], self._level[self._near][is_left], [level for level, _ in new]]
        )
        parts = [*self._part[others], *left[is_left], *(area for _, area in new)]
        self._part = np.empty(len(parts), dtype=object)
        self._part[:] = parts

    def parts(self) -> tuple[tuple[float, Area], ...]:
        """Return all parts with their levels, mm."""
        levels = np.round(self._level, 3).tolist()
        return tuple(zip(levels, self._part.tolist(), strict=True))


def _merged(parts: Iterable[tuple[float, shapely.Geometry]]) -> Levels:
    """Take together what lies at one level; lines and points count for nothing."""
    found: dict[float, list[Area]] = {}
    for level, part in parts:
        area = part if isinstance(part, shapely.Polygon | shapely.MultiPolygon) else only_areas(part)
        if not area.is_empty:
            found.setdefault(round(level, 3), []).append(area)
    return [(level, _union(areas)) for level, areas in found.items()]


def thickness_of(piece: Glued, paper_mm: float) -> float:
    """Thickness of a piece's own paper with all its layers; of what is set on last, its height."""
    if isinstance(piece, Embellishment):
        return find_finish(piece.shape).adds_mm
    return paper_mm * piece.layers


def _lay(key: str, piece: Glued, area: Area, under: Levels, paper_mm: float, earlier: Sequence[Rest]) -> Rest:
    thick = thickness_of(piece, paper_mm)
    held = [(level, shared) for level, shared in under if shared.area > LEAST_MM2] or under
    lower = np.array([one.area for one in earlier], dtype=object)
    keys = tuple(earlier[index].key for index in np.flatnonzero(shapely.intersects(lower, area)).tolist())
    if not held:
        bottom = piece.lift_mm
        return Rest(key, piece, area, bottom, bottom + thick, thick, "hanging", NOTHING, (), area, keys)
    bottom, nearest = _bottom(piece, held)
    contact = _union([shared for level, shared in under if level >= nearest])
    gaps = tuple((round(bottom - level, 3), shared) for level, shared in held if level < nearest)
    is_raised = bool(_foam_under(piece))
    how: How = "raised" if is_raised else "flat" if not gaps else _how_held(area, contact, gaps)
    beyond, top = _rest_of(area, under), round(bottom + thick, 3)
    return Rest(key, piece, area, round(bottom, 3), top, thick, how, contact, gaps, beyond, keys)


def _foam_under(piece: Glued) -> float:
    """Foam under all of a piece; what has it only under what would hang lies on what is under it."""
    return piece.lift_mm if piece.foam == "all" else 0.0


def _bottom(piece: Glued, held: Levels) -> tuple[float, float]:
    """Return the level of a piece's lower face, and from which level on it lies right on what is under it."""
    highest, lowest = max(level for level, _ in held), min(level for level, _ in held)
    lift = _foam_under(piece)
    if not lift and highest - lowest <= GIVES_MM:
        return highest, lowest - 1e-6
    bottom = max(highest, _ground(held) + lift) if lift else highest
    return bottom, bottom - GIVES_MM / 2 - 1e-6


def _ground(held: Levels) -> float:
    """Level that most of a piece is over: steps that paper gives over count as one."""
    best, most = 0.0, -1.0
    for level, _ in held:
        share = sum(shared.area for other, shared in held if level - GIVES_MM <= other <= level + 1e-6)
        if share > most + 1e-6:
            best, most = level, share
    return best


def _how_held(area: Area, contact: Area, gaps: Sequence[tuple[float, Area]]) -> How:
    """Tell whether what hangs is held on both sides, or tips."""
    hull = shapely.buffer(shapely.convex_hull(contact), 0.5)
    hanging = _union([there for _, there in gaps])
    is_held = hull.contains(area.centroid) and shapely.area(shapely.difference(hanging, hull)) <= 0.1 * hanging.area
    return "bridging" if is_held else "tipping"


def _rest_of(area: Area, under: Levels) -> Area:
    if sum(shared.area for _, shared in under) >= area.area - LEAST_MM2 / 10:
        return NOTHING
    return only_areas(shapely.difference(area, _union([shared for _, shared in under])))


def _union(parts: Sequence[Area]) -> Area:
    if len(parts) == 1:
        return parts[0]
    return only_areas(shapely.union_all(parts)) if parts else NOTHING
