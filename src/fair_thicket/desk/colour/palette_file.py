"""The main colours of a picture file; run in a process of its own."""

from pathlib import Path

from fair_thicket.colour.palettes import Tint, palette_of
from fair_thicket.intake.picture import read_picture


def read_palette(path: Path) -> list[Tint]:
    """Read the main colours of a picture.

    Raises
    ------
    PictureError
        See `picture.read_picture`.
    """
    return palette_of(read_picture(path).pixels)
