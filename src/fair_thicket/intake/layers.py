"""Stamps that print one image in layers, registered to each other: placed as one, stamped one after the other."""

import hashlib
from collections.abc import Mapping, Sequence

import cv2
import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.prints import decode_picture
from fair_thicket.intake.taking import encode_clean
from fair_thicket.model.basics import Ring
from fair_thicket.model.bounds import MOST_LAYERS
from fair_thicket.model.errors import PaperError
from fair_thicket.model.stash import Layer, Stamp
from fair_thicket.model.tolerance import OUTLINE_MM, REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.outline import to_area, to_rings
from fair_thicket.shape.raster import fill

LOOK_PX_PER_MM = 4.0
MOST_OVER_MM = 1.0
PX_PER_MM = REHEARSAL_DPI / MM_PER_INCH
FloatArray = NDArray[np.float32]


def join_layers(stamps: Sequence[Stamp], pictures: Mapping[str, bytes], *, name: str) -> tuple[Stamp, dict[str, bytes]]:
    """Make one layered stamp of several; what comes first is stamped first.

    Parameters
    ----------
    stamps : two to six stamps without layers of their own
    pictures : mapping of picture name to PNG bytes
    name : str

    Returns
    -------
    (Stamp, dict)
        The layered stamp and all its pictures, that of the whole among them.

    Raises
    ------
    PaperError
        Too few, too many, or one that is layered already.

    Notes
    -----
    Each layer is registered to the largest: it is moved to where its silhouette shares most with the other's, in the
    middle of all such places (correlation of the filled outlines at 4 px/mm).
    """
    if not 2 <= len(stamps) <= MOST_LAYERS:
        raise PaperError(f"A layered image has 2 to {MOST_LAYERS} stamps; choose that many, the first stamped first.")
    if any(stamp.layers for stamp in stamps):
        raise PaperError("One of these is layered already; choose single stamps.")
    base = max(stamps, key=lambda stamp: to_area(stamp.outline).area)
    places = [(0.0, 0.0) if stamp is base else register(stamp.outline, base.outline) for stamp in stamps]
    left, top, right, bottom = _box(stamps, places)
    middle = ((left + right) / 2, (top + bottom) / 2)
    layers = tuple(
        Layer(
            stamp.name,
            round(x - middle[0], 4),
            round(y - middle[1], 4),
            stamp.width_mm,
            stamp.height_mm,
            stamp.picture,
        )
        for stamp, (x, y) in zip(stamps, places, strict=True)
    )
    picture = _compose(layers, pictures, (right - left, bottom - top))
    digest = hashlib.sha256(picture).hexdigest()[:10]
    whole = msgspec.structs.replace(
        base,
        name=name,
        width_mm=round(right - left, 4),
        height_mm=round(bottom - top, 4),
        outline=_outline(stamps, places, middle),
        pockets=(),
        picture=f"images/layered-{digest}.png",
        layers=layers,
    )
    return whole, {whole.picture: picture, **{layer.picture: pictures[layer.picture] for layer in layers}}


def move_layer(
    stamp: Stamp, pictures: Mapping[str, bytes], index: int, by: tuple[float, float]
) -> tuple[Stamp, dict[str, bytes]]:
    """Move one layer of a layered stamp by (x, y) mm, to register it better; size and outline of the whole stay.

    Raises
    ------
    PaperError
        When the layer would leave the image by more than it may.
    """
    layer = stamp.layers[index]
    moved = msgspec.structs.replace(layer, x=round(layer.x + by[0], 4), y=round(layer.y + by[1], 4))
    over_x = abs(moved.x) + layer.width_mm / 2 - stamp.width_mm / 2
    over_y = abs(moved.y) + layer.height_mm / 2 - stamp.height_mm / 2
    if max(over_x, over_y) > MOST_OVER_MM:
        raise PaperError(
            f"Layer {index + 1} would stand more than {MOST_OVER_MM:g} mm over the edge of the image; layer it anew."
        )
    layers = (*stamp.layers[:index], moved, *stamp.layers[index + 1 :])
    picture = _compose(layers, pictures, (stamp.width_mm, stamp.height_mm))
    name = f"images/layered-{hashlib.sha256(picture).hexdigest()[:10]}.png"
    after = msgspec.structs.replace(stamp, layers=layers, picture=name)
    return after, {name: picture, **{one.picture: pictures[one.picture] for one in layers}}


def register(moved: Ring, base: Ring) -> tuple[float, float]:
    """Find where an outline (mm about its middle) shares most area with another's; the middle of all such places."""
    room, image = _silhouette(base, spare=moved), _silhouette(moved)
    score = cv2.matchTemplate(room, image, cv2.TM_CCORR)
    best = np.argwhere(score >= float(score.max()) * (1 - 1e-4) - 1e-3).mean(axis=0)
    middle = (best + (np.array(image.shape) - 1) / 2) - (np.array(room.shape) - 1) / 2
    return float(middle[1]) / LOOK_PX_PER_MM, float(middle[0]) / LOOK_PX_PER_MM


def _silhouette(ring: Ring, *, spare: Ring = ()) -> FloatArray:
    """Draw a filled outline about the picture's middle, with room round it for another."""
    reach = [2 * max(abs(point[axis]) for one in (ring, spare) if one for point in one) for axis in (0, 1)]
    factor = 2 if spare else 1
    width, height = (int(np.ceil(side * factor * LOOK_PX_PER_MM)) | 1 for side in reach)
    area = to_area(ring)
    left, top = -width / 2 / LOOK_PX_PER_MM, -height / 2 / LOOK_PX_PER_MM
    return np.asarray(fill(area, (height, width), LOOK_PX_PER_MM, left=left, top=top), np.float32)


def _box(stamps: Sequence[Stamp], places: Sequence[tuple[float, float]]) -> tuple[float, float, float, float]:
    boxes = np.array(
        [
            (x - one.width_mm / 2, y - one.height_mm / 2, x + one.width_mm / 2, y + one.height_mm / 2)
            for one, (x, y) in zip(stamps, places, strict=True)
        ]
    )
    (left, top), (right, bottom) = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    return float(left), float(top), float(right), float(bottom)


def _outline(stamps: Sequence[Stamp], places: Sequence[tuple[float, float]], middle: tuple[float, float]) -> Ring:
    areas = [
        to_area([(px + x - middle[0], py + y - middle[1]) for px, py in stamp.outline])
        for stamp, (x, y) in zip(stamps, places, strict=True)
    ]
    whole = shapely.union_all(areas)
    if len(shapely.get_parts(whole)) > 1:  # layers that do not meet: one line round all
        whole = shapely.convex_hull(whole)
    return max(to_rings(shapely.simplify(whole, OUTLINE_MM / 2)), key=len)


def _compose(layers: Sequence[Layer], pictures: Mapping[str, bytes], size: tuple[float, float]) -> bytes:
    """Print all layers over each other: ink over ink is darker."""
    columns, rows = max(1, round(size[0] * PX_PER_MM)), max(1, round(size[1] * PX_PER_MM))
    passing = np.ones((rows, columns), np.float32)
    for layer in layers:
        picture = decode_picture(pictures.get(layer.picture, b""))
        scale_x, scale_y = picture.shape[1] / layer.width_mm, picture.shape[0] / layer.height_mm
        left = -size[0] / 2 - layer.x + layer.width_mm / 2 + 0.5 / PX_PER_MM
        top = -size[1] / 2 - layer.y + layer.height_mm / 2 + 0.5 / PX_PER_MM
        matrix = np.array(
            [
                [scale_x / PX_PER_MM, 0, left * scale_x - 0.5],
                [0, scale_y / PX_PER_MM, top * scale_y - 0.5],
            ]
        )
        passing *= cv2.warpAffine(
            picture,
            matrix,
            (columns, rows),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_CONSTANT,
            borderValue=(1.0,),
        )
    return encode_clean(np.rint((1 - passing) * 255).astype(np.uint8))
