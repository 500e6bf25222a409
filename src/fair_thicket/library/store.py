"""The library of everything that a maker owns: images with their pictures, papers, inks, markers.

One SQLite file in the maker's data folder. Every change is one transaction, on the disk before it is told done.
"""

import io
import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from types import MappingProxyType

import msgspec
import platformdirs
from PIL import Image
from PIL.PngImagePlugin import PngImageFile

from fair_thicket.library.schema import THUMB_PX, migrate
from fair_thicket.model.errors import LibraryError, PictureError
from fair_thicket.model.stash import Kind, Layer, Stamp
from fair_thicket.model.supplies import Supply
from fair_thicket.model.upgrades import VERSION as FORM
from fair_thicket.shape.die_picture import picture_cut

WAIT_S = 5.0
BRIEF_S = 0.2
"""How long a window waits for another program that is writing; longer, and it seems to hang."""
FULL = "its disk is full or cannot be written to; make some room there and do it again"
REASONS = MappingProxyType(
    {
        "locked": "another program is writing to it; do it again in a moment",
        "is full": FULL,
        "disk i/o": FULL,
        "readonly": "it may only be read; let it be written to, and do it again",
        "unable to open": "it cannot be opened; look whether its folder is there and may be written to",
    }
)
MOST_SHOWN = 500


class Entry(msgspec.Struct, frozen=True):
    """An image as a list shows it.

    Attributes
    ----------
    id : int
    name, set_name : str
    kind : Kind
    longest_mm : float
        Longer side of its box.
    thumb : bytes
        Small PNG.
    """

    id: int
    name: str
    set_name: str
    kind: Kind
    longest_mm: float
    thumb: bytes


def library_file() -> Path:
    """Where the library lies: the maker's data folder (XDG)."""
    return Path(platformdirs.user_data_dir("fair-thicket")) / "library.sqlite"


def open_library(path: Path | None = None, *, wait_s: float = WAIT_S) -> "Library":
    """Open the library, made when missing; waits so long for other programs whenever it is changed.

    Raises
    ------
    LibraryError
        When the file is damaged, newer than this program, or its folder may not be written.
    """
    file = path or library_file()
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise LibraryError(str(file), (problem.strerror or "its folder cannot be made").lower()) from None
    return Library(file, wait_s)


class Library:
    """An open library; use it from one thread, or open one for each.

    Attributes
    ----------
    path : Path
    """

    def __init__(self, path: Path, wait_s: float = WAIT_S) -> None:
        self.path = path
        with self._told():
            self._base = sqlite3.connect(path, timeout=WAIT_S, isolation_level=None)
            self._base.execute("PRAGMA journal_mode = WAL")
            self._base.execute("PRAGMA synchronous = FULL")
            self._base.execute("PRAGMA foreign_keys = ON")
            migrate(self._base, str(path))
            self._base.execute(f"PRAGMA busy_timeout = {round(1000 * wait_s)}")

    def close(self) -> None:
        """Close the file."""
        self._base.close()

    @contextmanager
    def _told(self) -> Iterator[None]:
        """Turn what the database says into one sentence."""
        try:
            yield
        except sqlite3.OperationalError as problem:
            words = str(problem)
            reason = next((reason for part, reason in REASONS.items() if part in words.lower()), words)
            raise LibraryError(str(self.path), reason) from None
        except sqlite3.DatabaseError:
            raise LibraryError(
                str(self.path), "it is damaged; move the file elsewhere and start again, or bring back a copy"
            ) from None

    @contextmanager
    def _whole(self) -> Iterator[sqlite3.Connection]:
        """One transaction."""
        with self._told():
            self._base.execute("BEGIN IMMEDIATE")
            try:
                yield self._base
                self._base.execute("COMMIT")
            except BaseException:
                if self._base.in_transaction:  # a full disk has ended it already
                    self._base.execute("ROLLBACK")
                raise

    # -- images --------------------------------------------------------------------------------------------------

    def keep(
        self, stamps: Sequence[Stamp], pictures: Mapping[str, bytes], supplies: Sequence[Supply] = ()
    ) -> list[int]:
        """Put images, and supplies with them, into the library, all or none; returns the images' numbers.

        Raises
        ------
        PictureError
            When a picture is missing or damaged.
        """
        rows = [(*_columns(stamp), pictures.get(stamp.picture, b""), _thumb(pictures, stamp)) for stamp in stamps]
        layers = [[(layer.picture, _layer_picture(pictures, layer)) for layer in stamp.layers] for stamp in stamps]
        numbers = []
        with self._whole() as base:
            for row, own in zip(rows, layers, strict=True):
                made = base.execute(
                    "INSERT INTO images (name, set_name, tags, kind, longest_mm, stamp, picture, thumb, form)"
                    " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
                    (*row, FORM),
                )
                numbers.append(int(made.lastrowid or 0))
                base.executemany(
                    "INSERT OR IGNORE INTO layer_pictures (image, name, picture) VALUES (?, ?, ?)",
                    [(numbers[-1], name, picture) for name, picture in own],
                )
            _insert_supplies(base, supplies)
        return numbers

    def change(self, number: int, stamp: Stamp) -> None:
        """Put what is known of an image in place of what was; its picture stays."""
        with self._whole() as base:
            row = base.execute("SELECT kind, picture FROM images WHERE id = ?", (number,)).fetchone()
            base.execute(
                "UPDATE images SET name = ?, set_name = ?, tags = ?, kind = ?, longest_mm = ?, stamp = ? WHERE id = ?",
                (*_columns(stamp), number),
            )
            if row is not None and Kind(row[0]).is_plain != stamp.kind.is_plain:  # it is another thing to look at
                thumb = _thumb({stamp.picture: bytes(row[1])}, stamp)
                base.execute("UPDATE images SET thumb = ? WHERE id = ?", (thumb, number))

    def recall(self, picture_name: str, picture: bytes) -> Stamp | None:
        """Return what is known of the image that has this very picture; None where there is none."""
        found = self._of_picture(picture_name, picture)
        return found[1] if found is not None else None

    def learn(self, stamp: Stamp, picture: bytes) -> bool:
        """Take over how an image is coloured (regions, parts, schemes) for the one that has this very picture.

        Returns
        -------
        bool
            Whether there is one, and something of it changed.
        """
        found = self._of_picture(stamp.picture, picture)
        if found is None:
            return False
        number, known = found
        told = msgspec.structs.replace(known, regions=stamp.regions, parts=stamp.parts, schemes=stamp.schemes)
        if told == known:
            return False
        self.change(number, told)
        return True

    def _of_picture(self, picture_name: str, picture: bytes) -> tuple[int, Stamp] | None:
        with self._told():
            row = self._base.execute(
                "SELECT id, stamp FROM images WHERE picture_name = ? AND picture = ? ORDER BY id LIMIT 1",
                (picture_name, picture),
            ).fetchone()
        return (int(row[0]), msgspec.json.decode(row[1], type=Stamp)) if row is not None else None

    def redraw(self, number: int, stamp: Stamp, pictures: Mapping[str, bytes]) -> None:
        """Put an image with another picture in place of what was; its layers' pictures stay."""
        thumb = _thumb(pictures, stamp)
        with self._whole() as base:
            base.execute(
                "UPDATE images SET stamp = ?, picture = ?, thumb = ? WHERE id = ?",
                (msgspec.json.encode(stamp), pictures[stamp.picture], thumb, number),
            )

    def drop(self, numbers: Sequence[int]) -> None:
        """Take images out of the library; cards keep their own copies."""
        with self._whole() as base:
            base.executemany("DELETE FROM images WHERE id = ?", [(number,) for number in numbers])

    def count(self) -> int:
        """How many images there are."""
        with self._told():
            return int(self._base.execute("SELECT count(*) FROM images").fetchone()[0])

    def search(
        self,
        words: str = "",
        *,
        kinds: Sequence[Kind] = (),
        size_mm: tuple[float, float] | None = None,
        most: int = MOST_SHOWN,
    ) -> list[Entry]:
        """Find images whose name, set or tags hold words that begin as typed, by name.

        Parameters
        ----------
        words : str
            Every word must be found; none finds everything.
        kinds : sequence of Kind
            None means all.
        size_mm : (least, most) of the longer side, or None
        most : int
            Not more than these.
        """
        where: list[str] = []
        values: list[str | float] = []
        typed = [word for word in words.replace('"', " ").split() if any(letter.isalnum() for letter in word)]
        if typed:
            where.append("id IN (SELECT rowid FROM words WHERE words MATCH ?)")
            values.append(" AND ".join(f'"{word}"*' for word in typed))
        if kinds:
            where.append(f"kind IN ({', '.join('?' * len(kinds))})")
            values += [kind.value for kind in kinds]
        if size_mm is not None:
            where.append("longest_mm BETWEEN ? AND ?")
            values += [*size_mm]
        clause = f" WHERE {' AND '.join(where)}" if where else ""
        # the names are sorted by their own index first; only what is shown is then read with its picture
        ids = f"SELECT id FROM images{clause} ORDER BY name COLLATE NOCASE, id LIMIT ?"  # noqa: S608 - fixed words
        query = (
            f"SELECT id, name, set_name, kind, longest_mm, thumb FROM images WHERE id IN ({ids})"  # noqa: S608
            " ORDER BY name COLLATE NOCASE, id"
        )
        with self._told():
            rows = self._base.execute(query, [*values, most]).fetchall()
        return [Entry(row[0], row[1], row[2], Kind(row[3]), row[4], row[5]) for row in rows]

    def load(self, number: int) -> tuple[Stamp, dict[str, bytes]]:
        """Return an image with its pictures by name, those of its layers too; KeyError when there is none."""
        with self._told():
            row = self._base.execute("SELECT stamp, picture FROM images WHERE id = ?", (number,)).fetchone()
        if row is None:
            raise KeyError(number)
        stamp = msgspec.json.decode(row[0], type=Stamp)
        with self._told():
            layers = self._base.execute(
                "SELECT name, picture FROM layer_pictures WHERE image = ?", (number,)
            ).fetchall()
        return stamp, {stamp.picture: bytes(row[1]), **{name: bytes(picture) for name, picture in layers}}

    # -- papers, inks, markers -----------------------------------------------------------------------------------

    def keep_supplies(self, supplies: Sequence[Supply]) -> list[int]:
        """Put papers, inks and markers into the library, all or none; returns their numbers."""
        with self._whole() as base:
            return _insert_supplies(base, supplies)

    def change_supply(self, number: int, supply: Supply) -> None:
        """Put a paper, ink or marker in place of what was."""
        with self._whole() as base:
            base.execute(
                "UPDATE supplies SET what = ?, name = ?, supply = ? WHERE id = ?",
                (_what(supply), supply.name, msgspec.json.encode(supply), number),
            )

    def drop_supplies(self, numbers: Sequence[int]) -> None:
        """Take papers, inks and markers out."""
        with self._whole() as base:
            base.executemany("DELETE FROM supplies WHERE id = ?", [(number,) for number in numbers])

    def list_supplies(self, what: str | None = None) -> list[tuple[int, Supply]]:
        """List papers, inks and markers by name; `what` is ``paper``, ``ink``, ``marker`` or None for all."""
        with self._told():
            rows = self._base.execute(
                "SELECT id, supply FROM supplies WHERE ? IS NULL OR what = ? ORDER BY what, name COLLATE NOCASE, id",
                (what, what),
            ).fetchall()
        return [(row[0], msgspec.json.decode(row[1], type=Supply)) for row in rows]


def _insert_supplies(base: sqlite3.Connection, supplies: Sequence[Supply]) -> list[int]:
    insert = "INSERT INTO supplies (what, name, supply, form) VALUES (?, ?, ?, ?)"
    rows = [(_what(supply), supply.name, msgspec.json.encode(supply), FORM) for supply in supplies]
    return [int(base.execute(insert, row).lastrowid or 0) for row in rows]


def _what(supply: Supply) -> str:
    return type(supply).__name__.lower()


def _columns(stamp: Stamp) -> tuple[str, str, str, str, float, bytes]:
    longest = max(stamp.width_mm, stamp.height_mm)
    tags = " ".join(stamp.tags)
    return stamp.name, stamp.set_name, tags, stamp.kind.value, longest, msgspec.json.encode(stamp)


def _layer_picture(pictures: Mapping[str, bytes], layer: Layer) -> bytes:
    if not pictures.get(layer.picture):
        raise PictureError(f"The picture of the layer “{layer.name}” is missing; scan it again.")
    return pictures[layer.picture]


def _thumb(pictures: Mapping[str, bytes], stamp: Stamp) -> bytes:
    """Make a small picture: of a stamp its own, of a die the paper that it cuts."""
    try:
        with PngImageFile(io.BytesIO(pictures.get(stamp.picture, b""))) as picture:
            small = picture.convert("RGBA")
    except (OSError, SyntaxError, ValueError):
        raise PictureError(f"The picture of “{stamp.name}” is missing or damaged; scan it again.") from None
    if stamp.kind.is_plain:
        return picture_cut(stamp, THUMB_PX)
    small.thumbnail((THUMB_PX, THUMB_PX), Image.Resampling.BOX)
    buffer = io.BytesIO()
    small.save(buffer, "PNG", compress_level=3)
    return buffer.getvalue()
