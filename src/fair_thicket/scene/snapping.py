"""Where a dragged piece would like to come to rest: middle lines, edges and middles of others, and equal gaps."""

from collections.abc import Iterator, Sequence
from typing import NamedTuple

Box = tuple[float, float, float, float]
"""Left, top, right, bottom, mm."""


class Guide(NamedTuple):
    """A line that a piece has caught on: upright or level, where, its ends along itself, mm, and what it is."""

    is_upright: bool
    at: float
    low: float
    high: float
    words: str


class Catch(NamedTuple):
    """How far to move on from where the hand is, mm, and the guides that it then lies on."""

    by: tuple[float, float]
    guides: tuple[Guide, ...] = ()


class _Near(NamedTuple):
    """A place along one axis: how far off, how much it is wanted (lower first), and the guide."""

    off: float
    rank: int
    guide: Guide


def catch(moved: Box, others: Sequence[Box], panel: tuple[float, float], *, within_mm: float) -> Catch:
    """Find the nearest place that is worth stopping at.

    Parameters
    ----------
    moved : box
        Of what is dragged, where the hand has it.
    others : boxes
        Of what rests.
    panel : (width, height), mm
    within_mm : float
        Nothing farther away catches.

    Notes
    -----
    Each axis by itself. The panel's middle lines come first, then equal gaps between two neighbours, then the middles
    and edges of others.
    """
    across = _best(_near_lines(moved, others, panel, upright=True), within_mm)
    down = _best(_near_lines(moved, others, panel, upright=False), within_mm)
    guides = tuple(catch.guide for catch in (across, down) if catch is not None)
    return Catch((across.off if across else 0.0, down.off if down else 0.0), guides)


def _best(nearby: Sequence[_Near], within_mm: float) -> _Near | None:
    near = [catch for catch in nearby if abs(catch.off) <= within_mm]
    return min(near, key=lambda catch: (catch.rank, abs(catch.off)), default=None)


def _near_lines(moved: Box, others: Sequence[Box], panel: tuple[float, float], *, upright: bool) -> list[_Near]:
    axis = 0 if upright else 1
    low, high = moved[axis], moved[axis + 2]
    cross_low, cross_high = moved[1 - axis], moved[3 - axis]
    middle = (low + high) / 2
    half = panel[axis] / 2
    nearby = [_Near(half - middle, 0, Guide(upright, half, 0.0, panel[1 - axis], "middle of the card"))]
    for other in others:
        ends = (min(cross_low, other[1 - axis]), max(cross_high, other[3 - axis]))
        marks = (
            (other[axis], low, "edge"),
            (other[axis + 2], high, "edge"),
            ((other[axis] + other[axis + 2]) / 2, middle, "middle"),
        )
        nearby += [_Near(mark - own, 2, Guide(upright, mark, *ends, words)) for mark, own, words in marks]
    return nearby + _equal_gaps(moved, others, upright=upright)


def _equal_gaps(moved: Box, others: Sequence[Box], *, upright: bool) -> list[_Near]:
    """Between two neighbours in the same row or column, and beside two whose gap could be taken up."""
    axis = 0 if upright else 1
    row = sorted(
        (box for box in others if box[1 - axis] < moved[3 - axis] and box[3 - axis] > moved[1 - axis]),
        key=lambda box: box[axis],
    )
    low, high = moved[axis], moved[axis + 2]
    size = high - low
    ends = [(box[axis], box[axis + 2]) for box in row]
    before = [one for one in ends if sum(one) < low + high]
    after = [one for one in ends if sum(one) >= low + high]
    lines = [
        (at - low, Guide(upright, at + size / 2, moved[1 - axis], moved[3 - axis], "equal gaps"))
        for at in _even_places(before, after, size)
    ]
    return [_Near(off, 1, line) for off, line in lines]


def _even_places(
    before: Sequence[tuple[float, float]], after: Sequence[tuple[float, float]], size: float
) -> Iterator[float]:
    """Where something would have to begin to stand evenly between two neighbours, or to take up the gap beside it."""
    if before and after:
        start, end = max(one[1] for one in before), min(one[0] for one in after)
        if end - start > size:
            yield (start + end - size) / 2
    if len(before) >= 2 and (gap := before[-1][0] - before[-2][1]) > 0:
        yield before[-1][1] + gap
    if len(after) >= 2 and (gap := after[1][0] - after[0][1]) > 0:
        yield after[0][0] - gap - size
