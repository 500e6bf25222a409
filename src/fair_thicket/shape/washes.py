"""Where stencils, drops and marks of washes lie, and what covers keep off; see `wash_kinds` for what each kind does."""

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely
import shapely.affinity
from numpy.typing import NDArray
from shapely.geometry import LineString, Point, Polygon, box

from fair_thicket.model.basics import Point as At
from fair_thicket.model.basics import Ring
from fair_thicket.model.pieces import AnyThrough, AnyWash, Cover, Form, Lay, is_stepped
from fair_thicket.model.stash import Stamp, Stash
from fair_thicket.shape.outline import Area, FloatArray, only_areas, to_area, turn_points

Shapes = NDArray[np.object_]
FAR_MM = 4000.0
"""Beyond any card: how far a torn edge's covered side reaches."""
TEAR_MM = 0.6
"""Straight pieces of a torn edge are no longer than this."""
LIFT = 0.6
"""Share of the ink that water lifts when it is blotted (our own guess)."""
STROKE_MM = 0.5
"""Width of a stamped wave or blade of grass."""


def under_covers(area: Area, covers: tuple[Cover, ...]) -> Area:
    """Leave out what covers keep a wash off; all about its middle, mm."""
    for cover in covers:
        keep = shapely.intersection if cover.kind == "counter" else shapely.difference
        area = only_areas(keep(area, cover_area(cover)))
    return area


def through_area(piece: AnyThrough, stash: Stash, form: Area) -> Area:
    """Area that goes through a stencil, lay by lay where it is stepped; beyond the edge of one without openings."""
    if is_stepped(piece):
        return _lays_area(form, list_lays(piece, stash))
    if not piece.stencil:
        return form
    thing = stash.find(piece.stencil)
    return _openings_area(form, thing.outline, _open(thing.pockets, piece.taped) if thing.pockets else None)


@lru_cache(maxsize=128)
def _lays_area(form: Area, lays: "tuple[LaidStencil, ...]") -> Area:
    return only_areas(shapely.intersection(form, shapely.union_all([lay_area(one) for one in lays])))


@lru_cache(maxsize=128)
def _openings_area(form: Area, outline: Ring, openings: tuple[Ring, ...] | None) -> Area:
    if openings is None:
        return only_areas(shapely.difference(form, to_area(outline)))
    through = shapely.union_all([to_area(ring) for ring in openings])
    return only_areas(shapely.intersection(form, through))


class LaidStencil(NamedTuple):
    """A stencil as it lies for one lay.

    Attributes
    ----------
    outline : ring
        About its own middle, the right way up, mm.
    openings : tuple of ring
        Those that are not taped over.
    is_edge : bool
        It has no openings, and is inked above its edge.
    reach_mm : float
        Of an edge: how far above it ink reaches.
    fades : bool
        Whether it fades out over the reach.
    lay : Lay
    """

    outline: Ring
    openings: tuple[Ring, ...]
    is_edge: bool
    reach_mm: float
    fades: bool
    lay: Lay

    def place(self, area: shapely.Geometry) -> shapely.Geometry:
        """Lay what is drawn about the stencil's middle where it lies, about its wash's middle."""
        side = -1.0 if self.lay.flipped else 1.0
        placed: shapely.Geometry = shapely.affinity.affine_transform(area, [side, 0, 0, 1, self.lay.x, self.lay.y])
        return placed

    def lines(self) -> shapely.Geometry:
        """Outline and openings where they lie, as lines."""
        rings = [shapely.LinearRing(ring) for ring in ((self.outline,) if self.is_edge else self.openings)]
        return self.place(shapely.GeometryCollection(rings))


def list_lays(piece: AnyWash, stash: Stash) -> tuple[LaidStencil, ...]:
    """Return every lay of a stepped wash's stencil, in the order of the work; none where it is not stepped."""
    if not is_stepped(piece):
        return ()
    thing = stash.find(piece.stencil)
    height = piece.reach_mm or piece.form.height_mm * 2
    openings = _open(thing.pockets, piece.taped)
    return tuple(
        LaidStencil(thing.outline, openings, not thing.pockets, height, piece.reach_mm > 0, lay) for lay in piece.lays
    )


def _open(pockets: tuple[Ring, ...], taped: tuple[int, ...]) -> tuple[Ring, ...]:
    return tuple(ring for number, ring in enumerate(pockets) if number not in taped)


def lay_area(laid: LaidStencil) -> Area:
    """Area inked in one lay: through the openings, or above the edge as far as it reaches; about the wash's middle."""
    return only_areas(
        laid.place(_inked(laid.outline, None if laid.is_edge else laid.openings, laid.reach_mm, laid.fades))
    )


@lru_cache(maxsize=64)
def _inked(outline: Ring, openings: tuple[Ring, ...] | None, reach_mm: float, fades: bool) -> Area:
    if openings is not None:
        return only_areas(shapely.union_all([to_area(ring) for ring in openings]))
    sheet = to_area(outline)
    left, _, right, _ = sheet.bounds
    near = shapely.buffer(sheet, reach_mm) if fades else _swept(sheet, -reach_mm)
    above = shapely.difference(near, shapely.union(sheet, _swept(sheet, FAR_MM)))
    return only_areas(shapely.intersection(above, box(left, -FAR_MM, right, FAR_MM)))


def _swept(area: Area, down_mm: float) -> Area:
    """Sweep an area down, or up: its Minkowski sum with an upright stretch."""
    swept: list[shapely.Geometry] = [area]
    for part in shapely.get_parts(area):
        ring = np.asarray(part.exterior.coords)
        first, second = ring[:-1], ring[1:]
        down = np.array([0, down_mm])
        slanted = np.stack([first, second, second + down, first + down], axis=1)
        swept += [Polygon(quad) for quad in slanted[np.abs(first[:, 0] - second[:, 0]) > 1e-9]]
    return only_areas(shapely.union_all(swept))


class Marks(NamedTuple):
    """Where the lower corners of a stencil come for one lay, mm on the panel; they may lie beside it."""

    left: At
    right: At


def registration(stamp: Stamp, piece: AnyThrough) -> list[Marks]:
    """Return registration marks for every lay of a stepped wash: by them the stencil is laid where it was rehearsed."""
    half_x, half_y = stamp.width_mm / 2, stamp.height_mm / 2
    marks = []
    for lay in piece.lays:
        corners = [(lay.x - half_x, lay.y + half_y), (lay.x + half_x, lay.y + half_y)]
        (x0, y0), (x1, y1) = turn_points(corners, piece.angle_deg, piece.x, piece.y).tolist()
        marks.append(Marks((x0, y0), (x1, y1)))
    return marks


def cover_area(cover: Cover) -> Area:
    """Area of a cover about its wash's middle, mm; of a counter mask the opening that it leaves."""
    if cover.kind == "torn":
        return _torn(cover.line or ((0.0, 0.0), (1.0, 0.0)), cover.ragged_mm, cover.seed)
    if cover.ring is not None:
        return only_areas(shapely.make_valid(to_area(turn_points(cover.ring, cover.angle_deg, cover.x, cover.y))))
    form = cover.form or Form("rectangle", 10.0, 10.0)
    ring = _outline(form)
    return to_area(turn_points(ring, cover.angle_deg, cover.x, cover.y))


def _outline(form: Form) -> FloatArray:
    if form.kind == "ellipse":
        turns = np.linspace(0, 2 * math.pi, 96, endpoint=False)
        return np.stack([form.width_mm / 2 * np.cos(turns), form.height_mm / 2 * np.sin(turns)], axis=1)
    corner = min(form.corner_mm, form.width_mm * 0.499, form.height_mm * 0.499)
    half_x, half_y = form.width_mm / 2 - corner, form.height_mm / 2 - corner
    area = (
        box(-half_x, -half_y, half_x, half_y).buffer(corner, quad_segs=16)
        if corner
        else box(-half_x, -half_y, half_x, half_y)
    )
    return np.asarray(area.exterior.coords, dtype=np.float64)[:-1]


def torn_edge(line: tuple[At, At], ragged_mm: float, seed: int) -> FloatArray:
    """Tear along a line: a ragged path from its start to its end, (n, 2) float, mm; the same seed, the same path.

    Notes
    -----
    Midpoint displacement: each half strays by half as much as the whole, as paper fibres do on every scale.
    """
    dice = np.random.default_rng(seed)
    (x0, y0), (x1, y1) = line
    length = math.hypot(x1 - x0, y1 - y0) or 1.0
    steps = max(1, math.ceil(math.log2(max(length / TEAR_MM, 2.0))))
    away = np.zeros(2)
    for step in range(steps):
        middles = (away[:-1] + away[1:]) / 2 + dice.uniform(-1, 1, len(away) - 1) * ragged_mm * 0.55**step
        woven = np.empty(2 * len(away) - 1)
        woven[::2], woven[1::2] = away, middles
        away = woven
    along = np.linspace(0, 1, len(away))[:, None]
    across = np.array([-(y1 - y0), x1 - x0]) / length
    straight = np.array([x0, y0]) * (1 - along) + np.array([x1, y1]) * along
    return np.asarray(straight + away[:, None] * across, dtype=np.float64)


def _torn(line: tuple[At, At], ragged_mm: float, seed: int) -> Area:
    path = torn_edge(line, ragged_mm, seed)
    along = np.array(line[1]) - np.array(line[0])
    along = along / (np.hypot(*along) or 1.0)
    right = np.array([-along[1], along[0]])
    start, end = path[0] - FAR_MM * along, path[-1] + FAR_MM * along
    ring = np.vstack([[start], path, [end], [end + FAR_MM * right], [start + FAR_MM * right]])
    return to_area(ring)


@lru_cache(maxsize=64)
def drops_area(form: Area, drops: int, seed: int, radii_mm: tuple[float, float]) -> Area:
    """Scatter drops over an area: many small ones and a few large ones, between two radii."""
    if form.is_empty:
        return form
    dice = np.random.default_rng(seed)
    left, top, right, bottom = form.bounds
    places: Sequence[tuple[float, float]] = [
        (float(x), float(y))
        for x, y in zip(dice.uniform(left, right, drops), dice.uniform(top, bottom, drops), strict=True)
    ]
    least, most = radii_mm
    radii = least + (most - least) * dice.random(drops) ** 3
    dots = [Point(place).buffer(float(radius), quad_segs=6) for place, radius in zip(places, radii, strict=True)]
    return only_areas(shapely.intersection(form, shapely.union_all(dots)))


def mark_area(mark: str, size_mm: float) -> Area:
    """Area of one stamped mark about its middle, mm: a dot, a wave, or a tuft of grass."""
    return _mark_area(mark, size_mm)


@lru_cache(maxsize=32)
def _mark_area(mark: str, size_mm: float) -> Area:
    if mark == "dot":
        return Point(0, 0).buffer(size_mm / 2, quad_segs=8)
    if mark == "wave":
        xs = np.linspace(-0.5, 0.5, 25)
        line = np.stack([xs, -0.09 * np.sin(2 * math.pi * (xs + 0.5) * 1.5)], axis=1) * size_mm
        return only_areas(LineString(line).buffer(min(STROKE_MM, size_mm / 4) / 2, quad_segs=4))
    blades = []
    for lean, high in ((-0.28, 0.75), (0.02, 1.0), (0.3, 0.7)):
        ts = np.linspace(0, 1, 9)
        line = np.stack([lean * ts**2 + 0.06 * np.sign(lean), 0.5 - high * ts], axis=1) * size_mm
        blades.append(LineString(line).buffer(min(STROKE_MM, size_mm / 6) / 2, quad_segs=4))
    return only_areas(shapely.union_all(blades))


@lru_cache(maxsize=32)
def marks_area(form: Area, mark: str, size_mm: float, spots: tuple[At, ...]) -> Area:
    """Area of all marks of a texture within a form, mm."""
    return only_areas(shapely.intersection(form, shapely.union_all(marks_at(mark, size_mm, spots))))


def marks_at(mark: str, size_mm: float, spots: Sequence[At]) -> Shapes:
    """Return the area of a mark at every spot, (n,) of polygons, mm."""
    one = mark_area(mark, size_mm)
    if not isinstance(one, Polygon) or not spots:
        return np.array([shapely.affinity.translate(one, x, y) for x, y in spots], dtype=object)
    ring = np.asarray(one.exterior.coords)
    made: Shapes = shapely.polygons(ring[None] + np.asarray(spots)[:, None])
    return made
