"""Stamp it here or cut it out: an image turned from one into the other, and several cut out as one."""

import msgspec

from fair_thicket.edits.order import settle
from fair_thicket.edits.pieces import add_piece, clamp, free_id
from fair_thicket.model.card import Work, find_pieces, rename_in
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout, Impression, Part, Piece, as_cut, as_stamped
from fair_thicket.shape.outline import turn_points


def cut_out(work: Work, key: str) -> Work:
    """Cut an impression out instead: stamped on other paper and glued in its place.

    Raises
    ------
    PaperError
        When the piece is no impression.
    """
    piece = work.card.find(key)
    if not isinstance(piece, Impression):
        raise PaperError("Only a stamped image can be cut out instead; this one is cut already.")
    return _swap(work, as_cut(piece))


def stamp_instead(work: Work, key: str) -> Work:
    """Stamp a cut image straight on its surface instead.

    Raises
    ------
    PaperError
        When it is plain paper, turned over, joint, or bears pieces of its own.
    """
    piece = work.card.find(key)
    if not isinstance(piece, Cutout) or work.stash.find(piece.stamp).kind.is_plain:
        raise PaperError("Only a cut-out image can be stamped instead; this is plain paper.")
    if piece.flipped or piece.joined:
        raise PaperError("It is turned over or cut out together with others; a single stamp cannot print that.")
    if any(one.on == piece.id for one in work.card.pieces):
        raise PaperError("Other pieces lie on it; take them off first.")
    return _swap(work, as_stamped(piece))


def _swap(work: Work, piece: Piece) -> Work:
    """Put a piece in the place of the one with its id; it takes the place in the order that paper gives it."""
    pieces = tuple(piece if one.id == piece.id else one for one in work.card.pieces)
    return settle(msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces)))


def join(work: Work, keys: set[str]) -> tuple[Work, str]:
    """Make one joint cutout of images: stamped together and cut out as one piece.

    Raises
    ------
    PaperError
        When fewer than two images are chosen, or one is plain or turned over.
    """
    chosen = [one for one in find_pieces(work.card.pieces, keys) if isinstance(one, Impression | Cutout)]
    if len(chosen) < 2 or len(chosen) != len(keys):
        raise PaperError("Choose two or more images to cut out as one piece.")
    if not all(_may_be_joined(work, one) for one in chosen):
        raise PaperError("Plain or turned-over pieces cannot be stamped together with others.")
    first = chosen[0]
    whole = [_seen_from(first, Part(one.stamp, 0.0, 0.0, 0.0, one.colouring), one) for one in chosen[1:]]
    joined = [_seen_from(first, part, one) for one in chosen for part in _parts_of(one)]
    own = len(_parts_of(first))
    every = [*joined[:own], *whole, *joined[own:]]
    key = free_id(work, first.stamp)
    joint = Cutout(
        key, first.stamp, first.x, first.y, first.angle_deg, joined=tuple(every), on=first.on, colour=first.colour,
        ink=first.ink, colouring=first.colouring, lamp_mm=first.lamp_mm,
    )  # fmt: skip
    gone = dict.fromkeys(keys, key)
    rest = tuple(rename_in(one, gone) for one in work.card.pieces if one.id not in keys)  # what meant one means both
    work = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=rest))
    return add_piece(work, joint), key


def _may_be_joined(work: Work, piece: Impression | Cutout) -> bool:
    return isinstance(piece, Impression) or not (piece.flipped or work.stash.find(piece.stamp).kind.is_plain)


def _parts_of(piece: Impression | Cutout) -> tuple[Part, ...]:
    return piece.joined if isinstance(piece, Cutout) else ()


def _seen_from(first: Impression | Cutout, part: Part, owner: Impression | Cutout) -> Part:
    """Return an owner's part as it lies about the middle of the first image."""
    on_panel = turn_points([(part.x, part.y)], owner.angle_deg, owner.x, owner.y)[0]
    x, y = turn_points([(on_panel[0] - first.x, on_panel[1] - first.y)], -first.angle_deg, 0, 0)[0].tolist()
    angle_deg = (part.angle_deg + owner.angle_deg - first.angle_deg) % 360
    return Part(part.stamp, clamp(x), clamp(y), angle_deg, part.colouring)


def swap_image(work: Work, key: str, stamp: str) -> Work:
    """Make a piece with another thing of the stash, in the same place and the same way.

    Raises
    ------
    PaperError
        When the piece is made with none, or the other is not of its kind.
    """
    piece = work.card.find(key)
    if not isinstance(piece, Impression | Cutout):
        raise PaperError("Only an image or a die shape can be swapped for another.")
    old, new = work.stash.find(piece.stamp), work.stash.find(stamp)
    if old.kind.is_plain != new.kind.is_plain:
        raise PaperError(
            f"“{new.name}” is a {new.kind.value} and “{old.name}” a {old.kind.value}; take one of its kind."
        )
    fields: dict[str, object] = {"stamp": stamp, "held": None, "colouring": ()}
    if isinstance(piece, Cutout):
        fields |= {
            "flaps": (),
            "joined": (),
            "cut_away": (),
            "opening": None,
            "flipped": piece.flipped and new.may_flip,
        }
    changed = msgspec.structs.replace(piece, **fields)
    # what was held by the old image lets go: its hands are elsewhere
    pieces = tuple(
        changed
        if one.id == key
        else msgspec.structs.replace(one, held=None)
        if one.held and one.held.by == key
        else one
        for one in work.card.pieces
    )
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))
