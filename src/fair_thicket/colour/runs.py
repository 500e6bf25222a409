"""Runs: the shades of the maker's own markers, from dark to light, that blend into one part.

Glossary
--------
run
    One to six shades of one family, from dark to light.
step
    Difference between two shades that follow each other, as laid on the paper (CIEDE2000).
band
    Steps that blend: a smaller one is wasted, a larger one leaves a hard line.
lead
    The shade of a run that is to be the wanted colour: the middle one, of an even run whichever of two comes nearer.

Notes
-----
Numbers on markers do not decide, only measured colours do (common practice). The best run is the one of least strain:
every step's distance from the ideal step, squared; ten times what it is beyond the band, squared; the lead's
difference from the wanted colour, squared; a half of every other shade's difference in hue, squared. Strain adds up
along a run, so that the best of all runs is found by dynamic programming over the markers, without trying them all.
"""

import itertools
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fair_thicket.ink.difference import difference, labs_of
from fair_thicket.ink.mixing import mix
from fair_thicket.model.errors import InputError
from fair_thicket.model.supplies import Colour, Marker

Floats = NDArray[np.float64]
LEAST_STEP, IDEAL_STEP, MOST_STEP = 6.0, 13.0, 22.0
"""The band, CIEDE2000 (our own guess, from what makers call too alike and too far)."""
BEYOND = 10.0
MOST_MARKERS = 2000
"""More than all ranges that are sold together: every two of them are weighed against each other."""
HUE_SHARE = 0.5
LEAST_DARKER = 1.0
"""Each shade is lighter than the one before by this, CIELAB."""
MOST_SHADES = 6
MISSING_STRAIN = 1e12
FEW = 48


class Run(NamedTuple):
    """A run.

    Attributes
    ----------
    markers : tuple of int
        Places in the box, from dark to light.
    laid : tuple of colours
        As they look on the paper.
    steps : tuple of float
        CIEDE2000, one fewer.
    strain : float
    off : float
        Difference of the lead from the wanted colour.
    """

    markers: tuple[int, ...]
    laid: tuple[Colour, ...]
    steps: tuple[float, ...]
    strain: float
    off: float


class Gap(NamedTuple):
    """A step of a run that does not blend, and what would mend it.

    Attributes
    ----------
    after : int
        The shade before the gap, counted from 0.
    step : float
    is_far : bool
        Too far; else too alike.
    between : colour
        The shade to buy that would go between.
    mixed : colour
        What the two give when they are mixed tip to tip, half and half.
    mixed_off : float
        Its difference from the shade to buy.
    """

    after: int
    step: float
    is_far: bool
    between: Colour
    mixed: Colour
    mixed_off: float


def lay_on(colours: Sequence[Colour], paper: Colour) -> list[Colour]:
    """Colours of markers as they look on a paper: the paper lets less light back (absorption)."""
    return list(colours) if paper == "#ffffff" else [mix([paper, colour]) for colour in colours]


def find_run(colours: Sequence[Colour], wanted: Colour, shades: int, *, paper: Colour = "#ffffff") -> Run | None:
    """Find the best run of so many shades out of a box of markers.

    Parameters
    ----------
    colours : sequence of colours
        Of the markers, on white paper.
    wanted : colour
        As it is to look.
    shades : int
        1 to 6.

    Returns
    -------
    Run or None
        None where the box has no so many markers, each lighter than the one before.

    Notes
    -----
    Time goes with shades times markers squared.
    """
    if not 1 <= shades <= MOST_SHADES:
        raise InputError(f"A run has 1 to {MOST_SHADES} shades, not {shades}.")
    if not colours:
        return None
    laid = lay_on(colours, paper)
    labs, aim = labs_of(laid), labs_of([wanted])[0]
    order = _worth_trying(labs, aim, shades)
    labs = labs[order]
    chains = [(*_best_chain(labs, aim, shades, lead), lead) for lead in leads_of(shades)]
    strain, chain, lead = min(chains, key=lambda one: one[0])
    if strain >= MISSING_STRAIN:
        return None
    steps, _ = _joins(labs.tobytes())
    told = tuple(float(steps[a, b]) for a, b in itertools.pairwise(chain))
    markers = tuple(int(order[index]) for index in chain)
    off = float(difference(labs[chain[lead]], aim))
    return Run(markers, tuple(laid[index] for index in markers), told, strain, off)


def _worth_trying(labs: Floats, aim: Floats, shades: int) -> NDArray[np.int64]:
    """Return the markers that the best run can have, from dark to light.

    Strain is never below 0, so that no marker with more strain of its own than a whole run has is in a better one: a
    run of the markers nearest to the wanted colour tells that bound.
    """
    own = np.minimum(hue_strain(labs, aim), difference(labs, aim) ** 2)
    by_light = np.lexsort((np.arange(len(labs)), labs[:, 0]))
    if len(labs) <= FEW:
        return by_light
    nearest = set(np.argsort(own, kind="stable")[:FEW].tolist())
    few = np.array([index for index in by_light.tolist() if index in nearest])
    bound = min(_best_chain(labs[few], aim, shades, lead)[0] for lead in leads_of(shades))
    return by_light[own[by_light] <= bound]


def _best_chain(labs: Floats, aim: Floats, shades: int, lead: int) -> tuple[float, list[int]]:
    """Find the run of least strain with its lead at a place; markers from dark to light."""
    _, joins = _joins(labs.tobytes())
    alone = [difference(labs, aim) ** 2 if place == lead else hue_strain(labs, aim) for place in range(shades)]
    best, came_from = alone[0], []
    for place in range(1, shades):
        ways = best[:, None] + joins
        came_from.append(ways.argmin(axis=0))
        best = ways.min(axis=0) + alone[place]
    chain = [int(best.argmin())]
    for before in reversed(came_from):
        chain.append(int(before[chain[-1]]))
    return float(best.min()), chain[::-1]


def leads_of(shades: int) -> list[int]:
    """Places that the lead may have in a run of so many shades, from dark to light."""
    return sorted({(shades - 1) // 2, shades // 2})


def step_strain(step: Floats) -> Floats:
    """Strain of steps."""
    beyond = np.maximum(0.0, LEAST_STEP - step) + np.maximum(0.0, step - MOST_STEP)
    return np.asarray((step - IDEAL_STEP) ** 2 + BEYOND * beyond**2, np.float64)


def hue_strain(labs: Floats, aim: Floats) -> Floats:
    """Strain of shades for being of another hue than the wanted one; greys have none."""
    chroma, wanted = np.hypot(labs[:, 1], labs[:, 2]), float(np.hypot(aim[1], aim[2]))
    turn = np.arctan2(labs[:, 2], labs[:, 1]) - np.arctan2(aim[2], aim[1])
    across = 2 * np.sqrt(chroma * wanted) * np.sin(turn / 2)
    grey = np.where(wanted < GREY, np.maximum(0.0, chroma - GREY), 0.0)  # a grey run stays grey
    return np.asarray(HUE_SHARE * (across**2 + grey**2), np.float64)


GREY = 6.0
"""Chroma of what counts as grey."""


@lru_cache(maxsize=16)
def _joins(packed: bytes) -> tuple[Floats, Floats]:
    """Step from every marker to every lighter one, and its strain; CIELAB of the markers from dark to light.

    Kept: a card asks the same box for many runs.
    """
    labs = np.frombuffer(packed, np.float64).reshape(-1, 3)
    count = len(labs)
    dark, light = np.triu_indices(count, 1)
    steps = np.zeros((count, count))
    steps[dark, light] = difference(labs[dark], labs[light])
    strain = np.full((count, count), MISSING_STRAIN)
    strain[dark, light] = step_strain(steps[dark, light])
    strain[labs[None, :, 0] - labs[:, None, 0] < LEAST_DARKER] = MISSING_STRAIN
    return steps, strain


def find_gaps(laid: Sequence[Colour]) -> list[Gap]:
    """Find the steps of a run, as laid, that do not blend."""
    gaps = []
    labs = labs_of(laid)
    for index, step in enumerate(difference(labs[:-1], labs[1:]).tolist()):
        if LEAST_STEP <= step <= MOST_STEP:
            continue
        between = _middle(laid[index], laid[index + 1])
        mixed = mix(laid[index : index + 2], [0.5, 0.5])
        off = float(difference(labs_of([between]), labs_of([mixed]))[0])
        gaps.append(Gap(index, step, step > MOST_STEP, between, mixed, off))
    return gaps


def _middle(one: Colour, other: Colour) -> Colour:
    """Colour half-way between two as the eye sees it (Oklab)."""
    from coloraide import Color

    return str(Color(one).mix(Color(other), 0.5, space="oklab").convert("srgb").fit().to_string(hex=True))


def markers_among(supplies: Sequence[object]) -> list[Marker]:
    """Return the markers among supplies.

    Raises
    ------
    InputError
        More than anyone owns: runs weigh every marker against every other.
    """
    found = [one for one in supplies if isinstance(one, Marker)]
    if len(found) > MOST_MARKERS:
        raise InputError(f"These are {len(found)} markers; at most {MOST_MARKERS} are weighed against each other.")
    return found
