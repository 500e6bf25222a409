"""What pins have cut out instead of stamped: which impressions, and the card as it then is."""

from collections.abc import Collection

import msgspec

from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work, order_pieces
from fair_thicket.model.derived import begin_with, derive
from fair_thicket.model.pieces import Impression, as_cut
from fair_thicket.shape.overlap import find_overlaps


def cut_by_pins(work: Work) -> frozenset[str]:
    """Ids of impressions that pins have cut out instead: each with all that stands in front of it and touches it."""

    def find(_: frozenset[str] | None) -> frozenset[str]:
        wanted = {key for pin in work.card.masking.pins if pin.kind == "cut" for key in pin.pieces}
        return with_fronts(work, wanted) if wanted else frozenset()

    return derive(work, "cut by pins", find)


def as_planned(work: Work) -> Work:
    """Return the work with what pins have cut out instead as cut images, glued on in its place; the same each time."""
    return derive(work, "as planned", lambda before: _as_planned(work, before or work)) if cut_by_pins(work) else work


def _as_planned(work: Work, before: Work) -> Work:
    cut = cut_by_pins(work)
    pieces = tuple(
        as_cut(piece) if piece.id in cut and isinstance(piece, Impression) else piece for piece in work.card.pieces
    )
    planned = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=order_pieces(pieces)))
    return begin_with(planned, before)


def stamped_only(work: Work) -> Work:
    """Return the work without what pins have cut out instead: it is glued on later; the same each time."""
    return (
        derive(work, "stamped only", lambda before: _stamped_only(work, before or work)) if cut_by_pins(work) else work
    )


def _stamped_only(work: Work, before: Work) -> Work:
    cut = cut_by_pins(work)
    pieces = tuple(piece for piece in work.card.pieces if piece.id not in cut)
    return begin_with(msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces)), before)


def with_fronts(work: Work, keys: Collection[str]) -> frozenset[str]:
    """Impressions together with all that must be glued when they are: what is glued lies in front of all stamped."""
    stamped = [leaf for leaf in stack(work) if isinstance(leaf.piece, Impression)]
    ids = [leaf.piece.id for leaf in stamped]
    gone = {index for index, key in enumerate(ids) if key in keys}
    pairs = sorted(find_overlaps([leaf.whole for leaf in stamped]))
    for back, front in pairs:  # from the back forward: whatever joins is met again as a back
        if back in gone and stamped[back].piece.on == stamped[front].piece.on:
            gone.add(front)
    return frozenset(ids[index] for index in gone)
