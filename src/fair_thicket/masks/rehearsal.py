"""The plan performed on simulated paper, and compared with the scene as it was composed.

Glossary
--------
ghost
    Ink where the scene has none: something behind printed over an image in front, for want of a mask.
halo
    Paper where the scene has ink: a mask that reaches beyond its image kept ink off what stands behind.
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass

import cv2
import msgspec
import numpy as np
import shapely

from fair_thicket.masks.timetable import Lying, Step, list_lyings, list_steps
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Impression
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.stash import Ring
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.inking import Ink, Paper, blank_paper, compose_inks, lay_inks, to_grey
from fair_thicket.shape.outline import Area
from fair_thicket.shape.raster import BoolArray

PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH
SEEN_STEP = 64
"""Grey levels (of 255) by which two pixels must differ to be told apart as line and paper."""
SEEN_MM2 = 0.03
"""A difference smaller than a full stop of fine print is not seen."""
SEEN_MM = 0.12
"""A difference that reaches less far from an edge is the softness of the edge itself (a pixel and a half)."""


class Difference(msgspec.Struct, frozen=True):
    """A place where the rehearsed paper is not the composed scene.

    Attributes
    ----------
    kind : str
        ``ghost`` or ``halo``.
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


@dataclass(frozen=True)
class Rehearsal:
    """What came of a rehearsal.

    Attributes
    ----------
    papers : tuple of (rows, columns) uint8
        The panel, grey 0..255, before the first press and after each.
    scene : (rows, columns) uint8
        The scene as composed.
    differences : tuple of Difference
    steps : tuple of Step
    """

    papers: tuple[Paper, ...]
    scene: Paper
    differences: tuple[Difference, ...]
    steps: tuple[Step, ...]


def rehearse(work: Work, pictures: Mapping[str, bytes], plan: MaskPlan, *, left_out: Collection[int] = ()) -> Rehearsal:
    """Perform a plan on simulated paper and compare the outcome with the composed scene.

    Parameters
    ----------
    work : Work
    pictures : mapping of picture name to PNG bytes
    plan : MaskPlan
        For exactly this work.
    left_out : indices of masks
        Masks that are forgotten, to see what would come of it.

    Raises
    ------
    PictureError
        When a stamp's picture is missing or damaged.

    Notes
    -----
    Grey paper at 300 dpi; ink multiplies where no mask lies. Each stamp meets only its own patch of the panel.
    """
    inks = lay_inks(work, pictures, REHEARSAL_DPI)
    lyings = [one for one in list_lyings(plan) if one.mask not in left_out]
    rim = work.card.mask_rim_mm
    mask_areas = {ink.piece: shapely.buffer(ink.area, rim, quad_segs=16) if rim else ink.area for ink in inks.values()}
    paper = blank_paper(work, REHEARSAL_DPI)
    papers = [to_grey(paper)]
    kept_off: dict[str, list[Lying]] = {}
    for p, press in enumerate(plan.presses):
        lying = [one for one in lyings if one.first <= p <= one.last]
        for key in press.impressions:
            ink = inks[key]
            near = [one for one in lying if mask_areas[one.impression].intersects(ink.area)]
            kept_off[key] = near
            covered = shapely.union_all([mask_areas[one.impression] for one in near]) if near else None
            paper[ink.window] *= np.where(ink.cover(covered), 1.0, ink.passing) if covered else ink.passing
        papers.append(to_grey(paper))
    scene = compose_inks(work, inks, REHEARSAL_DPI)
    differences = _find_differences(work, inks, mask_areas, kept_off, papers[-1], scene)
    return Rehearsal(tuple(papers), scene, differences, list_steps(work, plan))


def _find_differences(
    work: Work,
    inks: Mapping[str, Ink],
    mask_areas: Mapping[str, shapely.Geometry],
    kept_off: Mapping[str, list[Lying]],
    paper: Paper,
    scene: Paper,
) -> tuple[Difference, ...]:
    """Tell every visible difference by the pair of images it comes from."""
    change = paper.astype(np.int16) - scene
    if not (np.abs(change) >= SEEN_STEP).any():
        return ()
    found: list[Difference | None] = []
    order = [piece for piece in work.card.pieces if isinstance(piece, Impression)]
    places = {piece.id: index for index, piece in enumerate(order)}
    areas = {ink.piece: ink.area for ink in inks.values()}
    for ink in inks.values():
        at = places[ink.piece]
        seen = change[ink.window]
        inked = ink.passing < 1 - SEEN_STEP / 255 / 2
        extra, missing = inked & (seen <= -SEEN_STEP), inked & (seen >= SEEN_STEP)
        if extra.any():
            ahead = [one.id for one in order[at + 1 :] if one.on == order[at].on]
            fronts = [key for key in ahead if areas[key].intersects(ink.area)]
            found += [_measure("ghost", key, ink, areas[key], extra & ink.cover(areas[key])) for key in fronts]
        if missing.any():
            for key in {one.impression for one in kept_off[ink.key]}:
                own = ink.cover(areas[key])
                found.append(_measure("halo", key, ink, areas[key], missing & ink.cover(mask_areas[key]) & ~own))
    return tuple(
        sorted(
            (one for one in found if one is not None), key=lambda one: (one.kind, -one.length_mm, one.front, one.back)
        )
    )


def _measure(kind: str, front: str, ink: Ink, edge_of: Area, pixels: BoolArray) -> Difference | None:
    """Measure a set of differing pixels: reach from the front image's edge, length of line, area, places."""
    area = float(pixels.sum()) / PX_PER_MM**2
    if area < SEEN_MM2:
        return None
    inside = ink.cover(edge_of)
    to_edge = cv2.distanceTransform(np.asarray(inside if kind == "ghost" else ~inside, np.uint8), cv2.DIST_L2, 5)
    # the distance runs to the nearest pixel middle on the other side; half a pixel less is the edge itself
    width = (float(to_edge[pixels].max()) - 0.5) / PX_PER_MM
    if width < SEEN_MM:
        return None
    half_lines = cv2.distanceTransform(np.pad(pixels, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    line_width = max(4 * (float(half_lines[pixels].mean()) - 0.5), 1.0) / PX_PER_MM
    return Difference(
        kind, front, ink.piece, round(width, 3), round(area / line_width, 2), round(area, 3), _places(ink, pixels)
    )


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
