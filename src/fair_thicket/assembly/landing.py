"""The card as it is after each step: what has landed on it by then."""

from collections.abc import Collection

import msgspec

from fair_thicket.assembly.planning import Assembly
from fair_thicket.model.card import Work

LANDED = frozenset({"press", "ink", "glue", "set"})
"""Kinds of step after which something more is on the card."""


def landed_after(made: Assembly, index: int) -> frozenset[str]:
    """Ids of pieces of the front that are on the card after a step; what is stamped on a panel comes with the panel.

    What the step itself is about counts as well, so that it is seen.
    """
    front = next(side for side in made.sides if side.name == "front").work
    steps = [
        one.operation
        for one in made.schedule.steps[: index + 1]
        if one.operation.kind in LANDED and not one.operation.key.startswith("inside ")
    ]
    keys = {key.partition("/")[0] for operation in steps for key in operation.pieces}
    now = {key.partition("/")[0] for operation in steps[-1:] for key in operation.pieces}
    is_now = (
        bool(steps) and steps[-1].key == made.schedule.steps[min(index, len(made.schedule.steps) - 1)].operation.key
    )
    on = {piece.id: piece.on for piece in front.card.pieces}
    glued = {
        key.partition("/")[0] for operation in steps if operation.kind in {"glue", "set"} for key in operation.pieces
    }
    return frozenset(key for key in keys if not on.get(key) or on[key] in glued or (is_now and key in now))


def with_only(work: Work, keys: Collection[str]) -> Work:
    """Give a card with only some of its pieces, and the surfaces that those lie on."""
    by_id = {piece.id: piece for piece in work.card.pieces}
    wanted = set(keys) & by_id.keys()
    for key in list(wanted):
        on = by_id[key].on
        while on and on in by_id and on not in wanted:
            wanted.add(on)
            on = by_id[on].on
    pieces = tuple(piece for piece in work.card.pieces if piece.id in wanted)
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))
