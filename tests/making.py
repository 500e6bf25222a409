"""Makes small stamps and works for tests: squares with a black frame, placed by hand."""

import io
import os

import msgspec
import numpy as np
from PIL import Image, ImageChops, ImageDraw

from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Impression
from fair_thicket.model.stash import Stamp, Stash

PX_PER_MM = 300 / 25.4
EVERY = int(os.environ.get("EVERY_CASE", "24"))
"""Of repeats by chance every twenty-fourth is run each time; EVERY_CASE=1 runs them all."""


def some_of(count: int) -> range:
    """Numbers of the repeats that are run, of so many."""
    return range(0, count, EVERY)


def square(side: float = 10.0) -> Ring:
    """A square of a side, mm, about its middle."""
    half = side / 2
    return ((-half, -half), (half, -half), (half, half), (-half, half))


def framed_png(width_mm: float, height_mm: float, line_mm: float = 0.6, *, hatch_mm: float = 0.0) -> bytes:
    """A picture of a black frame on transparent paper, with upright hatching when asked."""
    size = (round(width_mm * PX_PER_MM), round(height_mm * PX_PER_MM))
    picture = Image.new("RGBA", size, (0, 0, 0, 0))
    pen = ImageDraw.Draw(picture)
    wide = round(line_mm * PX_PER_MM)
    pen.rectangle((0, 0, size[0] - 1, size[1] - 1), outline=(0, 0, 0, 255), width=wide)
    if hatch_mm:
        step = hatch_mm * PX_PER_MM
        for number in range(1, int(size[0] / step)):
            left = round(number * step)
            pen.rectangle((left, 0, left + wide - 1, size[1] - 1), fill=(0, 0, 0, 255))
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    return buffer.getvalue()


def stamp(key: str, side: float = 10.0, *, copies: int = 1) -> Stamp:
    """A square stamp whose picture has the stamp's key as its name."""
    return Stamp(key, key.replace("-", " "), side, side, square(side), f"images/{key}.png", copies=copies)


def open_ring_png(side_mm: float = 30.0, line_mm: float = 0.8, gap_deg: float = 10.0) -> bytes:
    """A picture of a ring with a gap at its right, on transparent paper."""
    size = round(side_mm * PX_PER_MM)
    alpha = Image.new("L", (4 * size, 4 * size))
    corners = (0, 0, 4 * size - 1, 4 * size - 1)
    ImageDraw.Draw(alpha).arc(corners, gap_deg / 2, 360 - gap_deg / 2, fill=255, width=round(4 * line_mm * PX_PER_MM))
    picture = Image.new("RGBA", (size, size), (28, 28, 28, 0))
    picture.putalpha(alpha.resize((size, size), Image.Resampling.BOX))
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    return buffer.getvalue()


def wire_stamp(key: str, side_mm: float = 30.0, line_mm: float = 0.8, gap_deg: float = 10.0) -> Stamp:
    """The stamp of that ring, its outline running along the line, outside and inside, as scissors never would."""
    turns = np.radians(np.linspace(gap_deg / 2, 360 - gap_deg / 2, 120))
    ways = np.stack([np.cos(turns), np.sin(turns)], axis=1)
    band = np.concatenate([ways * side_mm / 2, ways[::-1] * (side_mm / 2 - line_mm)])
    ring = tuple((float(x), float(y)) for x, y in band)
    return msgspec.structs.replace(stamp(key, side_mm), outline=ring)


def work_of(*pieces: tuple[str, float, float], stamps: tuple[Stamp, ...] = (), **card: object) -> Work:
    """A work of pieces (stamp key, x, y) from the back to the front; stamps not given are 10 mm squares."""
    known = {one.id: one for one in stamps}
    for key, _, _ in pieces:
        known.setdefault(key, stamp(key))
    made = [Impression(f"{key}-{number}", key, x, y) for number, (key, x, y) in enumerate(pieces, 1)]
    return Work(Card(pieces=tuple(made), **card), Stash(tuple(known.values())))  # type: ignore[arg-type]


def pictures_of(work: Work, *, hatch_mm: float = 0.0) -> dict[str, bytes]:
    """Framed pictures for every stamp of a work."""
    return {one.picture: framed_png(one.width_mm, one.height_mm, hatch_mm=hatch_mm) for one in work.stash.stamps}


def outlined_png(
    outline: Ring, width_mm: float, height_mm: float, hatch_mm: float = 2.0, line_mm: float = 0.5
) -> bytes:
    """A picture that prints within an outline alone: its line, and upright hatching inside it."""
    size = (max(1, round(width_mm * PX_PER_MM)), max(1, round(height_mm * PX_PER_MM)))
    ring = [((x + width_mm / 2) * PX_PER_MM, (y + height_mm / 2) * PX_PER_MM) for x, y in outline]
    inside, lines = Image.new("L", size, 0), Image.new("L", size, 0)
    ImageDraw.Draw(inside).polygon(ring, fill=255)
    pen, wide = ImageDraw.Draw(lines), max(1, round(line_mm * PX_PER_MM))
    pen.line([*ring, ring[0]], fill=255, width=2 * wide)
    for number in range(1, int(width_mm / hatch_mm)):
        left = round(number * hatch_mm * PX_PER_MM)
        pen.rectangle((left, 0, left + wide - 1, size[1] - 1), fill=255)
    picture = Image.new("RGBA", size, (0, 0, 0, 0))
    picture.paste((0, 0, 0, 255), mask=ImageChops.multiply(inside, lines))
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    return buffer.getvalue()


def drawn_for(work: Work) -> dict[str, bytes]:
    """Pictures of every stamp of a work that print within its outline, as scanned ones do."""
    return {one.picture: outlined_png(one.outline, one.width_mm, one.height_mm) for one in work.stash.stamps}


ZOO: dict[str, tuple[Ring, float | None]] = {
    "triangle": (((0, 0), (4, 0), (0, 3)), 6.0),
    "clockwise": (((0, 0), (0, 3), (4, 0)), 6.0),
    "closed": (((0, 0), (4, 0), (0, 3), (0, 0)), 6.0),
    "repeated points": (((0, 0), (0, 0), (4, 0), (4, 0), (0, 3)), 6.0),
    "spike": (((0, 0), (4, 0), (8, 0), (4, 0), (0, 3)), 6.0),
    "self-touching": (((0, 0), (2, 0), (1, 1), (2, 2), (0, 2), (1, 1)), 2.0),
    "bow tie, even-odd": (((0, 0), (2, 2), (2, 0), (0, 2)), 2.0),
    "tiny": (((0, 0), (1e-3, 0), (0, 1e-3)), 5e-7),
    "huge": (((0, 0), (1e5, 0), (1e5, 1e5), (0, 1e5)), 1e10),
    "collinear": (((0, 0), (1, 1), (2, 2)), None),
    "a point": (((1, 1), (1, 1), (1, 1)), None),
    "two points": (((0, 0), (1, 1)), None),  # type: ignore[dict-item]
    "empty": ((), None),
    "not a number": (((0, 0), (1, 0), (float("nan"), 1)), None),
    "endless": (((0, 0), (1, 0), (float("inf"), 1)), None),
}
"""Outlines and the area that each encloses; None where none is."""
