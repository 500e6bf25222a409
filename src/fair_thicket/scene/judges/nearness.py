"""Edges that kiss: pieces that just miss each other, and pieces that overlap by a hair."""

import math
from collections.abc import Iterator, Sequence
from functools import partial

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from fair_thicket import edits
from fair_thicket.model.card import is_sheet
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import Embellishment, Piece
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.scene.judges.facts import Draft, Facts, Offer, capital
from fair_thicket.shape.outline import Area, only_areas, to_rings
from fair_thicket.shape.paper import window_area
from fair_thicket.shape.prepared import prepared

OVERLAP_BY_MM = 2.0
"""How far a near-touch is pushed together: an overlap that is plainly meant (common practice)."""
LEAVE_MM = 3.0
FLUSH_SHARE = 0.95
"""An inlay takes up more of its opening than this, and no more of it lies beyond (common practice: cut by one die)."""
MOST_NEAR = 12
SEEN_BESIDE_MM = 0.4


def judge_near(facts: Facts) -> Iterator[Draft]:
    """Pairs whose edges nearly touch, where that is seen; the nearest first."""
    pieces = [piece for piece in facts.pieces if _counts(facts, piece)]
    areas = [facts.area(piece.id) for piece in pieces]
    within = facts.limits.near_mm
    drafts: list[Draft] = []
    overlaps = _overlaps(facts)
    for i, j in _close_pairs(areas, within, [piece.id for piece in pieces], overlaps):
        back, front = pieces[i], pieces[j]
        if facts.is_family(back, front) or is_inlay(facts, back, front) or is_inlay(facts, front, back):
            continue
        common = overlaps.get((back.id, front.id), 0.0)
        if common > OVERLAP_MM2:
            shared = shapely.intersection(areas[i], areas[j])
            told = _tell_hair(facts, back, front, only_areas(shared)) if _is_hair(shared, within) else None
        else:
            gap = float(areas[i].distance(areas[j]))
            told = _tell_gap(facts, back, front, gap) if gap < within else None
        if told is not None:
            drafts.append(told)
    yield from sorted(drafts, key=lambda one: one.finding.measure)[:MOST_NEAR]


def is_inlay(facts: Facts, piece: Piece, frame: Piece) -> bool:
    """Whether a piece fills an opening of another flush, dropped into it: meeting all round is meant."""
    openings = window_area(frame, facts.stash)
    if openings.is_empty:
        return False
    area = facts.area(piece.id)
    for opening in shapely.get_parts(openings):
        shared = shapely.intersection(opening, area).area
        if shared > FLUSH_SHARE * opening.area and shared > FLUSH_SHARE * area.area:
            return True
    return False


def _close_pairs(
    areas: Sequence[Area], within: float, ids: Sequence[str], overlaps: dict[tuple[str, str], float]
) -> list[tuple[int, int]]:
    """Pairs of areas that come within a distance of each other or overlap by no more than a hair can, i < j."""
    if len(areas) < 2:
        return []
    shapes = np.array(list(areas), dtype=object)
    bounds = shapely.bounds(shapes) + np.array([-within, -within, within, within])
    first, second = shapely.STRtree(shapes).query(shapely.box(*bounds.T))
    keep = first < second
    pairs = sorted(zip(first[keep].tolist(), second[keep].tolist(), strict=True))
    shared = [overlaps.get((ids[i], ids[j]), 0.0) for i, j in pairs]
    apart = [pair for pair, area in zip(pairs, shared, strict=True) if area <= OVERLAP_MM2]
    # a hair as long as half the way round the smaller piece is the largest that there can be
    most = [within * area.length / 2 for area in areas]
    hairs = [(i, j) for (i, j), area in zip(pairs, shared, strict=True) if OVERLAP_MM2 < area <= min(most[i], most[j])]
    if apart:
        one, other = (shapes[list(side)] for side in zip(*apart, strict=True))
        close = shapely.dwithin(prepared(one), other, within)
        apart = [pair for pair, is_close in zip(apart, close.tolist(), strict=True) if is_close]
    return sorted(apart + hairs)


def _is_hair(shared: BaseGeometry, within: float) -> bool:
    # a shape holds a disc of radius area by length: what is plainly wider need not be looked at closer
    if 2 * shared.area >= within * shared.length:
        return False
    return bool(shapely.buffer(shared, -within / 2).is_empty)


def _overlaps(facts: Facts) -> dict[tuple[str, str], float]:
    """Area that each pair of pieces shares, by their ids in the order of the card."""
    found: dict[tuple[str, str], float] = {}
    place = {piece.id: index for index, piece in enumerate(facts.card.pieces)}
    for (i, j), area in facts.view.shared.items():
        first, second = sorted((facts.view.leaves[i].piece.id, facts.view.leaves[j].piece.id), key=place.__getitem__)
        found[first, second] = found.get((first, second), 0.0) + area
    return found


def _counts(facts: Facts, piece: Piece) -> bool:
    """Ground for others does not kiss, nor do sequins; words have a rule of their own."""
    return not is_sheet(piece) and not isinstance(piece, Embellishment) and piece.id not in facts.greetings


def _is_seen(facts: Facts, first: Piece, second: Piece, place: shapely.Geometry) -> bool:
    """Whether something of both is seen beside a place."""
    spot = shapely.buffer(place, SEEN_BESIDE_MM)
    return bool(facts.seen(first.id).intersects(spot) and facts.seen(second.id).intersects(spot))


def _tell_gap(facts: Facts, back: Piece, front: Piece, gap: float) -> Draft | None:
    line = shapely.shortest_line(facts.area(back.id), facts.area(front.id))
    if not _is_seen(facts, back, front, line):
        return None
    first, second = facts.names[back.id], facts.names[front.id]
    is_apart = round(gap, 1) > 0
    how = f"Gap {gap:.1f} mm." if is_apart else "Their edges meet in a point."
    finding = Finding(
        "near",
        Weight.CAUTION,
        f"{capital(first)} just {'misses' if is_apart else 'touches'} the {second}",
        f"{how} Let them overlap plainly or keep {facts.limits.near_mm:g} mm and more between them, so that their "
        "edges do not kiss.",
        gap,
        "mm",
        (back.id, front.id),
        to_rings(shapely.buffer(line, 1.5, quad_segs=4)),
    )
    return Draft(finding, lambda: _parting(facts, back, front))


def _tell_hair(facts: Facts, back: Piece, front: Piece, shared: Area) -> Draft | None:
    if not _is_seen(facts, back, front, shared):
        return None
    deep = 2 * float(shapely.maximum_inscribed_circle(shared, tolerance=0.02).length)
    first, second = facts.names[back.id], facts.names[front.id]
    finding = Finding(
        "tangent",
        Weight.CAUTION,
        f"{capital(second)} just touches the {first}",
        f"They overlap by only {deep:.1f} mm, which looks like a slip. Overlap plainly or part them.",
        deep,
        "mm",
        (back.id, front.id),
        to_rings(shapely.buffer(shared, 1.2, quad_segs=4)),
    )
    return Draft(finding, lambda: _parting(facts, back, front))


def _parting(facts: Facts, back: Piece, front: Piece) -> Iterator[Offer]:
    """Offer to move one of two kissing pieces apart or together along the shortest line between them."""
    areas = {piece.id: facts.area(piece.id) for piece in (back, front)}
    line = shapely.shortest_line(areas[front.id], areas[back.id])
    (x0, y0), (x1, y1) = line.coords[0], line.coords[-1]
    length = math.hypot(x1 - x0, y1 - y0)
    if length < 1e-6:
        (x0, y0), (x1, y1) = (areas[key].representative_point().coords[0] for key in (front.id, back.id))
        length = math.hypot(x1 - x0, y1 - y0) or 1.0
    toward = ((x1 - x0) / length, (y1 - y0) / length)
    gap = areas[front.id].distance(areas[back.id])
    for mover, sign in ((front, 1.0), (back, -1.0)):
        for distance in (gap + OVERLAP_BY_MM, gap - LEAVE_MM, gap + 2 * OVERLAP_BY_MM, gap - 2 * LEAVE_MM):
            by = (sign * toward[0] * distance, sign * toward[1] * distance)
            apart = distance < gap
            words = f"Leave {facts.say(gap - distance)} between" if apart else f"Overlap by {facts.say(distance - gap)}"
            yield words, partial(edits.move_by, facts.work, {mover.id}, by)
