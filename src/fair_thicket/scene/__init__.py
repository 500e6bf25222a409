"""Arrangement: what is seen of every piece, what a friend would say of it, balance, room, and edits."""

from fair_thicket.scene.judging import judge
from fair_thicket.scene.visibility import Sight, View, ink_needed, look, see, see_areas, sights_of

__all__ = ["Sight", "View", "ink_needed", "judge", "look", "see", "see_areas", "sights_of"]
