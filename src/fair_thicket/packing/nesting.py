"""Outlines nested on as few sheets as may be, then into as short a part of each as may be.

Glossary
--------
gap
    Least distance between two pieces.
edge
    Margin of a sheet that stays free, for a hand to hold it.
used
    How far a sheet is taken along its width; what is left beyond it is kept as one strip.

Notes
-----
A first layout comes from the raster (`raster_nest`): dependable, the same every time. While it takes more sheets than
the bound says (`bounds`), pieces are shared out anew on one sheet fewer, and a library for irregular nesting tries each
(`strips`); what then is left of the time makes the sheets shorter. Every layout is held against exact outlines before
it is taken, whoever made it.
"""

import itertools
import time
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

import numpy as np
import shapely

from fair_thicket.model.basics import Ring
from fair_thicket.model.errors import GeometryError, InputError
from fair_thicket.model.sheets import Turns
from fair_thicket.packing.bounds import fewest_by_size
from fair_thicket.packing.raster_nest import Raster, Spot, Wanted
from fair_thicket.packing.strips import shorten
from fair_thicket.shape.outline import to_area

GoOn = Callable[[], bool]
ROUGH_CELLS, FINE_CELLS = 110, 460
FIRST_ANGLES, FINE_ANGLES = tuple(range(0, 360, 90)), tuple(range(0, 360, 30))
CLOSE_MM = 1e-6
"""Gaps that are short by no more than this are kept."""
WHOLE = 0.98
"""Of an outline that is one piece; one that crosses itself falls into several."""
MOST_PIECES = 600
MOST_BOXES, BOXES_S = 12, 0.5
"""So few pieces are tried as the boxes round them, exactly, for so long."""
REORDER_S = 0.5
SHORT_S, START_S = 1.0, 0.4
"""The library thinks in whole seconds, and takes so long to start."""
FULL = 0.97
"""A sheet cannot be filled by more than this where outlines are irregular; more is not tried."""


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


def nest(
    pieces: Sequence[NestPiece],
    sheet_mm: tuple[float, float],
    *,
    gap_mm: float = 3.0,
    edge_mm: float = 10.0,
    turns: Turns = "any",
    seconds: float = 1.85,
    seed: int = 1,
    go_on: GoOn = lambda: True,
    told: Callable[[Nesting], object] = lambda _: None,
) -> Nesting:
    """Nest pieces on sheets.

    Parameters
    ----------
    pieces : sequence of NestPiece
    sheet_mm : (width, height)
    gap_mm, edge_mm : float
    turns : str
        Which turns are allowed: any, only half turns, or none.
    seconds : float
        So long it may take to better the first layout.
    go_on : callable
        Asked now and then; False ends the search with the best so far.
    told : callable
        Called with every layout that is better than the one before, the first soon.

    Raises
    ------
    InputError
        A piece that fits no sheet, an outline that encloses nothing, more pieces than can be thought through.
    """
    wanted = _wanted(pieces)
    room = (sheet_mm[0] - 2 * edge_mm, sheet_mm[1] - 2 * edge_mm)
    if min(room) <= 0:
        raise InputError(f"Nothing is left of a sheet of {sheet_mm[0]:g} × {sheet_mm[1]:g} mm inside its free edge.")
    if not wanted:
        return Nesting((), 0)
    end = time.monotonic() + seconds

    def has_time() -> bool:
        return time.monotonic() < end and go_on()

    task = _Task(wanted, room, gap_mm, edge_mm, turns, seed, has_time, go_on)
    best = _lay_first(task)
    told(task.nesting(best))
    if has_time() and len(best) > task.bound:
        best = _take_fewer(task, best, told)
    if has_time() and len(wanted) > 1:
        best = _shorten_each(task, best, end, told)
    return task.nesting(best)


def fill_sheet(pieces: Sequence[NestPiece], sheet_mm: tuple[float, float], *, gap_mm: float) -> NestedSheet | None:
    """Place on one sheet, in their order, one of every piece that still finds room; None where that is not sound."""
    wanted = [Wanted(piece.id, _area_of(piece)) for piece in pieces]
    task = _Task(wanted, sheet_mm, gap_mm, 0.0, "any", 1, lambda: True, lambda: True)
    raster = Raster(sheet_mm, gap_mm=gap_mm, angles=FIRST_ANGLES, cells=ROUGH_CELLS, most=1)
    raster.place_all(wanted)
    if not raster.sheets or not task.is_sound(raster.sheets[0]):
        return None
    return task.nesting(raster.sheets).sheets[0]


def fit_side_by_side(
    pieces: Sequence[NestPiece], sheet_mm: tuple[float, float], *, gap_mm: float, seconds: float
) -> NestedSheet | None:
    """Lay one of every piece on one sheet by the boxes round them, exactly; None where those do not go in.

    What is nearly a box goes in by this where no order of placing finds its place.
    """
    wanted = [Wanted(piece.id, _area_of(piece)) for piece in pieces]
    task = _Task(wanted, sheet_mm, gap_mm, 0.0, "any", 1, lambda: True, lambda: True)
    spots = _lay_boxes(task, wanted, seconds=seconds)
    return None if spots is None else task.nesting([spots]).sheets[0]


def _lay_boxes(task: "_Task", wanted: Sequence[Wanted], *, seconds: float) -> list[Spot] | None:
    """Lay pieces on one sheet by the boxes round them; None where those do not go in."""
    from fair_thicket.packing.boxes import fit_boxes  # loads the solver

    may_turn = task.turns == "any"
    leans = [_lean(one.area) if may_turn else 0.0 for one in wanted]
    upright = [shapely.affinity.rotate(one.area, lean, origin=(0, 0)) for one, lean in zip(wanted, leans, strict=True)]
    boxes = [(right - left + task.gap, bottom - top + task.gap) for left, top, right, bottom in shapely.bounds(upright)]
    room = (task.room[0] + task.gap, task.room[1] + task.gap)
    if sum(width * height for width, height in boxes) > room[0] * room[1] + CLOSE_MM:
        return None
    places = fit_boxes(boxes, room, seconds=seconds, may_turn=may_turn)
    if places is None:
        return None
    spots = []
    for one, lean, (x, y, is_turned) in zip(wanted, leans, places, strict=True):
        angle = (lean + 90 * is_turned) % 360
        left, top, _, _ = shapely.affinity.rotate(one.area, angle, origin=(0, 0)).bounds
        spots.append(Spot(one.id, x - left, y - top, angle))
    return spots if task.is_sound(spots) else None


def _lean(area: shapely.Polygon) -> float:
    """Give the turn, degrees clockwise, that lays the smallest box round an outline upright."""
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(area))
    if len(corners) < 3:
        return 0.0
    return -float(np.degrees(np.arctan2(*(corners[1] - corners[0])[::-1])))


Layout = list[list[Spot]]


class _Task:
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
        """Give a layout as it is told: places on the sheet, the fullest sheets first."""
        sheets = []
        for spots in sorted(layout, key=lambda one: -self.reach(one)):
            moved = tuple(one._replace(x_mm=one.x_mm + self.edge, y_mm=one.y_mm + self.edge) for one in spots)
            sheets.append(NestedSheet(moved, self.reach(spots)))
        return Nesting(tuple(sheets), self.bound)

    def reach(self, spots: Iterable[Spot]) -> float:
        """How far some places reach along the width."""
        return max((float(self.lay(one).bounds[2]) for one in spots), default=0.0)

    def lay(self, spot: Spot) -> shapely.Polygon:
        """Give a piece in its place."""
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


def _wanted(pieces: Sequence[NestPiece]) -> list[Wanted]:
    """Give every single piece, the largest first."""
    if sum(piece.copies for piece in pieces) > MOST_PIECES:
        raise InputError(f"More than {MOST_PIECES} pieces cannot be nested at once; part the job.")
    found = []
    for piece in pieces:
        found += [Wanted(piece.id, _area_of(piece))] * piece.copies
    return sorted(found, key=lambda one: -one.area.area)


def _area_of(piece: NestPiece) -> shapely.Polygon:
    try:
        area = to_area(piece.outline)
    except GeometryError:
        area = shapely.Polygon()
    parts = sorted(shapely.get_parts(area), key=lambda part: -part.area)
    if not parts or parts[0].area < WHOLE * area.area or parts[0].is_empty:
        raise InputError(f"The outline of “{piece.id}” encloses nothing, or crosses itself; draw it anew.")
    return shapely.Polygon(parts[0].exterior)


def _lay_first(task: _Task) -> Layout:
    """Lay pieces out by the raster: soon by a few turns, then by more if that did not take the fewest."""
    best: Layout | None = None
    for angles, cells in _tries(task.turns):
        if best is not None and (len(best) <= task.bound or not task.go_on()):
            break
        raster = Raster(task.room, gap_mm=task.gap, angles=angles, cells=cells)
        if not raster.place_all(task.wanted, (lambda: True) if best is None else task.go_on):
            break
        if raster.left:
            continue
        if (best is None or len(raster.sheets) < len(best)) and all(map(task.is_sound, raster.sheets)):
            best = raster.sheets
    return best if best is not None else _one_each(task)


def _tries(turns: Turns) -> list[tuple[Sequence[float], int]]:
    few: Sequence[float] = {"any": FIRST_ANGLES, "half": (0, 180), "none": (0,)}[turns]
    many: Sequence[float] = FINE_ANGLES if turns == "any" else few
    return [(few, ROUGH_CELLS), (many, 230), (many, FINE_CELLS)]


def _one_each(task: _Task) -> Layout:
    """Lay every piece on a sheet of its own, turned as it fits; what fits none is told."""
    layout = []
    for one in task.wanted:
        spot = _fit_alone(task, one)
        if spot is None:
            room = f"{task.room[0]:g} × {task.room[1]:g} mm"
            raise InputError(
                f"“{one.id}” fits no sheet: {room} are free on it; take a larger sheet or a narrower edge."
            )
        layout.append([spot])
    return layout


def _fit_alone(task: _Task, one: Wanted) -> Spot | None:
    angles: Iterable[float] = {"any": np.arange(0, 360, 1.5).tolist(), "half": (0.0, 180.0), "none": (0.0,)}[task.turns]
    if task.turns == "any":
        lean = _lean(one.area)
        angles = itertools.chain((lean, 90 + lean), angles)
    for angle in angles:
        turned = shapely.affinity.rotate(one.area, angle, origin=(0, 0))
        left, top, right, bottom = turned.bounds
        if right - left <= task.room[0] + CLOSE_MM and bottom - top <= task.room[1] + CLOSE_MM:
            return Spot(one.id, -left, -top, angle % 360)
    return None


def _take_fewer(task: _Task, best: Layout, told: Callable[[Nesting], object]) -> Layout:
    """Share pieces out on one sheet fewer as long as each sheet can be laid out."""
    while len(best) > task.bound and task.go_on():
        fewer = len(best) - 1
        if sum(task.sizes) > FULL * fewer * task.whole:
            break
        found = _reorder(task, fewer)
        for number in range(3 if found is None else 0):
            found = _lay_on(task, _share_out(task, fewer, number), seed=task.seed + number)
            if found is not None or not task.go_on():
                break
        if found is None:
            break
        best = found
        told(task.nesting(best))
    return best


def _reorder(task: _Task, sheets: int) -> Layout | None:
    """Try other orders on the raster for a while: of few pieces some order often takes fewer sheets."""
    chance = np.random.default_rng(task.seed)
    end = time.monotonic() + REORDER_S
    angles = _tries(task.turns)[1][0]
    sizes = np.array(task.sizes)
    while time.monotonic() < end and task.go_on():
        order = np.argsort(-sizes * chance.uniform(0.5, 1.5, len(sizes)), kind="stable").tolist()
        raster = Raster(task.room, gap_mm=task.gap, angles=angles, cells=FINE_CELLS)
        is_through = raster.place_all([task.wanted[index] for index in order], task.go_on)
        if is_through and not raster.left and len(raster.sheets) <= sheets and all(map(task.is_sound, raster.sheets)):
            return raster.sheets
    return None


def _share_out(task: _Task, sheets: int, number: int) -> list[list[Wanted]]:
    """Share pieces out so that all sheets are about as full: the largest first, each to the emptiest."""
    chance = np.random.default_rng(task.seed + number)
    weights = np.array(task.sizes) * (chance.uniform(0.85, 1.15, len(task.sizes)) if number else 1.0)
    shares: list[list[Wanted]] = [[] for _ in range(sheets)]
    full = [0.0] * sheets
    for index in np.argsort(-weights, kind="stable").tolist():
        at = min(range(sheets), key=full.__getitem__)
        shares[at].append(task.wanted[index])
        full[at] += task.sizes[index]
    return shares


def _lay_on(task: _Task, shares: Sequence[Sequence[Wanted]], *, seed: int) -> Layout | None:
    layout = []
    for share in shares:
        spots = _lay_boxes(task, share, seconds=BOXES_S) if len(share) <= MOST_BOXES else None
        spots = spots or shorten(
            share, task.room, gap_mm=task.gap, angles=task.angles, seconds=SHORT_S, seed=seed, go_on=task.asked
        )
        if spots is None or not task.is_sound(spots):
            return None
        layout.append(spots)
    return layout


def _shorten_each(task: _Task, best: Layout, end: float, told: Callable[[Nesting], object]) -> Layout:
    """Make every sheet shorter with what is left of the time, the emptiest first: there a strip is most worth."""
    order = sorted(range(len(best)), key=lambda index: task.reach(best[index]))
    for position, index in enumerate(order):
        left = (end - time.monotonic()) / (len(order) - position) - START_S
        if left < SHORT_S or not task.go_on():
            break
        share = [task.by_id[spot.id] for spot in best[index]]
        spots = shorten(
            share, task.room, gap_mm=task.gap, angles=task.angles, seconds=left, seed=task.seed, go_on=task.asked
        )
        if spots is not None and task.is_sound(spots) and task.reach(spots) < task.reach(best[index]):
            best = [spots if number == index else one for number, one in enumerate(best)]
            told(task.nesting(best))
    return best
