"""Which tool cuts a piece out: one rule for the list of sheets, the prices of masks, and the order of the work."""

import math
from collections.abc import Sequence
from typing import Literal

from fair_thicket.model.card import WHITE
from fair_thicket.model.pieces import Border, Cutout, Panel, PaperPiece, Piece, Strip
from fair_thicket.model.stash import DRAWN_TAG, Stash

Tool = Literal["die", "scissors", "trimmer", "knife"]


def tool_of(piece: PaperPiece, stash: Stash) -> Tool:
    """Tell what cuts a piece out; an image's own die cuts it where its margin is the die's, and it is one image."""
    if isinstance(piece, Cutout):
        stamp = stash.find(piece.stamp)
        if stamp.kind.is_plain or piece.opening is not None:
            return "die"
        margin = piece.margin_mm if piece.margin_mm is not None else stamp.die_margin_mm
        return (
            "die"
            if stamp.die_margin_mm is not None and margin == stamp.die_margin_mm and not piece.joined
            else ("scissors")
        )
    if isinstance(piece, Border):
        return "knife" if DRAWN_TAG in stash.find(piece.stamp).tags else "die"
    if isinstance(piece, Strip):
        return "trimmer"
    if isinstance(piece, Panel):
        return "trimmer" if piece.form.kind == "rectangle" and not piece.form.corner_mm else "die"
    return "scissors"


def cuts_of(piece: PaperPiece, stash: Stash) -> int:
    """How many cuts of its die a piece takes: a border as many as reach from end to end."""
    if not isinstance(piece, Border):
        return 1
    return max(1, len(piece.cuts), math.ceil(round(piece.length_mm / stash.find(piece.stamp).width_mm, 3)))


def shares_print(piece: Piece, pieces: Sequence[Piece]) -> bool:
    """Whether a cut image is cut from the same print as another that is there: it is not stamped for itself."""
    return isinstance(piece, Cutout) and any(_gives_print(one, piece) for one in pieces)


def gives_print(piece: Piece, pieces: Sequence[Piece]) -> bool:
    """Whether others are cut from the print of a cut image: it is stamped whole."""
    return any(isinstance(one, Cutout) and _gives_print(piece, one) for one in pieces)


def _gives_print(piece: Piece, other: Cutout) -> bool:
    return (
        isinstance(piece, Cutout)
        and other.print_of == piece.id != other.id
        and other.stamp == piece.stamp
        and not piece.print_of
    )


def frame_of(inlay: Cutout, pieces: Sequence[Piece]) -> str | None:
    """Return the id of the die cut whose opening an inlay fell out of; None where the die is run again for it.

    A die cut gives one of every opening, in its own paper alone.
    """
    if inlay.opening is None:
        return None
    cuts = [one for one in pieces if isinstance(one, Cutout) and one.stamp == inlay.stamp]
    frames = [one.id for one in cuts if one.opening is None and _paper_of(one) == _paper_of(inlay)]
    same = [one.id for one in cuts if one.opening == inlay.opening and _paper_of(one) == _paper_of(inlay)]
    number = same.index(inlay.id)
    return frames[number] if number < len(frames) else None


def _paper_of(piece: Cutout) -> tuple[str, str]:
    return piece.colour or WHITE, piece.pattern
