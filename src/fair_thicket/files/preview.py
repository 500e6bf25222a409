"""The little picture that a card file carries, read without opening the card."""

import zipfile
from pathlib import Path

MOST_BYTES = 4_000_000


def read_preview(path: Path) -> bytes | None:
    """Read a card file's preview; None where none can be read: what is wrong is told when it is opened."""
    try:
        with zipfile.ZipFile(path) as archive:
            info = archive.getinfo("preview.png")
            if info.compress_type not in {zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED}:
                return None
            with archive.open(info) as file:
                data = file.read(MOST_BYTES + 1)
    except Exception:  # zip files that are damaged on purpose raise whatever their packing does
        return None
    return data if len(data) <= MOST_BYTES else None
