"""How few sheets can ever do."""

import math
from collections.abc import Sequence


def fewest_by_size(sizes: Sequence[float], room: float) -> int:
    """Return a number of sheets below which no layout can go, by areas alone.

    Parameters
    ----------
    sizes : sequence of float
        Areas of pieces, any unit.
    room : float
        Area of a sheet, the same unit.

    Notes
    -----
    Bound L2 of Martello and Toth for bin packing in one dimension (Knapsack Problems, 1990, chapter 8): pieces over
    half a sheet never share one, and what is left beside them is counted against the smaller.

    Examples
    --------
    >>> fewest_by_size([6, 6, 6, 4], 10)
    3
    >>> fewest_by_size([], 10)
    0
    """
    if not sizes:
        return 0
    best = math.ceil(sum(sizes) / room - 1e-9)
    for least in sorted({0.0, *(size for size in sizes if size <= room / 2)}):
        large = [size for size in sizes if size > room - least]
        middle = [size for size in sizes if room / 2 < size <= room - least]
        small = sum(size for size in sizes if least <= size <= room / 2)
        beside = len(middle) * room - sum(middle)
        best = max(best, len(large) + len(middle) + max(0, math.ceil((small - beside) / room - 1e-9)))
    return best
