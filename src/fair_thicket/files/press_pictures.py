"""The pictures of a rehearsal written as PNG, one a press, with the scene as composed."""

import itertools
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Protocol

from fair_thicket.files.atomic import write_all
from fair_thicket.files.card_file import encode_png
from fair_thicket.ink.inking import Paper
from fair_thicket.model.errors import InputError, StorageError
from fair_thicket.model.tolerance import REHEARSAL_DPI


class Pictures(Protocol):
    """Pictures that are put together one by one when they are asked for."""

    def __len__(self) -> int: ...
    def __iter__(self) -> Iterator[Paper]: ...


def write_frames(
    folder: str | Path,
    papers: Pictures,
    scene: Paper,
    *,
    is_finished: bool = False,
    landed: Iterable[Paper] = (),
) -> list[str]:
    """Write `press-00.png` (bare paper) and on, and `scene.png`; gives the names of the presses' pictures.

    Parameters
    ----------
    is_finished : bool
        Whether the last picture is of the finished card: it is written as `finished.png`.
    landed : pictures
        The card after each piece has landed, with shadows: `land-01.png` and on.

    Raises
    ------
    StorageError
        When the folder cannot be made or written to.
    """
    place = make_folder(folder)
    names = [f"press-{number:02d}.png" for number in range(len(papers))]
    if is_finished:
        names[-1] = "finished.png"
    landing = ((name_landing(number), paper) for number, paper in enumerate(landed, 1))
    pictures = itertools.chain(zip(names, papers, strict=True), landing, [("scene.png", scene)])
    write_all(place, ((name, encode_png(paper, REHEARSAL_DPI)) for name, paper in pictures))
    return names


def name_landing(number: int) -> str:
    """Name of the picture after so many pieces have landed."""
    return f"land-{number:02d}.png"


def make_folder(folder: str | Path) -> Path:
    """Make a folder, unless it is there.

    Raises
    ------
    InputError
        When a file of that name is there.
    StorageError
        When it cannot be made.
    """
    place = Path(folder)
    if place.is_file():
        raise InputError(f"{place.name} is a file, and many files are to be written; give the name of a folder.")
    try:
        place.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise StorageError(str(place), (problem.strerror or "the folder cannot be made").lower()) from None
    return place
