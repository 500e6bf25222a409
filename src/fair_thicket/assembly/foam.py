"""Foam laid out under what is raised or would hang: strips and squares of the tapes owned, out of sight.

Glossary
--------
strip
    A length of tape, or a square of it, laid along the piece or across.
sliver
    A narrow cut of tape behind a thin part.
unbacked
    Thin overhang behind which no foam can be hidden.

Notes
-----
On cells of half a millimetre: where foam may lie is what of the piece is far enough from its edges, over something that
bears, away from what must stay free. Strip by strip is laid beside the place that is farthest from foam, until none is
farther than the reach, and none at the edge farther than two thirds of it. The count is not proven least.
"""

from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.laid.heights import GIVES_MM, Glued, Heights, Rest
from fair_thicket.laid.stack import paper_of
from fair_thicket.model.assembly import USUAL_FOAM_MM, AssemblyRules
from fair_thicket.model.card import Work
from fair_thicket.model.keys import flap_number, is_flap, piece_key
from fair_thicket.model.pieces import Embellishment, PaperPiece
from fair_thicket.model.wanted import GoOn
from fair_thicket.shape.outline import NOTHING, Area, only_areas, turn_area, turn_area_back
from fair_thicket.shape.raster import fill

Bool = NDArray[np.bool_]
Floats = NDArray[np.float32]
CELL_MM = 0.5
MOST_STACKED = 4
"""So many layers of foam are put on one another."""
SLIVERS = ((2.0, 0.8), (1.2, 0.5))
"""Width and distance from the edge of slivers behind thin parts, mm."""
EDGE_SHARE = 0.65
"""Edges and corners are nearer to foam than the middle must be."""
LONGEST_MM = 120.0
MOST_STRIPS = 400
SEEN_MM = 0.3
"""Foam nearer to an edge is seen from the side."""
LEAST_MM2, LOST_MM2 = 0.8, 0.5


class Strip(NamedTuple):
    """A strip of foam under a piece: how thick, its outline in place, mm, and its width and length."""

    piece: str
    thick_mm: float
    area: shapely.Polygon
    width_mm: float
    length_mm: float


class FoamPlan(NamedTuple):
    """All foam of a side.

    Attributes
    ----------
    strips : tuple of Strip
    unbacked : dict of str to area
        Thin overhangs of pieces, in place, that foam cannot reach.
    """

    strips: tuple[Strip, ...]
    unbacked: dict[str, Area]

    def of(self, key: str) -> list[Strip]:
        """Return the strips under a piece."""
        return [one for one in self.strips if one.piece == key]


def plan_foam(work: Work, heights: Heights, *, go_on: GoOn = lambda: True) -> FoamPlan:
    """Lay foam out under everything that is raised or would hang; False from `go_on` leaves the rest out."""
    rules = work.card.assembly
    free, owned, paper = free_parts(heights, rules), owned_foam(work), paper_of(work.card).buffer(-CELL_MM / 2)
    strips: list[Strip] = []
    unbacked: dict[str, Area] = {}
    for rest in heights.rests:
        if rest.how == "flat" or is_flap(rest.key) or rest.piece.translucent or isinstance(rest.piece, Embellishment):
            continue  # vellum shows it, and finishes are set where they lie
        if not go_on():
            break
        made, lost = _back(rest, rules, free.get(rest.key, NOTHING), (owned, paper))
        strips += made
        if lost.area > LOST_MM2:
            unbacked[rest.key] = lost
    return FoamPlan(tuple(strips), unbacked)


def owned_foam(work: Work) -> tuple[float, ...]:
    """Return the thicknesses of foam that a maker has, mm: those of the card's rules, and every lift that it gives."""
    owned = work.card.assembly.foam_mm or USUAL_FOAM_MM[work.card.unit]
    lifts = {piece.lift_mm for piece in work.card.pieces if isinstance(piece, PaperPiece) and piece.lift_mm}
    return tuple(sorted({*owned, *lifts}))


def thickness_under(rest: Rest, gap_mm: float, owned: Sequence[float]) -> float:
    """Return the foam that fills a gap, mm, stacked where it must be; 0 where none that is owned is thin enough.

    Notes
    -----
    Tape gives by a sheet or two, so that a raised piece has one foam. Paper bends over what is left.
    """
    lift = rest.piece.lift_mm
    if lift and abs(gap_mm - lift) <= GIVES_MM:
        return lift
    stacks = _stacks(tuple(owned))
    nearest = min(stacks, key=lambda thick: (abs(thick - gap_mm), thick))
    return nearest if gap_mm >= stacks[0] / 2 else 0.0


@lru_cache(maxsize=64)
def _stacks(owned: tuple[float, ...]) -> tuple[float, ...]:
    """Return every thickness that up to so many layers of foam make, mm, the thinnest first."""
    sums = {0.0}
    for _ in range(MOST_STACKED):
        sums |= {round(one + more, 2) for one in sums for more in owned}
    return tuple(sorted(sums - {0.0}))


def free_parts(heights: Heights, rules: AssemblyRules) -> dict[str, Area]:
    """Return for each piece where nothing may stick to what is under it: strands and flaps that stay free, slits."""
    loose = [(rest.key, rest.area) for rest in heights.rests if _is_loose(rest)]
    slits = [slit for rest in heights.rests for slit in slits_of(rest.piece)]
    found: dict[str, Area] = {}
    order = {rest.key: index for index, rest in enumerate(heights.rests)}
    for rest in heights.rests:
        own = [area for key, area in loose if piece_key(key) == rest.key or order[key] < order[rest.key]]
        near = _that_meet(rest, [*own, *slits])
        if near:
            found[rest.key] = only_areas(shapely.buffer(shapely.union_all(near), rules.glue_free_mm))
    return found


def _that_meet(rest: Rest, areas: Sequence[Area]) -> list[Area]:
    return [area for area in areas if shapely.intersects(area, rest.area)]


def _is_loose(rest: Rest) -> bool:
    """Whether a leaf is a flap that hangs free; what lies before a slit is held all round but along its line."""
    number = flap_number(rest.key)
    return number is not None and rest.piece.flaps[number].slit is None


def slits_of(piece: Glued) -> list[Area]:
    """Return the slits of a piece in place, as thin areas."""
    lines = [shapely.LineString(flap.slit) for flap in piece.flaps if flap.slit is not None]
    placed = [turn_area(line, piece.angle_deg, piece.x, piece.y) for line in lines]
    return [only_areas(shapely.buffer(line, 0.2)) for line in placed]


class _Ground:
    """A piece on its cells, in its own frame, unturned."""

    def __init__(self, rest: Rest, free: Area) -> None:
        self._piece = rest.piece
        own = self._back(rest.area)
        left, top, right, bottom = own.bounds
        self.corner = (left - CELL_MM, top - CELL_MM)
        self.shape = (int((bottom - top) / CELL_MM) + 3, int((right - left) / CELL_MM) + 3)
        self.own = self.cells(own)
        self.hidden = only_areas(shapely.buffer(own, -SEEN_MM))
        self.deep: Floats = cv2.distanceTransform(self.own.astype(np.uint8), cv2.DIST_L2, 5) * CELL_MM
        self.free = self.cells(self._back(free)) if not free.is_empty else np.zeros(self.shape, bool)

    def _back(self, area: Area) -> Area:
        return turn_area_back(area, self._piece.angle_deg, self._piece.x, self._piece.y)

    def cells(self, area: Area) -> Bool:
        """Cells of an area in place of the piece's own frame."""
        return fill(area, self.shape, 1 / CELL_MM, left=self.corner[0], top=self.corner[1])

    def cells_in_place(self, area: Area) -> Bool:
        """Cells of an area that is given in place."""
        return self.cells(self._back(area))

    def box(self, rows: tuple[int, int], columns: tuple[int, int]) -> shapely.Polygon:
        """Return the box of some cells, in the piece's own frame, mm."""
        left, top = self.corner
        return shapely.box(
            left + columns[0] * CELL_MM, top + rows[0] * CELL_MM, left + columns[1] * CELL_MM, top + rows[1] * CELL_MM
        )

    def place(self, area: Area) -> Area:
        """Lay an area of the piece's own frame in its place."""
        return turn_area(area, self._piece.angle_deg, self._piece.x, self._piece.y)

    def areas_of(self, cells: Bool) -> Area:
        """Return the area of some cells, in place."""
        boxes = [self.box((row, row + 1), (column, column + 1)) for row, column in np.argwhere(cells).tolist()]
        return only_areas(self.place(only_areas(shapely.union_all(boxes)))) if boxes else NOTHING


def _back(
    rest: Rest, rules: AssemblyRules, free: Area, having: tuple[Sequence[float], Area]
) -> tuple[list[Strip], Area]:
    """Lay foam behind one piece; gives as well what foam cannot reach."""
    owned, paper = having
    ground = _Ground(rest, free)
    held = ground.cells_in_place(rest.contact) if not rest.contact.is_empty else np.zeros(ground.shape, bool)
    for gap, area in rest.gaps:
        if not thickness_under(rest, gap, owned):  # paper bends so far
            held |= ground.cells_in_place(area)
    held &= ~ground.free
    on_card = ground.cells_in_place(paper)  # nothing may stand past the edge of what bears it
    regions = [(thick, region & on_card) for thick, region in _by_thickness(rest, ground, owned)]
    wanted = ground.own & ~held
    cover = _Cover(ground, wanted, held, rules)
    strips: list[Strip] = []
    for width, inset in [*((width, rules.foam_in_mm) for width in sorted(rules.foam_widths, reverse=True)), *SLIVERS]:
        for thick, region in regions:
            room = _room(ground, region, inset, width)
            for rows, columns in cover.lay(room, width):
                box = only_areas(shapely.intersection(ground.box(rows, columns), ground.hidden))
                sides = sorted(((rows[1] - rows[0]) * CELL_MM, (columns[1] - columns[0]) * CELL_MM))
                placed = only_areas(shapely.intersection(ground.place(box), paper))
                if isinstance(placed, shapely.Polygon) and placed.area >= LEAST_MM2:
                    strips.append(Strip(rest.key, thick, placed, width, sides[1]))
    return strips, ground.areas_of(cover.lost())


def _by_thickness(rest: Rest, ground: _Ground, owned: Sequence[float]) -> list[tuple[float, Bool]]:
    """Return where each thickness of foam fits under a piece; where it is too thin for any, none."""
    found: dict[float, Bool] = {}
    for gap, area in rest.gaps:
        thick = thickness_under(rest, gap, owned)
        if thick:
            cells = ground.cells_in_place(area)
            found[thick] = found[thick] | cells if thick in found else cells
    return sorted(found.items(), key=lambda one: -int(np.count_nonzero(one[1])))


def _room(ground: _Ground, region: Bool, inset: float, width: float) -> Bool:
    """Return where the middle of a strip may lie: in a region, far enough from edges and from what stays free."""
    may = region & (ground.deep >= inset + CELL_MM / 2) & ~ground.free
    half = max(1, round(width / CELL_MM / 2))
    return np.asarray(cv2.erode(may.astype(np.uint8), np.ones((2 * half, 2 * half), np.uint8), borderValue=0), bool)


class _Cover:
    """What of a piece is near enough to foam, or held without it."""

    def __init__(self, ground: _Ground, wanted: Bool, held: Bool, rules: AssemblyRules) -> None:
        self._own, self._reach = ground.own, rules.foam_reach_mm - 2 * CELL_MM
        at_edge = ground.own & (ground.deep <= rules.foam_in_mm)
        self._limit = np.where(at_edge, self._reach * EDGE_SHARE, self._reach).astype(np.float32)
        self._wanted = wanted
        self._foam = np.zeros_like(held)
        self._off = _distance(held)

    def _short(self) -> Floats:
        """How much farther than allowed every place is from foam, mm; 0 where it is near enough."""
        over = np.maximum(self._off - self._limit, 0)
        return np.asarray(np.where(self._wanted, over, 0), np.float32)

    def lay(self, room: Bool, width: float) -> Iterable[tuple[tuple[int, int], tuple[int, int]]]:
        """Lay strips of a width into a room beside what is farthest from foam; gives their rows and columns."""
        given_up = np.zeros(room.shape, bool)
        half = max(1, round(width / CELL_MM / 2))
        left: Bool = np.logical_and(room, ~_grown(self._foam, half))
        near = _distance(left)
        for _ in range(MOST_STRIPS):
            short = np.where(given_up | (near > self._limit), 0, self._short())
            worst = int(short.argmax())
            if short.flat[worst] <= 0:
                return
            row, column = divmod(worst, room.shape[1])
            run = self._run(left, (row, column))
            if run is None:
                given_up[row, column] = True
                continue
            rows, columns = (run[0] - half, run[1] + half), (run[2] - half, run[3] + half)
            before = self._short().sum()
            new = np.zeros(room.shape, bool)
            new[rows[0] : rows[1], columns[0] : columns[1]] = True
            self._foam |= new
            self._off = np.minimum(self._off, _distance(new))
            left[_grown(new, half)] = False
            if self._short().sum() >= before - 1e-3:
                given_up[row, column] = True
            yield rows, columns

    def _run(self, room: Bool, at: tuple[int, int]) -> tuple[int, int, int, int] | None:
        """Find the strip's middle line beside a place: the longer of along and across, no longer than is of use."""
        reach = int(self._limit[at] / CELL_MM)
        top, left = max(0, at[0] - reach), max(0, at[1] - reach)
        window = np.argwhere(room[top : at[0] + reach + 1, left : at[1] + reach + 1]) + np.array([top, left])
        if not len(window):
            return None
        off = np.hypot(*(window - at).T)
        reachable = window[off <= self._limit[at] / CELL_MM]
        if not len(reachable):
            return None
        # half-way between: near enough to the place, and as far on as may be toward what else is short
        short = cv2.boxFilter((self._short() > 0).astype(np.float32), -1, (2 * reach + 1, 2 * reach + 1))
        row, column = reachable[short[tuple(reachable.T)].argmax()].tolist()
        most = round(LONGEST_MM / CELL_MM)
        spans = [_span(room[row], column, most), _span(room[:, column], row, most)]
        useful = self._short() > 0
        tall = spans[1][1] - spans[1][0]
        if spans[0][1] - spans[0][0] >= tall:
            start, end = _trimmed(useful, spans[0], row, reach, is_row=True)
            return row, row, min(start, column), max(end, column)
        start, end = _trimmed(useful, spans[1], column, reach, is_row=False)
        return min(start, row), max(end, row), column, column

    def lost(self) -> Bool:
        """Return what is not near enough to foam by far."""
        return np.asarray(self._wanted & (self._off > self._reach + CELL_MM), bool)


def _grown(cells: Bool, by: int) -> Bool:
    """Grow cells on all sides, so that no strip of twice that width lies over them."""
    return np.asarray(cv2.dilate(cells.astype(np.uint8), np.ones((2 * by + 1, 2 * by + 1), np.uint8)), bool)


def _distance(cells: Bool) -> Floats:
    if not cells.any():
        return np.full(cells.shape, 1e6, np.float32)
    return np.asarray(cv2.distanceTransform((~cells).astype(np.uint8), cv2.DIST_L2, 5) * CELL_MM, np.float32)


def _span(line: NDArray[np.bool_], at: int, most: int) -> tuple[int, int]:
    """Return how far a line of cells runs on from one of them, on both sides."""
    before, after = line[at::-1], line[at:]
    back = int(before.argmin()) if not before.all() else len(before)
    ahead = int(after.argmin()) if not after.all() else len(after)
    return at - min(back - 1, most // 2), at + min(ahead - 1, most // 2)


def _trimmed(short: Bool, span: Sequence[int], across: int, reach: int, *, is_row: bool) -> tuple[int, int]:
    """Shorten a run to where something beside it is still short of foam."""
    low, high = max(0, across - reach), across + reach + 1
    beside = np.asarray(short[low:high].any(axis=0) if is_row else short[:, low:high].any(axis=1))
    found = np.flatnonzero(beside[span[0] : span[1] + 1])
    if not len(found):
        return span[0], span[1]
    return int(span[0] + found[0]), int(span[0] + found[-1])
