"""Findings before and after a change: which is the same, whether it is settled, what comes first."""

from collections.abc import Collection, Iterable, Mapping
from types import MappingProxyType

from fair_thicket.model.card import Dismissal
from fair_thicket.model.finding import Finding, Weight

Name = tuple[str, ...]
FOLLOWS = MappingProxyType({"end-to-end": "joint", "short": "joint"})
"""What may come of a remedy as its own next question: a border that is joined at all has a joint to look at."""
NEAR = frozenset({"near", "tangent"})
"""Two kinds of one matter: who is moved apart from a kiss must not end a hair away."""
WORSE_SHARE = 0.01
"""A share that has grown by no more is as it was."""


def name_of(finding: Finding) -> Name:
    """Return what makes a finding the same before and after a change: its kind and whom it is about."""
    if finding.code in NEAR:
        return ("near", *sorted(finding.pieces))
    return (finding.code, *(finding.pieces[:2] if finding.station == "masks" else finding.pieces[:1]))


def settles(own: Finding, after: Iterable[Finding], before: Mapping[Name, Finding]) -> bool:
    """Whether a finding is gone after a change, and none as bad has come or grown worse.

    Parameters
    ----------
    own : Finding
    after : findings of the changed card
    before : mapping of name to finding
        Of the card as it was.
    """
    bad = max(Weight.NOTE, min(Weight.CAUTION, own.weight))
    for one in after:
        name = name_of(one)
        if name == name_of(own):
            return False
        if name == (FOLLOWS.get(own.code, ""), *own.pieces[:1]):
            continue
        known = before.get(name)
        if known is None:
            if one.weight >= bad:
                return False
        elif one.weight > known.weight or (one.unit == "share" and one.measure > known.measure + WORSE_SHARE):
            return False
    return True


def present(findings: Iterable[Finding], dismissed: Collection[Dismissal]) -> list[Finding]:
    """Return findings as they are told: by weight, then by measure, then by title, what was dismissed marked and last.

    The same card always reads the same.
    """
    marked = [one.marked(dismissed) for one in findings]
    return sorted(
        marked, key=lambda one: (one.is_dismissed, -one.weight, -one.measure if one.unit == "share" else 0.0, one.title)
    )
