"""When each mask lies where: read from a plan, drawn as the timetable, told as the steps of the build sheet."""

import msgspec

from fair_thicket.model.card import Work, name_pieces, piece_key
from fair_thicket.model.plan import MaskPlan


class Lying(msgspec.Struct, frozen=True):
    """A mask lying on an impression, from before press `first` until after press `last` (indices)."""

    mask: int
    impression: str
    first: int
    last: int


class Step(msgspec.Struct, frozen=True):
    """One thing to do at the table.

    Attributes
    ----------
    kind : str
        ``lay``, ``move``, ``stamp``, ``check`` or ``lift``.
    press : int
        Index of the press it belongs to.
    words : str
    pieces : tuple of str
        Impressions concerned.
    """

    kind: str
    press: int
    words: str
    pieces: tuple[str, ...] = ()


def list_lyings(plan: MaskPlan) -> tuple[Lying, ...]:
    """Say when each mask lies where; a mask stays where it is until another impression needs it."""
    found = []
    for index, mask in enumerate(plan.masks):
        needs = [(p, key) for p, press in enumerate(plan.presses) for key in press.masked if key in mask.serves]
        current: Lying | None = None
        for p, key in needs:
            if current is not None and current.impression == key:
                current = Lying(index, key, current.first, p)
            else:
                if current is not None:
                    found.append(current)
                current = Lying(index, key, p, p)
        if current is not None:
            found.append(current)
    return tuple(sorted(found, key=lambda lying: (lying.first, lying.mask)))


def lying_during(plan: MaskPlan, press: int) -> tuple[Lying, ...]:
    """Masks that lie on the panel during a press."""
    return tuple(one for one in list_lyings(plan) if one.first <= press <= one.last)


def list_steps(work: Work, plan: MaskPlan) -> tuple[Step, ...]:
    """Tell the plan step by step, as the build sheet prints it and the rehearsal plays it."""
    names = name_pieces(work)
    lyings = list_lyings(plan)
    steps = []
    for p, press in enumerate(plan.presses):
        for one in (one for one in lyings if one.first == p):
            before = [o for o in lyings if o.mask == one.mask and o.last < p]
            onto = f"onto “{names[one.impression]}”; line up its edges"
            if before:
                words = f"Move the mask from “{names[before[-1].impression]}” {onto}"
            else:
                words = f"Lay the mask of the {_stamp_name(work, plan, one)} {onto}"
            steps.append(Step("move" if before else "lay", p, words, (one.impression,)))
        which = _join([names[key] for key in press.impressions])
        upon = [names[piece_key(key)] for key in press.impressions if "/" in key and not key.endswith("/1")]
        register = f"; line {_join(upon)} up on the layer before" if upon else ""
        surface = names.get(press.surface, "panel")
        words = f"Press {p + 1}: place {which} face down on the {surface}{register}, ink and press"
        steps.append(Step("stamp", p, words, press.impressions))
        steps.append(Step("check", p, f"Check {which}; press again in place if a line is faint", press.impressions))
    last = len(plan.presses) - 1
    still = tuple(one.impression for one in lyings if not _moves(one, lyings))
    if still:
        steps.append(Step("lift", last, f"Lift {_count(len(still), 'mask')} off, slowly, and look at the whole", still))
    return tuple(steps)


def _moves(lying: Lying, lyings: tuple[Lying, ...]) -> bool:
    return any(one.mask == lying.mask and one.first > lying.last for one in lyings)


def _stamp_name(work: Work, plan: MaskPlan, lying: Lying) -> str:
    return work.stash.find(plan.masks[lying.mask].stamp).name


def _join(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def _count(number: int, word: str) -> str:
    return f"the {word}" if number == 1 else f"all {number} {word}s"
