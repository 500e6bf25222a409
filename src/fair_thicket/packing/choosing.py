"""Which patterns are cut: the fewest sheets, then the fewest cuts, then the largest offcut, by CP-SAT."""

import time
from collections.abc import Sequence
from typing import NamedTuple

from ortools.sat.python import cp_model

from fair_thicket.model.solving import new_solver
from fair_thicket.packing.blocks import Block, SheetKind


class Pattern(NamedTuple):
    """What is cut from one sheet.

    Attributes
    ----------
    sheet : int
        Place of its kind of sheet.
    block : Block
    cuts : int
        All of them, those that free the block included.
    offcut : int
        Area of what is left as one piece.
    """

    sheet: int
    block: Block
    cuts: int
    offcut: int


Of = Sequence[tuple[cp_model.IntVar, Pattern]]
FOUND = (cp_model.OPTIMAL, cp_model.FEASIBLE)
LEAST_S = 0.12
SQUARE = 1_000_000
"""Offcuts are compared in whole square millimetres."""


def choose_patterns(
    patterns: Sequence[Pattern],
    demand: Sequence[int],
    kinds: Sequence[SheetKind],
    bound: int,
    *,
    end: float,
    known: Sequence[Sequence[tuple[int, Block]]] = (),
) -> tuple[list[Pattern], bool, int]:
    """Choose patterns that give exactly what is wanted.

    Parameters
    ----------
    patterns : sequence of Pattern
    kinds : sequence of SheetKind
        Of sheets; more than there are of a kind are taken only where nothing else will do, of offcuts never.
    bound : int
        No choice takes fewer sheets, offcuts not counted.
    end : float
        `time.monotonic` when it is to be done.
    known : sequence of plans
        (sheet, block) of every sheet; the search begins with the first, and ends with it if nothing else is found.

    Returns
    -------
    chosen : list of Pattern
    is_best : bool
        Whether no choice among these patterns is better, proven.
    fewest : int
        Sheets that a choice among these patterns takes at least, offcuts not counted.
    """
    model = cp_model.CpModel()
    most = sum(demand)
    of = [(model.new_int_var(0, most, ""), one) for one in patterns]
    _cover(model, of, demand)
    whole = _whole(of, kinds)
    model.add(whole >= bound)
    sheets = sum(take for take, _ in of) if any(kind.is_offcut for kind in kinds) else 0
    chosen = _as_patterns(known[0], patterns) if known else []
    for take, one in of:
        model.add_hint(take, sum(one is other for other in chosen))
    solver = new_solver(workers=2)
    is_best, fewest = True, bound
    cuts = sum(take * one.cuts for take, one in of)
    stages = [_beyond(model, of, kinds, most), whole, sheets, cuts, -_largest(model, of)]
    for number, stage in enumerate(stages):
        if isinstance(stage, int):
            continue
        solver.parameters.max_time_in_seconds = max(LEAST_S, end - time.monotonic())
        status = _better(model, solver, of, stage)
        is_best = is_best and status == cp_model.OPTIMAL
        if status not in FOUND:
            break
        fewest = round(solver.best_objective_bound) if number == 1 else fewest
        chosen = _taken(solver, of)
    return chosen, is_best, fewest


def _whole(of: Of, kinds: Sequence[SheetKind]) -> cp_model.LinearExprT:
    """Count sheets that are no offcuts."""
    return sum(take for take, one in of if not kinds[one.sheet].is_offcut)


def _cover(model: cp_model.CpModel, of: Of, demand: Sequence[int]) -> None:
    """Ask for exactly what is wanted."""
    for kind, wanted in enumerate(demand):
        model.add(sum(take * one.block.counts[kind] for take, one in of) == wanted)


def _better(model: cp_model.CpModel, solver: cp_model.CpSolver, of: Of, stage: cp_model.LinearExprT) -> object:
    """Make one measure as small as may be, and hold it there for what comes after."""
    model.minimize(stage)
    status = solver.solve(model)
    if status in FOUND:
        model.add(stage <= round(solver.objective_value))
        model.clear_hints()
        for take, _ in of:
            model.add_hint(take, solver.value(take))
    return status


def _taken(solver: cp_model.CpSolver, of: Of) -> list[Pattern]:
    return [one for take, one in of for _ in range(solver.value(take))]


def _as_patterns(plan: Sequence[tuple[int, Block]], patterns: Sequence[Pattern]) -> list[Pattern]:
    """Return for every sheet of a plan a pattern of the same pieces."""
    by_pieces = {(one.sheet, one.block.counts): one for one in patterns}
    return [by_pieces[sheet, block.counts] for sheet, block in plan]


def _beyond(model: cp_model.CpModel, of: Of, kinds: Sequence[SheetKind], most: int) -> cp_model.LinearExprT:
    """Count the sheets taken beyond those that there are; nothing where there are as many as are wanted."""
    extra = []
    for sheet, kind in enumerate(kinds):
        if kind.owned is not None:
            more = model.new_int_var(0, 0 if kind.is_offcut else most, "")
            model.add(sum(take for take, one in of if one.sheet == sheet) <= kind.owned + more)
            extra.append(more)
    return sum(extra)


def _largest(model: cp_model.CpModel, of: Of) -> cp_model.LinearExprT:
    """Return the area of the largest offcut: of one sheet that is taken."""
    chosen = []
    for take, one in of:
        if one.offcut >= SQUARE:
            is_it = model.new_bool_var("")
            model.add(take >= 1).only_enforce_if(is_it)
            chosen.append((is_it, one.offcut // SQUARE))
    model.add(sum(is_it for is_it, _ in chosen) <= 1)
    return sum(is_it * area for is_it, area in chosen)


def find_cover(
    patterns: Sequence[Pattern], demand: Sequence[int], kinds: Sequence[SheetKind], sheets: int, *, seconds: float
) -> list[tuple[int, Block]] | None:
    """Find so many sheets, and whatever offcuts there are, that give exactly what is wanted.

    Returns
    -------
    list of (sheet, block) or None
        Nothing in it where these patterns cannot, proven; None where time ran out before it was known.
    """
    model = cp_model.CpModel()
    most = [(kind.owned or 0) if kind.is_offcut else sheets for kind in kinds]
    of = [(model.new_int_var(0, most[one.sheet], ""), one) for one in patterns]
    _cover(model, of, demand)
    model.add(_whole(of, kinds) <= sheets)
    for sheet, kind in enumerate(kinds):
        if kind.is_offcut:
            model.add(sum(take for take, one in of if one.sheet == sheet) <= most[sheet])
    solver = new_solver(workers=2)
    solver.parameters.max_time_in_seconds = max(LEAST_S, seconds)
    status = solver.solve(model)
    if status == cp_model.INFEASIBLE:
        return []
    if status not in FOUND:
        return None
    return [(one.sheet, one.block) for one in _taken(solver, of)]
