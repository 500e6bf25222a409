"""What the maker wants of the plan, as edits: pins, ways to cut single masks, steps ticked off, the table's habits."""

from collections.abc import Collection

import msgspec

from fair_thicket.masks.pins import check_pins, pinned, why_not
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.masking import Masking, MaskWay, Pin

MOST_PINS = 200


def set_masking(work: Work, **fields: object) -> Work:
    """Change the card's masking, such as ``lid`` or ``sheet_mm``."""
    masking: Masking = msgspec.structs.replace(work.card.masking, **fields)
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, masking=masking))


def add_pin(work: Work, pin: Pin) -> Work:
    """Pin something. What was pinned about the same pieces' presses before gives way.

    Raises
    ------
    PaperError
        When the pins would contradict each other, the order of the images or the number of stamps.
    """
    if pin.kind == "together" and len(pin.pieces) < 2:
        raise PaperError("Choose two or more images to stamp in one press.")
    kept = [one for one in work.card.masking.pins if not _gives_way(one, pin)]
    if len(kept) >= MOST_PINS:
        raise PaperError(f"A card holds at most {MOST_PINS} pins; take one away first.")
    after = pinned(work, [*kept, pin])
    try:
        check_pins(after)
    except PaperError as problem:
        raise PaperError(why_not(pinned(work, kept), pin) or str(problem)) from None
    return after


def _gives_way(old: Pin, new: Pin) -> bool:
    if old == new:
        return True
    at_press = ("first", "press")
    shares = bool(set(old.pieces) & set(new.pieces))
    return shares and ((old.kind in at_press and new.kind in at_press) or (old.kind == new.kind != "cut"))


def take_pin(work: Work, pin: Pin) -> Work:
    """Take one pin away."""
    return pinned(work, [one for one in work.card.masking.pins if one != pin])


def take_pins_of(work: Work, keys: Collection[str]) -> Work:
    """Take all pins away that name one of some pieces."""
    return pinned(work, [one for one in work.card.masking.pins if not set(one.pieces) & set(keys)])


def set_way(work: Work, keys: Collection[str], **fields: object) -> Work:
    """Cut the masks of some pieces in another way: ``kind``, ``rim_mm``, ``is_loose``; the usual way is not kept."""
    ways = {way.piece: way for way in work.card.masking.ways}
    for key in keys:
        changed = msgspec.structs.replace(ways.get(key, MaskWay(key)), **fields)
        if changed == MaskWay(key):
            ways.pop(key, None)
        else:
            ways[key] = changed
    return set_masking(work, ways=tuple(ways.values()))


def tick(work: Work, step: str, *, is_done: bool) -> Work:
    """Tick a step off, or take the tick away."""
    done = [key for key in work.card.masking.done if key != step]
    return set_masking(work, done=tuple([*done, step] if is_done else done))
