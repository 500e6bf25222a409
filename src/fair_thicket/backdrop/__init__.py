"""Backdrops and borders: dies that reach any length by joining."""

from fair_thicket.backdrop.joining import Joining
from fair_thicket.backdrop.judging import judge
from fair_thicket.backdrop.profile import Profile, find_repeat, profile_of
from fair_thicket.backdrop.spanning import span, span_area

__all__ = ["Joining", "Profile", "find_repeat", "judge", "profile_of", "span", "span_area"]
