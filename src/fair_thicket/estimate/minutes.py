"""Minutes of hands by the maker's rates (`model.masking.Rates`): stamping, masks, washes, cutting out, gluing."""

from collections.abc import Iterable

from fair_thicket.laid.cutting import cuts_of, tool_of
from fair_thicket.laid.masking_paper import list_lyings
from fair_thicket.model.card import Work, is_greeting
from fair_thicket.model.masking import Masking, Rates
from fair_thicket.model.pieces import AnyWash, Border, Impression, PaperPiece, Paste, Piece, Water
from fair_thicket.model.plan import MaskPlan, Press
from fair_thicket.model.stash import Stamp, Stash
from fair_thicket.shape.paper import local_area
from fair_thicket.shape.wash_kinds import kind_of

NEW_TAG = "new"
"""A stamp with this tag is new: its rubber takes ink badly at first."""
PRESSES_NEW, PRESSES_TEXTURED, PRESSES_WORDS, PRESSES_CLEAR = 3, 2, 2, 2
"""Presses in place for an even print (common practice; words: twice lightly beats once hard)."""
AGAIN = 0.4
"""Pressing once more in place takes this share of the first time (our own guess)."""
HEAT_MIN, WASH_UP_MIN, WET_MIN = 2.0, 1.5, 1.0
"""Powdering and melting an image, washing a stencil, misting and blotting one (our own guesses)."""
COATS_OF_A_WASH = 3
"""So many thin coats are what the rate of a wash is for."""
TRIMMER_MIN, STRIP_MIN = 1.0, 0.25
"""A panel by the trimmer, a strip of foam (our own guesses)."""


def presses_in_place(work: Work, press: Press) -> int:
    """How often a press is repeated in place for an even print."""
    masking = work.card.masking
    pieces = [work.card.find(key) for key in press.impressions]
    clear = PRESSES_CLEAR if any(isinstance(one, Impression) and one.is_embossed for one in pieces) else 1
    if masking.ink == "slow":
        return clear
    if any(NEW_TAG in (tag.lower() for tag in stamp.tags) for stamp in _stamps_of(work, pieces)):
        return PRESSES_NEW
    if masking.paper == "textured":
        return PRESSES_TEXTURED
    return PRESSES_WORDS if any(is_greeting(one, work.stash) for one in pieces) else clear


def stamping_min(work: Work, press: Press) -> float:
    """Minutes of one press: placing what is not left in place for a half-turn, inking, closing, looking, embossing."""
    rates = work.card.masking.rates
    if press.by_hand:
        return printing_min(rates, len(press.impressions))
    placed = sum(key not in press.turned for key in press.impressions)
    minutes = rates.place_min * placed + rates.press_min * (1 + AGAIN * (presses_in_place(work, press) - 1))
    return minutes + HEAT_MIN * len(embossed_in(work, press))


def embossed_in(work: Work, press: Press) -> list[Impression]:
    """Return the impressions of a press that are powdered and melted."""
    pieces = dict.fromkeys(work.card.find(key) for key in press.impressions)
    return [one for one in pieces if isinstance(one, Impression) and one.is_embossed]


def laying_min(work: Work, plan: MaskPlan, number: int) -> float:
    """Minutes of laying masks and counter masks down for one press of a plan, by its number from 0."""
    fresh = sum(one.first == number for one in list_lyings(plan))
    return lay_min(work.card.masking.rates) * (fresh + sum(number in one.presses for one in plan.counters))


def lay_min(rates: Rates) -> float:
    """Minutes of laying or moving one mask or cover."""
    return rates.lay_min


def dry_min(masking: Masking) -> float:
    """Minutes until what is stamped is dry enough for a mask, or for the next step."""
    return masking.rates.slow_dry_min if masking.ink == "slow" else masking.rates.dry_min


def wash_dry_min(rates: Rates, piece: AnyWash) -> float:
    """Minutes until a wash is dry; paste takes longer."""
    return rates.paste_dry_min if kind_of(piece).dries == "paste" else rates.wash_dry_min


def mask_making_min(rates: Rates, plan: MaskPlan) -> float:
    """Minutes of stamping and cutting the masks of a plan."""
    return rates.rough_min * (len(plan.masks) + len(plan.counters)) + following_min(rates, plan.careful_mm)


def following_min(rates: Rates, length_mm: float) -> float:
    """Minutes of following a line with scissors."""
    return length_mm / rates.careful_mm_per_min


def inking_min(rates: Rates, piece: AnyWash) -> float:
    """Minutes of inking one wash, all its coats and lays, without what covers the rest."""
    if isinstance(piece, Water) and piece.stamp:
        return WET_MIN + piece.dwell_s / 60
    minutes = rates.wash_min * piece.coats / COATS_OF_A_WASH
    return minutes + WASH_UP_MIN if isinstance(piece, Paste) else minutes


def careful_mm(piece: PaperPiece, stash: Stash) -> float:
    """Length of line that is followed by hand to cut a piece out, all its layers, mm; 0 for a die or the trimmer."""
    tool = tool_of(piece, stash)
    if tool == "knife" and isinstance(piece, Border):  # along its drawn edge; the rest is trimmed
        return piece.length_mm * piece.layers
    return float(local_area(piece, stash).length) * piece.layers if tool == "scissors" else 0.0  # type: ignore[arg-type]


def cutting_min(piece: PaperPiece, work: Work) -> float:
    """Minutes of cutting a piece out, all its layers: along its own line, by passes of its die, or by the trimmer."""
    rates, tool = work.card.masking.rates, tool_of(piece, work.stash)
    if tool == "die":
        return rates.die_min * cuts_of(piece, work.stash) * piece.layers
    by_hand = following_min(rates, careful_mm(piece, work.stash))
    return by_hand if tool == "scissors" else by_hand + TRIMMER_MIN * piece.layers


def gluing_min(rates: Rates, strips: int = 0) -> float:
    """Minutes of gluing a piece in place, with so many strips of foam under it."""
    return rates.glue_min + STRIP_MIN * strips


def _stamps_of(work: Work, pieces: Iterable[Piece]) -> list[Stamp]:
    return [work.stash.find(key) for piece in pieces if (key := getattr(piece, "stamp", ""))]


def printing_min(rates: Rates, count: int = 1) -> float:
    """Minutes of stamping so many images one by one."""
    return count * (rates.place_min + rates.press_min)
