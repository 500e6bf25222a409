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
from PIL.PngImagePlugin import PngImageFile

from fair_thicket.files.atomic import write_whole
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import FileFormatError, GeometryError, PictureError
from fair_thicket.model.stash import Stash
from fair_thicket.shape.inking import compose
from fair_thicket.shape.outline import to_area

VERSION = 1
SUFFIX = ".thicket"
MOST_ENTRIES = 2000
MOST_JSON_BYTES = 64_000_000
MOST_PICTURE_BYTES = 40_000_000
MOST_BYTES = 800_000_000
MOST_PICTURE_PIXELS = 60_000_000
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
    place = "card.json"
    try:
        probe = msgspec.json.decode(data, type=dict[str, msgspec.Raw])
        version = msgspec.json.decode(probe.get("version", msgspec.Raw(b"0")), type=int)
        if version > VERSION:
            raise FileFormatError(
                name,
                f"it was made by a newer Fair Thicket (file version {version}; this one reads "
                f"{VERSION}): update the program.",
                place,
            )
        document = msgspec.json.decode(data, type=CardDocument)
    except msgspec.ValidationError as problem:
        words, _, where = str(problem).partition(" - at ")
        raise FileFormatError(name, f"{_plain(words)}.", f"{place}, {where.strip('`')}" if where else place) from None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as problem:
        raise FileFormatError(name, f"it is not readable JSON ({_plain(str(problem))}).", place) from None
    work = Work(document.card, document.stash)
    _check(work, name)
    return work


def _plain(words: str) -> str:
    text = " ".join(words.split())
    return (text[:1].lower() + text[1:] if text else "unreadable")[:160]


def _check(work: Work, name: str) -> None:
    keys = [stamp.id for stamp in work.stash.stamps]
    if len(set(keys)) < len(keys):
        raise FileFormatError(name, "two stamps have the same id.", "card.json, $.stash.stamps")
    pieces = [piece.id for piece in work.card.pieces]
    if len(set(pieces)) < len(pieces):
        raise FileFormatError(name, "two pieces have the same id.", "card.json, $.card.pieces")
    known = set(keys)
    for index, piece in enumerate(work.card.pieces):
        if piece.stamp not in known:
            raise FileFormatError(
                name, f"no stamp “{piece.stamp}” is in the stash.", f"card.json, $.card.pieces[{index}].stamp"
            )
    for index, stamp in enumerate(work.stash.stamps):
        for ring in (stamp.outline, *stamp.pockets):
            try:
                area = to_area(ring)
            except GeometryError as problem:
                raise FileFormatError(name, str(problem), f"card.json, $.stash.stamps[{index}].outline") from None
            if max(abs(bound) for bound in area.bounds) > 1000:
                raise FileFormatError(
                    name, "an outline is more than 2 m wide.", f"card.json, $.stash.stamps[{index}].outline"
                )


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
        _add(archive, "card.json", encode_card(work))
        _add(archive, "preview.png", _preview(work, pictures))
        for picture in sorted({stamp.picture for stamp in work.stash.stamps}):
            if picture not in pictures:
                raise PictureError(f"The picture {picture} is missing; scan that stamp again before saving.")
            _add(archive, picture, pictures[picture], zipfile.ZIP_STORED)
    return buffer.getvalue()


def _add(archive: zipfile.ZipFile, name: str, data: bytes, method: int = zipfile.ZIP_DEFLATED) -> None:
    entry = zipfile.ZipInfo(name, date_time=(1980, 1, 1, 0, 0, 0))
    entry.compress_type = method
    entry.external_attr = 0o644 << 16
    archive.writestr(entry, data)


def _preview(work: Work, pictures: Mapping[str, bytes]) -> bytes:
    return encode_png(compose(work, pictures, dpi=PREVIEW_DPI), PREVIEW_DPI)


def encode_png(grey: object, dpi: float) -> bytes:
    """Encode a (rows, columns) uint8 array as PNG that states its resolution."""
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
            entries = _check_entries(archive, name)
            work = decode_card(_read(archive, entries["card.json"], MOST_JSON_BYTES, name), name)
            pictures = {
                picture: _read_picture(archive, entries, picture, name)
                for picture in sorted({stamp.picture for stamp in work.stash.stamps})
            }
    except FileNotFoundError:
        raise FileFormatError(name, "it is not there.") from None
    except IsADirectoryError:
        raise FileFormatError(name, "it is a folder.") from None
    except PermissionError:
        raise FileFormatError(name, "it may not be read.") from None
    except (zipfile.BadZipFile, zipfile.LargeZipFile):
        raise FileFormatError(name, "it is not a .thicket file, or it was cut short.") from None
    except OSError as problem:
        raise FileFormatError(name, f"it could not be read ({problem.strerror}).") from None
    return work, pictures


def _check_entries(archive: zipfile.ZipFile, name: str) -> dict[str, zipfile.ZipInfo]:
    infos = archive.infolist()
    if len(infos) > MOST_ENTRIES:
        raise FileFormatError(name, f"it holds {len(infos)} files; a card has at most {MOST_ENTRIES}.")
    entries: dict[str, zipfile.ZipInfo] = {}
    for info in infos:
        parts = info.filename.split("/")
        if ".." in parts or info.filename.startswith("/") or "\\" in info.filename:
            raise FileFormatError(name, "it holds a file name that leads out of it.", info.filename[:80])
        if info.filename in entries:
            raise FileFormatError(name, "it holds the same file twice.", info.filename[:80])
        entries[info.filename] = info
    if sum(info.file_size for info in infos) > MOST_BYTES:
        raise FileFormatError(name, "unpacked it would be larger than 800 MB.")
    if "card.json" not in entries:
        raise FileFormatError(name, "it has no card.json: it is not a card.")
    return entries


def _read(archive: zipfile.ZipFile, info: zipfile.ZipInfo, most: int, name: str) -> bytes:
    """Read an entry, never more than it may have, whatever its size claims."""
    try:
        with archive.open(info) as file:
            data = file.read(most + 1)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError, ValueError) as problem:
        # the zip reader raises these on wrong sums, unknown packing, encryption and cut streams
        raise FileFormatError(name, f"it is damaged ({_plain(str(problem))}).", info.filename[:80]) from None
    except Exception as problem:  # zlib.error and lzma.LZMAError share no base with the others
        if type(problem).__module__ not in {"zlib", "lzma", "_lzma", "bz2"}:
            raise
        raise FileFormatError(name, "it is damaged (a packed part cannot be unpacked).", info.filename[:80]) from None
    if len(data) > most:
        raise FileFormatError(name, f"this part is larger than {most // 1_000_000} MB.", info.filename[:80])
    return data


def _read_picture(archive: zipfile.ZipFile, entries: Mapping[str, zipfile.ZipInfo], picture: str, name: str) -> bytes:
    if picture not in entries:
        raise FileFormatError(name, "this picture is missing.", picture)
    data = _read(archive, entries[picture], MOST_PICTURE_BYTES, name)
    try:
        with PngImageFile(io.BytesIO(data)) as image:  # not Image.open: it would load every format first
            if image.width * image.height > MOST_PICTURE_PIXELS:
                raise FileFormatError(name, f"this picture claims {image.width} × {image.height} pixels.", picture)
            image.verify()
    except FileFormatError:
        raise
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        raise FileFormatError(name, "this picture is damaged or no PNG.", picture) from None
    return data


def card_schema() -> dict[str, object]:
    """JSON schema of card.json, as docs/card-file.schema.json holds it."""
    return msgspec.json.schema(CardDocument)
