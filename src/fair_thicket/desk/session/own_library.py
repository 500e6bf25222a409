"""What the maker owns, as the desk asks for it: images kept, inks and papers by name."""

from collections.abc import Callable, Mapping, Sequence

from PySide6.QtCore import QObject, Signal

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
    libraryChanged : Signal()
    said : Signal(str)
        A sentence for the maker.
    """

    said = Signal(str)
    libraryChanged = Signal()

    def __init__(self, library: Library | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.library = library
        self._taught: dict[str, tuple[object, ...]] = {}

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

    def keep_in_library(self, stamps: Sequence[Stamp], pictures: Mapping[str, bytes]) -> bool:
        """Put images into the library; when that cannot be done the reason is said."""
        return self.change_library(lambda library: library.keep(stamps, pictures))

    def change_library(self, change: Callable[[Library], object]) -> bool:
        """Change the library; when that cannot be done the reason is said and nothing is changed."""
        if self.library is None:
            return False
        try:
            change(self.library)
        except ThicketError as problem:
            self.said.emit(str(problem))
            return False
        self.libraryChanged.emit()
        return True

    def teach_library(self, stash: Stash, pictures: Mapping[str, bytes]) -> None:
        """Let the library know how images are coloured, where that has changed since it was last looked at."""
        for stamp in stash.stamps:
            now = (stamp.regions, stamp.parts, stamp.schemes)
            known = self._taught.get(stamp.picture)
            self._taught[stamp.picture] = now
            if known is not None and known != now and self.library is not None:
                try:
                    self.library.learn(stamp, pictures.get(stamp.picture, b""))
                except ThicketError as problem:
                    self.said.emit(str(problem))

    def note_known(self, stash: Stash) -> None:
        """Take how the images of a card just opened are coloured as known: that alone teaches the library nothing."""
        self._taught = {stamp.picture: (stamp.regions, stamp.parts, stamp.schemes) for stamp in stash.stamps}

    def recall_regions(self, stamp: Stamp, picture: bytes) -> Stamp | None:
        """Give how the library knows an image to be coloured; None where it does not."""
        try:
            known = self.library.recall(stamp.picture, picture) if self.library is not None else None
        except ThicketError:
            return None
        return known if known is not None and known.regions else None

    def close_library(self) -> None:
        """Close the library: the session ends."""
        if self.library is not None:
            self.library.close()
            self.library = None
