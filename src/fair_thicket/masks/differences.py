"""What differs between a rehearsed card and the card as composed, told by its cause.

Glossary
--------
ghost
    Ink where the scene has none: something behind printed over an image in front, for want of a mask.
spill
    Ink beyond the shape that a counter mask was to keep it in.
halo
    Paper where the scene has ink: a mask that reaches beyond its image kept ink off what stands behind.
skip
    Paper where the scene has ink, beside a pile of masks: the stamp bridges from the pile to the paper.
missing, extra, colour, order, place
    Not there; there and not wanted, or twice; in another colour; over what it belongs under; somewhere else.
unlike
    The finished card is not the composed one, and nothing that was done explains it.
"""

import math

import cv2
import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.inking import Paper
from fair_thicket.masks.tolerances import NEAR_PX
from fair_thicket.model.basics import Ring
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.raster import BoolArray, fill
from fair_thicket.shape.windows import Window

PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH
PX_PER_MM2 = PX_PER_MM**2
MOST_PLACES = 12
ROOM_MM = 1.0
"""Round a patch so much is looked at to find the edge that it reaches from."""


class Difference(msgspec.Struct, frozen=True):
    """A place where the rehearsed card is not the composed one.

    Attributes
    ----------
    kind : str
        See the glossary.
    front : str
        Id of the image whose edge or mask is concerned, or of what it is confused with; `back` itself where there is
        none; empty for the card itself.
    back : str
        Id of the piece whose ink or paper is there or missing.
    width_mm : float
        How far from the front image's edge it reaches; of what has no such edge the side of a square as large.
    length_mm : float
        Length of line concerned; 0 where it is no line.
    area_mm2 : float
    places : rings
        Where on the panel, mm.
    what : str
        ``ink``, ``colour`` (of an image, by hand), ``words`` or ``paper``.
    press : int
        Index of the press of the plan in which it happened; -1 for none.
    """

    kind: str
    front: str
    back: str
    width_mm: float
    length_mm: float
    area_mm2: float
    places: tuple[Ring, ...] = ()
    what: str = "ink"
    press: int = -1


def levels_apart(one: Paper, other: Paper) -> NDArray[np.uint8]:
    """Levels by which two pictures differ, in the channel that differs most; (rows, columns) uint8."""
    apart = cv2.split(cv2.absdiff(one, other))
    return np.asarray(cv2.max(cv2.max(apart[0], apart[1]), apart[2]), np.uint8)


def measure_by_edge(pixels: BoolArray, edge_of: shapely.Geometry, *, inward: bool) -> tuple[float, float]:
    """Reach of pixels of the panel from an area's edge, inward or outward, and the length of line concerned, mm.

    Parameters
    ----------
    pixels : (rows, columns) bool
        Some are set.
    """
    window = _box_of(pixels, round(ROOM_MM * PX_PER_MM))
    # the nearest edge of the front image may lie beside the pixels
    near = np.pad(pixels[window], round(8.0 * PX_PER_MM))
    left, top = window[1].start / PX_PER_MM - 8.0, window[0].start / PX_PER_MM - 8.0
    inside = fill(edge_of, near.shape, PX_PER_MM, left=left, top=top)
    width = reach_of(inside, near, inward=inward)
    half_lines = cv2.distanceTransform(np.pad(near, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    line_width = max(4 * (float(half_lines[near].mean()) - 0.5), 1.0) / PX_PER_MM
    return round(width, 3), round(area_of(pixels) / line_width, 2)


def area_of(pixels: BoolArray) -> float:
    """Area of pixels, mm2."""
    return float(np.count_nonzero(pixels)) / PX_PER_MM2


def side_of(pixels: BoolArray) -> float:
    """Side of a square as large as some pixels, mm."""
    return round(math.sqrt(area_of(pixels)), 3)


def reach_of(inside: BoolArray, pixels: BoolArray, *, inward: bool) -> float:
    """How far pixels reach from an area's edge, inward or outward, mm; pixels must not be empty."""
    to_edge = cv2.distanceTransform(np.asarray(inside if inward else ~inside, np.uint8), cv2.DIST_L2, 5)
    # the distance runs to the nearest pixel middle on the other side; half a pixel less is the edge itself
    return max(0.0, (float(to_edge[pixels].max()) - 0.5) / PX_PER_MM)


def patches_of(pixels: BoolArray) -> tuple[int, NDArray[np.int32]]:
    """Return how many patches pixels make, those nearer than a millimetre taken together, and their numbers from 1."""
    reach = np.ones((2 * NEAR_PX + 1, 2 * NEAR_PX + 1), np.uint8)
    count, labels = cv2.connectedComponents(cv2.dilate(pixels.astype(np.uint8), reach), connectivity=8)
    return count - 1, np.where(pixels, labels, 0).astype(np.int32)


def places_of(pixels: BoolArray) -> tuple[Ring, ...]:
    """Boxes round the places where pixels of the panel lie, those nearer than a millimetre taken together."""
    window = _box_of(pixels, 0)
    rows, columns = window
    reach = np.ones((2 * NEAR_PX + 1, 2 * NEAR_PX + 1), np.uint8)
    joined = cv2.dilate(np.pad(pixels[window], NEAR_PX).astype(np.uint8), reach)
    _, _, stats, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    boxes = []
    for x, y, width, height, _ in sorted(stats[1:].tolist(), key=lambda row: -row[4])[:MOST_PLACES]:
        left, top = (x - NEAR_PX + columns.start) / PX_PER_MM, (y - NEAR_PX + rows.start) / PX_PER_MM
        right, bottom = left + width / PX_PER_MM, top + height / PX_PER_MM
        left, top = max(left, 0.0), max(top, 0.0)
        right, bottom = min(right, pixels.shape[1] / PX_PER_MM), min(bottom, pixels.shape[0] / PX_PER_MM)
        boxes.append(((left, top), (right, top), (right, bottom), (left, bottom)))
    return tuple(boxes)


def _box_of(pixels: BoolArray, room: int) -> Window:
    """Return the window round pixels, with so many pixels of room, within the raster."""
    rows, columns = np.flatnonzero(pixels.any(axis=1)), np.flatnonzero(pixels.any(axis=0))
    return (
        slice(max(0, int(rows[0]) - room), int(rows[-1]) + 1 + room),
        slice(max(0, int(columns[0]) - room), int(columns[-1]) + 1 + room),
    )
