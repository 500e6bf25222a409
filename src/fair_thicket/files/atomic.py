"""Files written whole or not at all, and nothing of a killed program left beside them."""

import errno
import os
import re
import secrets
import stat
import tempfile
from collections.abc import Iterable
from pathlib import Path

from fair_thicket.model.errors import StorageError

_NO_NAMELESS = frozenset({errno.EOPNOTSUPP, errno.EISDIR, errno.ENOENT, errno.EINVAL})
_PART = re.compile(r"-(?P<pid>\d+)-[0-9a-z_]+\.part$")


def write_whole(path: Path, data: bytes) -> None:
    """Write a file so that at any moment either the old or the new one is there, whole.

    A link stays one: what it leads to is written. A device or a pipe is written to as it is.

    Raises
    ------
    StorageError
        When the folder is missing, full or may not be written; the old file stays as it was.
    """
    part: Path | None = None
    path = Path(os.path.realpath(path))
    try:
        if path.exists() and not stat.S_ISREG(path.stat().st_mode) and not path.is_dir():
            path.write_bytes(data)
            return
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
        part = _write_part(path, data, mode)
        os.replace(part, path)  # noqa: PTH105
    except OSError as problem:
        if part is not None:
            part.unlink(missing_ok=True)
        raise StorageError(str(path), _reason(problem, path)) from None
    sweep_parts(path)


def write_all(folder: Path, files: Iterable[tuple[str, bytes]]) -> None:
    """Write several files of one folder, all of them or none: beside their places first, moved when all are whole.

    Parameters
    ----------
    files : iterable of name and bytes
        Taken one by one, so that pictures need not all be there at once.

    Raises
    ------
    StorageError
        When the folder is full or may not be written; what was there stays as it was.
    """
    parts: dict[str, Path] = {}
    try:
        for name, data in files:
            path = Path(os.path.realpath(folder / name))
            if path.is_dir():
                raise IsADirectoryError
            mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
            parts[name] = _write_part(path, data, mode)
    except OSError as problem:
        _drop(parts.values())
        raise StorageError(str(folder), _reason(problem, folder)) from None
    except BaseException:  # what makes the next file has failed, or was stopped
        _drop(parts.values())
        raise
    for name, part in parts.items():
        os.replace(part, os.path.realpath(folder / name))  # noqa: PTH105


def _drop(parts: Iterable[Path]) -> None:
    for part in parts:
        part.unlink(missing_ok=True)


def _stem(path: Path) -> str:
    return f".{path.name[:40]}-"


def _write_part(path: Path, data: bytes, mode: int) -> Path:
    """Write the new file beside the old one; where the file system can, it has no name until it is whole."""
    part = path.parent / f"{_stem(path)}{os.getpid()}-{secrets.token_hex(4)}.part"
    try:
        nameless = os.open(path.parent, os.O_WRONLY | os.O_TMPFILE, 0o600)
    except OSError as problem:
        if problem.errno not in _NO_NAMELESS or not path.parent.is_dir():
            raise
        return _write_named(path, data, mode)
    with os.fdopen(nameless, "wb") as file:
        _fill(file.fileno(), data, mode)
        try:
            folder = os.open("/proc/self/fd", os.O_RDONLY)
            try:
                os.link(str(file.fileno()), part, src_dir_fd=folder, follow_symlinks=True)
            finally:
                os.close(folder)
        except OSError:  # no /proc here: a name from the start does as well
            return _write_named(path, data, mode)
    return part


def _write_named(path: Path, data: bytes, mode: int) -> Path:
    handle, name = tempfile.mkstemp(prefix=f"{_stem(path)}{os.getpid()}-", suffix=".part", dir=path.parent)
    try:
        _fill(handle, data, mode)
    except OSError:
        Path(name).unlink(missing_ok=True)
        raise
    finally:
        os.close(handle)
    return Path(name)


def _fill(handle: int, data: bytes, mode: int) -> None:
    left = memoryview(data)
    while left:
        left = left[os.write(handle, left) :]
    os.fchmod(handle, mode)
    os.fsync(handle)


def sweep_parts(path: Path) -> None:
    """Take away what programs that were killed while they wrote this file have left beside it."""
    path = Path(os.path.realpath(path))
    try:
        beside = [one for one in os.listdir(path.parent) if one.startswith(_stem(path)) and one.endswith(".part")]  # noqa: PTH208
        for name in beside:
            if is_left_behind(path.parent / name):
                (path.parent / name).unlink(missing_ok=True)
    except OSError:
        return  # whatever may not be tidied does no harm


def is_left_behind(part: Path) -> bool:
    """Whether the program that was writing a part file runs no more."""
    found = _PART.search(part.name)
    return found is None or not Path(f"/proc/{found['pid']}").exists()


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _reason(problem: OSError, path: Path) -> str:
    if isinstance(problem, FileNotFoundError):
        return f"the folder {path.parent} is not there"
    if isinstance(problem, IsADirectoryError):
        return "it is a folder"
    if isinstance(problem, PermissionError):
        return f"the folder {path.parent} may not be written"
    return (problem.strerror or "the disk refused").lower()
