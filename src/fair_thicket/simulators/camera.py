"""The simulated camera: takes a photo of a page on a table, from an angle, under uneven light.

It stands in for a phone in the demo and the tests.
"""

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.model.reference import CARD_MM, MARKER_MM, MARKERS


@dataclass(frozen=True)
class Camera:
    """How a photo is taken.

    Attributes
    ----------
    tilt_deg : float
        Between the view and the page's upright, toward the page's foot.
    swing_deg : float
        The same toward the page's side.
    turn_deg : float
        About the view.
    distance_mm : float
        From the page's middle.
    pixels : (width, height)
    wide_deg : float
        Angle of view across the width.
    table : float
        Grey of the table, 0..1.
    slope : float
        How much light falls off across the photo, as a share.
    shadow : float
        Depth of a soft shadow over one side, as a share.
    noise : float
    seed : int
    """

    tilt_deg: float = 0.0
    swing_deg: float = 0.0
    turn_deg: float = 0.0
    distance_mm: float = 420.0
    pixels: tuple[int, int] = (3000, 4000)
    wide_deg: float = 50.0
    table: float = 0.35
    slope: float = 0.12
    shadow: float = 0.15
    noise: float = 0.012
    seed: int = 1


def page_to_photo(camera: Camera, page_mm: tuple[float, float]) -> NDArray[np.float64]:
    """Homography (3, 3) from page mm to photo pixels of a pinhole camera."""
    focal = camera.pixels[0] / 2 / math.tan(math.radians(camera.wide_deg) / 2)
    tilt, swing, turn = (math.radians(angle) for angle in (camera.tilt_deg, camera.swing_deg, camera.turn_deg))
    about_x = np.array([[1, 0, 0], [0, math.cos(tilt), -math.sin(tilt)], [0, math.sin(tilt), math.cos(tilt)]])
    about_y = np.array([[math.cos(swing), 0, math.sin(swing)], [0, 1, 0], [-math.sin(swing), 0, math.cos(swing)]])
    about_z = np.array([[math.cos(turn), -math.sin(turn), 0], [math.sin(turn), math.cos(turn), 0], [0, 0, 1]])
    rotation = about_z @ about_x @ about_y
    lens = np.array([[focal, 0, camera.pixels[0] / 2], [0, focal, camera.pixels[1] / 2], [0, 0, 1]])
    plane = np.column_stack([rotation[:, 0], rotation[:, 1], [0, 0, camera.distance_mm]])
    middle = np.array([[1, 0, -page_mm[0] / 2], [0, 1, -page_mm[1] / 2], [0, 0, 1]])
    return np.asarray(lens @ plane @ middle, np.float64)


def take_photo(page: NDArray[np.uint8], page_mm: tuple[float, float], camera: Camera) -> NDArray[np.uint8]:
    """Take a photo of a page.

    Parameters
    ----------
    page : (rows, columns) uint8
        Grey, the whole page.
    page_mm : (width, height)
    camera : Camera

    Returns
    -------
    (rows, columns) uint8
    """
    px_per_mm = page.shape[1] / page_mm[0]
    to_mm = np.array([[1 / px_per_mm, 0, 0.5 / px_per_mm], [0, 1 / px_per_mm, 0.5 / px_per_mm], [0, 0, 1]])
    half = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]])
    matrix = half @ page_to_photo(camera, page_mm) @ to_mm
    width, height = camera.pixels
    # what the photo sees coarser than the page is blurred first, as a lens does
    scale = float(np.sqrt(abs(np.linalg.det((matrix / matrix[2, 2])[:2, :2]))))
    soft = cv2.GaussianBlur(page, (0, 0), 0.45 / scale) if scale < 1 else page
    seen = cv2.warpPerspective(
        soft, matrix, (width, height), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=(0,)
    ).astype(np.float32)
    sheet = cv2.warpPerspective(np.full_like(page, 255), matrix, (width, height), flags=cv2.INTER_LINEAR)
    on_sheet = sheet.astype(np.float32) / 255
    photo = seen / 255 + (1 - on_sheet) * camera.table
    across = np.linspace(0, 1, width, dtype=np.float32)[None, :]
    down = np.linspace(0, 1, height, dtype=np.float32)[:, None]
    photo *= 1 - camera.slope * (0.7 * across + 0.3 * down)
    photo *= 1 - camera.shadow / (1 + np.exp((across + 0.3 * down - 0.45) * 14))
    chance = np.random.default_rng(camera.seed)
    photo += chance.standard_normal(photo.shape, dtype=np.float32) * camera.noise
    return np.asarray(np.clip(photo * 255, 0, 255), np.uint8)


def draw_card(page: NDArray[np.uint8], px_per_mm: float, corner: tuple[float, float]) -> None:
    """Print the reference card onto a page with its top left corner at a place, mm."""
    left, top = corner

    def box(x: float, y: float, width: float, height: float) -> tuple[slice, slice]:
        return (
            slice(round((top + y) * px_per_mm), round((top + y + height) * px_per_mm)),
            slice(round((left + x) * px_per_mm), round((left + x + width) * px_per_mm)),
        )

    page[box(0, 0, *CARD_MM)] = 245
    cell = MARKER_MM / 6
    for marker in MARKERS:
        for row, cells in enumerate(marker.cells):
            for column, mark in enumerate(cells):
                if mark == "#":
                    page[box(marker.left + column * cell, marker.top + row * cell, cell, cell)] = 20
