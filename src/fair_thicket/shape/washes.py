"""What a wash covers of its surface: its form, less the covers, through a stencil or as drops of a splatter."""

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Point, Polygon, box

from fair_thicket.model.pieces import Cover, Form, Spot, Wash
from fair_thicket.model.stash import Ring, Stash
from fair_thicket.shape.outline import FloatArray, to_area, turn_points

Local = Polygon | MultiPolygon
FAR_MM = 4000.0
"""Beyond any card: how far a torn edge's covered side reaches."""
TEAR_MM = 0.6
"""Straight pieces of a torn edge are no longer than this."""
DROP_MM = (0.15, 1.1)
"""Radius of the smallest and the largest drop of a splatter (our own guess)."""


def wash_area(piece: Wash, stash: Stash, form: Local) -> Local:
    """Area that a wash inks, about its own middle, mm; `form` is its form's area."""
    stencil: tuple[Ring, tuple[Ring, ...]] | None = None
    if piece.how == "stencil" and piece.stencil:
        thing = stash.find(piece.stencil)
        stencil = (thing.outline, thing.pockets)
    drops = (piece.drops, piece.seed) if piece.how == "splatter" else None
    return _wash_area(piece.form, form, stencil, drops, piece.covers)


@lru_cache(maxsize=256)
def _wash_area(
    _form: Form,
    area: Local,
    stencil: tuple[Ring, tuple[Ring, ...]] | None,
    drops: tuple[int, int] | None,
    covers: tuple[Cover, ...],
) -> Local:
    if stencil is not None:
        outline, openings = stencil
        if openings:
            through = shapely.union_all([to_area(ring) for ring in openings])
            area = _areas(shapely.intersection(area, through))
        else:  # a border as a stencil: ink goes beyond its edge
            area = _areas(shapely.difference(area, to_area(outline)))
    if drops is not None:
        area = _areas(shapely.intersection(area, _splatter(area, *drops)))
    for cover in covers:
        shape = cover_area(cover)
        keep = shapely.intersection if cover.kind == "counter" else shapely.difference
        area = _areas(keep(area, shape))
    return area


def cover_area(cover: Cover) -> Local:
    """Area of a cover about its wash's middle, mm; of a counter mask the opening that it leaves."""
    if cover.kind == "torn":
        return _torn(cover.line or ((0.0, 0.0), (1.0, 0.0)), cover.ragged_mm, cover.seed)
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


def torn_edge(line: tuple[Spot, Spot], ragged_mm: float, seed: int) -> FloatArray:
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


def _torn(line: tuple[Spot, Spot], ragged_mm: float, seed: int) -> Local:
    path = torn_edge(line, ragged_mm, seed)
    along = np.array(line[1]) - np.array(line[0])
    along = along / (np.hypot(*along) or 1.0)
    right = np.array([-along[1], along[0]])
    start, end = path[0] - FAR_MM * along, path[-1] + FAR_MM * along
    ring = np.vstack([[start], path, [end], [end + FAR_MM * right], [start + FAR_MM * right]])
    return to_area(ring)


@lru_cache(maxsize=64)
def _splatter(area: Local, drops: int, seed: int) -> Local:
    """Scatter drops over an area: many small ones and a few large ones."""
    if area.is_empty:
        return area
    dice = np.random.default_rng(seed)
    left, top, right, bottom = area.bounds
    places: Sequence[tuple[float, float]] = [
        (float(x), float(y))
        for x, y in zip(dice.uniform(left, right, drops), dice.uniform(top, bottom, drops), strict=True)
    ]
    least, most = DROP_MM
    radii = least + (most - least) * dice.random(drops) ** 3
    dots = [Point(place).buffer(float(radius), quad_segs=6) for place, radius in zip(places, radii, strict=True)]
    return _areas(shapely.union_all(dots))


def _areas(shape: shapely.Geometry) -> Local:
    if isinstance(shape, Polygon | MultiPolygon):
        return shape
    parts = [part for part in shapely.get_parts(shape) if isinstance(part, Polygon) and part.area > 0]
    whole = shapely.union_all(parts) if parts else Polygon()
    return whole if isinstance(whole, Polygon | MultiPolygon) else Polygon()
