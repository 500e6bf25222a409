"""Edges: ink that falls beside its paper, paper that hangs over the card, the envelope, and mats that show unevenly."""

from collections.abc import Iterator
from functools import partial

import shapely
from shapely.geometry.base import BaseGeometry

from fair_thicket import edits
from fair_thicket.estimate.post import envelope_for, glued_height, outer_size, room_mm
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import CARD_EDGE, Impression, Panel, Piece, Wash
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.scene.judges.covering import bringing_in, whole_of
from fair_thicket.scene.judges.facts import Draft, Facts, Offer, capital
from fair_thicket.scene.judges.words import cuts_letters
from fair_thicket.shape.outline import to_rings

EVEN_MM = 0.3
"""Borders that differ by less look even (common practice: half a pencil line on each side)."""
EXACT_MM = 0.1
"""No envelope is cut more exactly, and no card."""
SLIP_MM = 2.0
"""Borders that differ by more are plainly meant."""


def judge_edges(facts: Facts) -> Iterator[Draft]:
    """Whatever leaves its paper or the card."""
    for piece in facts.pieces:
        sight = facts.sights[piece.id]
        if sight.off_panel_mm2 <= OVERLAP_MM2 or isinstance(piece, Wash):
            continue
        outside = to_rings(shapely.difference(whole_of(facts, piece), facts.paper))
        name = capital(facts.names[piece.id])
        if sight.off_panel_mm2 >= sight.area_mm2 - OVERLAP_MM2:
            yield Draft(
                Finding(
                    "off-panel",
                    Weight.TROUBLE,
                    f"{name} is off the panel",
                    "Nothing of it lands on the card. Move it in, or delete it.",
                    1.0,
                    "share",
                    (piece.id,),
                    outside,
                ),
                partial(bringing_in, facts, piece),
            )
        elif isinstance(piece, Impression) and piece.id in facts.greetings:
            continue  # words that run off are no note: see `judge_words`
        elif isinstance(piece, Impression):
            yield _tell_ink_over(facts, piece)
        else:
            yield _tell_overhang(facts, piece)


def judge_trims(facts: Facts) -> Iterator[Draft]:
    """Pieces of which trimming leaves nothing."""
    left = {piece.id for piece in facts.pieces}
    for piece in facts.card.pieces:
        if piece.id in left or not piece.trim_to:
            continue
        finding = Finding(
            "trimmed-away",
            Weight.TROUBLE,
            f"Nothing is left of the {facts.names[piece.id]}",
            "All of it lies beyond the line that it is trimmed along. Move it in, or do not trim it.",
            1.0,
            "share",
            (piece.id,),
        )
        yield Draft(
            finding,
            partial(_untrimming, facts, piece.id),
        )


def _untrimming(facts: Facts, key: str) -> list[Offer]:
    return [("Do not trim it", partial(edits.set_pieces, facts.work, {key}, trim_to=""))]


def _tell_ink_over(facts: Facts, piece: Impression) -> Draft:
    sight = facts.sights[piece.id]
    leaf = facts.leaves(piece.id)[0]
    surface = facts.leaves(piece.on)[0].area if piece.on in facts.leaves_of else facts.paper
    edge = f"the {facts.names[piece.on]}" if piece.on in facts.names else "the edge"
    reach = _reach(leaf.whole, surface)
    finding = Finding(
        "overhang",
        Weight.NOTE,
        f"{capital(facts.names[piece.id])} runs off {edge}",
        f"{sight.off_panel_mm2 / sight.area_mm2:.0%} of it, up to {facts.say(reach)}, falls beyond the edge: "
        "lay scrap paper beneath to catch the ink, or move it in.",
        reach,
        "mm",
        (piece.id,),
        to_rings(shapely.difference(leaf.whole, surface)),
    )
    return Draft(finding, lambda: bringing_in(facts, piece))


def _tell_overhang(facts: Facts, piece: Piece) -> Draft:
    area = whole_of(facts, piece)
    reach = _reach(area, facts.paper)
    finding = Finding(
        "hangs-over",
        Weight.NOTE,
        f"{capital(facts.names[piece.id])} hangs over the card",
        f"It reaches {facts.say(reach)} beyond the card's edge. Trim it flush from the back, or see that the "
        "envelope takes it.",
        reach,
        "mm",
        (piece.id,),
        to_rings(shapely.difference(area, facts.paper)),
    )

    def offers() -> Iterator[Offer]:
        if not cuts_letters(facts, piece):
            yield "Trim it at the card's edge", lambda: edits.set_pieces(facts.work, {piece.id}, trim_to=CARD_EDGE)
        yield from bringing_in(facts, piece)

    return Draft(finding, offers)


def judge_envelope(facts: Facts) -> Iterator[Draft]:
    """All that hangs over, against the envelope that takes the card."""
    reach = [facts.paper.bounds]
    hanging = []
    for piece in facts.pieces:
        if facts.sights[piece.id].hangs and facts.sights[piece.id].off_panel_mm2 > OVERLAP_MM2:
            reach.append(whole_of(facts, piece).bounds)
            hanging.append(piece)
    if not hanging:
        return
    left, top = (min(bounds[k] for bounds in reach) for k in (0, 1))
    right, bottom = (max(bounds[k] for bounds in reach) for k in (2, 3))
    width, height = facts.card.panel
    high = glued_height(facts.work)
    spare = room_mm(facts.work, high)
    envelope = envelope_for(facts.work, (width, height), high)
    if envelope is None:
        return
    room = sorted((envelope.width_mm, envelope.height_mm), reverse=True)
    size = (right - left, bottom - top)
    long, short = sorted(size, reverse=True)
    over = max(long + spare - room[0], short + spare - room[1])
    if over <= EXACT_MM:
        return
    needed = envelope_for(facts.work, outer_size(facts.work), high)
    larger = f" It needs the {needed.say(facts.unit)}." if needed is not None else " No usual envelope takes it."
    worst = max(hanging, key=lambda piece: _reach(whole_of(facts, piece), facts.paper))
    finding = Finding(
        "envelope",
        Weight.TROUBLE,
        f"Too large for the {envelope.say(facts.unit)}",
        f"With what hangs over, the card is {facts.say(size[0])} by {facts.say(size[1])}: {facts.say(over)} more than "
        f"the envelope takes with {facts.say(spare)} to spare.{larger}",
        over,
        "mm",
        (worst.id,),
        to_rings(shapely.difference(whole_of(facts, worst), facts.paper)),
    )

    def offers() -> Iterator[Offer]:
        keys = {piece.id for piece in hanging}
        words = "Trim it at the card's edge" if len(keys) == 1 else "Trim all at the card's edge"
        if not any(cuts_letters(facts, piece) for piece in hanging):
            yield words, lambda: edits.set_pieces(facts.work, keys, trim_to=CARD_EDGE)

    yield Draft(finding, offers)


def judge_mats(facts: Facts) -> Iterator[Draft]:
    """Panels that lie on a panel or the card a little off its middle, so that the border shows unevenly."""
    for piece in facts.pieces:
        if not isinstance(piece, Panel) or piece.angle_deg % 90:
            continue
        under = facts.card.find(piece.on) if piece.on in facts.names else None
        if under is not None and (not isinstance(under, Panel) or under.angle_deg % 90):
            continue
        left, top, right, bottom = facts.leaves(piece.id)[0].whole.bounds
        low_x, low_y, high_x, high_y = (facts.leaves(under.id)[0].whole if under else facts.paper).bounds
        for first, second, word, by in (
            (left - low_x, high_x - right, "left and right", ((high_x + low_x - left - right) / 2, 0.0)),
            (top - low_y, high_y - bottom, "top and bottom", (0.0, (high_y + low_y - top - bottom) / 2)),
        ):
            apart = abs(first - second)
            if EVEN_MM + 1e-6 < apart <= SLIP_MM and min(first, second) > 0:
                yield _tell_uneven(facts, piece, (first, second), word, by)


def _tell_uneven(facts: Facts, piece: Panel, borders: tuple[float, float], word: str, by: tuple[float, float]) -> Draft:
    apart = abs(borders[0] - borders[1])
    finding = Finding(
        f"uneven-{word[:3]}",
        Weight.CAUTION,
        f"Border beside the {facts.names[piece.id]} is uneven",
        f"{word.capitalize()} it is {borders[0]:.1f} and {borders[1]:.1f} mm: {apart:.1f} mm apart looks like a slip.",
        apart,
        "mm",
        (piece.id,),
        to_rings(facts.leaves(piece.id)[0].whole),
    )
    return Draft(finding, lambda: [("Centre it", partial(edits.move_by, facts.work, {piece.id}, by))])


def _reach(area: BaseGeometry, surface: BaseGeometry) -> float:
    outside = shapely.difference(area, surface)
    if outside.is_empty:
        return 0.0
    left, top, right, bottom = outside.bounds
    low_x, low_y, high_x, high_y = surface.bounds
    over = max(low_x - left, low_y - top, right - high_x, bottom - high_y)
    return float(over) if over > 0 else float(shapely.hausdorff_distance(outside, surface.boundary))
