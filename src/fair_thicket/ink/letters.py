"""Words letter by letter: which are there to be read, and how well each stands out, on a picture of the card.

Glossary
--------
letter
    What is joined of ink, together with what stands above or below it: the dot of an i, an accent.
"""

from collections.abc import Mapping
from typing import NamedTuple

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.contrast import contrast, to_colour
from fair_thicket.ink.inking import Paper
from fair_thicket.ink.lettering import draw_words
from fair_thicket.ink.prints import Place, decode_picture, print_picture
from fair_thicket.model.pieces import Cutout, Impression, Piece, Strip
from fair_thicket.model.stash import Kind, Stash
from fair_thicket.shape.paper import local_area

Floats = NDArray[np.float32]
Bool = NDArray[np.bool_]
INKED = 0.5
"""Where less than this share of bare paper is left a letter is inked."""
LEAST_PX = 6
TOGETHER, NEAR = 0.5, 0.4
"""What shares so much of the narrower one's width, and lies no farther above or below than so much of the higher one's
height, belongs to one letter: a dot lies nearer to its stem than lines of words lie to each other."""
FAR_MM = 0.9
"""The ground of a letter is what lies so near it."""
WORDS_PX_PER_MM = 24.0


class Letter(NamedTuple):
    """One letter on a picture.

    Attributes
    ----------
    contrast : float
        Of its ink against its ground, both as seen (WCAG 2.1); 1 where nothing of it is seen.
    there : float
        Share of its ink that lies on the picture.
    window : (slice, slice)
        Rows and columns of the picture.
    """

    contrast: float
    there: float
    window: tuple[slice, slice]


def measure_letters(
    piece: Piece, stash: Stash, pictures: Mapping[str, bytes], picture: Paper, px_per_mm: float
) -> list[Letter]:
    """Measure every letter of a piece's words on a picture of the card, (rows, columns, 3) uint8.

    Raises
    ------
    PictureError
        When a stamp's picture is missing or damaged.
    """
    drawn = _drawn(piece, stash, pictures)
    if drawn is None:
        return []
    passing, size, place = drawn
    letters = part_letters(passing)
    if not isinstance(piece, Strip):  # of a strip every letter is wanted, also one that its paper is too short for
        wanted = local_area(piece, stash)
        letters = [one for one in letters if shapely.covers(wanted, _middle(one, size))]
    measured = (_measure(one, passing, size, place, picture, px_per_mm) for one in letters)
    return [one for one in measured if one is not None]


def _middle(letter: Bool, size: tuple[float, float]) -> shapely.Point:
    """Return the middle of a letter from the middle of its words, mm: what is cut away or not inked is not wanted."""
    rows, columns = np.nonzero(letter)
    x, y = (columns.mean() + 0.5) / letter.shape[1] - 0.5, (rows.mean() + 0.5) / letter.shape[0] - 0.5
    return shapely.Point(x * size[0], y * size[1])


def _drawn(
    piece: Piece, stash: Stash, pictures: Mapping[str, bytes]
) -> tuple[Floats, tuple[float, float], Place] | None:
    """Return a piece's words as drawn, their size, mm, and their place."""
    if isinstance(piece, Strip) and piece.words:
        passing = draw_words(piece.words, piece.words_mm, WORDS_PX_PER_MM)
        size = (passing.shape[1] / WORDS_PX_PER_MM, passing.shape[0] / WORDS_PX_PER_MM)
        return passing, size, (piece.x, piece.y, piece.angle_deg, False)
    if isinstance(piece, Impression | Cutout):
        stamp = stash.find(piece.stamp)
        if stamp.kind is not Kind.GREETING:  # a figure that words were cut out with
            return None
        passing = decode_picture(pictures.get(stamp.picture, b""))
        return passing, (stamp.width_mm, stamp.height_mm), (piece.x, piece.y, piece.angle_deg, False)
    return None


def part_letters(passing: Floats) -> list[Bool]:
    """Part a picture of words into letters: what is joined, and what stands above or below it, from the left."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats((passing < INKED).astype(np.uint8), connectivity=8)
    letters: list[tuple[_Box, list[int]]] = []
    for number in sorted(range(1, count), key=lambda one: int(stats[one, cv2.CC_STAT_LEFT])):
        left, top, wide, high, inked = (int(value) for value in stats[number])
        if inked < LEAST_PX:
            continue
        box = _Box(left, top, left + wide, top + high)
        for at, (other, numbers) in enumerate(letters):
            if _is_one_letter(box, other):
                letters[at] = (
                    _Box(*np.minimum(box[:2], other[:2]), *np.maximum(box[2:], other[2:])),
                    [*numbers, number],
                )
                break
        else:
            letters.append((box, [number]))
    return [np.isin(labels, numbers) for _, numbers in letters]


class _Box(NamedTuple):
    left: int
    top: int
    right: int
    low: int


def _is_one_letter(first: _Box, second: _Box) -> bool:
    shared = min(first.right, second.right) - max(first.left, second.left)
    apart = max(first.top, second.top) - min(first.low, second.low)
    is_above = shared > TOGETHER * min(first.right - first.left, second.right - second.left)
    return is_above and apart <= NEAR * max(first.low - first.top, second.low - second.top)


def _measure(
    letter: Bool, passing: Floats, size: tuple[float, float], place: Place, picture: Paper, px_per_mm: float
) -> Letter | None:
    """Measure a letter, given as a part of the drawn words."""
    own = np.where(letter, passing, np.float32(1.0))
    window = _window(letter, size, place, px_per_mm)
    printed = print_picture(own, size, place, window, px_per_mm)
    every = print_picture(passing, size, place, window, px_per_mm)
    core = printed < INKED
    if core.sum() < LEAST_PX:
        return None
    core &= printed <= np.percentile(printed[core], 60)  # the middle of its lines, not their soft edges
    reach = round(FAR_MM * px_per_mm)
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    near = cv2.dilate((printed < INKED).astype(np.uint8), kernel).astype(bool) & (every > 0.98)
    rows, columns = window
    height, width = picture.shape[:2]
    inner = (slice(max(0, rows.start), min(height, rows.stop)), slice(max(0, columns.start), min(width, columns.stop)))
    if inner[0].start >= inner[0].stop or inner[1].start >= inner[1].stop:
        return Letter(1.0, 0.0, (slice(0, 0), slice(0, 0)))
    cut = (
        slice(inner[0].start - rows.start, inner[0].stop - rows.start),
        slice(inner[1].start - columns.start, inner[1].stop - columns.start),
    )
    there = float(core[cut].sum() / core.sum())
    seen = picture[inner]
    ink, ground = seen[core[cut]], seen[near[cut]]
    if len(ink) < LEAST_PX or not len(ground):
        return Letter(1.0, there, inner)
    return Letter(contrast(_colour(ink), _colour(ground)), there, inner)


def _window(letter: Bool, size: tuple[float, float], place: Place, px_per_mm: float) -> tuple[slice, slice]:
    """Return a window of the panel round a letter; it may lie partly beside the panel."""
    rows, columns = np.flatnonzero(letter.any(axis=1)), np.flatnonzero(letter.any(axis=0))
    scale_x, scale_y = size[0] / letter.shape[1], size[1] / letter.shape[0]
    corners = np.array(
        [
            ((x * scale_x - size[0] / 2), (y * scale_y - size[1] / 2))
            for x in (columns[0], columns[-1] + 1)
            for y in (rows[0], rows[-1] + 1)
        ]
    )
    turn = np.radians(place[2])
    spin = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    there = corners @ spin + place[:2]
    low, high = np.floor((there.min(axis=0) - FAR_MM) * px_per_mm), np.ceil((there.max(axis=0) + FAR_MM) * px_per_mm)
    return slice(int(low[1]), int(high[1])), slice(int(low[0]), int(high[0]))


def _colour(pixels: NDArray[np.uint8]) -> str:
    """Return the middle colour of pixels, (n, 3) uint8."""
    red, green, blue = (np.median(pixels, axis=0) / 255).tolist()
    return to_colour((red, green, blue))
