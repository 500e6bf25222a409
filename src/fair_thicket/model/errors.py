"""What can go wrong because of something outside the program.

The tree::

    ThicketError
    ├── InputError        something typed or handed in
    │   ├── LengthError   a length that cannot be read
    │   ├── PictureError  a scan or photo that cannot be used
    │   ├── DrawingError  an SVG file that cannot be used
    │   └── SceneError    a scene description that cannot be used
    ├── StoppedError      work that was stopped because nobody wants it any more
    ├── FileFormatError   a file of ours that cannot be read (place, what was expected)
    ├── StorageError      a file that cannot be written or reached
    ├── LibraryError      the library cannot be read or written
    ├── GeometryError     an outline that encloses nothing
    ├── UnsoundError      a card that could not be opened again (place, what is beyond a limit)
    ├── ScreenError       no screen to open a window on
    └── PaperError        cannot be made on paper

Each carries its data as attributes; ``str(error)`` is one whole sentence with the value, the limit and the
way out. The desk and the shell show that sentence; any other exception is a bug.
"""

from collections.abc import Callable


class ThicketError(Exception):
    """Root of everything that the program refuses with a reason."""


class InputError(ThicketError):
    """Something typed or handed in cannot be used."""


class LengthError(InputError):
    """A length that cannot be read.

    Attributes
    ----------
    text : str
        What was typed.
    """

    def __init__(self, text: str) -> None:
        self.text = text
        shown = text if len(text) <= 24 else text[:24] + "…"
        super().__init__(f"“{shown}” is not a length; type it like 4 1/8, 4.125 in, 105 mm or 10.5 cm.")


class PictureError(InputError):
    """A scan or photo that cannot be used; the sentence says why and what to do."""


class DrawingError(InputError):
    """An SVG file that cannot be used; the sentence says why and what to do."""


class SceneError(InputError):
    """A scene description that cannot be used; the sentence names the place."""


class StoppedError(ThicketError):
    """Work that was stopped because nobody wants it any more.

    Attributes
    ----------
    name : str
        What was being read, or thought about.
    """

    def __init__(self, name: str) -> None:
        self.name = name
        super().__init__(f"Reading {name} was stopped.")


class FileFormatError(ThicketError):
    """A card file that cannot be read.

    Attributes
    ----------
    path : str
        The file.
    place : str
        Where in it, such as ``card.json, $.card.pieces[2].x``; empty when the whole file is meant.
    """

    def __init__(self, path: str, problem: str, place: str = "") -> None:
        self.path = path
        self.place = place
        where = f" (at {place})" if place else ""
        super().__init__(f"{path} cannot be opened as a card{where}: {problem}")


class StorageError(ThicketError):
    """A file that cannot be written or reached.

    Attributes
    ----------
    path : str
        The file.
    """

    def __init__(self, path: str, problem: str) -> None:
        self.path = path
        super().__init__(f"{path} could not be written: {problem}. Nothing that was there has changed.")


class LibraryError(ThicketError):
    """The library cannot be read or written.

    Attributes
    ----------
    path : str
        Its file.
    """

    def __init__(self, path: str, problem: str) -> None:
        self.path = path
        super().__init__(f"The library {path} cannot be used: {problem}.")


class GeometryError(ThicketError):
    """An outline that encloses nothing."""


class UnsoundError(ThicketError):
    """A card that no file could hold so that it opens again; nothing was changed.

    Attributes
    ----------
    problem : str
        What is wrong and what to do, without its capital.
    place : str
        Where, such as ``card.pieces[2].joined``.
    """

    def __init__(self, problem: str, place: str) -> None:
        self.problem = problem
        self.place = place
        super().__init__(f"{problem[:1].upper()}{problem[1:]}")


NO_SCREEN = "there is no screen here"


class ScreenError(ThicketError):
    """There is no screen to open a window on, or none of the kind that is asked for."""

    def __init__(self, platform: str = "") -> None:
        why = (
            f"QT_QPA_PLATFORM asks for “{platform}”, which is not here; unset it"
            if platform
            else "there is no screen here"
        )
        super().__init__(f"{why}; start it within a desktop, or use a subcommand (fair-thicket --help).")


class PaperError(ThicketError):
    """Something that scissors, stamps and paper cannot do."""


def check_wanted(go_on: Callable[[], bool], name: str) -> None:
    """End work that nobody wants any more.

    Raises
    ------
    StoppedError
        When `go_on` says so.
    """
    if not go_on():
        raise StoppedError(name)
