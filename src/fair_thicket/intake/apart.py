"""What comes from outside is read in a process of its own, with limits of time and memory, that can be stopped at once.

A damaged or hostile file may keep a library busy without end, take all memory, or bring the whole process down: it then
brings down a child that is expected to die. Functions that are run apart, and all that they take and give, are pickled.
"""

import faulthandler
import logging
import multiprocessing
import os
import resource
import signal
import threading
import time
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from fair_thicket.model.errors import InputError, StoppedError, ThicketError

_log = logging.getLogger(__name__)
Result = TypeVar("Result")
PAGE_S, DRAWING_S, TABLE_S = 60.0, 20.0, 20.0
"""How long a page, a drawing and a table may take: six times what a slow machine needs for the largest that is read."""
MOST_BYTES = 8 << 30
"""Memory that a child may ask for: a letter page at 1200 dpi takes 4 GB."""
LOOK_S = 0.05
WARM = ("fair_thicket.intake.sorting", "fair_thicket.intake.swatches", "fair_thicket.files.supplies_csv")
_lock = threading.Lock()


def run_apart(
    function: Callable[..., Result],
    *arguments: object,
    name: str,
    seconds: float,
    go_on: Callable[[], bool] = lambda: True,
    **options: object,
) -> Result:
    """Run a function in a child process.

    Parameters
    ----------
    function : callable
        Of a module's top level.
    name : str
        Of the file, for the sentence.
    seconds : float
        After this it is killed.
    go_on : callable
        Asked twenty times a second; False kills it.

    Raises
    ------
    InputError
        What the function refuses, as it says; and when it took too long, or too much memory, or died.
    StoppedError
        When `go_on` said so.
    """
    context = _context()
    near, far = context.Pipe(duplex=False)
    with _lock:  # the server that children are forked from is started once
        child = context.Process(target=_work, args=(far, function, arguments, options), daemon=True)
        child.start()
    far.close()
    try:
        kind, told = _wait(near, name, seconds, go_on)
    finally:
        near.close()
        child.kill()
        child.join()
    if kind == "done":
        return told  # type: ignore[return-value]  # what the function gives, carried over
    if kind == "refused":
        raise InputError(str(told))
    _log.debug("%s could not be read:\n%s", name, told)
    raise InputError(f"{name} is damaged or of a kind that cannot be read; export or scan it again.")


def _context() -> Any:
    """Return the way to make children: forked at once where nothing else runs here, else from a warm server."""
    if threading.active_count() == 1:
        return multiprocessing.get_context("fork")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(list(WARM))
    return context


def _wait(pipe: Connection, name: str, seconds: float, go_on: Callable[[], bool]) -> tuple[str, object]:
    end = time.monotonic() + seconds
    try:
        while not pipe.poll(LOOK_S):
            if not go_on():
                raise StoppedError(name)
            if time.monotonic() > end:
                raise InputError(
                    f"{name} took more than {seconds:g} seconds to read and was given up; export a simpler drawing, or "
                    "scan the sheet again at 300 dpi."
                )
        found: tuple[str, object] = pipe.recv()
    except EOFError:
        raise InputError(f"{name} cannot be read: it asks for too much memory, or is damaged.") from None
    return found


def _work(pipe: Connection, function: Callable[..., object], arguments: tuple[object, ...], options: Any) -> None:
    faulthandler.disable()  # a library that brings the child down is told in a sentence, not with a dump
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # whoever waits decides when to stop
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    _, most = resource.getrlimit(resource.RLIMIT_AS)
    here = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    wanted = min(MOST_BYTES, max(here * 3 // 4, 1 << 30))
    resource.setrlimit(resource.RLIMIT_AS, (wanted if most == resource.RLIM_INFINITY else min(wanted, most), most))
    try:
        reply: tuple[str, object] = ("done", function(*arguments, **options))
    except ThicketError as problem:
        reply = ("refused", str(problem))
    except MemoryError:
        pipe.close()
        return
    except Exception:  # whatever a library raises on a file from outside is the file's fault, and told in a sentence
        reply = ("broken", traceback.format_exc())
    pipe.send(reply)
    pipe.close()
