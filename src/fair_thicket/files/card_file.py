"""The .thicket card file: a zip with card.json, the stamps' pictures and a preview (docs/card-file.md).

Whatever is wrong with a file is said in one sentence with the place; nothing is half opened.
"""

import io
import zipfile
from collections.abc import Mapping
from pathlib import Path
from typing import Annotated, Literal

import msgspec
from PIL import Image

from fair_thicket.files.archive import add_entry, check_entries, read_entry, read_picture_entry
from fair_thicket.files.atomic import write_whole
from fair_thicket.files.documents import decode_document
from fair_thicket.ink.painting import paint
from fair_thicket.laid.soundness import check_relations, check_work
from fair_thicket.model.card import Card, Work, order_pieces
from fair_thicket.model.errors import FileFormatError, PictureError, UnsoundError
from fair_thicket.model.stash import Stash
from fair_thicket.model.upgrades import VERSION, upgrade_card

SUFFIX = ".thicket"
MOST_ENTRIES = 2000
MOST_JSON_BYTES = 64_000_000
PREVIEW_DPI = 100
PNG_EFFORT = 3
"""Of 9: three times as quick as the usual 6, and the picture of a card is a twelfth larger (measured)."""


class CardDocument(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What card.json holds."""

    format: Literal["fair-thicket card"]
    version: Annotated[int, msgspec.Meta(ge=1)]
    card: Card
    stash: Stash


def encode_card(work: Work) -> bytes:
    """Write card.json, indented so that people can read it."""
    document = CardDocument("fair-thicket card", VERSION, work.card, work.stash)
    return msgspec.json.format(msgspec.json.encode(document), indent=1)


def decode_card(data: bytes, name: str) -> Work:
    """Read card.json and check that it hangs together.

    Raises
    ------
    FileFormatError
        Wrong types, numbers out of range or not finite, a newer version, a piece without its stamp, an empty outline.
    """
    document = decode_document(data, CardDocument, name, place="card.json", upgrade=upgrade_card)
    work = Work(document.card, document.stash)
    try:
        check_relations(work)
    except UnsoundError as problem:
        raise FileFormatError(name, problem.problem, f"card.json, $.{problem.place}") from None
    card = msgspec.structs.replace(
        work.card, pieces=order_pieces(work.card.pieces), inside=order_pieces(work.card.inside)
    )
    return work if card == work.card else Work(card, work.stash)


def save_card(path: Path, work: Work, pictures: Mapping[str, bytes]) -> None:
    """Write a .thicket file, whole or not at all.

    Raises
    ------
    StorageError
        When the place cannot be written.
    PictureError, UnsoundError
        When a stamp's picture is missing, or anything else would keep the file from opening again.
    """
    write_whole(path, pack_card(work, pictures))


def pack_card(work: Work, pictures: Mapping[str, bytes]) -> bytes:
    """Make the bytes of a .thicket file; the same work gives the same bytes.

    Raises
    ------
    UnsoundError
        When the file would not open again.
    """
    check_work(work)
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        add_entry(archive, "card.json", encode_card(work))
        add_entry(archive, "preview.png", _preview(work, pictures))
        for picture in sorted({name for stamp in work.stash.stamps for name in stamp.pictures}):
            if picture not in pictures:
                raise PictureError(f"The picture {picture} is missing; scan that stamp again before saving.")
            add_entry(archive, picture, pictures[picture], zipfile.ZIP_STORED)
    return buffer.getvalue()


def _preview(work: Work, pictures: Mapping[str, bytes]) -> bytes:
    return encode_png(paint(work, pictures, dpi=PREVIEW_DPI), PREVIEW_DPI)


def encode_png(grey: object, dpi: float) -> bytes:
    """Encode a (rows, columns) or (rows, columns, 3) uint8 array as PNG that states its resolution."""
    buffer = io.BytesIO()
    Image.fromarray(grey).save(buffer, "PNG", dpi=(dpi, dpi), compress_level=PNG_EFFORT)  # type: ignore[arg-type]
    return buffer.getvalue()


def open_card(path: Path) -> tuple[Work, dict[str, bytes]]:
    """Open a .thicket file.

    Returns
    -------
    (Work, dict of picture name to PNG bytes)

    Raises
    ------
    FileFormatError
        Not a zip, parts missing, foreign names, sizes that lie, wrong contents; says where.
    """
    name = path.name
    if path.exists() and not path.is_file() and not path.is_dir():
        raise FileFormatError(name, "it is no file.")
    try:
        with zipfile.ZipFile(path) as archive:
            entries = check_entries(archive, name, most=MOST_ENTRIES, main="card.json")
            work = decode_card(read_entry(archive, entries["card.json"], MOST_JSON_BYTES, name), name)
            pictures = {
                picture: read_picture_entry(archive, entries, picture, name)
                for picture in sorted({name for stamp in work.stash.stamps for name in stamp.pictures})
            }
    except FileNotFoundError:
        raise FileFormatError(name, "it is not there.") from None
    except IsADirectoryError:
        raise FileFormatError(name, "it is a folder.") from None
    except PermissionError:
        raise FileFormatError(name, "it may not be read.") from None
    except (zipfile.BadZipFile, zipfile.LargeZipFile, NotImplementedError):
        raise FileFormatError(name, "it is not a .thicket file, or it was cut short.") from None
    except OSError as problem:
        raise FileFormatError(name, f"it could not be read ({problem.strerror}).") from None
    return work, pictures


def card_schema() -> dict[str, object]:
    """JSON schema of card.json, as docs/card-file.schema.json holds it."""
    return msgspec.json.schema(CardDocument)
