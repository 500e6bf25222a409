"""What is seen of very many leaves is exact, however it is put together."""

import numpy as np
import pytest
import shapely

from cases import STASH
from fair_thicket.laid import visibility
from fair_thicket.laid.stack import paper_of, stack
from fair_thicket.laid.visibility import _see_each, _see_many
from fair_thicket.model.card import Card, Work
from fair_thicket.model.pieces import Border, Cutout, Impression, Piece
from fair_thicket.shape.overlap import find_overlaps


def strewn(seed: int) -> Work:
    """Sixty pieces of every kind, some over the card's edge."""
    chance = np.random.default_rng(seed)
    pieces: list[Piece] = []
    for k in range(60):
        x, y, turn = chance.uniform(-10, 150), chance.uniform(-10, 118), chance.uniform(0, 360)
        kind = k % 3
        if kind == 0:
            pieces.append(Cutout(f"c-{k}", "leaf", x, y, angle_deg=turn))
        elif kind == 1:
            pieces.append(Impression(f"i-{k}", "leaf", x, y, angle_deg=turn))
        else:
            pieces.append(Border(f"b-{k}", "wave", 70.0, x, y, angle_deg=turn / 8))
    return Work(Card(pieces=tuple(pieces)), STASH)


@pytest.mark.parametrize("corners", [0, 60, 10**6], ids=["tiles", "first whole, then tiles", "whole"])
@pytest.mark.parametrize("seed", range(3))
def test_tiles_show_what_leaf_by_leaf_shows(seed: int, corners: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(visibility, "MANY_CORNERS", corners)
    work = strewn(seed)
    leaves, paper = stack(work), paper_of(work.card)
    each = _see_each(
        leaves, find_overlaps([leaf.area for leaf in leaves], least_mm2=0), paper, None, [-1] * len(leaves)
    )
    many = _see_many(leaves, paper)
    assert sum(area.area for area in many) > 1000
    for one, other in zip(each, many, strict=True):
        assert shapely.symmetric_difference(one, other).area < 1e-6
