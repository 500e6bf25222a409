"""Pictures that were decoded and images that were coloured already: held by the card that they are drawn for.

A card that was made from another goes on with what was drawn for that one; so a change of one image colours one image.
"""

from collections.abc import Callable
from functools import lru_cache
from typing import NamedTuple

from fair_thicket.ink.layings import Laying
from fair_thicket.ink.patterns import Tile, decode_tile
from fair_thicket.ink.prints import decode_picture
from fair_thicket.ink.shading import Floats, new_colourer
from fair_thicket.model.card import Work
from fair_thicket.model.derived import derive

MOST_PICTURES, MOST_TILES = 40, 32


class Drawn(NamedTuple):
    """What draws pictures, each once.

    Attributes
    ----------
    picture : callable of PNG bytes
        As `prints.decode_picture`.
    tile : callable of (PNG bytes, mm)
        As `patterns.decode_tile`.
    image : callable of Laying
        As `shading.colour_image`.
    """

    picture: Callable[[bytes], Floats]
    tile: Callable[[bytes, float], Tile]
    image: Callable[[Laying], Floats]


def new_drawn() -> Drawn:
    """Return what has drawn nothing yet."""
    return Drawn(lru_cache(MOST_PICTURES)(decode_picture), lru_cache(MOST_TILES)(decode_tile), new_colourer())


def drawn_of(work: Work) -> Drawn:
    """Return what draws for a card."""

    def go_on(before: Drawn | None) -> Drawn:
        return before or new_drawn()

    return derive(work, "drawn", go_on)
