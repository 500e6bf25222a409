"""The little picture that a card file carries, read without opening the card."""

import zipfile
from pathlib import Path

MOST_BYTES = 4_000_000


def read_preview(path: Path) -> bytes | None:
    """Read a card file's preview; None where none can be read: what is wrong is told when it is opened."""
    try:
        with zipfile.ZipFile(path) as archive, archive.open("preview.png") as file:
            data = file.read(MOST_BYTES + 1)
    except (OSError, KeyError, zipfile.BadZipFile, NotImplementedError, RuntimeError, ValueError, EOFError):
        return None
    except Exception as problem:  # zlib.error shares no base with the others
        if type(problem).__module__ != "zlib":
            raise
        return None
    return data if len(data) <= MOST_BYTES else None
