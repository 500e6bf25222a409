"""Pieces laid side by side by the boxes round them, exactly: so goes in what is nearly a box."""

from collections.abc import Sequence

import shapely

from fair_thicket.packing.layouts import CLOSE_MM, NestedSheet, NestPiece, Task, area_of, lean_of
from fair_thicket.packing.raster_nest import Spot, Wanted


def fit_side_by_side(
    pieces: Sequence[NestPiece], sheet_mm: tuple[float, float], *, gap_mm: float, seconds: float
) -> NestedSheet | None:
    """Lay one of every piece on one sheet by the boxes round them, exactly; None where those do not go in.

    What is nearly a box goes in by this where no order of placing finds its place.
    """
    wanted = [Wanted(piece.id, area_of(piece)) for piece in pieces]
    task = Task(wanted, sheet_mm, gap_mm, 0.0, "any", 1, lambda: True, lambda: True)
    spots = lay_boxes(task, wanted, seconds=seconds)
    return None if spots is None else task.nesting([spots]).sheets[0]


def lay_boxes(task: Task, wanted: Sequence[Wanted], *, seconds: float) -> list[Spot] | None:
    """Lay pieces on one sheet by the boxes round them; None where those do not go in."""
    from fair_thicket.packing.boxes import fit_boxes  # loads the solver

    may_turn = task.turns == "any"
    leans = [lean_of(one.area) if may_turn else 0.0 for one in wanted]
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
