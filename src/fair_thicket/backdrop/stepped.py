"""What stepped stencils have to say: outlines that repeat in line, and sides that the stencil leaves bare."""

import msgspec

from fair_thicket.backdrop.stencils import least_between, step_stencil
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.pieces import AnyThrough, is_stepped
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import say_length

LINE_MM = 4.0
"""Landmarks nearer in line than this seem to repeat (our own guess)."""
BETTER_MM = 0.5
BARE_MM = 0.5


def judge_stencils(work: Work) -> list[Finding]:
    """Judge every wash whose stencil is stepped."""
    findings = []
    for piece in work.card.pieces:
        if is_stepped(piece):
            stamp, name = work.stash.find(piece.stencil), name_pieces(work)[piece.id]
            findings += _in_line(work, piece, stamp, name) + _bare_sides(work, piece, stamp, name)
    return findings


def _in_line(work: Work, piece: AnyThrough, stamp: Stamp, name: str) -> list[Finding]:
    least, unit = least_between(stamp, piece), work.card.unit
    if least >= LINE_MM:
        return []
    try:
        found = step_stencil(stamp, piece, len(piece.lays), _rise(piece), unit=unit)
    except PaperError:
        return []
    if found.least_mm <= least + BETTER_MM:  # as good as this stencil gets
        return []
    lays = tuple(
        msgspec.structs.replace(lay, y=old.y, ink=old.ink) for lay, old in zip(found.lays, piece.lays, strict=True)
    )
    words = f"Step it {say_length(found.least_mm, unit)} out of line"
    remedy = Remedy(words, pieces=(msgspec.structs.replace(piece, lays=lays),))
    return [
        Finding(
            code="stencil-line",
            weight=Weight.CAUTION,
            title=f"Outlines of the {name} repeat in line",
            text=f"Crests of two lays come within {say_length(least, unit)} of one another along the card.",
            measure=round(least, 2),
            unit="mm",
            pieces=(piece.id,),
            remedy=remedy,
        )
    ]


def _rise(piece: AnyThrough) -> float:
    """Mean step up from lay to lay, mm."""
    lays = piece.lays
    return (lays[0].y - lays[-1].y) / (len(lays) - 1) if len(lays) > 1 else 0.0


def _bare_sides(work: Work, piece: AnyThrough, stamp: Stamp, name: str) -> list[Finding]:
    short = max((piece.form.width_mm / 2 + abs(lay.x) - stamp.width_mm / 2 for lay in piece.lays), default=0.0)
    if short < BARE_MM:
        return []
    return [
        Finding(
            code="stencil-short",
            weight=Weight.CAUTION,
            title=f"The stencil leaves a side of the {name} bare",
            text=f"The {stamp.name} ends {say_length(short, work.card.unit)} before the wash does; slide it back, or "
            "take a wider one.",
            measure=round(short, 2),
            unit="mm",
            pieces=(piece.id,),
        )
    ]
