"""The one rule of what lies over what, for every picture: what covers takes the place of what is there, the rest mixes.

Paste, white drops and marks cover (`is_opaque`), so do white, pale and pigment inks (`overlay.covers`); all other ink
lets through what it lies on (`overlay.lay_over`). Water lays nothing: the washes inked before it are softer for it.
"""

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.gradients import is_opaque, wash_tones
from fair_thicket.ink.lifting import lifted_area, soften
from fair_thicket.ink.overlay import covers, lay_over
from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import Work
from fair_thicket.model.finishes import find_finish
from fair_thicket.model.pieces import AnyWash, Colour, Embellishment, PaperPiece
from fair_thicket.shape.raster import BoolArray, fill
from fair_thicket.shape.wash_kinds import kind_of
from fair_thicket.shape.washes import LaidStencil, list_lays

Floats = NDArray[np.float32]
VEIL = 0.55
"""How much of the view translucent paper takes (common practice: what is behind is seen, paler)."""
LEAST = 0.001
"""Less ink than this share is none."""
FLAT_SHADOW_MM, SHADOW_REACH, SHADOW_SIDE = 0.3, 0.6, 0.7
"""A flat piece casts a shadow as well; the higher one lies the further, more down than to the right."""


class Inked(NamedTuple):
    """A wash as it is inked.

    Attributes
    ----------
    wash : AnyWash
    area, lifted : bytes
        In place on the panel, as WKB: where it is inked, and where water lifts its ink again.
    lays : tuple of LaidStencil
    """

    wash: AnyWash
    area: bytes
    lifted: bytes
    lays: tuple[LaidStencil, ...]


def inked(leaf: Leaf, piece: AnyWash, work: Work, leaves: tuple[Leaf, ...]) -> Inked:
    """Return a wash as it is inked; the leaves are the card's."""
    lifted = lifted_area(work.card, leaves, piece)
    return Inked(piece, leaf.area.wkb, lifted.wkb, list_lays(piece, work.stash))


def lay_wash(
    sheets: Sequence[Floats], laid: Inked, inside: BoolArray, corner_mm: tuple[float, float], px_per_mm: float
) -> None:
    """Lay a wash on windows of pictures where their pixels are inside it.

    Parameters
    ----------
    sheets : sequence of (rows, columns, 3) float32, sRGB 0..1
        Changed in place.
    inside : (rows, columns) bool
    corner_mm : (x, y)
        Where the windows' top left corner lies on the panel.
    """
    if not kind_of(laid.wash).has_colour or not inside.any():
        return
    tones = wash_tones(laid.wash, corner_mm, inside.shape, px_per_mm, lays=laid.lays)
    lifted = shapely.from_wkb(laid.lifted)
    if not lifted.is_empty:
        soft = fill(lifted, inside.shape, px_per_mm, left=corner_mm[0], top=corner_mm[1])
        tones = soften(tones, soft)
    for sheet in sheets:
        is_itself = is_opaque(laid.wash) or float(sheet.min()) == 1.0  # on bare white paper an ink is itself
        put(sheet, tones if is_itself else lay_over(sheet, tones), inside)


def put(view: Floats, tones: Floats, inside: BoolArray) -> None:
    """Put tones into a window of a picture where its pixels are inside; both (rows, columns, 3) float32."""
    if inside.size:
        cv2.copyTo(np.ascontiguousarray(tones), inside.view(np.uint8), view)


def lay_ink(view: Floats, passing: Floats, ink: Colour, tone: Floats, *, is_opaque: bool = False) -> None:
    """Lay ink on a window of a picture: ink that covers takes the place of what is there, other ink mixes with it.

    Parameters
    ----------
    view : (rows, columns, 3) float32, sRGB 0..1
        Changed in place.
    passing : (rows, columns) float32
        1 where there is no ink.
    tone : (3,) float32
        The ink on white paper.
    is_opaque : bool
        It covers whatever its colour, as written and printed words do.
    """
    share = passing[:, :, None]
    if is_opaque or covers(ink):
        view *= share
        view += (1 - share) * tone
        return
    here = passing < 1 - LEAST
    view[here] = lay_over(view[here], share[here] + (1 - share[here]) * tone)


def shadow_of(piece: PaperPiece) -> tuple[float, float]:
    """How far to the right, and how far down, a piece casts its shadow, mm: light comes from the upper left."""
    if isinstance(piece, Embellishment) and find_finish(piece.shape).adds_mm < FLAT_SHADOW_MM:
        return 0.0, 0.0
    down = piece.lift_mm * SHADOW_REACH + FLAT_SHADOW_MM
    return down * SHADOW_SIDE, down
