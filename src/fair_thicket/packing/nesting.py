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
the bound says (`bounds`), pieces are shared out anew on one sheet fewer. Few are tried as boxes (`side_by_side`), then
a library for irregular nesting tries them (`strips`); what is left of the time makes the sheets shorter. Every layout
is held against exact outlines before it is taken, whoever made it.
"""

import itertools
import time
from collections.abc import Callable, Iterable, Sequence

import numpy as np
import shapely

from fair_thicket.model.errors import InputError
from fair_thicket.model.sheets import Turns
from fair_thicket.model.wanted import GoOn
from fair_thicket.packing.layouts import (
    CLOSE_MM,
    Layout,
    NestedSheet,
    Nesting,
    NestPiece,
    Task,
    area_of,
    lean_of,
    wanted_of,
)
from fair_thicket.packing.raster_nest import Raster, Spot, Wanted
from fair_thicket.packing.side_by_side import lay_boxes
from fair_thicket.packing.strips import shorten

ROUGH_CELLS, FINE_CELLS = 110, 460
FIRST_ANGLES, FINE_ANGLES = tuple(range(0, 360, 90)), tuple(range(0, 360, 30))
MOST_BOXES, BOXES_S = 12, 0.25
"""So few pieces are tried as the boxes round them, exactly, for so long."""
REORDER_S = 0.5
SHORT_S, START_S = 1.0, 0.4
"""The library thinks in whole seconds, and takes so long to start."""
FULL = 0.97
"""A sheet cannot be filled by more than this where outlines are irregular; more is not tried."""


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
    wanted = wanted_of(pieces)
    room = (sheet_mm[0] - 2 * edge_mm, sheet_mm[1] - 2 * edge_mm)
    if min(room) <= 0:
        raise InputError(f"Nothing is left of a sheet of {sheet_mm[0]:g} × {sheet_mm[1]:g} mm inside its free edge.")
    if not wanted:
        return Nesting((), 0)
    end = time.monotonic() + seconds

    def has_time() -> bool:
        return time.monotonic() < end and go_on()

    task = Task(wanted, room, gap_mm, edge_mm, turns, seed, has_time, go_on)
    best = _lay_first(task)
    told(task.nesting(best))
    if has_time() and len(best) > task.bound:
        best = _take_fewer(task, best, told)
    if has_time() and len(wanted) > 1:
        best = _shorten_each(task, best, end, told)
    return task.nesting(best)


def fill_sheet(pieces: Sequence[NestPiece], sheet_mm: tuple[float, float], *, gap_mm: float) -> NestedSheet | None:
    """Place on one sheet, in their order, one of every piece that still finds room; None where that is not sound."""
    wanted = [Wanted(piece.id, area_of(piece)) for piece in pieces]
    task = Task(wanted, sheet_mm, gap_mm, 0.0, "any", 1, lambda: True, lambda: True)
    raster = Raster(sheet_mm, gap_mm=gap_mm, angles=FIRST_ANGLES, cells=ROUGH_CELLS, most=1)
    raster.place_all(wanted)
    if not raster.sheets or not task.is_sound(raster.sheets[0]):
        return None
    return task.nesting(raster.sheets).sheets[0]


def _lay_first(task: Task) -> Layout:
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


def _one_each(task: Task) -> Layout:
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


def _fit_alone(task: Task, one: Wanted) -> Spot | None:
    angles: Iterable[float] = {"any": np.arange(0, 360, 1.5).tolist(), "half": (0.0, 180.0), "none": (0.0,)}[task.turns]
    if task.turns == "any":
        lean = lean_of(one.area)
        angles = itertools.chain((lean, 90 + lean), angles)
    for angle in angles:
        turned = shapely.affinity.rotate(one.area, angle, origin=(0, 0))
        left, top, right, bottom = turned.bounds
        if right - left <= task.room[0] + CLOSE_MM and bottom - top <= task.room[1] + CLOSE_MM:
            return Spot(one.id, -left, -top, angle % 360)
    return None


def _take_fewer(task: Task, best: Layout, told: Callable[[Nesting], object]) -> Layout:
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


def _reorder(task: Task, sheets: int) -> Layout | None:
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


def _share_out(task: Task, sheets: int, number: int) -> list[list[Wanted]]:
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


def _lay_on(task: Task, shares: Sequence[Sequence[Wanted]], *, seed: int) -> Layout | None:
    layout = []
    for share in shares:
        spots = lay_boxes(task, share, seconds=BOXES_S) if len(share) <= MOST_BOXES else None
        spots = spots or shorten(
            share, task.room, gap_mm=task.gap, angles=task.angles, seconds=SHORT_S, seed=seed, go_on=task.asked
        )
        if spots is None or not task.is_sound(spots):
            return None
        layout.append(spots)
    return layout


def _shorten_each(task: Task, best: Layout, end: float, told: Callable[[Nesting], object]) -> Layout:
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
