"""Zip files opened with care: whatever their entries claim, only so much is read, and what is wrong is told."""

import io
import zipfile
from collections.abc import Mapping

from PIL import Image
from PIL.PngImagePlugin import PngImageFile

from fair_thicket.model.errors import FileFormatError

MOST_PICTURE_BYTES = 40_000_000
MOST_BYTES = 800_000_000
MOST_PICTURE_PIXELS = 60_000_000


def add_entry(archive: zipfile.ZipFile, name: str, data: bytes, method: int = zipfile.ZIP_DEFLATED) -> None:
    """Add an entry that is the same, byte for byte, whenever it is written."""
    entry = zipfile.ZipInfo(name, date_time=(1980, 1, 1, 0, 0, 0))
    entry.compress_type = method
    entry.external_attr = 0o644 << 16
    archive.writestr(entry, data)


def check_entries(archive: zipfile.ZipFile, name: str, *, most: int, main: str) -> dict[str, zipfile.ZipInfo]:
    """List the entries by name; refuse too many, names that lead out, and a file without its main part.

    Of the ways to pack an entry only plain storing and deflating are taken: the others unpack whole blocks at once, of
    whatever size, before it can be counted.
    """
    infos = archive.infolist()
    if len(infos) > most:
        raise FileFormatError(name, f"it holds {len(infos)} files; it should have at most {most}.")
    entries: dict[str, zipfile.ZipInfo] = {}
    for info in infos:
        parts = info.filename.split("/")
        if ".." in parts or info.filename.startswith("/") or "\\" in info.filename:
            raise FileFormatError(name, "it holds a file name that leads out of it.", info.filename[:80])
        if info.compress_type not in {zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED}:
            raise FileFormatError(name, "this part is packed in a way that is not read here.", info.filename[:80])
        if info.filename in entries:
            raise FileFormatError(name, "it holds the same file twice.", info.filename[:80])
        entries[info.filename] = info
    if sum(info.file_size for info in infos) > MOST_BYTES:
        raise FileFormatError(name, "unpacked it would be larger than 800 MB.")
    if main not in entries:
        raise FileFormatError(name, f"it has no {main}: it is another kind of file.")
    return entries


def read_entry(archive: zipfile.ZipFile, info: zipfile.ZipInfo, most: int, name: str) -> bytes:
    """Read an entry, never more than it may have, whatever its size claims."""
    try:
        with archive.open(info) as file:
            data = file.read(most + 1)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError, ValueError) as problem:
        # the zip reader raises these on wrong sums, unknown packing, encryption and cut streams
        raise FileFormatError(name, f"it is damaged ({plain_words(str(problem))}).", info.filename[:80]) from None
    except Exception as problem:  # zlib.error and lzma.LZMAError share no base with the others
        if type(problem).__module__ not in {"zlib", "lzma", "_lzma", "bz2"}:
            raise
        raise FileFormatError(name, "it is damaged (a packed part cannot be unpacked).", info.filename[:80]) from None
    if len(data) > most:
        raise FileFormatError(name, f"this part is larger than {most // 1_000_000} MB.", info.filename[:80])
    return data


def read_picture_entry(
    archive: zipfile.ZipFile, entries: Mapping[str, zipfile.ZipInfo], picture: str, name: str
) -> bytes:
    """Read a picture and make sure that it is a PNG of a size that can be shown."""
    if picture not in entries:
        raise FileFormatError(name, "this picture is missing.", picture)
    data = read_entry(archive, entries[picture], MOST_PICTURE_BYTES, name)
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


def plain_words(words: str) -> str:
    """Bring a library's message into one short line that goes on a sentence."""
    text = " ".join(words.split())
    return (text[:1].lower() + text[1:] if text else "unreadable")[:160]
