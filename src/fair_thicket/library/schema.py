"""The library's tables, by version: each step leads from the version before it to its own."""

import sqlite3
from collections.abc import Iterator

import msgspec

from fair_thicket.model.errors import LibraryError
from fair_thicket.model.upgrades import VERSION as FORM
from fair_thicket.model.upgrades import upgrade_image, upgrade_supply
from fair_thicket.shape.die_picture import picture_cut_rings

THUMB_PX = 112

STEPS: tuple[str, ...] = (
    """
    CREATE TABLE images (
        id INTEGER PRIMARY KEY,
        name TEXT NOT NULL, set_name TEXT NOT NULL, tags TEXT NOT NULL,
        kind TEXT NOT NULL, longest_mm REAL NOT NULL,
        stamp BLOB NOT NULL, picture BLOB NOT NULL, thumb BLOB NOT NULL
    );
    CREATE INDEX images_by_name ON images (name COLLATE NOCASE, id);
    CREATE INDEX images_by_kind ON images (kind, longest_mm);
    CREATE VIRTUAL TABLE words USING fts5 (
        name, set_name, tags, content='images', content_rowid='id',
        tokenize="unicode61 remove_diacritics 2", prefix='1 2 3'
    );
    CREATE TRIGGER images_in AFTER INSERT ON images BEGIN
        INSERT INTO words (rowid, name, set_name, tags) VALUES (new.id, new.name, new.set_name, new.tags);
    END;
    CREATE TRIGGER images_out AFTER DELETE ON images BEGIN
        INSERT INTO words (words, rowid, name, set_name, tags)
        VALUES ('delete', old.id, old.name, old.set_name, old.tags);
    END;
    CREATE TRIGGER images_changed AFTER UPDATE OF name, set_name, tags ON images BEGIN
        INSERT INTO words (words, rowid, name, set_name, tags)
        VALUES ('delete', old.id, old.name, old.set_name, old.tags);
        INSERT INTO words (rowid, name, set_name, tags) VALUES (new.id, new.name, new.set_name, new.tags);
    END;
    """,
    """
    CREATE TABLE supplies (
        id INTEGER PRIMARY KEY, what TEXT NOT NULL, name TEXT NOT NULL, supply BLOB NOT NULL
    );
    CREATE INDEX supplies_by_name ON supplies (what, name COLLATE NOCASE);
    """,
    """
    CREATE TABLE layer_pictures (
        image INTEGER NOT NULL REFERENCES images (id) ON DELETE CASCADE, name TEXT NOT NULL, picture BLOB NOT NULL,
        PRIMARY KEY (image, name)
    );
    """,
    """
    UPDATE images SET thumb = cut_picture(stamp) WHERE kind IN ('die shape', 'border die', 'backdrop die', 'stencil');
    """,
    """
    ALTER TABLE images ADD COLUMN picture_name TEXT
        GENERATED ALWAYS AS (json_extract(CAST(stamp AS TEXT), '$.picture')) VIRTUAL;
    CREATE INDEX images_by_picture ON images (picture_name);
    """,
    """
    ALTER TABLE images ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
    ALTER TABLE supplies ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
    CREATE INDEX images_by_form ON images (form);
    CREATE INDEX supplies_by_form ON supplies (form);
    """,
)
VERSION = len(STEPS)


def migrate(base: sqlite3.Connection, path: str) -> None:
    """Bring a library up to the present version, each step whole or not at all.

    Raises
    ------
    LibraryError
        When a newer program made it.
    """
    if _version(base) == VERSION and _are_entries_present(base):
        return
    base.create_function("cut_picture", 1, _cut_picture, deterministic=True)
    base.execute("BEGIN IMMEDIATE")  # another program may be making the same steps
    try:
        version = _version(base)
        if version > VERSION:
            raise _newer(path, version)
        for step in STEPS[version:]:
            for statement in _statements(step):
                base.execute(statement)
        _upgrade_entries(base, path)
        base.execute(f"PRAGMA user_version = {VERSION}")  # part of the transaction: made and counted, or neither
    except BaseException:
        base.execute("ROLLBACK")
        raise
    base.execute("COMMIT")


def _are_entries_present(base: sqlite3.Connection) -> bool:
    """Whether every entry is written in this program's form."""
    other = "SELECT 1 FROM images WHERE form <> ? UNION ALL SELECT 1 FROM supplies WHERE form <> ? LIMIT 1"
    return base.execute(other, (FORM, FORM)).fetchone() is None


def _upgrade_entries(base: sqlite3.Connection, path: str) -> None:
    """Bring every entry up to this program's form, as plain JSON."""
    for table, column, upgrade in (("images", "stamp", upgrade_image), ("supplies", "supply", upgrade_supply)):
        rows = base.execute(f"SELECT id, {column}, form FROM {table} WHERE form <> ?", (FORM,))  # noqa: S608
        for number, data, form in rows.fetchall():
            if form > FORM:
                raise _newer(path, form)
            document = msgspec.json.decode(data)
            upgrade(document, form)
            base.execute(
                f"UPDATE {table} SET {column} = ?, form = ? WHERE id = ?",  # noqa: S608 - fixed words
                (msgspec.json.encode(document), FORM, number),
            )


def _newer(path: str, version: int) -> LibraryError:
    return LibraryError(path, f"it was made by a newer Fair Thicket (version {version}): update the program")


def _cut_picture(stamp: bytes) -> bytes:
    """Picture what a die cuts, by the fields that an image of version 4 of the library had."""
    plain = msgspec.json.decode(stamp)
    rings = (plain["outline"], *plain.get("pockets", ()))
    return picture_cut_rings(rings, (plain["width_mm"], plain["height_mm"]), THUMB_PX)


def _version(base: sqlite3.Connection) -> int:
    return int(base.execute("PRAGMA user_version").fetchone()[0])


def _statements(script: str) -> Iterator[str]:
    """Part a script into its statements; a trigger's own semicolons stay in it."""
    statement = ""
    for piece in script.split(";"):
        statement += piece + ";"
        if sqlite3.complete_statement(statement):
            if statement.strip(" \n;"):
                yield statement
            statement = ""
