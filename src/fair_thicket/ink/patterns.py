"""Patterned paper: its picture at true scale, laid side by side, turned with the paper that is cut from it.

Glossary
--------
tile
    The picture of a patterned paper; beyond its edges it goes on from the other side.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from fair_thicket.ink.prints import Window, decode
from fair_thicket.model.card import Card
from fair_thicket.model.pieces import PaperPiece, Piece
from fair_thicket.model.stash import Stash
from fair_thicket.model.supplies import Colour
from fair_thicket.shape.outline import turn_points

Floats = NDArray[np.float32]


@dataclass(frozen=True, eq=False)
class Tile:
    """A patterned paper.

    Attributes
    ----------
    tones : (rows, columns, 3) float32, sRGB 0..1
    px_per_mm : float
    """

    tones: Floats
    px_per_mm: float
    _reduced: dict[int, Floats] = field(default_factory=dict)

    def at(self, px_per_mm: float) -> tuple[Floats, float]:
        """Give it about as fine as it is to be seen, and its pixels to the mm."""
        share = px_per_mm / self.px_per_mm
        if share >= 0.75:
            return self.tones, self.px_per_mm
        rows, columns = (max(1, round(side * share)) for side in self.tones.shape[:2])
        if columns not in self._reduced:
            small = cv2.resize(self.tones, (columns, rows), interpolation=cv2.INTER_AREA)
            self._reduced[columns] = np.asarray(small, np.float32).reshape(rows, columns, 3)
        return self._reduced[columns], columns / (self.tones.shape[1] / self.px_per_mm)


DecodeTile = Callable[[bytes, float], Tile]


class Patterned(NamedTuple):
    """A tile as it lies on a card: its middle, mm on the panel, and its turn, degrees clockwise."""

    tile: Tile
    x: float
    y: float
    angle_deg: float


def decode_tile(data: bytes, width_mm: float) -> Tile:
    """Turn the picture of a patterned paper of a width into a tile; what is clear in it is white.

    Raises
    ------
    PictureError
        When the bytes are no picture.
    """
    decoded = decode(data, "The picture of a patterned paper is damaged; take it in again.")
    levels = np.atleast_3d(decoded).astype(np.float32) / 255
    if levels.shape[2] == 1:
        levels = np.repeat(levels, 3, axis=2)
    tones: Floats = np.asarray(levels[:, :, 2::-1], np.float32)
    if levels.shape[2] == 4:
        tones = np.asarray(1 - levels[:, :, 3:] * (1 - tones), np.float32)
    tones = np.asarray(np.ascontiguousarray(tones), np.float32)
    tones.setflags(write=False)
    return Tile(tones, tones.shape[1] / width_mm)


def pattern_of(
    piece: Piece, stash: Stash, pictures: Mapping[str, bytes], *, decode_by: DecodeTile = decode_tile
) -> Patterned | None:
    """Return the pattern of a piece's paper as it lies; None for plain paper."""
    if not isinstance(piece, PaperPiece) or not piece.pattern or not stash.has(piece.pattern):
        return None
    paper = stash.find(piece.pattern)
    tile = decode_by(pictures.get(paper.picture, b""), paper.width_mm)
    return Patterned(tile, piece.x, piece.y, (piece.angle_deg + piece.pattern_turn) % 360)


def base_pattern(
    card: Card, stash: Stash, pictures: Mapping[str, bytes], *, decode_by: DecodeTile = decode_tile
) -> Patterned | None:
    """Return the pattern of a card's base; None for plain card."""
    if not card.pattern or not stash.has(card.pattern):
        return None
    paper = stash.find(card.pattern)
    tile = decode_by(pictures.get(paper.picture, b""), paper.width_mm)
    return Patterned(tile, card.panel[0] / 2, card.panel[1] / 2, 0.0)


def pattern_tones(pattern: Patterned, window: Window, px_per_mm: float) -> Floats:
    """Return a pattern on a window of the panel.

    Returns
    -------
    (rows, columns, 3) float32, sRGB 0..1
    """
    rows, columns = window
    shape = (rows.stop - rows.start, columns.stop - columns.start)
    if 0 in shape:
        return np.ones((*shape, 3), np.float32)
    tile, scale = pattern.tile.at(px_per_mm)
    first = np.array([[columns.start + 0.5, rows.start + 0.5]]) / px_per_mm - (pattern.x, pattern.y)
    own = turn_points(first, -pattern.angle_deg, 0, 0)[0]
    across, down = turn_points([(1, 0), (0, 1)], -pattern.angle_deg, 0, 0) / px_per_mm
    along = np.arange(shape[1], dtype=np.float32)[None, :]
    below = np.arange(shape[0], dtype=np.float32)[:, None]
    high, wide = tile.shape[:2]
    x = (own[0] + along * across[0] + below * down[0]) * scale + wide / 2 - 0.5
    y = (own[1] + along * across[1] + below * down[1]) * scale + high / 2 - 0.5
    seen = cv2.remap(
        tile,
        np.asarray(x % wide, np.float32),
        np.asarray(y % high, np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_WRAP,
    )
    return np.asarray(seen, np.float32).reshape(*shape, 3)


def main_colour(data: bytes) -> Colour:
    """Colour that stands for a patterned paper where one is asked for: the mean of its picture."""
    red, green, blue = (round(255 * float(level)) for level in decode_tile(data, 1.0).tones.mean(axis=(0, 1)))
    return f"#{red:02x}{green:02x}{blue:02x}"
