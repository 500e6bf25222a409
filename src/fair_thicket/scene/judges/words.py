"""The greeting: all of it in sight, told apart from its ground, room round it, and straight or plainly tilted."""

import math
from collections.abc import Iterator
from functools import partial

import msgspec
import shapely

from fair_thicket import edits
from fair_thicket.edits.pieces import place_pieces
from fair_thicket.ink.contrast import contrast
from fair_thicket.ink.lettering import LINE_PITCH, words_height, words_width
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import (
    INK,
    Cutout,
    Embellishment,
    Impression,
    Panel,
    Piece,
    Strip,
    Wash,
)
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.scene.judges.covering import bringing_in, to_front, uncovering
from fair_thicket.scene.judges.facts import Draft, Facts, Offer, place_points
from fair_thicket.scene.judges.grounds import ground_colours
from fair_thicket.shape.outline import Area, to_area, to_rings
from fair_thicket.shape.paper import footprint, local_area

LARGE_CONTRAST = 3.0
"""Below this even large words are hard to read (WCAG 2.1, success criterion 1.4.3)."""
STRAIGHT_DEG = 0.3
"""Nobody sees a smaller tilt."""


def words_area(facts: Facts, piece: Piece) -> Area:
    """Where the words of a greeting stand, in place: their box."""
    if isinstance(piece, Strip):
        half_x = words_width(piece.words, piece.words_mm) / 2
        half_y = words_height(piece.words, piece.words_mm) / 2
    else:
        half_x, half_y = (side / 2 for side in _size_of(facts, piece))
    ring = ((-half_x, -half_y), (half_x, -half_y), (half_x, half_y), (-half_x, half_y))
    return to_area(place_points(piece, ring))


def _size_of(facts: Facts, piece: Piece) -> tuple[float, float]:
    """Width and height of a greeting's image, mm; of one cut from several, the box of them all."""
    if isinstance(piece, Impression) or (isinstance(piece, Cutout) and not piece.joined):
        stamp = facts.stash.find(piece.stamp)
        return stamp.width_mm, stamp.height_mm
    left, top, right, bottom = local_area(piece, facts.stash).bounds
    return right - left, bottom - top


def cuts_letters(facts: Facts, piece: Piece) -> bool:
    """Whether trimming a piece at the card's edge would cut its words."""
    return piece.id in facts.greetings and not facts.paper.covers(words_area(facts, piece))


def judge_words(facts: Facts) -> Iterator[Draft]:
    """All that may be wrong with a greeting."""
    for key in sorted(facts.greetings):
        piece = facts.card.find(key)
        words = words_area(facts, piece)
        yield from _judge_cover(facts, piece, words)
        yield from _judge_contrast(facts, piece, words)
        yield from _judge_room(facts, piece, words)
        yield from _judge_tilt(facts, piece)


def _judge_cover(facts: Facts, piece: Piece, words: Area) -> Iterator[Draft]:
    # what trimming has taken off, or what never found room, is missed as much as what is covered
    lines = words if isinstance(piece, Strip) else shapely.intersection(footprint(piece, facts.stash), words)
    hidden = shapely.difference(lines, shapely.intersection(facts.seen(piece.id), facts.paper))
    on_it = [facts.area(one.id) for one in facts.pieces if one.on == piece.id]
    if on_it:  # an image set into a gap between the words lies on them on purpose
        hidden = shapely.difference(hidden, shapely.union_all(on_it))
    if hidden.area <= max(OVERLAP_MM2, facts.limits.precious_share * lines.area):
        return
    share = hidden.area / lines.area
    by = [key for key in facts.sights[piece.id].hidden_by if facts.area(key).intersects(hidden)]
    by.sort(key=lambda key: -facts.area(key).intersection(hidden).area)
    there = shapely.intersection(facts.area(piece.id), facts.paper)
    lost = shapely.difference(hidden, there).area > OVERLAP_MM2
    title = _say_lost(piece)
    finding = Finding(
        "words",
        Weight.TROUBLE,
        f"Words under {facts.the(by[0])}" if by and not lost else title,
        f"{f'{share:.0%}' if share >= 0.005 else 'A sliver'} of {facts.the(piece.id)} cannot be read.",
        share,
        "share",
        (piece.id, *by),
        to_rings(hidden),
    )

    def offers() -> Iterator[Offer]:
        if by:
            yield to_front(facts, piece.id)
            yield from uncovering(facts, piece.id, by[0])
        if lost:
            yield from _making_room(facts, piece)

    yield Draft(finding, offers)


def _say_lost(piece: Piece) -> str:
    """Say how words came to be lost that nothing covers."""
    if isinstance(piece, Strip) and words_width(piece.words, piece.words_mm) > piece.width_mm:
        return "Words are longer than their strip"
    return "Words are cut off" if piece.trim_to else "Words run off the edge"


def _making_room(facts: Facts, piece: Piece) -> Iterator[Offer]:
    """Offer what brings words back that were trimmed off or found no room."""
    if piece.trim_to:
        yield "Do not trim it", partial(edits.set_pieces, facts.work, {piece.id}, trim_to="")
    yield from bringing_in(facts, piece)
    if isinstance(piece, Strip):
        if two := _in_two_lines(piece):
            room = facts.card.panel[0] - 2 * facts.limits.clear_mm
            if words_width(two.words, two.words_mm) <= room:
                yield "Break it into two lines", partial(_set_in, facts.work, two)
        room = min(piece.width_mm, facts.card.panel[0]) - 2 * facts.limits.clear_mm
        fitting = math.floor(2 * piece.words_mm * room / words_width(piece.words, piece.words_mm)) / 2
        if 1.0 <= fitting < piece.words_mm:
            fields = {"words_mm": fitting, "width_mm": min(piece.width_mm, facts.card.panel[0])}
            yield f"Make its letters {fitting:g} mm high", partial(_smaller, facts.work, piece, fields)


def _smaller(work: Work, piece: Strip, fields: dict[str, float]) -> Work:
    work = edits.set_pieces(work, {piece.id}, trim_to="", **fields)
    return edits.move_to(work, piece.id, (work.card.panel[0] / 2, piece.y))


def _in_two_lines(piece: Strip) -> Strip | None:
    """Return a strip with its words broken where two lines are most alike, and as high as they ask; None for one."""
    gaps = [at for at, letter in enumerate(piece.words) if letter == " "]
    if not gaps or "\n" in piece.words:
        return None
    ways = [f"{piece.words[:at]}\n{piece.words[at + 1 :]}" for at in gaps]
    words = min(ways, key=lambda way: words_width(way, 1.0))
    side = piece.width_mm - words_width(piece.words, piece.words_mm)
    width = round(words_width(words, piece.words_mm) + max(2.0, side), 1)
    height = round(piece.height_mm + LINE_PITCH * piece.words_mm, 1)
    return msgspec.structs.replace(piece, words=words, width_mm=width, height_mm=height, trim_to="")


def _set_in(work: Work, piece: Strip) -> Work:
    """Put a strip in the middle of the card across, and within it down."""
    card = place_pieces(work.card, (piece,))
    half = piece.height_mm / 2
    y = min(max(piece.y, half), max(half, work.card.panel[1] - half))
    return edits.move_to(msgspec.structs.replace(work, card=card), piece.id, (work.card.panel[0] / 2, y))


def _judge_contrast(facts: Facts, piece: Piece, words: Area) -> Iterator[Draft]:
    ink = (piece.ink if isinstance(piece, Impression | Strip | Cutout) else None) or INK
    grounds = ground_colours(facts, piece, words)
    if isinstance(piece, Impression) and piece.resists:  # clear: its lines stay as the paper was before the washes
        surface = next((one for one in facts.pieces if one.id == piece.on), None)
        ink = facts.card.paper if surface is None else surface.colour or WHITE
        if not piece.keeps_washes_off and grounds:  # clear over ink shows nothing but a shine
            ink = grounds[0]
    if not grounds:
        return
    worst = min(grounds, key=lambda ground: contrast(ink, ground))
    ratio = contrast(ink, worst)
    if ratio >= facts.limits.contrast:
        return
    finding = Finding(
        "contrast",
        Weight.TROUBLE if ratio < LARGE_CONTRAST else Weight.CAUTION,
        "Greeting is hard to read",
        f"Its ink against its ground has a contrast of {ratio:.1f} to 1; words want {facts.limits.contrast:g} to 1.",
        ratio,
        "ratio",
        (piece.id,),
        to_rings(words),
    )

    def offers() -> Iterator[Offer]:
        for name, colour in (("dark", INK), ("white", WHITE)):
            if min(contrast(colour, ground) for ground in grounds) >= facts.limits.contrast:
                yield f"Take {name} ink", partial(edits.set_pieces, facts.work, {piece.id}, ink=colour)

    yield Draft(finding, offers)


def _judge_room(facts: Facts, piece: Piece, words: Area) -> Iterator[Draft]:
    """Room round words to whatever is not their own ground, and to their ground's edge."""
    least = facts.limits.clear_mm
    nearest, other = least, ""
    for one in facts.pieces:
        if one.id == piece.id or isinstance(one, Panel | Wash | Embellishment) or facts.is_family(piece, one):
            continue
        seen = facts.seen(one.id)
        gap = float(seen.distance(words)) if not seen.is_empty else least
        if 0 < gap < nearest:
            nearest, other = gap, one.id
    ground = facts.paper if isinstance(piece, Impression) else facts.leaves(piece.id)[0].area
    if piece.on in facts.leaves_of and isinstance(piece, Impression):
        ground = facts.leaves(piece.on)[0].area
    edge = float(words.distance(ground.boundary)) if ground.covers(words) else least
    if edge < nearest:
        nearest, other = edge, "edge"
    if not other:
        return
    what = "the edge of its paper" if other == "edge" else facts.the(other)
    finding = Finding(
        "room",
        Weight.CAUTION,
        "Greeting has no room",
        f"{facts.say(nearest)} from {what}; words want {least:g} mm clear round them.",
        nearest,
        "mm",
        (piece.id,) if other == "edge" else (piece.id, other),
        to_rings(shapely.buffer(words, least, quad_segs=4)),
    )

    def offers() -> Iterator[Offer]:
        if other != "edge":
            yield from facts.moves(other, f"Move {facts.the(other)}", steps=4)
        yield from facts.moves(piece.id, "Move the greeting", steps=8)

    yield Draft(finding, offers)


def _judge_tilt(facts: Facts, piece: Piece) -> Iterator[Draft]:
    tilt = (piece.angle_deg + 45) % 90 - 45
    if not STRAIGHT_DEG < abs(tilt) < facts.limits.slip_deg:
        return
    upright = round(piece.angle_deg / 90) * 90
    finding = Finding(
        "tilt",
        Weight.CAUTION,
        "Greeting almost straight",
        f"Tilted {abs(tilt):.1f}°. Below {facts.limits.slip_deg:g}° it reads as a slip; straighten it or tilt it "
        f"past {facts.limits.slip_deg + 2:g}°.",
        abs(tilt),
        "deg",
        (piece.id,),
        to_rings(facts.area(piece.id)),
    )

    def offers() -> Iterator[Offer]:
        yield "Straighten it", lambda: edits.turn_to(facts.work, {piece.id}, upright)
        plain = upright + (1 if tilt > 0 else -1) * (facts.limits.slip_deg + 2)
        yield "Tilt it plainly", lambda: edits.turn_to(facts.work, {piece.id}, plain)

    yield Draft(finding, offers)
