"""Damages done by chance to plans and to the work of hands, and a measure of what is seen of them.

What goes wrong at the table is common practice (no source). Whether it is seen is measured here, from two finished
pictures alone: CIEDE2000 by scikit-image, patches by SciPy.
"""

import random
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field

import msgspec
import numpy as np
from scipy import ndimage
from skimage.color import deltaE_ciede2000, rgb2lab

from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work
from fair_thicket.model.keys import piece_key
from fair_thicket.model.performance import Action
from fair_thicket.model.pieces import Cutout, Impression, PaperPiece, Piece, Wash, is_stepped
from fair_thicket.model.plan import MaskPlan

PX_PER_MM2 = (300 / 25.4) ** 2
SEEN_DELTA, SEEN_MM2 = 6.0, 0.3


@dataclass
class Damage:
    """One thing that goes wrong: what is performed in the place of what is right, and what must be told.

    Attributes
    ----------
    kinds : kinds of difference of which one must be told
    pieces : ids of which one must be named
    """

    plan: MaskPlan
    actions: Sequence[Action]
    work: Work
    kinds: set[str]
    pieces: set[str]
    left_out: tuple[int, ...] = ()
    slips: dict[int, tuple[float, float]] = field(default_factory=dict)


Maker = Callable[[Work, MaskPlan, list[Action], random.Random], Damage | None]


def _with(work: Work, piece: Piece) -> Work:
    pieces = tuple(piece if one.id == piece.id else one for one in work.card.pieces)
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))


def _pressed(plan: MaskPlan, work: Work, *, ink: bool = False) -> list[tuple[int, str]]:
    known = {piece.id for piece in work.card.pieces}
    return [
        (p, key)
        for p, press in enumerate(plan.presses)
        for key in press.impressions
        if press.is_ink == ink and piece_key(key) in known
    ]


def _set_press(plan: MaskPlan, p: int, **fields: object) -> MaskPlan:
    presses = list(plan.presses)
    presses[p] = msgspec.structs.replace(presses[p], **fields)
    return msgspec.structs.replace(plan, presses=tuple(presses))


def never_made(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    if not (made := _pressed(plan, work)):
        return None
    p, key = dice.choice(made)
    left = tuple(one for one in plan.presses[p].impressions if one != key)
    return Damage(_set_press(plan, p, impressions=left), actions, work, {"missing"}, {piece_key(key)})


def made_twice(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    if not (made := _pressed(plan, work)):
        return None
    p, key = dice.choice(made)
    twice = (*plan.presses[p].impressions, key)
    return Damage(_set_press(plan, p, impressions=twice), actions, work, {"extra"}, {piece_key(key)})


def _shifted(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random, by: float) -> Damage | None:
    images = [one for one in work.card.pieces if isinstance(one, Impression)]
    if not images:
        return None
    one, turn = dice.choice(images), dice.uniform(0, 2 * np.pi)
    moved = msgspec.structs.replace(one, x=one.x + by * np.cos(turn), y=one.y + by * np.sin(turn))
    return Damage(plan, actions, _with(work, moved), {"place"}, {one.id})


def moved_half(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    return _shifted(work, plan, actions, dice, 0.5)


def moved_far(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    return _shifted(work, plan, actions, dice, 1.5)


def turned(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    images = [one for one in work.card.pieces if isinstance(one, Impression)]
    if not images:
        return None
    one = dice.choice(images)
    other = msgspec.structs.replace(one, angle_deg=(one.angle_deg + dice.choice([-6, 4, 9])) % 360)
    return Damage(plan, actions, _with(work, other), {"place"}, {one.id})


def other_ink(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    images = [one for one in work.card.pieces if isinstance(one, Impression) and not one.resists]
    if not images:
        return None
    one = dice.choice(images)
    ink = dice.choice(["#b0203a", "#2d4f9e", "#ffffff", "#8a5a2b"])
    if ink == one.ink:
        return None
    return Damage(plan, actions, _with(work, msgspec.structs.replace(one, ink=ink)), {"colour"}, {one.id})


def press_forgotten(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    presses = [p for p, press in enumerate(plan.presses) if not press.is_ink]
    if not presses:
        return None
    p = dice.choice(presses)
    pieces = {piece_key(key) for key in plan.presses[p].impressions}
    return Damage(_set_press(plan, p, impressions=()), actions, work, {"missing"}, pieces)


def press_swapped(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    pairs = [
        (a, b)
        for a in range(len(plan.presses))
        for b in range(a)
        if plan.presses[a].surface == plan.presses[b].surface and not plan.presses[a].by_hand
    ]
    if not pairs:
        return None
    a, b = dice.choice(pairs)
    presses = list(plan.presses)
    one, other = presses[a], presses[b]
    if dice.random() < 0.5:  # masks go with their press: seldom seen, since the paper is the same in the end
        presses[a], presses[b] = other, one
    else:  # the stamps alone: each meets the masks of the other
        presses[a] = msgspec.structs.replace(one, impressions=other.impressions)
        presses[b] = msgspec.structs.replace(other, impressions=one.impressions)
    pieces = {piece_key(key) for n in range(b, a + 1) for key in presses[n].impressions}
    kinds = {"missing", "order", "ghost", "halo", "extra", "spill", "skip"}
    return Damage(msgspec.structs.replace(plan, presses=tuple(presses)), actions, work, kinds, pieces)


def _masked(plan: MaskPlan) -> list[tuple[int, str]]:
    return [(p, key) for p, press in enumerate(plan.presses) for key in press.masked]


def mask_forgotten(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    if not plan.masks:
        return None
    n = dice.randrange(len(plan.masks))
    pieces = {piece_key(key) for key in plan.masks[n].serves}
    return Damage(plan, actions, work, {"ghost"}, pieces, left_out=(n,))


def mask_slipped(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    if not plan.masks:
        return None
    n, turn = dice.randrange(len(plan.masks)), dice.uniform(0, 2 * np.pi)
    by = dice.choice([1.0, 2.5])
    pieces = {piece_key(key) for key in plan.masks[n].serves}
    slips = {n: (by * float(np.cos(turn)), by * float(np.sin(turn)))}
    return Damage(plan, actions, work, {"ghost", "halo", "missing", "order"}, pieces, slips=slips)


def mask_of_another(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    others = [(n, one.id) for n, mask in enumerate(plan.masks) for one in work.stash.stamps if one.id != mask.stamp]
    others = [(n, key) for n, key in others if any(mask.stamp == key for mask in plan.masks)]
    if not others:
        return None
    n, key = dice.choice(others)
    masks = list(plan.masks)
    pieces = {piece_key(one) for one in masks[n].serves}
    masks[n] = msgspec.structs.replace(masks[n], stamp=key, stretches=())
    kinds = {"ghost", "halo", "missing", "order", "skip"}
    return Damage(msgspec.structs.replace(plan, masks=tuple(masks)), actions, work, kinds, pieces)


def lifted_early(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    masked = _masked(plan)
    if not masked:
        return None
    _, key = dice.choice(masked)
    last = max(p for p, one in masked if one == key)
    left = tuple(one for one in plan.presses[last].masked if one != key)
    return Damage(_set_press(plan, last, masked=left), actions, work, {"ghost"}, {piece_key(key)})


def _wash_changed(work: Work, plan: MaskPlan, actions: list[Action], piece: Wash, **fields: object) -> Damage:
    kinds = {"missing", "extra", "colour", "ghost"}
    return Damage(plan, actions, _with(work, msgspec.structs.replace(piece, **fields)), kinds, {piece.id})


def _one_less(
    work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random, washes: list[Wash], field: str
) -> Damage | None:
    """One of the covers, or of the lays, of a wash is left out."""
    if not washes:
        return None
    one = dice.choice(washes)
    all_of = getattr(one, field)
    n = dice.randrange(len(all_of))
    return _wash_changed(work, plan, actions, one, **{field: all_of[:n] + all_of[n + 1 :]})


def cover_forgotten(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    washes = [one for one in work.card.pieces if isinstance(one, Wash) and one.covers]
    return _one_less(work, plan, actions, dice, washes, "covers")


def counter_forgotten(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    if not plan.counters:
        return None
    one = dice.choice(plan.counters)
    left = tuple(other for other in plan.counters if other is not one)
    pieces = {piece_key(key) for key in one.serves}
    return Damage(msgspec.structs.replace(plan, counters=left), actions, work, {"spill"}, pieces)


def lay_forgotten(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    washes = [one for one in work.card.pieces if is_stepped(one) and len(one.lays) > 1]
    return _one_less(work, plan, actions, dice, washes, "lays")


def wash_twice(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    made = _pressed(plan, work, ink=True)
    if not made:
        return None
    p, key = dice.choice(made)
    return Damage(_set_press(plan, p, impressions=(key, key)), actions, work, {"extra"}, {key})


def _coloured(work: Work) -> list[Impression | Cutout]:
    return [one for one in work.card.pieces if isinstance(one, Impression | Cutout) and one.is_coloured]


def colour_left_out(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    if not (images := _coloured(work)):
        return None
    one = dice.choice(images)
    left = [action for action in actions if (action.kind, action.piece) != ("colour", one.id)]
    return Damage(plan, left, work, {"missing"}, {one.id})


def other_shade(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    if not (images := _coloured(work)):
        return None
    one = dice.choice(images)
    if not one.colouring:
        other = msgspec.structs.replace(one, colour="#b03060" if one.colour != "#b03060" else "#306090")
        return Damage(plan, actions, _with(work, other), {"colour"}, {one.id})
    n = dice.randrange(len(one.colouring))
    shades = tuple(msgspec.structs.replace(shade, colour="#b03060") for shade in one.colouring[n].shades)
    part = msgspec.structs.replace(one.colouring[n], shades=shades)
    other = msgspec.structs.replace(one, colouring=(*one.colouring[:n], part, *one.colouring[n + 1 :]))
    return Damage(plan, actions, _with(work, other), {"colour"}, {one.id})


def not_glued(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    glued = [one for one in work.card.pieces if isinstance(one, PaperPiece)]
    if not glued:
        return None
    one = dice.choice(glued)
    left = [action for action in actions if (action.kind, action.piece) != ("glue", one.id)]
    return Damage(plan, left, work, {"missing"}, {one.id})


def glued_over(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    """A piece that belongs under another is glued on right after it."""
    leaves = [leaf for leaf in stack(work) if isinstance(leaf.piece, PaperPiece) and leaf.key == leaf.piece.id]
    pairs = [
        (back.piece.id, front.piece.id)
        for n, back in enumerate(leaves)
        for front in leaves[n + 1 :]
        if front.piece.on == back.piece.on and back.area.intersection(front.area).area > 2.0
    ]
    if not pairs:
        return None
    back, front = dice.choice(pairs)
    moved = next((one for one in actions if (one.kind, one.piece) == ("glue", back)), None)
    if moved is None:
        return None
    left = [one for one in actions if one is not moved]
    at = next(n for n, one in enumerate(left) if (one.kind, one.piece) == ("glue", front)) + 1
    late = msgspec.structs.replace(moved, under=())
    pieces = {back, front, *(one.id for one in work.card.pieces if one.on in (back, front))}
    return Damage(plan, [*left[:at], late, *left[at:]], work, {"order", "missing"}, pieces)


def glued_beside(work: Work, plan: MaskPlan, actions: list[Action], dice: random.Random) -> Damage | None:
    glued = [one for one in work.card.pieces if isinstance(one, PaperPiece)]
    if not glued:
        return None
    one, turn = dice.choice(glued), dice.uniform(0, 2 * np.pi)
    x, y = 2 * np.cos(turn), 2 * np.sin(turn)
    led = {one.id}
    for other in work.card.pieces:  # what lies on it goes with it
        led |= {other.id} if other.on in led else set()
    done = work
    for other in work.card.pieces:
        if other.id in led:
            done = _with(done, msgspec.structs.replace(other, x=other.x + x, y=other.y + y))
    return Damage(plan, actions, done, {"place"}, led)


MAKERS: dict[str, Maker] = {
    maker.__name__.replace("_", " "): maker
    for maker in (
        never_made,
        made_twice,
        moved_half,
        moved_far,
        turned,
        other_ink,
        press_forgotten,
        press_swapped,
        mask_forgotten,
        mask_slipped,
        mask_of_another,
        lifted_early,
        cover_forgotten,
        counter_forgotten,
        lay_forgotten,
        colour_left_out,
        other_shade,
        not_glued,
        glued_over,
        glued_beside,
        wash_twice,
    )
}


def _seen(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """Where two pictures differ so that it is seen; (rows, columns) bool."""
    differ = np.zeros(one.shape[:2], bool)
    rows, columns = np.nonzero((one != other).any(axis=2))
    if len(rows):
        labs = [rgb2lab(picture[rows, columns][None].astype(np.float64) / 255)[0] for picture in (one, other)]
        differ[rows, columns] = deltaE_ciede2000(*labs) > SEEN_DELTA
    return differ


def seen_area(one: np.ndarray, other: np.ndarray) -> float:
    """How much of two pictures differs so that it is seen, mm2."""
    return float(_seen(one, other).sum()) / PX_PER_MM2


def seen_patches(one: np.ndarray, other: np.ndarray) -> Iterator[tuple[np.ndarray, float]]:
    """Yield the patches in which two pictures differ so that it is seen: their pixels, and mm2."""
    labels, count = ndimage.label(_seen(one, other), structure=np.ones((3, 3)))
    areas = np.bincount(labels.ravel(), minlength=count + 1) / PX_PER_MM2
    for number in np.flatnonzero(areas[1:] >= SEEN_MM2 * 1.05) + 1:
        yield labels == number, float(areas[number])
