"""The colouring list: what is coloured with what, by marker over all images, so that nothing is forgotten."""

from collections.abc import Iterator
from typing import NamedTuple

from fair_thicket.colour.fetching import fetch_order
from fair_thicket.edits.colouring import parts_of
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.colouring import ColouredPart, Shade, ShadeOrder
from fair_thicket.model.pieces import Cutout, Impression
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.steps import Step
from fair_thicket.shape.outline import to_area

FETCH_MIN = 0.25
"""Finding a marker, opening and closing it (our own guess)."""
MM2_PER_MIN = 90.0
"""Laid with one shade, edges gone over twice (our own guess)."""
CAUTION = "Alcohol markers and blenders: ventilate, no flame, caps on; the maker's label comes first."
PART_MIN = 0.1
"""Least for one shade of a part, however small."""


Key = tuple[str, int]


class Line(NamedTuple):
    """One fetch: a marker, and the parts that it goes on.

    Attributes
    ----------
    shade : Shade
    parts : tuple of (str, int)
        Id of a piece and the number of its part, from 1.
    minutes : float
    """

    shade: Shade
    parts: tuple[tuple[str, int], ...]
    minutes: float


class ColouringList(NamedTuple):
    """What is to be coloured.

    Attributes
    ----------
    lines : tuple of Line
        In the order of fetching.
    is_least : bool
        Whether no order needs fewer fetches, proven.
    forgotten : tuple of (str, int)
        Parts without colours on images of which others have some; what stays white on purpose is not among them.
    minutes : float
    """

    lines: tuple[Line, ...]
    is_least: bool
    forgotten: tuple[tuple[str, int], ...]
    minutes: float


def list_colouring(work: Work) -> ColouringList:
    """List what is to be coloured on the side of a card that is looked at."""
    runs: dict[Key, tuple[Shade, ...]] = {}
    areas: dict[Key, float] = {}
    forgotten: list[Key] = []
    for key, part, area in _parts_to_colour(work):
        if part is None:
            forgotten.append(key)
        elif laid := laid_in_order(part, work.card.shade_order):
            runs[key], areas[key] = laid, area
    row, is_least = fetch_order(list(runs.values()))
    lines, at = [], dict.fromkeys(runs, 0)
    for shade in row:
        ready = [key for key, run in runs.items() if at[key] < len(run) and run[at[key]] == shade]
        minutes = FETCH_MIN
        for key in ready:
            minutes += max(PART_MIN, areas[key] / MM2_PER_MIN / len(runs[key]) * 1.4)
            at[key] += 1
        lines.append(Line(shade, tuple(ready), minutes))
    return ColouringList(tuple(lines), is_least, tuple(forgotten), sum(line.minutes for line in lines))


def _parts_to_colour(work: Work) -> Iterator[tuple[Key, ColouredPart | None, float]]:
    """Give every part of every image that is coloured at all: its colours, or none, and its area, mm2."""
    coloured = [one for one in work.card.pieces if isinstance(one, Impression | Cutout) and one.colouring]
    for piece in coloured:
        stamp = work.stash.find(piece.stamp)
        sizes = {region.id: to_area(region.ring, region.holes).area for region in stamp.regions}
        told = {region: part for part in piece.colouring for region in part.regions}
        for number, regions in enumerate(parts_of(stamp), 1):
            own = next((told[region] for region in regions if region in told), None)
            yield (piece.id, number), own, sum(sizes[region] for region in regions)


def laid_in_order(part: ColouredPart, order: ShadeOrder) -> tuple[Shade, ...]:
    """Shades of a part in the order in which they are laid: undertone, run, dots."""
    run = part.shades if order == "dark first" else part.shades[::-1]
    return tuple(shade for shade in (part.undertone, *run, part.dots) if shade is not None)


def key_of(line: Line) -> str:
    """Give what a tick of a fetch is kept under: the same marker for the same parts stays ticked."""
    on = ",".join(sorted({piece for piece, _ in line.parts}))
    return f"colour {line.shade.name or line.shade.colour} {on}"[:200]


def say_line(work: Work, line: Line) -> str:
    """Say a fetch in words: the marker, and on which images, with how many of their parts."""
    names = name_pieces(work)
    on: dict[str, int] = {}
    for piece, _ in line.parts:
        on[piece] = on.get(piece, 0) + 1
    told = [names[piece] if count == 1 else f"{names[piece]} ({count} parts)" for piece, count in on.items()]
    return f"{line.shade.name or line.shade.colour}: {', '.join(told)}"


def list_steps(work: Work, plan: MaskPlan) -> list[Step]:
    """Say the colouring as steps, by marker: before the first wash, from which masks protect what is coloured."""
    found = list_colouring(work)
    press = next((index for index, one in enumerate(plan.presses) if one.is_ink), len(plan.presses))
    steps = [
        Step(
            "colour", press, say_line(work, line), tuple(dict.fromkeys(piece for piece, _ in line.parts)), line.minutes
        )
        for line in found.lines
    ]
    if not steps:
        return []
    caution = Step("caution", press, f"Colour. {CAUTION}")
    check = Step("check", press, "Look for cheeks, inner ears, eyes, white dots and small parts that peek out")
    return [caution, *steps, check]
