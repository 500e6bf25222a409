"""What the maker owns, as the desk asks for it: images kept, inks and papers by name."""

from collections.abc import Callable, Mapping, Sequence
from functools import partial

from PySide6.QtCore import QObject, Signal

from fair_thicket.desk.session.laid_sheets import LaidSheets
from fair_thicket.desk.session.library_writer import LibraryWriter
from fair_thicket.library.store import Library
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.stash import Stamp, Stash
from fair_thicket.model.supplies import Ink, Marker, Paper, Supply


class OwnLibrary(QObject):
    """Holds the library.

    Attributes
    ----------
    library : Library or None
        What the maker owns; None where it could not be opened.
    laid_sheets : LaidSheets
        Of the papers that it knows.
    libraryChanged : Signal()
    said : Signal(str)
        A sentence for the maker.
    """

    said = Signal(str)
    libraryChanged = Signal()

    def __init__(self, library: Library | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.library = library
        self._writer: LibraryWriter | None = None
        if library is not None:
            self._writer = LibraryWriter(library.path, self)
            self._writer.written.connect(self._tell_written)
            self._writer.failed.connect(self.said)
        self._taught: dict[str, tuple[object, ...]] = {}
        self.laid_sheets = LaidSheets()

    def own_inks(self) -> list[Ink]:
        """Inks of the maker's own, by name; none where there is no library or it cannot be read."""
        return [one for one in self._supplies("ink") if isinstance(one, Ink)]

    def own_markers(self) -> list[Marker]:
        """Markers of the maker's own, by name; none where there is no library or it cannot be read."""
        return [one for one in self._supplies("marker") if isinstance(one, Marker)]

    def own_papers(self) -> list[Paper]:
        """Papers of the maker's own, by name; none where there is no library or it cannot be read."""
        return [one for one in self._supplies("paper") if isinstance(one, Paper)]

    def _supplies(self, what: str) -> list[Supply]:
        if self.library is None:
            return []
        try:
            return [one for _, one in self.library.list_supplies(what)]
        except ThicketError:
            return []

    def keep_in_library(
        self, stamps: Sequence[Stamp], pictures: Mapping[str, bytes], *, then: Callable[[], None] = lambda: None
    ) -> None:
        """Put images into the library; when that cannot be done the reason is said."""
        self.change_library(lambda library: library.keep(stamps, pictures), then=then)

    def change_library(self, change: Callable[[Library], object], *, then: Callable[[], None] = lambda: None) -> None:
        """Change the library, off this thread where that takes long; when it cannot be done the reason is said.

        Parameters
        ----------
        change : callable
            Called in another thread, with a connection of its own.
        then : callable
            Called on this thread after the change was made, and not when it could not be.
        """
        if self._writer is not None:
            self._writer.ask(change, then)

    def _tell_written(self, then: Callable[[], None]) -> None:
        self.libraryChanged.emit()
        then()

    def teach_library(self, stash: Stash, pictures: Mapping[str, bytes]) -> None:
        """Let the library know how images are coloured, where that has changed since it was last looked at."""
        for stamp in stash.stamps:
            now = (stamp.regions, stamp.parts, stamp.schemes)
            known = self._taught.get(stamp.picture)
            self._taught[stamp.picture] = now
            if known is not None and known != now and self._writer is not None:
                picture = pictures.get(stamp.picture, b"")
                self._writer.ask(partial(Library.learn, stamp=stamp, picture=picture), lambda: None)

    def note_known(self, stash: Stash) -> None:
        """Take how the images of a card just opened are coloured as known: that alone teaches the library nothing."""
        self._taught = {stamp.picture: (stamp.regions, stamp.parts, stamp.schemes) for stamp in stash.stamps}

    def recall_regions(self, stamp: Stamp, picture: bytes) -> Stamp | None:
        """Return how the library knows an image to be coloured; None where it does not."""
        try:
            known = self.library.recall(stamp.picture, picture) if self.library is not None else None
        except ThicketError:
            return None
        return known if known is not None and known.regions else None

    def close_library(self) -> None:
        """Close the library: the session ends."""
        if self._writer is not None:
            self._writer.close()
            self._writer = None
        if self.library is not None:
            self.library.close()
            self.library = None
