"""What benchmarks share: the best of several runs, and a line for a figure with its bound."""

import time
from collections.abc import Callable


def best_of(runs: int, call: Callable[[], object]) -> float:
    """Shortest wall time of several runs, seconds."""
    times = []
    for _ in range(runs):
        start = time.perf_counter()
        call()
        times.append(time.perf_counter() - start)
    return min(times)


def tell(what: str, figure: float, unit: str, bound: float) -> None:
    """Print a figure beside its bound."""
    print(f"{'ok  ' if figure <= bound else 'OVER'}  {what}: {figure:.3g} {unit} (at most {bound:g})")
