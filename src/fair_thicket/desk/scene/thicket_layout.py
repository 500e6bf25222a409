"""Rows of the thicket: how far forward each leaf stands, and what dropping a bar on a row means. No Qt."""

from collections.abc import Mapping, Sequence

import msgspec

from fair_thicket.laid.visibility import View

SPARE_MM = 1.5
"""Bars of one row keep at least this apart."""


class Bar(msgspec.Struct, frozen=True):
    """One leaf's bar: its row (0 the furthest back), its reach along the card's width, mm, and its piece's id."""

    key: str
    row: int
    left: float
    right: float
    piece: str = ""

    @property
    def is_flap(self) -> bool:
        """Whether it is a flap, tied to its body."""
        return self.key != self.piece


class Thread(msgspec.Struct, frozen=True):
    """An overlap: the piece behind, the one in front, where along the width, mm, and how much, mm2."""

    back: str
    front: str
    x: float
    area_mm2: float


class Layout(msgspec.Struct, frozen=True):
    """Bars and threads of a card."""

    bars: tuple[Bar, ...]
    threads: tuple[Thread, ...]

    @property
    def rows(self) -> int:
        """Number of rows."""
        return 1 + max((bar.row for bar in self.bars), default=-1)


def lay_rows(view: View) -> Layout:
    """Return every leaf the lowest row above all that it overlaps, sharing rows where bars do not meet."""
    leaves, overlaps = view.leaves, view.shared
    behind: dict[int, list[int]] = {index: [] for index in range(len(leaves))}
    for back, front in overlaps:
        behind[front].append(back)
    bars: list[Bar] = []
    taken: dict[int, list[tuple[float, float]]] = {}
    for index, leaf in enumerate(leaves):
        left, _, right, _ = leaf.whole.bounds if not leaf.whole.is_empty else (leaf.piece.x, 0, leaf.piece.x, 0)
        row = max((bars[back].row + 1 for back in behind[index]), default=0)
        while any(low < right + SPARE_MM and left < high + SPARE_MM for low, high in taken.get(row, ())):
            row += 1
        taken.setdefault(row, []).append((left, right))
        bars.append(Bar(leaf.key, row, left, right, leaf.piece.id))
    threads = tuple(
        Thread(leaves[back].key, leaves[front].key, _middle(bars[back], bars[front]), area)
        for (back, front), area in overlaps.items()
    )
    return Layout(tuple(bars), threads)


def _middle(first: Bar, second: Bar) -> float:
    return (max(first.left, second.left) + min(first.right, second.right)) / 2


def order_for_drop(layout: Layout, key: str, level: float) -> list[str]:
    """Find the order, from the back to the front, that dropping a bar at a level asks for.

    Parameters
    ----------
    layout : Layout
        Before the drop; bars in the card's order.
    key : str
        The dragged piece.
    level : float
        2.5 is between rows 2 and 3: in front of everything up to row 2, behind everything from row 3 on.

    Notes
    -----
    Only pieces that the dragged one overlaps matter. Where one place in the present order will do, nothing else is
    moved; else the order is told anew row by row, which changes no other overlap.
    """
    bodies = [bar for bar in layout.bars if not bar.is_flap]
    rows = {bar.key: bar.row for bar in bodies}
    order = [bar.key for bar in bodies]
    partners = _partners(layout, key) & rows.keys()
    others = [one for one in order if one != key]
    after = [others.index(one) for one in partners if rows[one] < level]
    before = [others.index(one) for one in partners if rows[one] > level]
    lowest, highest = max(after, default=-1) + 1, min(before, default=len(others))
    if lowest <= highest:
        present = order.index(key)
        index = max(lowest, min(present, highest))
        return [*others[:index], key, *others[index:]]
    return _told_anew(rows, others, key, level)


def _partners(layout: Layout, key: str) -> set[str]:
    """Bars that one bar shares a thread with."""
    ends = [{thread.back, thread.front} for thread in layout.threads]
    return {one for pair in ends if key in pair for one in pair} - {key}


def _told_anew(rows: Mapping[str, int], others: Sequence[str], key: str, level: float) -> list[str]:
    ordered = sorted(others, key=lambda one: rows[one])
    index = sum(rows[one] < level for one in ordered)
    return [*ordered[:index], key, *ordered[index:]]
