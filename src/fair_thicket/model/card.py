"""A card with its pieces, and the work: the card together with the stash it draws on."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Annotated, Literal

import msgspec

from fair_thicket.model.assembly import AssemblyRules
from fair_thicket.model.bounds import (
    LEAST_FRONT_MM,
    MOST_DISMISSED,
    MOST_FRONT_MM,
    MOST_PIECES,
    MOST_TRIES,
)
from fair_thicket.model.colouring import Light, ShadeOrder
from fair_thicket.model.formats import Fold, find_format
from fair_thicket.model.keys import flap_key, layer_key, part_key, piece_key
from fair_thicket.model.limits import Limits
from fair_thicket.model.masking import Masking, Rim
from fair_thicket.model.pieces import (
    CARD_EDGE,
    Border,
    Colour,
    Cutout,
    Impression,
    Panel,
    PaperPiece,
    Piece,
    Strip,
    Wash,
    stamps_of,
)
from fair_thicket.model.sheets import SheetRules
from fair_thicket.model.stash import Kind, Stamp, Stash
from fair_thicket.model.units import Unit

FormatKey = Literal["a2", "slimline", "5x7", "square6", "a6", "dl", "square144", "custom"]
Pieces = Annotated[tuple[Piece, ...], msgspec.Meta(max_length=MOST_PIECES)]
Front = Annotated[float, msgspec.Meta(ge=LEAST_FRONT_MM, le=MOST_FRONT_MM)]
WHITE = "#ffffff"


class Try(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A layout that the maker keeps: the pieces of one side and the format that they lay on.

    Attributes
    ----------
    is_other_side : bool
        Whether it was kept from the side that is not the card's front: in a file, the inside.
    """

    name: Annotated[str, msgspec.Meta(min_length=1, max_length=80)]
    pieces: Pieces
    format: FormatKey = "a2"
    landscape: bool = True
    custom_mm: tuple[Front, Front] | None = None
    is_other_side: bool = False


class Dismissal(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Advice that the maker has heard and does not want again: its code, and the piece it was about."""

    code: Annotated[str, msgspec.Meta(max_length=40)]
    piece: Annotated[str, msgspec.Meta(max_length=100)] = ""


class Card(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A card. Pieces run from the back to the front; see `order_pieces` for what paper allows.

    Attributes
    ----------
    mask_rim_mm : float
        Where masks are cut: 0 on the line, above 0 outside it, below 0 inside it.
    pieces, inside : tuple of Piece
        What is on the front and on the inside page.
    custom_mm : (float, float) or None
        Upright front of a card of no usual format.
    paper : str
        Colour of the base.
    tries : tuple of Try
    limits : Limits
    masking : Masking
        How it is to be stamped.
    dismissed : tuple of Dismissal
    pattern : str
        Key of the patterned paper of the base; empty for plain card.
    sheets : SheetRules
        How its sheets are laid out.
    light : str
        Side from which light falls.
    shade_order : str
        How the maker lays a run.
    assembly : AssemblyRules
        How it is glued.
    mark : str
        The maker's mark on the back: the key of an image in the stash, or words; empty for none.
    """

    title: Annotated[str, msgspec.Meta(max_length=120)] = "untitled card"
    format: FormatKey = "a2"
    landscape: bool = True
    fold: Fold = Fold.TOP
    unit: Unit = Unit.INCH
    mask_rim_mm: Rim = 0.0
    pieces: Pieces = ()
    inside: Pieces = ()
    custom_mm: tuple[Front, Front] | None = None
    paper: Colour = WHITE
    tries: Annotated[tuple[Try, ...], msgspec.Meta(max_length=MOST_TRIES)] = ()
    limits: Limits = Limits()
    masking: Masking = Masking()
    dismissed: Annotated[tuple[Dismissal, ...], msgspec.Meta(max_length=MOST_DISMISSED)] = ()
    light: Light = "left"
    pattern: str = ""
    sheets: SheetRules = SheetRules()
    shade_order: ShadeOrder = "dark first"
    assembly: AssemblyRules = AssemblyRules()
    mark: Annotated[str, msgspec.Meta(max_length=100)] = ""

    @property
    def panel(self) -> tuple[float, float]:
        """Width and height of the front as looked at, mm."""
        if self.format == "custom" and self.custom_mm is not None:
            short, long = sorted(self.custom_mm)
            return (long, short) if self.landscape else (short, long)
        return find_format(self.format).front(landscape=self.landscape)

    def find(self, key: str) -> Piece:
        """Return the piece of that id, or the one that a layer or a flap belongs to; KeyError when there is none."""
        whole = piece_key(key)
        for piece in self.pieces:
            if piece.id == whole:
                return piece
        raise KeyError(key)

    def turned(self) -> "Card":
        """Return the card with its inside page in the front's place, or back. Twice turned is the card itself."""
        tries = tuple(msgspec.structs.replace(one, is_other_side=not one.is_other_side) for one in self.tries)
        return msgspec.structs.replace(self, pieces=self.inside, inside=self.pieces, tries=tries)


class Work(msgspec.Struct, frozen=True, forbid_unknown_fields=True, dict=True):
    """A card together with the stash it draws on: what a file holds and what undo steps over.

    It also holds what was worked out of it (`model.derived`); that is no part of its value.
    """

    card: Card = Card()
    stash: Stash = Stash()


def taken_ids(card: Card) -> set[str]:
    """Ids that no new piece may have: those of both sides, of every kept layout, and the card's own edge."""
    sides = (card.pieces, card.inside, *(one.pieces for one in card.tries))
    return {piece.id for pieces in sides for piece in pieces} | {CARD_EDGE}


def free_id(card: Card, stem: str, *, also_taken: Collection[str] = ()) -> str:
    """Id for a new piece: the stem and the lowest number that is free on both sides and in every kept layout."""
    taken = taken_ids(card) | set(also_taken)
    number = 1
    while f"{stem[:70]}-{number}" in taken:
        number += 1
    return f"{stem[:70]}-{number}"


def rename_in(piece: Piece, new: Mapping[str, str]) -> Piece:
    """Return a piece with every id that it bears or names replaced by a new one, where there is one."""
    if not new:
        return piece
    fields: dict[str, object] = {
        key: new.get(getattr(piece, key), getattr(piece, key)) for key in ("id", "on", "trim_to", "copy_of")
    }
    if piece.held is not None:
        fields["held"] = msgspec.structs.replace(piece.held, by=new.get(piece.held.by, piece.held.by))
    if isinstance(piece, PaperPiece):
        fields["flaps"] = tuple(
            msgspec.structs.replace(flap, past=new.get(flap.past, flap.past)) for flap in piece.flaps
        )
    if isinstance(piece, Cutout):
        fields["print_of"] = new.get(piece.print_of, piece.print_of)
    if isinstance(piece, Wash):
        fields["glows_from"] = new.get(piece.glows_from, piece.glows_from)
    return msgspec.structs.replace(piece, **fields)


def name_format(card: Card) -> str:
    """Name of a card's format."""
    return "own size" if card.format == "custom" else find_format(card.format).name


def stamping_keys(piece: Impression | Cutout, stamp: Stamp) -> tuple[str, ...]:
    """Keys of the stampings that make a piece: its own id, or one a layer, such as ``toad-1/2``."""
    if len(stamp.layers) < 2:
        return (piece.id,)
    return tuple(layer_key(piece.id, number) for number in range(1, len(stamp.layers) + 1))


def order_pieces(pieces: Iterable[Piece]) -> tuple[Piece, ...]:
    """Put pieces into the order that paper allows, changing as little as may be.

    On every surface washes come first, then what is stamped, then what is glued; what lies on a piece follows it at
    once. Pieces whose surface is not there come with those of the card itself.
    """
    given = tuple(pieces)
    here = {piece.id for piece in given}
    lists: dict[str, list[Piece]] = {}
    for piece in given:
        lists.setdefault(piece.on if piece.on in here and piece.on != piece.id else "", []).append(piece)
    ordered: list[Piece] = []

    def lay(surface: str) -> None:
        for piece in sorted(lists.pop(surface, ()), key=_rank):
            ordered.append(piece)
            lay(piece.id)

    lay("")
    for surface in list(lists):  # surfaces that lie on one another in a ring: none of them can come first
        lay(surface)
    return tuple(ordered)


def _rank(piece: Piece) -> int:
    return 0 if isinstance(piece, Wash) else 1 if isinstance(piece, Impression) else 2


def carried_by(pieces: Iterable[Piece], key: str) -> list[str]:
    """Ids of all pieces that lie on a piece, on those, and so on; the piece itself left out."""
    found, frontier = [], {key}
    given = tuple(pieces)
    while frontier:
        frontier = {piece.id for piece in given if piece.on in frontier and piece.id not in found and piece.id != key}
        found += sorted(frontier)
    return found


def name_pieces(work: Work) -> dict[str, str]:
    """Return every piece the name it goes by: its stamp's, numbered from the left when there are several.

    Returns
    -------
    dict of str to str
        Piece id to name, such as ``tall fern 2``; layers of a layered image and flaps have names as well.
    """
    by_name: dict[str, list[Piece]] = {}
    for piece in work.card.pieces:
        by_name.setdefault(_plain_name(piece, work.stash), []).append(piece)
    names = {}
    for name, pieces in by_name.items():
        ordered = sorted(pieces, key=lambda piece: (piece.x, piece.y, piece.id))
        for number, piece in enumerate(ordered, 1):
            own = names[piece.id] = name if len(pieces) == 1 else f"{name} {number}"
            if isinstance(piece, Impression | Cutout):
                for layer, key in enumerate(stamping_keys(piece, work.stash.find(piece.stamp)), 1):
                    names.setdefault(key, f"{own}, layer {layer}")
            if isinstance(piece, Cutout):
                for index, part in enumerate(piece.joined):
                    names[part_key(piece.id, index)] = f"{work.stash.find(part.stamp).name} joined to the {own}"
            if isinstance(piece, PaperPiece):
                for index, flap in enumerate(piece.flaps):
                    names[flap_key(piece.id, index)] = f"{flap.name or 'flap'} of the {own}"
    return names


def _plain_name(piece: Piece, stash: Stash) -> str:
    if piece.name:
        return piece.name
    if isinstance(piece, Impression | Cutout | Border):
        return stash.find(piece.stamp).name
    return piece.noun


def is_greeting(piece: Piece, stash: Stash) -> bool:
    """Whether a piece bears words: a strip that says something, or a greeting of the stash."""
    if isinstance(piece, Strip):
        return bool(piece.words.strip())
    if isinstance(piece, Impression | Cutout):
        return any(stash.find(key).kind is Kind.GREETING for key in stamps_of(piece))
    return False  # whatever its stencil or its die is called: a wash or an edge says nothing


def is_figure(piece: Piece, stash: Stash) -> bool:
    """Whether a piece is an image that is to be seen for itself: not a backdrop, a border, plain paper or words."""
    if isinstance(piece, Impression | Cutout) and not is_greeting(piece, stash):
        return stash.find(piece.stamp).kind is Kind.STAMP
    return False


def is_sheet(piece: Piece) -> bool:
    """Whether a piece is plain ground for others: a panel, a mat or a wash, or one that carries a scene."""
    return isinstance(piece, Panel | Wash)


def find_pieces(pieces: Sequence[Piece], keys: Iterable[str]) -> list[Piece]:
    """Pieces of some ids, in their order."""
    wanted = {piece_key(key) for key in keys}
    return [piece for piece in pieces if piece.id in wanted]
