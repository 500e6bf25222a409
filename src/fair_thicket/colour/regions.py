"""Regions of an image: the paper that its lines close, small gaps in a line bridged as the eye does.

Glossary
--------
line
    Ink of the image's own drawing.
gap
    A place where a line is broken: it ends, and goes on, or meets another, a little further.
bridge
    What closes a gap. It is no ink: whoever colours goes up to it from both sides.
leak
    Two regions taken for one because a gap between them was not bridged.
sliver
    A region too small to be coloured for itself.

Notes
-----
The outline of an image closes what its lines leave open (`intake.silhouette`). Within it the leak rule holds: an end of
a line is joined to what lies ahead of it within 65 degrees of its way, over at most 1.2 mm where another line ends
toward it, over at most 0.8 mm where it runs into the side of a line. Bridges that part off nothing, or a sliver, change
nothing.
"""

import math
from typing import NamedTuple

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from fair_thicket.colour.thinning import End, find_ends
from fair_thicket.shape.outline import Area, only_areas
from fair_thicket.shape.raster import grow_labels

Floats = NDArray[np.float32]
Bool = NDArray[np.bool_]
Labels = NDArray[np.int32]
LINE = 0.45
"""Ink of this share of its full strength is line, less is paper."""
END_GAP_MM, SIDE_GAP_MM = 1.2, 0.8
AHEAD_DEG, RAYS = 65.0, 27
FACING_MM = 0.8
"""What is met is another line's end when that is no farther off."""
BACK_MM = 0.8
"""The way of a line is seen over this length."""
LEAST_MM2 = 0.5
"""Smaller regions are slivers (our own guess: the tip of a marker is 0.6 mm wide and more)."""
THIN_MM = 0.15
"""So is what is nowhere wider than twice this."""
SIMPLE_PX = 0.35
MOST_BARE = 0.1
"""No more of a region's rim than this is closed by the image's outline alone."""


class Regions(NamedTuple):
    """Regions of an image.

    Attributes
    ----------
    labels : (rows, columns) int32
        Number of the region that a pixel's paper belongs to, from 1, in reading order; 0 for lines and beyond.
    areas : tuple of areas
        Of each, mm from the picture's top left corner.
    """

    labels: Labels
    areas: tuple[shapely.Polygon | shapely.MultiPolygon, ...]


def find_regions(ink: Floats, px_per_mm: float, body: Bool | None = None) -> Regions:
    """Find the regions of an image.

    Parameters
    ----------
    ink : (rows, columns) float32, 0..1
        How much ink there is, of its full strength.
    px_per_mm : float
    body : (rows, columns) bool or None
        What the image's outline holds: its edge closes regions where no line does, at an open tail. What lines close
        beside it is a region all the same.

    Notes
    -----
    Beyond the picture is paper, and no region. What is smaller than 0.5 mm2, or nowhere 0.3 mm wide, is joined to the
    neighbour behind a bridge, or left out.
    """
    lines = np.pad(np.asarray(ink) >= LINE, 1)
    bridges = _bridge(lines, px_per_mm)
    edge = _edge_of(np.pad(body, 1)) & ~lines if body is not None else np.zeros_like(lines)
    bridges |= edge
    _, labels = cv2.connectedComponents((~(lines | bridges)).astype(np.uint8), connectivity=4, ltype=cv2.CV_32S)
    outside = np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))
    outside = np.union1d(outside, _mostly_open(labels, edge))
    labels = _without_slivers(np.asarray(labels, np.int32), outside, bridges, px_per_mm)
    labels = _in_reading_order(labels[1:-1, 1:-1], px_per_mm)
    areas = tuple(
        area_of(labels[window] == number, px_per_mm, corner=(window[1].start, window[0].start))
        for number, window in enumerate(_windows(labels), 1)
    )
    return Regions(labels, areas)


def _edge_of(body: Bool) -> Bool:
    """Return the outermost pixels of a body."""
    inner = cv2.erode(body.astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3)), borderValue=0)
    return np.asarray(body & (inner == 0), bool)


def _mostly_open(labels: Labels, edge: Bool) -> NDArray[np.int32]:
    """Return the regions that an outline closes for the most part, not lines: paper between two antennae."""
    if not edge.any():
        return np.zeros(0, np.int32)
    count, around = int(labels.max()) + 1, np.ones((3, 3), np.uint8)
    beside = (labels > 0) & (cv2.dilate((labels == 0).astype(np.uint8), around) > 0)
    bare = (labels > 0) & (cv2.dilate(edge.astype(np.uint8), around) > 0)
    rims = np.bincount(labels[beside], minlength=count)
    return np.flatnonzero(np.bincount(labels[bare], minlength=count) > MOST_BARE * np.maximum(rims, 1)).astype(np.int32)


def _windows(labels: Labels) -> list[tuple[slice, slice]]:
    """Window of every region, in the order of their numbers."""
    places = np.flatnonzero(labels)
    numbers = labels.ravel()[places]
    order = np.argsort(numbers, kind="stable")
    starts = np.flatnonzero(np.diff(numbers[order], prepend=0))
    if not len(starts):
        return []
    rows, columns = np.divmod(places[order], labels.shape[1])
    ends = [
        edge.tolist()
        for at in (rows, columns)
        for edge in (np.minimum.reduceat(at, starts), np.maximum.reduceat(at, starts))
    ]
    return [(slice(top, bottom + 1), slice(left, right + 1)) for top, bottom, left, right in zip(*ends, strict=True)]


def area_of(mask: Bool, px_per_mm: float, *, corner: tuple[int, int] = (0, 0)) -> Area:
    """Area of some pixels, their outer edges, mm from the picture's top left corner.

    Parameters
    ----------
    mask : (rows, columns) bool
        A window of the picture.
    corner : (int, int)
        Left and top of the window, pixels.
    """
    pixels = mask.view(np.uint8)
    left, top, width, height = cv2.boundingRect(pixels)
    patch = np.pad(pixels[top : top + height, left : left + width], 1)
    contours, tree = cv2.findContours(patch, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    whole: list[BaseGeometry] = []
    holes: list[BaseGeometry] = []
    for points, (_, _, _, parent) in zip(contours, tree[0], strict=True):
        ring = points.reshape(-1, 2).astype(np.float64)
        form = shapely.Polygon(ring) if len(ring) > 2 else shapely.LineString(np.repeat(ring, 2, axis=0)[:2])
        (holes if parent >= 0 else whole).append(form)
    # contours run through the middles of pixels: those of a hole through pixels that are not in it
    grown = shapely.union_all(shapely.buffer(whole, 0.5, join_style="mitre", cap_style="square"))
    if holes:
        grown = shapely.difference(grown, shapely.union_all(shapely.buffer(holes, -0.5, join_style="mitre")))
    off = np.array([corner[0] + left - 0.5, corner[1] + top - 0.5])
    return only_areas(shapely.transform(shapely.simplify(grown, SIMPLE_PX), lambda points: (points + off) / px_per_mm))


# -- gaps -----------------------------------------------------------------------------------------------------------


def _bridge(lines: Bool, px_per_mm: float) -> Bool:
    """Bridge gaps in lines, one pixel wide."""
    drawn = np.zeros(lines.shape, np.uint8)
    ends = find_ends(lines, back_px=BACK_MM * px_per_mm)
    tips = np.array([end.at for end in ends], np.float64).reshape(-1, 2)
    for end in ends:
        met = _look_ahead(lines, end, END_GAP_MM * px_per_mm)
        if met is None:
            continue
        gap, (row, column) = met
        if gap <= SIDE_GAP_MM * px_per_mm or any(
            _faces(ends[index], end)
            for index in np.flatnonzero(np.hypot(*(tips - (row, column)).T) <= FACING_MM * px_per_mm).tolist()
        ):
            cv2.line(drawn, end.at[::-1], (column, row), 1, 1, cv2.LINE_8)
    return (drawn > 0) & ~lines


def _look_ahead(lines: Bool, end: End, most_px: float) -> tuple[float, tuple[int, int]] | None:
    """Find the nearest line ahead of an end: the length of paper between, pixels, and where it is met."""
    turns = np.radians(np.linspace(-AHEAD_DEG, AHEAD_DEG, RAYS))
    down, right = end.way
    cosine, sine = np.cos(turns), np.sin(turns)
    ways = np.stack([down * cosine + right * sine, right * cosine - down * sine], axis=1)
    steps = np.arange(1, most_px + 1, 0.5)
    spots = np.rint(np.array(end.at) + ways[:, None, :] * steps[None, :, None]).astype(np.int64)
    rows, columns = np.clip(spots[..., 0], 0, lines.shape[0] - 1), np.clip(spots[..., 1], 0, lines.shape[1] - 1)
    met = lines[rows, columns] & ~_is_own(lines, end.at, (rows, columns), math.ceil(most_px) + 2)
    first = met.argmax(axis=1)
    is_met = met[np.arange(len(ways)), first]
    cost = np.where(is_met, steps[first] * (1 + 0.5 * (turns / turns[-1]) ** 2), np.inf)
    ray = int(cost.argmin())
    if not is_met[ray]:
        return None
    return float(steps[first[ray]]), (int(rows[ray, first[ray]]), int(columns[ray, first[ray]]))


def _is_own(lines: Bool, at: tuple[int, int], places: tuple[NDArray[np.int64], NDArray[np.int64]], reach: int) -> Bool:
    """Tell which places hang together with a line's end round about: its own ragged corners."""
    top, left = max(at[0] - reach, 0), max(at[1] - reach, 0)
    window = lines[top : at[0] + reach + 1, left : at[1] + reach + 1]
    _, labels = cv2.connectedComponents(window.astype(np.uint8), connectivity=8)
    rows, columns = places[0] - top, places[1] - left
    inside = (rows >= 0) & (rows < labels.shape[0]) & (columns >= 0) & (columns < labels.shape[1])
    own = labels[rows.clip(0, labels.shape[0] - 1), columns.clip(0, labels.shape[1] - 1)]
    return np.asarray(inside & (own == labels[at[0] - top, at[1] - left]), bool)


def _faces(other: End, end: End) -> bool:
    """Whether another line's end runs toward this one."""
    if other is end:
        return False
    toward = (end.at[0] - other.at[0], end.at[1] - other.at[1])
    length = math.hypot(*toward)
    return length > 0 and (toward[0] * other.way[0] + toward[1] * other.way[1]) / length > 0.4


# -- slivers --------------------------------------------------------------------------------------------------------


def _without_slivers(labels: Labels, outside: NDArray[np.int32], bridges: Bool, px_per_mm: float) -> Labels:
    """Join slivers to the neighbour behind a bridge, leave others out, and give bridges back to their regions."""
    count = int(labels.max()) + 1
    sizes = np.bincount(labels.ravel(), minlength=count)
    deep = cv2.distanceTransform((labels > 0).astype(np.uint8), cv2.DIST_L2, 3)
    deepest = np.zeros(count, np.float32)
    np.maximum.at(deepest, labels.ravel(), deep.ravel())
    is_sliver = (sizes < LEAST_MM2 * px_per_mm**2) | (deepest < THIN_MM * px_per_mm)
    goes_to = np.arange(count, dtype=np.int32)
    is_no_region = is_sliver.copy()
    is_no_region[outside] = True
    goes_to[is_no_region] = 0
    for sliver, neighbour in _pairs_over(labels, bridges):
        if is_sliver[sliver] and not is_no_region[neighbour]:
            goes_to[sliver] = neighbour
    goes_to[outside] = 0
    joined = goes_to[labels]
    near = grow_labels(np.asarray(joined, np.int32), 2.0)
    return np.where(bridges, near, joined).astype(np.int32)


def _pairs_over(labels: Labels, bridges: Bool) -> set[tuple[int, int]]:
    """Pairs of regions that lie on two sides of a bridge."""
    found = set()
    grown = cv2.dilate(labels.astype(np.float32), np.ones((3, 3), np.uint8))
    shrunk = cv2.erode(np.where(labels > 0, labels, 1 << 20).astype(np.float32), np.ones((3, 3), np.uint8))
    for high, low in zip(grown[bridges].astype(int).tolist(), shrunk[bridges].astype(int).tolist(), strict=True):
        if 0 < low < high < 1 << 20:
            found |= {(low, high), (high, low)}
    return found


def _in_reading_order(labels: Labels, px_per_mm: float) -> Labels:
    """Return regions numbers from the top left: in bands of 3 mm, each from the left."""
    sizes = np.bincount(labels.ravel())
    if len(sizes) < 2:
        return labels
    rows = np.repeat(np.arange(labels.shape[0], dtype=np.float64), labels.shape[1])
    columns = np.tile(np.arange(labels.shape[1], dtype=np.float64), labels.shape[0])
    numbers = np.flatnonzero(sizes)
    numbers = numbers[numbers > 0]
    middles = [np.bincount(labels.ravel(), weights=at)[numbers] / sizes[numbers] for at in (rows, columns)]
    band = np.round(middles[0] / px_per_mm / 3)
    goes_to = np.zeros(len(sizes), np.int32)
    goes_to[numbers[np.lexsort((middles[1], band))]] = np.arange(1, len(numbers) + 1)
    return goes_to[labels]
