"""Every kind of piece that a card can bear: frozen values, mm and degrees clockwise as seen; nothing is computed."""

from fair_thicket.model.pieces.paper import Border, Embellishment, End, Panel, Strip
from fair_thicket.model.pieces.placed import (
    CARD_EDGE,
    INK,
    Colour,
    Degrees,
    Flap,
    Form,
    Height,
    Hold,
    PaperPiece,
    Placed,
    Window,
    Words,
)
from fair_thicket.model.pieces.stamped import Cutout, Impression, InkZone, Part, as_cut, as_stamped
from fair_thicket.model.pieces.washes import (
    WASH,
    AnyThrough,
    AnyWash,
    Blend,
    Cover,
    Drops,
    Lay,
    Paste,
    Splatter,
    Stencilled,
    Texture,
    Through,
    Wash,
    Water,
    as_kind,
    is_stepped,
)

Piece = Impression | Cutout | Panel | Strip | Border | AnyWash | Embellishment
Glued = Cutout | Panel | Strip | Border | Embellishment
"""Pieces of paper, as `PaperPiece` says."""


def stamps_of(piece: Piece) -> tuple[str, ...]:
    """Keys of the things in the stash that a piece is made with."""
    if isinstance(piece, Cutout):
        return (piece.stamp, *(part.stamp for part in piece.joined))
    if isinstance(piece, Through):
        return (piece.stencil,) if piece.stencil else ()
    if isinstance(piece, Water):
        return (piece.stamp,) if piece.stamp else ()
    return (piece.stamp,) if isinstance(piece, Impression | Border) else ()


def is_glued(piece: Piece) -> bool:
    """Whether it is put on with glue, and so lies in front of all that is stamped on its surface."""
    return isinstance(piece, PaperPiece)


__all__ = [
    "CARD_EDGE", "INK", "WASH", "AnyThrough", "AnyWash", "Blend", "Border", "Colour", "Cover", "Cutout", "Degrees",
    "Drops", "Embellishment", "End", "Flap", "Form", "Glued", "Height", "Hold", "Impression", "InkZone", "Lay", "Panel",
    "PaperPiece", "Part", "Paste", "Piece", "Placed", "Splatter", "Stencilled", "Strip", "Texture", "Through", "Wash",
    "Water", "Window", "Words", "as_cut", "as_kind", "as_stamped", "is_glued", "is_stepped", "stamps_of",
]  # fmt: skip
