"""The rehearsal after the last press: images coloured, pieces landing with their shadows, to the finished card."""

from collections.abc import Callable, Mapping
from typing import NamedTuple

import numpy as np

from fair_thicket.ink.finishing import finish_by_steps
from fair_thicket.ink.inking import lay_inks
from fair_thicket.ink.painting import Look
from fair_thicket.laid.by_hand import stamped_by_hand
from fair_thicket.masks.rehearsal import Rehearsal, as_planned, stamped_only
from fair_thicket.masks.sheet_pictures import Frames
from fair_thicket.model.card import Work
from fair_thicket.model.errors import check_wanted
from fair_thicket.model.pieces import Embellishment, Impression, Piece
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.tolerance import REHEARSAL_DPI


class Landing(NamedTuple):
    """What lands after the presses.

    Attributes
    ----------
    papers : Frames
        (rows, columns, 3) uint8: the sheets as the platform left them, then the card after each landing.
    pieces : tuple of str
        Id of the piece, or key of the flap, that lands with each picture after the first.
    kinds : tuple of str
        ``colour``, ``glue``, ``thread`` (a flap), ``finish`` or ``stamp``, for each.
    """

    papers: Frames
    pieces: tuple[str, ...]
    kinds: tuple[str, ...]


def _kind_of(piece: Piece) -> str:
    if isinstance(piece, Impression):
        return "colour"
    return "finish" if isinstance(piece, Embellishment) else "glue"


def last_on_table(plan: MaskPlan) -> int:
    """Index of the picture after the last press by platform or ink: what is stamped by hand comes after gluing."""
    return sum(not press.by_hand for press in plan.presses)


def land(
    work: Work,
    pictures: Mapping[str, bytes],
    plan: MaskPlan,
    rehearsal: Rehearsal,
    *,
    go_on: Callable[[], bool] = lambda: True,
) -> Landing:
    """Land everything on the sheets that a rehearsal left, from the back to the front; then what is stamped by hand.

    Raises
    ------
    StoppedError
        When `go_on` said so.
    """
    made = as_planned(work)
    inks = lay_inks(stamped_only(work), pictures, REHEARSAL_DPI)
    start = rehearsal.papers[last_on_table(plan)]
    frames, pieces, kinds = Frames(start), list[str](), list[str]()
    last = np.asarray(start, np.float32) / np.float32(255)
    steps = finish_by_steps(made, pictures, start, rehearsal.scene, inks, dpi=REHEARSAL_DPI, look=Look(shadows=True))
    for done in steps:
        check_wanted(go_on, "the card")
        frames.add(done.canvas, [done.window])
        pieces.append(done.leaf.key)
        is_flap = done.leaf.key != done.leaf.piece.id
        kinds.append("thread" if is_flap else _kind_of(done.leaf.piece))
        last = done.canvas
    by_hand = stamped_by_hand(made)
    for piece in made.card.pieces:
        if piece.id in by_hand:
            windows = []
            for ink in inks.values():
                if ink.piece == piece.id:
                    ink.lay(last)
                    windows.append(ink.window)
            frames.add(last, windows)
            pieces.append(piece.id)
            kinds.append("stamp")
    return Landing(frames, tuple(pieces), tuple(kinds))
