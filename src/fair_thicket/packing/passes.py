"""Dies laid on the plate of a machine: each once a pass, with room between, in the fewest passes.

Notes
-----
A first plan takes, pass by pass, one of each die that is still wanted, those wanted most often first. While that is
more passes than the bound says, CP-SAT shares the dies out on one pass fewer, by area and each once a pass; every pass
is then laid out, and dies that find no room together are not put together again.
"""

import time
from collections.abc import Callable, Sequence
from typing import NamedTuple

from fair_thicket.model.errors import InputError
from fair_thicket.model.wanted import GoOn
from fair_thicket.packing.bounds import fewest_by_size
from fair_thicket.packing.layouts import NestedSheet, NestPiece
from fair_thicket.packing.nesting import fill_sheet, nest
from fair_thicket.packing.side_by_side import fit_side_by_side

TRY_S = 2.6
MOST_BOXES, BOXES_S = 10, 0.5
"""So many dies on one plate are laid by the boxes round them as well, for so long."""


class PassPlan(NamedTuple):
    """Passes through a machine.

    Attributes
    ----------
    passes : tuple of NestedSheet
        What lies on the plate, mm from its corner.
    bound : int
        No plan takes fewer.
    """

    passes: tuple[NestedSheet, ...]
    bound: int

    @property
    def is_fewest(self) -> bool:
        """Whether it is proven that no plan takes fewer passes."""
        return len(self.passes) == self.bound


def plan_passes(
    dies: Sequence[NestPiece],
    plate_mm: tuple[float, float],
    *,
    gap_mm: float = 3.0,
    seconds: float = 2.0,
    go_on: GoOn = lambda: True,
) -> PassPlan:
    """Plan the passes of some dies; `copies` says how often each is to cut.

    Raises
    ------
    InputError
        A die that is larger than the plate.
    """
    wanted = [die for die in dies if die.copies > 0]
    if not wanted:
        return PassPlan((), 0)
    end = time.monotonic() + seconds
    task = _Task(wanted, plate_mm, gap_mm)
    best = task.first(task.fill)
    if len(best) > task.bound and time.monotonic() < end and go_on():
        best = min(best, task.first(task.fill_with_care), key=len)
    while len(best) > task.bound and time.monotonic() < end and go_on():
        fewer = task.share_out(len(best) - 1, end)
        if fewer is None:
            break
        best = fewer
    return PassPlan(tuple(best), task.bound)


class _Task:
    """Dies by their place, what is known of which fit a plate together, and the bound."""

    def __init__(self, dies: Sequence[NestPiece], plate_mm: tuple[float, float], gap_mm: float) -> None:
        self._dies, self._plate, self._gap = dies, plate_mm, gap_mm
        self._known: dict[frozenset[int], NestedSheet | None] = {}
        self._no_boxes: set[frozenset[int]] = set()
        self._sizes = [_grown_area(die, gap_mm) for die in dies]
        self._room = (plate_mm[0] + gap_mm) * (plate_mm[1] + gap_mm)
        every = [size for size, die in zip(self._sizes, dies, strict=True) for _ in range(die.copies)]
        self.bound = max(*(die.copies for die in dies), fewest_by_size(every, self._room))

    def lay(self, chosen: frozenset[int], seconds: float = 0.0) -> NestedSheet | None:
        """Lay some dies on one plate; None where no room is found for all."""
        if sum(self._sizes[index] for index in chosen) > self._room:
            return None
        if chosen not in self._known or (seconds and self._known[chosen] is None):
            pieces = self._pieces(chosen)
            made = nest(pieces, self._plate, gap_mm=self._gap, edge_mm=0.0, seconds=seconds)
            self._known[chosen] = made.sheets[0] if len(made.sheets) == 1 else None
        return self._known[chosen]

    def lay_boxes(self, chosen: frozenset[int]) -> NestedSheet | None:
        """Lay some dies on one plate soon: as `lay` finds room for them at first, or else by the boxes round them."""
        laid = self.lay(chosen)
        if laid is None and len(chosen) <= MOST_BOXES and chosen not in self._no_boxes:
            laid = fit_side_by_side(self._pieces(chosen), self._plate, gap_mm=self._gap, seconds=BOXES_S)
            self._known[chosen] = laid
            self._no_boxes |= {chosen} if laid is None else set()
        return laid

    def _pieces(self, chosen: frozenset[int]) -> list[NestPiece]:
        return [self._dies[index]._replace(copies=1) for index in sorted(chosen)]

    def first(self, fill: Callable[[Sequence[int]], NestedSheet]) -> list[NestedSheet]:
        """Fill pass after pass with one of each die that is still wanted."""
        left = [die.copies for die in self._dies]
        passes = []
        while any(left):
            order = sorted(
                (index for index, count in enumerate(left) if count), key=lambda one: (-left[one], -self._sizes[one])
            )
            laid = self.lay(frozenset(order)) or fill(order)
            passes.append(laid)
            places = {self._dies[index].id: index for index in order}
            for spot in laid.spots:
                left[places[spot.id]] -= 1
        return passes

    def fill(self, order: Sequence[int]) -> NestedSheet:
        """Lay on one plate what still finds room, in that order; the first for sure."""
        laid = fill_sheet([self._dies[index] for index in order], self._plate, gap_mm=self._gap)
        return laid if laid is not None and laid.spots[0].id == self._dies[order[0]].id else self._alone(order[0])

    def fill_with_care(self, order: Sequence[int]) -> NestedSheet:
        """Do as `fill` does, and lay all anew for each that is added: what is tight may go in another order."""
        chosen: frozenset[int] = frozenset()
        for index in order:
            if sum(self._sizes[one] for one in chosen) + self._sizes[index] <= self._room:
                chosen = chosen | {index} if self.lay(chosen | {index}) is not None else chosen
        return (self.lay(chosen) if chosen else None) or self._alone(order[0])

    def _alone(self, index: int) -> NestedSheet:
        laid = self.lay(frozenset((index,)))
        if laid is None:
            raise InputError(f"“{self._dies[index].id}” is larger than the plate of the machine.")
        return laid

    def share_out(self, passes: int, end: float) -> list[NestedSheet] | None:
        """Share the dies out on so many passes; None where no way was found in time, or there is none.

        What goes in upright is soon known: only where no way of sharing goes in so is more time given to each.
        """
        return self._share_out(passes, end, self.lay_boxes) or self._share_out(
            passes, end, lambda share: self.lay(share, TRY_S)
        )

    def _share_out(
        self, passes: int, end: float, lay: Callable[[frozenset[int]], NestedSheet | None]
    ) -> list[NestedSheet] | None:
        from fair_thicket.packing.sharing import Sharing  # loads the solver

        sharing = Sharing([die.copies for die in self._dies], self._sizes, self._room, passes)
        while (left := end - time.monotonic()) > 0:
            shares = sharing.next(left)
            if shares is None:
                return None
            laid: list[NestedSheet] = []
            for share in filter(None, shares):
                found = lay(share)
                if found is None:
                    sharing.forbid(share)
                    break
                laid.append(found)
            else:
                return laid
        return None


def _grown_area(die: NestPiece, gap_mm: float) -> float:
    import shapely

    from fair_thicket.shape.outline import to_area

    return float(shapely.buffer(to_area(die.outline), gap_mm / 2).area)
