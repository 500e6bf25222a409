"""Where the page lies in the scan, how it is turned, and how bright its paper is everywhere.

Glossary
--------
scan pixels
    Pixels of the picture as read.
page mm
    Millimetres on the page from its top left corner, the skew taken out.
lid
    The inside of the scanner's lid, seen round a page that is smaller than the glass.
"""

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.model.units import MM_PER_INCH

Grey = NDArray[np.uint8]
FloatImage = NDArray[np.float32]
LOOK_DPI = 75.0
MOST_SKEW_DEG = 12.0
LID_STEP = 10
"""Grey levels by which a lid must differ from the paper to be told from it."""


@dataclass(frozen=True)
class PagePlace:
    """The page in the scan.

    Attributes
    ----------
    width_mm, height_mm : float
    skew_deg : float
        Clockwise as seen.
    skew_from : str
        ``edges``, ``lines`` or ``none``.
    origin : (float, float)
        The page's top left corner in scan pixels.
    """

    width_mm: float
    height_mm: float
    skew_deg: float
    skew_from: str
    origin: tuple[float, float]

    def to_scan(self, px_per_mm: float) -> NDArray[np.float64]:
        """Affine matrix (2, 3) from page mm to scan pixels."""
        angle = math.radians(self.skew_deg)
        cosine, sine = math.cos(angle) * px_per_mm, math.sin(angle) * px_per_mm
        return np.array([[cosine, -sine, self.origin[0]], [sine, cosine, self.origin[1]]])


def find_page(grey: Grey, dpi: float) -> PagePlace:
    """Find the page in a scan.

    Parameters
    ----------
    grey : (rows, columns) uint8
    dpi : float
        1.0 gives sizes in inches of pixels: see `sheet.py`, which uses it when only the sheet's size is known.

    Notes
    -----
    Paper is told from the lid by its grey; straight lines are fitted to the border between them, leaving out what
    lies on the scan's own frame. Without a border the skew is read from the straight lines of the images, and the page
    is the whole scan turned about its middle.
    """
    scale = min(1.0, 900.0 / max(grey.shape))
    small = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else grey
    edges = _find_edges(np.asarray(small, np.uint8))
    rows, columns = grey.shape
    px_per_mm = dpi / MM_PER_INCH
    if edges is not None:
        skew, box = edges
        left, top, right, bottom = (value / scale for value in box)
        angle = math.radians(skew)
        cosine, sine = math.cos(angle), math.sin(angle)
        # the box is in axes turned with the page; its corner goes back to scan pixels
        origin = (left * cosine - top * sine, left * sine + top * cosine)
        return PagePlace((right - left) / px_per_mm, (bottom - top) / px_per_mm, skew, "edges", origin)
    found = _skew_of_lines(grey, dpi)
    skew = found or 0.0
    angle = math.radians(skew)
    middle_x, middle_y = columns / 2, rows / 2
    origin = (
        middle_x - middle_x * math.cos(angle) + middle_y * math.sin(angle),
        middle_y - middle_x * math.sin(angle) - middle_y * math.cos(angle),
    )
    return PagePlace(columns / px_per_mm, rows / px_per_mm, skew, "none" if found is None else "lines", origin)


def _find_edges(small: Grey) -> tuple[float, tuple[float, float, float, float]] | None:
    """Skew and page box (in axes turned with the page), or None where no border is to be seen."""
    smooth = cv2.medianBlur(small, 5)
    paper = int(np.argmax(np.bincount(smooth.ravel(), minlength=256)[64:]) + 64)
    # uneven light stays within a gentle slope: the lid begins where grey leaves the paper's neighbourhood at the frame
    differs = np.abs(smooth.astype(np.int16) - paper) > LID_STEP
    outside = _touching_frame(differs)
    if not 0.002 < outside.mean() < 0.8:
        return None
    sides = _border_points(outside)
    fits = {name: _fit_line(points, name in {"left", "right"}) for name, points in sides.items()}
    good = {name: fit for name, fit in fits.items() if fit is not None}
    if not good or max(fit[2] for fit in good.values()) < 0.4:
        return None
    weight = sum(fit[2] for fit in good.values())
    skew = sum(fit[0] * fit[2] for fit in good.values()) / weight
    if abs(skew) > MOST_SKEW_DEG or any(abs(fit[0] - skew) > 0.7 for fit in good.values()):
        return None
    return skew, _page_box(outside, sides, good, skew)


def _page_box(
    outside: NDArray[np.bool_],
    sides: dict[str, NDArray[np.float64]],
    good: dict[str, tuple[float, float, float]],
    skew: float,
) -> tuple[float, float, float, float]:
    angle = math.radians(skew)
    cosine, sine = math.cos(angle), math.sin(angle)
    rows, columns = np.nonzero(~outside)
    along_x = (columns + 0.5) * cosine + (rows + 0.5) * sine
    along_y = -(columns + 0.5) * sine + (rows + 0.5) * cosine
    # where an edge is out of the picture the page ends with the picture
    box = {"left": along_x.min(), "right": along_x.max(), "top": along_y.min(), "bottom": along_y.max()}
    for name in good:
        points = sides[name]
        values = (
            points[:, 0] * cosine + points[:, 1] * sine
            if name in {"left", "right"}
            else (-points[:, 0] * sine + points[:, 1] * cosine)
        )
        box[name] = float(np.median(values))
    return box["left"], box["top"], box["right"], box["bottom"]


def _touching_frame(differs: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Keep the parts of a mask that hang together with the picture's frame."""
    joined = cv2.morphologyEx(differs.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
    _, labels = cv2.connectedComponents(joined, connectivity=4)
    frame = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
    kept = np.unique(frame[frame > 0])
    return np.isin(labels, kept)


def _border_points(outside: NDArray[np.bool_]) -> dict[str, NDArray[np.float64]]:
    """First paper pixel's edge seen from each side, only where a lid is seen before it."""

    def from_left(mask: NDArray[np.bool_]) -> NDArray[np.float64]:
        paper = ~mask
        first = paper.argmax(axis=1)
        rows = np.flatnonzero(paper.any(axis=1) & (first > 1))
        return np.stack([first[rows].astype(float), rows + 0.5], axis=1)

    height, width = outside.shape
    left = from_left(outside)
    right = from_left(outside[:, ::-1])
    top = from_left(outside.T)[:, ::-1]
    bottom = from_left(outside[::-1].T)[:, ::-1]
    right[:, 0] = width - right[:, 0]
    bottom[:, 1] = height - bottom[:, 1]
    return {"left": left, "right": right, "top": top, "bottom": bottom}


def _fit_line(points: NDArray[np.float64], upright: bool) -> tuple[float, float, float] | None:
    """Fit a nearly straight border: (skew in degrees clockwise, offset, share of inliers weighted by length).

    Inliers are taken over from a robust slope (median of pairwise slopes); the fit is refined twice by least squares.
    """
    if len(points) < 40:
        return None
    along, across = (points[:, 1], points[:, 0]) if upright else (points[:, 0], points[:, 1])
    half = len(along) // 2
    slopes = (across[half : 2 * half] - across[:half]) / (along[half : 2 * half] - along[:half])
    slope = float(np.median(slopes))
    offset = float(np.median(across - slope * along))
    for reach in (4.0, 1.5):
        near = np.abs(across - slope * along - offset) < reach
        if near.sum() < 30:
            return None
        slope, offset = (float(value) for value in np.polyfit(along[near], across[near], 1))
    near = np.abs(across - slope * along - offset) < 1.5
    share = float(near.mean())
    if share < 0.5:
        return None
    skew = math.degrees(math.atan(-slope if upright else slope))
    return skew, offset, share * min(1.0, near.sum() / 250)


def _skew_of_lines(grey: Grey, dpi: float) -> float | None:
    """Skew from straight strokes that are meant upright or level; None when too few agree.

    Notes
    -----
    Along a straight stroke all edge pixels have one direction; those of curves and noise spread evenly. A peak in the
    directions (modulo 90 degrees) that stands well above the rest is the skew.
    """
    scale = min(1.0, 150.0 / dpi) if dpi > 1 else 1.0
    page = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else grey
    soft = cv2.GaussianBlur(page, (0, 0), 1.2)
    across, down = cv2.Scharr(soft, cv2.CV_32F, 1, 0), cv2.Scharr(soft, cv2.CV_32F, 0, 1)
    strength = cv2.magnitude(across, down)
    strong = strength > 0.35 * float(np.percentile(strength[::3, ::3], 99.7))
    if strong.sum() < 500:
        return None
    angles = (np.degrees(np.arctan2(down[strong], across[strong])) + 45) % 90 - 45
    bins = np.histogram(angles, bins=900, range=(-45, 45))[0].astype(np.float64)
    wrapped = np.concatenate([bins[-20:], bins, bins[:20]])
    smooth = np.convolve(wrapped, np.exp(-(np.linspace(-2.5, 2.5, 11) ** 2)), mode="same")[20:-20]
    near = np.abs(np.linspace(-44.95, 44.95, 900)) <= MOST_SKEW_DEG
    best = float(np.linspace(-44.95, 44.95, 900)[near][smooth[near].argmax()])
    if smooth[near].max() < 3.0 * float(np.median(smooth)):
        return None
    agreeing = np.abs(angles - best) < 0.5
    skew = float(np.median(angles[agreeing]))
    return None if abs(skew) < 0.05 else skew


def light_of(grey: Grey, dpi: float) -> FloatImage:
    """Estimate how bright bare paper is everywhere, at 1/16 of the scan's own scale or 25 dpi.

    Returns
    -------
    (rows, columns) float32
        Grey 0..255 of the paper, of a small picture with the same proportions.

    Notes
    -----
    A grey closing wider than any line and most solid parts (41 mm), then smoothed: ink is always darker than paper.
    """
    scale = min(1.0, 25.0 / dpi)
    small = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    reach = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (41, 41))
    closed = cv2.morphologyEx(small, cv2.MORPH_CLOSE, reach, borderType=cv2.BORDER_REPLICATE)
    return np.asarray(cv2.GaussianBlur(closed, (0, 0), 5.0), np.float32)
