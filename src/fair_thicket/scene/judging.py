"""Asks every judge, and tries what they offer: a remedy is told only when it truly settles what it is for."""

from collections.abc import Callable, Iterator, Sequence

import msgspec

from fair_thicket.model.card import Work
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.scene.edits import apply_remedy
from fair_thicket.scene.judges.arrangement import judge_fullness, judge_gaze, judge_heights
from fair_thicket.scene.judges.bench import Bench, Draft, attempt, to_remedy
from fair_thicket.scene.judges.covering import judge_cover, judge_zones
from fair_thicket.scene.judges.edges import judge_edges, judge_envelope, judge_mats, judge_trims
from fair_thicket.scene.judges.nearness import judge_near
from fair_thicket.scene.judges.standing import judge_ground, judge_holds
from fair_thicket.scene.judges.words import judge_words
from fair_thicket.scene.visibility import View, look

JUDGES: tuple[Callable[[Bench], Iterator[Draft]], ...] = (
    judge_zones,
    judge_words,
    judge_cover,
    judge_near,
    judge_edges,
    judge_trims,
    judge_envelope,
    judge_mats,
    judge_ground,
    judge_holds,
    judge_gaze,
    judge_heights,
    judge_fullness,
)
MOST_TRIES = 40
MOST_TRIES_IN_ALL = 160
WORSE_SHARE = 0.01


def judge(work: Work, view: View | None = None, *, remedies: bool = True) -> list[Finding]:
    """Judge the arrangement of a card.

    Parameters
    ----------
    work : Work
    view : View or None
        Of this very work, where there is one.
    remedies : bool
        Whether to look for remedies, which takes longer.

    Returns
    -------
    list of Finding
        The worst first. Every remedy has been tried: it removes its own finding and brings none of caution or above,
        nor one of the same weight. What the maker has dismissed comes last, marked as such.
    """
    if not work.card.pieces:
        return []
    view = view or look(work)
    drafts = draft(work, view)
    findings = [one.finding for one in drafts]
    if remedies:
        findings = list(_with_remedies(work, view, drafts))
    dismissed = {(one.code, one.piece) for one in work.card.dismissed}
    told = [
        msgspec.structs.replace(one, is_dismissed=(one.code, one.pieces[0] if one.pieces else "") in dismissed)
        for one in findings
    ]
    if not told:
        told.append(_praise(work))
    return sorted(told, key=lambda one: (one.is_dismissed, -one.weight))


def draft(work: Work, view: View) -> list[Draft]:
    """Collect what the judges have to say, remedies untried."""
    bench = Bench(work, view)
    return [one for ask in JUDGES for one in ask(bench)]


def _with_remedies(work: Work, view: View, drafts: Sequence[Draft]) -> Iterator[Finding]:
    before = {_name(one.finding): one.finding for one in drafts}
    left = MOST_TRIES_IN_ALL
    for one in drafts:
        finding = one.finding
        for tried, (words, change) in enumerate(one.offers()):
            if tried >= MOST_TRIES or not left:
                break
            left -= 1
            after = attempt(change)
            remedy = to_remedy(words, work, after) if after is not None else None
            if remedy is not None and _settles(work, view, remedy, finding, before):
                finding = msgspec.structs.replace(finding, remedy=remedy)
                break
        yield finding


def _settles(work: Work, view: View, remedy: Remedy, finding: Finding, before: dict[tuple[str, ...], Finding]) -> bool:
    after = apply_remedy(work, remedy)
    found = {_name(one.finding): one.finding for one in draft(after, look(after, view))}
    if _name(finding) in found:
        return False
    for name, one in found.items():
        known = before.get(name)
        if known is None:
            if one.weight >= min(Weight.CAUTION, finding.weight):
                return False
        elif one.weight > known.weight or (one.unit == "share" and one.measure > known.measure + WORSE_SHARE):
            return False
    return True


def _name(finding: Finding) -> tuple[str, ...]:
    """Give what makes a finding the same before and after a change: its kind and whom it is about."""
    if finding.code in {"near", "tangent"}:
        return ("near", *sorted(finding.pieces))
    return (finding.code, *finding.pieces[:1])


def _praise(work: Work) -> Finding:
    share = work.card.limits.covered_share
    return Finding(
        code="clear",
        weight=Weight.GOOD,
        title="Nothing in the way",
        text=f"No image is covered by more than {share:.0%}, none kisses another, all stay on the panel.",
        measure=0.0,
        unit="count",
    )
