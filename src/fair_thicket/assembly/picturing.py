"""The card after each of its steps as pictures: what has landed by then, colours laid as the whole card wants them."""

from collections.abc import Collection, Iterable, Iterator, Mapping

from fair_thicket.ink.inking import to_levels
from fair_thicket.ink.painter import Look, Painter
from fair_thicket.ink.painting import Picture
from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import Work
from fair_thicket.model.pieces import Piece
from fair_thicket.model.units import MM_PER_INCH

LOOK = Look(shadows=True)


def picture_steps(
    work: Work, pictures: Mapping[str, bytes], landed: Iterable[Collection[str]], *, dpi: float, look: Look = LOOK
) -> Iterator[Picture]:
    """Picture a card with only some of its pieces, and the surfaces that those lie on, one set of ids after another.

    Parameters
    ----------
    landed : iterable of ids
        Mostly each with something more than the one before: then only that is laid.

    Returns
    -------
    iterator of (rows, columns, 3) uint8, sRGB

    Raises
    ------
    PictureError
        When a stamp's picture is missing or damaged.
    """
    px_per_mm = dpi / MM_PER_INCH
    width, height = work.card.panel
    painter = Painter(work, pictures, (round(height * px_per_mm), round(width * px_per_mm)), px_per_mm, look)
    bare = painter.canvas.copy()
    by_id = {piece.id: piece for piece in work.card.pieces}
    laid: list[Leaf] = []
    for keys in landed:
        seen = _with_surfaces(keys, by_id)
        wanted = [leaf for leaf in painter.leaves if leaf.piece.id in seen]
        if wanted[: len(laid)] != laid:  # something goes underneath: begun again
            painter.canvas, painter.ground, laid = bare.copy(), bare.copy(), []
        for leaf in wanted[len(laid) :]:
            painter.lay(leaf)
        laid = wanted
        yield to_levels(painter.canvas)


def _with_surfaces(keys: Collection[str], by_id: Mapping[str, Piece]) -> set[str]:
    """Return ids together with those of what they lie on, and on."""
    wanted = set(keys) & by_id.keys()
    for key in list(wanted):
        on = by_id[key].on
        while on in by_id and on not in wanted:
            wanted.add(on)
            on = by_id[on].on
    return wanted
