"""What benchmarks share: the best of several runs, and a line for a figure with its bound."""

import time
from collections.abc import Callable

import msgspec

from fair_thicket.model.card import Work


def best_of(runs: int, call: Callable[[], object]) -> float:
    """Shortest wall time of several runs, seconds."""
    times = []
    for _ in range(runs):
        start = time.perf_counter()
        call()
        times.append(time.perf_counter() - start)
    return min(times)


def alone(work: Work) -> Work:
    """Return the same work with nothing worked out of it yet: what is timed on it is all done anew."""
    return msgspec.structs.replace(work)


def tell(what: str, figure: float, unit: str, bound: float) -> None:
    """Print a figure beside its bound."""
    print(f"{'ok  ' if figure <= bound else 'OVER'}  {what}: {figure:.3g} {unit} (at most {bound:g})")
