"""Arrangement: what is seen of every piece, what nearly touches, what leaves the panel, and the edits of a scene."""

from fair_thicket.scene.judging import judge
from fair_thicket.scene.visibility import Sight, see, see_areas

__all__ = ["Sight", "judge", "see", "see_areas"]
