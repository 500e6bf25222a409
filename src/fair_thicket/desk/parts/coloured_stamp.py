"""An image of the stash in colours with its lines, as a picture."""

import cv2
import numpy as np
from PySide6.QtGui import QImage

from fair_thicket.ink.contrast import channels
from fair_thicket.ink.drawn import Drawn
from fair_thicket.ink.layings import Laying
from fair_thicket.ink.overlay import lay_over
from fair_thicket.model.card import WHITE
from fair_thicket.model.pieces import INK
from fair_thicket.model.supplies import Colour


def picture_laid(laying: Laying, picture: bytes, drawn: Drawn, *, paper: Colour = WHITE, ink: Colour = INK) -> QImage:
    """Picture an image as it is to be coloured, on its paper with its lines, at 300 dpi.

    Parameters
    ----------
    laying : Laying
    picture : bytes
        Its clean picture as PNG; empty for no lines.
    drawn : Drawn
        What draws it.
    """
    seen = lay_over(np.array(channels(paper), np.float32), drawn.image(laying))
    if picture:
        passing = np.asarray(
            cv2.resize(drawn.picture(picture), seen.shape[1::-1], interpolation=cv2.INTER_AREA), np.float32
        )
        share = passing[:, :, None]
        seen = lay_over(seen, share + (1 - share) * np.array(channels(ink), np.float32))
    pixels = np.ascontiguousarray(np.rint(seen * 255).astype(np.uint8))
    rows, columns = pixels.shape[:2]
    return QImage(pixels.data, columns, rows, 3 * columns, QImage.Format.Format_RGB888).copy()
