"""A wash told as steps: covers first, then ink, a stencil moved from lay to lay, then the wait."""

from types import MappingProxyType

from fair_thicket.edits.extending import shares_guides
from fair_thicket.estimate.minutes import inking_min, lay_min, wash_dry_min
from fair_thicket.ink.naming import say_colour
from fair_thicket.laid.stack import stack
from fair_thicket.masks.table import Table, say_minutes
from fair_thicket.model.card import Work
from fair_thicket.model.formats import Fold
from fair_thicket.model.moves import moves_of, say_move
from fair_thicket.model.pieces import WASH, AnyThrough, AnyWash, Paste, Texture, Through, Wash, Water, is_stepped
from fair_thicket.model.plan import Press
from fair_thicket.model.speech import join_words
from fair_thicket.model.units import say_length
from fair_thicket.shape.wash_kinds import kind_of

FOLD_MM = 1.0
WAYS = MappingProxyType(
    {
        "even": "evenly",
        "linear": "from edge to edge",
        "band": "from a band outward",
        "corner": "from a corner",
        "glow": "the first where it glows",
    }
)
COVERS = MappingProxyType(
    {
        "disc": "a disc of masking paper",
        "counter": "the counter mask: ink only in its opening",
        "tape": "tape",
        "sheet": "a cover sheet",
        "torn": "masking paper torn along the ragged line",
    }
)


def tell_wash(table: Table, p: int, press: Press) -> None:
    """Ink a wash: covers first, then the ink, then the wait."""
    for key in press.impressions:
        piece = table.work.card.find(key)
        if not isinstance(piece, Wash):
            continue
        name, rates = table.names[key], table.rates
        covers = [COVERS[cover.kind] for cover in piece.covers]
        covers += ["tape along the fold"] if _reaches_fold(table.work, piece) else []
        if piece.strays:
            reach = say_length(table.work.card.masking.splatter_mm, table.work.card.unit)
            covers.append(f"scrap paper over everything within {reach} that is to stay clean")
        for index, words in enumerate(covers):
            table.say("cover", p, f"For the {name}: lay {words}", (f"{key}:{index}",), minutes=lay_min(rates))
        _ink(table, p, piece)
        if covers:
            words = f"Take off what covers the {name}: {join_words(covers)}"
            table.say("lift", p, words, tuple(f"{key}:{index}" for index in range(len(covers))))


def _ink(table: Table, p: int, piece: AnyWash) -> None:
    """Ink a wash as its kind wants it, and wait."""
    if is_stepped(piece):
        _ink_stepped(table, p, piece)
    elif isinstance(piece, Water) and piece.stamp:
        _stamp_water(table, p, piece)
    else:
        words = kind_of(piece).step.format(**_words_of(table, piece))
        table.say("ink", p, words, (piece.id,), minutes=inking_min(table.rates, piece))
        _wait(table, p, piece)


def _stamp_water(table: Table, p: int, piece: Water) -> None:
    """Stamp clear water on dry ink, leave it and blot."""
    name = table.work.stash.find(piece.stamp).name
    words = (
        f"When the ink is dry: mist the {name} with clean water, stamp it once, leave it {piece.dwell_s} s, and blot "
        "straight down with a dry cloth: its shape is lifted"
    )
    table.say("ink", p, words, (piece.id,), minutes=inking_min(table.rates, piece))
    _wait(table, p, piece)


def _words_of(table: Table, piece: AnyWash) -> dict[str, object]:
    """Say what goes into the words of a step."""
    inks = join_words([say_colour(ink) for ink in piece.inks]) if len(piece.inks) > 1 else ""
    stencil, taped = "stencil", ""
    if isinstance(piece, Through):
        stencil = table.work.stash.find(piece.stencil).name if piece.stencil else stencil
        first = shares_guides(table.work, piece)
        stencil += f", its guide lines on those of the {table.names[first]}" if first else ""
        taped = f"; first tape {_some(len(piece.taped))} over" if piece.taped else ""
    coats = "one thin coat" if piece.coats == 1 else f"{piece.coats} thin coats, a pause after each"
    recipe = f" with {inks}, {WAYS[piece.way]}" if inks else ""
    marks = len(piece.spots) if isinstance(piece, Texture) else 0
    name = table.names[piece.id]
    return {"name": name, "stencil": stencil, "taped": taped, "recipe": recipe, "coats": coats, "marks": marks}


def _wait(table: Table, p: int, piece: AnyWash) -> None:
    longest = wash_dry_min(table.rates, piece)
    words = f"Wait {say_minutes(longest)}, until the {table.names[piece.id]} is dry"
    table.say("wait", p, words, (piece.id,), minutes=longest)


def _ink_stepped(table: Table, p: int, piece: AnyThrough) -> None:
    """Ink a wash through a stencil that is stepped: lay, ink, move, ink."""
    name, rates, unit = table.names[piece.id], table.rates, table.work.card.unit
    stencil = table.work.stash.find(piece.stencil)
    edge = "through its openings" if stencil.pockets else "above its edge"
    fading = f", fading out over {say_length(piece.reach_mm, unit)}" if piece.reach_mm and not stencil.pockets else ""
    moves = moves_of(piece.lays)
    for number, lay in enumerate(piece.lays):
        over = " turned over" if lay.flipped else ""
        words = (
            f"Lay the {stencil.name}{over} on its marks 1 of the {name}; tape it down"
            if number == 0
            else f"Wipe the {stencil.name} and move it to its marks {number + 1}: {say_move(moves[number - 1], unit)}"
        )
        if number == 0 and piece.taped:
            words += f"; tape {_some(len(piece.taped))} over"
        table.say("cover", p, words, (f"{piece.id}:lay{number}",), minutes=lay_min(rates))
        ink = say_colour(lay.ink or piece.colour or WASH)
        words = f"Ink {edge} in {ink}{fading}"
        if isinstance(piece, Paste):
            words = f"Spread paste thinly {edge} in {ink}; lift the stencil straight up and wash it at once"
        share = inking_min(rates, piece) / len(piece.lays)
        table.say("ink", p, words, (f"{piece.id}:lay{number}",), minutes=share)
    _wait(table, p, piece)


def _some(number: int) -> str:
    return "one of its openings" if number == 1 else f"{number} of its openings"


def _reaches_fold(work: Work, piece: AnyWash) -> bool:
    """Whether a wash on the card itself reaches the fold, where tape keeps ink off the back."""
    if piece.on:
        return False
    area = next(leaf.area for leaf in stack(work) if leaf.piece.id == piece.id)
    if area.is_empty:
        return False
    left, top, _, _ = area.bounds
    return (top if work.card.fold is Fold.TOP else left) < FOLD_MM
