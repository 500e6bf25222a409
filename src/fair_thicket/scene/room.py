"""Room on the card: the largest free rectangle of given proportions, and the best places for a greeting.

Glossary
--------
cell
    A small upright rectangle of the grid; free when no piece has any part in it. A rectangle found is made of whole
    free cells, so it truly is free; the best is exact on the grid.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from fair_thicket.shape.raster import fill

BoolArray = NDArray[np.bool_]
CELL_MM = 0.5
MOST_CELLS = 1200


class Room(NamedTuple):
    """A free rectangle on the card, mm; `score` is higher for a better place."""

    left: float
    top: float
    width_mm: float
    height_mm: float
    score: float = 0.0

    @property
    def middle(self) -> tuple[float, float]:
        """Its middle, mm."""
        return self.left + self.width_mm / 2, self.top + self.height_mm / 2


def free_cells(areas: Sequence[BaseGeometry], panel: tuple[float, float], cell: tuple[float, float]) -> BoolArray:
    """Which cells of a grid over the panel hold no part of any area.

    Parameters
    ----------
    areas : areas, mm
    panel : (width, height), mm
    cell : (width, height) of a cell, mm

    Returns
    -------
    (rows, columns) bool
        Only cells that lie wholly on the panel.
    """
    columns, rows = int(panel[0] / cell[0] + 1e-9), int(panel[1] / cell[1] + 1e-9)
    taken = np.zeros((rows, columns), bool)
    for area in areas:
        if area.is_empty:
            continue
        left, top, right, bottom = area.bounds
        low_x, low_y = max(0, int(left / cell[0])), max(0, int(top / cell[1]))
        high_x, high_y = min(columns, int(right / cell[0]) + 1), min(rows, int(bottom / cell[1]) + 1)
        if low_x < high_x and low_y < high_y:
            corner, size = (low_x * cell[0], low_y * cell[1]), (high_y - low_y, high_x - low_x)
            taken[low_y:high_y, low_x:high_x] |= _touched(area, corner, size, cell)
    return ~taken


def _touched(
    area: BaseGeometry, corner: tuple[float, float], size: tuple[int, int], cell: tuple[float, float]
) -> BoolArray:
    """Which cells share paper with an area: those whose middle lies in it, and those that its edge runs through."""
    scaled = shapely.transform(area, lambda points: (points - corner) / cell)
    met = fill(scaled, size, 1.0)
    steps = np.zeros((size[0], size[1] + 1), np.int32)
    for part in shapely.get_parts(scaled):
        if isinstance(part, shapely.Polygon):
            for ring in (part.exterior, *part.interiors):
                _run_along(steps, np.asarray(ring.coords), size)
    return met | (np.cumsum(steps[:, : size[1]], axis=1) > 0)


def _run_along(steps: NDArray[np.int32], points: NDArray[np.float64], size: tuple[int, int]) -> None:
    """Mark the cells that a ring's edges run through, row by row: +1 where a run begins, -1 after its end."""
    start, end = points[:-1], points[1:]
    low = np.floor(np.minimum(start[:, 1], end[:, 1])).astype(np.int64)
    counts = np.maximum(np.ceil(np.maximum(start[:, 1], end[:, 1])).astype(np.int64) - low, 0)
    if not counts.sum():
        return
    edge = np.repeat(np.arange(len(start)), counts)
    row = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts) + low[edge]
    (x0, y0), (x1, y1) = start[edge].T, end[edge].T
    flat = np.abs(y1 - y0) < 1e-9
    slope = np.where(flat, 0.0, (x1 - x0) / np.where(flat, 1.0, y1 - y0))
    above, below = np.minimum(y0, y1), np.maximum(y0, y1)
    top, foot = np.clip(row, above, below), np.clip(row + 1, above, below)
    first = np.where(flat, x0, x0 + (top - y0) * slope)
    last = np.where(flat, x1, x0 + (foot - y0) * slope)
    left = np.floor(np.minimum(first, last)).astype(np.int64)
    right = np.maximum(np.ceil(np.maximum(first, last)).astype(np.int64), left)
    seen = (row >= 0) & (row < size[0]) & (right > 0) & (left < size[1]) & (right > left)
    places = row[seen] * steps.shape[1]
    begun = np.bincount(places + np.clip(left[seen], 0, size[1]), minlength=steps.size)
    ended = np.bincount(places + np.clip(right[seen], 0, size[1]), minlength=steps.size)
    steps += (begun - ended).reshape(steps.shape).astype(np.int32)


def largest_square(free: BoolArray) -> tuple[int, int, int]:
    """Find the largest square of free cells: row and column of its first cell, and its side in cells; side 0 for none.

    Notes
    -----
    Exact. Sums over squares from a summed area table; the side is found by halving, for a square holds all smaller
    ones. Among equals the first by rows.
    """
    table = _sums(free)
    low, high = 0, min(free.shape)
    while low < high:
        middle = (low + high + 1) // 2
        if _all_free(table, middle, middle).any():
            low = middle
        else:
            high = middle - 1
    if not low:
        return 0, 0, 0
    row, column = np.argwhere(_all_free(table, low, low))[0].tolist()
    return row, column, low


def _sums(free: BoolArray) -> NDArray[np.int64]:
    table = np.zeros((free.shape[0] + 1, free.shape[1] + 1), np.int64)
    table[1:, 1:] = np.cumsum(np.cumsum(free, axis=0), axis=1)
    return table


def _all_free(table: NDArray[np.int64], rows: int, columns: int) -> BoolArray:
    """For each first cell whether the rectangle of that many rows and columns is all free."""
    if rows >= table.shape[0] or columns >= table.shape[1]:
        return np.zeros((0, 0), bool)
    total = table[rows:, columns:] - table[:-rows, columns:] - table[rows:, :-columns] + table[:-rows, :-columns]
    return np.asarray(total == rows * columns)


def largest_room(areas: Sequence[BaseGeometry], panel: tuple[float, float], proportion: float) -> Room | None:
    """Find the largest free rectangle whose width is `proportion` times its height; None when all is taken.

    Notes
    -----
    A rectangle of given proportions is a square on a grid whose cells have these proportions.
    """
    cell_height = max(CELL_MM / min(1.0, proportion), max(panel) / MOST_CELLS)
    cell = (cell_height * proportion, cell_height)
    row, column, side = largest_square(free_cells(areas, panel, cell))
    if not side:
        return None
    return Room(column * cell[0], row * cell[1], side * cell[0], side * cell[1])


def find_places(
    areas: Sequence[BaseGeometry],
    panel: tuple[float, float],
    size: tuple[float, float],
    *,
    clear_mm: float,
    centre: tuple[float, float],
    most: int = 3,
) -> list[Room]:
    """Find the best places for a greeting of a size.

    Parameters
    ----------
    areas : areas, mm
        What it must not cover.
    panel, size : (width, height), mm
    clear_mm : float
        Room to keep round it, to the panel's edge too.
    centre : (x, y), mm
        Centre of visual weight of everything else.
    most : int

    Returns
    -------
    list of Room
        The best first; apart from one another where there is room for that. Each is truly free, its clear room too.

    Notes
    -----
    A place is the better, the nearer it brings the weight to the middle across, the nearer it is to the middle or a
    third of the panel across and down, and the more room is round it.
    """
    cell = (1.0, 1.0)
    free = free_cells(areas, panel, cell)
    columns, rows = (int(np.ceil(size[k] + 2 * clear_mm)) for k in (0, 1))
    if rows > free.shape[0] or columns > free.shape[1]:
        return []
    fits = _all_free(_sums(free), rows, columns)
    if not fits.any():
        return []
    tops, lefts = np.nonzero(fits)
    middle_x, middle_y = lefts + columns / 2, tops + rows / 2
    width, height = panel
    across = np.abs((middle_x - width / 2) + (centre[0] - width / 2)) / width
    thirds_x = np.min([np.abs(middle_x / width - mark) for mark in (0.5, 1 / 3, 2 / 3)], axis=0)
    thirds_y = np.min([np.abs(middle_y / height - mark) for mark in (0.18, 1 / 3, 0.5, 2 / 3)], axis=0)
    airy = _airiness(free, tops, lefts, rows, columns)
    scores = 1.0 - 0.9 * across - 0.8 * thirds_x - 0.8 * thirds_y + 0.3 * airy
    places: list[Room] = []
    # first such as stand clear of one another; where there are not enough, such as share no more than a third
    for gap, most_shared in ((clear_mm, 0.0), (0.0, 1 / 3)):
        for index in np.argsort(-scores, kind="stable").tolist():
            if len(places) == most:
                break
            left, top = float(middle_x[index] - size[0] / 2), float(middle_y[index] - size[1] / 2)
            if all(_shared(place, left, top, size, gap) <= most_shared for place in places):
                places.append(Room(left, top, size[0], size[1], round(float(scores[index]), 4)))
    return sorted(places, key=lambda place: -place.score)


def _airiness(
    free: BoolArray, tops: NDArray[np.int64], lefts: NDArray[np.int64], rows: int, columns: int
) -> NDArray[np.float64]:
    """Share of free cells in a frame of 5 mm round each place."""
    table = _sums(free)
    high = np.minimum(tops + rows + 5, free.shape[0]), np.minimum(lefts + columns + 5, free.shape[1])
    low = np.maximum(tops - 5, 0), np.maximum(lefts - 5, 0)
    total = table[high[0], high[1]] - table[low[0], high[1]] - table[high[0], low[1]] + table[low[0], low[1]]
    around = (rows + 10) * (columns + 10) - rows * columns
    return np.asarray((total - rows * columns) / around, np.float64)


def _shared(place: Room, left: float, top: float, size: tuple[float, float], gap: float) -> float:
    """Share of a place that another of the same size takes, 0..1, with a gap wanted between the two."""
    across = min(place.left + place.width_mm, left + size[0]) - max(place.left, left) + gap
    down = min(place.top + place.height_mm, top + size[1]) - max(place.top, top) + gap
    return max(0.0, across) * max(0.0, down) / (size[0] * size[1])
