"""Washes that meet: what their inks turn into where they do."""

import itertools
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import msgspec
import numpy as np
import shapely

from fair_thicket.ink.gradients import is_blended, is_opaque, wash_colour
from fair_thicket.ink.ink_needed import bare_area
from fair_thicket.ink.mixing import chroma_of, find_bridge, hue_of, mix, trouble_between
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.palette import BRIDGES, name_of
from fair_thicket.model.pieces import AnyWash, Colour, Through, Wash, is_stepped
from fair_thicket.model.supplies import Ink
from fair_thicket.model.units import say_area, say_length
from fair_thicket.shape.outline import Area, only_areas, to_rings
from fair_thicket.shape.paper import place
from fair_thicket.shape.washes import lay_area, list_lays

MEET_MM = 2.0
"""Blended inks run into each other over this distance (our own guess)."""
MOST_INKS = 6
MOST_MEETINGS = 40
"""Of more meetings the largest are told: nobody reads on."""
LEAST_MM2 = 1.0
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
    names = name_pieces(work)
    findings: list[Finding] = []
    washes: list[AnyWash] = []
    for piece in (one for one in work.card.pieces if isinstance(one, Wash)):
        if areas[piece.id].is_empty:
            findings.append(_nowhere(work, piece, names[piece.id]))
        elif piece.is_wet and not is_opaque(piece):
            washes.append(piece)
    parts = {piece.id: list_parts(work, piece, areas[piece.id]) for piece in washes}
    own = _inks_of(washes, parts)
    shelf = {one.colour: one.name for one in inks}
    for piece in washes:
        findings += _within(piece, names[piece.id], own, shelf)
    for piece in washes:
        findings += _bare(work, piece, names[piece.id])
    for met, both in _worst_meetings(washes, areas, parts):
        bridge = find_bridge(*met.inks, own) or find_bridge(*met.inks, list(shelf))
        findings.append(_tell_meeting(met, both, names, _say_bridge(bridge, washes, names, shelf)))
    return findings


def _inks_of(washes: Sequence[AnyWash], parts: Mapping[str, list[tuple[Colour, Area]]]) -> list[Colour]:
    return sorted({ink for piece in washes for ink in (piece.inks or [ink for ink, _ in parts[piece.id]])})


def _worst_meetings(
    washes: Sequence[AnyWash], areas: Mapping[str, Area], parts: Mapping[str, list[tuple[Colour, Area]]]
) -> list[tuple["Meeting", list[AnyWash]]]:
    """Find the worst meeting of every two washes, or of the lays of one, the largest first."""
    meetings: list[tuple[Meeting, list[AnyWash]]] = []
    for one, other in _near_pairs(washes, areas):
        met = _worst_meeting(parts[one.id], parts[other.id], is_same=one is other)
        if met is not None:
            meetings.append((met, [one] if one is other else [one, other]))
    meetings.sort(key=lambda entry: -entry[0].area.area)
    return meetings[:MOST_MEETINGS]


def _nowhere(work: Work, piece: AnyWash, name: str) -> Finding:
    """Tell of a wash of which nothing reaches its paper."""
    what = (
        "none of its stencil's openings lies over the paper"
        if isinstance(piece, Through) and piece.stencil
        else "all of it lies beside the paper"
    )
    surface = f" of the {name_pieces(work)[piece.on]}" if piece.on else ""
    return Finding(
        code="lands-nowhere",
        weight=Weight.TROUBLE,
        title=f"The {name} lands nowhere",
        text=f"No ink of it is needed anywhere: {what}{surface}, or it is covered or taped off. It is left out of the "
        "plan and of the print; move it, or take it away.",
        measure=0.0,
        unit="mm2",
        pieces=(piece.id,),
    )


def _near_pairs(washes: Sequence[AnyWash], areas: Mapping[str, Area]) -> list[tuple[AnyWash, AnyWash]]:
    """Pairs of washes of one surface that come near enough to run into each other, each wash with itself as well."""
    if not washes:
        return []
    shapes = np.array([areas[piece.id] for piece in washes], dtype=object)
    grown = shapely.box(*(shapely.bounds(shapes) + np.array([-MEET_MM, -MEET_MM, MEET_MM, MEET_MM])).T)
    first, second = shapely.STRtree(shapes).query(grown)
    return [
        (washes[a], washes[b])
        for a, b in sorted(zip(first.tolist(), second.tolist(), strict=True))
        if a <= b and washes[a].on == washes[b].on
    ]


class Meeting(NamedTuple):
    """Where two inks run into each other, and what is wrong with it."""

    inks: tuple[Colour, Colour]
    area: Area
    trouble: str


def list_parts(work: Work, piece: AnyWash, area: Area) -> list[tuple[Colour, Area]]:
    """Inks of a wash with where each lies in strength, mm on the panel; of a fading lay that is half its reach."""
    if not is_stepped(piece):
        return [(wash_colour(piece), area)]
    parts: list[tuple[Colour, Area]] = []
    for laid in list_lays(piece, work.stash):
        strong = laid._replace(reach_mm=laid.reach_mm / 2) if laid.fades else laid
        placed = place(lay_area(strong), piece)
        parts.append((laid.lay.ink or wash_colour(piece), only_areas(shapely.intersection(placed, area))))
    return parts


def _worst_meeting(
    one: list[tuple[Colour, Area]], other: list[tuple[Colour, Area]], *, is_same: bool
) -> Meeting | None:
    """Find the largest meeting of two inks that is in trouble; of one wash that of its lays."""
    pairs = itertools.combinations(one, 2) if is_same else itertools.product(one, other)
    worst = None
    for (first, lies), (second, there) in pairs:
        trouble = trouble_between(first, second)
        if not trouble:
            continue
        area = only_areas(shapely.intersection(shapely.buffer(lies, 0.0 if is_same else MEET_MM), there))
        if area.area > LEAST_MM2 and (worst is None or area.area > worst.area.area):
            worst = Meeting((first, second), area, trouble)
    return worst


def _say_bridge(
    bridge: Colour | None, washes: Sequence[AnyWash], names: Mapping[str, str], shelf: Mapping[Colour, str]
) -> str:
    between = next((f"The ink of the {names[piece.id]}" for piece in washes if bridge and piece.colour == bridge), "")
    between = between or (f"Your {shelf[bridge]}" if bridge and bridge in shelf else "")
    return f"{between} can go between." if between else "Let a pale, greyish ink go between them."


def _tell_meeting(met: Meeting, washes: Sequence[AnyWash], names: Mapping[str, str], advice: str) -> Finding:
    middle = mix(list(met.inks), [0.5, 0.5])
    what = "mud" if met.trouble == "mud" else name_hue(middle)
    told = " and the ".join(names[piece.id] for piece in washes)
    who = f"The {told} turn" if len(washes) > 1 else f"Lays of the {told} turn"
    return Finding(
        code=f"wash-{met.trouble}",
        weight=Weight.CAUTION,
        title=f"{who} to {what}",
        text=f"Where the two inks meet, over {say_area(met.area.area)}, they mix to {what} ({middle}). {advice}",
        measure=round(float(chroma_of(middle)), 2),
        unit="ratio",
        pieces=tuple(piece.id for piece in washes),
        places=to_rings(met.area),
    )


def _bare(work: Work, piece: AnyWash, name: str) -> list[Finding]:
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


def _within(piece: AnyWash, name: str, own: list[Colour], shelf: Mapping[Colour, str]) -> list[Finding]:
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
