"""Autosaved work of programs that were killed, kept until it is opened or dropped.

Each running program keeps at most one pair of files in the recovery folder: its card, and a note of whose it is.
"""

import logging
import os
from collections.abc import Mapping
from pathlib import Path

import msgspec
import platformdirs

from fair_thicket.files.atomic import is_left_behind, sweep_parts, write_whole
from fair_thicket.files.card_file import SUFFIX, pack_card
from fair_thicket.files.places import Fingerprint
from fair_thicket.model.card import Work

_log = logging.getLogger(__name__)


class Note(msgspec.Struct, frozen=True):
    """Whose autosave it is: process id, its start time in clock ticks, title, the card's own file or nothing.

    `as_read` is that file's fingerprint when it was opened.
    """

    pid: int
    started: int
    title: str
    path: str
    as_read: Fingerprint | None = None


class Recovered(msgspec.Struct, frozen=True):
    """An autosave that was left behind."""

    autosave: Path
    title: str
    path: str
    as_read: Fingerprint | None = None


def recovery_folder() -> Path:
    """Folder for autosaves (XDG state), made when missing."""
    folder = Path(platformdirs.user_state_dir("fair-thicket")) / "recovery"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


class Autosave:
    """A running program's place in the recovery folder.

    Attributes
    ----------
    file : Path
        The card as it was last autosaved.
    """

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder or recovery_folder()
        number = 0
        while (self._folder / f"{os.getpid()}-{number}.json").exists():
            number += 1
        self.file = self._folder / f"{os.getpid()}-{number}{SUFFIX}"
        self._note = self.file.with_suffix(".json")

    def keep(self, work: Work, pictures: Mapping[str, bytes], path: str = "") -> None:
        """Autosave a card; StorageError when that cannot be done."""
        self.keep_packed(pack_card(work, pictures), work.card.title, path)

    def keep_packed(self, packed: bytes, title: str, path: str = "", as_read: Fingerprint | None = None) -> None:
        """Autosave a card that is packed already."""
        note = Note(os.getpid(), _start_of(os.getpid()), title, path, as_read)
        write_whole(self._note, msgspec.json.encode(note))  # first: a card is never there without its note
        write_whole(self.file, packed)

    def drop(self) -> None:
        """Forget the autosave: the card was saved, or given up by its maker."""
        for file in (self.file, self._note):
            file.unlink(missing_ok=True)


def make_autosave() -> Autosave | None:
    """Make an autosave in the recovery folder; None where there can be no such folder: the desk goes on without."""
    try:
        return Autosave()
    except OSError:
        _log.warning("no folder for autosaves; going on without")
        return None


def find_recovered(folder: Path | None = None) -> list[Recovered]:
    """Find autosaves whose programs no longer run, the newest first. Unreadable notes are passed over."""
    found = []
    for note_file in (folder or recovery_folder()).glob("*.json"):
        note = _read_note(note_file)
        autosave = note_file.with_suffix(SUFFIX)
        if note is not None and autosave.exists() and _start_of(note.pid) != note.started:
            found.append(Recovered(autosave, note.title, note.path, note.as_read))
    return sorted(found, key=lambda one: one.autosave.stat().st_mtime, reverse=True)


def tidy_recovery(folder: Path | None = None) -> None:
    """Take away what killed programs have left half done: notes without their card, and part files anywhere."""
    place = folder or recovery_folder()
    for note_file in place.glob("*.json"):
        note = _read_note(note_file)
        autosave = note_file.with_suffix(SUFFIX)
        for file in (note_file, autosave, *([Path(note.path)] if note is not None and note.path else [])):
            sweep_parts(file)
        if not autosave.exists() and (note is None or _start_of(note.pid) != note.started):
            note_file.unlink(missing_ok=True)
    for part in place.glob(".*.part"):
        if is_left_behind(part):
            part.unlink(missing_ok=True)


def _read_note(file: Path) -> Note | None:
    try:
        return msgspec.json.decode(file.read_bytes(), type=Note)
    except (OSError, msgspec.DecodeError, msgspec.ValidationError):
        return None


def drop_recovered(recovered: Recovered) -> None:
    """Delete an autosave that was opened or is not wanted."""
    for file in (recovered.autosave, recovered.autosave.with_suffix(".json")):
        file.unlink(missing_ok=True)


def _start_of(pid: int) -> int:
    """When a process started, in clock ticks since boot; 0 when it does not run. Tells reused process ids apart."""
    try:
        stat = Path(f"/proc/{pid}/stat").read_text()
    except OSError:
        return 0
    fields = stat.rpartition(")")[2].split()
    return 0 if fields[0] in {"Z", "X"} else int(fields[19])
