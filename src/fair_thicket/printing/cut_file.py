"""Cut files for those who own a cutting plotter: SVG and DXF in millimetres, a layer a tool.

Glossary
--------
layer
    ``cut``, ``score`` or ``draw``: what the machine is loaded with.
registration corners
    Three angles printed with the images, by which the machine finds where they lie (print, then cut).
"""

import io
from collections.abc import Sequence
from types import MappingProxyType
from typing import NamedTuple
from xml.sax.saxutils import escape

import numpy as np
import shapely

from fair_thicket.model.basics import Point, Ring
from fair_thicket.packing.layouts import lay
from fair_thicket.packing.raster_nest import Spot
from fair_thicket.shape.outline import Area

LAYERS = ("cut", "score", "draw")
COLOURS = MappingProxyType({"cut": "#c0392b", "score": "#2c6e9f", "draw": "#555555"})
CORNER_MM, CORNER_IN_MM = 8.0, 5.0
"""Length of a registration corner's arms, and how far it lies from the sheet's edges."""
PLACES = 4


class CutFile(NamedTuple):
    """A sheet for the machine.

    Attributes
    ----------
    name : str
    size_mm : (float, float)
    cut : tuple of ring
        Closed; what lies within another comes before it.
    score, draw : tuple of lines
        Open.
    """

    name: str
    size_mm: tuple[float, float]
    cut: tuple[Ring, ...]
    score: tuple[tuple[Point, ...], ...] = ()
    draw: tuple[tuple[Point, ...], ...] = ()


def cut_file(name: str, size_mm: tuple[float, float], areas: Sequence[Area], *, with_corners: bool = False) -> CutFile:
    """Make a cut file of areas in their places: openings first, then outlines; no line is cut twice.

    Parameters
    ----------
    areas : sequence of areas, mm from the sheet's top left
    with_corners : bool
        Draw registration corners: images are printed or stamped on the sheet before.
    """
    rings: list[Ring] = []
    seen: set[bytes] = set()
    for area in sorted(areas, key=lambda one: (round(one.bounds[0]), one.bounds[1])):
        for part in shapely.get_parts(area):
            for line in (*part.interiors, part.exterior):
                key = shapely.normalize(shapely.Polygon(line)).wkb
                if key not in seen:
                    seen.add(key)
                    points = np.asarray(line.coords)[:-1]
                    rings.append(tuple((round(float(x), PLACES), round(float(y), PLACES)) for x, y in points))
    return CutFile(name, size_mm, tuple(rings), draw=_corners(size_mm) if with_corners else ())


def laid(area: Area, spot: Spot) -> Area:
    """Turn an area and move it as a spot says, openings and all."""
    parts = [lay(part, spot) for part in shapely.get_parts(area)]
    return parts[0] if len(parts) == 1 else shapely.MultiPolygon(parts)


def _corners(size_mm: tuple[float, float]) -> tuple[tuple[Point, ...], ...]:
    """Return three corners: none at the lower right, so that the sheet cannot lie the wrong way round."""
    low, (wide, high) = CORNER_IN_MM, size_mm
    arm = CORNER_MM
    return (
        ((low, low + arm), (low, low), (low + arm, low)),
        ((wide - low - arm, low), (wide - low, low), (wide - low, low + arm)),
        ((low, high - low - arm), (low, high - low), (low + arm, high - low)),
    )


def to_svg(file: CutFile) -> bytes:
    """Write a cut file as SVG 1.1, a user unit a millimetre, a group a layer."""
    wide, high = file.size_mm
    groups = []
    for layer in LAYERS:
        paths = getattr(file, layer)
        if not paths:
            continue
        end = " Z" if layer == "cut" else ""
        lines = "".join(
            f'  <path d="M {" L ".join(f"{x:.{PLACES}f} {y:.{PLACES}f}" for x, y in path)}{end}"/>\n' for path in paths
        )
        style = f'fill="none" stroke="{COLOURS[layer]}" stroke-width="0.1"'
        groups.append(f'<g id="{layer}" {style}>\n<title>{layer}</title>\n{lines}</g>\n')
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{wide:.{PLACES}f}mm" '
        f'height="{high:.{PLACES}f}mm" viewBox="0 0 {wide:.{PLACES}f} {high:.{PLACES}f}">\n'
        f"<title>{escape(file.name)}</title>\n{''.join(groups)}</svg>\n"
    ).encode()


def to_dxf(file: CutFile) -> bytes:
    """Write a cut file as DXF (R2010) in millimetres, a layer a tool; its y runs up, as DXF has it."""
    from ezdxf import units  # takes long to load, and is needed only here
    from ezdxf.filemanagement import new

    drawing = new("R2010")
    drawing.units = units.MM
    space = drawing.modelspace()
    for layer in LAYERS:
        drawing.layers.add(layer)
        for path in getattr(file, layer):
            points = [(x, file.size_mm[1] - y) for x, y in path]
            space.add_lwpolyline(points, close=layer == "cut", dxfattribs={"layer": layer})
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue().encode("utf-8")
