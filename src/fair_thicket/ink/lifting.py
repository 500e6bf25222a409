"""Ink that water lifts: flicked on washes that were inked before, left a moment and blotted."""

import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import Card
from fair_thicket.model.pieces import AnyWash, Water
from fair_thicket.shape.outline import NOTHING, Area, only_areas
from fair_thicket.shape.washes import LIFT

Floats = NDArray[np.float32]
LEFT = np.float32(1 - LIFT)
"""Share of the ink that is left where water lifts it."""


def lifted_area(card: Card, leaves: tuple[Leaf, ...], piece: AnyWash) -> Area:
    """Return where later water lifts a wash's ink, mm on the panel; the leaves are the card's."""
    if not piece.is_wet:  # paste and stamped texture hold when they are wetted
        return NOTHING
    keys = [one.id for one in card.pieces]
    later = set(keys[keys.index(piece.id) + 1 :])
    drops = [
        leaf.area
        for leaf in leaves
        if isinstance(leaf.piece, Water) and leaf.piece.on == piece.on and leaf.piece.id in later
    ]
    return only_areas(shapely.union_all(drops)) if drops else NOTHING


def soften(tones: Floats, lifted: NDArray[np.bool_]) -> Floats:
    """Lighten what ink lets through where it was lifted; tones (n, 3) or (rows, columns, 3), sRGB 0..1."""
    if not lifted.any():
        return tones
    soft = np.array(tones, np.float32)
    soft[lifted] = 1 - (1 - soft[lifted]) * LEFT
    return soft
