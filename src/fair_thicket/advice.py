"""Asks every engine for its findings, tries what they offer, and marks what the maker has dismissed: for all alike.

The scene tries its own remedies, of which it has many, piece by piece; those of the other engines are tried here.
"""

import time
from collections.abc import Callable, Mapping, Sequence

import msgspec

from fair_thicket import backdrop, masks, scene
from fair_thicket.masks import Refused, Rehearsal
from fair_thicket.model.card import Work
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.supplies import Ink
from fair_thicket.scene import View
from fair_thicket.scene.edits import apply_remedy
from fair_thicket.shape.soundness import check_work

Name = tuple[str, ...]
GoOn = Callable[[], bool]
MOST_TRIES = 16
"""Distinct remedies of one engine that are tried; each judges the whole card anew."""
PLAN_S = 3.0
THINK_S = 8.0
"""So long a maker waits for advice; cards of usual size take a second or two."""
FOLLOWS = {"end-to-end": "joint", "short": "joint"}
"""What may come of a remedy as its own next question: a border that is joined at all has a joint to look at."""
WORSE_SHARE = 0.01


def advise(
    work: Work,
    plan: MaskPlan | None = None,
    rehearsal: Rehearsal | None = None,
    view: View | None = None,
    *,
    refused: Sequence[Refused] = (),
    inks: Sequence[Ink] = (),
    pictures: Mapping[str, bytes] | None = None,
    go_on: GoOn = lambda: True,
    seconds: float = THINK_S,
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
    pictures : mapping of picture name to PNG bytes, or None
        Needed to rehearse what the masks offer; without them the masks offer nothing.
    go_on : callable
        Asked now and then; False ends the search for remedies early.
    seconds : float
        What could not be thought through by then is left, and that is said.

    Returns
    -------
    list of Finding
        By weight, then by measure, then by name: the same card always reads the same. Every remedy has been tried: it
        settles its finding and brings none as bad. What the maker has dismissed comes last, marked as such.
    """
    clock = _Clock(seconds, go_on)
    scene_on = clock.until(0.6)  # the scene has most to try; the others must come to a turn as well
    findings = [msgspec.structs.replace(one, station="scene") for one in scene.judge(work, view, go_on=scene_on)]
    on = clock.until(1.0)
    found = backdrop.judge(work, inks, go_on=clock.until(0.8))
    findings += _tried(work, found, lambda after: backdrop.judge(after, inks, go_on=on), on, station="scene")
    go_on = on
    if plan is not None:
        told = masks.judge(work, plan, rehearsal, refused)
        findings += _tried(work, told, _rehearser(work, plan, pictures), go_on, station="masks")
    if clock.is_out:
        findings.append(_unthought(len(work.card.pieces)))
    marked = [one.marked(work.card.dismissed) for one in findings]
    return sorted(
        marked,
        key=lambda one: (one.is_dismissed, -one.weight, -one.measure if one.unit == "share" else 0.0, one.title),
    )


class _Clock:
    """Time for one round of advice, shared out; it knows whether anything was cut short."""

    def __init__(self, seconds: float, go_on: GoOn) -> None:
        self._seconds, self._go_on = seconds, go_on
        self._start = time.monotonic()
        self.is_out = False

    def until(self, share: float) -> GoOn:
        """Give what says whether there is time until a share of the whole is gone."""

        def has_time() -> bool:
            if time.monotonic() - self._start < share * self._seconds:
                return self._go_on()
            self.is_out = True
            return False

        return has_time


def _unthought(pieces: int) -> Finding:
    return Finding(
        code="unthought",
        weight=Weight.NOTE,
        title="Not everything was thought through",
        text=f"With {pieces} pieces there was no time to try every remedy, nor to look at every joint. What is said "
        "here holds; there may be more.",
        measure=float(pieces),
        unit="count",
    )


def _rehearser(
    work: Work, plan: MaskPlan, pictures: Mapping[str, bytes] | None
) -> Callable[[Work], Sequence[Finding]] | None:
    """Make what judges the masks of a changed card; None where it cannot be rehearsed."""
    if pictures is None:
        return None

    def judge(after: Work) -> Sequence[Finding]:
        is_same = after.card.pieces == work.card.pieces and after.card.masking.pins == work.card.masking.pins
        made, refused = (plan, ()) if is_same else masks.plan_with_pins(after, seconds=PLAN_S)
        return masks.judge(after, made, masks.rehearse(after, pictures, made), refused)

    return judge


def _tried(
    work: Work,
    findings: Sequence[Finding],
    judge: Callable[[Work], Sequence[Finding]] | None,
    go_on: GoOn,
    *,
    station: str,
) -> list[Finding]:
    """Give an engine's findings with only those remedies that hold: each distinct one is done and judged once."""
    seen: list[tuple[Remedy, Sequence[Finding] | None]] = []
    before = {_name(one): one for one in findings}
    arranged = {_name(one): one for one in scene.judge(work, remedies=False)} if findings and judge else {}
    told = []
    for one in sorted(findings, key=lambda one: -one.weight):
        held = None
        if one.remedy is not None and judge is not None and go_on():
            after = next((found for remedy, found in seen if remedy == one.remedy), None)
            if not any(remedy == one.remedy for remedy, _ in seen) and len(seen) < MOST_TRIES:
                after = _after(work, one.remedy, judge, arranged)
                seen.append((one.remedy, after))
            if after is not None and _settles(one, after, before):
                held = one.remedy
        told.append(msgspec.structs.replace(one, remedy=held, station=station))
    return told


def _after(
    work: Work, remedy: Remedy, judge: Callable[[Work], Sequence[Finding]], arranged: Mapping[Name, Finding]
) -> Sequence[Finding] | None:
    """Judge the card as a remedy leaves it; None where it cannot be done, or spoils the arrangement."""
    try:
        after = apply_remedy(work, remedy)
        check_work(after, work)
        found = judge(after)
    except ThicketError:
        return None
    for one in scene.judge(after, remedies=False):
        known = arranged.get(_name(one))
        if one.weight >= Weight.CAUTION and (known is None or known.weight < one.weight):
            return None
    return found


def _settles(own: Finding, after: Sequence[Finding], before: Mapping[Name, Finding]) -> bool:
    """Whether a finding is gone, and none as bad has come or grown worse."""
    for one in after:
        name = _name(one)
        if name == _name(own):
            return False
        if name == (FOLLOWS.get(own.code, ""), *own.pieces[:1]):
            continue
        known = before.get(name)
        if known is None:
            if one.weight >= max(Weight.NOTE, min(Weight.CAUTION, own.weight)):
                return False
        elif one.weight > known.weight or (one.unit == "share" and one.measure > known.measure + WORSE_SHARE):
            return False
    return True


def _name(finding: Finding) -> Name:
    """Give what makes a finding the same before and after a change: its kind and whom it is about."""
    pair = finding.pieces[:2] if finding.station == "masks" else finding.pieces[:1]
    return (finding.code, *pair)
