"""Edits of papers: plain colours, patterned papers and the way up they lie, of pieces and of the base."""

from collections.abc import Collection

import msgspec

from fair_thicket.edits.pieces import add_stamps, set_card
from fair_thicket.model.bounds import LARGEST_MM
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Colour, PaperPiece
from fair_thicket.model.stash import Kind, Stamp, new_key


def add_patterned(work: Work, name: str, size_mm: tuple[float, float], picture: str) -> tuple[Work, str]:
    """Put a patterned paper into the stash; gives the work and its key.

    Parameters
    ----------
    size_mm : (float, float)
        Of the piece of it that is pictured.
    picture : str
        Name of its picture.
    """
    width, height = size_mm
    if not (0 < width <= LARGEST_MM and 0 < height <= LARGEST_MM):
        raise PaperError(f"A patterned paper is at most {LARGEST_MM:.0f} mm wide and high.")
    key = new_key(name, {stamp.id for stamp in work.stash.stamps})
    half_x, half_y = round(width / 2, 3), round(height / 2, 3)
    outline = ((-half_x, -half_y), (half_x, -half_y), (half_x, half_y), (-half_x, half_y))
    paper = Stamp(key, name.strip()[:120] or "patterned paper", width, height, outline, picture, kind=Kind.PAPER)
    return add_stamps(work, [paper]), key


def set_paper(work: Work, keys: Collection[str], colour: Colour | None) -> Work:
    """Make pieces of plain paper or card of a colour; None leaves it unsaid."""
    pieces = tuple(
        msgspec.structs.replace(piece, colour=colour, **({"pattern": ""} if isinstance(piece, PaperPiece) else {}))
        if piece.id in keys
        else piece
        for piece in work.card.pieces
    )
    return set_card(work, pieces=pieces)


def set_pattern(work: Work, keys: Collection[str], paper: str, colour: Colour) -> Work:
    """Cut pieces from a patterned paper of the stash; `colour` stands for it where one is asked for."""
    _check(work, paper)
    if not any(isinstance(piece, PaperPiece) for piece in work.card.pieces if piece.id in keys):
        raise PaperError("Only paper is cut from patterned paper; choose a panel, a strip, a border or a die cut.")
    pieces = tuple(
        msgspec.structs.replace(piece, pattern=paper, colour=colour)
        if piece.id in keys and isinstance(piece, PaperPiece)
        else piece
        for piece in work.card.pieces
    )
    return set_card(work, pieces=pieces)


def turn_pattern(work: Work, keys: Collection[str]) -> Work:
    """Lay the pattern of pieces another way up: a quarter turn clockwise on the piece."""
    pieces = tuple(
        msgspec.structs.replace(piece, pattern_turn=(piece.pattern_turn + 90) % 360)
        if piece.id in keys and isinstance(piece, PaperPiece) and piece.pattern
        else piece
        for piece in work.card.pieces
    )
    return set_card(work, pieces=pieces)


def set_base_paper(work: Work, colour: Colour, pattern: str = "") -> Work:
    """Make the base of plain card, or of a patterned paper that a colour stands for."""
    if pattern:
        _check(work, pattern)
    return set_card(work, paper=colour, pattern=pattern)


def _check(work: Work, paper: str) -> None:
    if not work.stash.has(paper) or work.stash.find(paper).kind is not Kind.PAPER:
        raise PaperError("That is no patterned paper of the stash; take one in from a picture first.")
