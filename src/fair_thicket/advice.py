"""Asks every engine for its findings; the worst come first."""

from collections.abc import Callable, Sequence

from fair_thicket import backdrop, masks, scene
from fair_thicket.masks import Refused, Rehearsal
from fair_thicket.model.card import Work
from fair_thicket.model.finding import Finding
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.supplies import Ink
from fair_thicket.scene import View


def advise(
    work: Work,
    plan: MaskPlan | None = None,
    rehearsal: Rehearsal | None = None,
    view: View | None = None,
    *,
    refused: Sequence[Refused] = (),
    inks: Sequence[Ink] = (),
    go_on: Callable[[], bool] = lambda: True,
) -> list[Finding]:
    """Collect the findings of all engines.

    Parameters
    ----------
    work : Work
    plan, rehearsal, view
        Of this very work, where there are some; without a plan the masks have nothing to say.
    refused : sequence of Refused
        Pins that the plan could not hold.
    inks : sequence of Ink
        The maker's own.
    go_on : callable
        Asked now and then; False ends the search for remedies early.

    Returns
    -------
    list of Finding
        By weight, then by measure, then by name: the same card always reads the same.
    """
    findings = scene.judge(work, view, go_on=go_on)
    findings += backdrop.judge(work, inks)
    if plan is not None:
        findings += masks.judge(work, plan, rehearsal, refused)
    return sorted(
        findings,
        key=lambda one: (one.is_dismissed, -one.weight, -one.measure if one.unit == "share" else 0.0, one.title),
    )
