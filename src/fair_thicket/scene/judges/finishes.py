"""Finishes: odd in small groups, in colours of the scene, few enough (common practice; the figures are ours)."""

from collections.abc import Iterator
from functools import partial

import msgspec
import numpy as np

from fair_thicket import edits
from fair_thicket.edits.pieces import place_pieces
from fair_thicket.ink.contrast import channels
from fair_thicket.ink.oklab import to_oklab
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import shades_of
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.finishes import find_finish, name_finish
from fair_thicket.model.pieces import Colour, Cutout, Embellishment, Impression, Piece
from fair_thicket.scene.judges.facts import Draft, Facts, Offer
from fair_thicket.shape.outline import to_rings

ENOUGH = 15
"""From so many on they are what is looked at: too many by far is the regret."""
SMALL_GROUP = 8
LIKE = 0.13
"""Colours nearer than this in Oklab echo each other."""


def judge_finishes(facts: Facts) -> Iterator[Draft]:
    """Tell even little groups, colours that are nowhere else, and more than enough."""
    counted = [one for one in facts.pieces if isinstance(one, Embellishment) and find_finish(one.shape).is_scattered]
    for piece in counted:
        yield from _judge_count(facts, piece)
        yield from _judge_colour(facts, piece)
    many = sum(len(one.spots) for one in counted)
    if many > ENOUGH:
        yield Draft(
            Finding(
                "finishes",
                Weight.NOTE,
                "More than enough",
                f"{many} sequins, gems and dabs are on the card; from {ENOUGH} on they are what is looked at. A few, "
                "near what matters, say more.",
                float(many),
                "count",
                tuple(one.id for one in counted),
            )
        )


def _judge_count(facts: Facts, piece: Embellishment) -> Iterator[Draft]:
    count = len(piece.spots)
    if count % 2 or count > SMALL_GROUP:
        return
    finding = Finding(
        "even-group",
        Weight.NOTE,
        f"{count} {find_finish(piece.shape).plural}",
        "An even little group sits still; an odd one, set as a triangle, leads the eye.",
        float(count),
        "count",
        (piece.id,),
        to_rings(facts.area(piece.id)),
    )

    def offers() -> Iterator[Offer]:
        if count > 1:
            fewer = msgspec.structs.replace(piece, spots=piece.spots[:-1])
            yield f"Take one away: {count - 1}", partial(_put, facts.work, fewer)

    yield Draft(finding, offers)


def _judge_colour(facts: Facts, piece: Embellishment) -> Iterator[Draft]:
    """Tell a colour that echoes nothing on the card; white, clear and metals go with everything."""
    own = piece.colour
    known = _colours(facts, piece)
    if own is None or not known or _is_quiet(own):
        return
    lab = to_oklab(np.array([channels(own), *map(channels, known)], np.float32))
    away = np.linalg.norm(lab[1:] - lab[0], axis=1)
    nearest = int(np.argmin(away))
    if away[nearest] <= LIKE:
        return
    finding = Finding(
        "foreign-finish",
        Weight.NOTE,
        f"The {name_finish(piece.shape, len(piece.spots))} echo nothing",
        f"Nothing on the card is near the colour of {facts.the(piece.id)}; a colour of the scene ties it in.",
        float(round(float(away[nearest]), 3)),
        "difference",
        (piece.id,),
        to_rings(facts.area(piece.id)),
    )

    def offers() -> Iterator[Offer]:
        yield (
            "Take the nearest colour of the scene",
            partial(edits.set_pieces, facts.work, {piece.id}, colour=known[nearest]),
        )

    yield Draft(finding, offers)


def _colours(facts: Facts, but: Piece) -> list[Colour]:
    """Return the colours of what is on the card: papers, inks, shades."""
    found: dict[Colour, None] = {}
    for piece in facts.pieces:
        if piece.id == but.id or isinstance(piece, Embellishment):
            continue
        own = (piece.colour, getattr(piece, "ink", None))
        shades = [one.colour for one in shades_of(piece.colouring)] if isinstance(piece, Impression | Cutout) else []
        found |= dict.fromkeys(colour for colour in (*own, *shades) if colour)
    return list(found)


def _is_quiet(colour: Colour) -> bool:
    """Whether a colour is white, clear, or so grey that it goes with everything."""
    lab = to_oklab(np.array([channels(colour)], np.float32))[0]
    return bool(np.hypot(lab[1], lab[2]) < 0.045)


def _put(work: Work, piece: Embellishment) -> Work:
    return msgspec.structs.replace(work, card=place_pieces(work.card, (piece,)))
