"""A die's shape sampled in upright columns, and its repeat.

Glossary
--------
column
    The set of heights where there is paper, at the middle of a narrow strip of the die.
"""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.model.errors import GeometryError

STEP_MM = 0.25
ROUND = 6
"""Heights nearer than a millionth of a millimetre are one."""
LEAST_REPEAT_MM = 2.0
REPEAT_MM = 0.05
"""Edges that differ by less than this on the mean repeat (a quarter of a fine pen line)."""
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Profile:
    """Columns of a die.

    Attributes
    ----------
    step_mm : float
        Width of a column.
    paper : (columns, heights) bool
        Whether there is paper, by elementary stretches of height.
    heights : (heights,) float, mm
        Length of each elementary stretch.
    width_mm : float
        Of the die, what is left beyond the last whole column included.
    """

    step_mm: float
    paper: NDArray[np.bool_]
    heights: Floats
    width_mm: float = 0.0

    @property
    def count(self) -> int:
        """How many columns there are."""
        return len(self.paper)

    def shared(self) -> Floats:
        """Length of paper that every two columns share, (columns, columns) float, mm."""
        weighted = self.paper * self.heights
        shared: Floats = weighted @ self.paper.T
        return shared


def profile_of(area: shapely.Geometry, *, step_mm: float = STEP_MM) -> Profile:
    """Sample an area in columns from its left end to its right end.

    Parameters
    ----------
    area : Polygon or MultiPolygon, mm
    step_mm : float
        What is left beyond the last whole column does not count.

    Raises
    ------
    GeometryError
        When it is narrower than one column.
    """
    left, top, right, bottom = shapely.bounds(area).tolist()
    count = int((right - left) / step_mm + 1e-9) if right > left else 0
    if count < 1:
        raise GeometryError("A border die must be wider than a quarter of a millimetre.")
    middles = left + (np.arange(count) + 0.5) * step_mm
    ends = np.stack(
        [np.stack([middles, np.full(count, top - 1)], axis=1), np.stack([middles, np.full(count, bottom + 1)], axis=1)],
        axis=1,
    )
    lines = np.array([shapely.LineString(pair) for pair in ends], dtype=object)
    crossed: list[shapely.Geometry] = list(np.atleast_1d(np.asarray(shapely.intersection(lines, area))))
    columns = [_intervals(one) for one in crossed]
    every = np.concatenate([np.array([top, bottom]), *[one.ravel() for one in columns]])
    cuts = np.unique(np.round(every, ROUND))
    middles_y = (cuts[:-1] + cuts[1:]) / 2
    paper = np.zeros((count, len(middles_y)), bool)
    for index, intervals in enumerate(columns):
        for low, high in intervals:
            paper[index] |= (middles_y > low) & (middles_y < high)
    return Profile(step_mm, paper, np.diff(cuts), right - left)


def _intervals(shape: shapely.Geometry) -> Floats:
    """Heights of the pieces of an upright line, (n, 2) float."""
    found = [
        sorted(shapely.get_coordinates(part)[:, 1].tolist())
        for part in shapely.get_parts(shape)
        if isinstance(part, shapely.LineString) and not part.is_empty
    ]
    return np.array([(one[0], one[-1]) for one in found]).reshape(-1, 2)


def find_repeat(profile: Profile) -> float | None:
    """Find the length after which a die's edge comes again, mm; None where it does not.

    Notes
    -----
    Autocorrelation of the columns: the mean length by which columns a shift apart differ. The first shift at which
    that is least and next to nothing is the repeat; it is then measured over as many repeats as the die holds.
    """
    own = (profile.paper * profile.heights).sum(axis=1)
    differ = own[:, None] + own[None, :] - 2 * profile.shared()
    count, step = profile.count, profile.step_mm
    means = np.array([np.diagonal(differ, shift).mean() for shift in range(count // 2 + 1)])
    least = max(2, round(LEAST_REPEAT_MM / step))
    spread = float(means.max())
    if spread < REPEAT_MM:
        return None  # a straight strip joins anywhere
    tolerance = max(REPEAT_MM, 0.06 * spread)  # a repeat that falls between two columns differs a little
    first = next(
        (
            shift
            for shift in range(least, len(means) - 1)
            if means[shift] < tolerance and means[shift] <= means[shift - 1] and means[shift] <= means[shift + 1]
        ),
        None,
    )
    if first is None:
        return None
    refined = _refine(means, first)
    times = 1
    while True:  # every further repeat measures the first more exactly
        guess = refined * (times + 1)
        near = round(guess)
        if near + 2 >= len(means):
            break
        best = min(range(max(1, near - 1), near + 2), key=lambda shift: means[shift])
        if means[best] > tolerance:
            break
        times += 1
        refined = _refine(means, best) / times
    return round(refined * step, 4)


def _refine(means: Floats, shift: int) -> float:
    """Place of the least of a V-shaped valley between columns, in columns."""
    before, here, after = (float(means[shift + by]) for by in (-1, 0, 1))
    slope = max(before - here, after - here)
    return shift + (before - after) / (2 * slope) if slope > 0 else float(shift)
