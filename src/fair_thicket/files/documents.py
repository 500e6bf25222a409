"""Our JSON documents read with care: wrong contents are told in one sentence, with the place."""

from collections.abc import Mapping
from typing import Any, TypeVar

import msgspec

from fair_thicket.files.archive import plain_words
from fair_thicket.files.upgrades import Upgrade, upgrade
from fair_thicket.model.errors import FileFormatError

Document = TypeVar("Document")


def decode_document(
    data: bytes,
    kind: type[Document],
    name: str,
    *,
    place: str,
    version: int,
    upgrades: Mapping[int, Upgrade] | None = None,
) -> Document:
    """Decode a document of ours.

    Parameters
    ----------
    data : bytes
    kind : type
        What it should hold; a struct with a `version`.
    name : str
        Of the file, for the sentence.
    place : str
        Of the document in the file, such as ``card.json``.
    version : int
        The newest that this program reads.
    upgrades : mapping of int to callable
        What brings a document of that version to the next; see `upgrades`.

    Raises
    ------
    FileFormatError
        Not JSON, wrong types, numbers out of range or not finite, a newer version.
    """
    try:
        probe = msgspec.json.decode(data, type=dict[str, msgspec.Raw])
        stated = msgspec.json.decode(probe.get("version", msgspec.Raw(b"0")), type=int)
        if stated > version:
            newer = f"it was made by a newer Fair Thicket (file version {stated}; this one reads {version})"
            raise FileFormatError(name, f"{newer}: update the program.", place)
        if upgrades and 1 <= stated < version:
            document = msgspec.json.decode(data, type=dict[str, Any])
            upgrade(document, stated, version, upgrades)
            return msgspec.convert(document, kind)
        return msgspec.json.decode(data, type=kind)
    except msgspec.ValidationError as problem:
        words, _, where = str(problem).partition(" - at ")
        at = f"{place}, {where.strip('`')}" if where else place
        raise FileFormatError(name, f"{plain_words(words)}.", at) from None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as problem:
        raise FileFormatError(name, f"it is not readable JSON ({plain_words(str(problem))}).", place) from None
