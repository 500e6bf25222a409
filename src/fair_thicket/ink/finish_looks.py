"""What finishes and die lines look like: lights, grains and stitches as small areas laid lighter or darker."""

import math
import random
from collections.abc import Iterator, Mapping
from functools import lru_cache
from types import MappingProxyType
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.affinity import scale, translate
from shapely.ops import substring

from fair_thicket.model.basics import Point
from fair_thicket.model.finishes import Shine, find_finish
from fair_thicket.model.pieces import Embellishment, PaperPiece, Piece
from fair_thicket.model.stash import Stash
from fair_thicket.shape.outline import Area, only_areas
from fair_thicket.shape.paper import local_area
from fair_thicket.shape.raster import BoolArray

Floats = NDArray[np.float32]
EDGE_IN_MM, STITCH_MM, GAP_MM, THREAD_MM = 1.8, 1.7, 1.1, 0.22
"""A die's stitches lie so far in, are so long, so far apart, and half as wide as twice this (common practice)."""
GRAINS: Mapping[Shine, tuple[float, float]] = MappingProxyType({"glitter": (2.2, 0.8), "shimmer": (0.9, 0.45)})
"""Grains to a mm2, and how much of a light or dark they are."""
MOST_GRAINS = 600
TWIST_MM, MOST_STROKES = 1.4, 800


class Mark(NamedTuple):
    """An area about the piece's middle, mm, that is drawn lighter or darker by a share of white or of black."""

    area: Area
    is_light: bool
    share: float

    def lay(self, view: Floats, inside: BoolArray) -> None:
        """Lighten or darken a picture, (rows, columns, 3) float32, where its pixels are inside."""
        view[inside] += (np.float32(self.is_light) - view[inside]) * np.float32(self.share)


def marks_of(piece: Piece, stash: Stash) -> tuple[Mark, ...]:
    """Return what is drawn on a piece besides its colour; nothing for most."""
    if isinstance(piece, Embellishment):
        return _finish(find_finish(piece.shape).shine, piece.size_mm, piece.spots)
    if isinstance(piece, PaperPiece) and piece.edge:
        return _edge(piece.edge, local_area(piece, stash).wkb)
    return ()


@lru_cache(maxsize=256)
def _finish(shine: Shine, size: float, spots: tuple[Point, ...]) -> tuple[Mark, ...]:
    if shine == "light":
        light = scale(shapely.Point(0, 0).buffer(size * 0.11, quad_segs=6), 1.25, 0.8)
        places = [translate(light, x - size * 0.16, y - size * 0.18) for x, y in spots]
        return (Mark(only_areas(shapely.union_all(places)), is_light=True, share=0.7),)
    if shine in GRAINS:
        return tuple(_grains(shine, size, spots))
    if shine == "twist" and len(spots) > 1:
        return (Mark(_twist(shapely.LineString(spots), size), is_light=False, share=0.22),)
    return ()


def _grains(shine: Shine, size: float, spots: tuple[Point, ...]) -> Iterator[Mark]:
    """Scatter light and dark grains over dabs; the same dab looks the same each time."""
    dense, share = GRAINS[shine]
    dice = random.Random(f"{shine} {size:.3f} {len(spots)}")  # noqa: S311 - a look, not a secret
    many = min(MOST_GRAINS // len(spots) + 1, max(3, round(dense * math.pi * size * size / 4)))
    for is_light in (True, False):
        grains = []
        for x, y in spots:
            for _ in range(many // 2 + 1):
                turn, away = dice.uniform(0, 2 * math.pi), size * 0.42 * math.sqrt(dice.random())
                grain = shapely.Point(x + away * math.cos(turn), y + away * math.sin(turn))
                grains.append(grain.buffer(dice.uniform(0.07, 0.17), quad_segs=2))
        yield Mark(only_areas(shapely.union_all(grains)), is_light=is_light, share=share if is_light else share / 2)


def _twist(line: shapely.LineString, size: float) -> Area:
    """Return the slanting shadows of a twisted thread."""
    strokes = []
    step = max(TWIST_MM, line.length / MOST_STROKES)  # metres of it are not drawn stroke by stroke
    at = step / 2
    while at < line.length:
        first, then = line.interpolate(at - size * 0.3), line.interpolate(at + size * 0.3)
        along = math.atan2(then.y - first.y, then.x - first.x)
        reach = size * 0.5
        across = (-math.sin(along) * reach, math.cos(along) * reach)
        ends = [(first.x + across[0], first.y + across[1]), (then.x - across[0], then.y - across[1])]
        strokes.append(shapely.LineString(ends).buffer(size * 0.09, cap_style="flat"))
        at += step
    return only_areas(shapely.intersection(shapely.union_all(strokes), line.buffer(size / 2)))


@lru_cache(maxsize=128)
def _edge(edge: str, wkb: bytes) -> tuple[Mark, ...]:
    inner = only_areas(shapely.buffer(shapely.from_wkb(wkb), -EDGE_IN_MM))
    parts = [part for part in shapely.get_parts(inner) if isinstance(part, shapely.Polygon) and not part.is_empty]
    lines = [ring for part in parts for ring in (part.exterior, *part.interiors)]
    if not lines:
        return ()
    if edge == "stitched":
        stitches = [shapely.buffer(one, THREAD_MM, quad_segs=3) for line in lines for one in _stitches(line)]
        return (Mark(only_areas(shapely.union_all(stitches)), is_light=False, share=0.26),)
    ridge = shapely.union_all([line.buffer(0.28, quad_segs=3) for line in lines])
    light, dark = translate(ridge, -0.22, -0.22), translate(ridge, 0.22, 0.22)
    return (
        Mark(only_areas(shapely.difference(dark, ridge)), is_light=False, share=0.2),
        Mark(only_areas(shapely.difference(light, ridge)), is_light=True, share=0.5),
    )


def _stitches(line: shapely.LinearRing) -> Iterator[shapely.Geometry]:
    count = max(1, round(line.length / (STITCH_MM + GAP_MM)))
    step = line.length / count
    for number in range(count):
        yield substring(line, number * step, number * step + STITCH_MM)
