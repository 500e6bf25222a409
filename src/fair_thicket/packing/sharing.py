"""Dies shared out on passes by CP-SAT: each once a pass, no pass fuller than the plate."""

from collections.abc import Sequence

from ortools.sat.python import cp_model

from fair_thicket.model.solving import new_solver

LEAST_S = 0.1
FINER = 100
"""Areas are told to the solver in whole hundredths of a square millimetre."""


class Sharing:
    """A job of sharing out, asked again and again as more is known."""

    def __init__(self, copies: Sequence[int], sizes: Sequence[float], room: float, passes: int) -> None:
        self._model = cp_model.CpModel()
        self._on = [[self._model.new_bool_var("") for _ in range(passes)] for _ in copies]
        for row, count in zip(self._on, copies, strict=True):
            self._model.add(sum(row) == count)
        for number in range(passes):
            taken = [round(size * FINER) * row[number] for size, row in zip(sizes, self._on, strict=True)]
            self._model.add(sum(taken) <= round(room * FINER))
        self._solver = new_solver(workers=2)
        self._passes = passes

    def next(self, seconds: float) -> list[frozenset[int]] | None:
        """Return which dies lie on each pass; None where there is no way, or none was found in time."""
        self._solver.parameters.max_time_in_seconds = max(LEAST_S, seconds)
        if self._solver.solve(self._model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return None
        return [
            frozenset(index for index, row in enumerate(self._on) if self._solver.value(row[number]))
            for number in range(self._passes)
        ]

    def forbid(self, chosen: frozenset[int]) -> None:
        """Forbid some dies, or more with them, to lie together."""
        for number in range(self._passes):
            self._model.add(sum(self._on[index][number] for index in chosen) <= len(chosen) - 1)
