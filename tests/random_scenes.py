"""Random scenes of every kind of piece, made by the program's own edits."""

import random
from collections.abc import Callable, Iterator

from cases import STASH
from fair_thicket import edits
from fair_thicket.edits import adding, arranging, cutouts
from fair_thicket.edits.refit import refit
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Form
from fair_thicket.shape.paper import footprint

COLOURS = ("#c04040", "#4060c0", "#40a060", "#202020", None)


def random_edits(dice: random.Random, count: int) -> Iterator[Callable[[Work], Work]]:
    """Random edits; each may be refused by paper."""
    for _ in range(count):
        yield _random_edit(dice)


def _random_edit(dice: random.Random) -> Callable[[Work], Work]:
    at = (dice.uniform(-4, 144), dice.uniform(-4, 112))
    stamp = dice.choice([one.id for one in STASH.stamps])
    size = (dice.uniform(20, 90), dice.uniform(15, 70))
    turn = dice.choice([0.0, 0.0, 1.5, 12.0, 90.0])
    pick = dice.random()
    colour = dice.choice(COLOURS)

    def some(work: Work) -> set[str]:
        ids = [piece.id for piece in work.card.pieces]
        return {ids[int(pick * len(ids))]} if ids else set()

    def beside(work: Work) -> Work:
        """Put a piece so that it just misses another, or just touches it."""
        near = some(work)
        if not near:
            return work
        _, top, right, _ = footprint(work.card.find(next(iter(near))), work.stash).bounds
        gap = pick * 1.6 - 0.8
        thing = work.stash.find(stamp)
        return adding.add_from_stash(work, stamp, (right + gap + thing.width_mm / 2, top + 6), cut=pick < 0.5)[0]

    def hung(work: Work) -> Work:
        """Put a hat on a figure's head and push it off again."""
        work, figure = adding.add_from_stash(work, "figure", at, cut=True)
        work, hat = adding.add_from_stash(work, "hat", at, cut=True)
        work = arranging.place_at_contact(work, hat, by=figure, at=(0.0, -11.0), own=(0.0, 2.0))
        return edits.move_by(work, {hat}, (pick * 4, 0.0))

    makers: list[Callable[[Work], Work]] = [
        beside,
        beside,
        beside,
        hung,
        lambda work: adding.add_from_stash(work, stamp, at, cut=pick < 0.5)[0],
        lambda work: adding.add_from_stash(work, stamp, at, cut=pick < 0.5)[0],
        lambda work: adding.add_from_stash(work, stamp, at)[0],
        lambda work: adding.add_panel(work, Form("rectangle", *size), at=at, colour=colour)[0],
        lambda work: adding.add_strip(work, "for you", at=at, colour=colour, angle_deg=turn)[0],
        lambda work: adding.add_wash(work, "#c0d0e0")[0],
        lambda work: adding.add_embellishment(work, "scatter", at=at, count=4, seed=int(pick * 99))[0],
        lambda work: edits.turn_by(work, some(work), turn),
        lambda work: edits.move_by(work, some(work), (at[0] / 20 - 3, at[1] / 20 - 3)),
        lambda work: edits.step_past_overlap(work, some(work), 1 if pick < 0.5 else -1),
        lambda work: edits.set_pieces(work, some(work), colour=colour),
        lambda work: arranging.duplicate(work, some(work))[0],
        lambda work: arranging.mirror_cluster(work, some(work))[0],
        lambda work: edits.delete(work, some(work)) if pick < 0.3 else work,
        lambda work: cutouts.cut_out(work, next(iter(some(work)))) if work.card.pieces else work,
        lambda work: refit(work, landscape=pick < 0.5).work if pick < 0.2 else work,
    ]
    return dice.choice(makers)


def random_work(seed: int) -> Work:
    """A random scene of up to a dozen pieces."""
    dice = random.Random(seed)
    work = Work(Card(), STASH)
    for edit in random_edits(dice, dice.randint(3, 11)):
        try:
            work = edit(work)
        except PaperError:
            continue
    return work
