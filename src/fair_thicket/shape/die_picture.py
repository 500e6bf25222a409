"""Pictures of a die: its blades as thin lines on clear ground, and the paper that it cuts."""

import io
from collections.abc import Sequence

from PIL import Image, ImageDraw

from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import MM_PER_INCH

PX_PER_MM = 300 / MM_PER_INCH
BLADE = (70, 84, 76)
CUT_PAPER, CUT_EDGE = (243, 234, 214), (38, 48, 43)
"""Paper as a die has cut it, darker than a white tile, and its edge."""
EDGE_PX = 2


def picture_die(stamp: Stamp, rings: Sequence[Sequence[tuple[float, float]]]) -> bytes:
    """Draw rings, mm from the die's middle, as a PNG of exactly its box at 300 dpi; smoothed by drawing it larger."""
    size = (max(1, round(stamp.width_mm * PX_PER_MM)), max(1, round(stamp.height_mm * PX_PER_MM)))
    large = Image.new("L", (size[0] * 2, size[1] * 2), 0)
    pen = ImageDraw.Draw(large)
    for ring in rings:
        points = [
            ((x + stamp.width_mm / 2) * PX_PER_MM * 2, (y + stamp.height_mm / 2) * PX_PER_MM * 2) for x, y in ring
        ]
        pen.line([*points, points[0]], fill=255, width=6, joint="curve")
    shade = large.resize(size, Image.Resampling.LANCZOS)
    picture = Image.new("RGBA", size, (*BLADE, 0))
    picture.putalpha(shade)
    buffer = io.BytesIO()
    picture.save(buffer, "PNG", optimize=True)
    return buffer.getvalue()


def picture_cut(stamp: Stamp, side_px: int) -> bytes:
    """Draw the paper that a die cuts as a small PNG: its edge as heavy as a stamp's line, its openings clear.

    Parameters
    ----------
    side_px : int
        The picture's longer side.
    """
    return picture_cut_rings((stamp.outline, *stamp.pockets), (stamp.width_mm, stamp.height_mm), side_px)


def picture_cut_rings(rings: Sequence[Sequence[Sequence[float]]], size_mm: tuple[float, float], side_px: int) -> bytes:
    """Draw such paper by its rings, mm from its middle: the outer one first, its openings after it."""
    finer = 4
    scale = (side_px * finer - 2 * EDGE_PX * finer) / max(size_mm)
    size = [max(1, round(side * scale) + 2 * EDGE_PX * finer) for side in size_mm]
    paper, edge = (Image.new("L", size, 0) for _ in range(2))
    for ring, fill in zip(rings, (255, *(0,) * (len(rings) - 1)), strict=True):
        points = [(x * scale + size[0] / 2, y * scale + size[1] / 2) for x, y in ring]
        ImageDraw.Draw(paper).polygon(points, fill=fill)
        ImageDraw.Draw(edge).line([*points, points[0]], fill=255, width=EDGE_PX * finer, joint="curve")
    picture = Image.new("RGBA", size, (*CUT_PAPER, 0))
    picture.putalpha(paper)
    picture.paste((*CUT_EDGE, 255), mask=edge)
    buffer = io.BytesIO()
    picture.reduce(finer).save(buffer, "PNG", compress_level=3)
    return buffer.getvalue()
