"""The .thicket card file: a zip with card.json, the stamps' pictures and a preview (docs/card-file.md).

Whatever is wrong with a file is said in one sentence with the place; nothing is half opened.
"""

import io
import zipfile
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Annotated, Literal

import msgspec
from PIL import Image

from fair_thicket.files.archive import add_entry, check_entries, read_entry, read_picture_entry
from fair_thicket.files.atomic import write_whole
from fair_thicket.files.documents import check_stamp, decode_document
from fair_thicket.model.card import Card, Work, order_pieces
from fair_thicket.model.errors import FileFormatError, GeometryError, PictureError
from fair_thicket.model.pieces import CARD_EDGE, Cutout, Impression, PaperPiece, Piece, stamps_of
from fair_thicket.model.stash import Ring, Stash
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.painting import paint

VERSION = 4
SUFFIX = ".thicket"
MOST_ENTRIES = 2000
MOST_JSON_BYTES = 64_000_000
PREVIEW_DPI = 100


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
    document = decode_document(data, CardDocument, name, place="card.json", version=VERSION)
    work = Work(document.card, document.stash)
    _check(work, name)
    card = msgspec.structs.replace(
        work.card, pieces=order_pieces(work.card.pieces), inside=order_pieces(work.card.inside)
    )
    return work if card == work.card else Work(card, work.stash)


def _check(work: Work, name: str) -> None:
    keys = [stamp.id for stamp in work.stash.stamps]
    if len(set(keys)) < len(keys):
        raise FileFormatError(name, "two stamps have the same id.", "card.json, $.stash.stamps")
    card = work.card
    _check_pieces((*card.pieces, *card.inside), work, name, "pieces")
    for index, one in enumerate(card.tries):
        _check_pieces(one.pieces, work, name, f"tries[{index}].pieces")
    if card.format == "custom" and card.custom_mm is None:
        raise FileFormatError(name, "a custom format needs its size.", "card.json, $.card.custom_mm")
    for index, stamp in enumerate(work.stash.stamps):
        check_stamp(stamp, name, f"card.json, $.stash.stamps[{index}]")


def _check_pieces(pieces: Sequence[Piece], work: Work, name: str, place: str) -> None:
    """Make sure that pieces have ids of their own, stamps that are there, and surfaces that do not go round."""
    ids = [piece.id for piece in pieces]
    if len(set(ids)) < len(ids):
        raise FileFormatError(name, "two pieces have the same id.", f"card.json, $.card.{place}")
    if CARD_EDGE in ids:
        raise FileFormatError(name, f"no piece may have the id “{CARD_EDGE}”.", f"card.json, $.card.{place}")
    on = {piece.id: piece.on for piece in pieces}
    for index, piece in enumerate(pieces):
        at = f"card.json, $.card.{place}[{index}]"
        for key in stamps_of(piece):
            if not work.stash.has(key):
                raise FileFormatError(name, f"no stamp “{key}” is in the stash.", f"{at}.stamp")
        _check_surface(piece, on, name, at)
        for ring in _rings_of(piece):
            try:
                to_area(ring)
            except GeometryError as problem:
                raise FileFormatError(name, str(problem), at) from None


def _check_surface(piece: Piece, on: Mapping[str, str], name: str, at: str) -> None:
    seen, surface = {piece.id}, piece.on
    while surface:
        if surface not in on:
            raise FileFormatError(name, f"it lies on “{surface}”, which is not there.", f"{at}.on")
        if surface in seen:
            raise FileFormatError(name, "pieces lie on one another in a ring.", f"{at}.on")
        seen.add(surface)
        surface = on[surface]


def _rings_of(piece: Piece) -> tuple[Ring, ...]:
    if isinstance(piece, PaperPiece):
        return (*(flap.ring for flap in piece.flaps), *(piece.cut_away if isinstance(piece, Cutout) else ()))
    if isinstance(piece, Impression):
        return (*((piece.inked,) if piece.inked else ()), *(zone.ring for zone in piece.zones))
    return ()


def save_card(path: Path, work: Work, pictures: Mapping[str, bytes]) -> None:
    """Write a .thicket file, whole or not at all.

    Raises
    ------
    StorageError
        When the place cannot be written.
    PictureError
        When a stamp's picture is missing: the file would not open again.
    """
    write_whole(path, pack_card(work, pictures))


def pack_card(work: Work, pictures: Mapping[str, bytes]) -> bytes:
    """Make the bytes of a .thicket file; the same work gives the same bytes."""
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
    Image.fromarray(grey).save(buffer, "PNG", dpi=(dpi, dpi))  # type: ignore[arg-type]
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
