"""Areas as pixels: a pixel belongs to an area exactly when its middle lies inside (even-odd)."""

import numpy as np
import shapely
from numpy.typing import NDArray

BoolArray = NDArray[np.bool_]


def fill(
    area: shapely.Geometry, size: tuple[int, int], px_per_mm: float, *, left: float = 0.0, top: float = 0.0
) -> BoolArray:
    """Rasterise an area.

    Parameters
    ----------
    area : Polygon or MultiPolygon, mm
        May lie partly or wholly outside the raster.
    size : (rows, columns)
    px_per_mm : float
    left, top : float, mm
        Where the raster's top left corner lies.

    Returns
    -------
    (rows, columns) bool
        True where the pixel's middle is inside.

    Notes
    -----
    Every edge flips the parity of all pixels to its right in the rows whose middle it crosses; a running
    exclusive-or along each row then gives the inside. Linear in rows crossed plus pixels, no border bias, unlike
    fills that paint the border pixels too.
    """
    rows, columns = size
    flips = np.zeros((rows, columns + 1), dtype=np.int32)
    for ring in _rings(area):
        points = (np.asarray(ring.coords) - (left, top)) * px_per_mm - 0.5
        _flip(flips, points, rows, columns)
    inside: BoolArray = (np.cumsum(flips[:, :columns], axis=1) & 1).astype(bool)
    return inside


def add_cover(count: NDArray[np.int16], area: shapely.Geometry, px_per_mm: float) -> None:
    """Add one to every pixel of a count that an area covers; only the pixels near it are looked at."""
    if shapely.is_empty(area):
        return
    left, top, right, bottom = (shapely.bounds(area) * px_per_mm).tolist()
    rows, columns = count.shape
    low_x, high_x = max(0, int(left)), min(columns, int(right) + 1)
    low_y, high_y = max(0, int(top)), min(rows, int(bottom) + 1)
    if low_x < high_x and low_y < high_y:
        size = (high_y - low_y, high_x - low_x)
        count[low_y:high_y, low_x:high_x] += fill(area, size, px_per_mm, left=low_x / px_per_mm, top=low_y / px_per_mm)


def _rings(area: shapely.Geometry) -> list[shapely.LinearRing]:
    polygons = [part for part in shapely.get_parts(area) if isinstance(part, shapely.Polygon)]
    return [ring for part in polygons if not part.is_empty for ring in (part.exterior, *part.interiors)]


def _flip(flips: NDArray[np.int32], points: NDArray[np.float64], rows: int, columns: int) -> None:
    """Flip each row at the columns where the ring's edges cross its middle line (half-open, so none counts twice)."""
    start, end = points[:-1], points[1:]
    low = np.clip(np.ceil(np.minimum(start[:, 1], end[:, 1])), 0, rows).astype(np.int64)
    high = np.clip(np.ceil(np.maximum(start[:, 1], end[:, 1])), 0, rows).astype(np.int64)
    counts = high - low
    if counts.sum() == 0:
        return
    edge = np.repeat(np.arange(len(start)), counts)
    row = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts) + low[edge]
    slope = (end[edge, 0] - start[edge, 0]) / (end[edge, 1] - start[edge, 1])
    crossing = start[edge, 0] + (row - start[edge, 1]) * slope
    column = np.clip(np.ceil(crossing), 0, columns).astype(np.int64)
    width = flips.shape[1]
    flips += np.bincount(row * width + column, minlength=flips.size).reshape(flips.shape).astype(np.int32)
