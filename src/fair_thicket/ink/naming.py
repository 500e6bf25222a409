"""Colours said in words: by their own name, or by the nearest that has one."""

from functools import lru_cache

import numpy as np

from fair_thicket.ink.mixing import to_lab
from fair_thicket.model.palette import BRIDGES, PALETTE, name_of
from fair_thicket.model.pieces import Colour

SAME = 2.3
"""Colours nearer than this in CIELAB are hardly told apart (the just noticeable difference; from memory)."""


@lru_cache(maxsize=512)
def say_colour(colour: Colour) -> str:
    """Say a colour: its name, or the nearest name and its code, such as ``near mist (#ccdcec)``."""
    known = (*PALETTE, *BRIDGES)
    if any(code == colour for _, code in known):
        return name_of(colour)
    own = np.array(to_lab(colour))
    away = {name: float(np.linalg.norm(np.array(to_lab(code)) - own)) for name, code in known}
    nearest = min(away, key=away.__getitem__)
    return nearest if away[nearest] < SAME else f"near {nearest} ({colour})"
