"""Which tool cuts a piece out: one rule for the list of sheets, the prices of masks, and the order of the work."""

from collections.abc import Sequence
from typing import Literal

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
