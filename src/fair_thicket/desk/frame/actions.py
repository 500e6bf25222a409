"""Everything that can be asked of the desk, in one list that feeds menus, shortcuts, help and tests."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QWidget


class Record(NamedTuple):
    """One action.

    Attributes
    ----------
    key : str
        Its name in tests and settings.
    menu : str
        Menu it stands in; ``Piece/Lift a part`` is a menu within a menu.
    words : str
    shortcut : str
        Portable text of the keys; empty for none.
    call : callable
    is_enabled : callable
        Whether it can be asked now.
    is_on : callable or None
        For what is switched on and off: whether it is on.
    lines : callable or None
        For a menu of its own whose lines are known only when it opens: words, and what each does.
    is_last : bool
        Whether it ends its menu, whatever stations add to that.
    """

    key: str
    menu: str
    words: str
    shortcut: str
    call: Callable[[], object]
    is_enabled: Callable[[], bool] = lambda: True
    is_on: Callable[[], bool] | None = None
    lines: Callable[[], Sequence[tuple[str, Callable[[], object]]]] | None = None
    is_last: bool = False


def line(menu: str) -> Record:
    """Make a line between groups of a menu."""
    return Record("", menu, "", "", lambda: None)


class Actions:
    """The actions of a window.

    Attributes
    ----------
    records : list of Record
    by_key : dict of str to QAction
    """

    def __init__(self, owner: QWidget, records: list[Record]) -> None:
        self.records = records
        self.by_key: dict[str, QAction] = {}
        for record in records:
            if not record.words:
                continue
            action = QAction(record.words, owner)
            action.setCheckable(record.is_on is not None)
            if record.shortcut:
                action.setShortcut(QKeySequence(record.shortcut))
            action.triggered.connect(lambda _=False, record=record: record.call())
            owner.addAction(action)
            self.by_key[record.key] = action

    def refresh(self) -> None:
        """Enable what can be asked now."""
        for record in self.records:
            if not record.words:
                continue
            self.by_key[record.key].setEnabled(record.is_enabled())
            if record.is_on is not None:
                self.by_key[record.key].setChecked(record.is_on())

    def fill(self, menu: QMenu, name: str) -> None:
        """Put the actions of a menu into it, and its inner menus; a record without words is a line between groups."""
        inner: dict[str, QMenu] = {}
        for record in sorted(self.records, key=lambda record: record.is_last):
            outer, _, within = record.menu.partition("/")
            if outer != name:
                continue
            if within and within not in inner:
                inner[within] = QMenu(within, menu)
                menu.addMenu(inner[within])
            target = inner[within] if within else menu
            if record.is_last:
                target.addSeparator()
            if record.lines is not None:
                target.addMenu(_menu_of(record.words, record.lines, self.by_key[record.key], menu))
            elif record.words:
                target.addAction(self.by_key[record.key])
            else:
                target.addSeparator()

    def list_keys(self) -> list[tuple[str, str]]:
        """List keys and words of every action that has keys, for help."""
        return [
            (self.by_key[record.key].shortcut().toString(QKeySequence.SequenceFormat.NativeText), record.words)
            for record in self.records
            if record.shortcut
        ]


def _menu_of(
    words: str, lines: Callable[[], Sequence[tuple[str, Callable[[], object]]]], action: QAction, parent: QMenu
) -> QMenu:
    """Make a menu that asks for its lines whenever it opens."""
    made = QMenu(words, parent)

    def fill() -> None:
        made.clear()
        for name, call in lines():
            made.addAction(name).triggered.connect(lambda _=False, call=call: call())

    made.aboutToShow.connect(fill)
    action.enabledChanged.connect(made.menuAction().setEnabled)
    made.menuAction().setEnabled(action.isEnabled())
    return made
