"""The operations of one side as actions on its paper, in an order that keeps every edge: what a rehearsal performs."""

import heapq
from collections.abc import Iterator, Sequence

from fair_thicket.assembly.operation import Operation
from fair_thicket.assembly.operations import list_operations
from fair_thicket.assembly.side import Side
from fair_thicket.assembly.tucks import find_tucks, order_of_tucks
from fair_thicket.model.performance import Action
from fair_thicket.model.plan import SHEET, MaskPlan


def list_actions(side: Side, operations: Sequence[Operation] | None = None) -> list[Action]:
    """Return what is done to one side.

    Parameters
    ----------
    operations : sequence of Operation or None
        Of the card, in the order in which they are done; None for an order of this side's own.
    """
    ordered = in_order(list_operations([side])) if operations is None else operations
    under = order_of_tucks(side.work, find_tucks(side.work, side.heights, side.foam, side.glue)).under
    own = [one for one in ordered if _side_of(one) == side.name]
    return [action for one in own for action in _actions_of(one, side, under)]


def _side_of(operation: Operation) -> str:
    return "inside" if operation.key.startswith("inside ") else "front"


def _actions_of(operation: Operation, side: Side, under: dict[str, tuple[str, ...]]) -> Iterator[Action]:
    key = operation.key.removeprefix(side.prefix)
    if operation.kind in {"press", "ink"}:
        yield Action("press", press=int(key.removeprefix("press ")) - 1)
    elif key == "stamp":
        yield from (Action("press", press=p) for p in presses_on_sheet(side.plan))
    elif operation.kind == "stamp":
        yield from (Action("words", piece) for piece in operation.pieces)
    elif operation.kind == "colour":
        yield from (Action("colour", piece) for piece in operation.pieces)
    elif operation.kind in {"glue", "set"}:
        yield from (Action("glue", piece, under=under.get(piece, ())) for piece in operation.pieces)


def presses_on_sheet(plan: MaskPlan) -> Iterator[int]:
    """Yield the presses that stamp what is cut out."""
    return (p for p, press in enumerate(plan.presses) if press.surface == SHEET)


def in_order(operations: Sequence[Operation]) -> list[Operation]:
    """Sort operations so that each comes after what it waits for, and otherwise as they are listed.

    What waits in a circle is left out.
    """
    known = {one.key: n for n, one in enumerate(operations)}
    waits = [{known[edge.key] for edge in one.after if edge.key in known} for one in operations]
    then: list[list[int]] = [[] for _ in operations]
    for n, earlier in enumerate(waits):
        for first in earlier:
            then[first].append(n)
    ready = [n for n, earlier in enumerate(waits) if not earlier]
    ordered = []
    while ready:
        n = heapq.heappop(ready)
        ordered.append(operations[n])
        for later in then[n]:
            waits[later].discard(n)
            if not waits[later]:
                heapq.heappush(ready, later)
    return ordered
