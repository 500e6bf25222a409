"""A real window with the demo card or an empty one."""

from collections.abc import Callable, Iterator

import pytest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from fair_thicket.desk.application import make_application, open_window
from fair_thicket.desk.deeds import Deeds
from fair_thicket.desk.main_window import MainWindow
from hands import settle


@pytest.fixture
def make_window(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Iterator[Callable[..., MainWindow]]:
    """Make windows that close by themselves without asking."""
    make_application()
    made: list[MainWindow] = []
    monkeypatch.setattr(Deeds, "may_leave", lambda self: True)

    def make(*, demo: bool = False, size: tuple[int, int] = (1280, 800)) -> MainWindow:
        window = open_window(demo=demo)
        window.resize(*size)
        window.show()
        made.append(window)
        qtbot.waitExposed(window)
        if demo:
            settle(qtbot, window.session)
        return window

    yield make
    for window in made:
        window.close()
        window.deleteLater()
    QApplication.processEvents()


@pytest.fixture
def window(make_window: Callable[..., MainWindow]) -> MainWindow:
    """A window with the demo card."""
    return make_window(demo=True)
