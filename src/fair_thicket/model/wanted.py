"""A search in another library that is ended when nobody wants it any more."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Protocol

LOOK_S = 0.05
GoOn = Callable[[], bool]


class Search(Protocol):
    """A solver that can be told from another thread to stop."""

    def stop_search(self) -> None:
        """End soon, with what was found."""


@contextmanager
def while_wanted(search: Search, go_on: GoOn) -> Iterator[None]:
    """Ask twenty times a second whether what is searched for is still wanted; where it is not, the search ends."""
    done = threading.Event()

    def watch() -> None:
        while not done.wait(LOOK_S):
            if not go_on():
                search.stop_search()
                return

    watcher = threading.Thread(target=watch, daemon=True)
    watcher.start()
    try:
        yield
    finally:
        done.set()
        watcher.join()
