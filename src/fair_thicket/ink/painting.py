"""The finished card as a picture: every leaf of the stack in its flat colour, with the lines of its images."""

from collections.abc import Mapping

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.ink.inking import panel_pixels, to_levels
from fair_thicket.ink.painter import PLAIN, Look, Painter
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Impression, Wash, is_glued
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shape.windows import Window, whole_window

Picture = NDArray[np.uint8]


def paint(work: Work, pictures: Mapping[str, bytes], *, dpi: float = 300, look: Look = PLAIN) -> Picture:
    """Picture a card.

    Returns
    -------
    (rows, columns, 3) uint8
        sRGB; the front exactly. What hangs over its edge is not in the picture.

    Raises
    ------
    PictureError
        When a stamp's picture is missing or damaged.

    Notes
    -----
    A pixel belongs to a leaf when its middle lies in it; ink over ink mixes.
    """
    painter = Painter(work, pictures, panel_pixels(work, dpi), dpi / MM_PER_INCH, look)
    for leaf in painter.leaves:
        if not painter.is_away(leaf.piece):
            painter.lay(leaf)
    done: Picture = to_levels(painter.canvas)
    if look.grey:
        light = cv2.cvtColor(done, cv2.COLOR_RGB2GRAY)
        return np.repeat(light[:, :, None], 3, axis=2)
    return done


def paint_sheets(
    work: Work, pictures: Mapping[str, bytes], *, dpi: float = 300
) -> tuple[Picture, dict[str, tuple[Window, Picture]]]:
    """Picture a card, and every surface that is inked on before anything is glued on it.

    Returns
    -------
    (rows, columns, 3) uint8
        As `paint` gives it.
    dict of str to (window, (rows, columns, 3) uint8)
        By the id of the surface, empty for the base; a translucent one over what lies under it.
    """
    painter = Painter(work, pictures, panel_pixels(work, dpi), dpi / MM_PER_INCH)
    sheets: dict[str, tuple[Window, Picture]] = {}
    surface, window = "", whole_window(painter.canvas.shape[:2])
    for leaf in painter.leaves:
        if is_glued(leaf.piece):
            sheets.setdefault(surface, (window, to_levels(painter.canvas[window])))
            surface, window = leaf.piece.id, painter.cover(leaf.sheet)[0]
        painter.lay(leaf)
    sheets.setdefault(surface, (window, to_levels(painter.canvas[window])))
    inked = {piece.on for piece in work.card.pieces if isinstance(piece, Impression | Wash)}
    return to_levels(painter.canvas), {key: sheet for key, sheet in sheets.items() if key in inked}


def compose(work: Work, pictures: Mapping[str, bytes], *, dpi: float = 300) -> Picture:
    """Picture what is stamped and inked, on the sheets that bear it; all else is left out."""
    painter = Painter(work, pictures, panel_pixels(work, dpi), dpi / MM_PER_INCH)
    inked = {piece.on for piece in work.card.pieces if isinstance(piece, Impression | Wash)}
    for leaf in painter.leaves:
        if not is_glued(leaf.piece) or leaf.piece.id in inked:
            painter.lay(leaf)
    return to_levels(painter.canvas)
