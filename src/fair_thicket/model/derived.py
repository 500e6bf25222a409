"""What follows from a card alone is worked out once, and the card itself holds it.

Nothing is kept in a module: a work never changes, so neither does what follows from it. It is worked out when it is
first asked for, and lives as long as the work. Two who ask at the same time wait for one answer.

A work that was made from another begins with what was worked out of that one, where whoever works it out can: after one
piece is moved the others lie as they lay. What comes out is the same either way.
"""

import threading
from collections.abc import Callable
from typing import TypeVar, cast

from fair_thicket.model.card import Work

T = TypeVar("T")


class _Derived:
    """What was worked out of one work, and of the one that it was made from."""

    def __init__(self) -> None:
        self.answers: dict[str, _Answer] = {}
        self.earlier: dict[str, object] = {}


class _Answer:
    """One result, and the lock of whoever works it out."""

    def __init__(self) -> None:
        self.lock = threading.RLock()
        self.is_there = False
        self.value: object = None


def derive(work: Work, name: str, find: Callable[[T | None], T]) -> T:
    """Return what follows from a work, worked out once.

    Parameters
    ----------
    work : Work
    name : str
        What it is called; one name belongs to one function.
    find : callable of what was found of the work that this one was made from, or None
        A pure function of the work; what it raises is raised, and it is asked again next time.
    """
    derived = _of(work)
    answer = derived.answers.setdefault(name, _Answer())
    if not answer.is_there:
        with answer.lock:
            if not answer.is_there:
                answer.value = find(cast("T | None", derived.earlier.pop(name, None)))
                answer.is_there = True
    return cast("T", answer.value)


def begin_with(work: Work, earlier: Work) -> Work:
    """Let a work begin with what was worked out of the one that it was made from; returns the work."""
    if work is not earlier:
        former = _of(earlier)
        found = {name: one.value for name, one in list(former.answers.items()) if one.is_there}
        _of(work).earlier = {**former.earlier, **found}
    return work


def let_go(work: Work) -> None:
    """Drop what was worked out of a work that nobody looks at now, such as one that can be brought back by undo."""
    vars(work).clear()


def _of(work: Work) -> _Derived:
    derived: _Derived = vars(work).setdefault("derived", _Derived())
    return derived
