"""Windows of a raster: rows and columns, counted from the raster's own corner or from that of another window."""

Window = tuple[slice, slice]


def whole_window(size: tuple[int, int]) -> Window:
    """Return the window of all rows and columns."""
    return slice(0, size[0]), slice(0, size[1])


def size_of(window: Window) -> tuple[int, int]:
    """Return how many rows and columns a window has."""
    rows, columns = window
    return rows.stop - rows.start, columns.stop - columns.start


def common_window(one: Window, other: Window) -> Window:
    """Return what two windows share; of no size where they share nothing."""
    rows, columns = (_common(own, their) for own, their in zip(one, other, strict=True))
    return rows, columns


def _common(own: slice, their: slice) -> slice:
    start = max(own.start, their.start)
    return slice(start, max(start, min(own.stop, their.stop)))


def from_corner(window: Window, frame: Window) -> Window:
    """Return a window as counted from the corner of another that it lies in."""
    rows, columns = (
        slice(own.start - their.start, own.stop - their.start) for own, their in zip(window, frame, strict=True)
    )
    return rows, columns
