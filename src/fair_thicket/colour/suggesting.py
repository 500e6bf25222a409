"""Colours for a whole card: proposals that differ plainly, each by the same measure and with its reasons.

Glossary
--------
unit
    A part of an image of the stash, on all of its copies: it gets one run.
measure
    What makes one colouring better than another, a sum of terms that each lie from 0 to 1 (see `Measure`).
palette
    The families that one proposal may use.

Notes
-----
From the best of some colourings by chance each palette goes uphill: the unit whose change helps most is changed, until
none helps, with some units shaken anew in between. Where all colourings of a palette can be tried, they are.
"""

import itertools
import time
from collections.abc import Collection, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fair_thicket.colour.last_judges import by_custom
from fair_thicket.colour.measuring import FEWEST_FAMILIES, MOST_FAMILIES, Measure, Terms
from fair_thicket.colour.media_judges import DARK_PAPER
from fair_thicket.colour.offers import Offer, main_medium, offer_runs
from fair_thicket.edits.colouring import set_colouring
from fair_thicket.edits.images import Image, images_of, paper_under
from fair_thicket.edits.pieces import set_pieces
from fair_thicket.ink.mixing import to_lab
from fair_thicket.laid.visibility import View
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import ColouredPart, Shade
from fair_thicket.model.pieces import Cutout
from fair_thicket.model.supplies import Marker
from fair_thicket.model.wanted import GoOn

PALETTES, STARTS, SHAKES = 10, 40, 3
MOST_TRIED = 4000
"""All colourings are tried where there are no more than these."""
APART_SHARE = 0.25
"""Proposals differ plainly: another family on this share of what is coloured."""
MOST_PROPOSALS = 5
SECONDS = 2.4
TINY_MM2, SMALL_MM2 = 8.0, 40.0
Choice = NDArray[np.int64]


class Proposal(NamedTuple):
    """A colouring of a card.

    Attributes
    ----------
    work : Work
        The card in these colours.
    families : tuple of str
        Those that it uses, the largest first.
    score : float
        By the measure, 0 to 1.
    terms : Terms
    reasons : tuple of str
        Whole sentences.
    is_best : bool
        Whether no colouring with its families is better, proven.
    """

    work: Work
    families: tuple[str, ...]
    score: float
    terms: Terms
    reasons: tuple[str, ...]
    is_best: bool


def suggest(
    work: Work,
    view: View,
    markers: Sequence[Marker],
    *,
    seed: int = 0,
    keeps: bool = False,
    only: Collection[str] = (),
    palettes: int = PALETTES,
    seconds: float = SECONDS,
    go_on: GoOn = lambda: True,
) -> list[Proposal]:
    """Propose colours for the images of a card.

    Parameters
    ----------
    work : Work
        Only images with regions are coloured.
    view : View
        Of this very work.
    markers : sequence of Marker
        The maker's own.
    seed : int
        The same seed proposes the same, unless time runs out.
    keeps : bool
        What is coloured already stays as it is.
    only : names of families
        No others are taken; none means all.
    palettes : int
        How many sets of families are tried; one gives a first proposal soon.
    go_on : callable
        Asked now and then; False ends the search.

    Returns
    -------
    list of Proposal
        Three to five where there is as much to choose from, the best first; none without markers or regions.
    """
    families = [one for one in offer_runs(main_medium(markers), 3) if not only or one.name in only]
    measure = Measure(work, view, families, keeps=keeps)
    if not families or not measure.units:
        return []
    chance = np.random.default_rng(seed)
    end = time.monotonic() + seconds
    found: list[tuple[float, Choice, bool]] = []
    for number in range(palettes):
        if found and (time.monotonic() > end or not go_on()):
            break
        palette = measure.draw_palette(chance, number, (FEWEST_FAMILIES, MOST_FAMILIES))
        own_end = min(end, time.monotonic() + seconds / MOST_PROPOSALS)
        choice, is_best = _climb(measure, palette, chance, own_end, go_on)
        found.append((measure.score(choice), choice, is_best))
    found.sort(key=lambda one: -one[0])
    kept: list[tuple[float, Choice, bool]] = []
    for one in found:
        if all(measure.apart(one[1], other) >= APART_SHARE for _, other, _ in kept) and len(kept) < MOST_PROPOSALS:
            kept.append(one)
    return [_propose(work, measure, markers, families, *one) for one in kept]


def _climb(
    measure: Measure, palette: Choice, chance: np.random.Generator, end: float, go_on: GoOn
) -> tuple[Choice, bool]:
    """Find a good colouring with a palette; and whether it is proven the best."""
    free = measure.free
    if len(palette) ** len(free) <= MOST_TRIED:
        tried = (measure.with_choice(list(one)) for one in itertools.product(palette.tolist(), repeat=len(free)))
        return max(tried, key=measure.score), True
    starts = [measure.with_choice(chance.choice(palette, len(free)).tolist()) for _ in range(STARTS)]
    starts.append(measure.usual(palette))
    best = _uphill(measure, max(starts, key=measure.score), palette, end)
    for _ in range(SHAKES):
        if time.monotonic() > end or not go_on():
            break
        shaken = best.copy()
        some = chance.choice(free, max(1, len(free) // 5), replace=False)
        shaken[some] = chance.choice(palette, len(some))
        shaken = _uphill(measure, shaken, palette, end)
        if measure.score(shaken) > measure.score(best):
            best = shaken
    return best, False


def _uphill(measure: Measure, choice: Choice, palette: Choice, end: float) -> Choice:
    """Change one unit at a time, the largest first, as long as it helps."""
    choice, score, is_better = choice.copy(), measure.score(choice), True
    while is_better and time.monotonic() < end:
        is_better = False
        for unit in measure.free:
            before = choice[unit]
            for family in palette.tolist():
                if family == choice[unit]:
                    continue
                held = choice[unit]
                choice[unit] = family
                now = measure.score(choice)
                if now > score + 1e-9:
                    score, is_better = now, True
                else:
                    choice[unit] = held
            is_better = is_better or bool(choice[unit] != before)
    return choice


def _propose(
    work: Work,
    measure: Measure,
    markers: Sequence[Marker],
    families: Sequence[Offer],
    score: float,
    choice: Choice,
    is_best: bool,
) -> Proposal:
    """Put a colouring on the card, and say why it is good."""
    runs = {count: {one.name: one.shades for one in offer_runs(main_medium(markers), count)} for count in (1, 2, 3)}
    by_stamp: dict[str, list[ColouredPart]] = {}
    for unit, family in zip(measure.units, choice.tolist(), strict=True):
        shades: tuple[Shade, ...] = unit.pinned or ()
        if unit.is_free:
            count = 1 if unit.area_mm2 < TINY_MM2 else 2 if unit.area_mm2 < SMALL_MM2 else 3
            shades = runs[count][families[family].name]
        by_stamp.setdefault(unit.stamp, []).append(ColouredPart(unit.part, shades))
    for image in images_of(work):
        if image.stamp in by_stamp and not (measure.keeps and image.colouring):
            colouring = tuple(sorted(by_stamp[image.stamp], key=lambda part: part.regions))
            work = _on_light_paper(work, image)
            work = by_custom(set_colouring(work, {image.key}, colouring), image.key, markers)
    terms = measure.terms(choice)
    used = tuple(families[index].name for index in measure.used(choice))
    return Proposal(work, used, score, terms, measure.reasons(choice, terms), is_best)


def _on_light_paper(work: Work, image: Image) -> Work:
    """Take the dark flat colour off a cut image that is coloured by its parts: it was its colour, and not its paper."""
    piece = image.piece
    if not isinstance(piece, Cutout) or piece.colouring or piece.pattern:
        return work
    if to_lab(paper_under(work.card, image))[0] >= DARK_PAPER:
        return work
    return set_pieces(work, {piece.id}, colour=None)
