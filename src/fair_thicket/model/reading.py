"""Files read whole and with care: regular files only, counted while they are read."""

import stat
from pathlib import Path


class Unreadable(Exception):  # noqa: N818
    """Why a file cannot be read: the end of a sentence that begins with its name."""


def read_file(path: Path, most_bytes: int) -> bytes:
    """Return what a file holds.

    Raises
    ------
    Unreadable
        Where it is not there, may not be read, is no regular file (a pipe, a device, a folder), or holds more than
        `most_bytes`.

    Notes
    -----
    What the system says of a file's size may be 0 for what never ends: bytes are counted while they are read. A pipe is
    not opened at all: that would wait for whoever writes to it.
    """
    try:
        if not stat.S_ISREG(path.stat().st_mode):
            raise Unreadable("is no file; name a file")
        with path.open("rb") as file:
            data = file.read(most_bytes + 1)
    except FileNotFoundError:
        raise Unreadable("is not there") from None
    except (OSError, ValueError) as problem:
        raise Unreadable(f"could not be read ({(getattr(problem, 'strerror', None) or 'bad name').lower()})") from None
    if len(data) > most_bytes:
        raise Unreadable(f"is larger than {most_bytes // 1_000_000} MB; it should be far smaller")
    return data
