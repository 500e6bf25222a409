"""Work that leaves the interface thread: pure functions out, stamped results back, stale ones dropped."""

import ctypes
import linecache
import logging
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from fair_thicket.model.errors import StoppedError, ThicketError

NOBODYS = -1
REST_MS = 3000
"""So long after its last job a worker gives memory back."""
MALLOC_OPTIONS = {-8: 2, -3: 4 << 20, -1: 8 << 20}
"""M_ARENA_MAX, M_MMAP_THRESHOLD and M_TRIM_THRESHOLD, as mallopt(3) of the GNU C library has them."""
_log = logging.getLogger(__name__)


class Worker(QObject):
    """One line of work; a new request makes the one before it stale.

    Attributes
    ----------
    done : Signal(object)
        Result of the newest request.
    failed : Signal(str)
        Why the newest request could not be done, as a sentence.
    busyChanged : Signal(bool)
    """

    done = Signal(object)
    failed = Signal(str)
    busyChanged = Signal(bool)
    _came = Signal(int, object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="worker")
        self._number = 0
        self._running = False
        self._waiting: tuple[int, Callable[[], Any]] | None = None
        self._stop = threading.Event()
        self._came.connect(self._take)
        self._is_closed = False
        self._rest = timer_of(self, REST_MS, self._give_back)

    @property
    def is_busy(self) -> bool:
        """Whether the newest request is still out."""
        return self._running or self._waiting is not None

    def ask(self, function: Callable[[], Any]) -> None:
        """Run a pure function elsewhere; only the newest request's result is delivered."""
        self.ask_stoppable(lambda _: function())

    def ask_stoppable(self, function: Callable[[Callable[[], bool]], Any]) -> None:
        """Run a function that asks now and then whether it is still wanted, and ends soon when it is not."""
        self._stop.set()
        self._stop = stop = threading.Event()
        self._number += 1
        self._waiting = (self._number, lambda: function(lambda: not stop.is_set()))
        if not self._running:
            self._start()
            self.busyChanged.emit(True)

    def cancel(self) -> None:
        """Drop whatever is out or waiting; nothing is delivered for it, and what can be stopped stops."""
        self._stop.set()
        self._number += 1
        self._waiting = None
        if self.is_busy:
            self.busyChanged.emit(False)

    def close(self) -> None:
        """End for good; waits for the function that is running."""
        self.cancel()
        self._is_closed = True
        self._pool.shutdown(wait=True, cancel_futures=True)

    def _give_back(self) -> None:
        if not self._running and not self._is_closed:
            self._pool.submit(give_memory_back)

    def _start(self) -> None:
        if self._waiting is None:
            return
        number, function = self._waiting
        self._waiting = None
        self._running = True
        self._pool.submit(self._run, number, function)

    def _run(self, number: int, function: Callable[[], Any]) -> None:
        try:
            result, problem = function(), None
        except StoppedError:
            number, result, problem = NOBODYS, None, None  # nobody wants to hear of it
        except ThicketError as error:
            result, problem = None, str(error)
        except Exception as error:  # a bug in another thread must reach the crash report, not vanish with the thread
            _log.exception("an worker failed")
            result, problem = None, f"This could not be worked out because of a fault in the program ({error!r})."
        try:
            self._came.emit(number, result, problem)
        except RuntimeError:
            return  # the desk was closed meanwhile

    def _take(self, number: int, result: object, problem: object) -> None:
        self._running = False
        if self._waiting is not None:
            self._start()
            return
        if number == self._number:
            if problem is None:
                self.done.emit(result)
            else:
                self.failed.emit(str(problem))
        self.busyChanged.emit(False)
        self._rest.start()


def bound_memory() -> None:
    """Let the system's allocator keep little of what is free: few arenas, large arrays each on their own.

    Pictures of whole cards come and go in several threads; what each leaves between other things would be kept for
    good (45 MB of 500 measured). Nothing where the system's library cannot.
    """
    choose = getattr(ctypes.CDLL(None), "mallopt", None)
    if choose is not None:
        for option, value in MALLOC_OPTIONS.items():
            choose(option, value)


def give_memory_back() -> None:
    """Give memory that is free between what is kept back to the system: pictures of whole cards leave large holes.

    Qt's bindings read the source of every module that is imported, and Python keeps its lines (30 MB): let go as well;
    a traceback reads them again. Takes a few milliseconds; nothing where the system's library cannot.
    """
    linecache.clearcache()
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    if trim is not None:
        trim(0)


def timer_of(parent: QObject, delay_ms: int, call: Callable[[], None]) -> QTimer:
    """Make a timer that calls once, so long after it was last started."""
    timer = QTimer(parent)
    timer.setSingleShot(True)
    timer.setInterval(delay_ms)
    timer.timeout.connect(call)
    return timer
