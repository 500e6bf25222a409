"""Forms of words beyond a stamp and a strip, as edits; all of them are common practice.

A shadow copy, words floating on vellum, inks from top to bottom, one line in two strips, several stamps on one base
line.

Glossary
--------
shadow copy
    The same word cut once more from another paper, 1 to 2 mm down and to the right under the first.
floating
    A word in front of vellum and blanks behind it, so that the vellum stands off and no glue is seen.
base line
    The line that letters without tails stand on.
"""

from collections.abc import Collection, Mapping, Sequence

import msgspec
import numpy as np
from numpy.typing import NDArray

from fair_thicket.edits.pieces import add_piece, clamp, free_id, place_pieces
from fair_thicket.ink.lettering import words_height
from fair_thicket.ink.prints import decode_picture
from fair_thicket.model.card import Card, Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import (
    Border,
    Colour,
    Cutout,
    Form,
    Impression,
    InkZone,
    Panel,
    Piece,
    Strip,
)
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.paper import local_area

LEAST_OFF_MM, MOST_OFF_MM = 0.3, 5.0
VELLUM_ROOM_MM = 6.0
"""Vellum reaches so far past the words that float on it (our own guess)."""
BLANKS = 2
"""Blanks glued up behind vellum, and the word with one blank before it."""
MOST_INKS = 6
STRAIGHT_DEG = 0.05


def add_shadow(work: Work, key: str, colour: Colour, *, off_mm: tuple[float, float] = (1.5, 1.5)) -> tuple[Work, str]:
    """Cut a word or shape once more from another paper and lay it under the first, down and to the right.

    Raises
    ------
    PaperError
        For what is no plain paper shape, or an offset outside 0.3 to 5 mm.
    """
    piece = work.card.find(key)
    if not _is_plain_shape(work, piece):
        raise PaperError("A shadow copy is cut of a word or shape that a die cuts, of a strip or a panel; choose one.")
    if not LEAST_OFF_MM <= float(np.hypot(*off_mm)) <= MOST_OFF_MM:
        raise PaperError(f"A shadow copy lies {LEAST_OFF_MM:g} to {MOST_OFF_MM:g} mm beside; 1 to 2 mm is usual.")
    new = free_id(work, f"{key}-shadow")
    fields: dict[str, object] = {
        "id": new,
        "name": f"shadow of the {name_pieces(work)[key]}"[:120],
        "x": clamp(piece.x + off_mm[0]),
        "y": clamp(piece.y + off_mm[1]),
        "colour": colour,
        "pattern": "",
        "layers": 1,
        "held": None,
        "copy_of": "",
        "flaps": (),
    }
    if isinstance(piece, Strip):
        fields |= {"words": "", "powder": False}
    return _behind(work, key, msgspec.structs.replace(piece, **fields)), new


def _is_plain_shape(work: Work, piece: Piece) -> bool:
    if isinstance(piece, Cutout):
        return work.stash.find(piece.stamp).kind.is_plain and piece.opening is None
    return isinstance(piece, Strip | Panel | Border)


def float_on_vellum(work: Work, key: str, *, vellum: Colour = "#eef1ee") -> tuple[Work, tuple[str, str]]:
    """Let a die-cut word float on vellum: the word and a blank before it, two blanks behind it, glue under them only.

    Returns
    -------
    (Work, (str, str))
        The work, and the ids of the vellum and of the blanks behind it.

    Raises
    ------
    PaperError
        For what is no word or shape that a die cuts.
    """
    piece = work.card.find(key)
    if not isinstance(piece, Cutout) or not _is_plain_shape(work, piece):
        raise PaperError("Only a word or shape that a die cuts can float on vellum; cut it out first.")
    name = name_pieces(work)[key]
    left, top, right, bottom = local_area(piece, work.stash).bounds
    form = Form("rectangle", round(right - left + 2 * VELLUM_ROOM_MM, 2), round(bottom - top + 2 * VELLUM_ROOM_MM, 2))
    blanks = msgspec.structs.replace(
        piece, id=free_id(work, f"{key}-blanks"), name=f"blanks behind the {name}"[:120], layers=BLANKS, lift_mm=0.0,
        colour=None, pattern="", held=None, copy_of="",
    )  # fmt: skip
    panel = Panel(
        free_id(work, "vellum"), form, piece.x, piece.y, piece.angle_deg, name="vellum", on=piece.on, colour=vellum,
        translucent=True,
    )  # fmt: skip
    front = msgspec.structs.replace(piece, layers=BLANKS, lift_mm=0.0)
    work = _behind(_behind(work, key, blanks), key, panel)
    return msgspec.structs.replace(work, card=place_pieces(work.card, (front,))), (panel.id, blanks.id)


def ink_down(work: Work, key: str, inks: Sequence[Colour]) -> Work:
    """Ink a stamp in two to six inks from its top to its foot: the whole in the first, then band by band wiped, inked.

    Raises
    ------
    PaperError
        When it is not stamped, or for fewer than two inks or more than six.
    """
    piece = work.card.find(key)
    if not isinstance(piece, Impression):
        raise PaperError(f"The {name_pieces(work)[key]} is not stamped here: there is no stamp to ink.")
    if not 2 <= len(inks) <= MOST_INKS:
        raise PaperError(f"Take two to {MOST_INKS} inks from top to bottom.")
    stamp = work.stash.find(piece.stamp)
    half, high = stamp.width_mm / 2 + 1, stamp.height_mm / len(inks)
    zones = []
    for number, ink in enumerate(inks[1:], 1):
        top = -stamp.height_mm / 2 + number * high
        low = top + high + (1.0 if number == len(inks) - 1 else 0.0)
        zones.append(InkZone(((-half, top), (half, top), (half, low), (-half, low)), ink))
    made = msgspec.structs.replace(piece, ink=inks[0], zones=tuple(zones), inked=None, is_taped=False)
    return msgspec.structs.replace(work, card=place_pieces(work.card, (made,)))


def cut_in_two(work: Work, key: str, at_mm: float) -> tuple[Work, str]:
    """Cut a stamped line of words that is cut out into two strips, at a place from its left end; both are one print.

    The second lies below the first.

    Raises
    ------
    PaperError
        When it is no cut image, or the place is not within it.
    """
    piece = work.card.find(key)
    if not isinstance(piece, Cutout) or work.stash.find(piece.stamp).kind.is_plain:
        raise PaperError("Only a stamped line that is cut out can be cut in two; cut it out first.")
    left, top, right, bottom = local_area(piece, work.stash).bounds
    cut = left + at_mm
    if not left + 1 <= cut <= right - 1:
        raise PaperError(f"Cut it between 1 and {right - left - 1:.0f} mm from its left end.")
    before, after = (
        ((left - 1, top - 1), (cut, top - 1), (cut, bottom + 1), (left - 1, bottom + 1)),
        ((cut, top - 1), (right + 1, top - 1), (right + 1, bottom + 1), (cut, bottom + 1)),
    )
    name = name_pieces(work)[key]
    new = free_id(work, key)
    first = msgspec.structs.replace(piece, name=f"{name}, begun"[:120], cut_away=(*piece.cut_away, after))
    second = msgspec.structs.replace(
        piece, id=new, name=f"{name}, ended"[:120], cut_away=(*piece.cut_away, before), print_of=key,
        x=clamp(piece.x - at_mm + (cut - left) / 2), y=clamp(piece.y + (bottom - top) * 1.3), copy_of="", held=None,
    )  # fmt: skip
    work = msgspec.structs.replace(work, card=place_pieces(work.card, (first,)))
    return add_piece(work, second), new


def align_words(work: Work, keys: Collection[str], pictures: Mapping[str, bytes]) -> Work:
    """Bring several stamps or strips of words onto the base line of the leftmost.

    Raises
    ------
    PaperError
        For fewer than two, for what bears no words, or what is not straight.
    """
    pieces = [one for one in work.card.pieces if one.id in keys]
    names = name_pieces(work)
    if len(pieces) < 2:
        raise PaperError("Choose two or more pieces with words to bring onto one base line.")
    for piece in pieces:
        if not isinstance(piece, Impression | Cutout | Strip):
            raise PaperError(f"The {names[piece.id]} bears no words.")
        if abs((piece.angle_deg + 180) % 360 - 180) > STRAIGHT_DEG:
            raise PaperError(f"The {names[piece.id]} is tilted; straighten it first.")
    places = {piece.id: piece.y + base_line_of(work, piece, pictures) for piece in pieces}
    line = places[min(pieces, key=lambda one: one.x).id]
    moved = [msgspec.structs.replace(one, y=clamp(one.y + line - places[one.id])) for one in pieces]
    card: Card = place_pieces(work.card, moved)
    return msgspec.structs.replace(work, card=card)


def base_line_of(work: Work, piece: Piece, pictures: Mapping[str, bytes]) -> float:
    """Height of the base line of a piece's words below its middle, mm."""
    if isinstance(piece, Strip):
        return words_height(piece.words, piece.words_mm) / 2
    if isinstance(piece, Impression | Cutout):
        stamp = work.stash.find(piece.stamp)
        return find_base_line(decode_picture(pictures.get(stamp.picture, b"")), stamp)
    return 0.0


def find_base_line(passing: NDArray[np.float32], stamp: Stamp) -> float:
    """Find the base line in a picture of words, mm below its middle: where rows of ink thin out most sharply.

    Parameters
    ----------
    passing : (rows, columns) float32
        1 where there is no ink.

    Notes
    -----
    Most letters end on it; tails, commas and the letters' round feet reach below by little. The fall of ink from one
    band of rows to the next, each a fortieth of the height, is greatest there; only the lower half is looked at.
    """
    rows = (1 - passing).sum(axis=1)
    if not rows.size or rows.max() <= 0:
        return stamp.height_mm / 2
    band = max(1, len(rows) // 40)
    smooth = np.convolve(rows, np.ones(band) / band, mode="same")
    padded = np.concatenate([smooth, np.zeros(band)])
    fall = padded[:-band] - padded[band:]
    start = len(rows) // 2
    row = start + int(np.argmax(fall[start:])) + band / 2
    return float((row / len(rows) - 0.5) * stamp.height_mm)


def _behind(work: Work, key: str, piece: Piece) -> Work:
    """Put a piece right behind another, on its surface."""
    known = [one.id for one in work.card.pieces]
    after = add_piece(work, piece)
    order = [one for one in after.card.pieces if one.id not in known]
    pieces = list(work.card.pieces)
    pieces[known.index(key) : known.index(key)] = order
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=tuple(pieces)))
