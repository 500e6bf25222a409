"""What is pressed made into the card: images coloured in, and everything glued on, from the back to the front.

The pressed sheets come from the rehearsal, with whatever went wrong on them; only what comes after is drawn here, by
the painter's own hand. Held against the composed picture, the outcome shows what the stamping alone cannot.
"""

from collections.abc import Iterator, Mapping
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from fair_thicket.ink.ground import put
from fair_thicket.ink.inking import Ink, carriers_of, to_levels
from fair_thicket.ink.overlay import lay_over
from fair_thicket.ink.painting import PLAIN, Floats, Look, Painter, Picture, Window
from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Impression, PaperPiece, Piece, Wash, is_glued
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.model.units import MM_PER_INCH


def finish(
    work: Work,
    pictures: Mapping[str, bytes],
    pressed: Picture,
    composed: Picture,
    inks: Mapping[str, Ink],
    *,
    dpi: float,
) -> Picture:
    """Colour and glue what was pressed.

    Parameters
    ----------
    pressed : (rows, columns, 3) uint8
        Every sheet that was inked on, where it will lie, after the last press.
    composed : (rows, columns, 3) uint8
        The card as composed: what is seen through translucent sheets that were stamped on is taken from it.
    inks : mapping of key to Ink

    Returns
    -------
    (rows, columns, 3) uint8
    """
    canvas = None
    for done in finish_by_steps(work, pictures, pressed, composed, inks, dpi=dpi):
        canvas = done.canvas
    return pressed if canvas is None else to_levels(canvas)


class Done(NamedTuple):
    """One image coloured, or one piece glued on: the canvas, (rows, columns, 3) float32, and where it has changed."""

    leaf: Leaf
    canvas: Floats
    window: Window


def finish_by_steps(
    work: Work,
    pictures: Mapping[str, bytes],
    pressed: Picture,
    composed: Picture,
    inks: Mapping[str, Ink],
    *,
    dpi: float,
    look: Look = PLAIN,
) -> Iterator[Done]:
    """Colour and glue what was pressed, leaf by leaf from the back; see `finish`. The canvas is one and the same."""
    if not any(map(_comes_after_pressing, work.card.pieces)):
        return
    sheet = np.asarray(pressed, np.float32) / np.float32(255)
    painter = Painter(work, pictures, pressed.shape[:2], dpi / MM_PER_INCH, look)
    painter.canvas = sheet.copy()
    carriers = {leaf.piece.id for leaf in carriers_of(work)}
    by_id = {piece.id: piece for piece in work.card.pieces}
    surfaces = {piece.on for piece in work.card.pieces}
    for number, leaf in enumerate(painter.leaves):
        piece = leaf.piece
        if isinstance(piece, Impression):
            if not piece.is_coloured or _is_on_veil(piece, by_id):
                continue
            _colour_in(painter, leaf, piece, _left_to_colour(painter.leaves[number:]), inks)
        elif isinstance(piece, Wash):
            continue  # pressed and laid already
        elif piece.id in carriers:
            painter.shade(leaf)
            window, inside = painter.cover(leaf.area)
            put(painter.canvas[window], sheet[window], inside)
            painter.draw_own(leaf, window, inside)
        else:
            painter.lay(leaf)
            if piece.id in surfaces and _is_veil(piece):
                window, inside = painter.cover(leaf.area)
                seen = np.asarray(composed[window], np.float32) / np.float32(255)
                put(painter.canvas[window], seen, inside)
        yield Done(leaf, painter.canvas, painter.reach(leaf))


def _comes_after_pressing(piece: Piece) -> bool:
    return is_glued(piece) or (isinstance(piece, Impression) and piece.is_coloured)


def _is_on_veil(piece: Piece, by_id: Mapping[str, Piece]) -> bool:
    return _is_veil(by_id.get(piece.on))


def _is_veil(piece: Piece | None) -> bool:
    return isinstance(piece, PaperPiece) and piece.translucent


def _left_to_colour(leaves: tuple[Leaf, ...]) -> BaseGeometry:
    """Give what of the first leaf is not taken by images in front of it on its own surface."""
    own = leaves[0]
    fronts = [
        leaf.area
        for leaf in leaves[1:]
        if isinstance(leaf.piece, Impression) and leaf.piece.on == own.piece.on and leaf.area.intersects(own.area)
    ]
    return shapely.difference(own.area, shapely.union_all(fronts)) if fronts else own.area


def _colour_in(painter: Painter, leaf: Leaf, piece: Impression, area: BaseGeometry, inks: Mapping[str, Ink]) -> None:
    """Lay the colours of an image over its lines; on lines that cover or resist they do not take."""
    window, inside = painter.cover(area)
    tones = painter.tones_of(leaf, window)
    if not inside.any() or tones is None:
        return
    tint = np.broadcast_to(tones, (*inside.shape, 3)).copy()
    for ink in inks.values():
        if ink.piece == piece.id and (ink.is_opaque or piece.resists):
            lines = _on_window(1 - ink.passing, ink.window, window)
            tint += (np.float32(1) - tint) * lines[:, :, None]
    view = painter.canvas[window]
    view[inside] = lay_over(view[inside], tint[inside])


def _on_window(
    patch: NDArray[np.float32], there: tuple[slice, slice], here: tuple[slice, slice]
) -> NDArray[np.float32]:
    """Give a patch of the panel as it lies on another window; nothing where it does not reach."""
    laid = np.zeros((here[0].stop - here[0].start, here[1].stop - here[1].start), np.float32)
    top, bottom = max(here[0].start, there[0].start), min(here[0].stop, there[0].stop)
    left, right = max(here[1].start, there[1].start), min(here[1].stop, there[1].stop)
    if top < bottom and left < right:
        laid[top - here[0].start : bottom - here[0].start, left - here[1].start : right - here[1].start] = patch[
            top - there[0].start : bottom - there[0].start, left - there[1].start : right - there[1].start
        ]
    return laid


def covers_of(work: Work, leaves: tuple[Leaf, ...]) -> dict[str, BaseGeometry]:
    """Give what will be glued over each surface that is inked on, by the surface's id; mm on the panel.

    Sheets that let light through cover nothing, nor does what the surface itself lies on.
    """
    covers: dict[str, BaseGeometry] = {}
    for surface in {piece.on for piece in work.card.pieces if isinstance(piece, Impression | Wash)}:
        at = [index for index, leaf in enumerate(leaves) if leaf.piece.id == surface]
        over = [leaf.area for leaf in leaves[at[-1] + 1 if at else 0 :] if leaf.hides and is_glued(leaf.piece)]
        whole = shapely.union_all(over)
        if whole.area > OVERLAP_MM2:
            covers[surface] = whole
    return covers
