"""Presses of layered images against a search that tries every assignment, written apart from the planner.

What it holds to: no two overlapping impressions in one press, no stamp twice in one press, whatever stands in front is
stamped wholly before what stands behind it, the layers of one image in their order.
"""

import itertools
import random

import msgspec
import pytest
import shapely

from fair_thicket import masks
from fair_thicket.model.card import Work
from fair_thicket.model.keys import piece_key
from fair_thicket.model.stash import Layer, Stamp
from fair_thicket.shape.paper import footprint
from making import stamp, work_of


def layered(key: str, count: int) -> Stamp:
    """A square stamp of some layers, all as large as the whole."""
    single = stamp(key)
    layers = tuple(Layer(f"{key} {k}", 0.0, 0.0, 10.0, 10.0, f"images/{key}-{k}.png") for k in range(count))
    return msgspec.structs.replace(single, layers=layers if count > 1 else ())


def random_work(seed: int) -> Work:
    """One to four pieces with at most seven layers in all: few enough to try every assignment."""
    chance = random.Random(seed)
    stamps = tuple(layered(key, chance.choice((1, 1, 2, 3))) for key in "abc")
    left, pieces = 7, []
    for _ in range(chance.randint(1, 4)):
        one = chance.choice(stamps)
        left -= max(1, len(one.layers))
        if left >= 0:
            pieces.append((one.id, chance.uniform(10, 40), chance.uniform(10, 30)))
    return work_of(*pieces, stamps=stamps)


def fewest_presses(work: Work) -> int:
    """Try every assignment of presses, from one press on."""
    steps: list[tuple[str, str, int]] = []  # piece, rubber, layer; front first
    for piece in reversed(work.card.pieces):
        count = max(1, len(work.stash.find(piece.stamp).layers))
        steps += [(piece.id, f"{piece.stamp}.{layer}", layer) for layer in range(count)]
    areas = {piece.id: footprint(piece, work.stash) for piece in work.card.pieces}
    pairs = []
    for a, b in itertools.combinations(range(len(steps)), 2):
        if (
            steps[a][0] == steps[b][0]
            or shapely.area(shapely.intersection(areas[steps[a][0]], areas[steps[b][0]])) > 0.05
        ):
            pairs.append((a, b))
    rivals = [(a, b) for a, b in itertools.combinations(range(len(steps)), 2) if steps[a][1] == steps[b][1]]
    for presses in itertools.count(1):
        for times in itertools.product(range(presses), repeat=len(steps)):
            if all(times[a] < times[b] for a, b in pairs) and all(times[a] != times[b] for a, b in rivals):
                return presses
    raise AssertionError


@pytest.mark.parametrize("seed", range(40))
def test_layered_images_take_the_fewest_presses(seed: int) -> None:
    work = random_work(seed)
    plan = masks.plan(work)
    assert plan.optimal
    assert len(plan.presses) == fewest_presses(work)
    order = [key for press in plan.presses for key in press.impressions]
    for piece in work.card.pieces:
        own = [key for key in order if piece_key(key) == piece.id]
        assert own == sorted(own)
    assert {key for press in plan.presses for key in press.masked} <= {piece.id for piece in work.card.pieces}
