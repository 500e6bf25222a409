"""Edits of a card: pure functions from one work to the next. What paper cannot do is refused here, with the reason."""

import math
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence

import msgspec

from fair_thicket.edits.order import refuse_order, settle
from fair_thicket.laid.stack import stack
from fair_thicket.model.bounds import FARTHEST_MM, MOST_PIECES
from fair_thicket.model.card import Card, Dismissal, Work, carried_by, order_pieces
from fair_thicket.model.card import free_id as card_free_id
from fair_thicket.model.derived import begin_with
from fair_thicket.model.errors import PaperError
from fair_thicket.model.finding import Remedy
from fair_thicket.model.pieces import Cutout, Impression, Panel, PaperPiece, Piece, Strip, Wash, stamps_of
from fair_thicket.model.stash import Stamp, Stash
from fair_thicket.shape.outline import turn_points
from fair_thicket.shape.overlap import find_overlaps

GLOW_DISC_MM = 3.0
"""A disc kept free lies round its glow's middle, or very nearly: an image's box and its middle differ by no more."""


def add_piece(work: Work, piece: Piece) -> Work:
    """Put a piece on the card, in front of all that it may lie in front of.

    Raises
    ------
    PaperError
        When the card holds as many pieces as it can.
    """
    if len(work.card.pieces) >= MOST_PIECES:
        raise PaperError(f"A card holds at most {MOST_PIECES} pieces; delete one first.")
    return _with_pieces(work, (*work.card.pieces, piece))


def free_id(work: Work, stem: str) -> str:
    """Id for a new piece: the stem and the lowest number that is free on both sides and in every kept layout."""
    return card_free_id(work.card, stem)


def add_impression(work: Work, stamp: str, at: tuple[float, float], *, on: str = "") -> tuple[Work, str]:
    """Stamp an image in front of everything stamped there; (x, y) is its middle, mm. Returns the work and the new id.

    Raises
    ------
    PaperError
        When the card holds as many pieces as it can.
    """
    key = free_id(work, stamp)
    return add_piece(work, Impression(key, stamp, clamp(at[0]), clamp(at[1]), on=on)), key


def surface_at(work: Work, at: tuple[float, float]) -> str:
    """Id of the topmost panel or strip that lies at a place; empty where the card itself is bare."""
    from shapely.geometry import Point

    for leaf in reversed(stack(work)):
        if isinstance(leaf.piece, Panel | Strip) and leaf.area.covers(Point(at)):
            return leaf.piece.id
    return ""


def move_by(work: Work, keys: Collection[str], by: tuple[float, float]) -> Work:
    """Move pieces by (x, y) mm, with all that lies on them or is held by them."""
    return _map(work, followers(work.card.pieces, keys), lambda piece: shift(piece, by))


def move_to(work: Work, key: str, at: tuple[float, float]) -> Work:
    """Put a piece's middle at (x, y) mm, with all that lies on it or is held by it."""
    piece = work.card.find(key)
    return move_by(work, {key}, (clamp(at[0]) - piece.x, clamp(at[1]) - piece.y))


def turn_by(work: Work, keys: Collection[str], degrees: float) -> Work:
    """Turn pieces clockwise, each about its own middle, with all that lies on them or is held by them."""
    roots = [piece for piece in work.card.pieces if piece.id in keys and not _is_led(work, piece, keys)]
    for root in roots:
        led = followers(work.card.pieces, {root.id})

        def swing(piece: Piece, middle: tuple[float, float] = (root.x, root.y)) -> Piece:
            away = (piece.x - middle[0], piece.y - middle[1])
            x, y = turn_points([away], degrees, *middle)[0].tolist()
            return msgspec.structs.replace(
                piece, x=clamp(x), y=clamp(y), angle_deg=normalise_angle(piece.angle_deg + degrees)
            )

        work = _map(work, led, swing)
    return work


def _is_led(work: Work, piece: Piece, keys: Collection[str]) -> bool:
    return any(piece.id in followers(work.card.pieces, {key}) for key in keys if key != piece.id)


def turn_to(work: Work, keys: Collection[str], degrees: float) -> Work:
    """Turn pieces to an angle, clockwise as seen from upright."""
    for key in [piece.id for piece in work.card.pieces if piece.id in keys]:
        by = degrees - work.card.find(key).angle_deg
        if normalise_angle(by) or abs(by) >= 360:
            work = turn_by(work, {key}, by)
        work = _map(work, {key}, lambda piece: msgspec.structs.replace(piece, angle_deg=normalise_angle(degrees)))
    return work


def followers(pieces: Sequence[Piece], keys: Collection[str]) -> set[str]:
    """Ids of pieces together with all that goes where they go: what lies on them and what they hold."""
    found, frontier = set(keys), set(keys)
    while frontier:
        frontier = {
            piece.id
            for piece in pieces
            if piece.id not in found and (piece.on in frontier or (piece.held and piece.held.by in frontier))
        }
        found |= frontier
    return found


def delete(work: Work, keys: Collection[str]) -> Work:
    """Take pieces off the card. What lay on a panel then lies on what the panel lay on; other pieces take all along."""
    gone = set(keys)
    for piece in work.card.pieces:
        if piece.id in keys and not isinstance(piece, Panel):
            gone |= set(carried_by(work.card.pieces, piece.id))
    below = {piece.id: piece.on for piece in work.card.pieces}

    def surface(key: str) -> str:
        while key in gone:
            key = below[key]
        return key

    kept = (piece for piece in work.card.pieces if piece.id not in gone)
    return _with_pieces(work, tuple(_let_go(piece, gone, surface(piece.on)) for piece in kept))


def _let_go(piece: Piece, gone: Collection[str], surface: str) -> Piece:
    """Return a piece without what ties it to pieces that are gone; it then lies on `surface`."""
    fields: dict[str, object] = {}
    if piece.on in gone:
        fields["on"] = surface
    if piece.trim_to in gone:
        fields["trim_to"] = ""
    if piece.held and piece.held.by in gone:
        fields["held"] = None
    if isinstance(piece, Cutout) and piece.print_of in gone:
        fields["print_of"] = ""
    if isinstance(piece, Wash) and piece.glows_from in gone:
        fields["glows_from"] = ""
    if isinstance(piece, PaperPiece) and any(flap.past in gone for flap in piece.flaps):
        fields["flaps"] = tuple(flap for flap in piece.flaps if flap.past not in gone)
    return msgspec.structs.replace(piece, **fields) if fields else piece


def reorder(work: Work, key: str, index: int) -> Work:
    """Put a piece at an index of the order, 0 the furthest back; beyond the ends means the ends."""
    others = [one.id for one in work.card.pieces if one.id != key]
    index = max(0, min(index, len(others)))
    return set_order(work, [*others[:index], key, *others[index:]])


def set_order(work: Work, order: Sequence[str]) -> Work:
    """Put all pieces into an order of ids, from the back to the front; where it shows nowhere, as paper has it.

    Raises
    ------
    ValueError
        When the ids are not exactly the card's.
    PaperError
        When two pieces that overlap would lie as paper cannot.
    """
    pieces = {piece.id: piece for piece in work.card.pieces}
    if len(order) != len(pieces) or set(order) != pieces.keys():
        raise ValueError("an order must name every piece exactly once")
    wanted = tuple(pieces[key] for key in order)
    settled = order_pieces(wanted)
    refuse_order(work, wanted, settled)
    return _with_pieces(work, settled)


def step_past_overlap(work: Work, keys: Collection[str], step: int) -> Work:
    """Bring pieces past the next piece that they overlap, forward (+1) or back (-1).

    Pieces that overlap nothing in that direction stay: their place in the order shows nowhere.

    Raises
    ------
    PaperError
        When paper does not let them past.
    """
    order = list(work.card.pieces)
    leaves = [leaf for leaf in stack(work) if leaf.key == leaf.piece.id]
    ids = [leaf.key for leaf in leaves]
    overlaps = {frozenset((ids[i], ids[j])) for i, j in find_overlaps([leaf.area for leaf in leaves])}
    chosen = [piece for piece in order if piece.id in keys]
    for piece in reversed(chosen) if step > 0 else chosen:
        touched = {key for pair in overlaps if piece.id in pair for key in pair} - set(keys)
        met = _next_met(order, piece, touched, is_forward=step > 0)
        if met:
            order = _put_past(order, piece, _sibling(order, met, piece.on), is_forward=step > 0)
    return set_order(work, [one.id for one in order])


def _next_met(order: Sequence[Piece], piece: Piece, touched: Collection[str], *, is_forward: bool) -> str:
    """Find the next piece in a direction that a piece, with all it carries, meets; empty when there is none."""
    block = {piece.id, *carried_by(order, piece.id)}
    at = [index for index, one in enumerate(order) if one.id in block]
    ahead = order[at[-1] + 1 :] if is_forward else order[: at[0]][::-1]
    return next((one.id for one in ahead if one.id in touched), "")


def _put_past(order: Sequence[Piece], piece: Piece, met: str, *, is_forward: bool) -> list[Piece]:
    """Put a piece, with all it carries, next to another and to all that the other carries."""
    block = {piece.id, *carried_by(order, piece.id)}
    moved = [one for one in order if one.id in block]
    rest = [one for one in order if one.id not in block]
    index = next(i for i, one in enumerate(rest) if one.id == met) + is_forward
    carried = set(carried_by(order, met))
    while is_forward and index < len(rest) and rest[index].id in carried:
        index += 1
    return [*rest[:index], *moved, *rest[index:]]


def _sibling(pieces: Sequence[Piece], key: str, surface: str) -> str:
    """Find what on a surface carries a piece, if anything there does: whoever goes past the one goes past both."""
    on = {piece.id: piece.on for piece in pieces}
    found = key
    while found and on.get(found) != surface:
        found = on.get(found, "")
    return found or key


def to_end(work: Work, keys: Collection[str], *, front: bool) -> Work:
    """Bring pieces as far to the front or to the back as paper lets them."""
    block = set(keys).union(*(carried_by(work.card.pieces, key) for key in keys)) if keys else set()
    moved = tuple(piece for piece in work.card.pieces if piece.id in block)
    rest = tuple(piece for piece in work.card.pieces if piece.id not in block)
    return _with_pieces(work, rest + moved if front else moved + rest)


def set_card(work: Work, **fields: object) -> Work:
    """Change the card's own fields, such as ``landscape``, ``unit`` or ``mask_rim_mm``."""
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, **fields))


def set_pieces(work: Work, keys: Collection[str], **fields: object) -> Work:
    """Change fields of pieces, such as ``colour`` or ``lift_mm``; pieces without such fields stay as they are."""
    return _map(
        work,
        {piece.id for piece in work.card.pieces if piece.id in keys and fields.keys() <= set(piece.__struct_fields__)},
        lambda piece: msgspec.structs.replace(piece, **fields),
    )


def apply_remedy(work: Work, remedy: Remedy) -> Work:
    """Return the work as a remedy leaves it."""
    before = work
    card: Card = place_pieces(work.card, remedy.pieces)
    if remedy.mask_rim_mm is not None:
        card = msgspec.structs.replace(card, mask_rim_mm=remedy.mask_rim_mm)
    if remedy.masking is not None:
        card = msgspec.structs.replace(card, masking=remedy.masking)
    work = msgspec.structs.replace(work, card=card)
    return begin_with(set_order(work, remedy.order) if remedy.order else work, before)


def place_pieces(card: Card, pieces: Iterable[Piece]) -> Card:
    """Put pieces in the place of those with their ids, each at its own height in the order."""
    changed = {piece.id: piece for piece in pieces}
    return msgspec.structs.replace(card, pieces=tuple(changed.get(piece.id, piece) for piece in card.pieces))


def dismiss(work: Work, code: str, piece: str) -> Work:
    """Let advice of a kind about a piece be silent from now on; it stays listed as dismissed."""
    known = work.card.dismissed
    one = Dismissal(code, piece)
    return work if one in known else set_card(work, dismissed=(*known, one))


def recall(work: Work, code: str, piece: str) -> Work:
    """Let dismissed advice speak again."""
    return set_card(work, dismissed=tuple(one for one in work.card.dismissed if one != Dismissal(code, piece)))


def add_stamps(work: Work, stamps: Sequence[Stamp]) -> Work:
    """Put stamps into the stash; ids must be new (see `model.stash.new_key`)."""
    return msgspec.structs.replace(work, stash=Stash((*work.stash.stamps, *stamps)))


def rename_stamp(work: Work, key: str, name: str) -> Work:
    """Return a stamp another name."""
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


def renew_outlines(work: Work, renewed: Iterable[Stamp]) -> Work:
    """Return images of the stash the outlines and pockets of others of their ids; all else stays."""
    for stamp in renewed:
        work = _map_stamp(work, stamp.id, outline=stamp.outline, pockets=stamp.pockets)
    return work


def drop_stamp(work: Work, key: str) -> Work:
    """Take a stamp out of the stash.

    Raises
    ------
    PaperError
        While the card still bears impressions of it.
    """
    every = (*work.card.pieces, *work.card.inside, *(piece for one in work.card.tries for piece in one.pieces))
    used = sum(key in stamps_of(piece) for piece in every)
    if used:
        raise PaperError(
            f"The card bears {used} piece{'s' * (used > 1)} of “{work.stash.find(key).name}”; "
            "delete them from the scene first."
        )
    return msgspec.structs.replace(work, stash=Stash(tuple(one for one in work.stash.stamps if one.id != key)))


def normalise_angle(degrees: float) -> float:
    """Bring an angle into -180 (left out) to 180; rounded to 1/1000 degree."""
    turned = round(degrees % 360, 3)
    return turned - 360 if turned > 180 else turned


def shift(piece: Piece, by: tuple[float, float]) -> Piece:
    """Return a piece moved by (x, y) mm."""
    return msgspec.structs.replace(piece, x=clamp(piece.x + by[0]), y=clamp(piece.y + by[1]))


def _map(work: Work, keys: Collection[str], change: Callable[[Piece], Piece]) -> Work:
    pieces = tuple(change(piece) if piece.id in keys else piece for piece in work.card.pieces)
    moved = {
        after.id: (after.x - before.x, after.y - before.y)
        for before, after in zip(work.card.pieces, pieces, strict=True)
        if (after.x, after.y) != (before.x, before.y)
    }
    pieces = tuple(_with_glow(piece, moved) for piece in pieces)
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))


def _with_glow(piece: Piece, moved: Mapping[str, tuple[float, float]]) -> Piece:
    """Let a glow, and the disc kept free round what it comes from, go where that went; the wash itself stays."""
    if not isinstance(piece, Wash) or piece.glows_from not in moved or piece.id in moved:
        return piece
    ((x, y),) = turn_points([moved[piece.glows_from]], -piece.angle_deg, 0, 0).tolist()

    def place(at: tuple[float, float]) -> tuple[float, float]:
        return clamp(at[0] + x), clamp(at[1] + y)

    covers = tuple(
        msgspec.structs.replace(one, x=place((one.x, one.y))[0], y=place((one.x, one.y))[1])
        if one.kind == "disc" and math.dist((one.x, one.y), piece.centre) < GLOW_DISC_MM
        else one
        for one in piece.covers
    )
    return msgspec.structs.replace(piece, centre=place(piece.centre), covers=covers)


def _map_stamp(work: Work, key: str, **fields: object) -> Work:
    stamps = tuple(msgspec.structs.replace(one, **fields) if one.id == key else one for one in work.stash.stamps)
    return msgspec.structs.replace(work, stash=Stash(stamps))


def _with_pieces(work: Work, pieces: tuple[Piece, ...]) -> Work:
    return settle(msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces)))


def clamp(value: float) -> float:
    """Keep a place within what a card file takes, rounded to a ten-thousandth of a millimetre."""
    return round(max(-FARTHEST_MM, min(FARTHEST_MM, value)), 4)
