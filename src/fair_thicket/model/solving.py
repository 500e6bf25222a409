"""CP-SAT as this program runs it: repeatable, and deaf to Ctrl+C, which is the shell's to hear."""

from typing import Any


def new_solver(*, workers: int = 1, seed: int = 1) -> Any:
    """Return a solver of so many workers.

    Notes
    -----
    A solver's own handler of Ctrl+C takes a lock while the search may hold it: then neither ever ends. Python hears the
    signal as soon as the search is over; each is given its time.
    """
    from ortools.sat.python import cp_model  # loaded when the first is wanted

    solver = cp_model.CpSolver()
    solver.parameters.catch_sigint_signal = False
    solver.parameters.num_workers = workers
    solver.parameters.random_seed = seed
    return solver
