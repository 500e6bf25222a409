"""Drawings whose closed areas are known, printed and scanned, a third of them with broken lines.

Heroicons 2 (MIT licence, package heroicons) and Lucide (ISC licence, package lucide), drawn with a line of 0.55 mm at
30 mm, as stamps have it. The truth is geometry alone: the strokes grown to their width and united (GEOS); what they
enclose are the areas. Two more sets, of which nobody looked at one while the rule was made, are turned any way: tabler
and solar (see `silhouette_truth`). A gap of 0.5 to 0.9 mm is rubbed out where a line parts two areas, away from all
others.
"""

import io
import math
import re
import zipfile
from functools import cache
from importlib import resources
from typing import NamedTuple

import numpy as np
import shapely
from silhouette_truth import drawings_of
from svgelements import SVG, Path, Shape

from fair_thicket.simulators.scanner import Drawing

CANVAS, LINE_MM, SIDE_MM = 24.0, 0.55, 30.0
MM = SIDE_MM / CANVAS
LEAST_MM2 = 1.5
SETS, TURNED = ("heroicons", "lucide"), ("tabler", "solar")
ANGLES_DEG = (0, 20, 45, 75, 110, 135, 200, 290)
SHRUNK = 0.74
"""What is turned is drawn so much smaller, so that its corners stay on its canvas."""


class Known(NamedTuple):
    """A drawing, its closed areas (mm from its canvas's corner), and the bounds of its ink."""

    drawing: Drawing
    areas: tuple[shapely.Polygon, ...]
    box: tuple[float, float, float, float]
    is_broken: bool


@cache
def _texts(name: str) -> dict[str, str]:
    if name in TURNED:
        return dict(drawings_of(name))
    package, inner = ("heroicons", "heroicons.zip") if name == "heroicons" else ("lucide", "lucide.zip")
    with resources.as_file(resources.files(package) / inner) as path, zipfile.ZipFile(path) as archive:
        wanted = [file for file in sorted(archive.namelist()) if file.endswith(".svg")]
        wanted = [file for file in wanted if name != "heroicons" or file.startswith("outline/")]
        return {file.rpartition("/")[2].removesuffix(".svg"): archive.read(file).decode() for file in wanted}


def _strokes(text: str) -> list[shapely.LineString] | None:
    """Middles of all lines, in canvas units; None for a drawing with anything but lines."""
    lines = []
    for element in SVG.parse(io.StringIO(text), reify=True).elements():
        if not isinstance(element, Shape):
            continue
        if element.fill is not None and element.fill.value is not None:
            return None
        for part in abs(Path(element)).as_subpaths():
            points = []
            for segment in part:
                if type(segment).__name__ == "Move":
                    points = [(segment.end.x, segment.end.y)]
                else:
                    steps = 1 if type(segment).__name__ in {"Line", "Close"} else 24
                    points += [(p.x, p.y) for p in map(segment.point, np.linspace(0, 1, steps + 1)[1:])]
            if len(points) > 1:
                lines.append(shapely.LineString(points))
    return lines


def _turned(text: str, angle_deg: float) -> str:
    """Turn a drawing about its canvas's middle, and shrink it."""
    half = CANVAS / 2
    way = f"translate({half} {half}) rotate({angle_deg}) scale({SHRUNK}) translate({-half} {-half})"
    whole = rf'\1<g transform="{way}" stroke-width="1">\2</g></svg>'  # some strokes say no width of their own
    return re.sub(r"(<svg[^>]*>)(.*)</svg>", whole, text, flags=re.DOTALL)


def known(
    name: str, drawing: str, chance: np.random.Generator, *, breaks: bool, angle_deg: float | None = None
) -> Known | None:
    """Give a drawing with its closed areas; None when it has none of 1.5 mm2, or no line can be broken."""
    text, shrunk = _texts(name)[drawing], 1.0
    if angle_deg is not None:
        text, shrunk = _turned(text, angle_deg), SHRUNK
    lines = _strokes(text)
    if not lines:
        return None
    middles = shapely.transform(shapely.union_all(lines), lambda points: points * MM)
    inked = shapely.buffer(middles, LINE_MM / 2)
    filled = shapely.union_all([shapely.Polygon(part.exterior) for part in shapely.get_parts(inked)])
    areas = [part for part in shapely.get_parts(shapely.difference(filled, inked)) if part.area > LEAST_MM2]
    if not areas:
        return None
    svg = re.sub(r'stroke-width="[\d.]+"', f'stroke-width="{LINE_MM / MM / shrunk}"', text).replace(
        "currentColor", "#000000"
    )
    if breaks:
        spot = _spot_to_break(lines, areas, chance)
        if spot is None:
            return None
        gap = chance.uniform(0.5, 0.9) / MM
        disc = f'<circle cx="{spot[0]}" cy="{spot[1]}" r="{gap / 2 + 0.01}" fill="#ffffff" stroke="none"/>'
        svg = svg.replace("</svg>", disc + "</svg>")
    return Known(Drawing(drawing, svg, width_mm=SIDE_MM), tuple(areas), inked.bounds, breaks)


def _spot_to_break(
    lines: list[shapely.LineString], areas: list[shapely.Polygon], chance: np.random.Generator
) -> tuple[float, float] | None:
    """Find a place on a line, canvas units, beside an area, 1.6 mm from all other ink and from corners."""
    whole = shapely.union_all(lines)
    for _ in range(60):
        line = lines[int(chance.integers(len(lines)))]
        at = chance.uniform(0, line.length)
        spot = line.interpolate(at)
        near = shapely.intersection(whole, spot.buffer(1.6 / MM))
        if near.geom_type != "LineString":
            near = shapely.line_merge(near)
        if near.geom_type != "LineString" or near.length < 2.9 / MM:
            continue
        ends = np.array([near.coords[0], near.coords[-1]])
        if math.dist(*ends) < 0.9 * near.length:
            continue
        here = shapely.Point(spot.x * MM, spot.y * MM)
        if any(area.distance(here) < LINE_MM for area in areas):
            return spot.x, spot.y
    return None


def names_of(name: str) -> list[str]:
    """Names of all drawings of a set."""
    return list(_texts(name))
