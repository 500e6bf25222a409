"""Outlines written as SVG in millimetres, for cutting machines and drawing programs."""

from collections.abc import Sequence
from xml.sax.saxutils import escape

import numpy as np

from fair_thicket.model.basics import Ring

MARGIN_MM = 2.0


def outline_svg(name: str, rings: Sequence[Ring]) -> bytes:
    """Write rings as one cut path, a user unit a millimetre.

    Parameters
    ----------
    name : str
        Title of the drawing.
    rings : sequence of rings, mm
        The outer one and its openings.

    Returns
    -------
    bytes
        SVG 1.1, UTF-8.
    """
    points = np.concatenate([np.asarray(ring, dtype=np.float64) for ring in rings])
    (left, top), (right, bottom) = points.min(axis=0) - MARGIN_MM, points.max(axis=0) + MARGIN_MM
    width, height = right - left, bottom - top
    path = " ".join("M " + " L ".join(f"{x - left:.4f} {y - top:.4f}" for x, y in ring) + " Z" for ring in rings)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{width:.4f}mm" height="{height:.4f}mm" '
        f'viewBox="0 0 {width:.4f} {height:.4f}">\n<title>{escape(name)}</title>\n'
        f'<path d="{path}" fill="none" stroke="#000000" stroke-width="0.1" fill-rule="evenodd"/>\n</svg>\n'
    ).encode()
