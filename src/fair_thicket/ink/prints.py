"""What a stamp's rubbers print, turned and moved into place.

Glossary
--------
rubber
    What prints in one piece: a whole stamp, or one layer of a layered image.
passing
    Share of bare paper that is left: 0 where it is inked, 1 where it is not.
"""

from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.model.errors import PictureError
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.outline import turn_points

Floats = NDArray[np.float32]
Window = tuple[slice, slice]
Place = tuple[float, float, float, bool]
"""Middle, mm on the panel; degrees clockwise; whether it is turned over."""


class Rubber(NamedTuple):
    """One rubber: its picture, where its middle lies from the middle of the image, and its size, mm."""

    picture: str
    x: float
    y: float
    width_mm: float
    height_mm: float

    def put(self, place: Place) -> Place:
        """Where it comes when the image is put at a place."""
        x, y, angle_deg, is_flipped = place
        ((at_x, at_y),) = turn_points([(-self.x if is_flipped else self.x, self.y)], angle_deg, x, y).tolist()
        return at_x, at_y, angle_deg, is_flipped


def rubbers_of(stamp: Stamp) -> tuple[Rubber, ...]:
    """Return the rubbers of a stamp: each layer is one of its own, and where two meet ink lies on ink."""
    if len(stamp.layers) > 1:
        return tuple(Rubber(one.picture, one.x, one.y, one.width_mm, one.height_mm) for one in stamp.layers)
    return (Rubber(stamp.picture, 0.0, 0.0, stamp.width_mm, stamp.height_mm),)


def decode(data: bytes, trouble: str) -> Any:
    """Turn a picture file into its array as the library gives it, (rows, columns[, B G R[ A]]).

    Raises
    ------
    PictureError
        Saying `trouble`, when the bytes are no picture.
    """
    decoded = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED) if data else None
    if decoded is None:
        raise PictureError(trouble)
    return decoded


def decode_picture(data: bytes) -> Floats:
    """Turn a clean picture (PNG with transparency) into what it lets through, (rows, columns) float32 0..1, read-only.

    Raises
    ------
    PictureError
        When the bytes are no picture.
    """
    passing = _passing(decode(data, "A stamp's picture is damaged; scan the stamp again."))
    passing.setflags(write=False)
    return passing


def _passing(decoded: NDArray[np.uint8]) -> Floats:
    if decoded.ndim == 2:
        return np.asarray(decoded.astype(np.float32) / 255, np.float32)
    grey = cv2.cvtColor(decoded[:, :, :3], cv2.COLOR_BGR2GRAY).astype(np.float32) / 255
    if decoded.shape[2] == 3:
        return np.asarray(grey, np.float32)
    return np.asarray(1 - decoded[:, :, 3].astype(np.float32) / 255 * (1 - grey), np.float32)


def print_picture(
    passing: Floats, size_mm: tuple[float, float], place: Place, window: Window, px_per_mm: float
) -> Floats:
    """Turn and move a picture of a size about its middle to its place; what it lets through on a window of the panel.

    The picture has one channel or three.

    Where the picture is much finer than the panel's pixels it is blurred first, so that no thin line falls between.
    """
    rows, columns = window
    x, y, angle_deg, is_flipped = place
    scale_x, scale_y = passing.shape[1] / size_mm[0], passing.shape[0] / size_mm[1]
    shrink = int(max(1, min(scale_x, scale_y) / px_per_mm))
    if shrink > 1:
        passing = np.asarray(cv2.blur(passing, (shrink, shrink)), np.float32)
    # from a pixel's middle on the window, through the panel in mm and the picture's own mm, to a pixel of the picture
    first = np.array([[columns.start + 0.5, rows.start + 0.5]]) / px_per_mm - (x, y)
    own_x, own_y = turn_points(first, -angle_deg, 0, 0)[0]
    across, down = turn_points([(1, 0), (0, 1)], -angle_deg, 0, 0) / px_per_mm
    side = -1.0 if is_flipped else 1.0
    matrix = np.array(
        [
            [side * across[0] * scale_x, side * down[0] * scale_x, (side * own_x + size_mm[0] / 2) * scale_x - 0.5],
            [across[1] * scale_y, down[1] * scale_y, (own_y + size_mm[1] / 2) * scale_y - 0.5],
        ]
    )
    laid = cv2.warpAffine(
        passing,
        matrix,
        (columns.stop - columns.start, rows.stop - rows.start),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(1.0, 1.0, 1.0, 1.0),
    )
    return np.asarray(laid, np.float32)
