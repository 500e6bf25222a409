"""What every kind of piece is cut or stamped like: its area about its own middle, and in place on the panel.

Notes
-----
Areas about the middle are kept by what shapes them, so that a piece that is only moved is never cut anew.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from types import MappingProxyType
from typing import Any

import numpy as np
import shapely
from shapely.affinity import scale, translate
from shapely.geometry import Point, Polygon, box

from fair_thicket.model.basics import Ring
from fair_thicket.model.pieces import (
    Border,
    Cutout,
    Embellishment,
    End,
    Form,
    Impression,
    Panel,
    PaperPiece,
    Piece,
    Placed,
    Strip,
    Wash,
    Window,
)
from fair_thicket.model.spans import Cut
from fair_thicket.model.stash import Stamp, Stash
from fair_thicket.shape.outline import NOTHING, Area, only_areas, open_pockets, to_area, turn_area
from fair_thicket.shape.spots import spots_area
from fair_thicket.shape.wash_kinds import wash_area

QUAD_SEGS = 16
"""Straight pieces in a quarter of a round corner: 0.02 mm off at a radius of 5 mm."""
REACH_MM = 0.05
TAG_HOLE_MM = 4.0
"""Hole of a tag for a string (common practice: an eyelet of 1/8 to 3/16 in)."""


def form_area(form: Form) -> Polygon:
    """Area of a simple shape about its middle, mm; an ellipse has 96 corners."""
    return _form_area(form)


@lru_cache(maxsize=512)
def _form_area(form: Form) -> Polygon:
    half_x, half_y = form.width_mm / 2, form.height_mm / 2
    if form.kind == "ellipse":
        turns = np.linspace(0, 2 * math.pi, 96, endpoint=False)
        return Polygon(np.stack([half_x * np.cos(turns), half_y * np.sin(turns)], axis=1))
    corner = min(form.corner_mm, half_x * 0.999, half_y * 0.999)
    if corner <= 0:
        return box(-half_x, -half_y, half_x, half_y)
    inner = box(-half_x + corner, -half_y + corner, half_x - corner, half_y - corner)
    return inner.buffer(corner, quad_segs=QUAD_SEGS)


def local_area(piece: Piece, stash: Stash) -> Area:
    """Area of a piece about its own middle, unturned, mm; flaps belong to it, windows do not."""
    if isinstance(piece, Wash):  # its kind has its area
        return wash_area(piece, stash, form_area(piece.form))
    return SHAPES[type(piece)](piece, stash)


def _from_stash(piece: Impression | Cutout | Border, stash: Stash) -> Area:
    stamp = stash.find(piece.stamp)
    if isinstance(piece, Impression):
        return _stamped(stamp.outline, open_pockets(stamp), piece.inked)
    if isinstance(piece, Border):
        if reaches(piece.cuts, piece.length_mm):
            return _joined(stamp.outline, stamp.pockets, stamp.width_mm, piece.length_mm, piece.cuts, piece.flipped)
        return _border(stamp.outline, stamp.width_mm, piece.length_mm, piece.start_mm, piece.flipped)
    return _cut(piece, (_Cut(stamp), *(_Cut(stash.find(part.stamp)) for part in piece.joined)))


def place(area: Area, piece: Piece) -> Area:
    """Turn an area about a piece's middle and move it to the piece's place."""
    return only_areas(turn_area(area, piece.angle_deg, piece.x, piece.y))


def footprint(piece: Piece, stash: Stash) -> Area:
    """Area that a piece takes up on its panel, before anything is trimmed.

    Pockets of an image count unless they are open. Openings of a die cut are open.
    """
    return place(local_area(piece, stash), piece)


def window_area(piece: Piece, stash: Stash) -> Area:
    """Return openings of a piece in place; empty when it has none."""
    if isinstance(piece, Panel) and piece.windows:
        return place(only_areas(shapely.union_all([_window(one) for one in piece.windows])), piece)
    if isinstance(piece, Cutout) and stash.find(piece.stamp).kind.is_plain and piece.opening is None:
        return _holes(piece, stash)
    return NOTHING


def _holes(piece: Cutout, stash: Stash) -> Area:
    """Return the openings of a die cut in place: as they are cut, or what is left of them in one that was changed."""
    pockets = [to_area(ring) for ring in stash.find(piece.stamp).pockets]
    if piece.across or piece.down or piece.cut_away:
        parts = shapely.get_parts(local_area(piece, stash))
        holes = [Polygon(ring) for part in parts for ring in part.interiors]
        return place(only_areas(shapely.union_all(holes)), piece) if holes else NOTHING
    if not pockets:
        return NOTHING
    openings = only_areas(shapely.union_all(pockets))
    return place(scale(openings, -1, 1, origin=(0, 0)) if piece.flipped else openings, piece)


def opening_of(piece: Piece, stash: Stash) -> Area:
    """Return what is open of a piece that others are kept within: its windows, or else its outline."""
    windows = window_area(piece, stash)
    return footprint(piece, stash) if windows.is_empty else windows


def flap_areas(piece: PaperPiece, whole: Area) -> list[Area]:
    """Return what of a piece's area each of its flaps is, about the piece's middle; earlier flaps come first."""
    areas, left = [], whole
    for flap in piece.flaps:
        ring = to_area(flap.ring)
        areas.append(only_areas(shapely.intersection(left, ring)))
        left = only_areas(shapely.difference(left, ring))
    return areas


class _Cut:
    """What of a stash thing shapes a cutout; equal by that alone, so that it can be kept."""

    def __init__(self, stamp: Stamp) -> None:
        margin = stamp.die_margin_mm or 0.0
        self.what = (stamp.outline, open_pockets(stamp), margin)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Cut) and self.what == other.what

    def __hash__(self) -> int:
        return hash(self.what)


@lru_cache(maxsize=1024)
def _stamped(outline: Ring, open_: tuple[Ring, ...], inked: Ring | None) -> Area:
    area = to_area(outline, open_)
    return area if inked is None else only_areas(shapely.intersection(area, to_area(inked)))


def _cut(piece: Cutout, cuts: tuple[_Cut, ...]) -> Area:
    places = tuple((part.x, part.y, part.angle_deg) for part in piece.joined)
    if (piece.across or piece.down) and piece.opening is None:
        whole = _grown(cuts[0], piece.across, piece.down, piece.flipped)
    else:
        whole = _cut_kept(cuts, places, piece.margin_mm, piece.flipped, piece.opening)
    if not piece.cut_away:
        return whole
    return only_areas(shapely.difference(whole, shapely.union_all([to_area(ring) for ring in piece.cut_away])))


@lru_cache(maxsize=1024)
def _cut_kept(
    cuts: tuple[_Cut, ...],
    places: tuple[tuple[float, float, float], ...],
    margin_mm: float | None,
    is_flipped: bool,
    opening: int | None,
) -> Area:
    outline, pockets, die_margin = cuts[0].what
    if opening is not None:
        whole: Area = to_area(pockets[opening]) if opening < len(pockets) else NOTHING
    else:
        shapes: list[Area] = [to_area(outline, pockets)]
        for cut, (x, y, angle) in zip(cuts[1:], places, strict=True):
            shapes.append(turn_area(to_area(*cut.what[:2]), angle, x, y))
        whole = only_areas(shapely.union_all(shapes))
        margin = die_margin if margin_mm is None else margin_mm
        if margin > 0:
            whole = only_areas(shapely.buffer(whole, margin, quad_segs=8))
    return scale(whole, -1, 1, origin=(0, 0)) if is_flipped else whole


@lru_cache(maxsize=128)
def _grown(cut: _Cut, across: tuple[Cut, ...], down: tuple[Cut, ...], is_flipped: bool) -> Area:
    outline, pockets, _ = cut.what
    whole = grow_area(to_area(outline, pockets), across, down)
    return scale(whole, -1, 1, origin=(0, 0)) if is_flipped else whole


def grow_area(area: Area, across: Sequence[Cut], down: Sequence[Cut]) -> Area:
    """Return a frame die made wider and higher by joining cuts of it, about its own middle, mm."""
    if across:
        area = glue(lay_area(area, across))
    if down:  # the same, with the axes exchanged
        area = _exchanged(glue(lay_area(_exchanged(area), down)))
    left, top, right, bottom = area.bounds
    return translate(area, -(left + right) / 2, -(top + bottom) / 2)


def _exchanged(area: Area) -> Area:
    return shapely.transform(area, lambda points: points[:, ::-1])


def _window(window: Window) -> Area:
    return translate(form_area(window.form), window.x, window.y)


@lru_cache(maxsize=512)
def _panel(form: Form, windows: tuple[Window, ...]) -> Area:
    area: Area = form_area(form)
    if windows:
        area = only_areas(shapely.difference(area, shapely.union_all([_window(one) for one in windows])))
    return area


@lru_cache(maxsize=512)
def _strip(width: float, height: float, left: End, right: End) -> Area:
    """Return a strip about its middle; a fishtail's notch is half as deep as it is high, a folded tail as long."""
    area: Area = strip_front(width, height, left, right)
    for tail in strip_tails(width, height, left, right):
        area = only_areas(shapely.union(area, tail))
    return area


def strip_front(width: float, height: float, left: End, right: End) -> Polygon:
    """Return a strip about its middle without what of folded ends shows behind it."""
    half_x, half_y = width / 2, height / 2
    front = Polygon([*_end(half_x, half_y, right, 1.0), *_end(half_x, half_y, left, -1.0)[::-1]])
    radius = min(TAG_HOLE_MM / 2, half_y / 3)
    for end, side in ((left, -1.0), (right, 1.0)):
        if end == "tag":
            hole = Point(side * (half_x - min(half_y, half_x)), 0).buffer(radius, quad_segs=8)
            front = Polygon(front.exterior.coords, [*(ring.coords for ring in front.interiors), hole.exterior.coords])
    return front


def strip_tails(width: float, height: float, left: End, right: End) -> tuple[Polygon, ...]:
    """Return the tails of a strip's folded ends about its middle: their back is seen, they begin under the strip."""
    return tuple(_tail(width / 2, height, side) for end, side in ((left, -1.0), (right, 1.0)) if end == "folded")


def _end(half_x: float, half_y: float, end: End, side: float) -> list[tuple[float, float]]:
    """Return the corners of one end from its upper to its lower edge."""
    notch = min(half_y, half_x)
    if end == "fishtail":
        return [(side * half_x, -half_y), (side * (half_x - notch), 0.0), (side * half_x, half_y)]
    if end == "tag":
        cut = notch * 0.55
        far, near = side * half_x, side * (half_x - cut)
        return [(near, -half_y), (far, -half_y + cut), (far, half_y - cut), (near, half_y)]
    return [(side * half_x, -half_y), (side * half_x, half_y)]


def _tail(half_x: float, height: float, side: float) -> Polygon:
    """Return the tail behind a folded end: it begins under the strip, shows below it and ends in a fishtail."""
    inner, outer = half_x - height * 0.6, half_x + height * 0.9
    top, bottom = -height / 2 + height * 0.3, height / 2 + height * 0.3
    ring = [(inner, top), (outer, top), (outer - height * 0.4, (top + bottom) / 2), (outer, bottom), (inner, bottom)]
    return Polygon([(side * x, y) for x, y in ring])


@lru_cache(maxsize=256)
def _border(outline: Ring, die_mm: float, length: float, start: float, is_flipped: bool) -> Area:
    """Return the die's shape set end to end and trimmed to a length, about its middle."""
    die = translate(to_area(outline), die_mm / 2, 0)
    first, last = math.floor(start / die_mm), math.ceil((start + length) / die_mm)
    # neighbouring cuts are taken together over a hair's breadth: they are glued up as one
    row = shapely.union_all([translate(die, number * die_mm, 0) for number in range(first, last)], grid_size=1e-6)
    _, top, _, bottom = row.bounds
    cut = shapely.intersection(row, box(start, top, start + length, bottom))
    moved = translate(cut, -start - length / 2, 0)
    return only_areas(scale(moved, -1, 1, origin=(0, 0)) if is_flipped else moved)


def reaches(cuts: Sequence[Cut], length_mm: float) -> bool:
    """Whether cuts reach just from end to end of a length, within a twentieth of a millimetre."""
    if not cuts:
        return False
    last = cuts[-1]
    return abs(cuts[0].at_mm) < REACH_MM and abs(last.at_mm + last.to_mm - last.from_mm - length_mm) < REACH_MM


@lru_cache(maxsize=256)
def lay_cuts(outline: Ring, pockets: tuple[Ring, ...], die_mm: float, cuts: tuple[Cut, ...]) -> tuple[Area, ...]:
    """Cut a die and lay its cuts side by side, the border's left end at 0, mm."""
    return lay_area(translate(to_area(outline, pockets), die_mm / 2, 0), cuts)


def lay_area(die: shapely.Geometry, cuts: Sequence[Cut]) -> tuple[Area, ...]:
    """Cut a die of any area and lay its cuts side by side; places are from the left end of its bounds."""
    left, top, _, bottom = shapely.bounds(die).tolist()
    die = translate(die, -left, 0)
    laid = []
    for cut in cuts:
        piece = shapely.intersection(die, box(cut.from_mm, top, cut.to_mm, bottom))
        if cut.flipped:
            piece = scale(piece, -1, 1, origin=((cut.from_mm + cut.to_mm) / 2, 0))
        laid.append(only_areas(translate(piece, cut.at_mm - cut.from_mm, 0)))
    return tuple(laid)


def glue(parts: Sequence[Area]) -> Area:
    """Take overlapping cuts together; those that only touch are taken together over a hair's breadth."""
    try:
        return only_areas(shapely.union_all(list(parts), grid_size=1e-6))
    except shapely.errors.GEOSException:  # snapping to the grid can cross edges that nearly meet
        return only_areas(shapely.union_all(list(parts)))


@lru_cache(maxsize=256)
def _joined(
    outline: Ring, pockets: tuple[Ring, ...], die_mm: float, length: float, cuts: tuple[Cut, ...], is_flipped: bool
) -> Area:
    """Return a border joined from cuts, about its middle."""
    moved = translate(glue(lay_cuts(outline, pockets, die_mm, cuts)), -length / 2, 0)
    return only_areas(scale(moved, -1, 1, origin=(0, 0)) if is_flipped else moved)


SHAPES: Mapping[type[Placed], Callable[[Any, Stash], Area]] = MappingProxyType(
    {
        Impression: _from_stash,
        Cutout: _from_stash,
        Border: _from_stash,
        Panel: lambda piece, _: _panel(piece.form, piece.windows),
        Strip: lambda piece, _: _strip(piece.width_mm, piece.height_mm, piece.left, piece.right),
        Embellishment: lambda piece, _: spots_area(piece.shape, piece.size_mm, piece.spots),
    }
)
"""Area of each kind of piece but washes about its middle: one row a kind."""
