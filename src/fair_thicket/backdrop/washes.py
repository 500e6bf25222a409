"""Washes that meet: what their inks turn into where they do."""

import itertools

import shapely

from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import WASH, Wash
from fair_thicket.shape.mixing import chroma_of, find_bridge, hue_of, mix, trouble_between
from fair_thicket.shape.outline import to_rings
from fair_thicket.shape.stack import stack

MEET_MM = 2.0
"""Blended inks run into each other over this distance (our own guess)."""
HUES = ((20, "pink"), (55, "red"), (80, "orange"), (105, "yellow"), (170, "green"), (220, "teal"), (295, "blue"))
"""Names of hues in CIELAB, up to an angle, degrees (our own division)."""


def judge_washes(work: Work) -> list[Finding]:
    """Judge every two washes of one surface that meet.

    Returns
    -------
    list of Finding
        What comes up where they meet, and a wash's colour of the card that can go between, where one can.
    """
    areas = {leaf.piece.id: leaf.area for leaf in stack(work) if isinstance(leaf.piece, Wash)}
    washes = [piece for piece in work.card.pieces if isinstance(piece, Wash) and not areas[piece.id].is_empty]
    names = name_pieces(work)
    own = sorted({piece.colour or WASH for piece in washes})
    findings = []
    for one, other in itertools.combinations(washes, 2):
        if one.on != other.on:
            continue
        meeting = shapely.intersection(shapely.buffer(areas[one.id], MEET_MM), areas[other.id])
        first, second = one.colour or WASH, other.colour or WASH
        trouble = trouble_between(first, second) if meeting.area > 1.0 else ""
        if not trouble:
            continue
        middle = mix([first, second], [0.5, 0.5])
        what = "mud" if trouble == "mud" else name_hue(middle)
        bridge = find_bridge(first, second, own)
        between = next((names[piece.id] for piece in washes if piece.colour == bridge), "") if bridge else ""
        advice = f"The ink of the {between} can go between." if between else "Let a pale, greyish ink go between them."
        findings.append(
            Finding(
                code=f"wash-{trouble}",
                weight=Weight.CAUTION,
                title=f"The {names[one.id]} and the {names[other.id]} turn to {what}",
                text=f"Where the two inks meet, over {meeting.area / 100:.1f} cm², they mix to {what} ({middle}). "
                f"{advice}",
                measure=round(float(chroma_of(middle)), 2),
                unit="ratio",
                pieces=(one.id, other.id),
                places=to_rings(meeting),
            )
        )
    return findings


def name_hue(colour: str) -> str:
    """Name the hue of a colour."""
    angle = hue_of(colour)
    return next((name for limit, name in HUES if angle <= limit), "violet" if angle < 345 else "pink")
