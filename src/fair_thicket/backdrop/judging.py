"""What borders have to say: joints that are seen, dies set end to end, and the better way to join them."""

import itertools
from collections.abc import Callable, Sequence
from functools import lru_cache

import msgspec
import shapely

from fair_thicket.backdrop.border_judges import judge_borders
from fair_thicket.backdrop.joining import OVERLAP_MM, WINDOW_MM, Joining
from fair_thicket.backdrop.profile import find_repeat, profile_of
from fair_thicket.backdrop.spanning import span_area
from fair_thicket.backdrop.splatter import judge_splatter
from fair_thicket.backdrop.stepped import judge_stencils
from fair_thicket.backdrop.texture import judge_textures
from fair_thicket.backdrop.wash_edges import judge_edges
from fair_thicket.backdrop.washes import judge_washes
from fair_thicket.laid.hidden import hiders_of
from fair_thicket.laid.stack import stack
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import GeometryError, PaperError
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.pieces import Border
from fair_thicket.model.spans import Cut, Joint, Span
from fair_thicket.model.stash import Stamp
from fair_thicket.model.supplies import Ink
from fair_thicket.model.units import Unit, say_length
from fair_thicket.shape.outline import Area, to_area, to_rings, turn_points
from fair_thicket.shape.paper import lay_cuts, reaches

SEEN_STEP_MM = 0.3
"""Edges that differ by less at a joint are taken for one (common practice)."""
SEEN_PEEK_MM2 = 0.5
BETTER_MM2 = 0.5
OFF_BEAT_MM = 0.4
"""Another way to join must save this much to be offered."""
Stretch = tuple[float, float]


def judge(work: Work, inks: Sequence[Ink] = (), *, go_on: Callable[[], bool] = lambda: True) -> list[Finding]:
    """Judge every border that is longer than its die, every wash, and every stepped stencil.

    Parameters
    ----------
    work : Work
    inks : sequence of Ink
        The maker's own, among which a bridge between two is looked for first.
    go_on : callable
        Asked before every border; False leaves the rest of them unjudged.

    Returns
    -------
    list of Finding
        With the best way to join as the remedy, joints behind what stands in front where that is possible.
    """
    findings = judge_washes(work, inks) + judge_stencils(work) + judge_textures(work) + judge_splatter(work)
    findings += judge_borders(work, go_on=go_on) + judge_edges(work)
    for piece in work.card.pieces:
        if isinstance(piece, Border) and go_on():
            stamp = work.stash.find(piece.stamp)
            if piece.length_mm > stamp.width_mm + 0.05:
                findings += _judge_border(work, piece, stamp)
    return findings


def _judge_border(work: Work, piece: Border, stamp: Stamp) -> list[Finding]:
    name, unit = name_pieces(work)[piece.id], work.card.unit
    hidden = hidden_stretches(work, piece)
    try:
        best = best_span(stamp, piece.length_mm, hidden)
    except (PaperError, GeometryError) as problem:
        return [Finding("joint", Weight.NOTE, f"The {name} cannot be joined", str(problem), 0.0, "mm", (piece.id,))]
    words = f"Join {len(best.cuts)} cuts of its die"
    remedy = Remedy(words, pieces=(msgspec.structs.replace(piece, cuts=best.cuts),))
    if not reaches(piece.cuts, piece.length_mm):
        return [
            Finding(
                code="end-to-end",
                weight=Weight.NOTE,
                title=f"The {name} is longer than its die",
                text=f"Its die is {say_length(stamp.width_mm, unit)} long and it is set end to end. "
                f"{len(best.cuts)} cuts joined with an overlap of {OVERLAP_MM:g} mm reach, the edges "
                f"{_worst(best):.2f} mm apart at the most.{_say_hiders(work, piece, best)}",
                measure=piece.length_mm - stamp.width_mm,
                unit="mm",
                pieces=(piece.id,),
                remedy=remedy,
            )
        ]
    joints = measure_joints(stamp, piece)
    seen = [joint for joint in joints if not _is_hidden(joint, hidden) and _shows(joint)]
    if not seen:
        return _off_beat(piece, stamp, (name, unit), best, [_is_hidden(joint, hidden) for joint in joints])
    worst = max(seen, key=lambda joint: (joint.mismatch_mm, joint.peek_mm2))
    saved = sum(one.mismatch_mm * WINDOW_MM + one.peek_mm2 for one in seen) - best.cost_mm2
    return [
        Finding(
            code="joint",
            weight=Weight.CAUTION,
            title=f"A joint of the {name} is seen",
            text=f"{say_length(worst.at_mm, unit)} from its left end the edges are {worst.mismatch_mm:.1f} mm apart "
            f"and {worst.peek_mm2:.1f} mm² of the lower cut peek out.",
            measure=worst.mismatch_mm,
            unit="mm",
            pieces=(piece.id,),
            places=_places(piece, seen),
            remedy=remedy if saved > BETTER_MM2 else None,
        )
    ]


def _say_hiders(work: Work, piece: Border, found: Span) -> str:
    """Say behind what the joints of a way to join lie."""
    names = name_pieces(work)
    keys = dict.fromkeys(key for joint in found.joints for key in hiders_of(work, piece, joint.at_mm))
    which = " and the ".join(names[key] for key in keys)
    return f" Joined so, it is hidden behind the {which}." if which else ""


def _off_beat(piece: Border, stamp: Stamp, told: tuple[str, Unit], best: Span, are_hidden: list[bool]) -> list[Finding]:
    """Tell of a joint at which a repeating edge loses its beat, though the two cuts meet at one height."""
    (name, unit), repeat = told, _repeat_of(stamp.outline, stamp.pockets)
    if repeat is None or not are_hidden:
        return []
    pairs = zip(itertools.pairwise(piece.cuts), are_hidden, strict=True)
    off = [0.0 if is_hidden else beat_off(left, right, repeat) for (left, right), is_hidden in pairs]
    worst = max(range(len(off)), key=off.__getitem__)
    if off[worst] < OFF_BEAT_MM:
        return []
    remedy = Remedy(f"Join {len(best.cuts)} cuts of its die", pieces=(msgspec.structs.replace(piece, cuts=best.cuts),))
    kept = max((beat_off(left, right, repeat) for left, right in itertools.pairwise(best.cuts)), default=0.0)
    return [
        Finding(
            code="off-beat",
            weight=Weight.NOTE,
            title=f"A joint of the {name} breaks its repeat",
            text=f"Its edge repeats every {say_length(repeat, unit)}; at joint {worst + 1} one repeat is "
            f"{off[worst]:.1f} mm too long or too short.",
            measure=round(off[worst], 2),
            unit="mm",
            pieces=(piece.id,),
            remedy=remedy if kept < off[worst] - 0.1 else None,
        )
    ]


@lru_cache(maxsize=64)
def _repeat_of(outline: Ring, pockets: tuple[Ring, ...]) -> float | None:
    return find_repeat(profile_of(to_area(outline, pockets)))


def beat_off(left: Cut, right: Cut, repeat_mm: float) -> float:
    """How far a joint lies from a whole repeat, mm; 0 where one of the two is turned over: no beat to keep."""
    if left.flipped != right.flipped:
        return 0.0
    at = right.at_mm  # one place, seen on the die by either cut
    side = -1.0 if left.flipped else 1.0
    first = (left.to_mm if left.flipped else left.from_mm) + side * (at - left.at_mm)
    second = right.to_mm if right.flipped else right.from_mm
    off = (first - second) % repeat_mm
    return float(min(off, repeat_mm - off))


def _shows(joint: Joint) -> bool:
    return joint.mismatch_mm > SEEN_STEP_MM or joint.peek_mm2 > SEEN_PEEK_MM2


def _worst(found: Span) -> float:
    return max((joint.mismatch_mm for joint in found.joints), default=0.0)


def best_span(stamp: Stamp, length_mm: float, hidden: tuple[Stretch, ...] = ()) -> Span:
    """Return the best way to join a border of a die; worked out once for a die, a length and what hides it."""
    return _best_span(stamp.outline, stamp.pockets, stamp.may_flip, length_mm, hidden)


@lru_cache(maxsize=128)
def _best_span(
    outline: Ring,
    pockets: tuple[Ring, ...],
    may_flip: bool,
    length_mm: float,
    hidden: tuple[Stretch, ...],
) -> Span:
    return span_area(to_area(outline, pockets), length_mm, Joining(may_flip=may_flip), hidden)


def hidden_stretches(work: Work, piece: Border) -> tuple[Stretch, ...]:
    """Stretches of a border, mm from its left end, of which nothing is seen."""
    leaves = stack(work)
    at = next(index for index, leaf in enumerate(leaves) if leaf.key == piece.id)
    own = leaves[at].area
    fronts = [leaf.area for leaf in leaves[at + 1 :] if leaf.hides and leaf.area.intersects(own)]
    seen = shapely.difference(own, shapely.union_all(fronts)) if fronts else own
    spans = sorted(_extent(part, piece) for part in shapely.get_parts(seen) if part.area > 0.01)
    hidden, reached = [], 0.0
    for start, end in spans:
        if start > reached + 0.01:
            hidden.append((round(reached, 2), round(start, 2)))
        reached = max(reached, end)
    if reached < piece.length_mm - 0.01:
        hidden.append((round(reached, 2), round(piece.length_mm, 2)))
    return tuple(hidden)


def _extent(part: shapely.Geometry, piece: Border) -> Stretch:
    points = shapely.get_coordinates(part)
    local = turn_points(points - (piece.x, piece.y), -piece.angle_deg, 0, 0)[:, 0]
    if piece.flipped:
        local = -local
    return float(local.min()) + piece.length_mm / 2, float(local.max()) + piece.length_mm / 2


def _is_hidden(joint: Joint, hidden: tuple[Stretch, ...]) -> bool:
    return any(start <= joint.at_mm - OVERLAP_MM and joint.at_mm + OVERLAP_MM <= end for start, end in hidden)


def measure_joints(stamp: Stamp, piece: Border) -> list[Joint]:
    """Measure the joints of a border as it is joined, on its paper: each the better way round.

    Notes
    -----
    Plain polygons, not columns: what peeks out over the whole overlap, how the edges differ over 2 mm of it.
    """
    laid = lay_cuts(stamp.outline, stamp.pockets, stamp.width_mm, piece.cuts)
    joints = []
    for number in range(len(laid) - 1):
        start = piece.cuts[number + 1].at_mm
        end = piece.cuts[number].at_mm + piece.cuts[number].to_mm - piece.cuts[number].from_mm
        ways = [_measure(laid[number], laid[number + 1], (start, end), left_over=left) for left in (True, False)]
        joints.append(min(ways, key=lambda joint: joint.mismatch_mm * WINDOW_MM + joint.peek_mm2))
    return joints


def _measure(left: Area, right: Area, zone: Stretch, *, left_over: bool) -> Joint:
    start, end = zone
    upper, lower = (left, right) if left_over else (right, left)
    at = end if left_over else start
    near = (max(start, end - WINDOW_MM), end) if left_over else (start, min(end, start + WINDOW_MM))
    peek = shapely.intersection(shapely.difference(lower, upper), shapely.box(start, -1000, end, 1000)).area
    apart = shapely.intersection(shapely.symmetric_difference(lower, upper), shapely.box(near[0], -1000, near[1], 1000))
    wide = max(near[1] - near[0], 0.01)
    return Joint(round(at, 4), round(apart.area / wide, 6), round(peek, 6), left_over)


def _places(piece: Border, joints: list[Joint]) -> tuple[Ring, ...]:
    places: list[Ring] = []
    for joint in joints:
        x = joint.at_mm - piece.length_mm / 2
        x = -x if piece.flipped else x
        spot = turn_points([(x, 0.0)], piece.angle_deg, piece.x, piece.y)[0]
        places += to_rings(shapely.Point(spot).buffer(5.0))
    return tuple(places)
