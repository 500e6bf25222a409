"""What differs between a rehearsed card and the card as composed, and what it comes from.

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
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import cv2
import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from fair_thicket.ink.inking import Ink, Paper, fronts_of
from fair_thicket.laid.stack import stack
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.outline import Area
from fair_thicket.shape.raster import BoolArray

PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH
SEEN_STEP = 64
"""Levels (of 255) by which two pixels must differ to be told apart as line and paper; less for a paler ink."""
ROUNDING = 2
"""Levels by which inks that multiply in another order may differ."""
SEEN_SHARE = 0.45
"""Share of an ink's own strength that must be there, or missing, to be seen."""
UNLIKE_STEP = 48
"""Levels by which the finished card must differ from the composed one, for a reason no mask explains, to be told."""
SEEN_MM2 = 0.03
"""A difference smaller than a full stop of fine print is not seen."""
SEEN_MM = 0.12
"""A difference that reaches less far from an edge is the softness of the edge itself (a pixel and a half)."""
ROOM_PX = round(6.0 * PX_PER_MM)
"""Widest rim and farthest slip together."""


class Difference(msgspec.Struct, frozen=True):
    """A place where the rehearsed paper is not the composed scene.

    Attributes
    ----------
    kind : str
        ``ghost``, ``spill``, ``halo``, ``skip``, or ``unlike``: the finished card is not the composed one, for a reason
        that no mask explains.
    front, back : str
        Impression whose edge or mask is concerned, and the one whose ink is there or missing.
    width_mm : float
        How far from the front image's edge it reaches.
    length_mm : float
        Length of line concerned.
    area_mm2 : float
    places : rings
        Where on the panel, mm.
    """

    kind: str
    front: str
    back: str
    width_mm: float
    length_mm: float
    area_mm2: float
    places: tuple[Ring, ...] = ()


@dataclass
class Kept:
    """What was kept off one stamping: by which masks, where in all, and beside which piles."""

    fronts: list[tuple[str, Area]] = field(default_factory=list)
    off: BoolArray | None = None
    skipped: BoolArray | None = None


def seen_step(ink: Ink) -> float:
    """Levels by which a picture must change for an ink to be seen."""
    strength = max([ink.strength, *(1 - min(tone) for _, tone, _ in ink.zones)])
    return min(SEEN_STEP, SEEN_SHARE * strength * 255)


def find_differences(
    work: Work,
    inks: Mapping[str, Ink],
    kept: Mapping[str, Kept],
    paper: Paper,
    scene: Paper,
    covers: Mapping[str, BaseGeometry],
) -> tuple[Difference, ...]:
    """Tell every difference that will be seen by the pair of images it comes from; `covers` are glued over surfaces."""
    if levels_apart(paper, scene).max(initial=0) <= ROUNDING:
        return ()
    found: list[Difference | None] = []
    fronts = fronts_of(work, inks)
    pieces = {piece.id: piece for piece in work.card.pieces}
    areas = {ink.piece: ink.area for ink in inks.values()}
    for ink in filter(_shows, inks.values()):
        extra, missing = _apart_where_inked(ink, paper, scene, covers.get(pieces[ink.piece].on))
        off = kept[ink.key].off if ink.key in kept else None
        if off is not None:  # what others printed here, or were kept off, is told of them
            extra &= ~off
            missing &= off
        if extra.any():
            found += _extra(ink, extra, fronts[ink.key], pieces[ink.piece].trim_to)
        if ink.key in kept and missing.any():
            found += _missing(ink, kept[ink.key], missing, areas)
    told = [one for one in found if one is not None]
    return tuple(sorted(told, key=lambda one: (one.kind, -one.length_mm, one.front, one.back)))


def _shows(ink: Ink) -> bool:
    return bool((ink.strength or ink.is_opaque) and ink.passing.size)


def _extra(ink: Ink, extra: BoolArray, fronts: Iterable[tuple[str, Area]], trim: str) -> list[Difference | None]:
    found = [measure("ghost", front, ink, area, extra & ink.cover(area)) for front, area in fronts]
    if ink.limit is not None:
        found.append(measure("spill", trim, ink, ink.limit, extra & ~ink.cover(ink.limit)))
    return found


def _apart_where_inked(ink: Ink, paper: Paper, scene: Paper, cover: BaseGeometry | None) -> tuple[BoolArray, BoolArray]:
    """Tell where an ink itself prints, and nothing is glued over it, and the paper shows more or less of it."""
    inked = ink.passing < 1 - SEEN_STEP / 255 / 2
    if cover is not None and cover.intersects(ink.area):
        inked &= ~ink.cover(cover)
    extra, missing = compare_levels(ink, paper[ink.window], scene[ink.window])
    return inked & extra, inked & missing


def compare_levels(ink: Ink, paper: Paper, scene: Paper) -> tuple[BoolArray, BoolArray]:
    """Tell where a picture shows more of an ink than another, and where less, so that it is seen.

    Notes
    -----
    Ink that mixes makes its ground darker. Ink that covers brings its ground nearer to its own tone.
    """
    if ink.is_opaque:
        tone = np.array(ink.tone, np.float32) * 255
        nearer = np.abs(scene - tone).max(axis=2) - np.abs(paper - tone).max(axis=2)
        return nearer >= SEEN_STEP, nearer <= -SEEN_STEP
    red, green, blue = cv2.split(paper.astype(np.int16) - scene)
    step = seen_step(ink)
    extra: BoolArray = np.minimum(np.minimum(red, green), blue) <= -step
    missing: BoolArray = np.maximum(np.maximum(red, green), blue) >= step
    return extra, missing


def levels_apart(one: Paper, other: Paper) -> NDArray[np.uint8]:
    """Levels by which two pictures differ, in the channel that differs most; (rows, columns) uint8."""
    apart = cv2.split(cv2.absdiff(one, other))
    return np.asarray(cv2.max(cv2.max(apart[0], apart[1]), apart[2]), np.uint8)


def find_unlike(work: Work, finished: Paper, scene: Paper, explained: BoolArray) -> tuple[Difference, ...]:
    """Find where the finished card is not the composed one though every mask did its work.

    Parameters
    ----------
    explained : (rows, columns) bool
        Where the stamping is told to differ already.
    """
    unlike = ((levels_apart(finished, scene) > UNLIKE_STEP) & ~explained).astype(np.uint8)
    unlike = cv2.morphologyEx(unlike, cv2.MORPH_OPEN, np.ones((2, 2), np.uint8))
    if not unlike.any():
        return ()
    joined = cv2.dilate(unlike, np.ones((13, 13), np.uint8))
    leaves = stack(work)
    found: dict[str, list[Ring]] = {}
    areas: dict[str, float] = {}
    count, labels, stats, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    for number in range(1, count):
        here = (labels == number) & (unlike > 0)
        area = float(here.sum()) / PX_PER_MM**2
        if area < SEEN_MM2:
            continue
        row, column = np.argwhere(here)[0].tolist()
        spot = shapely.Point((column + 0.5) / PX_PER_MM, (row + 0.5) / PX_PER_MM)
        key = next((leaf.piece.id for leaf in reversed(leaves) if leaf.whole.distance(spot) < SEEN_MM), "")
        left, top, wide, high, _ = (value / PX_PER_MM for value in stats[number].tolist())
        right, bottom = left + wide, top + high
        found.setdefault(key, []).append(((left, top), (right, top), (right, bottom), (left, bottom)))
        areas[key] = areas.get(key, 0.0) + area
    return tuple(
        Difference("unlike", key, key, round(np.sqrt(areas[key]), 3), 0.0, round(areas[key], 3), tuple(found[key]))
        for key in sorted(found)
    )


def _missing(ink: Ink, kept: Kept, missing: BoolArray, areas: Mapping[str, Area]) -> list[Difference | None]:
    found: list[Difference | None] = []
    for front, mask in dict(kept.fronts).items():
        own = ink.cover(areas[front])
        found.append(measure("halo", front, ink, areas[front], missing & ink.cover(mask) & ~own))
    if kept.skipped is not None and (missing & kept.skipped).any():
        skipped = missing & kept.skipped
        nearest = min(kept.fronts, key=lambda entry: _distance_to(ink, entry[1], skipped))
        found.append(measure("skip", nearest[0], ink, nearest[1], skipped))
    return found


def _distance_to(ink: Ink, area: Area, pixels: BoolArray) -> float:
    away = cv2.distanceTransform((~ink.cover(area)).astype(np.uint8), cv2.DIST_L2, 3)
    return float(away[pixels].mean())


def measure(kind: str, front: str, ink: Ink, edge_of: Area, pixels: BoolArray) -> Difference | None:
    """Measure a set of differing pixels: reach from the front image's edge, length of line, area, places."""
    area = float(pixels.sum()) / PX_PER_MM**2
    if area < SEEN_MM2:
        return None
    # the nearest edge of the front image may lie beside the ink's own patch
    inside, spread = ink.grown(ROOM_PX).cover(edge_of), np.pad(pixels, ROOM_PX)
    width = reach_of(inside, spread, inward=kind == "ghost")
    if width < SEEN_MM:
        return None
    half_lines = cv2.distanceTransform(np.pad(pixels, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    line_width = max(4 * (float(half_lines[pixels].mean()) - 0.5), 1.0) / PX_PER_MM
    return Difference(
        kind, front, ink.piece, round(width, 3), round(area / line_width, 2), round(area, 3), _places(ink, pixels)
    )


def reach_of(inside: BoolArray, pixels: BoolArray, *, inward: bool) -> float:
    """How far pixels reach from an area's edge, inward or outward, mm; pixels must not be empty."""
    to_edge = cv2.distanceTransform(np.asarray(inside if inward else ~inside, np.uint8), cv2.DIST_L2, 5)
    # the distance runs to the nearest pixel middle on the other side; half a pixel less is the edge itself
    return (float(to_edge[pixels].max()) - 0.5) / PX_PER_MM


def _places(ink: Ink, pixels: BoolArray) -> tuple[Ring, ...]:
    """Boxes round the places where pixels lie, those nearer than a millimetre taken together, largest first."""
    reach = np.ones((13, 13), np.uint8)
    joined = cv2.dilate(pixels.astype(np.uint8), reach)
    _, _, stats, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    rows, columns = ink.window
    boxes = []
    for x, y, width, height, _ in sorted(stats[1:].tolist(), key=lambda row: -row[4])[:12]:
        left, top = (x + columns.start) / PX_PER_MM, (y + rows.start) / PX_PER_MM
        right, bottom = left + width / PX_PER_MM, top + height / PX_PER_MM
        boxes.append(((left, top), (right, top), (right, bottom), (left, bottom)))
    return tuple(boxes)
