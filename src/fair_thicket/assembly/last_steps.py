"""What is done on the back, and at the very end: the maker's mark, finishes, and how long they lie wet."""

from collections.abc import Iterator, Sequence

from fair_thicket.assembly.operation import After, Operation
from fair_thicket.assembly.side import Side
from fair_thicket.estimate.minutes import printing_min
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.finishes import GLAZE_MIN, PEN_MIN, find_finish
from fair_thicket.model.keys import is_flap, piece_key
from fair_thicket.model.pieces import Embellishment


def dries(sides: Sequence[Side], one: Operation) -> float:
    """How long what an operation leaves has to dry before the card is handled."""
    rules = sides[0].work.card.assembly
    on_vellum = any(
        glue.piece in one.pieces and glue.kind == "behind what is opaque" for side in sides for glue in side.glue.glues
    )
    if one.kind == "glue" and on_vellum:
        return rules.vellum_min
    if one.kind == "set":
        return max((_wet_min(side, one) for side in sides), default=0.0)
    return rules.hold_min if one.kind == "glue" else 0.0


def _wet_min(side: Side, one: Operation) -> float:
    """How long a finish lies wet: hours, or minutes of a pen."""
    pieces = [piece for piece in side.work.card.pieces if piece.id in one.pieces and isinstance(piece, Embellishment)]
    return max((wet_min(side.work, piece) for piece in pieces), default=0.0)


def wet_min(work: Work, piece: Embellishment) -> float:
    """Return how long a finish lies wet, minutes."""
    waits = {"wet": work.card.assembly.gloss_min, "minute": PEN_MIN, "glaze": GLAZE_MIN, "": 0.0}
    return waits[find_finish(piece.shape).dries]


def mark_back(sides: Sequence[Side]) -> Iterator[Operation]:
    """Stamp the maker's mark on the back before the front gets its height."""
    if not sides or not sides[0].work.card.mark:
        return
    work = sides[0].work
    mark = work.card.mark
    name = f"mark ({work.stash.find(mark).name})" if work.stash.has(mark) else f"mark “{mark}”"
    rates = work.card.masking.rates
    words = f"Stamp your {name} small on the back, in the middle of its foot"
    yield Operation("mark", "mark", words, (), printing_min(rates), "block")


def set_last(sides: Sequence[Side], found: Sequence[Operation]) -> Iterator[Operation]:
    """Set sequins and drops, dab and draw, when all else is done; what was drawn before is left out."""
    every = tuple(After(one.key, "wet drops, gems and sequins come last, lying flat") for one in found)
    known = {one.key for one in found}
    for side in sides:
        names = name_pieces(side.work)
        for piece in side.work.card.pieces:
            key = f"{side.prefix}set {piece.id}"
            if isinstance(piece, Embellishment) and key not in known:
                words, minutes, tool = say_finish(piece, names[piece.id])
                yield Operation(key, "set", words, (piece.id,), minutes, tool, every)


def drawn_early(side: Side) -> frozenset[str]:
    """Ids of finishes that something is glued over: they are set or drawn before that, and dry by then."""
    rests = [rest for rest in side.heights.rests if not is_flap(rest.key)]
    covered = {piece_key(key) for rest in rests for key in rest.under}
    return frozenset(rest.key for rest in rests if isinstance(rest.piece, Embellishment) and rest.key in covered)


def say_finish(piece: Embellishment, name: str) -> tuple[str, float, str]:
    """Say how a finish is set, dabbed or drawn: words, minutes, and what is in the hand."""
    kind = find_finish(piece.shape)
    last = "; leave the card lying flat" if kind.dries == "wet" else ""
    words = f"{kind.how} the {name}{last}{f'; {kind.mind}' if kind.mind else ''}"
    return words, round(0.3 * len(piece.spots), 2), "tweezers" if kind.how == "Set" else kind.at_hand
