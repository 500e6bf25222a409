"""Solvers leave Ctrl+C to the program, and are made in one place."""

from pathlib import Path

from fair_thicket.model import solving
from fair_thicket.model.solving import new_solver

SOURCE = Path(solving.__file__).parents[1]


def test_a_solver_is_repeatable_and_deaf_to_ctrl_c() -> None:
    parameters = new_solver(workers=2, seed=7).parameters
    assert (parameters.num_workers, parameters.random_seed, parameters.catch_sigint_signal) == (2, 7, False)


def test_no_other_module_makes_solvers() -> None:
    makers = [file.name for file in SOURCE.rglob("*.py") if "CpSolver(" in file.read_text()]
    assert makers == [Path(solving.__file__).name]
