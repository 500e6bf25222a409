"""A plan of stamping as `masks --json` prints it, read again: edited by hand, or made by whoever likes."""

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Annotated

import msgspec

from fair_thicket.model.card import Work, stamping_keys
from fair_thicket.model.errors import SceneError
from fair_thicket.model.keys import part_key
from fair_thicket.model.pieces import Cutout, Impression, Wash
from fair_thicket.model.plan import SHEET, CounterMask, Mask, MaskPlan, Press
from fair_thicket.model.reading import Unreadable, read_file

MOST_BYTES = 16_000_000
MOST_ROWS = 2000
Names = Annotated[tuple[str, ...], msgspec.Meta(max_length=MOST_ROWS)]
Length = Annotated[float, msgspec.Meta(ge=0, le=1e6)]


class PressRow(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One press of the file."""

    impressions: Names
    masked: Names = ()
    surface: str = ""
    ink: bool = False
    by_hand: bool = False
    turned: Names = ()


class MaskRow(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"serves": "for"}):
    """One mask of the file."""

    stamp: str
    serves: Names
    careful_mm: Length = 0.0
    full_mm: Length = 0.0


class CounterRow(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"serves": "for"}):
    """One counter mask of the file."""

    opening: str
    serves: Names
    careful_mm: Length = 0.0
    full_mm: Length = 0.0


class PlanDocument(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A plan of one side, with that of the inside in it; figures that follow from the rest are not looked at."""

    presses: Annotated[tuple[PressRow, ...], msgspec.Meta(max_length=MOST_ROWS)] | None = None
    masks: Annotated[tuple[MaskRow, ...], msgspec.Meta(max_length=MOST_ROWS)] = ()
    counters: Annotated[tuple[CounterRow, ...], msgspec.Meta(max_length=MOST_ROWS)] = ()
    placements: int = 0
    deepest_pile: int = 0
    optimal: bool = False
    at_least: dict[str, float] = {}
    inside: "PlanDocument | None" = None


def read_plans(path: Path, sides: Mapping[str, Work]) -> dict[str, MaskPlan]:
    """Read the plans of a card's sides, ``front`` and ``inside``; sides that the file does not speak of are left out.

    Raises
    ------
    SceneError
        Where a name or the form is unknown: one sentence with the place. Rules that a plan breaks are not looked at.
    """
    try:
        document = msgspec.json.decode(read_file(path, MOST_BYTES), type=PlanDocument)
    except Unreadable as problem:
        raise SceneError(f"{path.name} {problem}.") from None
    except msgspec.ValidationError as problem:
        words, _, where = str(problem).partition(" - at ")
        told = f" (at {where.strip(chr(96))})" if where else ""
        raise SceneError(f"{path.name} is not a plan as “masks --json” prints it: {words}{told}.") from None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as problem:
        raise SceneError(f"{path.name} is not readable JSON: {str(problem)[:120]}.") from None
    given = {"front": document, "inside": document.inside}
    if document.presses is None and document.inside is None:
        raise SceneError(f"{path.name} has no “presses”; write a plan with “masks CARD --json”.")
    plans = {}
    for side, one in given.items():
        if one is None or one.presses is None:
            continue
        if side not in sides:
            raise SceneError(f"{path.name} has a plan of the {side}, and the card bears nothing there; leave it out.")
        plans[side] = _to_plan(one, sides[side], f"{path.name}, {side}")
    return plans


def _to_plan(document: PlanDocument, work: Work, name: str) -> MaskPlan:
    known = _Names(work, name)
    presses = []
    for number, row in enumerate(document.presses or (), 1):
        place = f"press {number}"
        known.check(row.surface, known.surfaces, f"{place}: no surface")
        for key in (*row.impressions, *row.turned):
            known.check(key, known.stampings, f"{place}: nothing to stamp or ink")
        for key in row.masked:
            known.check(key, known.images, f"{place}: no image to mask")
        is_ink = row.ink or any(key in known.washes for key in row.impressions)
        presses.append(Press(row.impressions, row.masked, row.surface, is_ink, row.turned, row.by_hand))
    masks = []
    for number, mask in enumerate(document.masks, 1):
        known.check(mask.stamp, known.stamps, f"mask {number}: no stamp")
        for key in mask.serves:
            known.check(key, known.images, f"mask {number}: no image to mask")
        masks.append(Mask(mask.stamp, mask.serves, mask.careful_mm, mask.full_mm))
    counters = tuple(_counter(row, presses, known) for row in document.counters)
    return MaskPlan(tuple(presses), tuple(masks), counters, document.placements, document.deepest_pile, optimal=False)


def _counter(row: CounterRow, presses: list[Press], known: "_Names") -> CounterMask:
    known.check(row.opening, known.pieces, "counter mask: no piece")
    for key in row.serves:
        known.check(key, known.stampings, "counter mask: nothing to stamp")
    lies = tuple(p for p, press in enumerate(presses) if set(press.impressions) & set(row.serves))
    return CounterMask(row.opening, row.serves, lies, row.careful_mm, row.full_mm)


class _Names:
    """Every name that a plan of a work may use."""

    def __init__(self, work: Work, name: str) -> None:
        self._name = name
        pieces = work.card.pieces
        self.pieces = {piece.id for piece in pieces}
        self.surfaces = {"", SHEET, *self.pieces}
        self.washes = {piece.id for piece in pieces if isinstance(piece, Wash)}
        self.stamps = {one.id for one in work.stash.stamps}
        images = [piece for piece in pieces if isinstance(piece, Impression | Cutout)]
        self.images = {key for piece in images for key in _images_of(piece)}
        self.stampings = self.washes | self.images | {key for piece in images for key in _stampings_of(piece, work)}

    def check(self, key: str, known: set[str], words: str) -> None:
        """Refuse a name that is not known, with its place."""
        if key not in known:
            told = f"{self._name}, {words} of this card is called “{key[:60]}”"
            raise SceneError(f"{told}; the card's own names stand in “masks CARD --json”.")


def _images_of(piece: Impression | Cutout) -> Iterator[str]:
    yield piece.id
    for number in range(len(piece.joined) if isinstance(piece, Cutout) else 0):
        yield part_key(piece.id, number)


def _stampings_of(piece: Impression | Cutout, work: Work) -> Iterator[str]:
    yield from stamping_keys(piece, work.stash.find(piece.stamp))
    for number, part in enumerate(piece.joined if isinstance(piece, Cutout) else ()):
        for key in stamping_keys(piece, work.stash.find(part.stamp)):
            yield part_key(piece.id, number) + key.removeprefix(piece.id)
