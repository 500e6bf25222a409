"""The picture of a die: its blades as thin lines on clear ground."""

import io
from collections.abc import Sequence

from PIL import Image, ImageDraw

from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import MM_PER_INCH

PX_PER_MM = 300 / MM_PER_INCH
BLADE = (70, 84, 76)


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
