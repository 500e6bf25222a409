"""Ink on a panel: clean pictures turned into what they print, and the scene as composed.

Glossary
--------
transmittance
    What an inked patch lets through, 0 (black) to 1 (no ink); ink over ink multiplies.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from fair_thicket.model.card import Work, stamping_keys
from fair_thicket.model.errors import PictureError
from fair_thicket.model.pieces import Impression
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.outline import Area, turn_points
from fair_thicket.shape.raster import BoolArray, fill
from fair_thicket.shape.stack import stack

Paper = NDArray[np.uint8]


@dataclass(frozen=True)
class Ink:
    """An impression's print on a patch of the panel.

    Attributes
    ----------
    key : str
        Of the stamping: the piece's id, or a layer's.
    piece : str
    window : (slice, slice)
        Rows and columns of the panel.
    passing : (rows, columns) float32
        Transmittance.
    area : Polygon or MultiPolygon
        Footprint, mm.
    px_per_mm : float
    """

    key: str
    piece: str
    window: tuple[slice, slice]
    passing: NDArray[np.float32]
    area: Area
    px_per_mm: float

    def cover(self, area: shapely.Geometry) -> BoolArray:
        """Rasterise an area on this patch."""
        rows, columns = self.window
        return fill(
            area,
            (rows.stop - rows.start, columns.stop - columns.start),
            self.px_per_mm,
            left=columns.start / self.px_per_mm,
            top=rows.start / self.px_per_mm,
        )


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
        return np.asarray(decoded.astype(np.float32) / 255, np.float32)
    grey = cv2.cvtColor(decoded[:, :, :3], cv2.COLOR_BGR2GRAY).astype(np.float32) / 255
    if decoded.shape[2] == 3:
        return np.asarray(grey, np.float32)
    return np.asarray(1 - decoded[:, :, 3].astype(np.float32) / 255 * (1 - grey), np.float32)


def panel_pixels(work: Work, dpi: float) -> tuple[int, int]:
    """Rows and columns of the panel at a resolution."""
    width, height = work.card.panel
    return round(height * dpi / MM_PER_INCH), round(width * dpi / MM_PER_INCH)


def blank_paper(work: Work, dpi: float) -> NDArray[np.float32]:
    """White paper of the panel's size, (rows, columns) float32 of ones."""
    return np.ones(panel_pixels(work, dpi), np.float32)


def lay_inks(work: Work, pictures: Mapping[str, bytes], dpi: float) -> dict[str, Ink]:
    """Print every impression of a card on a patch of its own, a layered one layer by layer; by key of the stamping.

    Raises
    ------
    PictureError
        When a stamp's picture is missing or damaged.
    """
    decoded: dict[str, NDArray[np.float32]] = {}
    inks = {}
    areas = {leaf.piece.id: leaf.whole for leaf in stack(work) if isinstance(leaf.piece, Impression)}
    for piece in work.card.pieces:
        if not isinstance(piece, Impression):
            continue
        stamp = work.stash.find(piece.stamp)
        area = areas[piece.id]
        keys = stamping_keys(piece, stamp)
        parts = [_Part(stamp.picture, 0.0, 0.0, stamp.width_mm, stamp.height_mm)]
        if len(keys) > 1:
            parts = [_Part(one.picture, one.x, one.y, one.width_mm, one.height_mm) for one in stamp.layers]
        for key, part in zip(keys, parts, strict=True):
            if part.picture not in decoded:
                decoded[part.picture] = decode_picture(pictures.get(part.picture, b""))
            ink = _print(key, piece, part, decoded[part.picture], area, work.card.panel, dpi)
            inks[key] = _keep_within(ink) if piece.trim_to or piece.inked is not None else ink
    return inks


class _Part(NamedTuple):
    """What one rubber prints: its picture, and where its middle lies from the middle of the image, mm."""

    picture: str
    x: float
    y: float
    width_mm: float
    height_mm: float


def _print(
    key: str,
    piece: Impression,
    part: _Part,
    picture: NDArray[np.float32],
    area: Area,
    panel: tuple[float, float],
    dpi: float,
) -> Ink:
    """Turn and move a picture into its place; the window is clipped to the panel and may be empty."""
    middle_x, middle_y = turn_points([(part.x, part.y)], piece.angle_deg, piece.x, piece.y)[0].tolist()
    px_per_mm = dpi / MM_PER_INCH
    size = (round(panel[1] * px_per_mm), round(panel[0] * px_per_mm))
    corner = np.hypot(part.width_mm, part.height_mm) / 2 + 0.5
    low_x, high_x = (int(np.clip((middle_x + side * corner) * px_per_mm, 0, size[1])) for side in (-1, 1))
    low_y, high_y = (int(np.clip((middle_y + side * corner) * px_per_mm, 0, size[0])) for side in (-1, 1))
    window = (slice(low_y, high_y), slice(low_x, high_x))
    if low_x >= high_x or low_y >= high_y:
        return Ink(key, piece.id, window, np.ones((high_y - low_y, high_x - low_x), np.float32), area, px_per_mm)
    angle = np.radians(piece.angle_deg)
    cosine, sine = float(np.cos(angle)), float(np.sin(angle))
    rows, columns = picture.shape
    scale_x, scale_y = columns / part.width_mm, rows / part.height_mm
    # from a pixel's middle on the patch, through the panel in mm and the stamp's own mm, to a pixel of the picture
    left, top = (low_x + 0.5) / px_per_mm - middle_x, (low_y + 0.5) / px_per_mm - middle_y
    matrix = np.array(
        [
            [
                cosine * scale_x / px_per_mm,
                sine * scale_x / px_per_mm,
                (cosine * left + sine * top + part.width_mm / 2) * scale_x - 0.5,
            ],
            [
                -sine * scale_y / px_per_mm,
                cosine * scale_y / px_per_mm,
                (-sine * left + cosine * top + part.height_mm / 2) * scale_y - 0.5,
            ],
        ]
    )
    passing = cv2.warpAffine(
        picture,
        matrix,
        (high_x - low_x, high_y - low_y),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(1.0,),
    )
    return Ink(key, piece.id, window, np.asarray(passing, np.float32), area, px_per_mm)


def _keep_within(ink: Ink) -> Ink:
    """Ink only where the stamp was inked, and only within what it was masked to."""
    return replace(ink, passing=np.where(ink.cover(ink.area), ink.passing, np.float32(1.0)))


def compose(work: Work, pictures: Mapping[str, bytes], *, dpi: float = 300) -> Paper:
    """Picture all that is stamped on a card; see `compose_inks`. Glued pieces are left out (see `painting.paint`)."""
    return compose_inks(work, lay_inks(work, pictures, dpi), dpi)


def compose_inks(work: Work, inks: Mapping[str, Ink], dpi: float) -> Paper:
    """Picture what is stamped as it was composed: every image whole, interrupted by what stands in front of it.

    Returns
    -------
    (rows, columns) uint8
        Grey, white paper.
    """
    paper = blank_paper(work, dpi)
    for ink, fronts in _with_fronts(work, inks):
        paper[ink.window] *= np.where(ink.cover(fronts), 1.0, ink.passing) if fronts else ink.passing
    return to_grey(paper)


def _with_fronts(work: Work, inks: Mapping[str, Ink]) -> list[tuple[Ink, BaseGeometry | None]]:
    """Each stamping's ink with the union of the footprints in front of it that touch it."""
    paired: list[tuple[Ink, BaseGeometry | None]] = []
    order = [piece for piece in work.card.pieces if isinstance(piece, Impression)]
    places = {piece.id: index for index, piece in enumerate(order)}
    areas = {ink.piece: ink.area for ink in inks.values()}
    for ink in inks.values():
        at = places[ink.piece]
        ahead = (areas[one.id] for one in order[at + 1 :] if one.on == order[at].on)
        fronts = [area for area in ahead if area.intersects(ink.area)]
        paired.append((ink, shapely.union_all(fronts) if fronts else None))
    return paired


def to_grey(paper: NDArray[np.float32]) -> Paper:
    """Turn transmittance 0..1 into grey 0..255."""
    return np.asarray(np.rint(np.clip(paper, 0, 1) * 255), np.uint8)
