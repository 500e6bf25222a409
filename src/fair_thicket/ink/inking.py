"""What stampings and washes print: clean pictures and areas turned into ink on patches of the panel.

Every ink is whole, as its rubber or its brush would lay it on bare paper. What masks, resists and water make of it is
found out where it is laid (`simulated_sheet`); what stands in front of it is for the composed picture to say
(`painting`).
"""

from collections.abc import Mapping
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.ink.contrast import channels
from fair_thicket.ink.drawn import drawn_of
from fair_thicket.ink.gradients import is_blended, is_opaque, wash_colour, wash_tones
from fair_thicket.ink.ink_patch import Floats, Ink
from fair_thicket.ink.overlay import covers
from fair_thicket.ink.prints import Place, Rubber, Window, print_picture, rubbers_of
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work, stamping_keys
from fair_thicket.model.keys import part_key
from fair_thicket.model.pieces import CARD_EDGE, INK, AnyWash, Cutout, Impression, Wash, is_stepped
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.outline import Area, image_area, only_areas, to_area, turn_area, turn_points
from fair_thicket.shape.wash_kinds import kind_of
from fair_thicket.shape.washes import list_lays

Paper = NDArray[np.uint8]
CLEAR = (1.0, 1.0, 1.0)


def panel_pixels(work: Work, dpi: float) -> tuple[int, int]:
    """Rows and columns of the panel at a resolution."""
    width, height = work.card.panel
    return round(height * dpi / MM_PER_INCH), round(width * dpi / MM_PER_INCH)


def lay_inks(work: Work, pictures: Mapping[str, bytes], dpi: float) -> dict[str, Ink]:
    """Print every impression of a card on a patch of its own, a layered one layer by layer, and every wash; by key.

    Raises
    ------
    PictureError
        When a stamp's picture is missing or damaged.
    """
    inks: dict[str, Ink] = {}
    areas = {leaf.piece.id: leaf.whole for leaf in stack(work) if isinstance(leaf.piece, Impression | Wash)}
    for piece in work.card.pieces:
        if isinstance(piece, Impression):
            inks |= _impression(work, piece, areas[piece.id], pictures, dpi)
        elif isinstance(piece, Wash):
            inks[piece.id] = _wash(work, piece, areas[piece.id], dpi)
    return inks


def lay_cut_inks(
    work: Work, piece: Cutout, pictures: Mapping[str, bytes], dpi: float, *, only: str = ""
) -> dict[str, Ink]:
    """Print the images of a cutout where it will lie, the further ones of a joint cutout as well; by key.

    Parameters
    ----------
    only : str
        Key of the one stamping that is printed; empty for all of them.

    Notes
    -----
    What is cut from another's print (`print_of`) bears that one's keys: it is stamped with it.
    """
    stamp = work.stash.find(piece.stamp)
    if stamp.kind.is_plain or piece.opening is not None:
        return {}
    shown = piece.print_of or piece.id
    keys = [shown + key.removeprefix(piece.id) for key in stamping_keys(piece, stamp)]
    place = (piece.x, piece.y, piece.angle_deg, piece.flipped)
    inks = _rubbers(work, keys, piece, piece.stamp, place, pictures, dpi, only)
    for number, part in enumerate(piece.joined):
        (x, y) = turn_points([(part.x, part.y)], piece.angle_deg, piece.x, piece.y)[0].tolist()
        place = (x, y, piece.angle_deg + part.angle_deg, False)
        own = part_key(piece.id, number)
        layered = stamping_keys(piece, work.stash.find(part.stamp))
        keys = [own + key.removeprefix(piece.id) for key in layered]
        inks |= _rubbers(work, keys, piece, part.stamp, place, pictures, dpi, only)
    return inks


def _rubbers(
    work: Work,
    keys: list[str],
    piece: Cutout,
    stamp_key: str,
    place: Place,
    pictures: Mapping[str, bytes],
    dpi: float,
    only: str,
) -> dict[str, Ink]:
    """Print one image of a cutout, rubber by rubber, or only one of them."""
    stamp = work.stash.find(stamp_key)
    found: dict[str, Ink] = {}
    if only and only not in keys:
        return found
    area = only_areas(turn_area(image_area(stamp), place[2], place[0], place[1]))
    for key, rubber in zip(keys, rubbers_of(stamp), strict=True):
        if only and key != only:
            continue
        picture = drawn_of(work).picture(pictures.get(rubber.picture, b""))
        made = _print(key, piece.id, rubber, picture, area, place, work.card.panel, dpi)
        found[key] = replace(made, tone=channels(piece.ink or INK), is_opaque=covers(piece.ink or INK))
    return found


def _impression(work: Work, piece: Impression, area: Area, pictures: Mapping[str, bytes], dpi: float) -> dict[str, Ink]:
    stamp, found = work.stash.find(piece.stamp), {}
    place = (piece.x, piece.y, piece.angle_deg, False)
    for key, rubber in zip(stamping_keys(piece, stamp), rubbers_of(stamp), strict=True):
        picture = drawn_of(work).picture(pictures.get(rubber.picture, b""))
        ink = _print(key, piece.id, rubber, picture, area, place, work.card.panel, dpi)
        found[key] = _in_its_tones(_limited(ink, piece), piece)
    return found


def _in_its_tones(ink: Ink, piece: Impression) -> Ink:
    if piece.resists:
        return replace(ink, tone=CLEAR)
    zones = tuple(
        (
            ink.cover(to_area(turn_points(zone.ring, piece.angle_deg, piece.x, piece.y))),
            channels(zone.ink),
            piece.powder or covers(zone.ink),
        )
        for zone in piece.zones
    )
    return replace(
        ink, tone=channels(piece.ink or INK), zones=zones, is_opaque=piece.powder or covers(piece.ink or INK)
    )


def _wash(work: Work, piece: AnyWash, area: Area, dpi: float) -> Ink:
    """Ink a wash everywhere in its area."""
    px_per_mm = dpi / MM_PER_INCH
    rows, columns = panel_pixels(work, dpi)
    left, top, right, bottom = area.bounds if not area.is_empty else (0.0, 0.0, 0.0, 0.0)
    low_x, high_x = (int(np.clip(x, 0, columns)) for x in (np.floor(left * px_per_mm), np.ceil(right * px_per_mm)))
    low_y, high_y = (int(np.clip(y, 0, rows)) for y in (np.floor(top * px_per_mm), np.ceil(bottom * px_per_mm)))
    window = (slice(low_y, high_y), slice(low_x, high_x))
    bare = np.ones((high_y - low_y, high_x - low_x), np.float32)
    tone = channels(wash_colour(piece)) if kind_of(piece).has_colour else CLEAR
    tones = None
    if (is_blended(piece) or is_stepped(piece)) and bare.size:
        corner, lays = (low_x / px_per_mm, low_y / px_per_mm), list_lays(piece, work.stash)
        tones = wash_tones(piece, corner, bare.shape, px_per_mm, lays=lays)
        red, green, blue = tones.mean(axis=(0, 1)).tolist()
        tone = (red, green, blue)
    ink = Ink(
        piece.id,
        piece.id,
        window,
        bare,
        area,
        px_per_mm,
        tone,
        is_wash=True,
        tones=tones,
        is_opaque=is_opaque(piece),
    )
    return replace(ink, passing=np.asarray(~ink.cover(area), np.float32))


def _print(
    key: str,
    piece: str,
    rubber: Rubber,
    picture: Floats,
    area: Area,
    place: Place,
    panel: tuple[float, float],
    dpi: float,
) -> Ink:
    """Turn and move a picture into its place; the window is clipped to the panel and may be empty."""
    own = rubber.put(place)
    px_per_mm = dpi / MM_PER_INCH
    size = (round(panel[1] * px_per_mm), round(panel[0] * px_per_mm))
    corner = np.hypot(rubber.width_mm, rubber.height_mm) / 2 + 0.5
    low_x, high_x = (int(np.clip((own[0] + side * corner) * px_per_mm, 0, size[1])) for side in (-1, 1))
    low_y, high_y = (int(np.clip((own[1] + side * corner) * px_per_mm, 0, size[0])) for side in (-1, 1))
    window: Window = (slice(low_y, high_y), slice(low_x, high_x))
    if low_x >= high_x or low_y >= high_y:
        return Ink(key, piece, window, np.ones((high_y - low_y, high_x - low_x), np.float32), area, px_per_mm)
    passing = print_picture(picture, (rubber.width_mm, rubber.height_mm), own, window, px_per_mm)
    return Ink(key, piece, window, passing, area, px_per_mm)


def _limited(ink: Ink, piece: Impression) -> Ink:
    """Ink only where the stamp was inked; what keeps it within a shape is a counter mask, or the edge of its paper."""
    if piece.inked is not None:
        ring = turn_points(piece.inked, piece.angle_deg, piece.x, piece.y)
        ink = replace(ink, passing=np.where(ink.cover(to_area(ring)), ink.passing, np.float32(1.0)))
    if not piece.trim_to:
        return ink
    if piece.trim_to not in (CARD_EDGE, piece.on):
        return replace(ink, limit=ink.area)
    return replace(ink, passing=np.where(ink.cover(ink.area), ink.passing, np.float32(1.0)))


def to_levels(paper: NDArray[np.float32]) -> Paper:
    """Turn light 0..1 into levels 0..255."""
    if not paper.size:
        return np.zeros(paper.shape, np.uint8)
    levels = cv2.multiply(paper.reshape(len(paper), -1), 255.0, dtype=cv2.CV_8U)  # rounds, and stays within
    return np.asarray(levels, np.uint8).reshape(paper.shape)
