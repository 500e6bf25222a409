"""Covered: too much of a figure, any of a face, a hand or a feature, and what is hidden so far that it is wasted."""

import math
from collections.abc import Iterator
from functools import partial
from types import MappingProxyType

import shapely
from shapely.geometry import Point
from shapely.geometry.base import BaseGeometry

from fair_thicket import edits
from fair_thicket.model.card import Work, is_figure
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import Border, Cutout, Piece, stamps_of
from fair_thicket.model.speech import join_words
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.scene.judges.facts import Draft, Facts, Offer, capital, place_points, stamp_of
from fair_thicket.shape.outline import only_areas, to_area, to_rings
from fair_thicket.shape.paper import footprint, window_area

GLUED_UP_MM = 3.0
"""Cuts of one die that lie this near are glued up, or one is the other's shadow (common practice: 1 to 2 mm)."""
UNSEEN_SHARE = 0.005
"""Less of a face than this would be told as 0 %, and is missed by nobody."""
HAND_MM = 1.5
ZONE_WORDS = MappingProxyType({"face": "Face", "words": "Words", "other": "Feature"})


def judge_cover(facts: Facts) -> Iterator[Draft]:
    """Figures of which too much is hidden, and what is hidden altogether."""
    for piece in facts.pieces:
        sight = facts.sights[piece.id]
        share = sight.hidden_share
        if not sight.hidden_by or piece.id in facts.greetings:
            continue
        if is_figure(piece, facts.stash) and share > facts.limits.covered_share:
            yield _tell_covered(facts, piece, share)
        elif isinstance(piece, Cutout | Border) and not is_figure(piece, facts.stash) and share > 0.995:
            if _is_glued_up(facts, piece):
                continue
            name = facts.names[piece.id]
            by = _main_covers(facts, piece)
            yield Draft(
                Finding(
                    "wasted",
                    Weight.NOTE,
                    f"{capital(name)} is made for nothing",
                    f"{capital(facts.the(by[0]))} hides all of it: it need not be cut at all.",
                    share,
                    "share",
                    (piece.id, *by),
                    to_rings(facts.area(piece.id)),
                )
            )


def _is_glued_up(facts: Facts, piece: Piece) -> bool:
    """Whether a cut lies right under another of the same die: one of several glued up for height."""
    return any(
        other.id in facts.sights[piece.id].hidden_by
        and stamps_of(other) == stamps_of(piece)
        and math.dist((other.x, other.y), (piece.x, piece.y)) < GLUED_UP_MM
        for other in facts.pieces
    )


def _main_covers(facts: Facts, piece: Piece) -> list[str]:
    by = facts.sights[piece.id].hidden_by
    return sorted(by, key=lambda key: -by[key])


def _tell_covered(facts: Facts, piece: Piece, share: float) -> Draft:
    by = _main_covers(facts, piece)
    name, is_lost = facts.names[piece.id], share > facts.limits.lost_share
    text = f"{capital(join_words([facts.the(key) for key in by[:3]]))} {'cover' if len(by) > 1 else 'covers'} "
    text += f"{share:.0%} of it"
    title = f"{capital(name)} is {share:.0%} covered"
    framed = [key for key in by if not window_area(facts.card.find(key), facts.stash).is_empty]
    if is_lost and framed:
        title = f"{capital(name)} is outside the window"
        text = f"Through the window of {facts.the(framed[0])} {1 - share:.0%} of it is seen; the rest is behind paper."
    elif is_lost:
        text += "; there is hardly a line left to make it for."
    else:
        text += f"; more than {facts.limits.covered_share:.0%} is much for a figure."
    hidden = facts.area(piece.id)
    if not facts.is_quick:
        hidden = only_areas(shapely.difference(hidden, facts.seen(piece.id)))
    finding = Finding(
        "covered",
        Weight.TROUBLE if is_lost else Weight.CAUTION,
        title,
        text,
        share,
        "share",
        (piece.id, *by),
        to_rings(hidden),
    )
    return Draft(finding, lambda: uncovering(facts, piece.id, by[0]))


def uncovering(facts: Facts, key: str, cover: str) -> Iterator[Offer]:
    """Offer to move what covers a piece out of the way, or the piece itself, the shortest way first."""
    covering = facts.moves(cover, f"Move {facts.the(cover)}")
    own = facts.moves(key, f"Move {facts.the(key)}")
    for _ in range(9):  # by turns, four ways at each distance
        for _, offer in zip(range(4), covering, strict=False):
            yield offer
        for _, offer in zip(range(4), own, strict=False):
            yield offer


def to_front(facts: Facts, key: str) -> Offer:
    """Offer to bring a piece in front of what covers it."""
    return f"Bring {facts.the(key)} to the front", lambda: _raised(facts.work, key)


def _raised(work: Work, key: str) -> Work:
    order = [piece.id for piece in work.card.pieces if piece.id != key]
    return edits.set_order(work, [*order, key])


def judge_zones(facts: Facts) -> Iterator[Draft]:
    """Faces, words and features that must stay in sight, and hands that nothing is put into."""
    for piece in facts.pieces:
        stamp = stamp_of(piece, facts)
        if stamp is None or piece.id in facts.greetings:
            continue
        whole = footprint(piece, facts.stash)  # untrimmed: what was trimmed off is missed as well
        for zone in stamp.marks.zones:
            ring = to_area(place_points(piece, zone.ring))
            area = shapely.intersection(ring, whole)  # a mark drawn wide of the image marks the image only
            hidden = shapely.difference(area, facts.seen(piece.id))
            least = max(UNSEEN_SHARE, facts.limits.precious_share) * area.area
            if hidden.area > max(OVERLAP_MM2, least):
                hidden_by = [key for key in _main_covers(facts, piece) if facts.area(key).intersects(hidden)]
                yield _tell_zone(facts, piece, zone.what, hidden.area / area.area, hidden, hidden_by)
        hands = [contact.at for contact in stamp.marks.contacts if contact.what == "hand"]
        if hands:
            yield from _judge_hands(facts, piece, place_points(piece, hands).tolist())


def _judge_hands(facts: Facts, piece: Piece, hands: list[list[float]]) -> Iterator[Draft]:
    for x, y in hands:
        disc = shapely.intersection(Point(x, y).buffer(HAND_MM), facts.area(piece.id))
        hidden = shapely.difference(disc, facts.seen(piece.id))
        if hidden.area > disc.area / 2:
            near = [key for key in _main_covers(facts, piece) if facts.area(key).intersects(hidden)]
            by = [key for key in near if not facts.is_family(piece, facts.card.find(key))]
            if by:
                yield _tell_zone(facts, piece, "hand", hidden.area / disc.area, hidden, by)


def _tell_zone(facts: Facts, piece: Piece, what: str, share: float, hidden: shapely.Geometry, by: list[str]) -> Draft:
    name = facts.names[piece.id]
    word = ZONE_WORDS.get(what, "Hand")
    cover = f"under {facts.the(by[0])}" if by else "beyond the edge"
    kept = "you marked it to stay in sight" if what != "hand" else "nothing is put into that hand"
    finding = Finding(
        "hand" if what == "hand" else "face" if what == "face" else "feature",
        Weight.TROUBLE if what in {"face", "words"} else Weight.CAUTION,
        f"{word} {cover}",
        f"{share:.0%} of the {name}'s {word.lower()} is hidden; {kept}.",
        share,
        "share",
        (piece.id, *by),
        to_rings(hidden),
    )

    def offers() -> Iterator[Offer]:
        if by:
            yield to_front(facts, piece.id)
            yield from uncovering(facts, piece.id, by[0])
            return
        if piece.trim_to:
            yield "Do not trim it", partial(edits.set_pieces, facts.work, {piece.id}, trim_to="")
        yield from bringing_in(facts, piece)

    return Draft(finding, offers)


def whole_of(facts: Facts, piece: Piece) -> BaseGeometry:
    """All of a piece in place, the ink that falls beside its surface included."""
    return shapely.union_all([leaf.whole for leaf in facts.leaves(piece.id)])


def bringing_in(facts: Facts, piece: Piece) -> Iterator[Offer]:
    """Offer to move a piece in from beyond its surface's edge, or the card's; nothing where it is larger than that."""
    left, top, right, bottom = whole_of(facts, piece).bounds
    surface = facts.leaves(piece.on)[0].area if piece.on in facts.leaves_of else facts.paper
    low_x, low_y, high_x, high_y = surface.bounds
    for words, room in (("Move it in to the edge", 0.0), ("Move it in, with room", facts.limits.clear_mm + 0.1)):
        if right - left + 2 * room <= high_x - low_x and bottom - top + 2 * room <= high_y - low_y:
            by = (
                max(0.0, low_x + room - left) - max(0.0, right - high_x + room),
                max(0.0, low_y + room - top) - max(0.0, bottom - high_y + room),
            )
            yield words, partial(edits.move_by, facts.work, {piece.id}, by)
