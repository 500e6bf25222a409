"""Outlines of open sets of drawings against what their coloured or filled companions cover; see `silhouette_truth`.

The whole table is `bench.silhouettes`'s to tell; here some of each set are read every day, all with EVERY_CASE=1.
"""

import numpy as np
import pytest
from silhouette_truth import COLOURED, SETS, Known, body_of, closed_by_itself, known, names_of, overlap, scanned

from fair_thicket.intake.scanner import Glass
from making import EVERY

SHARE = {
    "streamline-ultimate-color": 0.75,
    "streamline-cyber-color": 0.65,
    "solar": 0.9,
    "mingcute": 0.8,
    "tabler": 0.9,
}
"""So many of a set have at least 0.9 of overlap over union."""


def some(name: str) -> list[Known]:
    chance = np.random.default_rng(4)
    keys = names_of(name)
    keys = keys if EVERY == 1 else keys[:14]
    return [one for key in keys if (one := known(name, key, chance)) is not None]


@pytest.mark.parametrize("name", SETS)
def test_outlines_are_what_the_companions_cover(name: str) -> None:
    drawings = some(name)
    scores = []
    for seed, one in enumerate(drawings):
        image = scanned(one, Glass(dpi=300, dust=0, seed=seed))
        scores.append((round(overlap(body_of(one, image), one.body), 3), one.name))
    assert len(scores) >= 4
    good = sum(score >= 0.9 for score, _ in scores)
    assert good >= SHARE[name] * len(scores), sorted(scores)[:8]


def test_what_lines_close_by_themselves_stays_as_it_is() -> None:
    drawings = [one for name in COLOURED for one in some(name) if closed_by_itself(one) >= 0.95]
    lost = []
    for seed, one in enumerate(drawings):
        image = scanned(one, Glass(dpi=300, dust=0, seed=seed))
        score = overlap(body_of(one, image), one.body)
        if score < 0.9:
            lost.append((round(score, 2), one.name))
    assert len(drawings) >= 10
    assert len(lost) <= 0.1 * len(drawings), lost
