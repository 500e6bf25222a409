"""An engine more is one record: its advice is collected, tried, shown at its station and dismissed as every other."""

from collections.abc import Sequence

import msgspec

from fair_thicket.advice import advise
from fair_thicket.engines import ENGINES, Engine
from fair_thicket.model.card import Dismissal, Work
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.scene import edits
from making import work_of

FAR_MM = 100.0
FAR, FARTHER = "far-2", "farther-3"
HELPS, HELPS_NOT = "Bring it to the middle", "Push it a little"


def judge_far(work: Work) -> Sequence[Finding]:
    """Say what stands far to the right; what is offered for `far` helps, what is offered for `farther` does not."""
    return [
        Finding(
            code="far",
            weight=Weight.CAUTION,
            title=f"The {piece.id} is far",
            text="It stands far to the right.",
            measure=piece.x,
            unit="mm",
            pieces=(piece.id,),
            remedy=Remedy(
                HELPS if piece.id == FAR else HELPS_NOT,
                (msgspec.structs.replace(piece, x=70.0 if piece.id == FAR else piece.x - 1),),
            ),
        )
        for piece in work.card.pieces
        if piece.x > FAR_MM
    ]


OWN = Engine("distance", "ledger", lambda work, known, go_on: judge_far(work), lambda work, known, go_on: judge_far)


def told(work: Work) -> dict[str, Finding]:
    return {one.pieces[0]: one for one in advise(work, engines=[*ENGINES, OWN]) if one.code == "far"}


def test_an_engine_more_is_one_record() -> None:
    work = work_of(("near", 20, 20), ("far", 115, 20), ("farther", 115, 70))
    found = told(work)
    assert found.keys() == {FAR, FARTHER}
    assert {one.station for one in found.values()} == {"ledger"}
    assert {one.station for one in advise(work)} <= {"scene", "masks"}
    assert found[FAR].remedy is not None
    assert found[FAR].remedy.words == HELPS
    assert found[FARTHER].remedy is None  # it was tried, and does not settle it
    assert told(edits.apply_remedy(work, found[FAR].remedy)).keys() == {FARTHER}
    quiet = edits.dismiss(work, "far", FAR)
    assert Dismissal("far", FAR) in quiet.card.dismissed
    assert {key: one.is_dismissed for key, one in told(quiet).items()} == {FAR: True, FARTHER: False}
