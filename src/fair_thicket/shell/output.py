"""How the shell speaks: one JSON document or plain lines, whatever becomes of the terminal meanwhile."""

import json
import os
import signal
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from types import FrameType

from fair_thicket.model.errors import ThicketError

STOPPED, CANNOT = 130, 1


def print_json(document: object) -> int:
    """Print one JSON document."""
    print(json.dumps(document, ensure_ascii=False, allow_nan=False))
    return 0


def speak(run: Callable[[], int]) -> int:
    """Run a command and give its exit code; whatever stops it is told in one line on stderr, never as a traceback.

    A closed pipe, a full disk behind it and a terminal that knows few letters are the reader's affair, not a fault.
    """
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="replace")
    try:
        with _ctrl_c() as was_pressed:
            code = run()
            sys.stdout.flush()
    except KeyboardInterrupt:
        return _tell("stopped.", STOPPED)
    except ThicketError as problem:
        return _tell(str(problem))
    except ImportError:
        if not was_pressed:
            raise
        return _tell("stopped.", STOPPED)  # a library that is interrupted while it loads says that it cannot be loaded
    except BrokenPipeError:
        _give_up_output()
        return CANNOT
    except OSError as problem:
        _give_up_output()
        return _tell(f"nothing more could be written: {(problem.strerror or 'the output is closed').lower()}.")
    return code


@contextmanager
def _ctrl_c() -> Iterator[list[bool]]:
    """Keep in mind that Ctrl+C was pressed, whatever a library makes of it; the list is empty until then."""
    pressed: list[bool] = []

    def press(number: int, frame: FrameType | None) -> None:
        pressed.append(True)
        signal.default_int_handler(number, frame)

    try:
        before = signal.signal(signal.SIGINT, press)
    except ValueError:  # not the main thread, which alone hears of signals
        yield pressed
        return
    try:
        yield pressed
    finally:
        signal.signal(signal.SIGINT, before)


def _tell(words: str, code: int = CANNOT) -> int:
    try:
        print(f"fair-thicket: {' '.join(words.split())}", file=sys.stderr, flush=True)
    except OSError:
        _give_up_output()
    return code


def _give_up_output() -> None:
    """Let what is still to be printed go nowhere: closing the interpreter must not stumble over it again."""
    nowhere = os.open(os.devnull, os.O_WRONLY)
    for stream in (sys.stdout, sys.stderr):
        try:
            stream.flush()
        except OSError:
            os.dup2(nowhere, stream.fileno())
    os.close(nowhere)
