"""A chosen part of a library as one open file: a zip with stash.json and the images' pictures."""

import io
import zipfile
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Annotated, Literal

import msgspec

from fair_thicket.files.archive import add_entry, check_entries, read_entry, read_picture_entry
from fair_thicket.files.atomic import write_whole
from fair_thicket.files.documents import decode_document
from fair_thicket.laid.soundness import check_stamp, check_values
from fair_thicket.model.errors import FileFormatError, UnsoundError
from fair_thicket.model.stash import Stamp
from fair_thicket.model.supplies import Supply
from fair_thicket.model.upgrades import VERSION, upgrade_stash

SUFFIX = ".thicket-stash"
MOST_ENTRIES = 20_002
MOST_JSON_BYTES = 400_000_000


class StashDocument(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What stash.json holds."""

    format: Literal["fair-thicket stash"]
    version: Annotated[int, msgspec.Meta(ge=1)]
    images: tuple[Stamp, ...] = ()
    supplies: tuple[Supply, ...] = ()


def save_stash(
    path: Path, images: Sequence[Stamp], pictures: Mapping[str, bytes], supplies: Sequence[Supply] = ()
) -> None:
    """Write images and supplies to a file, whole or not at all.

    Raises
    ------
    StorageError
        When the place cannot be written.
    """
    for number, thing in enumerate((*images, *supplies)):
        check_values(thing, f"part {number + 1}")
    buffer = io.BytesIO()
    document = StashDocument("fair-thicket stash", VERSION, tuple(images), tuple(supplies))
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        add_entry(archive, "stash.json", msgspec.json.format(msgspec.json.encode(document), indent=1))
        for picture in sorted({name for image in images for name in image.pictures}):
            add_entry(archive, picture, pictures[picture], zipfile.ZIP_STORED)
    write_whole(path, buffer.getvalue())


def open_stash(path: Path) -> tuple[StashDocument, dict[str, bytes]]:
    """Open a file of images and supplies.

    Raises
    ------
    FileFormatError
        Says what is wrong and where; nothing is half opened.
    """
    name = path.name
    try:
        with zipfile.ZipFile(path) as archive:
            entries = check_entries(archive, name, most=MOST_ENTRIES, main="stash.json")
            document = _decode(read_entry(archive, entries["stash.json"], MOST_JSON_BYTES, name), name)
            pictures = {
                picture: read_picture_entry(archive, entries, picture, name)
                for picture in sorted({name for image in document.images for name in image.pictures})
            }
    except (zipfile.BadZipFile, zipfile.LargeZipFile, NotImplementedError):
        raise FileFormatError(name, f"it is not a {SUFFIX} file, or it was cut short.") from None
    except FileNotFoundError:
        raise FileFormatError(name, "it is not there.") from None
    except OSError as problem:
        raise FileFormatError(name, f"it could not be read ({problem.strerror}).") from None
    return document, pictures


def _decode(data: bytes, name: str) -> StashDocument:
    document = decode_document(data, StashDocument, name, place="stash.json", upgrade=upgrade_stash)
    for index, image in enumerate(document.images):
        try:
            check_stamp(image, f"images[{index}]")
        except UnsoundError as problem:
            raise FileFormatError(name, problem.problem, f"stash.json, $.{problem.place}") from None
    return document
