"""Rings of nested dies, and what falls out of a die's openings."""

import msgspec
import shapely

from fair_thicket.edits.adding import LEAST_BAR_MM, OPEN_KINDS, Added, add_panel
from fair_thicket.edits.pieces import add_piece, clamp, free_id
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Colour, Cutout, Form, Window
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.paper import footprint


def openings_of(work: Work, key: str) -> list[tuple[int, tuple[float, float]]]:
    """List the openings of a die cut: the number of each, and its width and height, mm; none where it has none."""
    piece = work.card.find(key)
    if not isinstance(piece, Cutout) or piece.opening is not None or not work.stash.find(piece.stamp).kind.is_plain:
        return []
    found = []
    for number, ring in enumerate(work.stash.find(piece.stamp).pockets):
        left, top, right, bottom = to_area(ring).bounds
        found.append((number, (right - left, bottom - top)))
    return found


def add_opening(
    work: Work, key: str, number: int, *, at: tuple[float, float] | None = None, colour: Colour | None = None
) -> Added:
    """Lay down the piece that fell out of an opening of a die cut.

    Parameters
    ----------
    number : int
        Of the opening, from 0.
    at : (x, y), mm, or None
        Its own middle; None drops it into its opening, flush, as an inlay of another paper.

    Raises
    ------
    PaperError
        When there is no such opening.
    """
    if number not in {one for one, _ in openings_of(work, key)}:
        raise PaperError("There is no such opening in it; choose a die cut that has one.")
    frame = work.card.find(key)
    new = free_id(work, f"{frame.id}-inlay")
    piece = Cutout(
        new, getattr(frame, "stamp", ""), frame.x, frame.y, frame.angle_deg, opening=number, colour=colour, on=frame.on,
        flipped=getattr(frame, "flipped", False),
    )  # fmt: skip
    if at is not None:  # its place is the die's middle: bring its own middle to the place
        left, top, right, bottom = footprint(piece, work.stash).bounds
        by = (at[0] - (left + right) / 2, at[1] - (top + bottom) / 2)
        piece = msgspec.structs.replace(piece, x=clamp(piece.x + by[0]), y=clamp(piece.y + by[1]))
    return add_piece(work, piece), new


def add_ring(work: Work, outer_mm: float, inner_mm: float, *, at: tuple[float, float] | None = None) -> Added:
    """Put a ring cut with two nested round dies on the card; its width is half the difference of the two.

    Raises
    ------
    PaperError
        When the inner die is not smaller.
    """
    if not 0 < inner_mm < outer_mm:
        raise PaperError(
            f"A ring needs an inner die smaller than the outer one; {inner_mm:g} mm is not below {outer_mm:g}."
        )
    window = Window(Form("ellipse", inner_mm, inner_mm))
    return add_panel(work, Form("ellipse", outer_mm, outer_mm), at=at, windows=(window,))


def add_ring_of(
    work: Work, outer: str, inner: str, *, at: tuple[float, float] | None = None, colour: Colour | None = None
) -> Added:
    """Put a ring cut with two nested dies of any shape on the card: the outer one's shape without the inner one's.

    Raises
    ------
    PaperError
        When either is no die, or the inner one does not lie within the outer one with paper left all round.
    """
    first, second = work.stash.find(outer), work.stash.find(inner)
    if first.kind not in OPEN_KINDS or second.kind not in OPEN_KINDS:
        raise PaperError("A ring is cut with two dies, one within the other; choose two dies.")
    hole = to_area(second.outline)
    room = shapely.buffer(to_area(first.outline), -LEAST_BAR_MM)
    if not shapely.contains(room, hole):
        raise PaperError(
            f"The {second.name} does not lie within the {first.name} with {LEAST_BAR_MM:g} mm of paper all round; take "
            "a smaller inner die."
        )
    x, y = at or (work.card.panel[0] / 2, work.card.panel[1] / 2)
    key = free_id(work, "ring")
    piece = Cutout(
        key,
        outer,
        clamp(x),
        clamp(y),
        margin_mm=0.0,
        colour=colour,
        name=f"{first.name} ring",
        cut_away=(second.outline,),
    )
    return add_piece(work, piece), key


def ring_width(outer_mm: float, inner_mm: float) -> float:
    """Width of a ring cut with two nested dies, mm: half the difference of the two (common practice)."""
    return (outer_mm - inner_mm) / 2
