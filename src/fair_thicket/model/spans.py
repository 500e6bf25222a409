"""A border joined from several cuts of one die, as values.

Glossary
--------
cut
    A stretch of the die that is cut out, turned over or not, and laid at a place of the border.
joint
    Where the visible part of one cut ends and that of the next begins; there one lies over the other for the glue.
"""

from typing import Annotated

import msgspec

from fair_thicket.model.bounds import FARTHEST_MM

Millimetres = Annotated[float, msgspec.Meta(ge=-FARTHEST_MM, le=FARTHEST_MM)]


class Cut(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """One cut of the die.

    Attributes
    ----------
    from_mm, to_mm : float
        Stretch of the die from its left end, what lies under a neighbour included.
    at_mm : float
        Where the cut's left end lies, from the left end of the border; below 0 where it is trimmed off.
    flipped : bool
        Turned over: its `to_mm` end lies at the left.
    """

    from_mm: Millimetres
    to_mm: Millimetres
    at_mm: Millimetres
    flipped: bool = False


class Joint(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A joint, from the left end of the border.

    Attributes
    ----------
    at_mm : float
    mismatch_mm : float
        Mean length by which the two edges differ in height over the 2 mm beside it.
    peek_mm2 : float
        Paper of the lower cut that is seen beside the upper within the glue overlap.
    left_over : bool
        Whether the left cut lies over the right one.
    """

    at_mm: float
    mismatch_mm: float
    peek_mm2: float
    left_over: bool


class Span(msgspec.Struct, frozen=True):
    """A border spanned.

    Attributes
    ----------
    cuts : tuple of Cut
        From the left.
    joints : tuple of Joint
    optimal : bool
        Whether no fewer cuts reach, and none of so many join better on the grid.
    cost_mm2 : float
        What was made least, over all joints: differing edge over 2 mm, and what peeks out.
    waste_mm : float
        Length of die left over, over all cuts.
    repeat_mm : float or None
        Repeat of the die's edge, where it has one.
    """

    cuts: tuple[Cut, ...]
    joints: tuple[Joint, ...]
    optimal: bool
    cost_mm2: float
    waste_mm: float
    repeat_mm: float | None = None
