"""Edits of a card: pure functions from one work to the next. What paper cannot do is refused here, with the reason."""

from collections.abc import Callable, Collection, Sequence

import msgspec

from fair_thicket.model.card import Card, Impression, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.finding import Remedy
from fair_thicket.model.stash import Stamp, Stash
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.scene.judging import place_pieces
from fair_thicket.shape.outline import footprint

MOST_PIECES = 500


def add_impression(work: Work, stamp: str, at: tuple[float, float]) -> tuple[Work, str]:
    """Stamp an image in front of everything; (x, y) is its middle, mm. Returns the work and the new piece's id.

    Raises
    ------
    PaperError
        When the card holds 500 pieces already.
    """
    if len(work.card.pieces) >= MOST_PIECES:
        raise PaperError(f"A card holds at most {MOST_PIECES} pieces; delete one first.")
    taken = {piece.id for piece in work.card.pieces}
    number = 1
    while f"{stamp[:70]}-{number}" in taken:
        number += 1
    key = f"{stamp[:70]}-{number}"
    piece = Impression(key, stamp, _clamp(at[0]), _clamp(at[1]))
    return _with_pieces(work, (*work.card.pieces, piece)), key


def move_by(work: Work, keys: Collection[str], by: tuple[float, float]) -> Work:
    """Move pieces by (x, y) mm."""
    return _map(
        work, keys, lambda piece: msgspec.structs.replace(piece, x=_clamp(piece.x + by[0]), y=_clamp(piece.y + by[1]))
    )


def move_to(work: Work, key: str, at: tuple[float, float]) -> Work:
    """Put a piece's middle at (x, y) mm."""
    return _map(work, {key}, lambda piece: msgspec.structs.replace(piece, x=_clamp(at[0]), y=_clamp(at[1])))


def turn_by(work: Work, keys: Collection[str], degrees: float) -> Work:
    """Turn pieces clockwise, each about its own middle."""
    return _map(
        work, keys, lambda piece: msgspec.structs.replace(piece, angle_deg=normalise_angle(piece.angle_deg + degrees))
    )


def turn_to(work: Work, keys: Collection[str], degrees: float) -> Work:
    """Turn pieces to an angle, clockwise as seen from upright."""
    return _map(work, keys, lambda piece: msgspec.structs.replace(piece, angle_deg=normalise_angle(degrees)))


def delete(work: Work, keys: Collection[str]) -> Work:
    """Take pieces off the card."""
    return _with_pieces(work, tuple(piece for piece in work.card.pieces if piece.id not in keys))


def reorder(work: Work, key: str, index: int) -> Work:
    """Put a piece at an index of the order, 0 the furthest back; beyond the ends means the ends."""
    piece = work.card.find(key)
    others = [one for one in work.card.pieces if one.id != key]
    index = max(0, min(index, len(others)))
    return _with_pieces(work, (*others[:index], piece, *others[index:]))


def set_order(work: Work, order: Sequence[str]) -> Work:
    """Put all pieces into an order of ids, from the back to the front.

    Raises
    ------
    ValueError
        When the ids are not exactly the card's.
    """
    pieces = {piece.id: piece for piece in work.card.pieces}
    if len(order) != len(pieces) or set(order) != pieces.keys():
        raise ValueError("an order must name every piece exactly once")
    return _with_pieces(work, tuple(pieces[key] for key in order))


def step_past_overlap(work: Work, keys: Collection[str], step: int) -> Work:
    """Bring pieces past the next piece that they overlap, forward (+1) or back (-1).

    Pieces that overlap nothing in that direction stay: their place in the order shows nowhere.
    """
    order = list(work.card.pieces)
    areas = {piece.id: footprint(piece, work.stash.find(piece.stamp)) for piece in order}
    chosen = [piece for piece in order if piece.id in keys]
    for piece in reversed(chosen) if step > 0 else chosen:
        at = order.index(piece)
        ahead = range(at + 1, len(order)) if step > 0 else range(at - 1, -1, -1)
        target = next(
            (
                k
                for k in ahead
                if order[k].id not in keys and areas[order[k].id].intersection(areas[piece.id]).area > OVERLAP_MM2
            ),
            None,
        )
        if target is not None:
            order.insert(target, order.pop(at))
    return _with_pieces(work, tuple(order))


def to_end(work: Work, keys: Collection[str], *, front: bool) -> Work:
    """Bring pieces all the way to the front or to the back."""
    moved = tuple(piece for piece in work.card.pieces if piece.id in keys)
    rest = tuple(piece for piece in work.card.pieces if piece.id not in keys)
    return _with_pieces(work, rest + moved if front else moved + rest)


def set_card(work: Work, **fields: object) -> Work:
    """Change the card's own fields, such as ``landscape``, ``unit`` or ``mask_rim_mm``."""
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, **fields))


def apply_remedy(work: Work, remedy: Remedy) -> Work:
    """Do what a remedy says."""
    card: Card = place_pieces(work.card, remedy.pieces)
    if remedy.mask_rim_mm is not None:
        card = msgspec.structs.replace(card, mask_rim_mm=remedy.mask_rim_mm)
    return msgspec.structs.replace(work, card=card)


def add_stamps(work: Work, stamps: Sequence[Stamp]) -> Work:
    """Put stamps into the stash; ids must be new (see `model.stash.new_key`)."""
    return msgspec.structs.replace(work, stash=Stash((*work.stash.stamps, *stamps)))


def rename_stamp(work: Work, key: str, name: str) -> Work:
    """Give a stamp another name."""
    return _map_stamp(work, key, name=name)


def set_copies(work: Work, key: str, copies: int) -> Work:
    """Say how many of a stamp there are."""
    return _map_stamp(work, key, copies=copies)


def learn(work: Work, known: Stamp) -> Work:
    """Let the stash's stamp of the same picture know what another copy of it knows; ids and shapes stay."""
    fields = ("name", "copies", "kind", "set_name", "tags", "may_flip", "die_margin_mm", "marks")
    told = {field: getattr(known, field) for field in fields}
    keys = [own.id for own in work.stash.stamps if own.picture == known.picture]
    for key in keys:
        work = _map_stamp(work, key, **told)
    return work


def drop_stamp(work: Work, key: str) -> Work:
    """Take a stamp out of the stash.

    Raises
    ------
    PaperError
        While the card still bears impressions of it.
    """
    used = sum(piece.stamp == key for piece in work.card.pieces)
    if used:
        raise PaperError(
            f"The card bears {used} impression{'s' * (used > 1)} of “{work.stash.find(key).name}”; "
            "delete them from the scene first."
        )
    return msgspec.structs.replace(work, stash=Stash(tuple(one for one in work.stash.stamps if one.id != key)))


def normalise_angle(degrees: float) -> float:
    """Bring an angle into -180 (left out) to 180; rounded to 1/1000 degree."""
    turned = round(degrees % 360, 3)
    return turned - 360 if turned > 180 else turned


def _map(work: Work, keys: Collection[str], change: Callable[[Impression], Impression]) -> Work:
    return _with_pieces(work, tuple(change(piece) if piece.id in keys else piece for piece in work.card.pieces))


def _map_stamp(work: Work, key: str, **fields: object) -> Work:
    stamps = tuple(msgspec.structs.replace(one, **fields) if one.id == key else one for one in work.stash.stamps)
    return msgspec.structs.replace(work, stash=Stash(stamps))


def _with_pieces(work: Work, pieces: tuple[Impression, ...]) -> Work:
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))


def _clamp(value: float) -> float:
    """Keep a place within what a card file takes, rounded to a ten-thousandth of a millimetre."""
    return round(max(-2000.0, min(2000.0, value)), 4)
