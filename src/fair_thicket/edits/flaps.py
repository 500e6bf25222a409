"""Flaps: a part of a paper piece sent in front of or behind another piece, by a line or by picking a strand.

Glossary
--------
root
    Where a flap goes over into its body: the paper is whole there.
slit
    A cut along the root through which another piece goes; it must end inside the paper, or the piece falls apart.
strand
    A thin part that hangs on a thicker one, such as a vine on a frame; or a part that is separate altogether.
"""

import itertools
from collections.abc import Sequence
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import LineString, MultiLineString, Point, Polygon, box

from fair_thicket.edits.pieces import set_pieces
from fair_thicket.model.basics import Point as Spot
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work, carried_by, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Flap, Glued, Impression, Piece
from fair_thicket.shape.outline import Area, only_areas, to_area, to_rings, turn_points
from fair_thicket.shape.paper import footprint, local_area, place

SLIT_SPARE_MM = 1.0
"""A slit reaches this far beyond what goes through it on either side (common practice)."""
MOST_SHARE, LEFT_SHARE = 0.5, 0.02
"""What takes more of a sheet is no strand of it; and so much of a sheet must be left to glue it by."""
TOUCH_MM = 0.3
TOUCHING_MM = 0.002
"""Parts that were cut from one area share an edge; grown by this they are one again."""
THINNEST_MM, WIDENING = 0.5, 1.3
"""Where the search for strands begins, half a strand's width, and by how much each step is wider."""
ENCLOSE_MM = 0.02
LEAST_PART_MM2 = 0.05


def to_local(piece: Piece, points: Sequence[Spot]) -> list[Spot]:
    """Points of the panel as seen from a piece's middle, unturned, mm."""
    away = [(x - piece.x, y - piece.y) for x, y in points]
    return [(float(x), float(y)) for x, y in turn_points(away, -piece.angle_deg, 0, 0)]


def part_by_line(work: Work, key: str, start: Spot, end: Spot, toward: Spot) -> Ring:
    """Part of a piece on one side of a line drawn across it.

    Parameters
    ----------
    start, end : (x, y)
        Two points of the line on the panel, mm; it is taken to reach across the whole piece.
    toward : (x, y)
        A point on the side that is meant.

    Returns
    -------
    ring
        Encloses the part, mm from the piece's middle.

    Raises
    ------
    PaperError
        When the line does not part the piece.
    """
    piece = _paper_piece(work, key)
    ring = side_of_line(work, piece, start, end, toward)
    # of a frame the line parts the bars as well as the strand: only what hangs together with the point is meant
    parts = shapely.get_parts(shapely.intersection(local_area(piece, work.stash), to_area(ring)))
    (meant,) = to_local(piece, [toward])
    areas = [part for part in parts if isinstance(part, Polygon) and part.area > LEAST_PART_MM2]
    if len(areas) < 2:
        return ring
    nearest = min(areas, key=lambda part: part.distance(Point(meant)))
    return _plain(only_areas(shapely.buffer(nearest, ENCLOSE_MM, join_style="mitre")))


def side_of_line(work: Work, piece: Piece, start: Spot, end: Spot, toward: Spot) -> Ring:
    """Return the part of any piece on one side of a line, as `part_by_line` does."""
    own = local_area(piece, work.stash)
    (x0, y0), (x1, y1), meant = to_local(piece, [start, end, toward])
    length = float(np.hypot(x1 - x0, y1 - y0))
    if length < 0.5:
        raise PaperError("Draw the line across the piece, longer than half a millimetre.")
    along = np.array([x1 - x0, y1 - y0]) / length
    across = np.array([-along[1], along[0]])
    if np.dot(across, np.array(meant) - (x0, y0)) < 0:
        across = -across
    left, top, right, bottom = own.bounds
    far = float(np.hypot(right - left, bottom - top)) + length
    middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
    corners = [
        middle - far * along,
        middle + far * along,
        middle + far * (along + across),
        middle + far * (across - along),
    ]
    side = shapely.intersection(Polygon(corners), box(left - 1, top - 1, right + 1, bottom + 1))
    part = shapely.intersection(own, side)
    if part.area < 0.5 or own.area - part.area < 0.5:
        raise PaperError(f"The line does not part the {name_pieces(work)[piece.id]}; draw it across.")
    return _plain(only_areas(side))


def part_by_ring(work: Work, key: str, drawn: Sequence[Spot]) -> Ring:
    """Return the part of a piece within a way drawn round it, as a ring, mm from the piece's middle.

    Parameters
    ----------
    drawn : sequence of (x, y)
        On the panel, mm; its ends are joined.

    Raises
    ------
    PaperError
        When it encloses nothing of the piece, or all of it, or falls apart into several parts.
    """
    piece = _paper_piece(work, key)
    name = name_pieces(work)[key]
    if len(drawn) < 3:
        raise PaperError(f"Draw all the way round the part of the {name} that is to be lifted.")
    ring = only_areas(shapely.make_valid(Polygon(to_local(piece, drawn))))
    own = local_area(piece, work.stash)
    part = only_areas(shapely.intersection(own, ring))
    if part.area < 0.5 or own.area - part.area < 0.5:
        raise PaperError(f"That parts nothing off the {name}: draw round a part of it, not beside it or round all.")
    if len(shapely.get_parts(part)) > 1:
        raise PaperError(f"That takes in several parts of the {name} at once; draw round one of them.")
    return _plain(only_areas(shapely.simplify(ring, 0.05)))


def strands_of(piece: Piece, work: Work) -> list[Area]:
    """Strands of a piece in place, the largest first: parts that are separate, and thin ones that hang on thicker."""
    own = local_area(piece, work.stash)
    parts = [part for part in shapely.get_parts(own) if isinstance(part, Polygon)]
    found: list[Polygon] = []
    if len(parts) > 1:
        found += sorted(parts, key=lambda part: -part.area)[1:]
    body = max(parts, key=lambda part: part.area)
    reach, thin = _thin_parts(body)
    # corners that the rounding left over are no strands: a strand is longer than it is wide
    slender = [
        part
        for part in shapely.get_parts(thin)
        if isinstance(part, Polygon) and part.area > 2 * reach * reach and part.length > 6 * reach
    ]
    found += _with_tips(body, slender)
    return [place(part, piece) for part in sorted(found, key=lambda part: -part.area)]


def _with_tips(body: Polygon, slender: list[Polygon]) -> list[Polygon]:
    """Return strands together with what hangs on them and on nothing else: a leaf or a flower at the tip."""
    if not slender:
        return []
    rest = [part for part in shapely.get_parts(shapely.difference(body, shapely.union_all(slender))) if part.area > 0]
    main = max(rest, key=lambda part: part.area, default=None)
    tips = [part for part in rest if part is not main and isinstance(part, Polygon)]
    joined = shapely.union_all([shapely.buffer(part, TOUCHING_MM, join_style="mitre") for part in (*slender, *tips)])
    if main is not None:
        joined = shapely.difference(joined, main)
    whole = only_areas(shapely.intersection(joined, body))
    return [
        part
        for part in shapely.get_parts(whole)
        if isinstance(part, Polygon) and any(part.intersects(one.representative_point()) for one in slender)
        if part.area < MOST_SHARE * body.area
    ]


def _thin_parts(body: Polygon) -> tuple[float, Area]:
    """Find what is thin in a body, and how thin that is.

    Notes
    -----
    What an opening of the shape takes away grows with the opening's reach: first leaflets, then whole strands, and
    at last the body itself. Strands are what is taken where it grows least from one reach to the next.
    """
    most = float(shapely.maximum_inscribed_circle(body, tolerance=0.05).length)
    steps = [THINNEST_MM]
    while steps[-1] * WIDENING < 0.95 * most:
        steps.append(steps[-1] * WIDENING)
    found = [_opened(body, reach) for reach in steps]
    areas = [thin.area for thin in found]
    growth = [
        (after - before) / after if 0.004 * body.area < before < MOST_SHARE * body.area else 1.0
        for before, after in itertools.pairwise(areas)
    ]
    best = min(range(len(growth)), key=lambda index: growth[index], default=0)
    return steps[best], found[best]


def _opened(body: Polygon, reach: float) -> Area:
    thick = shapely.buffer(shapely.buffer(body, -reach, quad_segs=6), reach * 1.02, quad_segs=6)
    return only_areas(shapely.difference(body, thick))


def strand_at(work: Work, key: str, at: Spot) -> Ring:
    """Strand of a piece at a point of the panel, as a ring, mm from the piece's middle.

    Raises
    ------
    PaperError
        When there is none.
    """
    piece = _paper_piece(work, key)
    for strand in strands_of(piece, work):
        if strand.distance(Point(at)) <= TOUCH_MM:
            points = to_rings(shapely.buffer(strand, ENCLOSE_MM, join_style="mitre"))[0]
            return tuple(to_local(piece, points))
    raise PaperError(f"There is no single strand of the {name_pieces(work)[key]}; draw a line across it instead.")


def send_part(work: Work, key: str, ring: Ring, *, past: str, side: Literal["over", "under"], name: str = "") -> Work:
    """Send a part of a piece over or under another piece, with a slit where the other goes through the paper.

    Raises
    ------
    PaperError
        For a stamped piece, for a piece that lies on the other, and where the slit would cut the piece in two.
    """
    piece = _paper_piece(work, key)
    other = work.card.find(past)
    names = name_pieces(work)
    if other.id == piece.id:
        raise PaperError(f"The {names[key]} cannot go past itself; choose another piece.")
    if isinstance(other, Impression) and other.on != piece.id and side == "under":
        raise PaperError(
            f"The {names[past]} is stamped: it has no paper of its own that the part could go under. Cut it out first."
        )
    if piece.id in carried_by(work.card.pieces, past) or past in carried_by(work.card.pieces, key):
        raise PaperError(f"The {names[key]} and the {names[past]} are glued to each other; no part of one can pass.")
    whole = local_area(piece, work.stash)
    if shapely.difference(whole, to_area(ring)).area < LEFT_SHARE * whole.area:
        raise PaperError(f"That is all of the {names[key]}: nothing would be left to glue it by. Lift a part of it.")
    slit = _slit_for(work, piece, ring, other, names)
    flap = Flap(tuple((round(x, 4), round(y, 4)) for x, y in ring), past, side, name, slit)
    kept = tuple(one for one in piece.flaps if not _is_same(one.ring, ring))
    return set_pieces(work, {key}, flaps=(*kept, flap))


def _is_same(first: Ring, second: Ring) -> bool:
    a, b = to_area(first), to_area(second)
    return float(shapely.symmetric_difference(a, b).area) < 0.02 * max(a.area, b.area)


def _slit_for(work: Work, piece: Glued, ring: Ring, other: Piece, names: dict[str, str]) -> tuple[Spot, Spot] | None:
    """Slit that lets `other` through the root of a part; None where it does not touch the root."""
    own = local_area(piece, work.stash)
    part = shapely.intersection(own, to_area(ring))
    root = shapely.intersection(part.boundary, shapely.buffer(shapely.difference(own, part), 1e-6))
    them = shapely.transform(
        footprint(other, work.stash),
        lambda points: np.array(to_local(piece, points.tolist())),
    )
    crossing = shapely.intersection(root, them)
    if crossing.length <= TOUCH_MM:
        return None
    lines = MultiLineString([part for part in shapely.get_parts(root) if isinstance(part, LineString)])
    whole = shapely.line_merge(lines)
    spots = np.array([point for line in shapely.get_parts(crossing) for point in getattr(line, "coords", ())])
    span = max(shapely.get_parts(whole), key=lambda line: shapely.intersection(line, them).length)
    places = [span.project(Point(spot)) for spot in spots]
    low, high = min(places) - SLIT_SPARE_MM, max(places) + SLIT_SPARE_MM
    if low <= 0 or high >= span.length:
        mine, theirs = names[piece.id], names[other.id]
        raise PaperError(
            f"The {theirs} lies right across where that part of the {mine} holds on: a slit of {high - low:.0f} mm "
            f"would cut it off, for there the paper is {span.length:.0f} mm wide. Move the {theirs}, or part the "
            f"{mine} elsewhere."
        )
    start, end = span.interpolate(low), span.interpolate(high)
    return (round(start.x, 4), round(start.y, 4)), (round(end.x, 4), round(end.y, 4))


def _paper_piece(work: Work, key: str) -> Glued:
    piece = work.card.find(key)
    if not isinstance(piece, Glued):
        name = name_pieces(work)[key]
        raise PaperError(f"The {name} is not cut out of paper, so no part of it can be lifted; cut it out first.")
    return piece


def _plain(area: Area) -> Ring:
    return tuple((round(x, 4), round(y, 4)) for x, y in to_rings(area)[0])
