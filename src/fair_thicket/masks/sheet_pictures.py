"""The pictures of a rehearsal: kept as what each press changed, put together when they are looked at."""

from collections.abc import Iterator

import cv2
import numpy as np

from fair_thicket.ink.inking import Paper

Window = tuple[slice, slice]
DIFFERENCE_STEP = 24
"""Levels from which a difference is pictured."""
KEEP_EVERY = 24
"""So many presses after a whole picture the next is kept whole."""


class Frames:
    """A sequence of pictures, (rows, columns, 3) uint8; the first is bare paper. Pictures may not be written to."""

    def __init__(self, first: Paper) -> None:
        self._whole: dict[int, Paper] = {0: first}
        self._last = first.copy()
        self._changes: list[list[tuple[Window, Paper]]] = []

    def add_patches(self, patches: list[tuple[Window, Paper]]) -> None:
        """Add what the panel looks like now: what has changed, (rows, columns, 3) uint8, window by window."""
        for window, patch in patches:
            self._last[window] = patch
        self._changes.append(patches)
        if len(self._changes) % KEEP_EVERY == 0:
            self._whole[len(self._changes)] = self._last.copy()

    def add_changed(self, picture: Paper) -> None:
        """Add what the panel looks like now, (rows, columns, 3) uint8: kept is the box round all that has changed."""
        changed = (picture != self._last).any(axis=2)
        rows, columns = np.flatnonzero(changed.any(axis=1)), np.flatnonzero(changed.any(axis=0))
        if not rows.size:
            self.add_patches([])
            return
        window = (slice(int(rows[0]), int(rows[-1]) + 1), slice(int(columns[0]), int(columns[-1]) + 1))
        self.add_patches([(window, picture[window].copy())])

    def add_whole(self, picture: Paper) -> None:
        """Add a picture of its own, (rows, columns, 3) uint8, not one that a press has changed in places."""
        self._last = picture.copy()
        self._changes.append([])
        self._whole[len(self._changes)] = picture

    def __len__(self) -> int:
        return len(self._changes) + 1

    def __getitem__(self, index: int) -> Paper:
        index = index + len(self) if index < 0 else index
        if not 0 <= index < len(self):
            raise IndexError(index)
        if index in self._whole:
            return self._whole[index]
        start = index - index % KEEP_EVERY
        picture = self._whole[start].copy()
        for patches in self._changes[start:index]:
            for window, patch in patches:
                picture[window] = patch
        return picture

    def __iter__(self) -> Iterator[Paper]:
        return (self[index] for index in range(len(self)))


def picture_difference(paper: Paper, scene: Paper) -> Paper:
    """Picture what differs: the scene faint, ink too much in berry, ink that is missing in blue."""
    picture = np.asarray(191 + (scene >> 2), np.uint8)
    for more, less, colour in ((scene, paper, (169, 44, 72)), (paper, scene, (36, 92, 160))):
        apart = cv2.subtract(more, less)  # nothing below 0
        picture[cv2.max(cv2.max(*cv2.split(apart)[:2]), apart[:, :, 2]) > DIFFERENCE_STEP] = colour
    return picture
