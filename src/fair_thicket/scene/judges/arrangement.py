"""The whole: figures that look out of the card, one height for all, areas that are crowded or empty."""

import math
from collections.abc import Iterator
from functools import partial

import numpy as np
from shapely.geometry import box

from fair_thicket import edits
from fair_thicket.model.card import is_figure, is_sheet
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import Border, Cutout, Piece
from fair_thicket.scene.judges.facts import Draft, Facts, Offer, capital, is_flipped, stamp_of
from fair_thicket.scene.room import largest_square
from fair_thicket.shape.outline import to_rings
from fair_thicket.shape.raster import add_cover

NEAR_EDGE = 1 / 3
"""A figure that looks out over less than this share of the width has its back to the scene (common practice)."""
MANY = 5
EMPTY_SHARE = 0.2
CROWD = 4
CROWD_SHARE = 0.04
FOAM_MM = 1.6


def judge_gaze(facts: Facts) -> Iterator[Draft]:
    """Figures that look or point off the near edge, not toward the greeting or the middle."""
    width, _ = facts.card.panel
    for piece in facts.pieces:
        stamp = stamp_of(piece, facts)
        if stamp is None or stamp.marks.looks_deg is None or not is_figure(piece, facts.stash):
            continue
        turn = math.radians(180 - stamp.marks.looks_deg if is_flipped(piece) else stamp.marks.looks_deg)
        way = math.cos(turn + math.radians(piece.angle_deg))
        room = width - piece.x if way > 0 else piece.x
        if abs(way) < 0.5 or room >= width * NEAR_EDGE or _looks_at_words(facts, piece, way):
            continue
        side = "right" if way > 0 else "left"
        middle = facts.area(piece.id).bounds
        strip = box(piece.x, (middle[1] + middle[3]) / 2 - 1, width if way > 0 else 0, (middle[1] + middle[3]) / 2 + 1)
        finding = Finding(
            "gaze",
            Weight.NOTE,
            f"{capital(facts.names[piece.id])} looks out of the card",
            f"It looks to the {side}, and the {side} edge is {facts.say(room)} away: the eye follows it out. "
            "Let it look toward the greeting or the middle.",
            room / width,
            "ratio",
            (piece.id,),
            to_rings(strip),
        )
        yield Draft(finding, partial(_turning_back, facts, piece))


def _looks_at_words(facts: Facts, piece: Piece, way: float) -> bool:
    return any((facts.card.find(key).x - piece.x) * way > 0 for key in facts.greetings)


def _turning_back(facts: Facts, piece: Piece) -> Iterator[Offer]:
    if isinstance(piece, Cutout) and facts.stash.find(piece.stamp).may_flip:
        yield "Turn it over", lambda: edits.set_pieces(facts.work, {piece.id}, flipped=not piece.flipped)
    width, _ = facts.card.panel
    by = (width - 2 * piece.x, 0.0)
    yield "Move it to the other side", lambda: edits.move_by(facts.work, {piece.id}, by)


def judge_heights(facts: Facts) -> Iterator[Draft]:
    """Cut pieces that are all at one height although some are there to stand out."""
    cut = [piece for piece in facts.pieces if isinstance(piece, Cutout) and is_figure(piece, facts.stash)]
    heights = {piece.lift_mm for piece in cut}
    if len(cut) < MANY or len(heights) > 1:
        return
    height = heights.pop()
    word = "flat" if not height else f"on {height:g} mm of foam"
    finding = Finding(
        "one-height",
        Weight.NOTE,
        "All figures at one height",
        f"All {len(cut)} cut figures are {word}. Mix heights: what is in front higher, what is behind flat.",
        float(len(cut)),
        "count",
        tuple(piece.id for piece in reversed(cut)),
        to_rings(facts.area(cut[-1].id)),
    )

    def offers() -> Iterator[Offer]:
        for one in reversed(cut):
            yield (
                f"Raise {facts.the(one.id)} on foam",
                partial(edits.set_pieces, facts.work, {one.id}, lift_mm=height + FOAM_MM),
            )

    yield Draft(finding, offers)


def judge_fullness(facts: Facts) -> Iterator[Draft]:
    """Areas where many pieces lie on one another, and a large one with nothing at all; counted on a raster of 1 mm."""
    shown = [piece for piece in facts.pieces if not is_sheet(piece)]
    if len([piece for piece in shown if is_figure(piece, facts.stash)]) < MANY:
        return
    width, height = facts.card.panel
    count = np.zeros((max(1, int(height)), max(1, int(width))), np.int16)
    for piece in shown:
        if isinstance(piece, Border):  # rows of grass lie on one another on purpose
            continue
        add_cover(count, facts.area(piece.id), 1.0)
    row, column, side = largest_square(count == 0)
    share = side * side / (width * height)
    if share > EMPTY_SHARE:
        finding = Finding(
            "empty",
            Weight.NOTE,
            "A large area is empty",
            f"A square of {facts.say(side)}, {share:.0%} of the front, holds nothing. Keep it for the greeting or "
            "fill it with a prop that takes up room.",
            share,
            "share",
            (),
            to_rings(box(column, row, column + side, row + side)),
        )
        yield Draft(finding)
    crowded = count >= CROWD
    share = float(crowded.mean())
    if share > CROWD_SHARE:
        rows, columns = np.nonzero(crowded)
        at = box(columns.min(), rows.min(), columns.max() + 1, rows.max() + 1)
        finding = Finding(
            "crowd",
            Weight.NOTE,
            "Crowded",
            f"On {share:.0%} of the front {CROWD} pieces and more lie on one another, up to {count.max()}: the eye "
            "finds no rest and the pile gets thick.",
            share,
            "share",
            tuple(piece.id for piece in shown if facts.area(piece.id).intersects(at))[-3:],
            to_rings(at),
        )
        yield Draft(finding)
