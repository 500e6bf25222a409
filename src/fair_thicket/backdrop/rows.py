"""Rows of one border, stepped so that crests do not line up: the largest least distance between crests.

Glossary
--------
crest
    A place where the edge is higher than what is beside it, by half a millimetre and more.
step
    How far a row is slid to the left against the first one, before both are trimmed to the same length.
"""

import itertools
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.backdrop.joining import Joining
from fair_thicket.backdrop.profile import STEP_MM, Profile, find_repeat, profile_of
from fair_thicket.backdrop.spanning import span_area
from fair_thicket.ink.mixing import mix
from fair_thicket.model.card import Work, free_id, order_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Border
from fair_thicket.model.spans import Cut
from fair_thicket.shape.outline import to_area, turn_points
from fair_thicket.shape.paper import glue, lay_area

Floats = NDArray[np.float64]
PROMINENCE_MM = 0.5
"""Smaller bumps are no crests (our own guess)."""
MOST_ROOM_MM = 60.0
"""A die without repeat is slid no farther than this."""
MOST_ROWS = 4
DEEPER = 0.5
"""By so much more ink each row is deeper than the one behind (our own guess)."""


@dataclass(frozen=True)
class Rows:
    """Rows stepped.

    Attributes
    ----------
    steps_mm : tuple of float
        Of each row; the first is 0.
    cuts : tuple of tuple of Cut
        What each row is joined from.
    least_mm : float
        Least distance between crests of any two rows.
    """

    steps_mm: tuple[float, ...]
    cuts: tuple[tuple[Cut, ...], ...]
    least_mm: float


def crests_of(profile: Profile) -> list[float]:
    """Places of the crests of a die's upper edge, mm from its left end; the ends themselves are none."""
    depth = np.concatenate([[0.0], np.cumsum(profile.heights)])
    first = np.argmax(profile.paper, axis=1)
    height = -np.where(profile.paper.any(axis=1), depth[first], depth[-1])
    return [(place + 0.5) * profile.step_mm for place in find_peaks(height.tolist(), PROMINENCE_MM)]


def find_peaks(height: Sequence[float], prominence: float) -> list[int]:
    """Find peaks of a line that stand out from what is beside them.

    Returns
    -------
    list of int
        Places, from the left; of a flat top its middle. The ends are none.

    Notes
    -----
    Prominence as topography has it: how far one must come down to reach higher ground. The library's own brings a
    second of statistics with it that nobody here asks for; a test holds this one to it.
    """
    peaks, at, last = [], 1, len(height) - 1
    while at < last:
        end = at
        while end < last and height[end + 1] == height[at]:
            end += 1
        if height[at - 1] < height[at] and end < last and height[end + 1] < height[at]:
            lows = [_lowest_before_higher(height[at::-1]), _lowest_before_higher(height[at:])]
            if height[at] - max(lows) >= prominence:
                peaks.append((at + end) // 2)
        at = end + 1
    return peaks


def _lowest_before_higher(heights: Sequence[float]) -> float:
    """Return the lowest of some heights before one that is higher than the first."""
    lowest = heights[0]
    for height in heights:
        if height > heights[0]:
            break
        lowest = min(lowest, height)
    return lowest


def step_rows(area: shapely.Geometry, length_mm: float, count: int, joining: Joining | None = None) -> Rows:
    """Step rows of a border of one die so that their crests keep as far apart as may be.

    Parameters
    ----------
    area : Polygon or MultiPolygon, mm
        Of the die.
    count : int
        Two to four rows.

    Raises
    ------
    PaperError
        When the edge has no crests, or there are too few or too many rows.

    Notes
    -----
    A border longer by the room for steps is spanned once; every row is a window of it. All steps on a grid of 0.25 mm
    are tried: exact on that grid.
    """
    if not 2 <= count <= MOST_ROWS:
        raise PaperError(f"Between 2 and {MOST_ROWS} rows can be stepped; choose so many borders of one die.")
    profile = profile_of(area)
    repeat = find_repeat(profile)
    room = repeat if repeat is not None else min(MOST_ROOM_MM, profile.count * profile.step_mm / 2)
    whole = span_area(area, length_mm + room, joining)
    laid = glue(lay_area(area, whole.cuts))
    crests = np.array(crests_of(profile_of(laid)))
    if not len(crests):
        raise PaperError("That edge has no crests, so there is nothing to step.")
    steps = np.arange(0.0, room - 1e-9, STEP_MM)
    best, least = _best_steps(crests, steps, length_mm, count)
    rows = (0.0, *best)
    return Rows(rows, tuple(trim_cuts(whole.cuts, step, step + length_mm) for step in rows), round(least, 4))


def _best_steps(crests: Floats, steps: Floats, length: float, count: int) -> tuple[tuple[float, ...], float]:
    """Try all steps of all rows; of those alike the smallest."""
    shown = [crests[(crests >= step) & (crests <= step + length)] - step for step in steps]
    apart = np.array([[_apart(one, other) for other in shown] for one in shown])
    best, least = (0,) * (count - 1), -1.0
    for chosen in itertools.combinations(range(len(steps)), count - 1):
        rows = (0, *chosen)
        found = min(apart[i, j] for i, j in itertools.combinations(rows, 2))
        if found > least + 1e-9:
            best, least = chosen, float(found)
    return tuple(float(steps[index]) for index in best), least


def _apart(one: Floats, other: Floats) -> float:
    """Least distance between crests of two rows; far where one has none."""
    if not len(one) or not len(other):
        return 1e6
    return float(np.abs(one[:, None] - other[None, :]).min())


def trim_cuts(cuts: Sequence[Cut], start_mm: float, end_mm: float) -> tuple[Cut, ...]:
    """Trim a joined border to a window of itself; the window's left end becomes its own."""
    kept = []
    for cut in cuts:
        low, high = cut.at_mm, cut.at_mm + cut.to_mm - cut.from_mm
        left, right = max(0.0, start_mm - low), max(0.0, high - end_mm)
        if high - right <= low + left + 1e-6:
            continue
        first, second = (right, left) if cut.flipped else (left, right)
        from_mm, to_mm = round(cut.from_mm + first, 4), round(cut.to_mm - second, 4)
        at_mm = round(low + left - start_mm, 4)
        kept.append(msgspec.structs.replace(cut, from_mm=from_mm, to_mm=to_mm, at_mm=at_mm))
    return tuple(kept)


def step_borders(work: Work, keys: Collection[str]) -> tuple[Work, float]:
    """Step the borders of some ids, rows of one die and one length, the back one first; gives the least distance, mm.

    Raises
    ------
    PaperError
        When they are not of one die or one length, or paper has nothing to step.
    """
    chosen = [piece for piece in work.card.pieces if piece.id in keys and isinstance(piece, Border)]
    if len(chosen) < 2 or len({piece.stamp for piece in chosen}) > 1:
        raise PaperError("Choose two or more borders of one die to step them.")
    if max(piece.length_mm for piece in chosen) - min(piece.length_mm for piece in chosen) > 0.05:
        raise PaperError("Rows that are stepped must be of one length; trim them alike first.")
    stamp = work.stash.find(chosen[0].stamp)
    area = to_area(stamp.outline, stamp.pockets)
    rows = step_rows(area, chosen[0].length_mm, len(chosen), Joining(may_flip=stamp.may_flip))
    cuts = {piece.id: row for piece, row in zip(chosen, rows.cuts, strict=True)}
    pieces = tuple(
        msgspec.structs.replace(piece, cuts=cuts[piece.id], flipped=False)
        if isinstance(piece, Border) and piece.id in cuts
        else piece
        for piece in work.card.pieces
    )
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces)), rows.least_mm


def make_rows(work: Work, key: str, count: int, drop_mm: float, *, deepens: bool = True) -> tuple[Work, float]:
    """Put rows of a border before it, each lower than the one behind, and step them; gives the least distance, mm.

    Parameters
    ----------
    count : int
        Rows in all, two to four.
    drop_mm : float
        How much lower each is than the one behind, across its length.
    deepens : bool
        Each is of a deeper colour: what is near is darker.

    Raises
    ------
    PaperError
        When it is no border, or there are too few or too many rows, or its edge has nothing to step.
    """
    back = work.card.find(key)
    if not isinstance(back, Border):
        raise PaperError("Rows are made of a border; choose one.")
    if not 2 <= count <= MOST_ROWS:
        raise PaperError(f"Between 2 and {MOST_ROWS} rows can be stepped; choose so many.")
    rows: list[Border] = []
    for number in range(1, count):
        ((x, y),) = turn_points([(0.0, number * drop_mm)], back.angle_deg, back.x, back.y).tolist()
        colour = mix([back.colour], [1 + DEEPER * number]) if back.colour is not None and deepens else back.colour
        row_key = free_id(work.card, back.stamp, also_taken=[row.id for row in rows])
        row = msgspec.structs.replace(
            back, id=row_key, x=round(x, 3), y=round(y, 3), colour=colour, copy_of=back.id, name="", flaps=()
        )
        rows.append(row)
    at = next(index for index, piece in enumerate(work.card.pieces) if piece.id == key)
    pieces = order_pieces((*work.card.pieces[: at + 1], *rows, *work.card.pieces[at + 1 :]))
    made = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))
    return step_borders(made, {key, *(row.id for row in rows)})
