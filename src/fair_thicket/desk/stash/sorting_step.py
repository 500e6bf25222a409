"""One step of what is done to a page: merged, split, an outline mended."""

from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtGui import QUndoCommand

from fair_thicket.intake.sorting import Sorting

Assign = Callable[[Sorting], object]


class SortingStep(NamedTuple):
    """A step: its words for the menu, and the page before and after it.

    Attributes
    ----------
    merge_key : str
        Steps in a row with one key are one step; empty for a step by itself.
    """

    words: str
    before: Sorting
    after: Sorting
    merge_key: str = ""

    def on(self, assign: Assign) -> QUndoCommand:
        """Return it as a command that assigns the page."""
        return _Command(self, assign)


class _Command(QUndoCommand):
    def __init__(self, step: SortingStep, assign: Assign) -> None:
        super().__init__(step.words)
        self._step, self._assign = step, assign

    def id(self) -> int:
        return (hash(self._step.merge_key) & 0x3FFFFFFF) if self._step.merge_key else -1

    def mergeWith(self, other: QUndoCommand) -> bool:
        if not isinstance(other, _Command) or other._step.merge_key != self._step.merge_key:
            return False
        self._step = self._step._replace(after=other._step.after)
        return True

    def undo(self) -> None:
        self._assign(self._step.before)

    def redo(self) -> None:
        self._assign(self._step.after)
