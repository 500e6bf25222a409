"""What is drawn or laid beyond a stamp: lines by hand, froth, string, water through a stamp, covers by an outline.

All of them are common practice.
"""

import math
import random
from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import Literal

import msgspec
import numpy as np
import shapely

from fair_thicket.edits.flaps import to_local
from fair_thicket.edits.ink_edits import add_cover
from fair_thicket.edits.pieces import add_piece, clamp, free_id, place_pieces
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import (
    AnyWash,
    Blend,
    Colour,
    Cover,
    Cutout,
    Embellishment,
    Form,
    Impression,
    Through,
    Wash,
    Water,
)
from fair_thicket.shape.outline import only_areas, to_rings
from fair_thicket.shape.paper import footprint

Spot = tuple[float, float]
Added = tuple[Work, str]
Drawn = Literal["line", "twine", "pen"]
SIMPLE_MM = 0.15
"""A drawn way is taken so much simpler: no hand draws it finer."""
SHORTEST_MM = 2.0
MOST_SPOTS = 400
WIDTHS: Mapping[Drawn, tuple[float, float]] = MappingProxyType(
    {"line": (0.2, 60.0), "twine": (0.4, 20.0), "pen": (0.3, 20.0)}
)
"""From the finest to the broadest that a hand draws or lays, mm; of a pen, its dots."""
MOST_ROOM_MM, MOST_DWELL_S = 50.0, 600
FROTH_PITCH = 1.35
"""Dots of froth lie so many of their widths apart along the line."""
FOOT_SHADE: Colour = "#b4b8b6"
FOOT_WIDE, FOOT_HIGH = 0.86, 0.14
"""Of a figure's width, and of the shadow's own (our own estimate)."""


def check_width(shape: Drawn, width_mm: float) -> None:
    """Check the width of what is drawn or laid, or of a pen's dots.

    Raises
    ------
    PaperError
        When no hand draws or lays it so fine or so broad.
    """
    least, most = WIDTHS[shape]
    if not least <= width_mm <= most:
        raise PaperError(f"That is {width_mm:g} mm wide; say {least:g} to {most:g} mm.")


def draw_line(
    work: Work, drawn: Sequence[Spot], *, width_mm: float = 0.5, colour: Colour, on: str = "", name: str = ""
) -> Added:
    """Draw a line by hand: a trunk, stem or string longer than its stamp; in the colour of the stamp's lines.

    Parameters
    ----------
    drawn : sequence of (x, y)
        The way, on the panel, mm.

    Raises
    ------
    PaperError
        When it is shorter than 2 mm, turns too often, or is too fine or too broad.
    """
    return _along(work, drawn, "line", width_mm, colour, on, name or "drawn line")


def lay_twine(work: Work, drawn: Sequence[Spot], *, width_mm: float = 1.6, colour: Colour, on: str = "") -> Added:
    """Lay twine along a way.

    Raises
    ------
    PaperError
        When it is shorter than 2 mm, turns too often, or is too fine or too broad.
    """
    return _along(work, drawn, "twine", width_mm, colour, on, "")


def _along(
    work: Work,
    drawn: Sequence[Spot],
    shape: Literal["line", "twine"],
    width_mm: float,
    colour: Colour,
    on: str,
    name: str,
) -> Added:
    check_width(shape, width_mm)
    way = _way(drawn)
    if len(way.coords) > MOST_SPOTS:
        raise PaperError(f"That way turns {len(way.coords)} times, and {MOST_SPOTS} is the most; draw it in two.")
    (x, y) = way.interpolate(0.5, normalized=True).coords[0]
    spots = tuple((round(a - x, 3), round(b - y, 3)) for a, b in way.coords)
    key = free_id(work, shape)
    piece = Embellishment(key, width_mm, clamp(x), clamp(y), shape=shape, spots=spots, colour=colour, on=on, name=name)
    return add_piece(work, piece), key


def _way(drawn: Sequence[Spot]) -> shapely.LineString:
    way = shapely.LineString(drawn) if len(drawn) > 1 else shapely.LineString()
    if way.length < SHORTEST_MM:
        raise PaperError(f"Draw a line of {SHORTEST_MM:g} mm at least: press, drag, let go.")
    simple = shapely.simplify(way, SIMPLE_MM)
    return simple if isinstance(simple, shapely.LineString) else way


def add_froth(work: Work, drawn: Sequence[Spot], *, size_mm: float = 1.2, on: str = "", seed: int = 1) -> Added:
    """Dot froth along a line with a white pen: of waves, of a brook; the same seed strays the same.

    Raises
    ------
    PaperError
        When it is shorter than 2 mm, takes more than 400 dots, or its dots are too fine or too broad.
    """
    check_width("pen", size_mm)
    way = _way(drawn)
    count = max(3, math.floor(way.length / (FROTH_PITCH * size_mm)))
    if count > MOST_SPOTS:
        raise PaperError(f"That froth takes {count} dots; draw a shorter line, or larger dots ({MOST_SPOTS} at most).")
    dice = random.Random(seed)  # noqa: S311 - a pattern, not a secret
    (x, y) = way.interpolate(0.5, normalized=True).coords[0]
    spots = []
    for number in range(count):
        spot = way.interpolate((number + 0.5) / count, normalized=True)
        spots.append(
            (
                round(spot.x - x + dice.uniform(-0.3, 0.3) * size_mm, 3),
                round(spot.y - y + dice.uniform(-0.8, 0.8) * size_mm, 3),
            )
        )
    key = free_id(work, "froth")
    piece = Embellishment(
        key, size_mm, clamp(x), clamp(y), shape="pen", spots=tuple(spots), colour="#ffffff", on=on, name="froth"
    )
    return add_piece(work, piece), key


def stamp_water(work: Work, stamp: str, at: Spot, *, on: str = "", dwell_s: int = 60) -> Added:
    """Lift blended ink with clear water through a stamp, left a while and blotted.

    Raises
    ------
    PaperError
        When no wash is inked there that water could lift, or it would be left for no time or for hours.
    """
    if not 1 <= dwell_s <= MOST_DWELL_S:
        raise PaperError(f"Water is left 1 to {MOST_DWELL_S} seconds; about a minute is usual.")
    thing = work.stash.find(stamp)
    if thing.kind.is_plain:
        raise PaperError("Water is stamped with a stamp; choose an image.")
    key = free_id(work, "water")
    form = Form("rectangle", thing.width_mm + 1, thing.height_mm + 1)
    piece = Water(
        key,
        form,
        clamp(at[0]),
        clamp(at[1]),
        on=on,
        stamp=stamp,
        dwell_s=dwell_s,
        name=f"water of the {thing.name}"[:120],
    )
    area = footprint(piece, work.stash)
    wet = [one for one in work.card.pieces if isinstance(one, Wash) and one.is_wet and one.on == on]
    if not any(shapely.intersects(footprint(one, work.stash), area) for one in wet):
        raise PaperError("No ink is blended there that water could lift; blend a wash first.")
    return add_piece(work, piece), key


def cover_by_outline(work: Work, wash: str, other: str, *, room_mm: float = 0.5, inside: bool = False) -> Work:
    """Cover a wash by a mask of another piece's own outline, so much larger; or ink only within it.

    Raises
    ------
    PaperError
        When it is no wash, has too many covers, or nothing of it would be inked any more; or for too much room.
    """
    if not abs(room_mm) <= MOST_ROOM_MM:
        raise PaperError(f"A mask is at most {MOST_ROOM_MM:g} mm larger or smaller than what it is cut by.")
    piece = work.card.find(wash)
    names = name_pieces(work)
    if not isinstance(piece, Wash):
        raise PaperError(f"The {names[wash]} is no wash; choose one, and what is to be covered.")
    kept = only_areas(shapely.simplify(shapely.buffer(footprint(work.card.find(other), work.stash), room_mm), 0.08))
    rings = [ring for ring in to_rings(kept) if len(ring) >= 3]
    outer = max(rings, key=lambda ring: shapely.Polygon(ring).area, default=None)
    if outer is None:
        raise PaperError(f"The {names[other]} has no outline to cut a mask along.")
    ring: Ring = tuple((round(x, 3), round(y, 3)) for x, y in to_local(piece, list(outer)))
    return add_cover(work, piece, Cover("counter" if inside else "disc", ring=ring))


def shade_feet(work: Work, key: str, *, colour: Colour = FOOT_SHADE) -> Added:
    """Blend a soft shadow on the ground under a figure's feet, so that it stands.

    Raises
    ------
    PaperError
        For ink and plain ground, which stand on nothing.
    """
    piece = work.card.find(key)
    if not isinstance(piece, Impression | Cutout):
        raise PaperError(f"The {name_pieces(work)[key]} has no feet; choose an image.")
    left, _, right, bottom = footprint(piece, work.stash).bounds
    wide = (right - left) * FOOT_WIDE
    form = Form("ellipse", round(wide, 2), round(max(2.5, wide * FOOT_HIGH), 2))
    new = free_id(work, "shadow")
    name, y = f"shadow under the {name_pieces(work)[key]}"[:120], clamp(bottom - form.height_mm * 0.25)
    shade = Blend(new, form, clamp((left + right) / 2), y, on=piece.on, colour=colour, coats=1, name=name)
    return add_piece(work, shade), new


def lay_on_guides(work: Work, key: str, other: str) -> Work:
    """Lay a stencil of one wash where that of another lies, by the guide lines at their corners.

    Raises
    ------
    PaperError
        When either is inked through no stencil.
    """
    piece, first = work.card.find(key), work.card.find(other)
    names = name_pieces(work)
    for one in (piece, first):
        if not isinstance(one, Through) or not one.stencil:
            raise PaperError(f"The {names[one.id]} is inked through no stencil; choose two that are.")
    moved = msgspec.structs.replace(piece, x=first.x, y=first.y, angle_deg=first.angle_deg, on=first.on)
    return msgspec.structs.replace(work, card=place_pieces(work.card, (moved,)))


def shares_guides(work: Work, piece: AnyWash) -> str:
    """Id of the first wash whose stencil lies in the very same place; empty for none."""
    for one in work.card.pieces:
        if one.id == piece.id:
            return ""
        if isinstance(one, Through) and one.stencil and one.on == piece.on:
            near = np.hypot(one.x - piece.x, one.y - piece.y) < 0.01 and abs(one.angle_deg - piece.angle_deg) < 0.01
            if near and isinstance(piece, Through) and piece.stencil:
                return one.id
    return ""
