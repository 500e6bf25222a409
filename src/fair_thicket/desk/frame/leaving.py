"""What happens when the machine, and not the maker, ends the program: the card is kept first."""

import signal
import socket
from collections.abc import Callable

from PySide6.QtCore import QObject, QSocketNotifier

SIGNALS = (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)


class Leaving(QObject):
    """Turns signals that end a process into one call on the interface thread.

    Python runs its own handlers only between two lines of Python, of which there may be none while Qt waits; so the
    system writes into a socket that Qt listens to.
    """

    def __init__(self, leave: Callable[[int], object], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._leave = leave
        self._near, self._far = socket.socketpair()
        for end in (self._near, self._far):
            end.setblocking(False)
        self._before = [(number, signal.signal(number, lambda *_: None)) for number in SIGNALS]
        self._wakeup = signal.set_wakeup_fd(self._far.fileno(), warn_on_full_buffer=False)
        self._notifier = QSocketNotifier(self._near.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._heard)

    def _heard(self) -> None:
        try:
            told = self._near.recv(64)
        except BlockingIOError:
            return
        for number in told:
            if number in SIGNALS:
                self._leave(number)
                return

    def close(self) -> None:
        """Give the signals back to whoever had them."""
        self._notifier.setEnabled(False)
        signal.set_wakeup_fd(self._wakeup)
        for number, handler in self._before:
            signal.signal(number, handler)
        self._near.close()
        self._far.close()
