"""A finished scene on another format: every piece keeps its size and its share of the gaps; told what no longer fits.

Notes
-----
Across and down alike: a piece whose gap to the left took a third of the free room takes a third of the new free room.
So what stood at an edge stands there again, and what stood inside stays inside if it fits at all. Pieces that are held
by or lie on others go with them. Panels, washes and borders that spanned the card are cut to span the new one.
"""

from typing import NamedTuple

import msgspec

from fair_thicket.edits.pieces import clamp, followers
from fair_thicket.model.card import Card, Work, name_pieces
from fair_thicket.model.formats import Fold
from fair_thicket.model.pieces import Border, Form, Panel, Piece, Wash, Window
from fair_thicket.model.units import say_size
from fair_thicket.shape.paper import footprint

SPANS = 0.8
"""A panel, wash or border that takes more than this share of the card's width or height spans it."""
LEAST_MM = 5.0


class Refit(NamedTuple):
    """A work on another format, and a sentence for each piece that no longer fits."""

    work: Work
    misfits: tuple[str, ...]


def refit(
    work: Work,
    *,
    format: str | None = None,  # noqa: A002 - the trade's word
    landscape: bool | None = None,
    fold: Fold | None = None,
    custom_mm: tuple[float, float] | None = None,
) -> Refit:
    """Put a card on another format; what is not said stays."""
    old = work.card
    fields: dict[str, object] = {}
    if format is not None:
        fields["format"] = format
        fields["custom_mm"] = custom_mm if format == "custom" else None
    if landscape is not None:
        fields["landscape"] = landscape
    if fold is not None:
        fields["fold"] = fold
    card: Card = msgspec.structs.replace(old, **fields)
    if card.panel != old.panel and old.assembly.shortened_mm:  # it was cut for the old front
        card = msgspec.structs.replace(card, assembly=msgspec.structs.replace(card.assembly, shortened_mm=0.0))
    if card.panel == old.panel:
        return Refit(msgspec.structs.replace(work, card=card), ())
    made = msgspec.structs.replace(card, pieces=_lay_anew(work, card))
    after = msgspec.structs.replace(work, card=made)
    return Refit(after, _misfits(after))


def _lay_anew(work: Work, card: Card) -> tuple[Piece, ...]:
    before, after = work.card.panel, card.panel
    pieces = work.card.pieces
    roots = [piece for piece in pieces if _root_of(piece, pieces) is None]
    moved: dict[str, Piece] = {}
    for root in roots:
        cut = _cut_anew(root, before, after)
        left, top, right, bottom = footprint(root, work.stash).bounds
        if cut != root:
            dx, dy = _scaled(root, before, after)
        else:
            dx = _shift(left, right, before[0], after[0])
            dy = _shift(top, bottom, before[1], after[1])
        for key in followers(pieces, {root.id}):
            piece = cut if key == root.id else next(one for one in pieces if one.id == key)
            moved[key] = msgspec.structs.replace(piece, x=clamp(piece.x + dx), y=clamp(piece.y + dy))
    return tuple(moved.get(piece.id, piece) for piece in pieces)


def _root_of(piece: Piece, pieces: tuple[Piece, ...]) -> Piece | None:
    """Find what a piece goes with; panels that span are no carriers: what lies on them keeps its own place."""
    by_id = {one.id: one for one in pieces}
    if piece.held and piece.held.by in by_id:
        return by_id[piece.held.by]
    under = by_id.get(piece.on)
    return None if under is None or isinstance(under, Panel | Wash) else under


def _shift(low: float, high: float, before: float, after: float) -> float:
    """How far to move so that the gap before it keeps its share of the free room."""
    room, new = before - (high - low), after - (high - low)
    if abs(room) < LEAST_MM:  # it takes all the room there is: keep its middle in the middle's place
        middle = (low + high) / 2
        return middle * after / before - middle
    return low / room * new - low


def _scaled(piece: Piece, before: tuple[float, float], after: tuple[float, float]) -> tuple[float, float]:
    return piece.x * after[0] / before[0] - piece.x, piece.y * after[1] / before[1] - piece.y


def _cut_anew(piece: Piece, before: tuple[float, float], after: tuple[float, float]) -> Piece:
    """Cut what spans the card so that it spans the new one, its borders as wide as they were."""
    by = (after[0] - before[0], after[1] - before[1])
    if isinstance(piece, Border) and piece.length_mm > SPANS * before[0] and not piece.angle_deg:
        return msgspec.structs.replace(piece, length_mm=max(LEAST_MM, piece.length_mm + by[0]))
    if isinstance(piece, Panel | Wash) and piece.form.kind == "rectangle" and not piece.angle_deg:
        form = _grown(piece.form, before, by)
        if form == piece.form:
            return piece
        if isinstance(piece, Wash):
            return msgspec.structs.replace(piece, form=form)
        grown = (form.width_mm - piece.form.width_mm, form.height_mm - piece.form.height_mm)
        windows = tuple(_grown_window(one, piece.form, grown) for one in piece.windows)
        return msgspec.structs.replace(piece, form=form, windows=windows)
    return piece


def _grown(form: Form, before: tuple[float, float], by: tuple[float, float]) -> Form:
    width, height = form.width_mm, form.height_mm
    if width > SPANS * before[0]:
        width = max(LEAST_MM, width + by[0])
    if height > SPANS * before[1]:
        height = max(LEAST_MM, height + by[1])
    return msgspec.structs.replace(form, width_mm=clamp(width), height_mm=clamp(height))


def _grown_window(window: Window, frame: Form, by: tuple[float, float]) -> Window:
    """Return a frame whose single large window grows with it, so that the bars stay as wide as they were."""
    form = window.form
    if form.kind != "rectangle" or form.width_mm < 0.5 * frame.width_mm:
        return window
    grown = msgspec.structs.replace(
        form,
        width_mm=clamp(max(LEAST_MM, form.width_mm + by[0])),
        height_mm=clamp(max(LEAST_MM, form.height_mm + by[1])),
    )
    return msgspec.structs.replace(window, form=grown)


def _misfits(work: Work) -> tuple[str, ...]:
    width, height = work.card.panel
    names = name_pieces(work)
    told = []
    for piece in work.card.pieces:
        left, top, right, bottom = footprint(piece, work.stash).bounds
        if right - left > width + 0.1 or bottom - top > height + 0.1:
            size = say_size(right - left, bottom - top, work.card.unit)
            told.append(f"The {names[piece.id]} ({size}) is larger than the new front.")
    return tuple(told)
