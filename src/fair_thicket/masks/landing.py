"""The rehearsal after the last press: images coloured, pieces landing with their shadows, to the finished card."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from fair_thicket.ink.inking import to_levels
from fair_thicket.ink.painter import Look
from fair_thicket.laid.stack import Leaf
from fair_thicket.masks.piles import Entry
from fair_thicket.masks.rehearsal import Rehearsal
from fair_thicket.masks.sheet_pictures import Frames
from fair_thicket.model.errors import check_wanted
from fair_thicket.model.performance import Action
from fair_thicket.model.pieces import Embellishment
from fair_thicket.model.plan import MaskPlan

SHADOWED = Look(shadows=True)


class Landing(NamedTuple):
    """What lands after the presses.

    Attributes
    ----------
    papers : Frames
        (rows, columns, 3) uint8: the sheets as the platform left them, then the card after each landing.
    pieces : tuple of str
        Id of the piece that lands with each picture after the first.
    kinds : tuple of str
        ``colour``, ``glue``, ``finish`` or ``stamp``, for each.
    """

    papers: Frames
    pieces: tuple[str, ...]
    kinds: tuple[str, ...]


def last_on_table(plan: MaskPlan) -> int:
    """Index of the picture after the last press by platform or ink: what is stamped by hand comes after gluing."""
    return sum(not press.by_hand for press in plan.presses)


def land(plan: MaskPlan, rehearsal: Rehearsal, *, go_on: Callable[[], bool] = lambda: True) -> Landing:
    """Picture what lands on the sheets that a rehearsal left, action by action, with its shadow.

    Raises
    ------
    StoppedError
        When `go_on` said so.
    """
    made = rehearsal.performance
    frames, pieces, kinds = Frames(rehearsal.papers[last_on_table(plan)]), list[str](), list[str]()
    whole = (slice(0, frames[0].shape[0]), slice(0, frames[0].shape[1]))
    canvas, laid = np.zeros((0, 0, 3), np.float32), tuple[Entry, ...]()
    for action, pile in made.landed:
        check_wanted(go_on, "the card")
        if not canvas.size or pile[: len(laid)] != laid or action.kind == "colour":
            canvas, laid = made.picture_pile((), SHADOWED), ()  # something went underneath: begun again
        for entry in pile[len(laid) :]:
            made.put_entry(canvas, entry, whole, SHADOWED)
        laid = pile
        frames.add_changed(to_levels(canvas))
        pieces.append(action.piece)
        kinds.append(_kind_of(action, pile))
    return Landing(frames, tuple(pieces), tuple(kinds))


def _kind_of(action: Action, pile: tuple[Entry, ...]) -> str:
    if action.kind != "glue":
        return "colour" if action.kind == "colour" else "stamp"
    pieces = (entry.piece for entry in pile if isinstance(entry, Leaf))
    return "finish" if any(one.id == action.piece and isinstance(one, Embellishment) for one in pieces) else "glue"
