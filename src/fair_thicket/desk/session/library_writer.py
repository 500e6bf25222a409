"""Writes to the library, one after the other, off the interface thread; none is dropped."""

import logging
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as NotYetError
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from fair_thicket.library.store import Library, open_library
from fair_thicket.model.errors import ThicketError

PATIENCE_S = 0.04
"""So long a write is waited for: nearly all are done by then, and nobody sees that they were made elsewhere."""
_log = logging.getLogger(__name__)
Change = Callable[[Library], object]


class LibraryWriter(QObject):
    """One line of writes to a library of its own connection, which waits for another program as long as it must.

    Attributes
    ----------
    written : Signal(object)
        A write was made: what is to be called after it.
    failed : Signal(str)
        Why one could not be made, as a sentence; nothing was changed by it.
    """

    written = Signal(object)
    failed = Signal(str)
    _came = Signal(object)

    def __init__(self, path: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._path = path
        self._library: Library | None = None
        self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="library")
        self._came.connect(self._take)

    def ask(self, change: Change, then: Callable[[], None]) -> None:
        """Make a change; `then` is called on this thread after it was made, now where it was quick."""
        future = self._pool.submit(self._write, change)
        try:
            future.result(timeout=PATIENCE_S)
        except NotYetError:
            future.add_done_callback(lambda done: self._tell(done, then))
            return
        self._take((future.result(), then))

    def close(self) -> None:
        """Make what is still to be written, and close the library."""
        self._pool.submit(self._close)
        self._pool.shutdown(wait=True)

    # -- in the writing thread -----------------------------------------------------------------------------------

    def _write(self, change: Change) -> str:
        """Make a change; returns why it could not be made, as a sentence."""
        try:
            if self._library is None:
                self._library = open_library(self._path)
            change(self._library)
        except ThicketError as problem:
            return str(problem)
        except Exception as error:  # a bug in another thread must reach the maker, not vanish with the thread
            _log.exception("a write to the library failed")
            return f"The library could not be written because of a fault in the program ({error!r})."
        return ""

    def _close(self) -> None:
        if self._library is not None:
            self._library.close()
            self._library = None

    def _tell(self, done: "Future[str]", then: Callable[[], None]) -> None:
        try:
            self._came.emit((done.result(), then))
        except RuntimeError:
            return  # the desk was closed meanwhile

    # -- on the interface thread ---------------------------------------------------------------------------------

    def _take(self, came: tuple[str, Callable[[], None]]) -> None:
        problem, then = came
        if problem:
            self.failed.emit(problem)
        else:
            self.written.emit(then)
