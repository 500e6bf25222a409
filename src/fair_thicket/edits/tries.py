"""Layouts that a maker keeps to compare: put away, held side by side, gone back to."""

import msgspec

from fair_thicket.model.bounds import MOST_TRIES
from fair_thicket.model.card import Card, Try, Work, free_id, order_pieces, rename_in
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Piece


def keep_try(work: Work, name: str) -> Work:
    """Keep the present layout under a name; one of the same name is replaced.

    Raises
    ------
    PaperError
        When there is no name, or 40 layouts are kept already.
    """
    name = name.strip()[:80]
    if not name:
        raise PaperError("Give the layout a name, such as “moth on the left”.")
    card = work.card
    kept = Try(name, card.pieces, card.format, card.landscape, card.custom_mm)
    others = tuple(one for one in card.tries if one.name != name)
    if len(others) >= MOST_TRIES:
        raise PaperError(f"A card keeps at most {MOST_TRIES} layouts; drop one first.")
    return _with_tries(work, (*others, kept))


def drop_try(work: Work, name: str) -> Work:
    """Drop a kept layout; nothing happens when there is none of that name."""
    return _with_tries(work, tuple(one for one in work.card.tries if one.name != name))


def go_to_try(work: Work, name: str) -> Work:
    """Go back to a kept layout on the side it was kept from; the present one is given up as undo can bring it back.

    Raises
    ------
    KeyError
        When there is none of that name.
    """
    kept = find_try(work.card, name)
    card = card_of_try(work.card, name)
    return msgspec.structs.replace(work, card=card.turned() if kept.is_other_side else card)


def find_try(card: Card, name: str) -> Try:
    """Return the layout of a name; KeyError when there is none."""
    for one in card.tries:
        if one.name == name:
            return one
    raise KeyError(name)


def card_of_try(card: Card, name: str) -> Card:
    """Return the card as it would be with a kept layout, the side of that layout in front.

    Raises
    ------
    KeyError
        When there is none of that name.

    Notes
    -----
    Cards of earlier versions may have given an id away again that a kept layout has: then the layout's piece takes
    a new one.
    """
    kept = find_try(card, name)
    if kept.is_other_side:
        card, kept = card.turned(), msgspec.structs.replace(kept, is_other_side=False)
    return msgspec.structs.replace(
        card,
        pieces=order_pieces(_with_free_ids(kept.pieces, card)),
        format=kept.format,
        landscape=kept.landscape,
        custom_mm=kept.custom_mm,
    )


def _with_free_ids(pieces: tuple[Piece, ...], card: Card) -> tuple[Piece, ...]:
    """Return pieces new ids where the other side of the card has theirs; whatever names them follows."""
    there = {piece.id for piece in card.inside}
    new: dict[str, str] = {}
    for piece in pieces:
        if piece.id in there:
            new[piece.id] = free_id(card, piece.id, also_taken=list(new.values()))
    return tuple(rename_in(piece, new) for piece in pieces) if new else pieces


def _with_tries(work: Work, tries: tuple[Try, ...]) -> Work:
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, tries=tries))
