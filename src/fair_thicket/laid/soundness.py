"""Whether a work hangs together and keeps to every limit, so that the file that is made of it opens again.

Asked where a card is changed, where it is packed and where it is read: one rule for all three.
"""

import math
import re
from collections.abc import Collection, Mapping, Sequence
from types import MappingProxyType

import msgspec

from fair_thicket.model.basics import Ring
from fair_thicket.model.bounds import (
    FARTHEST_MM,
    LEAST_MM,
    MOST_DROPS,
    MOST_IMAGES,
    MOST_MARKS,
    MOST_POINTS,
    MOST_SPOTS,
    find_bound,
    say_bound,
)
from fair_thicket.model.card import Card, Work
from fair_thicket.model.colouring import ColouredPart
from fair_thicket.model.errors import GeometryError, UnsoundError
from fair_thicket.model.pieces import (
    CARD_EDGE,
    Cover,
    Cutout,
    Drops,
    Embellishment,
    Impression,
    PaperPiece,
    Piece,
    Texture,
    Wash,
    stamps_of,
)
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.washes import cover_area

_LIMIT = re.compile(r"Expected `(?P<kind>array|str|float|int)`(?: of length)? (?P<sign><=|>=|<|>) (?P<limit>[-\d.]+)")
_SIGNS = MappingProxyType({"<=": "at most", ">=": "at least", "<": "less than", ">": "more than"})


def check_work(work: Work, before: Work | None = None) -> None:
    """Make sure that a work could be saved and opened again as the very same.

    Parameters
    ----------
    work : Work
    before : Work or None
        A sound work that it came from: what is the same object in both is not looked at again.

    Raises
    ------
    UnsoundError
        Some value beyond its limit, two pieces of one id, a piece without its stamp or its surface, an empty outline.
    """
    known = {id(stamp) for stamp in before.stash.stamps} if before else set()
    for index, stamp in enumerate(work.stash.stamps):
        if id(stamp) not in known:
            check_values(stamp, f"stash.stamps[{index}]")
    if before is None or work.card is not before.card:
        check_values(work.card, "card")
    check_relations(work, before)


def check_values(value: msgspec.Struct, place: str) -> None:
    """Hold a struct's values against its own declarations, as a file that bears it will be when it is read.

    Raises
    ------
    UnsoundError
    """
    try:
        msgspec.json.decode(msgspec.json.encode(value), type=type(value))
    except msgspec.ValidationError as problem:
        words, _, where = str(problem).partition(" - at ")
        path = where.strip("`").removeprefix("$")
        raise UnsoundError(_say_limit(words, path, value), f"{place}{path}") from None


def _say_limit(words: str, path: str, value: msgspec.Struct) -> str:
    """Say a broken limit in a maker's words."""
    bound, broken = find_bound(path), _LIMIT.match(words)
    if broken is None:
        return f"{bound.thing} is not of the kind that a card can hold ({words[:1].lower()}{words[1:]})."
    if broken["kind"] == "str" and broken["limit"] == "1":
        return f"{bound.thing} cannot be empty; type at least one letter."
    return say_bound(bound, _SIGNS[broken["sign"]], float(broken["limit"]), _say_whose(path, value))


def _say_whose(path: str, value: msgspec.Struct) -> str:
    """Name the piece that a path leads to, where it leads to one."""
    found = re.match(r"\.(pieces|inside)\[(\d+)\]", path)
    if found is None or not isinstance(value, Card):
        return ""
    piece: Piece = getattr(value, found[1])[int(found[2])]
    return f" (of “{piece.name or piece.id}”)"


def check_relations(work: Work, before: Work | None = None) -> None:
    """Make sure that a work's parts fit each other; values are taken to be within their limits.

    Raises
    ------
    UnsoundError
    """
    _check_unlike([stamp.id for stamp in work.stash.stamps], "stamps", "stash.stamps")
    card = work.card
    regions = {stamp.id: frozenset(one.id for one in stamp.regions) for stamp in work.stash.stamps}
    known = _known_pieces(before)
    sides = (("pieces", card.pieces), ("inside", card.inside))
    _check_unlike([piece.id for _, pieces in sides for piece in pieces], "pieces", "card.pieces")
    for place, pieces in (*sides, *((f"tries[{n}].pieces", one.pieces) for n, one in enumerate(card.tries))):
        _check_pieces(pieces, regions, f"card.{place}", known)
    _check_pattern(card.pattern, regions, "card")
    if card.format == "custom" and card.custom_mm is None:
        raise UnsoundError("a custom format needs its size.", "card.custom_mm")
    old = {id(stamp) for stamp in before.stash.stamps} if before else set()
    for index, stamp in enumerate(work.stash.stamps):
        if id(stamp) not in old:
            check_stamp(stamp, f"stash.stamps[{index}]")


def _known_pieces(before: Work | None) -> set[int]:
    if before is None:
        return set()
    card = before.card
    return {id(piece) for pieces in (card.pieces, card.inside, *(one.pieces for one in card.tries)) for piece in pieces}


def _check_unlike(ids: Sequence[str], things: str, place: str) -> None:
    if len(set(ids)) < len(ids):
        raise UnsoundError(f"two {things} have the same id.", place)


def _check_pieces(pieces: Sequence[Piece], regions: Mapping[str, frozenset[int]], place: str, known: set[int]) -> None:
    """Make sure that pieces have ids of their own, stamps that are there, and surfaces that do not go round.

    The stamps are told by the regions that each has.
    """
    on = {piece.id: piece.on for piece in pieces}
    if len(on) < len(pieces):
        raise UnsoundError("two pieces have the same id.", place)
    if CARD_EDGE in on:
        raise UnsoundError(f"no piece may have the id “{CARD_EDGE}”.", place)
    for index, piece in enumerate(pieces):
        at = f"{place}[{index}]"
        for key in stamps_of(piece):
            if key not in regions:
                raise UnsoundError(f"no stamp “{key}” is in the stash.", f"{at}.stamp")
        if isinstance(piece, PaperPiece):
            _check_pattern(piece.pattern, regions, at)
        if isinstance(piece, Impression | Cutout):
            _check_colouring(piece.colouring, regions[piece.stamp], f"{at}.colouring")
        _check_surface(piece, on, at)
        if id(piece) not in known:
            _check_outlines(piece, at)
    _check_amounts(pieces, place)


def _check_amounts(pieces: Sequence[Piece], place: str) -> None:
    """Make sure that no side holds more, all pieces together, than hands make and machines answer for."""
    amounts = (
        ("images", MOST_IMAGES, sum(len(stamps_of(one)) for one in pieces if isinstance(one, Impression | Cutout))),
        ("finishes", MOST_SPOTS, sum(len(one.spots) for one in pieces if isinstance(one, Embellishment))),
        ("drops", MOST_DROPS, sum(one.drops for one in pieces if isinstance(one, Drops))),
        ("marks of textures", MOST_MARKS, sum(len(one.spots) for one in pieces if isinstance(one, Texture))),
    )
    for things, most, count in amounts:
        if count > most:
            raise UnsoundError(f"a side holds at most {most} {things}, all pieces together, and not {count}.", place)


def _check_pattern(pattern: str, stamps: Collection[str], at: str) -> None:
    if pattern and pattern not in stamps:
        raise UnsoundError(f"no patterned paper “{pattern}” is in the stash.", f"{at}.pattern")


def _check_colouring(colouring: Sequence[ColouredPart], regions: frozenset[int], at: str) -> None:
    """Make sure that coloured parts are of regions that there are, each in one part."""
    named = [region for part in colouring for region in part.regions]
    if not regions.issuperset(named):
        raise UnsoundError("it colours a region that its image does not have.", at)
    if len(set(named)) < len(named):
        raise UnsoundError("a region is in two coloured parts.", at)


def _check_surface(piece: Piece, on: Mapping[str, str], at: str) -> None:
    seen, surface = {piece.id}, piece.on
    while surface:
        if surface not in on:
            raise UnsoundError(f"it lies on “{surface}”, which is not there.", f"{at}.on")
        if surface in seen:
            raise UnsoundError("pieces lie on one another in a ring.", f"{at}.on")
        seen.add(surface)
        surface = on[surface]


def _check_outlines(piece: Piece, at: str) -> None:
    for ring in _rings_of(piece):
        _check_ring(ring, at)
    for number, cover in enumerate(piece.covers if isinstance(piece, Wash) else ()):
        _check_cover(cover, f"{at}.covers[{number}]")


def _check_cover(cover: Cover, at: str) -> None:
    """Make sure that what keeps a wash off covers something: a form, an outline, or the side of a line."""
    if cover.kind == "torn":
        (x0, y0), (x1, y1) = cover.line or ((0.0, 0.0), (0.0, 0.0))
        if math.hypot(x1 - x0, y1 - y0) < LEAST_MM:
            raise UnsoundError("a torn line has no length; draw it from edge to edge.", at)
        return
    try:
        is_empty = cover_area(cover).is_empty
    except GeometryError as problem:
        raise UnsoundError(str(problem), at) from None
    if is_empty:
        raise UnsoundError("a cover covers nothing; take it away, or give it a form.", at)


def _rings_of(piece: Piece) -> tuple[Ring, ...]:
    if isinstance(piece, PaperPiece):
        return (*(flap.ring for flap in piece.flaps), *(piece.cut_away if isinstance(piece, Cutout) else ()))
    if isinstance(piece, Impression):
        return (*((piece.inked,) if piece.inked else ()), *(zone.ring for zone in piece.zones))
    covers: tuple[Cover, ...] = getattr(piece, "covers", ())  # of washes
    return tuple(cover.ring for cover in covers if cover.ring is not None)


def check_stamp(stamp: Stamp, place: str) -> None:
    """Make sure that every ring of a stamp encloses something and lies within what a card can bear.

    Raises
    ------
    UnsoundError
    """
    ids = [region.id for region in stamp.regions]
    named = [region for part in stamp.parts for region in part]
    if len(set(ids)) < len(ids) or len(set(named)) < len(named) or not set(ids).issuperset(named):
        raise UnsoundError("its regions or parts name one twice, or one that is not there.", f"{place}.regions")
    for scheme in stamp.schemes:
        _check_colouring(scheme.colouring, frozenset(ids), f"{place}.schemes")
    rings = (
        *(stamp.outline, *stamp.pockets, *(zone.ring for zone in stamp.marks.zones)),
        *(ring for region in stamp.regions for ring in (region.ring, *region.holes)),
    )
    count = sum(map(len, rings))
    if count > MOST_POINTS:
        raise UnsoundError(f"its outlines have {count} points; {MOST_POINTS} are the most, simplify them.", place)
    for ring in rings:
        _check_ring(ring, f"{place}.outline")


def _check_ring(ring: Ring, at: str) -> None:
    try:
        area = to_area(ring)
    except GeometryError as problem:
        raise UnsoundError(str(problem), at) from None
    if max(abs(bound) for bound in area.bounds) > FARTHEST_MM / 2:
        raise UnsoundError("an outline is more than 2 m wide.", at)
