"""Our JSON documents read with care: wrong contents are told in one sentence, with the place."""

from collections.abc import Callable
from typing import Any, TypeVar

import msgspec

from fair_thicket.files.archive import plain_words
from fair_thicket.model.errors import FileFormatError
from fair_thicket.model.upgrades import VERSION, Plain

Document = TypeVar("Document")


def decode_document(
    data: bytes,
    kind: type[Document],
    name: str,
    *,
    place: str,
    upgrade: Callable[[Plain, int], None],
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
    upgrade : callable of (plain document, its version)
        Brings it up to the present version; see `model.upgrades`.

    Raises
    ------
    FileFormatError
        Not JSON, wrong types, numbers out of range or not finite, a newer version.
    """
    try:
        probe = msgspec.json.decode(data, type=dict[str, msgspec.Raw])
        stated = msgspec.json.decode(probe.get("version", msgspec.Raw(b"0")), type=int)
        if stated > VERSION:
            newer = f"it was made by a newer Fair Thicket (file version {stated}; this one reads {VERSION})"
            raise FileFormatError(name, f"{newer}: update the program.", place)
        if 1 <= stated < VERSION:
            document = msgspec.json.decode(data, type=dict[str, Any])
            upgrade(document, stated)
            return msgspec.convert(document, kind)
        return msgspec.json.decode(data, type=kind)
    except msgspec.ValidationError as problem:
        words, _, where = str(problem).partition(" - at ")
        at = f"{place}, {where.strip('`')}" if where else place
        raise FileFormatError(name, f"{plain_words(words)}.", at) from None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as problem:
        raise FileFormatError(name, f"it is not readable JSON ({plain_words(str(problem))}).", place) from None
