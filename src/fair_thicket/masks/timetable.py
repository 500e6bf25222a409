"""The plan told as the steps of the build sheet, one thing to do at the table after the other, with its minutes."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import msgspec

from fair_thicket.masks.posing import cut_by_pins
from fair_thicket.model.card import Work, is_greeting, name_pieces, piece_key
from fair_thicket.model.formats import Fold
from fair_thicket.model.masking import Rates
from fair_thicket.model.palette import name_of
from fair_thicket.model.pieces import Impression, Wash
from fair_thicket.model.plan import SHEET, MaskPlan, Press
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.masking_paper import Lying, list_lyings
from fair_thicket.shape.stack import paper_of, stack

NEW_TAG = "new"
"""A stamp with this tag is new: its rubber takes ink badly at first."""
PRESSES_NEW, PRESSES_TEXTURED, PRESSES_WORDS = 3, 2, 2
"""Presses in place for an even print (common practice; words: twice lightly beats once hard)."""
OFF_MM2 = 1.0
FOLD_MM = 1.0


class Step(msgspec.Struct, frozen=True):
    """One thing to do at the table.

    Attributes
    ----------
    kind : str
        ``wait``, ``lay``, ``move``, ``turn``, ``stamp``, ``check``, ``cover``, ``ink`` or ``lift``.
    press : int
        Index of the press it belongs to.
    words : str
    pieces : tuple of str
        Impressions concerned.
    minutes : float
        By the maker's rates.
    key : str
        The same for the same thing to do in another plan: what is ticked off stays ticked.
    """

    kind: str
    press: int
    words: str
    pieces: tuple[str, ...] = ()
    minutes: float = 0.0
    key: str = ""


@dataclass
class _Table:
    """The maker's table while the plan is told."""

    work: Work
    plan: MaskPlan
    names: Mapping[str, str]
    lyings: tuple[Lying, ...]
    cut: frozenset[str]
    steps: list[Step] = field(default_factory=list)
    minutes: float = 0.0
    stamped_at: dict[str, float] = field(default_factory=dict)

    @property
    def rates(self) -> Rates:
        return self.work.card.masking.rates

    def say(self, kind: str, press: int, words: str, pieces: Iterable[str] = (), *, minutes: float = 0.0) -> None:
        """Add a step."""
        keys = tuple(pieces)
        self.steps.append(Step(kind, press, words, keys, round(minutes, 2), f"{kind}:{'+'.join(sorted(keys))}"[:200]))
        self.minutes += minutes


def list_steps(work: Work, plan: MaskPlan) -> tuple[Step, ...]:
    """Tell the plan step by step, as the build sheet prints it and the rehearsal plays it."""
    table = _Table(work, plan, name_pieces(work), list_lyings(plan), cut_by_pins(work))
    for p, press in enumerate(plan.presses):
        fresh = [one for one in table.lyings if one.first == p]
        _wait(table, p, [piece_key(one.impression) for one in fresh])
        for one in fresh:
            _lay(table, p, one)
        for counter in plan.counters:
            if p in counter.presses:
                inside = join_words([table.names[key] for key in counter.serves])
                shape = table.names[counter.opening]
                words = f"Lay the counter mask of the {shape}: only its inside stays open for {inside}"
                table.say("cover", p, words, (counter.opening,), minutes=table.rates.lay_min)
        if press.is_ink:
            _ink(table, p, press)
        else:
            _stamp(table, p, press)
        if p + 1 == len(plan.presses) or plan.presses[p + 1].surface != press.surface:
            _lift(table, p, press)
    return tuple(table.steps)


def _wait(table: _Table, p: int, pieces: list[str]) -> None:
    """Wait until what is to be masked is dry."""
    masking = table.work.card.masking
    dry = table.rates.slow_dry_min if masking.ink == "slow" else table.rates.dry_min
    wet = [key for key in pieces if table.minutes - table.stamped_at.get(key, -1e9) < dry]
    if wet:
        longest = max(dry - (table.minutes - table.stamped_at[key]) for key in wet)
        which = join_words([table.names[key] for key in dict.fromkeys(wet)])
        words = f"Wait {_say_minutes(longest)}, until the ink of {which} is dry"
        table.say("wait", p, words, dict.fromkeys(wet), minutes=longest)


def _lay(table: _Table, p: int, one: Lying) -> None:
    before = [o for o in table.lyings if o.mask == one.mask and o.last < p]
    onto = f"onto “{table.names[one.impression]}”; line up its edges"
    if before:
        words = f"Move the mask from “{table.names[before[-1].impression]}” {onto}"
    else:
        name = table.work.stash.find(table.plan.masks[one.mask].stamp).name
        words = f"Lay the mask of the {name} {onto}"
    table.say("move" if before else "lay", p, words, (one.impression,), minutes=table.rates.lay_min)


def _stamp(table: _Table, p: int, press: Press) -> None:
    work, names = table.work, table.names
    which = join_words([names[key] for key in press.impressions])
    turned = [key for key in press.turned if key in press.impressions]
    if turned:
        told = join_words([names[key] for key in turned])
        table.say("turn", p, f"Leave the stamp of {told} in the platform and turn the panel half round", turned)
    placed = [key for key in press.impressions if key not in turned]
    upon = [names[piece_key(key)] for key in press.impressions if "/" in key and not key.endswith("/1")]
    register = f"; line {join_words(upon)} up on the layer before" if upon else ""
    times = presses_in_place(work, press)
    often = "ink and press" if times == 1 else f"ink and press {times} times in place, lightly"
    where = _name_surface(table, press)
    place = f"place {join_words([names[key] for key in placed])} face down on the {where}{register}, " if placed else ""
    words = f"Press {table.plan.number_of(p)}: {place}{often}{_inking(table, press)}"
    minutes = table.rates.place_min * len(placed) + table.rates.press_min * (1 + 0.4 * (times - 1))
    table.say("stamp", p, words, press.impressions, minutes=minutes)
    for key in press.impressions:
        table.stamped_at[piece_key(key)] = table.minutes
    table.say("check", p, f"Check {which}; press again in place if a line is faint", press.impressions)


def presses_in_place(work: Work, press: Press) -> int:
    """How often a press is repeated in place for an even print."""
    masking = work.card.masking
    if masking.ink == "slow":
        return 1
    stamps = _stamps_of(work, press)
    if any(NEW_TAG in (tag.lower() for tag in stamp.tags) for stamp in stamps):
        return PRESSES_NEW
    if masking.paper == "textured":
        return PRESSES_TEXTURED
    words = any(is_greeting(work.card.find(key), work.stash) for key in press.impressions)
    return PRESSES_WORDS if words else 1


def _stamps_of(work: Work, press: Press) -> list[Stamp]:
    pieces = [work.card.find(key) for key in press.impressions]
    return [work.stash.find(key) for piece in pieces for key in (getattr(piece, "stamp", ""),) if key]


def _inking(table: _Table, press: Press) -> str:
    """Say what is special about inking and placing."""
    told = []
    paper = paper_of(table.work.card)
    areas = {leaf.piece.id: leaf.whole for leaf in stack(table.work)}
    for key in press.impressions:
        piece, name = table.work.card.find(key), table.names[piece_key(key)]
        if not isinstance(piece, Impression) or piece.id in table.cut:
            continue
        if piece.inked is not None and piece.is_taped:
            told.append(f"tape off the rest of {name} before inking and peel the tape off before pressing")
        elif piece.inked is not None:
            told.append(f"ink only the wanted part of {name}")
        if piece.zones:
            told.append(f"ink {name} in {len(piece.zones) + 1} colours, part by part")
        if piece.resists:
            told.append(
                f"use clear embossing ink for {name}, powder it and melt the powder (heat tool: over 250 °C at its "
                "nozzle, tweezers, heat-proof mat; do not breathe the powder; the maker's label comes first)"
            )
        if not press.surface and areas[piece.id].difference(paper).area > OFF_MM2:
            told.append(f"lay scrap paper under the edge, {name} runs off the panel")
    return "".join(f"; {words}" for words in dict.fromkeys(told))


def _name_surface(table: _Table, press: Press) -> str:
    if press.surface == SHEET:
        return "sheet to cut from, with room to cut round each"
    return table.names.get(press.surface, "panel")


WAYS = {
    "even": "evenly",
    "linear": "from edge to edge",
    "band": "from a band outward",
    "corner": "from a corner",
    "glow": "the first where it glows",
}
COVERS = {
    "disc": "a disc of masking paper",
    "counter": "the counter mask: ink only in its opening",
    "tape": "tape",
    "sheet": "a cover sheet",
    "torn": "masking paper torn along the ragged line",
}


def _ink(table: _Table, p: int, press: Press) -> None:
    """Ink a wash: covers first, then the ink, then the wait."""
    for key in press.impressions:
        piece = table.work.card.find(key)
        if not isinstance(piece, Wash):
            continue
        name, rates = table.names[key], table.rates
        covers = [COVERS[cover.kind] for cover in piece.covers]
        covers += ["tape along the fold"] if _reaches_fold(table.work, piece) else []
        if piece.how == "splatter":
            reach = f"{table.work.card.masking.splatter_mm:g} mm"
            covers.append(f"scrap paper over everything within {reach} that is to stay clean")
        for index, words in enumerate(covers):
            table.say("cover", p, f"For the {name}: lay {words}", (f"{key}:{index}",), minutes=rates.lay_min)
        through = table.work.stash.find(piece.stencil).name if piece.how == "stencil" and piece.stencil else ""
        inks = join_words([name_of(ink) for ink in piece.inks]) if len(piece.inks) > 1 else ""
        recipe = f" with {inks}, {WAYS[piece.way]}" if inks else ""
        words = {
            "blend": f"Ink the {name}{recipe}: light first, several thin coats, a pause after each",
            "stencil": f"Ink the {name} through the {through or 'stencil'}, held down with low-tack tape",
            "splatter": f"Splatter the {name} from a brush, from one side",
        }[piece.how]
        table.say("ink", p, words, (key,), minutes=rates.wash_min)
        longest = rates.wash_dry_min
        table.say("wait", p, f"Wait {_say_minutes(longest)}, until the {name} is dry", (key,), minutes=longest)


def _reaches_fold(work: Work, piece: Wash) -> bool:
    """Whether a wash on the card itself reaches the fold, where tape keeps ink off the back."""
    if piece.on:
        return False
    area = next(leaf.area for leaf in stack(work) if leaf.piece.id == piece.id)
    if area.is_empty:
        return False
    left, top, _, _ = area.bounds
    return (top if work.card.fold is Fold.TOP else left) < FOLD_MM


def _lift(table: _Table, p: int, press: Press) -> None:
    here = [one for one in table.lyings if table.plan.presses[one.first].surface == press.surface]
    still = tuple(one.impression for one in here if not _moves(one, here))
    if still:
        table.say("lift", p, f"Lift {_count(len(still), 'mask')} off, slowly, and look at the whole", still)


def _moves(lying: Lying, lyings: list[Lying]) -> bool:
    return any(one.mask == lying.mask and one.first > lying.last for one in lyings)


def join_words(words: list[str]) -> str:
    """Join words as in speech: a, b and c."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def _say_minutes(minutes: float) -> str:
    rounded = max(0.5, round(minutes * 2) / 2)
    return "half a minute" if rounded == 0.5 else f"{rounded:g} min"


def _count(number: int, word: str) -> str:
    return f"the {word}" if number == 1 else f"all {number} {word}s"
