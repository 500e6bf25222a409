"""One step of the undo stack."""

from typing import Protocol

from PySide6.QtGui import QUndoCommand

from fair_thicket.model.card import Work


class Assign(Protocol):
    """Takes up a work as it was or is to be."""

    def __call__(self, work: Work, /, *, is_open: bool) -> object: ...


class Step(QUndoCommand):
    """One edit: the works before and after it. Drags and nudges of the same pieces merge by their key."""

    def __init__(
        self, words: str, before: Work, after: Work, assign: Assign, *, is_open: bool, merge_key: str = ""
    ) -> None:
        super().__init__(words)
        self._before, self._after, self._assign = before, after, assign
        self._is_open, self._key = is_open, merge_key

    def id(self) -> int:
        return (hash(self._key) & 0x3FFFFFFF) if self._key else -1

    def mergeWith(self, other: QUndoCommand) -> bool:
        if not isinstance(other, Step) or other._key != self._key or other._is_open != self._is_open:
            return False
        self._after = other._after
        return True

    def undo(self) -> None:
        self._assign(self._before, is_open=self._is_open)

    def redo(self) -> None:
        self._assign(self._after, is_open=self._is_open)
