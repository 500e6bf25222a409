"""Mask or cut out: what a plan costs, what the other way would cost for each image, and the quickest mix of both."""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import msgspec

from fair_thicket.estimate.minutes import careful_mm, cutting_min, gluing_min, mask_making_min
from fair_thicket.estimate.post import paper_grams
from fair_thicket.laid.heights import find_heights
from fair_thicket.laid.pinned import as_planned, cut_by_pins, with_fronts
from fair_thicket.laid.stack import stack
from fair_thicket.masks.planning import plan as make_plan
from fair_thicket.masks.timetable import list_steps
from fair_thicket.model.card import Work, name_pieces, order_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.masking import Pin
from fair_thicket.model.pieces import Cutout, Impression, PaperPiece, Piece, as_cut, as_stamped
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.speech import join_words
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.shape.paper import footprint


class Cost(msgspec.Struct, frozen=True):
    """What making all images of a card takes.

    Attributes
    ----------
    presses, masks, placements : int
    careful_mm : float
        Line followed with care: along masks, and round images cut out by hand.
    minutes : float
        By the maker's rates, waits for ink to dry included; colouring is the same either way and left out.
    grams : float
        Paper that is glued on.
    height_mm : float
        Of all that is glued on this side, where it is highest, foam included.
    """

    presses: int
    masks: int
    placements: int
    careful_mm: float
    minutes: float
    grams: float
    height_mm: float

    def less(self, other: "Cost") -> "Cost":
        """Return the difference to another, field by field."""
        return Cost(*(getattr(self, name) - getattr(other, name) for name in self.__struct_fields__))


@dataclass(frozen=True)
class Price:
    """What the other way would cost for one image.

    Attributes
    ----------
    piece : str
    way : str
        ``cut`` it out instead of stamping it, or ``stamp`` it instead of cutting it out.
    along : tuple of str
        Other images that go with it: what is glued lies in front of all that is stamped.
    change : Cost or None
        The other way less the present one; None where paper refuses.
    reason : str
        Why paper refuses.
    """

    piece: str
    way: str
    along: tuple[str, ...]
    change: Cost | None
    reason: str = ""


def cost_of(work: Work, plan: MaskPlan) -> Cost:
    """Add up what a plan and the images that are cut out take."""
    rates = work.card.masking.rates
    glued = _glued_images(work)
    steps = sum(step.minutes for step in list_steps(work, plan))
    cutting = sum(cutting_min(piece, work) + gluing_min(rates) for piece in glued)
    careful = sum(careful_mm(piece, work.stash) for piece in glued)
    return Cost(
        plan.press_count,
        len(plan.masks) + len(plan.counters),
        plan.placements,
        float(plan.careful_mm + careful),
        float(steps + mask_making_min(rates, plan) + cutting),
        sum(paper_grams(rates, footprint(piece, work.stash).area, piece.layers) for piece in glued),
        round(find_heights(as_planned(work)).most_mm, 3),
    )


def _glued_images(work: Work) -> list[Cutout]:
    cut = cut_by_pins(work)
    found = []
    for piece in work.card.pieces:
        if isinstance(piece, Impression) and piece.id in cut:
            found.append(as_cut(piece))
        elif isinstance(piece, Cutout) and piece.opening is None and not work.stash.find(piece.stamp).kind.is_plain:
            found.append(piece)
    return found


def with_pins(work: Work, pins: Iterable[Pin]) -> Work:
    """Return a work with pins added."""
    masking = work.card.masking
    added = msgspec.structs.replace(masking, pins=(*masking.pins, *pins))
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, masking=added))


def price_other_way(work: Work, plan: MaskPlan, key: str, *, before: Cost | None = None, seconds: float = 2.0) -> Price:
    """Price the other way for one image: cut out instead of stamped, or stamped instead of cut out.

    Raises
    ------
    PaperError
        When the piece is no image.
    """
    before = cost_of(work, plan) if before is None else before
    piece = work.card.find(key)
    if isinstance(piece, Impression) and key in cut_by_pins(work):
        return Price(key, "stamp", (), None, "A pin has it cut out; take the pin away to stamp it.")
    if isinstance(piece, Impression):
        along = tuple(sorted(with_fronts(work, {key}) - {key} - cut_by_pins(work)))
        other = with_pins(work, [Pin("cut", (key,))])
        way = "cut"
    elif isinstance(piece, Cutout):
        way = "stamp"
        try:
            other, along = stamp_with_backs(work, key)
        except PaperError as problem:
            return Price(key, way, (), None, str(problem))
    else:
        raise PaperError("Only an image can be stamped or cut out.")
    try:
        after = cost_of(other, make_plan(other, seconds=seconds))
    except PaperError as problem:
        return Price(key, way, along, None, str(problem))
    return Price(key, way, along, after.less(before))


def stamp_with_backs(work: Work, key: str) -> tuple[Work, tuple[str, ...]]:
    """Stamp a cut image instead, with all cut images behind it that it overlaps; gives the ids of those as well.

    Raises
    ------
    PaperError
        When what it lies on or over cannot be stamped.
    """
    names = name_pieces(work)
    leaves = {leaf.key: leaf.area for leaf in stack(work) if leaf.key == leaf.piece.id}
    order = list(work.card.pieces)
    wanted = {key}
    for index in range(len(order) - 1, -1, -1):
        piece = order[index]
        if piece.id not in wanted:
            continue
        _refuse_unstampable(work, piece, names[piece.id])
        for other in order[:index]:
            is_under = other.on == piece.on and isinstance(other, PaperPiece)
            if is_under and leaves[other.id].intersection(leaves[piece.id]).area > OVERLAP_MM2:
                if not isinstance(other, Cutout) or work.stash.find(other.stamp).kind.is_plain:
                    raise PaperError(
                        f"The {names[piece.id]} lies over the {names[other.id]}, which is glued: what is stamped "
                        "cannot be in front of it."
                    )
                wanted.add(other.id)
    stamped = tuple(as_stamped(one) if isinstance(one, Cutout) and one.id in wanted else one for one in order)
    card = msgspec.structs.replace(work.card, pieces=order_pieces(stamped))
    return msgspec.structs.replace(work, card=card), tuple(sorted(wanted - {key}))


def _refuse_unstampable(work: Work, piece: Piece, name: str) -> None:
    if not isinstance(piece, Cutout) or work.stash.find(piece.stamp).kind.is_plain:
        raise PaperError(f"The {name} is plain paper; only an image can be stamped.")
    if piece.flipped or piece.joined or piece.flaps or piece.opening is not None:
        raise PaperError(f"The {name} is turned over, joint or has flaps; a single stamp cannot print that.")
    if any(one.on == piece.id for one in work.card.pieces):
        raise PaperError(f"Other pieces lie on the {name}; take them off first.")


def price_all(work: Work, plan: MaskPlan, *, go_on: Callable[[], bool] = lambda: True) -> list[Price]:
    """Price the other way for every image of a card, the one that saves most minutes first."""
    before = cost_of(work, plan)
    prices = []
    for piece in reversed(work.card.pieces):
        is_image = isinstance(piece, Impression) or (
            isinstance(piece, Cutout) and piece.opening is None and not work.stash.find(piece.stamp).kind.is_plain
        )
        if is_image and go_on():
            prices.append(price_other_way(work, plan, piece.id, before=before))
    return sorted(prices, key=lambda price: price.change.minutes if price.change else math.inf)


def price_pin(work: Work, plan: MaskPlan, pin: Pin) -> Cost:
    """Say what a pin costs: the plan with it less the plan without it."""
    masking = work.card.masking
    rest = msgspec.structs.replace(masking, pins=tuple(one for one in masking.pins if one != pin))
    without = msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, masking=rest))
    return cost_of(work, plan).less(cost_of(without, make_plan(without, seconds=3.0)))


def say_change(change: Cost) -> str:
    """Say a difference in words: ``1 press less, 40 mm more with care, 3 min less``."""
    told = []
    for figure, one, many in (
        (change.presses, "press", "presses"),
        (change.masks, "mask", "masks"),
    ):
        if figure:
            told.append(f"{abs(figure)} {one if abs(figure) == 1 else many} {_more(figure)}")
    if abs(change.careful_mm) >= 1:
        told.append(f"{abs(change.careful_mm):.0f} mm {_more(change.careful_mm)} with care")
    if abs(change.minutes) >= 0.1:
        told.append(f"{abs(change.minutes):.1f} min {_more(change.minutes)}")
    if abs(change.grams) >= 0.05:
        told.append(f"{abs(change.grams):.1f} g {_more(change.grams)}")
    if abs(change.height_mm) >= 0.05:
        told.append(f"{abs(change.height_mm):.2g} mm {'higher' if change.height_mm > 0 else 'lower'}")
    return join_words(told) if told else "no difference"


def _more(figure: float) -> str:
    return "more" if figure > 0 else "less"
