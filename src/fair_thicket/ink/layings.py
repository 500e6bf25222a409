"""How every image on a card is to be coloured: its runs, where shadow lies, what lies over it, which lamps reach it."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

import numpy as np
import shapely

from fair_thicket.ink.shadow_field import Lamp
from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import Card
from fair_thicket.model.colouring import ColouredPart, Light, ShadeOrder
from fair_thicket.model.keys import part_key, piece_key, read_key
from fair_thicket.model.pieces import Cutout, Impression, Piece
from fair_thicket.model.stash import Stamp, Stash
from fair_thicket.shape.outline import turn_area_back, turn_points

SHADOW_DEG: Mapping[Light, float] = MappingProxyType({"left": 50.0, "above": 90.0, "right": 130.0})
"""Where shadow lies when light falls from a side and from above, degrees clockwise from the right."""
Place = tuple[float, float, float]
"""Middle, mm on the panel, and turn, degrees clockwise."""


class Laying(NamedTuple):
    """An image as it is to be coloured.

    Attributes
    ----------
    stamp : Stamp
    colouring : tuple of ColouredPart
    shadow_deg : float
        Where shadow lies in the image's own frame, degrees clockwise from the right.
    order : str
        How the maker lays a run.
    over : bytes
        What overlaps it, in its own frame, mm, as WKB; empty for nothing.
    lamps : tuple of Lamp
        That reach it, in its own frame.
    """

    stamp: Stamp
    colouring: tuple[ColouredPart, ...]
    shadow_deg: float
    order: ShadeOrder
    over: bytes = b""
    lamps: tuple[Lamp, ...] = ()


Laid = tuple[Laying, Place]


def laying_of(card: Card, stash: Stash, leaves: tuple[Leaf, ...], leaf: Leaf) -> Laying | None:
    """Tell how the image of a leaf is to be coloured; None for what is not coloured by its regions."""
    piece = leaf.piece
    if not isinstance(piece, Impression | Cutout) or not piece.colouring:
        return None
    return _laying(card, stash.find(piece.stamp), piece.colouring, (piece.x, piece.y, piece.angle_deg), leaves, leaf)


def lay_images(card: Card, stash: Stash, leaves: tuple[Leaf, ...], leaf: Leaf) -> tuple[Laid, ...]:
    """Tell how every image of a leaf is to be coloured, further images of a joint cutout as well, and its place."""
    piece = leaf.piece
    own = laying_of(card, stash, leaves, leaf)
    laid = [(own, (piece.x, piece.y, _turn_of(piece)))] if own is not None else []
    for part in piece.joined if isinstance(piece, Cutout) else ():
        if part.colouring:
            x, y = turn_points(((part.x, part.y),), _turn_of(piece), piece.x, piece.y)[0].tolist()
            place = (x, y, (_turn_of(piece) + part.angle_deg) % 360)
            laid.append((_laying(card, stash.find(part.stamp), part.colouring, place, leaves, leaf), place))
    return tuple(laid)


def lay_image(card: Card, stash: Stash, leaves: tuple[Leaf, ...], key: str) -> Laying | None:
    """Tell how one image of a card is to be coloured, by its key; None for what is not coloured."""
    leaf = next((one for one in leaves if one.key == piece_key(key)), None)
    if leaf is None:
        return None
    if read_key(key).part is None:
        return laying_of(card, stash, leaves, leaf)
    piece = leaf.piece
    numbers = [n for n, part in enumerate(piece.joined) if part.colouring] if isinstance(piece, Cutout) else []
    laid = lay_images(card, stash, leaves, leaf)[-len(numbers) :] if numbers else ()
    return next((one for n, (one, _) in zip(numbers, laid, strict=True) if part_key(leaf.key, n) == key), None)


def _turn_of(piece: Piece) -> float:
    return piece.angle_deg if isinstance(piece, Impression | Cutout) else 0.0


def _laying(
    card: Card,
    stamp: Stamp,
    colouring: tuple[ColouredPart, ...],
    place: Place,
    leaves: tuple[Leaf, ...],
    leaf: Leaf,
) -> Laying:
    """Tell how an image at a place of the panel, and turned so far, is to be coloured."""
    x, y, angle_deg = place
    covers = [
        shapely.intersection(one.area, own.area)
        for at, own in enumerate(leaves)
        if own.piece.id == leaf.piece.id  # it is coloured whole, its flaps with it
        for one in leaves[at + 1 :]
        if one.hides and one.piece.id != leaf.piece.id and one.area.intersects(own.area)
    ]
    over = b""
    if covers:
        over = shapely.simplify(turn_area_back(shapely.union_all(covers), angle_deg, x, y), 0.05).wkb
    shadow = (SHADOW_DEG[card.light] - angle_deg) % 360
    return Laying(stamp, colouring, shadow, card.shade_order, over, _lamps(card, stamp, place))


def _lamps(card: Card, stamp: Stamp, place: Place) -> tuple[Lamp, ...]:
    """Return the lamps of a card that reach an image, in its own frame."""
    x, y, angle_deg = place
    half = max(stamp.width_mm, stamp.height_mm) / 2
    lamps = []
    for piece in card.pieces:
        if not isinstance(piece, Impression | Cutout) or not piece.lamp_mm:
            continue
        if np.hypot(piece.x - x, piece.y - y) < piece.lamp_mm + half:
            spot = shapely.get_coordinates(turn_area_back(shapely.Point(piece.x, piece.y), angle_deg, x, y))[0]
            lamps.append((round(float(spot[0]), 3), round(float(spot[1]), 3), piece.lamp_mm))
    return tuple(lamps)
