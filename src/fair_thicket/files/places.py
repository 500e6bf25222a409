"""Where files go: names made of titles, whether a file changed since it was read, and what must not be written over."""

import hashlib
from pathlib import Path

import msgspec

from fair_thicket.model.errors import InputError

OUR_SUFFIXES = frozenset({".thicket", ".thicket-stash"})
MOST_STEM_BYTES = 120
_REFUSED = frozenset('/\\:*?"<>|')


def file_stem(title: str, otherwise: str = "card") -> str:
    """Make the stem of a file name out of a title: no folder, nothing that a file system or another system refuses.

    Examples
    --------
    >>> file_stem("moth / newt")
    'moth - newt'
    """
    letters = ("-" if letter in _REFUSED else letter for letter in title if letter.isprintable())
    stem = " ".join("".join(letters).split()).strip(". ")
    return stem.encode()[:MOST_STEM_BYTES].decode(errors="ignore").strip() or otherwise


class Fingerprint(msgspec.Struct, frozen=True):
    """What a file was like when it was read or written.

    Attributes
    ----------
    changed_ns : int
        When it was last written, ns since the epoch.
    size : int
        Bytes.
    digest : str
        SHA-256 of its contents.
    """

    changed_ns: int
    size: int
    digest: str


def fingerprint_of(path: Path) -> Fingerprint | None:
    """Take a file's fingerprint; None where it is not there or cannot be read."""
    try:
        state = path.stat()
        return Fingerprint(state.st_mtime_ns, state.st_size, hashlib.sha256(path.read_bytes()).hexdigest())
    except OSError:
        return None


def has_changed(path: Path, known: Fingerprint | None) -> bool:
    """Whether a file that is there is another than when its fingerprint was taken; touched alone is not changed."""
    try:
        state = path.stat()
    except OSError:
        return False
    if known is None:
        return True
    if (state.st_mtime_ns, state.st_size) == (known.changed_ns, known.size):
        return False
    now = fingerprint_of(path)
    return now is None or now.digest != known.digest


def refuse_target(target: Path, source: Path, *, what: str) -> None:
    """Refuse to write a picture or pages where a card or a stash lies, above all over the card they are made of.

    Raises
    ------
    InputError
    """
    try:
        is_same = target.samefile(source)
    except OSError:
        is_same = False
    if is_same:
        raise InputError(f"{target} is the card itself; give {what} another name.")
    if target.suffix in OUR_SUFFIXES:
        raise InputError(f"{target.name} would be the name of a card or a stash; give {what} another ending.")
    if target.is_dir():
        raise InputError(f"{target} is a folder; give {what} a file name in it.")
