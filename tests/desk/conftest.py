"""A real window with the demo card or an empty one."""

from collections.abc import Callable, Iterator, Sequence

import pytest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.application import furnish, make_application
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.frame.menu_actions import MenuActions
from fair_thicket.desk.session import library_writer, session
from fair_thicket.desk.session.session import Session
from fair_thicket.desk.session.thinking import Outcome, think
from fair_thicket.files.card_file import encode_card
from fair_thicket.ink import drawn
from fair_thicket.laid.visibility import View
from fair_thicket.masks import Refused
from fair_thicket.model.card import Work
from fair_thicket.model.derived import let_go
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.supplies import Ink
from hands import settle

MOST_KNOWN = 3
"""Outcomes that are remembered: each has the pictures of a whole rehearsal, 50 MB and more."""


@pytest.fixture(autouse=True, scope="session")
def _patience() -> None:
    """Let tests find what they have written to the library written, and the engines begin to think at once."""
    library_writer.PATIENCE_S = 60.0
    session.THINK_DELAY_MS = 20


@pytest.fixture(autouse=True, scope="session")
def thoughts() -> Iterator[dict[object, Outcome]]:
    """Let the engines think about each card once a process: most tests begin with the same one."""
    known: dict[object, Outcome] = {}

    def remember(
        work: Work,
        pictures: dict[str, bytes],
        view: View,
        earlier: tuple[MaskPlan, list[Refused]] | None = None,
        inks: Sequence[Ink] = (),
        *,
        go_on: Callable[[], bool] = lambda: True,
    ) -> Outcome:
        key = (encode_card(work), tuple(sorted(pictures.items())), tuple(inks))
        if key not in known:
            outcome = think(work, pictures, view, earlier, inks, go_on=go_on)
            if not go_on():
                return outcome  # cut short: nobody wants it any more
            known[key] = outcome
            while len(known) > MOST_KNOWN:
                del known[next(iter(known))]
        known[key] = known.pop(key)  # the last asked for goes last
        return known[key]._replace(work=work)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(session, "think", remember)
        yield known


@pytest.fixture(autouse=True, scope="session")
def _drawings() -> Iterator[None]:
    """Let each image be coloured once a process: most tests begin with the same card, opened anew each time."""
    shared = drawn.new_drawn()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(drawn, "new_drawn", lambda: shared)
        yield


@pytest.fixture
def make_window(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Iterator[Callable[..., MainWindow]]:
    """Make windows that close by themselves without asking."""
    make_application()
    made: list[MainWindow] = []
    monkeypatch.setattr(MenuActions, "may_leave", lambda self: True)

    def make(*, demo: bool = False, size: tuple[int, int] = (1280, 800)) -> MainWindow:
        window = MainWindow()
        window.resize(*size)
        window.show()
        made.append(window)
        qtbot.waitExposed(window)
        furnish(window, demo=demo)
        if demo:
            settle(qtbot, window.session)
        return window

    yield make
    for window in made:
        window.close()
        window.deleteLater()
    QApplication.processEvents()
    for window in made:
        empty(window.session)


def empty(session: Session) -> None:
    """Let go of what is large: what a test has handed round may hold its window for the whole run."""
    session.outcome = session.glance = session.balance = None
    let_go(session.work)


@pytest.fixture
def window(make_window: Callable[..., MainWindow]) -> MainWindow:
    """A window with the demo card."""
    return make_window(demo=True)
