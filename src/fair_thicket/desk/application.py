"""Starts the desk: checks that a screen is there, takes up recovered work, and turns bugs into a crash report."""

import logging
import os
import sys
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from PySide6.QtWidgets import QApplication, QMessageBox

from fair_thicket.desk import theme
from fair_thicket.desk.main_window import MainWindow
from fair_thicket.desk.session import Session
from fair_thicket.files.recovery import Autosave, find_recovered, recovery_folder
from fair_thicket.model.errors import ScreenError, StorageError

_log = logging.getLogger(__name__)


def run(*, card: Path | None = None, demo: bool = False) -> int:
    """Open the desk and stay until it is closed; returns the exit code.

    Raises
    ------
    ScreenError
        When there is no screen to open a window on.
    """
    if not has_screen():
        raise ScreenError
    application = make_application()
    window = open_window(card=card, demo=demo)
    sys.excepthook = _crash_reporter(window)
    window.show()
    if card is None and not demo:
        offer_recovery(window)
    return application.exec()


def has_screen() -> bool:
    """Say whether Qt will find a screen: it aborts the process when there is none."""
    return any(os.environ.get(name) for name in ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY"))


def make_application() -> QApplication:
    """Make the Qt application with the desk's look, or return the one that is there."""
    present = QApplication.instance()
    application = present if isinstance(present, QApplication) else QApplication(sys.argv[:1])
    application.setApplicationName("Fair Thicket")
    application.setDesktopFileName("fair-thicket")
    application.setStyle("Fusion")
    theme.load_fonts()
    application.setFont(theme.font(13))
    application.setStyleSheet(theme.STYLE)
    return application


def open_window(*, card: Path | None = None, demo: bool = False, autosave: Autosave | None = None) -> MainWindow:
    """Make the window with a card, the demo, or an empty card."""
    if autosave is None:
        try:
            autosave = Autosave()
        except (OSError, StorageError):
            _log.warning("no folder for autosaves; going on without")
    window = MainWindow(Session(autosave))
    if demo:
        window.open_demo()
    elif card is not None:
        window.session.open(card)
    return window


def offer_recovery(window: MainWindow) -> None:
    """Offer the work of programs that were killed; what is not wanted now is offered again next time."""
    try:
        left = find_recovered(recovery_folder())
    except OSError:
        return
    for recovered in left[:3]:
        box = QMessageBox(window)
        box.setIcon(QMessageBox.Icon.NoIcon)
        box.setText(f"“{recovered.title or 'untitled card'}” was open when the program stopped without being closed.")
        box.setInformativeText("Take up where it was?")
        take = box.addButton("Take it up", QMessageBox.ButtonRole.AcceptRole)
        box.addButton("Later", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is take:
            window.session.recover(recovered)
            return


def _crash_reporter(window: MainWindow) -> Callable[[type[BaseException], BaseException, TracebackType | None], None]:
    """Make a hook that saves the card, writes a report beside the autosaves, and tells the maker in one sentence."""

    def report(kind: type[BaseException], problem: BaseException, trace: TracebackType | None) -> None:
        sys.__excepthook__(kind, problem, trace)
        window.session.keep(wait=True)
        try:
            file = recovery_folder() / "crash-report.txt"
            file.write_text("".join(traceback.format_exception(kind, problem, trace)), encoding="utf-8")
            where = f" A report is in {file}."
        except OSError:
            where = ""
        window.session.said.emit(f"Something went wrong inside the program; your card is safe.{where}")

    return report
