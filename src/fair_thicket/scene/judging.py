"""Asks every judge, and tries what they offer: a remedy is told only when it truly settles what it is for."""

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

import msgspec

from fair_thicket.checks import name_of, present, settles
from fair_thicket.edits.pieces import apply_remedy
from fair_thicket.laid.visibility import View, look
from fair_thicket.model.card import Work
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.scene.judges.arrangement import judge_fullness, judge_gaze, judge_heights
from fair_thicket.scene.judges.covering import judge_cover, judge_zones
from fair_thicket.scene.judges.edges import judge_edges, judge_envelope, judge_mats, judge_trims
from fair_thicket.scene.judges.facts import Draft, Facts, attempt, to_remedy
from fair_thicket.scene.judges.finishes import judge_finishes
from fair_thicket.scene.judges.nearness import judge_near
from fair_thicket.scene.judges.standing import judge_ground, judge_holds
from fair_thicket.scene.judges.words import judge_words
from fair_thicket.scene.judges.written import judge_written

JUDGES: tuple[Callable[[Facts], Iterator[Draft]], ...] = (
    judge_zones,
    judge_words,
    judge_written,
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
    judge_finishes,
    judge_fullness,
)
QUICK_JUDGES = tuple(judge for judge in JUDGES if judge is not judge_fullness)
"""At a glance the judge that counts every pixel is left out."""
MOST_TRIES = 40
TRIES_PER_CARD = 2400
"""Remedies are tried until so many pieces have been looked at anew: on a full card as long as on an empty one."""
TWO_WAYS = frozenset({"words"})
"""Kinds of findings of which a second remedy is sought: whoever loses letters may want to choose."""


class _Told(NamedTuple):
    """A draft, and the judge that it came from."""

    draft: Draft
    ask: Callable[[Facts], Iterator[Draft]]


def judge(
    work: Work,
    view: View | None = None,
    *,
    remedies: bool = True,
    go_on: Callable[[], bool] = lambda: True,
) -> list[Finding]:
    """Judge the arrangement of a card.

    Parameters
    ----------
    work : Work
    view : View or None
        Of this very work, where there is one.
    remedies : bool
        Whether to look for remedies, which takes longer.
    go_on : callable
        Asked now and then; False ends the search for remedies early.

    Returns
    -------
    list of Finding
        The worst first. Every remedy has been tried: it removes its own finding and brings none of caution or above,
        nor one of the same weight. What the maker has dismissed comes last, marked as such.
    """
    if not work.card.pieces:
        return []
    view = view or look(work)
    told = _draft(Facts(work, view, is_quick=not remedies), JUDGES if remedies else QUICK_JUDGES)
    findings = [one.draft.finding for one in told]
    if remedies:
        findings = list(_with_remedies(work, told, go_on))
    return present(findings or [_praise(work)], work.card.dismissed)


def _draft(facts: Facts, judges: Sequence[Callable[[Facts], Iterator[Draft]]]) -> list[_Told]:
    return [_Told(one, ask) for ask in judges for one in ask(facts)]


def _with_remedies(work: Work, told: Sequence[_Told], go_on: Callable[[], bool]) -> Iterator[Finding]:
    """Look for the first remedy of each finding that holds, the worst findings first."""
    before = {name_of(one.draft.finding): one.draft.finding for one in told}
    left = max(12, TRIES_PER_CARD // max(1, len(work.card.pieces)))
    for one in sorted(told, key=lambda one: -one.draft.finding.weight):
        finding = one.draft.finding
        for tried, (words, change) in enumerate(one.draft.offers()):
            if tried >= MOST_TRIES or not left or not go_on():
                break
            left -= 1
            after = attempt(change)
            remedy = to_remedy(words, work, after) if after is not None else None
            if remedy is None or not _settles(work, remedy, one, before):
                continue
            if finding.remedy is not None:
                finding = msgspec.structs.replace(finding, more=(remedy,))
                break
            finding = msgspec.structs.replace(finding, remedy=remedy)
            if finding.code not in TWO_WAYS:
                break
        yield finding


def _settles(work: Work, remedy: Remedy, told: _Told, before: dict[tuple[str, ...], Finding]) -> bool:
    """Do what a remedy says and judge again: its own judge first, for most that fail do so there."""
    after = apply_remedy(work, remedy)
    facts = Facts(after, look(after), is_quick=True)
    own = name_of(told.draft.finding)
    if any(name_of(one.finding) == own for one in told.ask(facts)):
        return False
    return settles(told.draft.finding, [one.draft.finding for one in _draft(facts, JUDGES)], before)


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
