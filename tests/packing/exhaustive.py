"""Small jobs solved by trying everything: a second method that shares nothing with the program's."""

import itertools
from collections.abc import Callable, Iterator, Sequence

Side = tuple[float, float]
CLOSE = 1e-9


def partitions(items: Sequence[int]) -> Iterator[list[list[int]]]:
    """Every way to share items out on unnamed sheets."""
    if not items:
        yield []
        return
    first, rest = items[0], items[1:]
    for parts in partitions(rest):
        yield [[first], *parts]
        for index in range(len(parts)):
            yield [*parts[:index], [first, *parts[index]], *parts[index + 1 :]]


def fewest(
    count: int, fits: Callable[[frozenset[int]], bool], *, may: Callable[[list[int]], bool] = lambda _: True
) -> int:
    """Give the fewest sheets that take all of so many pieces, where `fits` says which go on one."""
    known: dict[frozenset[int], bool] = {}

    def asked(part: list[int]) -> bool:
        key = frozenset(part)
        if key not in known:
            known[key] = fits(key)
        return known[key]

    best = count
    for parts in partitions(range(count)):
        if len(parts) < best and all(may(part) and asked(part) for part in parts):
            best = len(parts)
    return best


def fits_anyhow(sides: Sequence[Side], room: Side) -> bool:
    """Whether rectangles, not turned, lie in a room without overlap: each at a corner that others or the walls make.

    In any packing all can be pushed left and up until each lies against sums of sides of others.
    """
    if sum(w * h for w, h in sides) > room[0] * room[1] + CLOSE:
        return False
    xs = sorted({sum(c) for n in range(len(sides)) for c in itertools.combinations([w for w, _ in sides], n)})
    ys = sorted({sum(c) for n in range(len(sides)) for c in itertools.combinations([h for _, h in sides], n)})

    def place(index: int, laid: list[tuple[float, float, float, float]]) -> bool:
        if index == len(sides):
            return True
        w, h = sides[index]
        for x in xs:
            if x + w > room[0] + CLOSE:
                break
            for y in ys:
                if y + h > room[1] + CLOSE:
                    break
                box = (x, y, x + w, y + h)
                if all(_apart(box, other) for other in laid) and place(index + 1, [*laid, box]):
                    return True
        return False

    return place(0, [])


def _apart(one: tuple[float, ...], other: tuple[float, ...]) -> bool:
    return (
        one[2] <= other[0] + CLOSE
        or other[2] <= one[0] + CLOSE
        or one[3] <= other[1] + CLOSE
        or other[3] <= one[1] + CLOSE
    )


def fits_by_cuts(sides: Sequence[Side], room: Side, *, turns: bool) -> bool:
    """Whether rectangles come out of a room by cuts right across: every first cut, and who lies on which side of it."""

    def fits_alone(piece: Side, w: float, h: float) -> bool:
        ways = (piece, piece[::-1]) if turns else (piece,)
        return any(a <= w + CLOSE and b <= h + CLOSE for a, b in ways)

    def fits(chosen: frozenset[int], w: float, h: float) -> bool:
        if sum(sides[n][0] * sides[n][1] for n in chosen) > w * h + CLOSE:
            return False
        if len(chosen) == 1:
            return fits_alone(sides[next(iter(chosen))], w, h)
        return any(
            fits(first, *((cut, h) if is_upright else (w, cut)))
            and fits(second, *((w - cut, h) if is_upright else (w, h - cut)))
            for first, second in halves(chosen)
            for is_upright, most in ((True, w), (False, h))
            for cut in lengths(first, most)
        )

    def halves(chosen: frozenset[int]) -> Iterator[tuple[frozenset[int], frozenset[int]]]:
        first, *rest = sorted(chosen)
        for size in range(len(rest)):
            for part in itertools.combinations(rest, size):
                own = frozenset((first, *part))
                yield own, chosen - own

    def lengths(chosen: frozenset[int], most: float) -> list[float]:
        sums = {0.0}
        for n in chosen:
            sums |= {one + side for one in sums for side in sides[n]}
        return sorted(one for one in sums if 0 < one <= most + CLOSE)

    return fits(frozenset(range(len(sides))), *room)
