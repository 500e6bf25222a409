"""SVG drawings and cut files become images: closed cut outlines become dies, a drawing becomes a stamp.

Glossary
--------
cut file
    Closed outlines without filling, drawn with a hairline: each is a line for a blade.
drawing
    Anything else: what is seen is what a stamp would print.
"""

import io
import math
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import resvg_py
import shapely
from numpy.typing import NDArray
from PIL import Image
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from fair_thicket.fonts import FONTS
from fair_thicket.intake.detection import in_reading_order
from fair_thicket.intake.svg_guard import parse_guarded, read_guarded, to_text
from fair_thicket.intake.taking import encode_clean, take_image
from fair_thicket.model.errors import DrawingError
from fair_thicket.model.plan import Sheet, SheetImage
from fair_thicket.model.tolerance import OUTLINE_MM, REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.outline import to_rings
from fair_thicket.shape.raster import fill

SVG_DPI = 96.0
"""User units an inch where a drawing states no size: CSS Values and Units 3, section 6.2 (1in = 96px)."""
FLAT_MM = 0.02
"""How far a curve may run from its chords."""
HAIRLINE_MM = 0.6
LEAST_MM, MOST_MM = 1.0, 1000.0
PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH


def read_drawing(path: Path, *, as_dies: bool | None = None) -> Sheet:
    """Read an SVG file.

    Parameters
    ----------
    path : Path
    as_dies : bool or None
        Whether its closed outlines are dies; None tells a cut file from a drawing.

    Returns
    -------
    Sheet
        Its page at 300 dpi, with one image a die, or a single stamp.

    Raises
    ------
    DrawingError
        Hostile, broken, empty, or of a size that no stamp has.
    """
    return _read(to_text(read_guarded(path)), path.name, as_dies)


def parse_drawing(data: bytes, name: str, *, as_dies: bool | None = None) -> Sheet:
    """Read an SVG from bytes; see `read_drawing`."""
    return _read(to_text(parse_guarded(data, name)), name, as_dies)


def _read(text: str, name: str, as_dies: bool | None) -> Sheet:
    shapes, size, is_stated = _parse(text, name)
    looks_cut = bool(shapes) and all(is_hair and rings for is_hair, rings, _ in shapes)
    if as_dies if as_dies is not None else looks_cut:
        images = _to_dies([(rings, rule) for _, rings, rule in shapes], name)
    else:
        _check_stated(is_stated, name)
        images = [_to_stamp(text, size, name)]
    return Sheet(REHEARSAL_DPI, size[0], size[1], 0.0, "none", tuple(images), size[0], (0.0, 0.0))


Rings = list[NDArray[np.float64]]


def _parse(text: str, name: str) -> tuple[list[tuple[bool, Rings, str]], tuple[float, float], bool]:
    """Shapes with their closed rings in mm, and the page's size and whether it is stated.

    Each shape tells whether it is a bare hairline.
    """
    from svgelements import SVG, Path, Shape

    try:
        drawing: Any = SVG.parse(io.StringIO(text), ppi=SVG_DPI, reify=True)
    except (ValueError, TypeError, KeyError, ZeroDivisionError, OverflowError, RecursionError, AttributeError):
        # the library's parser raises these on what it does not understand
        raise DrawingError(f"{name} is not a drawing that can be read; export it again as plain SVG.") from None
    mm = MM_PER_INCH / SVG_DPI
    size = (float(drawing.width) * mm, float(drawing.height) * mm)
    shown = [one for one in drawing.elements() if isinstance(one, Shape) and not _is_hidden(one)]
    shapes = []
    for element in shown:
        rings = [ring * mm for ring in _rings(abs(Path(element)))]
        if any(not np.isfinite(ring).all() for ring in rings):
            raise DrawingError(f"{name} has a point that is nowhere (not a finite number); export it again.")
        rule = str(element.values.get("fill-rule", "nonzero"))
        shapes.append((_is_hairline(element, mm), rings, rule))
    if not all(math.isfinite(side) and LEAST_MM <= side <= MOST_MM for side in size):
        raise DrawingError(
            f"{name} is {size[0]:g} × {size[1]:g} mm large; give it a width and a height from 1 to 1000 mm."
        )
    if not shapes:
        raise DrawingError(f"{name} draws nothing; export it with its shapes as paths.")
    return shapes, size, _states_size(drawing.values)


def _states_size(values: Mapping[str, Any]) -> bool:
    """Whether a drawing says how large it is: by a box of its units, or by its sides."""
    sides = [str(values.get(side) or "%") for side in ("width", "height")]
    return bool(values.get("viewBox")) or not any("%" in side for side in sides)


def _check_stated(is_stated: bool, name: str) -> None:
    if not is_stated:
        raise DrawingError(f"{name} does not say how large it is; export it with a width and a height in mm.")


def drawing_size(text: str, name: str) -> tuple[float, float]:
    """Width and height that a drawing states, mm.

    Raises
    ------
    DrawingError
        When it states none, draws nothing, or is no drawing.
    """
    _, size, is_stated = _parse(text, name)
    _check_stated(is_stated, name)
    return size


def _is_hairline(element: Any, mm: float) -> bool:
    fills = element.fill is not None and element.fill.value is not None
    width = float(getattr(element, "implicit_stroke_width", None) or element.stroke_width or 0) * mm
    return not fills and width <= HAIRLINE_MM


def _is_hidden(element: Any) -> bool:
    return bool(element.values.get("visibility") == "hidden" or element.values.get("display") == "none")


def _rings(path: Any) -> Iterable[NDArray[np.float64]]:
    """Flatten the closed subpaths of a path into points in user units."""
    from svgelements import Close, Line, Move

    for part in path.as_subpaths():
        points: list[tuple[float, float]] = []
        closed = False
        for segment in part:
            if isinstance(segment, Move):
                points = [(segment.end.x, segment.end.y)] if segment.end is not None else []
            elif isinstance(segment, Close):
                closed = True
            elif isinstance(segment, Line):
                points.append((segment.end.x, segment.end.y))
            else:
                chord = math.dist((segment.start.x, segment.start.y), (segment.end.x, segment.end.y))
                reach = max(chord, float(segment.length(error=1e-2)))
                steps = min(400, max(6, math.ceil(math.sqrt(reach / (FLAT_MM * SVG_DPI / MM_PER_INCH)) * 2)))
                points += [(point.x, point.y) for point in map(segment.point, np.linspace(0, 1, steps + 1)[1:])]
        if len(points) > 2 and (closed or math.dist(points[0], points[-1]) < 0.05 * SVG_DPI / MM_PER_INCH):
            yield np.array(points, dtype=np.float64)


def _to_dies(shapes: list[tuple[Rings, str]], name: str) -> list[SheetImage]:
    """Make a die of every outermost outline; outlines within are its openings."""
    parts = shapely.get_parts(np.array([_area_of(rings, rule) for rings, rule in shapes], dtype=object))
    parts = parts[~shapely.is_empty(parts)]
    rings = [Polygon(part.exterior) for part in parts]
    holes = [Polygon(ring) for part in parts for ring in part.interiors]
    outer = [one for one in rings if not any(_is_within(one, other) for other in rings)]
    wholes = [one for one in outer if _narrow_side(one) >= LEAST_MM]
    images = [_die(whole, [one for one in [*rings, *holes] if _is_within(one, whole)]) for whole in wholes]
    if not images:
        raise DrawingError(f"{name} has no closed outline of a millimetre or more; join the ends of its paths.")
    return in_reading_order(images)


def _is_within(one: Polygon, other: Polygon) -> bool:
    return one is not other and bool(other.contains(one))


def _narrow_side(area: Polygon) -> float:
    left, top, right, bottom = area.bounds
    return float(min(right - left, bottom - top))


def _area_of(rings: Rings, rule: str) -> BaseGeometry:
    """Area that rings fill, by the even-odd or the nonzero rule (SVG 2, section 13.4.2).

    The rings part the plane into faces; a face is filled by how often the rings wind about a point of it.
    """
    if not rings:
        return Polygon()
    lines = shapely.union_all([shapely.LinearRing(ring) for ring in rings])
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(lines)))
    filled = []
    for face in faces:
        point = face.representative_point()
        turns = sum(_winding((point.x, point.y), ring) for ring in rings)
        if turns % 2 if rule == "evenodd" else turns:
            filled.append(face)
    return shapely.union_all(filled) if filled else Polygon()


def _winding(point: tuple[float, float], ring: NDArray[np.float64]) -> int:
    """How often a closed ring winds about a point."""
    x, y = point
    start, end = ring, np.roll(ring, -1, axis=0)
    side = (end[:, 0] - start[:, 0]) * (y - start[:, 1]) - (x - start[:, 0]) * (end[:, 1] - start[:, 1])
    up = (start[:, 1] <= y) & (end[:, 1] > y) & (side > 0)
    down = (start[:, 1] > y) & (end[:, 1] <= y) & (side < 0)
    return int(up.sum()) - int(down.sum())


def _die(whole: Polygon, openings: list[Polygon]) -> SheetImage:
    left, top, right, bottom = whole.bounds
    x, y = (left + right) / 2, (top + bottom) / 2

    def rings_of(area: BaseGeometry) -> tuple[tuple[tuple[float, float], ...], ...]:
        return tuple(
            tuple((round(px - x, 4), round(py - y, 4)) for px, py in ring)
            for ring in to_rings(shapely.simplify(area, OUTLINE_MM / 4))
        )

    size = (max(1, round((bottom - top) * PX_PER_MM)), max(1, round((right - left) * PX_PER_MM)))
    lines = shapely.union_all([one.exterior for one in (whole, *openings)])
    inked = fill(shapely.buffer(lines, 0.2), size, PX_PER_MM, left=left, top=top)
    return SheetImage(
        name="die",
        kind="die shape",
        cx=x,
        cy=y,
        width_mm=right - left,
        height_mm=bottom - top,
        outline=rings_of(whole)[0],
        pockets=tuple(ring for one in openings for ring in rings_of(one)),
        picture=encode_clean(np.where(inked, 255, 0).astype(np.uint8)),
    )


def _to_stamp(text: str, size: tuple[float, float], name: str) -> SheetImage:
    """Draw it at 600 dpi on white, and take it like an image on a scanned page."""
    wide = round(size[0] * 2 * PX_PER_MM)
    if wide * size[1] * 2 * PX_PER_MM > 150_000_000:
        raise DrawingError(f"{name} is {size[0]:.0f} × {size[1]:.0f} mm large; a stamp is far smaller.")
    try:
        png = resvg_py.svg_to_bytes(svg_string=text, dpi=SVG_DPI, width=wide, background="#ffffff", **FONTS)
    except ValueError:
        raise DrawingError(f"{name} cannot be drawn; export it again as plain SVG.") from None
    with Image.open(io.BytesIO(png)) as drawn:
        pixels = np.asarray(drawn.convert("RGB"))
    grey = bool((np.ptp(pixels.astype(np.int16), axis=-1) < 12).all())
    half = (round(size[0] * PX_PER_MM), round(size[1] * PX_PER_MM))
    small = cv2.resize(pixels[:, :, :1] if grey else pixels, half, interpolation=cv2.INTER_AREA)
    margin = 12
    shares = np.ones((half[1] + 2 * margin, half[0] + 2 * margin, 1 if grey else 3), np.float32)
    shares[margin:-margin, margin:-margin] = small.reshape(half[1], half[0], -1).astype(np.float32) / 255
    corner = (-margin / PX_PER_MM, -margin / PX_PER_MM)
    taken = take_image(shares, np.ones(shares.shape[:2], bool), corner, PX_PER_MM, ())
    if taken is None:
        raise DrawingError(f"{name} draws nothing that can be seen on white paper.")
    return in_reading_order([taken])[0]
