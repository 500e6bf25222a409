"""What scissors cut: the body that an image's lines hold, and the pockets in it that stay open.

Glossary
--------
whole
    Ink and all that it closes in by itself.
held
    Paper beyond the whole that belongs to the body all the same: a back drawn in three strokes holds the back.
pocket
    Paper within the body that is none of it: between two legs, in a handle, in the middle of a wreath.
doubt
    Share of the body that might as well be ground, or of the ground that might be body.

Notes
-----
How likely a place is held is `closure`'s to say, roughly; where the body ends is decided on triangles between points
of the ink's own edge (Delaunay), so that an outline runs along ink, and straight from ink to ink across a gap.
"""

import math
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import breadth_first_order, maximum_flow
from scipy.spatial import Delaunay, QhullError

from fair_thicket.intake.closure import LINE, SHARES, levels_of, read_closure
from fair_thicket.intake.shaping import AS_FOUND, LIKELY, Shaping

Dots = NDArray[np.uint8]
Floats = NDArray[np.float32]
LEAST_POCKET_MM2 = 4.0
POCKET_LIKELY = 0.35
"""What ink closes in is body, unless it is plainly less likely than this."""
LEAST_HELD_MM2 = 0.3
STEP_MM = 0.45
"""Distance of the points along an edge between which triangles are laid."""
UNSURE = (0.4, 0.95)
"""Paper as likely as this might as well be taken the other way: it lies in four of five outlines that are wrong."""
LEAST_BARE = 0.3
"""Of the lines about held paper at least this share holds nothing else."""
MOST_OPEN, MOST_OPEN_SURE = 0.3, 0.7
"""No more of its edge than this is bare paper; the second where it is held as surely as `SURE`: hairlines break up."""
SURE = 0.85
LEAST_ROOM_MM2 = 1.0
"""What lines close in and is smaller is a detail of theirs."""
PAPER_SHARE = 0.3
"""Triangles with less bare paper than this lie on lines."""
GATE = 8.0
"""What a millimetre of line through bare paper costs: so many square millimetres at odds of e to one."""
COST_STEPS = 1000
JOINED_MM = 0.2
"""How wide what closes a gap by hand is drawn."""


class Silhouette(NamedTuple):
    """The body of an image, on the dots that it was asked for.

    Attributes
    ----------
    body : (rows, columns) uint8
        1 for ink and the paper that belongs to it, loose parts apart from each other.
    doubt : float
        None is left where a maker has said how the outline runs.
    """

    body: Dots
    doubt: float


def find_silhouette(ink: Floats, lines: Dots, px_per_mm: float, shaping: Shaping = AS_FOUND) -> Silhouette:
    """Find the body of an image.

    Parameters
    ----------
    ink : (rows, columns) float32, 0..1
        How much ink there is.
    lines : (n * rows, n * columns) uint8
        1 where ink counts as line, on dots as fine or finer; the body is told on the same.
    px_per_mm : float
        Of `ink`.
    shaping : Shaping
        Its places are mm from the picture's top left corner.
    """
    if float(ink.max()) < LINE:
        return Silhouette(fill(lines), 0.0)
    finer = lines.shape[0] // ink.shape[0]
    likelihood = read_closure(ink)
    drawn, lines = lines, _joined(lines, shaping, px_per_mm * finer)
    whole = fill(lines)
    coarse = cv2.resize(whole, ink.shape[::-1], interpolation=cv2.INTER_AREA)
    if drawn is not lines:  # what a maker closes is body
        likelihood[(coarse > 0) & (cv2.resize(fill(drawn), ink.shape[::-1], interpolation=cv2.INTER_AREA) == 0)] = 1
    thin = lines if finer == 1 else cv2.resize(lines, ink.shape[::-1], interpolation=cv2.INTER_AREA)
    held, unsure = _held(thin, coarse, likelihood, px_per_mm, shaping.likely)
    body = whole | _finer(held, finer) if held.any() else whole.copy()
    unsure += _open_pockets(body, whole, lines, likelihood, px_per_mm, shaping.likely)
    for place in shaping.turned:
        turn_area(body, lines, (place[0] * px_per_mm * finer, place[1] * px_per_mm * finer), finer)
    doubt = unsure / max(float(body.sum()) / finer**2, 1.0)
    return Silhouette(body, doubt if shaping == AS_FOUND else 0.0)


def _joined(lines: Dots, shaping: Shaping, px_per_mm: float) -> Dots:
    """Return lines with the gaps closed that a maker closed; what closes nothing is left out."""
    for pair in shaping.joined:
        start, end = (tuple(round(value * px_per_mm) for value in place) for place in pair)
        bar = cv2.line(np.zeros_like(lines), start, end, 1, max(1, round(JOINED_MM * px_per_mm)))
        joined = lines | bar
        if int((fill(joined) & ~fill(lines) & ~bar & 1).sum()) > LEAST_HELD_MM2 * px_per_mm**2:
            lines = joined
    return lines


def turn_area(body: Dots, lines: Dots, place: tuple[float, float], finer: int = 1) -> bool:
    """Turn the area round a place (x, y, pixels) from body to ground or back, in place; says whether there is one.

    What is body goes as far as lines and the body's edge; what is ground becomes body as far as the lines go that
    close round it first.
    """
    column, row = round(place[0]), round(place[1])
    if not (0 <= row < body.shape[0] and 0 <= column < body.shape[1]) or lines[row, column]:
        return False
    if body[row, column]:
        body[_area_round((body > 0) & (lines == 0), (column, row))] = 0
        return True
    size = (body.shape[1] // finer, body.shape[0] // finer)
    coarse = cv2.resize(lines, size, interpolation=cv2.INTER_AREA)
    long_px = float(max(size))
    room = round(max(SHARES) * long_px) + 2
    level = levels_of(cv2.copyMakeBorder(coarse, room, room, room, room, cv2.BORDER_CONSTANT, value=0), long_px)
    level = level[room:-room, room:-room]
    at = (column // finer, row // finer)
    if not level[at[::-1]]:
        return False
    area = _area_round((level >= level[at[::-1]]) & (coarse == 0), at)
    body[(_finer(area.astype(np.uint8), finer) > 0) & ((lines > 0) | (body == 0))] = 1
    return True


def _area_round(paper: NDArray[np.bool_], at: tuple[int, int]) -> NDArray[np.bool_]:
    """Return what hangs together with a place (column, row)."""
    labels = cv2.connectedComponents(paper.astype(np.uint8), connectivity=4)[1]
    return np.asarray(labels == labels[at[1], at[0]], bool)


def fill(lines: Dots) -> Dots:
    """Return ink with all that it closes in."""
    contours, _ = cv2.findContours(lines, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return np.asarray(cv2.drawContours(np.zeros_like(lines), contours, -1, 1, cv2.FILLED), np.uint8)


def _finer(held: Dots, finer: int) -> Dots:
    """Return held paper on finer dots, reaching into the ink beside it so that no crack is left."""
    grown = cv2.dilate(held, np.ones((3, 3), np.uint8))
    if finer == 1:
        return np.asarray(grown, np.uint8)
    size = (held.shape[1] * finer, held.shape[0] * finer)
    soft = cv2.resize(grown.astype(np.float32), size, interpolation=cv2.INTER_LINEAR)
    return np.asarray(soft >= 0.5, np.uint8)


def _held(lines: Dots, whole: Dots, likelihood: Floats, px_per_mm: float, likely: float) -> tuple[Dots, float]:
    """Return the held paper beside the whole, and how many pixels of it might as well be ground."""
    corners = _corners(whole, px_per_mm)
    held = np.zeros_like(whole)
    if len(corners) < 4:
        return held, 0.0
    try:
        mesh = Delaunay(corners)
    except QhullError:  # all on one line, which holds nothing
        return held, 0.0
    cells = np.zeros(whole.shape, np.int32)
    for number, ends in enumerate(mesh.simplices, 1):
        cv2.fillConvexPoly(cells, corners[ends].astype(np.int32), number)
    dots = np.bincount(cells.ravel(), minlength=len(mesh.simplices) + 1)[1:]
    cells[whole > 0] = 0
    count = np.bincount(cells.ravel(), minlength=len(dots) + 1)[1:]
    total = np.bincount(cells.ravel(), weights=likelihood.ravel(), minlength=len(dots) + 1)[1:]
    mean = total / np.maximum(count, 1)
    is_paper = count > PAPER_SHARE * dots
    is_body = np.zeros(len(dots) + 1, bool)
    is_body[1:][is_paper] = _best_cut(mesh, is_paper, count, mean, likely, px_per_mm)
    held[is_body[cells]] = 1
    # the dots along triangles' own sides go with what lies about them
    held = cv2.morphologyEx(held, cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)) & (whole == 0)
    kept = _that_lines_hold(held, lines, whole, likelihood, px_per_mm, likely)
    is_unsure = np.zeros(len(dots) + 1, bool)
    is_unsure[1:] = is_paper & (mean > UNSURE[0]) & (mean < UNSURE[1])
    unsure = is_unsure[cells] & (kept == held)  # what no line needs is in no doubt
    return np.asarray(kept, np.uint8), float(unsure.sum())


def _that_lines_hold(held: Dots, lines: Dots, whole: Dots, likelihood: Floats, px_per_mm: float, likely: float) -> Dots:
    """Leave out held paper that is too small, too open, or that no line needs: lines have a body on one side only.

    What lies between the leaves of a fern is bounded by lines that hold the leaves already; a back drawn in three
    strokes is bounded by lines that hold nothing else. A maker who asks for a looser line than is found gets it.
    """
    count, labels, stats, _ = cv2.connectedComponentsWithStats(held, connectivity=4)
    if count < 2:
        return held
    closed_in = ((whole > 0) & (lines == 0)).astype(np.uint8)
    _, rooms, sizes, _ = cv2.connectedComponentsWithStats(closed_in, connectivity=4)
    closed_in[sizes[rooms, cv2.CC_STAT_AREA] < LEAST_ROOM_MM2 * px_per_mm**2] = 0
    half = cv2.distanceTransform(lines, cv2.DIST_L2, cv2.DIST_MASK_3)[lines > 0]
    across = 4 * float(np.median(half)) + 2 if len(half) else 0.0
    holds_already = cv2.distanceTransform(1 - closed_in, cv2.DIST_L2, cv2.DIST_MASK_3) <= across
    kept = held.copy()
    for number in range(1, count):
        left, top, wide, high, area = (int(value) for value in stats[number])
        window = (slice(max(0, top - 2), top + high + 2), slice(max(0, left - 2), left + wide + 2))
        own = (labels[window] == number).astype(np.uint8)
        edge = (cv2.dilate(own, np.ones((5, 5), np.uint8)) > 0) & (own == 0)
        inked = edge & (lines[window] > 0)
        bare_lines = 1 - float(holds_already[window][inked].mean()) if inked.any() else 0.0
        open_share = 1 - float(inked.sum()) / max(1, int(edge.sum()))
        mean = float(likelihood[window][own > 0].mean())
        most_open = MOST_OPEN_SURE if mean >= SURE else MOST_OPEN
        is_needed = mean >= likely and bare_lines >= LEAST_BARE and open_share <= most_open
        if area < LEAST_HELD_MM2 * px_per_mm**2 or not (is_needed or likely < LIKELY):
            kept[window][own > 0] = 0
    return kept


def _best_cut(
    mesh: Delaunay,
    is_paper: NDArray[np.bool_],
    count: NDArray[np.int64],
    mean: NDArray[np.float64],
    likely: float,
    px_per_mm: float,
) -> NDArray[np.bool_]:
    """Return which triangles of paper are body: as likely as can be, with as short a line through bare paper as can be.

    The least cut of a network between body and ground (Greig, Porteous and Seheult 1989): a triangle costs its dots
    times its log odds on the side it does not belong to, a side between two triangles its length.
    """
    numbers = np.cumsum(is_paper) - 1
    size = int(is_paper.sum())
    if not size:
        return np.zeros(0, bool)
    body, ground = size, size + 1
    sure = np.clip(mean[is_paper], 0.02, 0.98)
    odds = (np.log(sure / (1 - sure)) - math.log(likely / (1 - likely))) * count[is_paper] / px_per_mm**2
    own, side = np.nonzero(np.repeat(is_paper[:, None], 3, axis=1))
    first, second = (mesh.points[mesh.simplices[own, (side + step) % 3]] for step in (1, 2))
    length = np.hypot(*(first - second).T) / px_per_mm * GATE
    beside = mesh.neighbors[own, side]
    to_paper = (beside >= 0) & is_paper[np.maximum(beside, 0)]
    rows = [numbers[own[to_paper]], np.flatnonzero(odds < 0), np.full(int((odds > 0).sum()), body)]
    columns = [numbers[beside[to_paper]], np.full(int((odds < 0).sum()), ground), np.flatnonzero(odds > 0)]
    costs = [length[to_paper], -odds[odds < 0], odds[odds > 0]]
    outside = beside < 0  # the hull's own sides: beyond them is ground
    rows.append(numbers[own[outside]])
    columns.append(np.full(int(outside.sum()), ground))
    costs.append(length[outside])
    whole = coo_array(
        (np.rint(np.concatenate(costs) * COST_STEPS).astype(np.int32), (np.concatenate(rows), np.concatenate(columns))),
        shape=(size + 2, size + 2),
    ).tocsr()
    flow = maximum_flow(whole, body, ground).flow
    left = (whole - flow).tocsr()
    left.data = np.maximum(left.data, 0)
    left.eliminate_zeros()
    reached = breadth_first_order(left, body, return_predecessors=False)
    found = np.zeros(size + 2, bool)
    found[reached] = True
    return found[:size]


def _corners(whole: Dots, px_per_mm: float) -> NDArray[np.float64]:
    """Return points along the edges of the whole: its corners, and some between them, pixels."""
    contours, _ = cv2.findContours(whole, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    step = max(2, round(STEP_MM * px_per_mm))
    points = [part[:, 0] for line in contours for part in (line[::step], cv2.approxPolyDP(line, 0.8, True))]
    return np.unique(np.concatenate(points), axis=0).astype(np.float64) if points else np.zeros((0, 2))


def _open_pockets(body: Dots, whole: Dots, lines: Dots, likelihood: Floats, px_per_mm: float, likely: float) -> float:
    """Cut pockets out of a body, in place, and close other holes in it; returns how many pixels are in doubt."""
    finer = lines.shape[0] // likelihood.shape[0]
    unsure = 0.0
    filled = fill(body)
    within = cv2.bitwise_or(cv2.subtract(whole, lines), cv2.subtract(filled, body))
    _, labels, stats, _ = cv2.connectedComponentsWithStats(within, connectivity=4)
    body[:] = filled
    least = LEAST_POCKET_MM2 * (px_per_mm * finer) ** 2
    for number in (1 + np.flatnonzero(stats[1:, cv2.CC_STAT_AREA] >= least)).tolist():
        left, top, wide, high, area = (int(value) for value in stats[number])
        window = (slice(top, top + high), slice(left, left + wide))
        own = labels[window] == number
        mean = _mean_within(own, likelihood, (left, top), finer)
        is_new = not bool(whole[window][own].any())
        if mean < (likely if is_new else POCKET_LIKELY * likely / LIKELY):
            body[window][own] = 0
        if UNSURE[0] < mean < UNSURE[1]:
            unsure += area / finer**2
    return unsure


def _mean_within(own: NDArray[np.bool_], likelihood: Floats, corner: tuple[int, int], finer: int) -> float:
    """Return the mean likelihood of some finer dots."""
    rows, columns = np.nonzero(own)
    return float(likelihood[(rows + corner[1]) // finer, (columns + corner[0]) // finer].mean())
