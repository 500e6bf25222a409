"""What a maker owns and has made, kept in SQLite: the library of images and supplies."""

from fair_thicket.library.store import BRIEF_S, Entry, Library, library_file, open_library

__all__ = ["BRIEF_S", "Entry", "Library", "library_file", "open_library"]
