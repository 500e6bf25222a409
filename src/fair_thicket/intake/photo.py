"""A phone photo of a sheet becomes a page at true size: the perspective is taken out.

Three ways, the surest first: the sheet's own four corners on a darker table; a reference card laid beside the images;
one length that the maker knows, for a photo taken straight from above.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.intake.detection import PICTURE_PX_PER_MM, Box, Detected, Page, detect
from fair_thicket.intake.page import PagePlace
from fair_thicket.intake.sheet import darkest_of, ready_page
from fair_thicket.model.errors import PictureError
from fair_thicket.model.reference import CARD_MM, MARKERS, corners_of

LOOK_PX = 1000
LEAST_SHARE = 0.12
"""A sheet takes at least this share of the photo."""
MOST_PAGE_MM = 500.0
CARD_ROOM_MM = 4.0

Points = NDArray[np.float64]


@dataclass(frozen=True)
class Photographed:
    """A photo made flat.

    Attributes
    ----------
    detected : Detected
    pixels : (rows, columns) or (rows, columns, 3) uint8
        The page as if scanned, 300 dpi.
    accuracy : float
        Share by which sizes may be off, as far as can be told.
    """

    detected: Detected
    pixels: NDArray[np.uint8]
    accuracy: float


def photograph_of_sheet(
    pixels: NDArray[np.uint8], sheet_mm: tuple[float, float], *, name: str = "The photo"
) -> Photographed:
    """Make a photo of a white sheet on a darker table flat by its four corners.

    Parameters
    ----------
    pixels : (rows, columns) or (rows, columns, 3) uint8
    sheet_mm : (width, height)
        Either way round.

    Raises
    ------
    PictureError
        When the sheet's four edges are not all to be seen.
    """
    corners = find_corners(darkest_of(pixels))
    if corners is None:
        raise PictureError(
            f"{name} does not show all four edges of a white sheet on something darker; take it so that they show, "
            "lay the printed reference card beside the images, or say one length that you know."
        )
    across = (_length(corners[0], corners[1]) + _length(corners[3], corners[2])) / 2
    down = (_length(corners[0], corners[3]) + _length(corners[1], corners[2])) / 2
    short, long = sorted(sheet_mm)
    size = (long, short) if across > down else (short, long)
    page = np.array([(0, 0), (size[0], 0), size, (0, size[1])], dtype=np.float64)
    to_photo = cv2.getPerspectiveTransform(page.astype(np.float32), corners.astype(np.float32))
    return _flatten(pixels, np.asarray(to_photo, np.float64), size, how="corners", accuracy=0.01, name=name)


def photograph_with_card(pixels: NDArray[np.uint8], *, name: str = "The photo") -> Photographed:
    """Make a photo flat by the reference card that lies in it.

    Raises
    ------
    PictureError
        When fewer than three of the card's markers are to be seen.
    """
    on_card, in_photo = find_card(darkest_of(pixels))
    if len(on_card) < 12:
        raise PictureError(
            f"{name} shows {len(on_card) // 4} of the reference card's four markers, and three are needed; lay the "
            "whole card beside the images, without glare, and take the photo again."
        )
    to_photo, _ = cv2.findHomography(on_card, in_photo)
    rows, columns = pixels.shape[:2]
    frame = np.array([(0, 0), (columns, 0), (columns, rows), (0, rows)], dtype=np.float64)
    seen = cv2.perspectiveTransform(frame[None], np.linalg.inv(to_photo))[0]
    # the frame's inner box on the plane: every place of it is in the photo
    (left, top), (right, bottom) = np.sort(seen, axis=0)[[1, 2]]
    width, height = min(right - left, MOST_PAGE_MM), min(bottom - top, MOST_PAGE_MM)
    if width < 30 or height < 30:
        raise PictureError(f"{name} shows the reference card from too flat an angle; hold the camera above the sheet.")
    shift = np.array([[1, 0, left], [0, 1, top], [0, 0, 1]], dtype=np.float64)
    room = (
        -left - CARD_ROOM_MM,
        -top - CARD_ROOM_MM,
        CARD_MM[0] - left + CARD_ROOM_MM,
        CARD_MM[1] - top + CARD_ROOM_MM,
    )
    return _flatten(pixels, to_photo @ shift, (width, height), how="card", accuracy=0.01, name=name, bare=(room,))


def photograph_with_length(
    pixels: NDArray[np.uint8], ends: Sequence[tuple[float, float]], length_mm: float, *, name: str = "The photo"
) -> Photographed:
    """Take the scale of a photo from one length that the maker knows; the perspective stays in.

    Parameters
    ----------
    ends : two points in pixels of the photo
    length_mm : float
    """
    (x0, y0), (x1, y1) = ends
    span = math.hypot(x1 - x0, y1 - y0)
    if span < 20 or not 1 <= length_mm <= 1000:
        raise PictureError("Mark two places that lie well apart, and type the distance between them, such as 4 1/8 in.")
    px_per_mm = span / length_mm
    rows, columns = pixels.shape[:2]
    size = (columns / px_per_mm, rows / px_per_mm)
    if max(size) > MOST_PAGE_MM:
        raise PictureError(f"That length would make the photo {max(size):.0f} mm wide; check it.")
    to_photo = np.diag([px_per_mm, px_per_mm, 1.0])
    return _flatten(pixels, to_photo, size, how="length", accuracy=0.05, name=name)


def _flatten(
    pixels: NDArray[np.uint8],
    to_photo: Points,
    size: tuple[float, float],
    *,
    how: str,
    accuracy: float,
    name: str,
    bare: tuple[Box, ...] = (),
) -> Photographed:
    """Draw the page as if scanned at 300 dpi and detect its ink."""
    scale = PICTURE_PX_PER_MM
    half = np.array([[1 / scale, 0, 0.5 / scale], [0, 1 / scale, 0.5 / scale], [0, 0, 1]])
    matrix = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]]) @ to_photo @ half
    flat = cv2.warpPerspective(
        pixels,
        matrix,
        (round(size[0] * scale), round(size[1] * scale)),
        flags=cv2.INTER_AREA | cv2.WARP_INVERSE_MAP if _is_finer(matrix) else cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )
    planes = (flat,) if flat.ndim == 2 else tuple(cv2.split(flat))
    place = PagePlace(size[0], size[1], 0.0, how, (0.0, 0.0))
    page = ready_page(planes, place, scale, name=name)
    page = Page(page.planes, page.lights, page.place, page.px_per_mm, bare)
    return Photographed(detect(page), np.asarray(flat, np.uint8), accuracy)


def _is_finer(matrix: Points) -> bool:
    """Say whether the photo has more than a pixel and a half for every pixel of the page."""
    return bool(math.sqrt(abs(float(np.linalg.det(matrix[:2, :2] / matrix[2, 2])))) > 1.5)


def find_corners(grey: NDArray[np.uint8]) -> Points | None:
    """Find a light sheet on a darker ground.

    Returns
    -------
    (4, 2) float or None
        Corners in pixels, clockwise from the one nearest the top left; None when no such sheet shows whole.

    Notes
    -----
    The largest light body gives four rough corners; each edge is then found anew on the full picture, by the steepest
    step across it at many places and a robust line through them.
    """
    scale = min(1.0, LOOK_PX / max(grey.shape))
    small = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else grey
    soft = cv2.medianBlur(np.asarray(small, np.uint8), 7)
    _, light = cv2.threshold(soft, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    light = cv2.morphologyEx(light, cv2.MORPH_CLOSE, np.ones((25, 25), np.uint8))
    light = cv2.morphologyEx(light, cv2.MORPH_OPEN, np.ones((9, 9), np.uint8))
    contours, _ = cv2.findContours(light, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not contours:
        return None
    hull = cv2.convexHull(max(contours, key=cv2.contourArea))
    if cv2.contourArea(hull) < LEAST_SHARE * small.size:
        return None
    rough = _four_corners(hull)
    if rough is None:
        return None
    rows, columns = small.shape
    inside = (rough[:, 0] > 2) & (rough[:, 0] < columns - 3) & (rough[:, 1] > 2) & (rough[:, 1] < rows - 3)
    if not inside.all():
        return None
    return _refine(grey, _clockwise((rough + 0.5) / scale))


def _four_corners(hull: NDArray[np.int32]) -> Points | None:
    around = cv2.arcLength(hull, True)
    for share in np.linspace(0.01, 0.08, 15):
        corners = cv2.approxPolyDP(hull, share * around, True)
        if len(corners) == 4:
            quad = corners[:, 0, :].astype(np.float64)
            return quad if cv2.contourArea(hull) > 0.9 * cv2.contourArea(corners) else None
    return None


def _clockwise(points: Points) -> Points:
    middle = points.mean(axis=0)
    around = np.arctan2(points[:, 1] - middle[1], points[:, 0] - middle[0])
    ordered = points[np.argsort(around)]
    return np.roll(ordered, -int(ordered.sum(axis=1).argmin()), axis=0)


def _refine(grey: NDArray[np.uint8], corners: Points) -> Points | None:
    """Find the four edges anew to a fraction of a pixel, and where they cross."""
    reach = max(6.0, 0.008 * max(grey.shape))
    lines = []
    for start, end in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        along = (end - start) / max(float(np.hypot(*(end - start))), 1e-9)
        across = np.array([along[1], -along[0]])
        places = start + (end - start) * np.linspace(0.06, 0.94, 90)[:, None]
        offsets = np.arange(-reach, reach + 0.25, 0.5)
        samples = places[:, None, :] + offsets[None, :, None] * across - 0.5
        values = cv2.remap(
            grey,
            samples[..., 0].astype(np.float32),
            samples[..., 1].astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        ).astype(np.float64)
        # the light sheet lies at the low end of each sample, the table at the high end
        steps = values[:, :-4] - values[:, 4:]
        best = steps.argmax(axis=1)
        strong = steps[np.arange(len(best)), best] > 0.4 * float(np.median(steps.max(axis=1)))
        if strong.sum() < 20:
            return None
        found = places[strong] + across * offsets[best[strong] + 2][:, None]
        direction = cv2.fitLine(found.astype(np.float32), cv2.DIST_HUBER, 0, 0.01, 0.01).ravel()
        lines.append((np.asarray(direction[:2], np.float64), np.asarray(direction[2:], np.float64)))
    crossed = []
    for (along, at), (other, near) in zip([lines[-1], *lines[:-1]], lines, strict=True):
        system = np.column_stack([along, -other])
        if abs(float(np.linalg.det(system))) < 1e-6:
            return None
        crossed.append(at + along * np.linalg.solve(system, near - at)[0])
    return np.array(crossed)


def find_card(grey: NDArray[np.uint8]) -> tuple[Points, Points]:
    """Find the reference card's markers.

    Returns
    -------
    (n, 2) mm on the card, (n, 2) pixels in the photo
        Four corners a marker; empty when none is seen.
    """
    settings = cv2.aruco.DetectorParameters()
    settings.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    detector = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_4X4_50), settings)
    corners, numbers, _ = detector.detectMarkers(grey)
    known = {marker.number: corners_of(marker) for marker in MARKERS}
    on_card: list[tuple[float, float]] = []
    in_photo: list[Points] = []
    for quad, number in zip(corners, [] if numbers is None else np.ravel(numbers).tolist(), strict=True):
        if number in known:
            on_card += known[number]
            in_photo.append(np.asarray(quad, np.float64).reshape(4, 2) + 0.5)
    return np.array(on_card).reshape(-1, 2), np.concatenate(in_photo) if in_photo else np.zeros((0, 2))


def _length(first: Points, second: Points) -> float:
    return float(np.hypot(*(second - first)))
