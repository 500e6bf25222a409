"""Starts the desk: checks that a screen is there, takes up recovered work, and turns bugs into a crash report.

What is imported here stands between the maker and the first painted window: Qt and the frame, nothing else.
"""

import os
import socket
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from PySide6.QtCore import QLibraryInfo, Qt, QTimer
from PySide6.QtWidgets import QApplication

from fair_thicket.desk import theme
from fair_thicket.desk.frame.leaving import Leaving
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.session.background import bound_memory
from fair_thicket.files.preview import read_preview
from fair_thicket.model.errors import ScreenError, ThicketError

if TYPE_CHECKING:
    from fair_thicket.files.recovery import Autosave, Recovered

MOST_OFFERED = 3
SWITCH_S = 0.001
"""How long another thread may hold the interpreter: the default of 5 ms is a third of a frame."""


def run(*, card: Path | None = None, demo: bool = False) -> int:
    """Open the desk and stay until it is closed; returns the exit code.

    Raises
    ------
    ScreenError
        When there is no screen to open a window on, or Qt is told to take one that it does not know.
    """
    if not has_screen():
        raise ScreenError
    application = make_application()
    window = show_frame(card=card, demo=demo)
    sys.excepthook = _crash_reporter(window)
    leaving = Leaving(lambda number: leave_kept(window, 128 + number), window)
    QTimer.singleShot(0, lambda: _set_up(window, card=card, demo=demo))
    code = application.exec()
    leaving.close()
    return code


def leave_kept(window: MainWindow, code: int) -> None:
    """End the program because the machine says so: what is not saved is kept, and offered at the next start."""
    if window.is_furnished:
        window.session.keep(wait=True)
        window.close_kept()
    QApplication.exit(code)


def has_screen() -> bool:
    """Say whether Qt will find a screen that answers: it aborts the process when there is none."""
    platform = os.environ.get("QT_QPA_PLATFORM", "").partition(":")[0].partition(";")[0]
    if platform and platform not in known_platforms():
        raise ScreenError(platform)
    if platform and platform not in {"xcb", "wayland"}:
        return True
    wayland = os.environ.get("WAYLAND_DISPLAY", "")
    if wayland and answers(Path(os.environ.get("XDG_RUNTIME_DIR", "/nowhere")) / wayland):
        return True
    host, _, rest = os.environ.get("DISPLAY", "").rpartition(":")
    number = rest.partition(".")[0]
    if not number.isdigit():
        return False
    if host in {"", "unix"}:
        return answers(Path(f"/tmp/.X11-unix/X{number}")) or answers(f"\0/tmp/.X11-unix/X{number}")  # noqa: S108
    return answers((host, 6000 + int(number)))


def known_platforms() -> set[str]:
    """Return the names of the platforms that this Qt can open a window on; it aborts the process for any other."""
    folder = Path(QLibraryInfo.path(QLibraryInfo.LibraryPath.PluginsPath)) / "platforms"
    return {file.stem.removeprefix("libq").partition("-")[0] for file in folder.glob("libq*.so")}


def answers(address: Path | str | tuple[str, int]) -> bool:
    """Whether something listens at a socket, of this machine or another."""
    kind = socket.AF_INET if isinstance(address, tuple) else socket.AF_UNIX
    with socket.socket(kind, socket.SOCK_STREAM) as line:
        line.settimeout(2.0)
        try:
            line.connect(address if isinstance(address, tuple) else str(address))
        except OSError:
            return False
    return True


def make_application() -> QApplication:
    """Make the Qt application with the desk's look, or return the one that is there."""
    sys.setswitchinterval(SWITCH_S)
    bound_memory()
    present = QApplication.instance()
    application = present if isinstance(present, QApplication) else QApplication(sys.argv[:1])
    if application.styleSheet() != theme.STYLE:  # to dress every widget anew takes long
        dress(application)
    return application


def dress(application: QApplication) -> None:
    """Give an application the desk's name and look."""
    application.setApplicationName("Fair Thicket")
    application.setOrganizationName("fair-thicket")
    application.setDesktopFileName("fair-thicket")
    application.styleHints().setColorScheme(Qt.ColorScheme.Light)  # whatever the desktop's scheme: ours is one
    application.setStyle("Fusion")
    application.setPalette(theme.palette())
    theme.load_fonts()
    application.setFont(theme.font(13))
    application.setStyleSheet(theme.STYLE)


def show_frame(*, card: Path | None = None, demo: bool = False) -> MainWindow:
    """Show the window's frame, painted, with the card's preview where the bench will be."""
    from fair_thicket.demo import CARD_FILE

    source = CARD_FILE if demo else card
    window = MainWindow(read_preview(source) if source is not None else None)
    window.show()
    QApplication.processEvents()
    return window


def _set_up(window: MainWindow, *, card: Path | None, demo: bool) -> None:
    furnish(window, card=card, demo=demo)
    offer_recovery(window)


def furnish(
    window: MainWindow, *, card: Path | None = None, demo: bool = False, autosave: "Autosave | None" = None
) -> None:
    """Bring the stations into a frame, with a card, the demo, or an empty card."""
    from fair_thicket.desk.session.session import Session
    from fair_thicket.files.recovery import make_autosave
    from fair_thicket.library import BRIEF_S, open_library

    problem = ""
    try:
        library = open_library(wait_s=BRIEF_S)
    except ThicketError as refused:
        library, problem = None, str(refused)
    window.furnish(Session(autosave or make_autosave(), library))
    if problem:
        window.tell(problem)
    if demo:
        window.menu_actions.open_demo()
    elif card is not None:
        window.session.open(card)


def open_window(*, card: Path | None = None, demo: bool = False, autosave: "Autosave | None" = None) -> MainWindow:
    """Make the whole window at once."""
    window = MainWindow()
    furnish(window, card=card, demo=demo, autosave=autosave)
    return window


def offer_recovery(window: MainWindow) -> None:
    """Offer the work of programs that were killed, one after the other, without standing in the way.

    What is not wanted now is offered again at the next start.
    """
    from fair_thicket.files.recovery import find_recovered, recovery_folder, tidy_recovery

    try:
        tidy_recovery(recovery_folder())
        left = find_recovered(recovery_folder())
    except OSError:
        return
    _offer_next(window, left[:MOST_OFFERED])


def _offer_next(window: MainWindow, left: "Sequence[Recovered]") -> None:
    if not left:
        return
    first = left[0]

    def take() -> None:
        if window.menu_actions.may_leave():
            window.session.recover(first)
        else:
            _offer_next(window, left)

    title = first.title or "untitled card"
    window.offer.make(
        f"“{title}” was open when the program stopped without being closed. Take up where it was?",
        "Take it up",
        take,
        lambda: _offer_next(window, left[1:]),
    )


def _crash_reporter(window: MainWindow) -> Callable[[type[BaseException], BaseException, TracebackType | None], None]:
    """Make a hook that saves the card, writes a report beside the autosaves, and tells the maker in one sentence."""

    def report(kind: type[BaseException], problem: BaseException, trace: TracebackType | None) -> None:
        import traceback

        from fair_thicket.files.recovery import recovery_folder

        sys.__excepthook__(kind, problem, trace)
        if window.is_furnished:
            window.session.keep(wait=True)
        try:
            file = recovery_folder() / "crash-report.txt"
            file.write_text("".join(traceback.format_exception(kind, problem, trace)), encoding="utf-8")
            where = f" A report is in {file}."
        except OSError:
            where = ""
        window.tell(f"Something went wrong inside the program; your card is safe.{where}")

    return report
