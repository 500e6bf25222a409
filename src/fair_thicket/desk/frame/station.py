"""What a station is to the window: a record in the list of stations, and the pane that it makes.

Everything here stands on Qt alone, so that the window's frame is painted before any engine is loaded.
"""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, NamedTuple, TypeVar

from PySide6.QtGui import QUndoStack
from PySide6.QtWidgets import QMainWindow, QMenu, QWidget

from fair_thicket.desk.frame.actions import Actions, Record

if TYPE_CHECKING:
    from fair_thicket.desk.parts.pictures import StampPictures
    from fair_thicket.desk.session.session import Session


class State(NamedTuple):
    """What the path says of a station, and whether anything there is still to settle."""

    words: str = "–"
    is_open: bool = False


class Pane(QWidget):
    """A station as it stands in the window.

    Attributes
    ----------
    menus : dict of str to QMenu
        Its own; the actions that name them are put into them.
    """

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.menus: dict[str, QMenu] = {}

    def state(self) -> State:
        """Tell what is still to settle here."""
        return State()

    def records(self) -> list[Record]:
        """List what can be asked here that nothing else in the window knows of."""
        return []

    def undo_stack(self) -> QUndoStack | None:
        """Return the steps that are undone here; None for those of the card."""
        return None

    def first(self) -> QWidget | None:
        """Return what takes the keys when one comes here."""
        return None

    def take_actions(self, actions: Actions, menus: Mapping[str, QMenu]) -> None:
        """Take what it wants of the window's actions and menus, once they are there."""

    def close_workers(self) -> None:
        """End what is under way: the window closes."""


class Station(NamedTuple):
    """A station: its key, its name on the path, and what makes its pane and loads what that needs."""

    key: str
    title: str
    make: "Callable[[Session, StampPictures], Pane]"


P = TypeVar("P", bound=Pane)


class Panes(dict[str, Pane]):
    """The panes of a window, by the keys of their stations."""

    def of(self, kind: type[P]) -> P:
        """Return the one pane of a kind."""
        (found,) = (pane for pane in self.values() if isinstance(pane, kind))
        return found


class Frame(QMainWindow):
    """What stations and their actions may know of the window.

    Attributes
    ----------
    panes : Panes
    actions_of : Actions
    """

    actions_of: Actions

    def __init__(self) -> None:
        super().__init__()
        self.panes = Panes()

    def go(self, key: str) -> None:
        """Go to a station."""
        raise NotImplementedError


def say_to_settle(session: "Session", key: str, empty: State) -> State:
    """Tell how much of an engine's advice at a station is still to settle; `empty` until it has spoken."""
    from fair_thicket.model.finding import Weight

    outcome = session.outcome
    if outcome is None or not session.work.card.pieces:
        return empty
    here = [one for one in outcome.findings if one.station == key and not one.is_dismissed]
    to_do = sum(one.weight >= Weight.CAUTION for one in here)
    return State(f"{to_do} to settle" if to_do else "settled", to_do > 0)
