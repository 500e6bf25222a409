"""Every remedy that is offered, on random scenes of every kind of piece, truly settles what it is for."""

import pytest

from fair_thicket.edits.pieces import apply_remedy, dismiss, recall
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.scene import judge
from making import some_of
from random_scenes import random_work


def name(finding: Finding) -> tuple[object, ...]:
    if finding.code in {"near", "tangent"}:
        return ("near", frozenset(finding.pieces))
    return (finding.code, finding.pieces[:1])


@pytest.mark.parametrize("block", some_of(10))
def test_on_200_random_scenes_every_remedy_settles_its_advice_and_brings_no_worse_one(block: int) -> None:
    for seed in range(block * 20, block * 20 + 20):
        work = random_work(seed)
        before = {name(one): one for one in judge(work)}
        for finding in before.values():
            if finding.remedy is None:
                continue
            after = {name(one): one for one in judge(apply_remedy(work, finding.remedy), remedies=False)}
            assert name(finding) not in after, (seed, finding.title, finding.remedy.words)
            new = [one for key, one in after.items() if key not in before and one.weight > Weight.GOOD]
            assert all(one.weight < finding.weight for one in new), (seed, finding.title, [one.title for one in new])
            assert all(one.weight <= before[key].weight for key, one in after.items() if key in before)


def test_dismissed_advice_stays_listed_and_comes_back_when_it_is_recalled() -> None:
    work = next(made for seed in range(50) if (made := random_work(seed)) and judge(made, remedies=False)[0].pieces)
    finding = judge(work, remedies=False)[0]
    silent = dismiss(work, finding.code, finding.pieces[0])
    told = judge(silent, remedies=False)
    (one,) = [other for other in told if name(other) == name(finding)]
    assert one.is_dismissed
    assert told.index(one) >= sum(not other.is_dismissed for other in told)
    assert dismiss(silent, finding.code, finding.pieces[0]) is silent
    assert recall(silent, finding.code, finding.pieces[0]) == work
