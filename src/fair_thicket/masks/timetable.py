"""The plan told as the steps of the build sheet, one thing to do at the table after the other, with its minutes."""

from fair_thicket.estimate.minutes import dry_min, lay_min, presses_in_place, stamping_min
from fair_thicket.ink.naming import say_colour
from fair_thicket.laid.masking_paper import Lying, list_lyings
from fair_thicket.laid.pinned import cut_by_pins
from fair_thicket.laid.stack import paper_of, stack
from fair_thicket.masks.table import Table, count, say_minutes
from fair_thicket.masks.wash_steps import tell_wash
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.keys import piece_key, read_key
from fair_thicket.model.pieces import INK, Impression
from fair_thicket.model.plan import SHEET, MaskPlan, Press
from fair_thicket.model.speech import join_words
from fair_thicket.model.steps import Step

OFF_MM2 = 1.0


def list_steps(work: Work, plan: MaskPlan) -> tuple[Step, ...]:
    """Tell the plan step by step, as the build sheet prints it and the rehearsal plays it."""
    table = Table(work, plan, name_pieces(work), list_lyings(plan), cut_by_pins(work))
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
                table.say("cover", p, words, (counter.opening,), minutes=lay_min(table.rates))
        if press.by_hand:
            _stamp_by_hand(table, p, press)
            continue
        if press.is_ink:
            tell_wash(table, p, press)
        else:
            _stamp(table, p, press)
        _lift_counters(table, p)
        if p + 1 == len(plan.presses) or plan.presses[p + 1].by_hand or plan.presses[p + 1].surface != press.surface:
            _lift(table, p, press)
    return tuple(table.steps)


def _wait(table: Table, p: int, pieces: list[str]) -> None:
    """Wait until what is to be masked is dry."""
    dry = dry_min(table.work.card.masking)
    wet = [key for key in pieces if table.minutes - table.stamped_at.get(key, -1e9) < dry]
    if wet:
        longest = max(dry - (table.minutes - table.stamped_at[key]) for key in wet)
        which = join_words([table.names[key] for key in dict.fromkeys(wet)])
        words = f"Wait {say_minutes(longest)}, until the ink of {which} is dry"
        table.say("wait", p, words, dict.fromkeys(wet), minutes=longest)


def _lay(table: Table, p: int, one: Lying) -> None:
    before = [o for o in table.lyings if o.mask == one.mask and o.last < p]
    onto = f"onto “{table.names[one.impression]}”; line up its edges"
    if before:
        words = f"Move the mask from “{table.names[before[-1].impression]}” {onto}"
    else:
        name = table.work.stash.find(table.plan.masks[one.mask].stamp).name
        words = f"Lay the mask of the {name} {onto}"
    table.say("move" if before else "lay", p, words, (one.impression,), minutes=lay_min(table.rates))


def _stamp(table: Table, p: int, press: Press) -> None:
    work, names = table.work, table.names
    which = join_words([names[key] for key in press.impressions])
    turned = [key for key in press.turned if key in press.impressions]
    if turned:
        told = join_words([names[key] for key in turned])
        table.say("turn", p, f"Leave the stamp of {told} in the platform and turn the panel half round", turned)
    placed = [key for key in press.impressions if key not in turned]
    times = presses_in_place(work, press)
    often = "ink and press" if times == 1 else f"ink and press {times} times in place, lightly"
    where = _name_surface(table, press)
    place = f"place {join_words([names[key] for key in placed])} face down on the {where}" if placed else ""
    place += f"{_register(table, press)}, " if placed else ""
    words = f"Press {table.plan.number_of(p)}: {place}{often}{_inking(table, press)}"
    table.say("stamp", p, words, press.impressions, minutes=stamping_min(work, press))
    for key in press.impressions:
        table.stamped_at[piece_key(key)] = table.minutes
    table.say("check", p, f"Check {which}; press again in place if a line is faint", press.impressions)


def _stamp_by_hand(table: Table, p: int, press: Press) -> None:
    """Stamp one image by hand beside what is glued."""
    which = join_words([table.names[key] for key in press.impressions])
    words = (
        f"When all is glued: mount the {which} on a clear block, ink it, look through the block where it goes on the "
        f"{_name_surface(table, press)}, and press by hand, once, without rocking"
    )
    table.say("stamp", p, words, press.impressions, minutes=stamping_min(table.work, press))


def _register(table: Table, press: Press) -> str:
    upon = [table.names[piece_key(key)] for key in press.impressions if (read_key(key).layer or 1) > 1]
    return f"; line {join_words(upon)} up on the layer before" if upon else ""


def _inking(table: Table, press: Press) -> str:
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
        if piece.is_embossed:
            told.append(_say_embossing(piece, name))
        if not press.surface and areas[piece.id].difference(paper).area > OFF_MM2:
            told.append(f"lay scrap paper under the edge, {name} runs off the panel")
    return "".join(f"; {words}" for words in dict.fromkeys(told))


def _say_embossing(piece: Impression, name: str) -> str:
    """Say how something is embossed with powder, with the caution that heat and powder ask for (common practice)."""
    powder = "clear" if piece.resists else say_colour(piece.ink or INK)
    return (
        f"for {name} wipe the paper with anti-static powder, use clear embossing ink, pour {powder} powder over it, "
        "tap it off, brush strays away, and melt it from below first till it shines (heat tool: over 250 °C at its "
        "nozzle, tweezers, heat-proof mat; do not breathe the powder; the maker's label comes first)"
    )


def _name_surface(table: Table, press: Press) -> str:
    if press.surface == SHEET:
        return "sheet to cut from, with room to cut round each"
    return table.names.get(press.surface, "panel")


def _lift(table: Table, p: int, press: Press) -> None:
    here = [one for one in table.lyings if table.plan.presses[one.first].surface == press.surface]
    still = tuple(one.impression for one in here if not _moves(one, here))
    if still:
        table.say("lift", p, f"Lift {count(len(still), 'mask')} off, slowly, and look at the whole", still)


def _lift_counters(table: Table, p: int) -> None:
    """Lift counter masks after the last press that they lie for."""
    for counter in table.plan.counters:
        if counter.presses and p == max(counter.presses):
            words = f"Lift the counter mask of the {table.names[counter.opening]} off, slowly"
            table.say("lift", p, words, (f"{counter.opening}:counter",))


def _moves(lying: Lying, lyings: list[Lying]) -> bool:
    return any(one.mask == lying.mask and one.first > lying.last for one in lyings)
