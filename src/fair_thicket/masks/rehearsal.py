"""The plan performed on simulated paper, and compared with the scene as it was composed.

Glossary
--------
ghost
    Ink where the scene has none: something behind printed over an image in front, for want of a mask.
halo
    Paper where the scene has ink: a mask that reaches beyond its image kept ink off what stands behind.
transmittance
    What an inked patch lets through, 0 (black) to 1 (no ink); ink over ink multiplies.
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any

import cv2
import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.masks.timetable import Lying, Step, list_lyings, list_steps
from fair_thicket.model.card import Impression, Work
from fair_thicket.model.errors import PictureError
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.stash import Ring, Stamp
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.outline import Area, footprint
from fair_thicket.shape.raster import BoolArray, fill

Paper = NDArray[np.uint8]
PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH
SEEN_STEP = 64
"""Grey levels (of 255) by which two pixels must differ to be told apart as line and paper."""
SEEN_MM2 = 0.03
"""A difference smaller than a full stop of fine print is not seen."""

__all__ = ["Difference", "Paper", "Rehearsal", "Step", "compose", "list_steps", "rehearse"]


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


@dataclass(frozen=True)
class _Ink:
    """An impression's print on a patch of the panel.

    Attributes
    ----------
    key : str
    window : (slice, slice)
        Rows and columns of the panel.
    passing : (rows, columns) float32
        Transmittance.
    area : Polygon or MultiPolygon
        Footprint, mm.
    """

    key: str
    window: tuple[slice, slice]
    passing: NDArray[np.float32]
    area: Area

    def cover(self, area: shapely.Geometry) -> BoolArray:
        """Rasterise an area on this patch."""
        rows, columns = self.window
        return fill(area, (rows.stop - rows.start, columns.stop - columns.start), PX_PER_MM,
                    left=columns.start / PX_PER_MM, top=rows.start / PX_PER_MM)


def decode_picture(data: bytes) -> NDArray[np.float32]:
    """Turn a clean picture (PNG with transparency) into transmittance, (rows, columns) float32 0..1.

    Raises
    ------
    PictureError
        When the bytes are no picture.
    """
    decoded: Any = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED) if data else None
    if decoded is None:
        raise PictureError("A stamp's picture is damaged; scan the stamp again.")
    if decoded.ndim == 2:
        return np.asarray(decoded, np.float32) / 255
    grey = cv2.cvtColor(decoded[:, :, :3], cv2.COLOR_BGR2GRAY).astype(np.float32) / 255
    if decoded.shape[2] == 3:
        return np.asarray(grey, np.float32)
    return np.asarray(1 - decoded[:, :, 3].astype(np.float32) / 255 * (1 - grey), np.float32)


def panel_pixels(work: Work) -> tuple[int, int]:
    """Rows and columns of the rehearsed panel."""
    width, height = work.card.panel
    return round(height * PX_PER_MM), round(width * PX_PER_MM)


def _lay_inks(work: Work, pictures: Mapping[str, bytes]) -> dict[str, _Ink]:
    decoded: dict[str, NDArray[np.float32]] = {}
    inks = {}
    for piece in work.card.pieces:
        stamp = work.stash.find(piece.stamp)
        if stamp.picture not in decoded:
            decoded[stamp.picture] = decode_picture(pictures.get(stamp.picture, b""))
        inks[piece.id] = _print(piece, stamp, decoded[stamp.picture], panel_pixels(work))
    return inks


def _print(piece: Impression, stamp: Stamp, picture: NDArray[np.float32], size: tuple[int, int]) -> _Ink:
    """Turn and move a picture into its place; the window is clipped to the panel and may be empty."""
    area = footprint(piece, stamp)
    corner = np.hypot(stamp.width_mm, stamp.height_mm) / 2 + 0.5
    low_x, high_x = (int(np.clip((piece.x + side * corner) * PX_PER_MM, 0, size[1])) for side in (-1, 1))
    low_y, high_y = (int(np.clip((piece.y + side * corner) * PX_PER_MM, 0, size[0])) for side in (-1, 1))
    window = (slice(low_y, high_y), slice(low_x, high_x))
    if low_x >= high_x or low_y >= high_y:
        return _Ink(piece.id, window, np.ones((high_y - low_y, high_x - low_x), np.float32), area)
    angle = np.radians(piece.angle_deg)
    cosine, sine = float(np.cos(angle)), float(np.sin(angle))
    rows, columns = picture.shape
    scale_x, scale_y = columns / stamp.width_mm, rows / stamp.height_mm
    # from a pixel's middle on the patch, through the panel in mm and the stamp's own mm, to a pixel of the picture
    left, top = (low_x + 0.5) / PX_PER_MM - piece.x, (low_y + 0.5) / PX_PER_MM - piece.y
    matrix = np.array([
        [cosine * scale_x / PX_PER_MM, sine * scale_x / PX_PER_MM,
         (cosine * left + sine * top + stamp.width_mm / 2) * scale_x - 0.5],
        [-sine * scale_y / PX_PER_MM, cosine * scale_y / PX_PER_MM,
         (-sine * left + cosine * top + stamp.height_mm / 2) * scale_y - 0.5],
    ])
    passing = cv2.warpAffine(picture, matrix, (high_x - low_x, high_y - low_y),
                             flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                             borderMode=cv2.BORDER_CONSTANT, borderValue=(1.0,))
    return _Ink(piece.id, window, np.asarray(passing, np.float32), area)


def compose(work: Work, pictures: Mapping[str, bytes]) -> Paper:
    """Picture the scene as composed: every image whole, interrupted by what stands in front of it.

    Returns
    -------
    (rows, columns) uint8
        Grey at 300 dpi, white paper.
    """
    return _compose(work, _lay_inks(work, pictures))


def _compose(work: Work, inks: Mapping[str, _Ink]) -> Paper:
    paper = np.ones(panel_pixels(work), np.float32)
    for ink, fronts in _with_fronts(work, inks):
        paper[ink.window] *= np.where(ink.cover(fronts), 1.0, ink.passing) if fronts else ink.passing
    return _to_grey(paper)


def _with_fronts(work: Work, inks: Mapping[str, _Ink]) -> list[tuple[_Ink, Area | None]]:
    """Each impression's ink with the union of the footprints in front of it that touch it."""
    paired: list[tuple[_Ink, Area | None]] = []
    pieces = work.card.pieces
    for index, piece in enumerate(pieces):
        ink = inks[piece.id]
        fronts = [inks[other.id].area for other in pieces[index + 1:] if inks[other.id].area.intersects(ink.area)]
        paired.append((ink, shapely.union_all(fronts) if fronts else None))
    return paired


def _to_grey(paper: NDArray[np.float32]) -> Paper:
    return np.asarray(np.rint(np.clip(paper, 0, 1) * 255), np.uint8)


def rehearse(work: Work, pictures: Mapping[str, bytes], plan: MaskPlan, *,
             left_out: Collection[int] = ()) -> Rehearsal:
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
    inks = _lay_inks(work, pictures)
    lyings = [one for one in list_lyings(plan) if one.mask not in left_out]
    rim = work.card.mask_rim_mm
    mask_areas = {key: shapely.buffer(ink.area, rim, quad_segs=16) if rim else ink.area for key, ink in inks.items()}
    paper = np.ones(panel_pixels(work), np.float32)
    papers = [_to_grey(paper)]
    kept_off: dict[str, list[Lying]] = {}
    for p, press in enumerate(plan.presses):
        lying = [one for one in lyings if one.first <= p <= one.last]
        for key in press.impressions:
            ink = inks[key]
            near = [one for one in lying if mask_areas[one.impression].intersects(ink.area)]
            kept_off[key] = near
            covered = shapely.union_all([mask_areas[one.impression] for one in near]) if near else None
            paper[ink.window] *= np.where(ink.cover(covered), 1.0, ink.passing) if covered else ink.passing
        papers.append(_to_grey(paper))
    scene = _compose(work, inks)
    differences = _find_differences(work, inks, mask_areas, kept_off, papers[-1], scene)
    return Rehearsal(tuple(papers), scene, differences, list_steps(work, plan))


def _find_differences(work: Work, inks: Mapping[str, _Ink], mask_areas: Mapping[str, shapely.Geometry],
                      kept_off: Mapping[str, list[Lying]], paper: Paper, scene: Paper) -> tuple[Difference, ...]:
    """Tell every visible difference by the pair of images it comes from."""
    change = paper.astype(np.int16) - scene
    if not (np.abs(change) >= SEEN_STEP).any():
        return ()
    found: list[Difference | None] = []
    pieces = work.card.pieces
    for index, piece in enumerate(pieces):
        ink = inks[piece.id]
        seen = change[ink.window]
        inked = ink.passing < 1 - SEEN_STEP / 255 / 2
        extra, missing = inked & (seen <= -SEEN_STEP), inked & (seen >= SEEN_STEP)
        if extra.any():
            fronts = [other.id for other in pieces[index + 1:] if inks[other.id].area.intersects(ink.area)]
            found += [_measure("ghost", key, ink, inks[key].area, extra & ink.cover(inks[key].area)) for key in fronts]
        if missing.any():
            for key in {one.impression for one in kept_off[piece.id]}:
                own = ink.cover(inks[key].area)
                found.append(_measure("halo", key, ink, inks[key].area, missing & ink.cover(mask_areas[key]) & ~own))
    return tuple(sorted((one for one in found if one is not None),
                        key=lambda one: (one.kind, -one.length_mm, one.front, one.back)))


def _measure(kind: str, front: str, ink: _Ink, edge_of: Area, pixels: BoolArray) -> Difference | None:
    """Measure a set of differing pixels: reach from the front image's edge, length of line, area, places."""
    area = float(pixels.sum()) / PX_PER_MM**2
    if area < SEEN_MM2:
        return None
    inside = ink.cover(edge_of)
    to_edge = cv2.distanceTransform(np.asarray(inside if kind == "ghost" else ~inside, np.uint8), cv2.DIST_L2, 5)
    # the distance runs to the nearest pixel middle on the other side; half a pixel less is the edge itself
    width = (float(to_edge[pixels].max()) - 0.5) / PX_PER_MM
    half_lines = cv2.distanceTransform(np.pad(pixels, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    line_width = max(4 * (float(half_lines[pixels].mean()) - 0.5), 1.0) / PX_PER_MM
    return Difference(kind, front, ink.key, round(width, 3), round(area / line_width, 2), round(area, 3),
                      _places(ink, pixels))


def _places(ink: _Ink, pixels: BoolArray) -> tuple[Ring, ...]:
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
