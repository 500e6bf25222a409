"""What there is to make for a card, from its pieces: every impression to cut out, die cut, panel, strip, and the base.

Glossary
--------
thing
    What is made in one go, alike for all of its copies.
blank
    A further equal cut of a piece that is glued up of several.
"""

from collections.abc import Iterator, Sequence
from typing import Literal, NamedTuple

import msgspec
import shapely
from shapely.geometry.base import BaseGeometry

from fair_thicket.edits.colouring import is_hard
from fair_thicket.laid.cutting import Tool, gives_print, shares_print, tool_of
from fair_thicket.model.card import WHITE, Work, name_pieces
from fair_thicket.model.formats import blank_of
from fair_thicket.model.pieces import CARD_EDGE, Border, Colour, Cutout, Embellishment, Panel, PaperPiece, Piece, Strip
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.sides import sides_of
from fair_thicket.model.stash import Kind
from fair_thicket.model.units import say_length
from fair_thicket.shape.outline import Area, image_area, only_areas, to_area
from fair_thicket.shape.paper import local_area

What = Literal["image", "die cut", "border", "frame", "panel", "strip", "base", "blank", "mask"]
MASKING_PAPER: Colour = "#f0e4c0"
"""Low-tack paper is yellowish (common practice)."""
FOLDED_MM = 12.0
"""Paper that a folded end of a banner takes more."""


class Thing(NamedTuple):
    """A thing to make.

    Attributes
    ----------
    key : str
        The piece's id; with ``/blank`` for its blanks, and ``base`` for the card's base.
    name : str
    what : str
    tool : str
        What cuts it out.
    paper : colour
    pattern : str
        Key of its patterned paper; empty for plain.
    area : area
        Its outline about its own middle, mm, openings left open.
    copies : int
        For all cards.
    stamp : str
        What it is made with; empty for none.
    side : str
        ``front`` or ``inside``; empty for the base.
    pieces : tuple of str
        Ids of pieces that are made of it.
    falls_out : tuple of (float, float)
        Width and height of what falls out of it and may be of use, mm.
    note : str
    """

    key: str
    name: str
    what: What
    tool: Tool
    paper: Colour
    pattern: str
    area: Area
    copies: int
    stamp: str
    side: str
    pieces: tuple[str, ...]
    falls_out: tuple[tuple[float, float], ...] = ()
    note: str = ""

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height of the box round it."""
        left, top, right, bottom = self.area.bounds
        return float(right - left), float(bottom - top)

    @property
    def is_stamped(self) -> bool:
        """Whether it is stamped on a sheet before it is cut out."""
        return self.what == "image"

    @property
    def is_rectangle(self) -> bool:
        """Whether a trimmer makes it."""
        return self.tool == "trimmer"


LEAST_OF_USE_MM = 25.0
"""What falls out of an opening is of use from this size on (our own guess)."""


def list_things(work: Work) -> list[Thing]:
    """List all that is to be made for the cards of a work, both sides and the base, each thing once.

    The work is as files hold it: its `pieces` are the front's.
    """
    rules = work.card.sheets
    things = [_base(work)]
    for side, turned in sides_of(work):
        names = name_pieces(turned)
        for piece in turned.card.pieces:
            if isinstance(piece, PaperPiece) and not isinstance(piece, Embellishment):
                things += _things_of(piece, turned, side, names[piece.id])
    things += _dies_of_inlays(work)
    return [one._replace(copies=one.copies * rules.cards) for one in _alike(things)]


def _dies_of_inlays(work: Work) -> Iterator[Thing]:
    """Yield the die cuts that inlays fall out of, where the frame itself is not cut from their paper."""
    pieces = [piece for _, side in sides_of(work) for piece in side.card.pieces if isinstance(piece, Cutout)]
    frames = {(one.stamp, one.colour or WHITE) for one in pieces if one.opening is None}
    inlays: dict[tuple[str, Colour], list[Cutout]] = {}
    for one in pieces:
        if one.opening is not None and (one.stamp, one.colour or WHITE) not in frames:
            inlays.setdefault((one.stamp, one.colour or WHITE), []).append(one)
    for (key, colour), own in inlays.items():
        stamp = work.stash.find(key)
        numbers = [one.opening for one in own]
        many = max(numbers.count(number) for number in numbers)  # each cut gives one of every opening
        area = only_areas(to_area(stamp.outline, stamp.pockets))
        name, note = f"{stamp.name} for its inlays", "its openings are kept"
        pattern = own[0].pattern
        yield Thing(f"{own[0].id}/die", name, "die cut", "die", colour, pattern, area, many, key, "", (), note=note)


def list_masks(work: Work, plan: MaskPlan, side: str = "front") -> list[Thing]:
    """List the masks that a side's plan asks for: stamped on masking paper and cut by hand, one for each card."""
    names = name_pieces(work)
    unit = work.card.unit
    things = []
    for number, mask in enumerate(plan.masks, 1):
        stamp = work.stash.find(mask.stamp)
        served = " and ".join(names.get(key, key) for key in mask.serves)
        note = f"for {served}; {say_length(mask.careful_mm, unit)} with care"
        things.append(
            Thing(
                f"mask-{side}-{number}", f"mask of the {stamp.name}", "mask", "scissors", MASKING_PAPER, "",
                only_areas(image_area(stamp)), work.card.sheets.cards, stamp.id, side, (), note=note,
            )
        )  # fmt: skip
    return things


def spare_of(work: Work, thing: Thing) -> int:
    """How many more of a thing are stamped in case the first fails."""
    if not work.card.sheets.spares or not thing.is_stamped:
        return 0
    return int(is_hard(work.stash.find(thing.stamp)))


def _base(work: Work) -> Thing:
    front_width, front_height = work.card.panel
    uncut = front_height + work.card.assembly.shortened_mm  # trimmed when the front is finished
    width, height, score = blank_of((front_width, uncut), work.card.fold)
    note = f"scored at {say_length(score, work.card.unit)}"
    if work.card.assembly.shortened_mm:
        note += f"; trimmed to {say_length(front_height, work.card.unit)} when the front is finished"
    return Thing(
        "base", "card base", "base", "trimmer", work.card.paper, work.card.pattern, _box(width, height), 1, "", "", (),
        note=note,
    )  # fmt: skip


def _cut_from(piece: PaperPiece, work: Work) -> tuple[Area, list[str]]:
    """Return the area that is cut for a piece, about its middle, and what is to be said of it."""
    own: Piece = piece  # type: ignore[assignment]  # every piece of paper is a piece
    area, told = local_area(own, work.stash), list[str]()
    if isinstance(piece, Cutout) and gives_print(piece, work.card.pieces):
        area = local_area(msgspec.structs.replace(piece, cut_away=()), work.stash)
        told.append("cut in parts")
    if piece.trim_to:
        told.append(_trimmed(piece, work))
    if isinstance(piece, Strip) and not area.is_empty:
        folded = [side for side, end in (("left", piece.left), ("right", piece.right)) if end == "folded"]
        area = _box(piece.width_mm + FOLDED_MM * len(folded), piece.height_mm)
        if folded:
            told.append(f"fold {say_length(FOLDED_MM, work.card.unit)} back at its {' and its '.join(folded)} end")
    return area, told


def _things_of(piece: Piece, work: Work, side: str, name: str) -> Iterator[Thing]:
    """Yield what is made for one piece of paper: itself, and its blanks."""
    if not isinstance(piece, PaperPiece):
        return
    paper = piece.colour or WHITE
    if shares_print(piece, work.card.pieces):
        return
    made = _kind_of(piece, work)
    what, tool, stamp, own_note = made
    area, more = _cut_from(piece, work)
    if area.is_empty:
        return
    note = ", ".join(word for word in (own_note, *more) if word)
    falls = tuple(sorted(_falls_out(area), reverse=True))
    yield Thing(
        piece.id, name, what, tool, paper, piece.pattern, area, _count(piece), stamp, side, (piece.id,), falls, note
    )
    if piece.layers > 1:
        yield Thing(
            f"{piece.id}/blank",
            f"blanks of the {name}",
            "blank",
            tool,
            paper,
            "",
            area,
            piece.layers - 1,
            stamp,
            side,
            (piece.id,),
            note="glued up behind it",
        )


def _trimmed(piece: PaperPiece, work: Work) -> str:
    """Say where a piece is trimmed, and when: last, by what lies there."""
    if piece.trim_to == CARD_EDGE:
        return "trimmed at the card's edge from the back, last"
    names = name_pieces(work)
    return f"trimmed along the {names.get(piece.trim_to, 'piece that it lies on')}, last"


def _kind_of(piece: PaperPiece, work: Work) -> tuple[What, Tool, str, str]:
    """Tell what a piece is to be made as: what it is, which tool cuts it, with which stamp, and what to mind."""
    tool = tool_of(piece, work.stash)
    if isinstance(piece, Cutout):
        what, note = _kind_of_cutout(piece, work)
        return what, tool, piece.stamp, note
    if isinstance(piece, Border):
        cuts = max(1, len(piece.cuts))
        return "border", tool, piece.stamp, f"{cuts} cuts joined" if cuts > 1 else ""
    if isinstance(piece, Strip):
        return "strip", tool, "", "a letter or two of room at both ends" if piece.words else ""
    return "panel", tool, "", "windows cut with a die or a knife" if isinstance(piece, Panel) and piece.windows else ""


def _kind_of_cutout(piece: Cutout, work: Work) -> tuple[What, str]:
    stamp = work.stash.find(piece.stamp)
    if piece.opening is not None:
        return "die cut", "falls out of the die; cut nothing for it"
    if stamp.kind.is_plain:
        is_frame = stamp.kind is Kind.BACKDROP or bool(piece.across or piece.down)
        return "frame" if is_frame else "die cut", "a scrap a little larger than the die"
    return "image", f"{1 + len(piece.joined)} images as one" if piece.joined else ""


def _count(piece: PaperPiece) -> int:
    return 0 if isinstance(piece, Cutout) and piece.opening is not None else 1


def _falls_out(area: BaseGeometry) -> Iterator[tuple[float, float]]:
    for part in shapely.get_parts(area):
        for ring in getattr(part, "interiors", ()):
            left, top, right, bottom = ring.bounds
            size = (round(right - left, 1), round(bottom - top, 1))
            if min(size) >= LEAST_OF_USE_MM:
                yield size


def _alike(things: Sequence[Thing]) -> list[Thing]:
    """Take together what is made alike: the same outline of the same paper with the same tool."""
    found: dict[tuple[object, ...], Thing] = {}
    for one in things:
        key = (one.what, one.tool, one.stamp, one.paper, one.pattern, one.note, shapely.normalize(one.area).wkb)
        known = found.get(key)
        if known is None:
            found[key] = one
        else:
            found[key] = known._replace(copies=known.copies + one.copies, pieces=(*known.pieces, *one.pieces))
    return list(found.values())


def _box(width: float, height: float) -> Area:
    return only_areas(shapely.box(-width / 2, -height / 2, width / 2, height / 2))
