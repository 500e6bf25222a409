"""Splatter and flicked water: what must be covered, and how far all else must be away. Paste: what it lies over."""

from collections.abc import Sequence

import msgspec
import shapely
from shapely.geometry.base import BaseGeometry

from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work, is_greeting, name_pieces
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.pieces import AnyWash, Cover, Form, Impression, Paste, Wash, Water, is_glued
from fair_thicket.model.speech import join_words
from fair_thicket.model.units import say_area, say_length
from fair_thicket.shape.outline import Area, to_rings, turn_area, turn_points
from fair_thicket.shape.paper import form_area, place
from fair_thicket.shape.washes import cover_area

SHEET_ROOM_MM = 3.0
"""A cover sheet reaches so far beyond what it keeps clean."""
MOST_COVERS = 30
OPEN_MM2 = 1.0
MUCH_MM2 = 10.0
"""Less of an image under paste can be scraped clean (our own guess)."""


def judge_splatter(work: Work) -> list[Finding]:
    """Judge every splatter, flicked water and paste by what was stamped on its surface before.

    Notes
    -----
    Drops fall anywhere within the form, not only where the picture shows them, and stray as far beyond as the card's
    splatter distance says. A coloured image is masked by the plan; words, and what is plainly stamped, are not.
    """
    findings: list[Finding] = []
    areas = {leaf.piece.id: leaf.whole for leaf in stack(work)}
    for piece in work.card.pieces:
        if not isinstance(piece, Wash):
            continue
        if piece.strays:
            findings += _drops_on(work, piece, areas)
        elif isinstance(piece, Paste):
            findings += _paste_over(work, piece, areas)
    return findings


def _before(work: Work, piece: AnyWash) -> list[Impression]:
    """Return what is stamped on a wash's surface, and so lies there before it; the plan masks what is coloured."""
    return [
        one for one in work.card.pieces if isinstance(one, Impression) and one.on == piece.on and not one.is_coloured
    ]


def _where_drops_fall(piece: AnyWash) -> BaseGeometry:
    """Return what of a wash's form its covers leave open, mm on the panel."""
    falls: BaseGeometry = place(form_area(piece.form), piece)
    for cover in piece.covers:
        placed = turn_area(cover_area(cover), piece.angle_deg, piece.x, piece.y)
        keep = shapely.intersection if cover.kind == "counter" else shapely.difference
        falls = keep(falls, placed)
    return falls


def _say_there(images: Sequence[str], wash: str, open_mm2: float) -> str:
    """Say which images are there before a wash, and how much of them lies open to its drops."""
    shown = join_words([f"the {name}" for name in images[:3]] + ([f"{len(images) - 3} more"] if images[3:] else []))
    are, them = ("is", "it") if len(images) == 1 else ("are", "them")
    return (
        f"{shown[0].upper()}{shown[1:]} {are} there before the {wash}, and {say_area(open_mm2)} of {them} lie open to "
        "its drops."
    )


def _drops_on(work: Work, piece: AnyWash, areas: dict[str, Area]) -> list[Finding]:
    unit, names = work.card.unit, name_pieces(work)
    falls = _where_drops_fall(piece)
    there = _before(work, piece)
    wet = {one.id: shapely.intersection(areas[one.id], falls) for one in there}
    hit = [one for one in there if wet[one.id].area > OPEN_MM2]
    if not hit:
        return []
    hit.sort(key=lambda one: (not is_greeting(one, work.stash), names[one.id]))
    reach = say_length(work.card.masking.splatter_mm, unit)
    word = "Water" if isinstance(piece, Water) else "Splatter"
    spoiled = sum(float(wet[one.id].area) for one in hit)
    covers = (*piece.covers, *(_sheet_over(piece, areas[one.id]) for one in hit))
    words = "Cover it with a sheet" if len(hit) == 1 else f"Cover all {len(hit)} with sheets"
    remedy = Remedy(words, pieces=(msgspec.structs.replace(piece, covers=covers),))
    return [
        Finding(
            code="drops-on",
            weight=Weight.CAUTION,
            title=f"{word} can land on the {names[hit[0].id]}" + (" and others" if len(hit) > 1 else ""),
            text=_say_there([names[one.id] for one in hit], names[piece.id], spoiled)
            + f" They stray up to {reach}: keep all other pieces farther away, or covered.",
            measure=round(spoiled, 1),
            unit="mm2",
            pieces=(piece.id, *(one.id for one in hit)),
            places=tuple(ring for one in hit for ring in to_rings(wet[one.id])),
            remedy=remedy if len(covers) <= MOST_COVERS else None,
        )
    ]


def _sheet_over(piece: AnyWash, area: Area) -> Cover:
    """Return a cover sheet over an image's box, about the wash's middle and turned with it."""
    corners = shapely.get_coordinates(shapely.envelope(area)) - (piece.x, piece.y)
    local = turn_points(corners, -piece.angle_deg, 0, 0)
    (left, top), (right, bottom) = local.min(axis=0).tolist(), local.max(axis=0).tolist()
    form = Form("rectangle", right - left + 2 * SHEET_ROOM_MM, bottom - top + 2 * SHEET_ROOM_MM)
    return Cover("sheet", form, round((left + right) / 2, 3), round((top + bottom) / 2, 3))


def _paste_over(work: Work, piece: AnyWash, areas: dict[str, Area]) -> list[Finding]:
    """Paste covers what is stamped under it, and what is glued flat on it lies uneven."""
    names, findings = name_pieces(work), []
    own = areas[piece.id]
    for one in _before(work, piece):
        lost = shapely.intersection(areas[one.id], own)
        if lost.area > OPEN_MM2:
            findings.append(
                Finding(
                    code="paste-over",
                    weight=Weight.TROUBLE if lost.area > MUCH_MM2 else Weight.NOTE,
                    title=f"Paste lies over the {names[one.id]}",
                    text=f"{say_area(lost.area)} of it are spread over. Move it, or tape that part.",
                    measure=round(float(lost.area), 1),
                    unit="mm2",
                    pieces=(piece.id, one.id),
                    places=to_rings(lost),
                )
            )
    flat = [
        one
        for one in work.card.pieces
        if is_glued(one)
        and one.on == piece.on
        and getattr(one, "lift_mm", 1.0) == 0
        and shapely.intersection(areas[one.id], own).area > OPEN_MM2
    ]
    if flat:
        which = ", ".join(f"the {names[one.id]}" for one in flat[:3])
        lifted = tuple(msgspec.structs.replace(one, lift_mm=1.0) for one in flat)
        findings.append(
            Finding(
                code="paste-under",
                weight=Weight.NOTE,
                title=f"{len(flat)} flat {'piece lies' if len(flat) == 1 else 'pieces lie'} on paste",
                text=f"Paste is raised and uneven; glue {which} on foam, or with liquid glue and a weight.",
                measure=float(len(flat)),
                unit="count",
                pieces=(piece.id, *(one.id for one in flat)),
                remedy=Remedy("Put foam under them", pieces=lifted),
            )
        )
    return findings
