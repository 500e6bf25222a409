"""Edits of colours: regions and parts of images, runs of parts, schemes, the light."""

from collections.abc import Callable, Collection, Sequence

import msgspec
import shapely

from fair_thicket.edits.images import Colouring, find_image, recolour_pieces
from fair_thicket.edits.pieces import set_card
from fair_thicket.model.bounds import MOST_SCHEMES
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import TOUCHES, ColouredPart, Region, Scheme, Shade, prune
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Piece
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.outline import to_area, to_outline

Change = Callable[[str, str, Colouring], Colouring]
Recolour = Callable[[tuple[ColouredPart, ...]], tuple[ColouredPart, ...]]
HARD_PARTS = 12
"""Parts of a hard image (our own guess)."""
SEAM_MM = 0.02
"""Regions that are joined meet across what parts them by at most a line's width; this much is left of a cut."""


def set_regions(work: Work, key: str, regions: tuple[Region, ...], parts: tuple[tuple[int, ...], ...]) -> Work:
    """Return an image of the stash its regions and parts; what coloured a region that has gone is left out."""
    known = frozenset(region.id for region in regions)
    stamp = work.stash.find(key)
    work = _with_stamp(work, msgspec.structs.replace(stamp, regions=regions, parts=parts))
    return _map_colouring(work, key, lambda colouring: prune(colouring, known))


def take_regions(work: Work, key: str, known: Stamp) -> Work:
    """Return an image of the stash the regions, parts and schemes that it is known to have elsewhere."""
    work = set_regions(work, key, known.regions, known.parts)
    stamp = work.stash.find(key)
    own = {scheme.name for scheme in stamp.schemes}
    schemes = (*stamp.schemes, *(one for one in known.schemes if one.name not in own))[:MOST_SCHEMES]
    return _with_stamp(work, msgspec.structs.replace(stamp, schemes=schemes))


def parts_of(stamp: Stamp) -> list[tuple[int, ...]]:
    """Parts of an image: those that are told, and every other region for itself; touches come last."""
    named = {region for part in stamp.parts for region in part}
    parts = [*stamp.parts, *((region.id,) for region in stamp.regions if region.id not in named)]
    last = {region.id: TOUCHES.index(region.kind) for region in stamp.regions if region.is_touch}
    return sorted(parts, key=lambda part: last.get(part[0], -1))


def is_hard(stamp: Stamp) -> bool:
    """Whether an image has so many parts that a spare impression of it is worth its place on the sheet."""
    return len(parts_of(stamp)) >= HARD_PARTS


def closed_parts(stamp: Stamp) -> list[tuple[int, ...]]:
    """Parts of an image that lines close: all but touches."""
    touches = touch_ids(stamp)
    return [part for part in parts_of(stamp) if not touches & set(part)]


def touch_ids(stamp: Stamp) -> frozenset[int]:
    """Ids of the regions of an image that are touches."""
    return frozenset(region.id for region in stamp.regions if region.is_touch)


def part_at(stamp: Stamp, at: tuple[float, float]) -> tuple[int, ...]:
    """Find the part of an image at a place, mm from its middle; nothing where there is none."""
    point = shapely.Point(at)
    touches_first = sorted(stamp.regions, key=lambda one: not one.is_touch)
    hit = next((one.id for one in touches_first if to_area(one.ring, one.holes).covers(point)), None)
    return next((part for part in parts_of(stamp) if hit in part), ()) if hit is not None else ()


def join_parts(work: Work, key: str, parts: Sequence[tuple[int, ...]]) -> Work:
    """Make one part of several, on every piece as well: the colours of the first of them go on."""
    stamp = work.stash.find(key)
    joined = tuple(region for part in parts for region in part)
    if touch_ids(stamp) & set(joined):
        raise PaperError("Cheeks, eyes and white dots stay parts of their own; choose parts that lines close.")
    if len(parts) < 2:
        raise PaperError("Choose two or more parts to colour them as one.")
    rest = tuple(part for part in stamp.parts if not set(part) & set(joined))
    work = _with_stamp(work, msgspec.structs.replace(stamp, parts=(*rest, joined)))
    return _map_colouring(work, key, lambda colouring: _joined(colouring, joined))


def _joined(colouring: tuple[ColouredPart, ...], joined: tuple[int, ...]) -> tuple[ColouredPart, ...]:
    touched = [part for part in colouring if set(part.regions) & set(joined)]
    if not touched:
        return colouring
    rest = tuple(part for part in colouring if part not in touched)
    return (*rest, msgspec.structs.replace(touched[0], regions=joined))


def split_part(work: Work, key: str, part: tuple[int, ...]) -> Work:
    """Make every region of a part one for itself, each in the colours that it has."""
    stamp = work.stash.find(key)
    if len(part) < 2:
        raise PaperError("This part is a single region; draw a line across it to part it.")
    parts = (*(one for one in stamp.parts if one != part), *((region,) for region in part))
    work = _with_stamp(work, msgspec.structs.replace(stamp, parts=parts))
    return _map_colouring(work, key, lambda colouring: _split(colouring, part))


def _split(colouring: tuple[ColouredPart, ...], part: tuple[int, ...]) -> tuple[ColouredPart, ...]:
    split: list[ColouredPart] = []
    for one in colouring:
        own = [region for region in one.regions if region in part]
        if not own:
            split.append(one)
            continue
        rest = tuple(region for region in one.regions if region not in part)
        split += [msgspec.structs.replace(one, regions=rest)] if rest else []
        split += [msgspec.structs.replace(one, regions=(region,)) for region in own]
    return tuple(split)


def cut_region(work: Work, key: str, region: int, line: tuple[tuple[float, float], tuple[float, float]]) -> Work:
    """Part a region along a line, mm from the image's middle; the larger piece keeps the id and the colours.

    Raises
    ------
    PaperError
        When the line does not go right across it.
    """
    stamp = work.stash.find(key)
    whole = next(one for one in stamp.regions if one.id == region)
    cut = shapely.buffer(shapely.LineString(line), SEAM_MM / 2, cap_style="square")
    pieces = shapely.get_parts(shapely.difference(to_area(whole.ring, whole.holes), cut))
    if len(pieces) < 2:
        raise PaperError("The line does not part the region; draw it right across, from line to line.")
    ordered = sorted(pieces, key=lambda piece: -piece.area)
    free = max(one.id for one in stamp.regions) + 1
    made = tuple(
        msgspec.structs.replace(
            _region(region if index == 0 else free + index - 1, piece), rounding=whole.rounding, folds=whole.folds
        )
        for index, piece in enumerate(ordered)
    )
    regions = tuple(new for one in stamp.regions for new in (made if one.id == region else (one,)))
    return _with_stamp(work, msgspec.structs.replace(stamp, regions=regions))


def cut_along(work: Work, key: str, line: tuple[tuple[float, float], tuple[float, float]]) -> Work:
    """Part the region of an image that most of a line lies in; see `cut_region`.

    Raises
    ------
    PaperError
        When it lies in none, or does not go right across.
    """
    drawn = shapely.LineString(line)
    shares = {
        one.id: float(shapely.length(shapely.intersection(drawn, to_area(one.ring, one.holes))))
        for one in work.stash.find(key).regions
        if not one.is_touch
    }
    most = max(shares, key=lambda region: shares[region], default=None)
    if most is None or not shares[most]:
        raise PaperError("The line lies in no region; draw it right across one, from line to line.")
    return cut_region(work, key, most, line)


def _region(key: int, area: shapely.Geometry) -> Region:
    return Region(key, *to_outline(area))


def colour_parts(work: Work, keys: Collection[str], parts: Collection[tuple[int, ...]], **fields: object) -> Work:
    """Colour parts of images: ``shades``, ``shadow_deg``, ``undertone``, ``dots``; the rest of each stays as it is.

    Parameters
    ----------
    keys : keys of images
        Copies of one.
    """

    def change(key: str, stamp: str, colouring: Colouring) -> Colouring:
        del key, stamp
        for part in parts:
            known = next((one for one in colouring if set(one.regions) & set(part)), ColouredPart(part))
            rest = tuple(one for one in colouring if not set(one.regions) & set(part))
            colouring = (*rest, msgspec.structs.replace(known, regions=part, **fields))
        return tuple(sorted(colouring, key=lambda one: one.regions))

    return _change(work, keys, change)


def uncolour(work: Work, keys: Collection[str], parts: Collection[tuple[int, ...]] | None = None) -> Work:
    """Take colours off parts of pieces, or off all of them."""
    gone = None if parts is None else {region for part in parts for region in part}

    def change(key: str, stamp: str, colouring: Colouring) -> Colouring:
        del key, stamp
        return () if gone is None else tuple(one for one in colouring if not gone & set(one.regions))

    return _change(work, keys, change)


def set_colouring(work: Work, keys: Collection[str], colouring: tuple[ColouredPart, ...]) -> Work:
    """Colour copies of one image as a scheme, or another copy, is."""

    def change(key: str, stamp: str, old: Colouring) -> Colouring:
        del key, old
        return prune(colouring, frozenset(region.id for region in work.stash.find(stamp).regions))

    return _change(work, keys, change)


def move_runs_on(work: Work, key: str) -> Work:
    """Return the same runs to other parts: each coloured part takes the shades of the next, so that copies differ."""
    image = find_image(work, key)
    touches = touch_ids(work.stash.find(image.stamp))
    coloured = [part for part in image.colouring if part.shades and not touches & set(part.regions)]
    if len(coloured) < 2:
        raise PaperError("Colour two or more parts first; then their runs can change places.")
    moved = {id(part): coloured[(index + 1) % len(coloured)].shades for index, part in enumerate(coloured)}
    changed = tuple(
        msgspec.structs.replace(part, shades=moved[id(part)]) if id(part) in moved else part for part in image.colouring
    )
    return _change(work, {key}, lambda *_: changed)


def keep_scheme(work: Work, key: str, name: str) -> Work:
    """Keep the colours of a piece under a name with its image; one of the same name is replaced."""
    image = find_image(work, key)
    name = name.strip()[:120]
    if not name or not image.colouring:
        raise PaperError("Colour the image first, and give the scheme a name, such as “summer”.")
    stamp = work.stash.find(image.stamp)
    others = tuple(one for one in stamp.schemes if one.name != name)
    if len(others) >= MOST_SCHEMES:
        raise PaperError(f"An image keeps at most {MOST_SCHEMES} schemes; drop one first.")
    return _with_stamp(work, msgspec.structs.replace(stamp, schemes=(*others, Scheme(name, image.colouring))))


def replace_shade(work: Work, old: Shade, new: Shade) -> Work:
    """Take another marker wherever one is used on this side of the card."""

    def change(key: str, stamp: str, colouring: Colouring) -> Colouring:
        del key, stamp
        return tuple(
            msgspec.structs.replace(
                part,
                shades=tuple(new if shade == old else shade for shade in part.shades),
                undertone=new if part.undertone == old else part.undertone,
                dots=new if part.dots == old else part.dots,
            )
            for part in colouring
        )

    return _change(work, None, change)


def set_light(work: Work, light: str) -> Work:
    """Let light fall on the card from another side."""
    return set_card(work, light=light)


def _change(work: Work, keys: Collection[str] | None, change: Change) -> Work:
    pieces = recolour_pieces(work.card.pieces, change, keys)
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))


def _map_colouring(work: Work, stamp: str, change: Recolour) -> Work:
    """Change every colouring of an image: on both sides, in every kept layout, and in its schemes."""

    def one(key: str, other: str, colouring: Colouring) -> Colouring:
        del key
        return change(colouring) if other == stamp and colouring else colouring

    def changed(pieces: tuple[Piece, ...]) -> tuple[Piece, ...]:
        return recolour_pieces(pieces, one)

    card = work.card
    tries = tuple(msgspec.structs.replace(kept, pieces=changed(kept.pieces)) for kept in card.tries)
    card = msgspec.structs.replace(card, pieces=changed(card.pieces), inside=changed(card.inside), tries=tries)
    image = work.stash.find(stamp)
    schemes = tuple(msgspec.structs.replace(kept, colouring=change(kept.colouring)) for kept in image.schemes)
    return _with_stamp(msgspec.structs.replace(work, card=card), msgspec.structs.replace(image, schemes=schemes))


def _with_stamp(work: Work, stamp: Stamp) -> Work:
    stamps = tuple(stamp if one.id == stamp.id else one for one in work.stash.stamps)
    return msgspec.structs.replace(work, stash=msgspec.structs.replace(work.stash, stamps=stamps))
