"""What a maker owns and has made, kept in SQLite: the library of images and supplies."""

from fair_thicket.library.store import Entry, Library, library_file, open_library

__all__ = ["Entry", "Library", "library_file", "open_library"]
