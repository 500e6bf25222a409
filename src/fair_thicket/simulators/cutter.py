"""A cutting plotter that is simulated: follows a cut file as a machine does, and tells what came of it.

It stands in for a machine on the table: it reads the SVG anew, moves, lowers its blade, and lifts it again.
"""

import io
from collections.abc import Iterator
from typing import NamedTuple

import defusedxml.ElementTree
import numpy as np
import shapely
import svgelements
from numpy.typing import NDArray

from fair_thicket.model.errors import InputError
from fair_thicket.printing.cut_file import LAYERS
from fair_thicket.shape.raster import fill

CUT_MM_S, MOVE_MM_S, LIFT_S = 30.0, 120.0, 0.25
"""How fast it cuts and moves, and how long it takes to lower and lift its blade (our own guess)."""
TINY_MM = 1.5
"""What is narrower tears out instead of being cut (common practice)."""
MOST_BYTES = 40_000_000
PX_PER_INCH, MM_PER_INCH = 96.0, 25.4
SAME_MM = 1e-3
Points = NDArray[np.float64]


class Path(NamedTuple):
    """One stroke of the machine: its layer, its points, mm, and whether it ends where it began."""

    layer: str
    points: Points
    is_closed: bool


class Cutting(NamedTuple):
    """What came of a cut file.

    Attributes
    ----------
    size_mm : (float, float)
    paths : tuple of Path
        In the order in which they were followed.
    cut_mm : float
        Way with the blade down.
    minutes : float
    pieces : list of areas
        What came loose, with its openings.
    faults : list of str
        Whole sentences: open paths, what is tiny, what came loose before what is within it was cut, doubled lines.
    """

    size_mm: tuple[float, float]
    paths: tuple[Path, ...]
    cut_mm: float
    minutes: float
    pieces: list[shapely.Polygon]
    faults: list[str]

    def picture(self, px_per_mm: float = 8.0) -> NDArray[np.bool_]:
        """Picture what came loose: (rows, columns) bool."""
        shape = (max(1, round(self.size_mm[1] * px_per_mm)), max(1, round(self.size_mm[0] * px_per_mm)))
        return fill(shapely.union_all(self.pieces), shape, px_per_mm)


def run_cutter(svg: bytes) -> Cutting:
    """Follow a cut file.

    Raises
    ------
    InputError
        When it is no SVG, or says no size.
    """
    size, paths = _read(svg)
    cut = [path for path in paths if path.layer == "cut"]
    way = sum(_length(path) for path in paths)
    moves, at = 0.0, np.zeros(2)
    for path in paths:
        moves += float(np.hypot(*(path.points[0] - at)))
        at = path.points[-1]
    seconds = way / CUT_MM_S + moves / MOVE_MM_S + len(paths) * LIFT_S
    pieces = _loose([shapely.Polygon(path.points) for path in cut if path.is_closed and len(path.points) > 3])
    return Cutting(size, tuple(paths), sum(map(_length, cut)), seconds / 60, pieces, list(_faults(cut)))


def _read(svg: bytes) -> tuple[tuple[float, float], list[Path]]:
    if len(svg) > MOST_BYTES:
        raise InputError("The cut file is larger than 40 MB; cut fewer pieces at once.")
    try:
        defusedxml.ElementTree.fromstring(svg)  # no entities, nothing from outside
        drawing = svgelements.SVG.parse(io.BytesIO(svg), ppi=PX_PER_INCH, reify=True)
    except Exception as problem:  # whatever a library raises on a file from outside is told in a sentence
        raise InputError(f"The cut file cannot be read as SVG ({type(problem).__name__}).") from None
    scale = MM_PER_INCH / PX_PER_INCH
    size = (float(drawing.width) * scale, float(drawing.height) * scale)
    paths = [path for layer, shape in _shapes(drawing, "cut") for path in _paths(layer, shape, scale)]
    return size, paths


def _shapes(group: svgelements.Group, layer: str) -> Iterator[tuple[str, svgelements.Path]]:
    for one in group:
        if isinstance(one, svgelements.Group):
            yield from _shapes(one, one.id if one.id in LAYERS else layer)
        elif isinstance(one, svgelements.Shape):
            yield layer, svgelements.Path(one)


def _paths(layer: str, shape: svgelements.Path, scale: float) -> Iterator[Path]:
    for part in shape.as_subpaths():
        path = svgelements.Path(part)
        points = np.array([(point.x, point.y) for point in path.as_points()], np.float64) * scale
        if len(points) > 1:
            is_closed = any(isinstance(one, svgelements.Close) for one in path)
            is_closed = is_closed or bool(np.hypot(*(points[0] - points[-1])) < SAME_MM)
            yield Path(layer, points, is_closed)


def _length(path: Path) -> float:
    return float(np.hypot(*np.diff(path.points, axis=0).T).sum())


def _loose(rings: list[shapely.Polygon]) -> list[shapely.Polygon]:
    """Return what comes loose: each ring less the rings within it, which come loose themselves."""
    unlike = list({shapely.normalize(ring).wkb: ring for ring in rings}.values())
    pieces = []
    for ring in unlike:
        within = [other for other in unlike if other is not ring and ring.contains(other)]
        rest = shapely.difference(ring, shapely.union_all(within)) if within else ring
        pieces += [part for part in shapely.get_parts(rest) if isinstance(part, shapely.Polygon)]
    return pieces


def _faults(cut: list[Path]) -> Iterator[str]:
    still = sum(not path.is_closed for path in cut)
    if still:
        yield f"{still} cut paths stay open: what they bound does not come loose."
    rings = [shapely.Polygon(path.points) for path in cut if path.is_closed and len(path.points) > 3]
    tiny = sum(shapely.buffer(ring, -TINY_MM / 2).is_empty for ring in rings)
    if tiny:
        yield f"{tiny} pieces or openings are narrower than {TINY_MM:g} mm everywhere: they tear instead of being cut."
    late = sum(any(earlier.contains_properly(ring) for earlier in rings[:index]) for index, ring in enumerate(rings))
    if late:
        yield f"{late} openings are cut after the piece that they are in came loose."
    twice = len(rings) - len({shapely.normalize(ring).wkb for ring in rings})
    if twice:
        yield f"{twice} lines are cut twice."
