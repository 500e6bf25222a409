"""An advice more is one generator named in JUDGES: sorted, its remedy tried before it is offered, dismissed."""

from collections.abc import Iterator

import pytest

from fair_thicket import edits, scene
from fair_thicket.advice import advise
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.scene import judging
from fair_thicket.scene.judges.facts import Draft, Facts, Offer
from making import work_of

FAR_MM = 100.0


def judge_far(facts: Facts) -> Iterator[Draft]:
    """Say what stands far to the right; the first offer helps nothing, the second does."""
    for piece in facts.pieces:
        if piece.x <= FAR_MM:
            continue

        def offers(key: str = piece.id, y: float = piece.y) -> Iterator[Offer]:
            yield "Push it a little", lambda: edits.move_by(facts.work, {key}, (-1.0, 0.0))
            yield "Bring it to the middle", lambda: edits.move_to(facts.work, key, (70.0, y))

        finding = Finding(
            "far", Weight.CAUTION, f"{facts.names[piece.id]} is far", "It stands far right.", piece.x, "mm", (piece.id,)
        )
        yield Draft(finding, offers)


def test_an_advice_more_is_one_row(monkeypatch: pytest.MonkeyPatch) -> None:
    work = work_of(("near", 20, 20), ("far", 115, 20))
    assert not [one for one in scene.judge(work) if one.code == "far"]
    monkeypatch.setattr(judging, "JUDGES", (*judging.JUDGES, judge_far))
    (found,) = [one for one in advise(work) if one.code == "far"]
    assert (found.pieces, found.measure, found.station) == (("far-2",), 115.0, "scene")
    assert found.remedy is not None
    assert found.remedy.words == "Bring it to the middle"  # the first was tried, and does not settle it
    assert not [one for one in advise(edits.apply_remedy(work, found.remedy)) if one.code == "far"]
    quiet = edits.dismiss(work, "far", "far-2")
    assert [one.is_dismissed for one in advise(quiet) if one.code == "far"] == [True]
