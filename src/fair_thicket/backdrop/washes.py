"""Washes that meet: what their inks turn into where they do."""

import itertools
from collections.abc import Mapping, Sequence

import msgspec
import shapely

from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.palette import BRIDGES, name_of
from fair_thicket.model.pieces import Colour, Wash
from fair_thicket.model.supplies import Ink
from fair_thicket.model.units import say_length
from fair_thicket.shape.gradients import is_blended, wash_colour
from fair_thicket.shape.ink_needed import bare_area
from fair_thicket.shape.mixing import chroma_of, find_bridge, hue_of, mix, trouble_between
from fair_thicket.shape.outline import to_rings
from fair_thicket.shape.stack import stack

MEET_MM = 2.0
"""Blended inks run into each other over this distance (our own guess)."""
MOST_INKS = 6
BARE_MM2 = 400.0
"""Less to spare is not worth a thought (our own guess)."""
HUES = ((20, "pink"), (55, "red"), (80, "orange"), (105, "yellow"), (170, "green"), (220, "teal"), (295, "blue"))
"""Names of hues in CIELAB, up to an angle, degrees (our own division)."""


def judge_washes(work: Work, inks: Sequence[Ink] = ()) -> list[Finding]:
    """Judge every two washes of one surface that meet, and the inks of each.

    Parameters
    ----------
    work : Work
    inks : sequence of Ink
        The maker's own: what goes between two is looked for on the card, then among these, then among pale greys.

    Returns
    -------
    list of Finding
        What comes up where they meet, and a wash's colour of the card that can go between, where one can.
    """
    areas = {leaf.piece.id: leaf.area for leaf in stack(work) if isinstance(leaf.piece, Wash)}
    washes = [piece for piece in work.card.pieces if isinstance(piece, Wash) and not areas[piece.id].is_empty]
    names = name_pieces(work)
    own = sorted({ink for piece in washes for ink in (piece.inks or (wash_colour(piece),))})
    shelf = {one.colour: one.name for one in inks}
    findings = [finding for piece in washes for finding in _within(piece, names[piece.id], own, shelf)]
    findings += [finding for piece in washes for finding in _bare(work, piece, names[piece.id])]
    for one, other in itertools.combinations(washes, 2):
        if one.on != other.on:
            continue
        meeting = shapely.intersection(shapely.buffer(areas[one.id], MEET_MM), areas[other.id])
        first, second = wash_colour(one), wash_colour(other)
        trouble = trouble_between(first, second) if meeting.area > 1.0 else ""
        if not trouble:
            continue
        middle = mix([first, second], [0.5, 0.5])
        what = "mud" if trouble == "mud" else name_hue(middle)
        bridge = find_bridge(first, second, own) or find_bridge(first, second, list(shelf))
        between = next((f"The ink of the {names[piece.id]}" for piece in washes if piece.colour == bridge), "")
        between = between or (f"Your {shelf[bridge]}" if bridge in shelf else "")
        advice = f"{between} can go between." if between else "Let a pale, greyish ink go between them."
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


def _bare(work: Work, piece: Wash, name: str) -> list[Finding]:
    """Say how much of a wash is never seen and may stay bare: ink reaches under what covers it by a margin only."""
    spare = bare_area(work, piece)
    if spare.area < BARE_MM2:
        return []
    whole = next(leaf.area.area for leaf in stack(work) if leaf.piece.id == piece.id)
    margin = say_length(work.card.limits.ink_margin_mm, work.card.unit)
    return [
        Finding(
            code="bare",
            weight=Weight.NOTE,
            title=f"{spare.area / 100:.0f} cm² of the {name} may stay bare",
            text=f"Of {whole / 100:.0f} cm² so much is covered by what is glued over it; let the ink reach {margin} "
            "under the edges and leave the rest.",
            measure=round(float(spare.area), 1),
            unit="mm2",
            pieces=(piece.id,),
            places=to_rings(spare),
        )
    ]


def _within(piece: Wash, name: str, own: list[Colour], shelf: Mapping[Colour, str]) -> list[Finding]:
    """Judge the inks of one wash where each goes over into the next; a bridge is put between them by the remedy."""
    if not is_blended(piece):
        return []
    findings = []
    for index, (first, second) in enumerate(itertools.pairwise(piece.inks)):
        trouble = trouble_between(first, second)
        if not trouble:
            continue
        middle = mix([first, second], [0.5, 0.5])
        what = "mud" if trouble == "mud" else name_hue(middle)
        shelves = (own, list(shelf), [code for _, code in BRIDGES])
        bridge = next((found for shelved in shelves if (found := find_bridge(first, second, shelved))), None)
        remedy = None
        if bridge is not None and len(piece.inks) < MOST_INKS:
            inks = (*piece.inks[: index + 1], bridge, *piece.inks[index + 1 :])
            remedy = Remedy(
                f"Blend over {shelf.get(bridge) or name_of(bridge)}",
                pieces=(msgspec.structs.replace(piece, inks=inks),),
            )
        findings.append(
            Finding(
                code=f"blend-{trouble}",
                weight=Weight.CAUTION,
                title=f"The {name} turns to {what} on its way",
                text=f"Its inks {name_of(first)} and {name_of(second)} mix to {what} ({middle}) where they meet.",
                measure=round(float(chroma_of(middle)), 2),
                unit="ratio",
                pieces=(piece.id,),
                remedy=remedy,
            )
        )
    return findings


def name_hue(colour: str) -> str:
    """Name the hue of a colour."""
    angle = hue_of(colour)
    return next((name for limit, name in HUES if angle <= limit), "violet" if angle < 345 else "pink")
