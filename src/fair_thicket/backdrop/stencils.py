"""A stencil stepped up a sky: where each lay goes so that outlines do not repeat in line, and the moves between.

Glossary
--------
lay
    One place of the stencil on the panel, inked once.
landmark
    What the eye catches in a stencil's outline: a crest of its edge, or the middle of an opening.
rise
    How far each lay is stepped up from the one before.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from types import MappingProxyType

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.backdrop.profile import profile_of
from fair_thicket.backdrop.rows import crests_of
from fair_thicket.model.basics import Ring
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import AnyThrough, Colour, Lay
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import MM_PER_INCH, Unit, say_length
from fair_thicket.shape.outline import to_area

Floats = NDArray[np.float64]
GRID_MM = MappingProxyType({Unit.INCH: MM_PER_INCH / 16, Unit.MM: 1.0})
"""Slides are such that a ruler tells them."""
MOST_LAYS = 8
MOST_SLIDES = 48
FAR_MM = 1e6


@dataclass(frozen=True)
class Stepping:
    """A stencil stepped.

    Attributes
    ----------
    lays : tuple of Lay
        From the first inked.
    least_mm : float
        Least distance, along the card, between landmarks of any two lays.
    """

    lays: tuple[Lay, ...]
    least_mm: float


def landmarks_of(stamp: Stamp, taped: Sequence[int] = ()) -> Floats:
    """Places of a stencil's landmarks, mm from its middle to the right."""
    return _landmarks(stamp.outline, stamp.pockets, tuple(taped))


@lru_cache(maxsize=64)
def _landmarks(outline: Ring, pockets: tuple[Ring, ...], taped: tuple[int, ...]) -> Floats:
    openings = [ring for number, ring in enumerate(pockets) if number not in taped]
    if pockets:
        return np.array([to_area(ring).centroid.x for ring in openings])
    area = to_area(outline)
    left = float(area.bounds[0])
    return np.array(crests_of(profile_of(shapely.affinity.translate(area, -left, 0)))) + left


def seen_landmarks(marks: Floats, lay: Lay, width_mm: float) -> Floats:
    """Landmarks of a lay that fall on a wash of a width, mm from the wash's middle."""
    placed = (-marks if lay.flipped else marks) + lay.x
    shown: Floats = placed[np.abs(placed) <= width_mm / 2]
    return shown


def least_between(stamp: Stamp, piece: AnyThrough) -> float:
    """Least distance along the card between landmarks of any two lays of a wash, mm; far when there are none."""
    marks = landmarks_of(stamp, piece.taped)
    shown = [seen_landmarks(marks, lay, piece.form.width_mm) for lay in piece.lays]
    return min((_apart(one, other) for one, other in itertools.combinations(shown, 2)), default=FAR_MM)


def _apart(one: Floats, other: Floats) -> float:
    if not len(one) or not len(other):
        return FAR_MM
    return float(np.abs(one[:, None] - other[None, :]).min())


def step_stencil(
    stamp: Stamp, piece: AnyThrough, count: int, rise_mm: float, *, inks: Sequence[Colour] = (), unit: Unit = Unit.INCH
) -> Stepping:
    """Step a stencil so that its outlines keep as far out of line as may be.

    Parameters
    ----------
    stamp : Stamp
        A stencil with openings, or a border whose edge is used as one.
    count : int
        How many lays, two to eight.
    rise_mm : float
        Up from lay to lay; down when negative.
    inks : sequence of colours
        Of the lays in turn; none for the wash's own.

    Raises
    ------
    PaperError
        When the stencil does not reach across the wash, has nothing that could line up, or the steps leave the wash.

    Notes
    -----
    The first lay's foot lies on the wash's foot (its head on the wash's head when stepped down). All ways to choose a
    slide on the ruler's grid and a side for every lay are weighed: the set whose least distance is the largest is a
    clique in the graph of slides that are so far apart, found for the largest distance that has one. Among orders of
    that set, neighbours that lie farthest apart come first. Exact on the grid.
    """
    if not 2 <= count <= MOST_LAYS:
        raise PaperError(f"A stencil is stepped in 2 to {MOST_LAYS} lays; choose so many.")
    if abs(rise_mm) * (count - 1) > piece.form.height_mm:
        most = piece.form.height_mm / (count - 1)
        raise PaperError(f"{count} lays leave the wash; step by {say_length(most, unit)} at the most.")
    marks = landmarks_of(stamp, piece.taped)
    if not len(marks):
        raise PaperError(f"The {stamp.name} has no crests or openings that could line up; one lay of it does.")
    chosen = _choose(marks, _slides(stamp, piece, unit), count, piece.form.width_mm)
    if chosen is None:
        raise PaperError(
            f"The {stamp.name} leaves no room for {count} lays of their own; it must reach further beyond the wash."
        )
    ordered = _order(marks, chosen, piece.form.width_mm)
    foot = (piece.form.height_mm - stamp.height_mm) / 2 * (1 if rise_mm >= 0 else -1)
    lays = tuple(
        Lay(x, round(foot - number * rise_mm, 4), flipped=flipped, ink=inks[number % len(inks)] if inks else None)
        for number, (x, flipped) in enumerate(ordered)
    )
    stepped = msgspec.structs.replace(piece, lays=lays)
    return Stepping(lays, round(least_between(stamp, stepped), 4))


def _slides(stamp: Stamp, piece: AnyThrough, unit: Unit) -> list[float]:
    """Slides to either side that leave no bare side, nearest to the middle first, mm."""
    room = (stamp.width_mm - piece.form.width_mm) / 2
    if room < -0.05:
        raise PaperError(
            f"The {stamp.name} is {say_length(-2 * room, unit)} narrower than the wash; make the wash narrower or "
            "choose a wider one."
        )
    grid = GRID_MM[unit]
    steps = int(max(0.0, room) / grid + 1e-6)
    every = max(1, -(-steps // (MOST_SLIDES // 2)))
    places = range(-(steps // every) * every, steps + 1, every)
    return sorted((round(step * grid, 4) for step in places), key=lambda x: (abs(x), x))


def _choose(marks: Floats, slides: Sequence[float], count: int, width_mm: float) -> list[tuple[float, bool]] | None:
    """Choose slides and sides so that the least distance between landmarks is the largest."""
    options = [(x, flipped) for x in slides for flipped in (False, True)]
    shown = [seen_landmarks(marks, Lay(x, 0.0, flipped=flipped), width_mm) for x, flipped in options]
    apart = np.array([[_apart(one, other) for other in shown] for one in shown])
    distances = np.unique(np.round(apart[np.triu_indices(len(options), 1)], 6))
    low, high, best = 0, len(distances) - 1, None
    while low <= high:
        middle = (low + high) // 2
        found = _find_clique(apart >= distances[middle] - 1e-6, count)
        if found is None:
            high = middle - 1
        else:
            best, low = found, middle + 1
    return None if best is None else [options[index] for index in best]


def _find_clique(joined: NDArray[np.bool_], count: int) -> list[int] | None:
    """Find so many options of which every two are joined; the first of them in order."""

    def grow(taken: list[int], free: NDArray[np.bool_]) -> list[int] | None:
        if len(taken) == count:
            return taken
        for index in np.flatnonzero(free).tolist():
            after = free & joined[index]
            after[: index + 1] = False
            if len(taken) + 1 + int(after.sum()) >= count:
                found = grow([*taken, index], after)
                if found is not None:
                    return found
        return None

    return grow([], np.ones(len(joined), bool))


def _order(marks: Floats, chosen: list[tuple[float, bool]], width_mm: float) -> list[tuple[float, bool]]:
    """Put lays into an order in which neighbours lie as far out of line as may be; then the fewest and least moves."""
    shown = {one: seen_landmarks(marks, Lay(one[0], 0.0, flipped=one[1]), width_mm) for one in chosen}
    apart = {(one, other): _apart(shown[one], shown[other]) for one in chosen for other in chosen}

    def cost(order: tuple[tuple[float, bool], ...]) -> tuple[float, bool, float]:
        pairs = list(itertools.pairwise(order))
        return -min(apart[pair] for pair in pairs), order[0][1], sum(abs(one[0] - other[0]) for one, other in pairs)

    best = min(itertools.permutations(chosen), key=cost)
    return list(best)
