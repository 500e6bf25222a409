"""The demo's dies: plain shapes of our own, drawn by rule, with a thin outline as their picture."""

import math
from collections.abc import Sequence

import numpy as np
import shapely
from shapely.affinity import rotate, scale, translate
from shapely.geometry import LineString, Point, Polygon, box

from fair_thicket.model.stash import Kind, Stamp
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.die_picture import picture_die

SET = "Fernside dies"
FRONDS = ((-43.0, 22.0), (-31.0, 34.0), (-12.0, 20.0), (18.0, 27.0), (40.0, 38.0))
"""Where fronds hang from the fern window's top bar, mm from its middle, and how far they reach."""


def dies() -> tuple[list[Stamp], dict[str, bytes]]:
    """Make every die of the demo, and their pictures by name."""
    made = [
        _die("moss-edge", "moss edge", _moss_edge(), Kind.BORDER),
        _die("far-hill", "far hill", _far_hill(), Kind.BORDER),
        _die("picket", "picket", _picket(), Kind.BORDER),
        _die("fern-window", "fern window", _fern_window(), Kind.BACKDROP),
        _die("pond", "pond", _pond(), Kind.DIE),
        _die("cloud-bubble", "cloud bubble", _bubble(), Kind.DIE),
        _die("luggage-tag", "luggage tag", _tag(), Kind.DIE),
        _die("moon", "moon", Point(0, 0).buffer(11, quad_segs=24), Kind.DIE),
        _die("cloud-bank", "cloud bank", _cloud_bank(), Kind.STENCIL),
        _die("mist", "mist stencil", _mist(), Kind.STENCIL),
    ]
    return [stamp for stamp, _ in made], {stamp.picture: picture for stamp, picture in made}


def _die(key: str, name: str, area: shapely.Geometry, kind: Kind) -> tuple[Stamp, bytes]:
    shape = max((part for part in shapely.get_parts(area) if isinstance(part, Polygon)), key=lambda part: part.area)
    left, top, right, bottom = shape.bounds
    shape = translate(shape, -(left + right) / 2, -(top + bottom) / 2)
    rings = [shape.exterior, *shape.interiors]
    outline, *pockets = [tuple((round(x, 3), round(y, 3)) for x, y in ring.coords[:-1]) for ring in rings]
    stamp = Stamp(
        key,
        name,
        round(right - left, 3),
        round(bottom - top, 3),
        outline,
        f"images/{key}.png",
        tuple(pocket for pocket in pockets if Polygon(pocket).area > 0.5),
        kind=kind,
        set_name=SET,
        may_flip=True,
    )
    return stamp, picture_die(stamp, [outline, *pockets])


def _edge(length: float, heights: Sequence[float], foot: float) -> Polygon:
    """Return a strip whose upper edge has given heights in equal steps along its length."""
    xs = np.linspace(0, length, len(heights))
    top = [(float(x), -float(height)) for x, height in zip(xs, heights, strict=True)]
    return Polygon([*top, (length, foot), (0, foot)])


def _moss_edge() -> Polygon:
    """Tufts of moss, repeating every quarter of 4 1/4 in."""
    length, repeat = 4.25 * MM_PER_INCH, 4.25 * MM_PER_INCH / 4
    xs = np.linspace(0, length, 425)
    at = xs % repeat / repeat
    tufts = np.maximum.reduce(
        [height * (1 - ((at - middle) / half) ** 2).clip(0) ** 0.5 for middle, half, height in _TUFTS]
    )
    return _edge(length, (8 + tufts).tolist(), 0.0)


_TUFTS = (
    (0.14, 0.16, 4.6),
    (0.36, 0.14, 6.2),
    (0.56, 0.12, 3.8),
    (0.76, 0.16, 5.4),
    (0.95, 0.1, 3.0),
    (-0.05, 0.1, 3.0),
)


def _far_hill() -> Polygon:
    length = 5.5 * MM_PER_INCH
    xs = np.linspace(0, 1, 180)
    heights = 22 + 7 * np.sin(2 * math.pi * (xs * 1.25 + 0.1)) + 3 * np.sin(2 * math.pi * (xs * 3.1 + 0.4))
    return _edge(length, heights.tolist(), 0.0)


def _picket() -> Polygon:
    """Pickets with pointed heads on two rails, eight to 4 1/4 in."""
    length, step = 4.25 * MM_PER_INCH, 4.25 * MM_PER_INCH / 8
    posts = [
        Polygon([(x + 2, 0), (x + 2, -19), (x + step / 2, -23), (x + step - 2, -19), (x + step - 2, 0)])
        for x in (number * step for number in range(8))
    ]
    rails = [box(0, -15.5, length, -12.5), box(0, -6, length, -3)]
    return _only(shapely.union_all([*posts, *rails]))


def _only(area: shapely.Geometry) -> Polygon:
    return max((part for part in shapely.get_parts(area) if isinstance(part, Polygon)), key=lambda part: part.area)


def frond(length: float, *, lean: float = 0.0) -> Polygon:
    """Return a hanging frond from (0, 0) downward: a stem with leaflets in pairs that get shorter toward its tip."""
    ts = np.linspace(0, 1, 40)
    stem_line = [(float(lean * t * t * length), float(t * length)) for t in ts]
    parts: list[shapely.Geometry] = [LineString(stem_line).buffer(0.75, cap_style="flat")]
    count = int(length / 3.4)
    for number in range(1, count + 1):
        t = number / (count + 0.6)
        x, y = lean * t * t * length, t * length
        reach = 5.4 * (1 - 0.6 * t)
        for side in (-1, 1):
            leaf = scale(Point(0, 0).buffer(1, quad_segs=8), reach / 2, 1.15)
            leaf = translate(leaf, reach / 2, 0)
            parts.append(translate(rotate(leaf, 90 - side * 58, origin=(0, 0)), x, y))
    parts.append(translate(scale(Point(0, 0).buffer(1, quad_segs=8), 1.2, 2.6), lean * length, length))
    return _only(shapely.union_all(parts).simplify(0.03))


def _fern_window() -> Polygon:
    """Return a frame of 5 1/4 by 4 with round upper corners in its window, tufts at its foot, and hanging fronds."""
    width, height = 5.25 * MM_PER_INCH, 4 * MM_PER_INCH
    sheet = box(-width / 2, -height / 2, width / 2, height / 2)
    window = box(-width / 2 + 8, -height / 2 + 8, width / 2 - 8, height / 2 - 9)
    arch = window.buffer(-14).buffer(14, quad_segs=24)
    opening = shapely.union(arch, box(-width / 2 + 8, 0, width / 2 - 8, height / 2 - 9))
    hung = [translate(frond(reach, lean=0.08 if x < 0 else -0.08), x, -height / 2 + 6) for x, reach in FRONDS]
    tufts = [
        rotate(translate(frond(22, lean=lean), x, height / 2 - 7), 180, origin=(x, height / 2 - 7))
        for x, lean in ((-49.0, 0.05), (-40.0, -0.12), (49.0, -0.05), (40.0, 0.12))
    ]
    return _only(shapely.union_all([shapely.difference(sheet, opening), *hung, *tufts]))


def _pond() -> Polygon:
    """Return a sheet of water with a wavy upper edge."""
    xs = np.linspace(0, 1, 120)
    heights = 21 + 1.5 * np.sin(2 * math.pi * xs * 6.5)
    return _edge(4 * MM_PER_INCH, heights.tolist(), 0.0)


def _bubble() -> Polygon:
    lobes = [
        translate(Point(0, 0).buffer(radius, quad_segs=16), x, y)
        for x, y, radius in ((-13, 0, 9), (-4, -5, 10), (8, -4, 10), (15, 1, 8), (4, 5, 10), (-7, 5, 9))
    ]
    return _only(shapely.union_all(lobes))


def _tag() -> Polygon:
    shape = Polygon([(-15, -9), (9, -9), (15, -4), (15, 4), (9, 9), (-15, 9)]).buffer(-1).buffer(1, quad_segs=8)
    return _only(shapely.difference(shape, Point(10.5, 0).buffer(1.8, quad_segs=12)))


def _cloud_bank() -> Polygon:
    """Return a sheet 7 in long whose upper edge is a bank of clouds, no two heads alike: a stencil to ink above."""
    length = 7 * MM_PER_INCH
    xs = np.linspace(0, length, 720)
    heights = 10 + np.maximum.reduce(
        [high * (1 - ((xs - middle) / half) ** 2).clip(0) ** 0.5 for middle, half, high in _HEADS]
    )
    return _edge(length, heights.tolist(), 0.0)


_HEADS = (
    (0.0, 15.0, 4.0), (13.0, 9.0, 7.5), (27.0, 12.0, 11.5), (42.0, 10.0, 7.0), (58.0, 14.0, 5.0), (74.0, 11.0, 9.0),
    (90.0, 13.0, 13.0), (106.0, 10.0, 8.5), (123.0, 13.0, 4.5), (138.0, 10.0, 7.5), (153.0, 12.0, 10.5),
    (168.0, 12.0, 6.0), (178.0, 10.0, 3.5),
)  # fmt: skip
"""Heads of the cloud bank: middle from the left end, half its width, height above the lowest edge, mm."""


def _mist() -> Polygon:
    """Return a stencil of 6 1/2 by 2 in with seven streaks of mist."""
    sheet = box(0, 0, 6.5 * MM_PER_INCH, 2 * MM_PER_INCH)
    streaks = [
        translate(scale(Point(0, 0).buffer(1, quad_segs=16), half, high), x, y)
        for x, y, half, high in (
            (30.0, 10.0, 20.0, 2.2), (84.0, 8.5, 26.0, 2.6), (138.0, 12.0, 17.0, 2.0), (48.0, 25.0, 30.0, 3.0),
            (118.0, 26.0, 26.0, 2.6), (26.0, 40.0, 17.0, 2.2), (90.0, 41.0, 32.0, 2.8),
        )
    ]  # fmt: skip
    return _only(shapely.difference(sheet, shapely.union_all(streaks)))
