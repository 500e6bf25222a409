"""What the engines say of one card: pure functions that are run away from the interface."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

from fair_thicket import masks
from fair_thicket.advice import advise
from fair_thicket.engines import Known, actions_of
from fair_thicket.estimate.post import envelope_for, glued_height
from fair_thicket.laid.visibility import Sight, View, sights_of
from fair_thicket.making import list_all_steps
from fair_thicket.model.card import Work
from fair_thicket.model.errors import check_wanted
from fair_thicket.model.finding import Finding
from fair_thicket.model.formats import Envelope
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.steps import Step
from fair_thicket.model.supplies import Supply
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.scene import judge


class Glance(NamedTuple):
    """What a quick look at a work tells: what is seen, and what is to be said, remedies untried.

    Attributes
    ----------
    envelope : Envelope or None
        Of the card without what hangs over its edge; None where nothing does.
    """

    work: Work
    view: View
    sights: dict[str, Sight]
    findings: list[Finding]
    envelope: Envelope | None = None


def glance_at(work: Work, view: View) -> Glance:
    """Tell what a view of a work tells."""
    sights = {sight.id: sight for sight in sights_of(view)}
    hangs = any(sight.hangs and sight.off_panel_mm2 > OVERLAP_MM2 for sight in sights.values())
    envelope = envelope_for(work, work.card.panel, glued_height(work)) if hangs else None
    return Glance(work, view, sights, judge(work, view, remedies=False), envelope)


class Outcome(NamedTuple):
    """What the engines say of one work."""

    work: Work
    plan: MaskPlan
    rehearsal: masks.Rehearsal
    findings: list[Finding]
    sights: dict[str, Sight]
    refused: list[masks.Refused]
    steps: list[Step]


def think(
    work: Work,
    pictures: dict[str, bytes],
    view: View,
    earlier: tuple[MaskPlan, list[masks.Refused]] | None = None,
    supplies: Sequence[Supply] = (),
    *,
    go_on: Callable[[], bool] = lambda: True,
) -> Outcome:
    """Ask every engine. A plan of the same scene is taken over when only the cutting of masks changed.

    Of the maker's own supplies: what inks can go between two others, and which markers make a better run. It ends soon
    when nobody wants it any more (StoppedError).
    """
    plan, refused = earlier if earlier is not None else masks.plan_with_pins(work, go_on=go_on)
    check_wanted(go_on, "the card")
    rehearsal = masks.rehearse(work, pictures, plan, actions=actions_of(work, plan), go_on=go_on)
    check_wanted(go_on, "the card")
    sights = {sight.id: sight for sight in sights_of(view)}
    findings = advise(work, Known(plan, rehearsal, view, refused, supplies, pictures), go_on=go_on)
    return Outcome(work, plan, rehearsal, findings, sights, refused, list_all_steps(work, plan))
