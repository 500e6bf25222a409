"""Hills drawn freehand: a few points, joined smoothly, become an edge that is cut along a printed guide."""

import hashlib
from collections.abc import Sequence

import msgspec
import numpy as np
from numpy.typing import NDArray

from fair_thicket.backdrop.reaching import sheet_under
from fair_thicket.model.basics import Point, Ring
from fair_thicket.model.card import Work, free_id, order_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import CARD_EDGE, Border, Colour
from fair_thicket.model.stash import DRAWN_TAG, Kind, Stamp, Stash, new_key
from fair_thicket.shape.die_picture import picture_die

STEP_MM = 1.0
LEAST_APART_MM, LEAST_HIGH_MM = 2.0, 1.0
MOST_POINTS = 24


def smooth_line(points: Sequence[Point], left_mm: float, right_mm: float) -> NDArray[np.float64]:
    """Join points smoothly from left to right.

    Parameters
    ----------
    points : sequence of (x, y), mm, y down
        At least two, in any order.
    left_mm, right_mm : float
        Where the line begins and ends; beyond the outer points it stays level.

    Returns
    -------
    (n, 2) float, mm

    Raises
    ------
    PaperError
        When there are fewer than two points, too many, or two stand one above the other.

    Notes
    -----
    Piecewise cubic, monotone between points (Fritsch and Carlson, SIAM Journal on Numerical Analysis 17, 1980; SciPy's
    pchip): a crest is where a point is, and nowhere does the line swing beyond the points.
    """
    from scipy.interpolate import PchipInterpolator  # a second to load

    if len(points) < 2:
        raise PaperError("A hill takes two points at least; click where its edge is to pass.")
    if len(points) > MOST_POINTS:
        raise PaperError(f"A hill takes {MOST_POINTS} points at the most; take some away.")
    ordered = sorted(points)
    xs, ys = np.array([x for x, _ in ordered]), np.array([y for _, y in ordered])
    if np.diff(xs).min() < LEAST_APART_MM:
        raise PaperError("Two points stand nearly one above the other; draw them apart, or take one away.")
    # level points at both edges, so that the line runs out level without a corner
    if xs[0] > left_mm + LEAST_APART_MM:
        xs, ys = np.concatenate([[left_mm], xs]), np.concatenate([[ys[0]], ys])
    if xs[-1] < right_mm - LEAST_APART_MM:
        xs, ys = np.concatenate([xs, [right_mm]]), np.concatenate([ys, [ys[-1]]])
    line = PchipInterpolator(xs, ys)
    along = np.linspace(left_mm, right_mm, max(2, round((right_mm - left_mm) / STEP_MM) + 1))
    return np.stack([along, line(np.clip(along, xs[0], xs[-1]))], axis=1)


def hill_outline(work: Work, points: Sequence[Point], *, on: str = "") -> tuple[Ring, Point, Point]:
    """Return the outline of a hill about its middle, its middle on the panel, and its width and height, mm.

    Raises
    ------
    PaperError
        When the points make no hill, or it leaves the sheet.
    """
    left, top, right, bottom = sheet_under(work, Border("hill", "hill", 10.0, 0.0, 0.0, on=on)).bounds
    line = smooth_line(points, left, right)
    crest = float(line[:, 1].min())
    if crest < top or line[:, 1].max() > bottom - LEAST_HIGH_MM:
        raise PaperError("The hill leaves its sheet; keep its points between the sheet's head and foot.")
    middle = ((left + right) / 2, (crest + bottom) / 2)
    ring: Ring = tuple(
        (round(float(x - middle[0]), 3), round(float(y - middle[1]), 3))
        for x, y in [*line.tolist(), (right, bottom), (left, bottom)]
    )
    return ring, middle, (round(right - left, 3), round(bottom - crest, 3))


def draw_hill(
    work: Work, points: Sequence[Point], colour: Colour, *, on: str = "", name: str = "drawn hill"
) -> tuple[Work, str, dict[str, bytes]]:
    """Put a hill drawn by points on a sheet, from its left edge to its right edge and down to its foot.

    Parameters
    ----------
    points : sequence of (x, y)
        Where its edge passes, mm on the panel.

    Returns
    -------
    (Work, str, dict)
        The work with the edge in its stash and on the card; the new piece's id; the edge's picture by name.

    Raises
    ------
    PaperError
        When the points make no hill, or it leaves the sheet.
    """
    ring, middle, (width, height) = hill_outline(work, points, on=on)
    key = new_key(name, {one.id for one in work.stash.stamps})
    stamp = Stamp(key, name, width, height, ring, "images/hill.png", kind=Kind.BORDER, tags=(DRAWN_TAG,), may_flip=True)
    picture = picture_die(stamp, [ring])
    stamp = msgspec.structs.replace(stamp, picture=f"images/{key}-{hashlib.sha256(picture).hexdigest()[:10]}.png")
    piece_key = free_id(work.card, key)
    piece = Border(
        piece_key, key, width, round(middle[0], 3), round(middle[1], 3), on=on, colour=colour, trim_to=on or CARD_EDGE
    )
    pieces = order_pieces((*work.card.pieces, piece))
    made = Work(msgspec.structs.replace(work.card, pieces=pieces), Stash((*work.stash.stamps, stamp)))
    return made, piece_key, {stamp.picture: picture}
