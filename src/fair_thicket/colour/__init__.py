"""Colouring: regions of an image, runs of the maker's own markers, and what is said of them."""

from fair_thicket.colour.judging import judge
from fair_thicket.colour.listing import list_colouring, list_steps, minutes_of

__all__ = ["judge", "list_colouring", "list_steps", "minutes_of"]
