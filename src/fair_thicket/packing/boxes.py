"""Boxes laid side by side in a room, exactly: whether all go in, each upright or, where it may, turned by a quarter."""

from collections.abc import Sequence

from ortools.sat.python import cp_model

from fair_thicket.model.solving import new_solver

UNIT = 10_000_000
"""Of a millimetre."""
SLACK = 4
"""Units by which a room is taken larger, so that what fills it exactly still does when its sides are rounded."""
Place = tuple[float, float, bool]


def fit_boxes(
    sides: Sequence[tuple[float, float]], room_mm: tuple[float, float], *, seconds: float, may_turn: bool = True
) -> list[Place] | None:
    """Lay boxes in a room without overlap.

    Parameters
    ----------
    sides : sequence of (width, height)
        mm.
    room_mm : (width, height)
    seconds : float
    may_turn : bool
        Whether a box may be turned by a quarter.

    Returns
    -------
    list of (x, y, turned) or None
        Corner of each nearest the room's own, mm; None where they do not go in, or time ran out.

    Notes
    -----
    No overlap in two dimensions, by CP-SAT; exact for what lies parallel to the room.
    """
    wide, high = (round(side * UNIT) + SLACK for side in room_mm)
    model = cp_model.CpModel()
    across, down, places = [], [], []
    for width_mm, height_mm in sides:
        width, height = round(width_mm * UNIT), round(height_mm * UNIT)
        turned = model.new_int_var(0, int(may_turn), "")
        x, y = model.new_int_var(0, wide, ""), model.new_int_var(0, high, "")
        span_x = width + (height - width) * turned
        span_y = height + (width - height) * turned
        end_x, end_y = model.new_int_var(0, wide, ""), model.new_int_var(0, high, "")
        across.append(model.new_interval_var(x, span_x, end_x, ""))
        down.append(model.new_interval_var(y, span_y, end_y, ""))
        places.append((x, y, turned))
    model.add_no_overlap_2d(across, down)
    solver = new_solver(workers=2)
    solver.parameters.max_time_in_seconds = max(0.05, seconds)
    if solver.solve(model) not in {cp_model.OPTIMAL, cp_model.FEASIBLE}:
        return None
    return [(solver.value(x) / UNIT, solver.value(y) / UNIT, bool(solver.value(turned))) for x, y, turned in places]
