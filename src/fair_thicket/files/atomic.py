"""Files written whole or not at all."""

import os
import tempfile
from pathlib import Path

from fair_thicket.model.errors import StorageError


def write_whole(path: Path, data: bytes) -> None:
    """Write a file so that at any moment either the old or the new one is there, whole.

    Raises
    ------
    StorageError
        When the folder is missing, full or may not be written; the old file stays as it was.
    """
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name[:40]}-", suffix=".part", dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        if path.exists():
            os.chmod(temporary, path.stat().st_mode & 0o777)  # noqa: PTH101 - the same call on the name mkstemp gave
        else:
            os.chmod(temporary, 0o666 & ~_umask())  # noqa: PTH101
        os.replace(temporary, path)  # noqa: PTH105
    except OSError as problem:
        if temporary:
            Path(temporary).unlink(missing_ok=True)
        raise StorageError(str(path), _reason(problem, path)) from None


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _reason(problem: OSError, path: Path) -> str:
    if isinstance(problem, FileNotFoundError):
        return f"the folder {path.parent} is not there"
    if isinstance(problem, PermissionError):
        return f"the folder {path.parent} may not be written"
    return (problem.strerror or "the disk refused").lower()
