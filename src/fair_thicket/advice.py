"""Asks every engine for its findings, tries what they offer, and marks what the maker has dismissed: for all alike.

The scene tries its own remedies, of which it has many, piece by piece; those of the other engines are tried here.
"""

import time
from collections.abc import Mapping, Sequence

import msgspec

from fair_thicket import scene
from fair_thicket.checks import Name, name_of, present, settles
from fair_thicket.edits.pieces import apply_remedy
from fair_thicket.engines import ENGINES, Engine, Judge, Known
from fair_thicket.laid.soundness import check_work
from fair_thicket.model.card import Work
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.wanted import GoOn

NOTHING = Known()
MOST_TRIES = 16
"""Distinct remedies of one engine that are tried; each judges the whole card anew."""
THINK_S = 8.0
"""So long a maker waits for advice; cards of usual size take a second or two."""


def advise(
    work: Work,
    known: Known = NOTHING,
    *,
    engines: Sequence[Engine] = tuple(ENGINES),
    go_on: GoOn = lambda: True,
    seconds: float = THINK_S,
) -> list[Finding]:
    """Collect the findings of all engines.

    Parameters
    ----------
    work : Work
    known : Known
        What is known of it already, or beside it.
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
    findings: list[Finding] = []
    for engine in engines:
        found = engine.judge(work, known, clock.until(engine.share))
        if engine.again is not None:
            on = clock.until(1.0)
            found = _tried(work, found, engine.again(work, known, on), on)
        findings += [msgspec.structs.replace(one, station=engine.station) for one in found]
    if clock.is_out:
        findings.append(_unthought(len(work.card.pieces)))
    return present(findings, work.card.dismissed)


class _Clock:
    """Time for one round of advice, shared out; it knows whether anything was cut short."""

    def __init__(self, seconds: float, go_on: GoOn) -> None:
        self._seconds, self._go_on = seconds, go_on
        self._start = time.monotonic()
        self.is_out = False

    def until(self, share: float) -> GoOn:
        """Return what says whether there is time until a share of the whole is gone."""

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


def _tried(
    work: Work,
    findings: Sequence[Finding],
    judge: Judge | None,
    go_on: GoOn,
) -> list[Finding]:
    """Return an engine's findings with only those remedies that hold: each distinct one is done and judged once."""
    worst_first = sorted(findings, key=lambda one: -one.weight)
    if judge is None:
        return [msgspec.structs.replace(one, remedy=None) for one in worst_first]
    tries: list[tuple[Remedy, Sequence[Finding] | None]] = []
    before = {name_of(one): one for one in findings}
    is_offered = any(one.remedy for one in findings)
    arranged = {name_of(one): one for one in scene.judge(work, remedies=False)} if is_offered else {}
    told = []
    for one in worst_first:
        remedy = one.remedy if go_on() else None
        if remedy is not None:
            known = [after for tried, after in tries if tried == remedy]
            if not known and len(tries) < MOST_TRIES:
                known = [_after(work, remedy, judge, arranged)]
                tries.append((remedy, known[0]))
            remedy = remedy if _holds(one, known, before) else None
        told.append(msgspec.structs.replace(one, remedy=remedy))
    return told


def _holds(own: Finding, known: Sequence[Sequence[Finding] | None], before: Mapping[Name, Finding]) -> bool:
    return any(after is not None and settles(own, after, before) for after in known)


def _after(work: Work, remedy: Remedy, judge: Judge, arranged: Mapping[Name, Finding]) -> Sequence[Finding] | None:
    """Judge the card as a remedy leaves it; None where it cannot be done, or spoils the arrangement."""
    try:
        after = apply_remedy(work, remedy)
        check_work(after, work)
        found = judge(after)
    except ThicketError:
        return None
    for one in scene.judge(after, remedies=False):
        known = arranged.get(name_of(one))
        if one.weight >= Weight.CAUTION and (known is None or known.weight < one.weight):
            return None
    return found
