"""How the Fernside post is coloured: runs of its own markers for the parts of every image."""

from collections.abc import Mapping
from types import MappingProxyType

import msgspec

from fair_thicket.colour.last_judges import touches_of
from fair_thicket.colour.reading import read_regions
from fair_thicket.colour.whites_and_cheeks import GLAZE, WHITE_PEN
from fair_thicket.edits.colouring import set_regions
from fair_thicket.edits.image_marks import add_touch, set_rounding
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import ColouredPart, RegionKind, Rounding, Scheme, Shade
from fair_thicket.model.pieces import Cutout, Impression, Piece
from fair_thicket.model.stash import Kind

FAMILIES: Mapping[str, tuple[str, ...]] = MappingProxyType(
    {
        "fern": ("#cfe0bd", "#9cc08a", "#4f8a4a", "#2c5a33"),
        "moss": ("#dfe6b0", "#b3c26d", "#7d9440"),
        "shell": ("#f0d9b8", "#d9a86a", "#a86f38"),
        "bark": ("#d9c3a5", "#a37e58", "#6b4a30"),
        "clay": ("#f6d2b4", "#e39a62", "#b5602f"),
        "toadstool": ("#f2b3a6", "#d8604f", "#9c2f33"),
        "dusk": ("#ccd4e6", "#8fa0c6", "#55659a"),
        "heather": ("#e3d5ea", "#b79bc9", "#7f5f98"),
        "lamp": ("#fbeeb4", "#f2cf5b", "#cf9a2b"),
        "stone": ("#e6e3dd", "#b9b4aa", "#7d786f"),
        "slate": ("#b7bfc6", "#7b8792", "#465059"),
        "blush": ("#f4b8b4",),
    }
)
"""Markers of the demo, from light to dark, numbered from 1; as in `supplies.csv`."""

Parts = tuple[tuple[tuple[int, ...], str, tuple[int, ...]], ...]
"""Regions, family, and numbers of its markers from dark to light; none: it stays white."""
SCHEME = "of the post"
SCHEMES: Mapping[str, Parts] = MappingProxyType({
    "toad-postmaster": (
        ((2, 4), "toadstool", (3, 2, 1)), ((1, 3), "lamp", (3, 2)), ((5, 7), "stone", (1,)), ((6, 8), "stone", ()),
        ((9,), "fern", (4, 3, 2)), ((11, 13), "fern", (3, 2, 1)), ((10, 12), "fern", (3, 2)),
        ((14, 18), "fern", (3, 2)), ((15, 16, 17), "toadstool", (3, 2)), ((19,), "bark", (3, 2, 1)),
        ((20,), "bark", (3, 2)),
    ),
    "stump-letterbox": (
        ((10,), "bark", (3, 2, 1)), ((1, 2, 3), "shell", (2, 1)), ((4, 5), "lamp", (3, 2)), ((6, 7), "fern", (3, 2)),
        ((8, 9, 11), "dusk", (3, 2)),
    ),
    "dusk-moth": (
        ((2, 4), "heather", (3, 2, 1)), ((7, 9), "heather", (3, 2, 1)), ((1, 5), "lamp", (2,)),
        ((10, 12), "lamp", (2,)),
        ((3,), "shell", (2, 1)), ((6, 11), "heather", (3, 2)), ((8,), "shell", (2, 1)),
    ),
    "fern-sprig": ((tuple(range(1, 19)), "fern", (4, 3, 2)),),
    "tall-fern": ((tuple(range(1, 23)), "fern", (4, 3, 2)),),
    "spotted-beetle": (
        ((3, 4), "toadstool", (3, 2, 1)), ((1, 2, 5, 6), "slate", (3, 2)), ((7,), "slate", (3, 2, 1)),
        ((8,), "stone", ()),
    ),
    "parcel": (
        ((4, 6, 8, 11), "shell", (3, 2, 1)), ((5, 7, 9), "toadstool", (3, 2)), ((1, 2, 3), "toadstool", (3, 2)),
        ((10,), "stone", ()),
    ),
    "lantern": (
        ((1, 2), "slate", (3, 2, 1)), ((3, 10), "slate", (3, 2, 1)), ((4, 5, 7), "lamp", (3, 2, 1)),
        ((6,), "clay", (3, 2)), ((8,), "lamp", (1,)), ((9,), "stone", (3, 2)),
    ),
    "courier-snail": (
        ((3, 5), "clay", (3, 2, 1)), ((4, 8, 9), "clay", (3, 2)), ((12,), "shell", (3, 2, 1)), ((1, 2), "stone", ()),
        ((6,), "blush", (1,)), ((7, 10), "stone", (2, 1)), ((11,), "toadstool", (2,)),
    ),
    "toadstool": (
        ((4,), "toadstool", (3, 2, 1)), ((1, 2, 3, 5, 6), "stone", ()), ((7, 8), "bark", (2, 1)),
    ),
    "letter": (((1, 2, 4, 5), "stone", (2, 1)), ((3,), "toadstool", (3, 2))),
    "ink-newt": (((2,), "clay", (3, 2, 1)), ((4, 5), "clay", (3, 2)), ((1,), "lamp", (2,)), ((3,), "blush", (1,))),
    "moss-cushion": (((4,), "moss", (3, 2, 1)), ((1, 2, 3), "clay", (3, 2))),
})  # fmt: skip


MARKED: Mapping[str, tuple[tuple[RegionKind, tuple[float, float], float], ...]] = MappingProxyType({
    "toad-postmaster": (
        ("cheek", (-6.4, -1.6), 3.2), ("cheek", (6.4, -1.6), 3.2),
        ("eye", (-5.4, -6.0), 2.6), ("eye", (5.9, -6.0), 2.6),
        ("white dot", (-4.9, -6.6), 0.9), ("white dot", (6.25, -6.6), 0.9),
    ),
    "courier-snail": (
        ("eye", (7.7, -10.1), 1.5), ("eye", (14.4, -10.0), 1.5),
        ("white dot", (8.0, -10.45), 0.5), ("white dot", (14.7, -10.2), 0.5),
    ),
    "ink-newt": (("eye", (15.1, -3.4), 1.5), ("white dot", (15.4, -3.75), 0.5)),
})  # fmt: skip
"""Cheeks and eyes that are put on last: where, mm from the image's middle, and how wide."""
ROUNDINGS: Mapping[str, tuple[tuple[int, ...], Rounding]] = MappingProxyType(
    {
        "stump-letterbox": ((10,), "panel"),
        "lantern": ((4, 5, 7), "round"),
    }
)
ROSE = Shade("#e58e88", "rose pencil", "pencil")
LAMPS = MappingProxyType({"lantern": 38.0})
"""What gives light, and how far, mm."""


def shade(family: str, number: int) -> Shade:
    """Return a marker of the demo."""
    return Shade(FAMILIES[family][number - 1], family if family == "blush" else f"{family} {number}")


def with_regions(work: Work, pictures: dict[str, bytes]) -> Work:
    """Read the regions of every image, and keep its scheme with it."""
    for stamp in work.stash.stamps:
        if stamp.kind is not Kind.STAMP:
            continue
        regions, _ = read_regions(stamp, pictures[stamp.picture])
        told = SCHEMES[stamp.id]
        named = {region for part, _, _ in told for region in part}
        rest = tuple((region.id,) for region in regions if region.id not in named)
        work = set_regions(work, stamp.id, regions, (*(part for part, _, _ in told), *rest))
        colouring = tuple(
            ColouredPart(part, tuple(shade(family, number) for number in numbers)) for part, family, numbers in told
        )
        work, last = _with_marks(work, stamp.id)
        colouring = (*colouring, *last)
        kept = msgspec.structs.replace(work.stash.find(stamp.id), schemes=(Scheme(SCHEME, colouring),))
        stamps = tuple(kept if one.id == stamp.id else one for one in work.stash.stamps)
        work = msgspec.structs.replace(work, stash=msgspec.structs.replace(work.stash, stamps=stamps))
    return work


def _with_marks(work: Work, key: str) -> tuple[Work, tuple[ColouredPart, ...]]:
    """Mark what is round and what is put on last; gives how the latter is coloured."""
    if key in ROUNDINGS:
        work = set_rounding(work, key, *ROUNDINGS[key])
    for kind, at, wide in MARKED.get(key, ()):
        work = add_touch(work, key, kind, at, wide)
    with_what = {"eye": GLAZE, "white dot": WHITE_PEN, "cheek": ROSE}
    last = [ColouredPart(part, (with_what[kind],)) for kind, part in touches_of(work.stash.find(key))]
    return work, tuple(last)


def coloured(work: Work) -> Work:
    """Colour every image of a card by its scheme; cutouts are of white paper then."""
    card = msgspec.structs.replace(work.card, pieces=tuple(_coloured(piece, work) for piece in work.card.pieces))
    return msgspec.structs.replace(work, card=card)


def _coloured(piece: Piece, work: Work) -> Piece:
    if not isinstance(piece, Impression | Cutout):
        return piece
    schemes = work.stash.find(piece.stamp).schemes
    if not schemes:
        return piece
    lamp = LAMPS.get(piece.stamp, 0.0)
    return msgspec.structs.replace(piece, colour=None, colouring=schemes[0].colouring, lamp_mm=lamp)
