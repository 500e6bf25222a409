"""Ground and hold: feet that float or sink, and props that have come out of the hand."""

import math
from collections.abc import Iterator
from functools import partial
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import LineString, Point

from fair_thicket import edits
from fair_thicket.model.card import Work, is_figure
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import Embellishment, Panel, Piece, Strip, Texture, Wash
from fair_thicket.scene.judges.facts import Draft, Facts, Offer, capital, place_points, stamp_of
from fair_thicket.shape.outline import to_rings

TUCK_MM = 1.0
"""Feet that come down are tucked this far into what they stand on."""
FAR_MM = 60.0
HEAD_SHARE = 0.25
"""Ink that reaches up behind the head is sky; ink that ends below it is ground (our own convention)."""


class Stand(NamedTuple):
    """A figure's feet in place: their line, its middle, and whether the line is only a guess."""

    line: LineString
    middle: tuple[float, float]
    is_guess: bool


def stand_of(facts: Facts, piece: Piece) -> Stand | None:
    """Where a figure stands; None for what flies, is held or has no feet."""
    stamp = stamp_of(piece, facts)
    if stamp is None or not is_figure(piece, facts.stash) or piece.held is not None:
        return None
    marks = stamp.marks
    if marks.feet is None or marks.flies:
        return None
    points = place_points(piece, marks.feet)
    (x0, y0), (x1, y1) = points.tolist()
    return Stand(LineString(points), ((x0 + x1) / 2, (y0 + y1) / 2), marks.is_guess)


def judge_ground(facts: Facts) -> Iterator[Draft]:
    """Figures whose feet end above their ground, or so far below its edge that they look sunk."""
    for piece in facts.pieces:
        stand = stand_of(facts, piece)
        if stand is None:
            continue
        if _is_cut_off(facts, piece, stand) or _hangs(facts, piece) or _stands_on_ink(facts, piece, stand):
            continue
        ground = _ground(facts, piece)
        gap, onto = _gap_below(facts, stand, ground)
        if gap > facts.limits.ground_mm:
            yield _tell_floating(facts, piece, stand, gap, onto)
        else:
            sunk = _tell_sunk(facts, piece, stand)
            if sunk is not None:
                yield sunk


def _is_cut_off(facts: Facts, piece: Piece, stand: Stand) -> bool:
    """Whether trimming has taken the feet off: along a bubble's line, or the frame's."""
    feet = shapely.buffer(stand.line, facts.limits.ground_mm)
    return not facts.area(piece.id).intersects(feet)


def _hangs(facts: Facts, piece: Piece) -> bool:
    """Whether a figure hangs on something that flies: it holds it, or a hand of its lies on it."""
    stamp = stamp_of(piece, facts)
    hands = [contact.at for contact in stamp.marks.contacts if contact.what == "hand"] if stamp else []
    spots = [Point(spot) for spot in place_points(piece, hands).tolist()] if hands else []
    for other in facts.pieces:
        its = stamp_of(other, facts)
        if other.id == piece.id or its is None or not its.marks.flies:
            continue
        if other.held is not None and other.held.by == piece.id:
            return True
        if any(facts.area(other.id).distance(spot) <= facts.limits.contact_mm for spot in spots):
            return True
    return False


def _stands_on_ink(facts: Facts, piece: Piece, stand: Stand) -> bool:
    """Whether the feet stand on inked ground: a wash whose edge runs behind the figure, or texture under its feet."""
    feet = shapely.buffer(stand.line, facts.limits.ground_mm)
    left, top, right, bottom = facts.area(piece.id).bounds
    head = shapely.box(left, top, right, top + HEAD_SHARE * (bottom - top))
    for other in facts.pieces:
        if isinstance(other, Wash) and other.is_ground:
            area = facts.area(other.id)
            reach = other.pitch_mm if isinstance(other, Texture) else 0.0
            if shapely.dwithin(area, feet, reach) and not area.intersects(head):
                return True
    return False


def _ground(facts: Facts, piece: Piece) -> list[Piece]:
    """Return what a figure may stand on: everything that is not plain sheet, words or hung on it."""
    return [
        other
        for other in facts.pieces
        if other.id != piece.id
        and not isinstance(other, Panel | Wash | Strip | Embellishment)
        and other.id not in facts.greetings
        and other.on != piece.id
        and not (other.held and other.held.by == piece.id)
    ]


def _gap_below(facts: Facts, stand: Stand, ground: list[Piece]) -> tuple[float, str]:
    """How far the feet end above the nearest thing to stand on, and which that is; the panel's foot is ground too."""
    surface = facts.paper.bounds[3]
    best, onto = max(0.0, surface - stand.middle[1]), ""
    ground = _below(facts, stand, ground)
    feet = shapely.buffer(stand.line, facts.limits.ground_mm)
    (x0, _), (x1, _) = stand.line.coords
    for other in ground:
        area = facts.area(other.id)
        if area.intersects(feet):
            return 0.0, other.id
        for share in (0.2, 0.5, 0.8):
            x = x0 + (x1 - x0) * share
            ray = LineString([(x, stand.middle[1]), (x, stand.middle[1] + FAR_MM)])
            hit = shapely.intersection(area, ray)
            if not hit.is_empty:
                gap = float(hit.bounds[1]) - stand.middle[1]
                if 0 <= gap < best:
                    best, onto = gap, other.id
    return best, onto


def _below(facts: Facts, stand: Stand, ground: list[Piece]) -> list[Piece]:
    """Return of what may be stood on only what lies under the feet at all, by its box."""
    if not ground:
        return []
    left, top, right, bottom = shapely.bounds(np.array([facts.area(piece.id) for piece in ground], dtype=object)).T
    (x0, y0), (x1, y1) = stand.line.coords
    reach = facts.limits.ground_mm
    near = (left <= max(x0, x1) + reach) & (right >= min(x0, x1) - reach)
    near &= (bottom >= min(y0, y1, stand.middle[1]) - reach) & (top <= stand.middle[1] + FAR_MM + reach)
    return [ground[index] for index in np.flatnonzero(near).tolist()]


def _tell_floating(facts: Facts, piece: Piece, stand: Stand, gap: float, onto: str) -> Draft:
    name = facts.names[piece.id]
    ground = facts.the(onto) if onto else "the panel's lower edge"
    x, y = stand.middle
    place = shapely.buffer(LineString([(x, y), (x, y + gap)]), 1.0, quad_segs=4)
    reason = (
        "Figures need ground: feet on an edge, in grass or on a branch."
        if not stand.is_guess
        else "If it needs no ground, say so among its marks at the Stash."
    )
    finding = Finding(
        "floats",
        Weight.NOTE if stand.is_guess else Weight.CAUTION,
        f"{capital(name)} floats",
        f"Its feet end {facts.say(gap)} above {ground}. {reason}",
        gap,
        "mm",
        (piece.id, onto) if onto else (piece.id,),
        to_rings(place),
    )

    def offers() -> Iterator[Offer]:
        for extra in (TUCK_MM, 0.2, 2 * TUCK_MM):
            down = gap + (extra if onto else 0.0)
            yield f"Move it {facts.say(down)} down", partial(edits.move_by, facts.work, {piece.id}, (0, down))

    return Draft(finding, offers)


def _tell_sunk(facts: Facts, piece: Piece, stand: Stand) -> Draft | None:
    """Measure how much of a figure's height above its feet is under what stands before them."""
    area, seen = facts.area(piece.id), facts.seen(piece.id)
    x, y = stand.middle
    column = LineString([(x, y), (x, area.bounds[1])])
    whole = shapely.intersection(area, column)
    shown = shapely.intersection(seen, column)
    if whole.length <= 0 or not shown.length:
        return None
    height = y - float(whole.bounds[1])
    deep = y - float(shown.bounds[3])
    if height <= 0 or deep / height <= facts.limits.sunk_share:
        return None
    place = shapely.buffer(LineString([(x, y), (x, y - deep)]), 1.0, quad_segs=4)
    finding = Finding(
        "sunk",
        Weight.NOTE,
        f"{capital(facts.names[piece.id])} looks sunk",
        f"{facts.say(deep)} of it, {deep / height:.0%} of its height, are below the edge of what stands before it.",
        deep / height,
        "share",
        (piece.id,),
        to_rings(place),
    )

    def offers() -> Iterator[Offer]:
        for target in (0.9, 0.6, 0.3):
            up = deep - target * facts.limits.sunk_share * height
            yield f"Move it {facts.say(up)} up", partial(edits.move_by, facts.work, {piece.id}, (0, -up))

    return Draft(finding, offers)


def judge_holds(facts: Facts) -> Iterator[Draft]:
    """Pieces that belong to a point of another and are no longer there."""
    for piece in facts.pieces:
        if piece.held is None or piece.held.by not in facts.leaves_of:
            continue
        holder = facts.card.find(piece.held.by)
        own = place_points(piece, [piece.held.own])[0].tolist()
        wanted = place_points(holder, [piece.held.at])[0].tolist()
        apart = math.dist(own, wanted)
        if apart <= facts.limits.contact_mm:
            continue
        by = (wanted[0] - own[0], wanted[1] - own[1])
        line = LineString([own, wanted])
        finding = Finding(
            "apart",
            Weight.CAUTION,
            f"{capital(facts.names[piece.id])} has come away",
            f"It belongs to {facts.the(holder.id)}; the points that meet are {facts.say(apart)} apart.",
            apart,
            "mm",
            (piece.id, holder.id),
            to_rings(shapely.union(shapely.buffer(line, 0.6), Point(wanted).buffer(1.5))),
        )
        yield Draft(finding, partial(_putting_back, facts.work, piece.id, by))


def _putting_back(work: Work, key: str, by: tuple[float, float]) -> list[Offer]:
    return [("Put it back", partial(edits.move_by, work, {key}, by))]
