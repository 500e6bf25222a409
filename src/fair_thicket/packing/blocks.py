"""Rectangles put together by cuts right across: every block that a guillotine can part into its pieces again.

Glossary
--------
block
    A rectangle that is parted into some pieces by cuts that each go right across what they part.
cut
    One stroke of the trimmer. Where two blocks side by side differ in height, the shorter needs one more for its waste.
waste
    What of a block no piece takes.

Notes
-----
Built from below after Wang (Operations Research 31, 1983): every two blocks that share no piece beyond its number are
set side by side and one above the other. A block with more waste than all sheets together may have is left out, and of
blocks of the same pieces those stay that none beats in width, height and cuts at once.
"""

import time
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Counts = tuple[int, ...]
Ints = NDArray[np.int64]


class SheetKind(NamedTuple):
    """How many sheets of a kind there are; None for as many as are wanted; and whether they are offcuts."""

    owned: int | None
    is_offcut: bool = False


class Kind(NamedTuple):
    """A kind of rectangle: its sides in whole units, how many there are, and whether it may be turned."""

    width: int
    height: int
    copies: int
    turns: bool

    @property
    def ways(self) -> list[tuple[int, int, bool]]:
        """Sides as it may lie, and whether it is turned then."""
        ways = [(self.width, self.height, False)]
        if self.turns and self.width != self.height:
            ways.append((self.height, self.width, True))
        return ways


@dataclass(frozen=True, eq=False)
class Block:
    """A block.

    Attributes
    ----------
    width, height : int
    counts : tuple of int
        How many pieces of each kind are in it.
    cuts : int
    parts : (Block, Block) or None
        What it is set together from; None for a single piece.
    beside : bool
        Its parts lie side by side, else one above the other.
    kind, turned
        Of a single piece.
    """

    width: int
    height: int
    counts: Counts
    cuts: int
    parts: "tuple[Block, Block] | None" = None
    beside: bool = False
    kind: int = -1
    turned: bool = False


def wastes_of(block: Block, kerf: int) -> list[tuple[int, int]]:
    """Return the sides of every rectangle that is left when a block is parted."""
    if block.parts is None:
        return []
    wastes = []
    for part in block.parts:
        rest = (block.height - part.height if block.beside else block.width - part.width) - kerf
        if rest > 0:
            wastes.append((part.width, rest) if block.beside else (rest, part.height))
        wastes += wastes_of(part, kerf)
    return wastes


@dataclass
class Blocks:
    """All blocks found, and whether there are no others."""

    found: list[Block]
    is_complete: bool


def build_blocks(
    kinds: Sequence[Kind], sheet: tuple[int, int], *, kerf: int, most_waste: int, most: int = 40_000, end: float = 1e18
) -> Blocks:
    """Build all blocks that fit a sheet.

    Parameters
    ----------
    sheet : (width, height), whole units
    kerf : int
        Lost at every cut.
    most_waste : int
        Square units that no block may exceed.
    most : int
        Blocks after which it is given up.
    end : float
        `time.monotonic` when it is given up.
    """
    builder = _Builder(kinds, sheet, kerf, most_waste)
    for number, kind in enumerate(kinds):
        alone = tuple(int(other == number) for other in range(len(kinds)))
        for width, height, turned in kind.ways:
            builder.add(Block(width, height, alone, 0, kind=number, turned=turned))
    at = 0
    while at < len(builder.blocks):
        if len(builder.blocks) > most or time.monotonic() > end:
            return Blocks(builder.living(), is_complete=False)
        builder.join(at)
        at += 1
    return Blocks(builder.living(), is_complete=True)


class _Builder:
    """Blocks as they come, with what is asked of all of them at once in arrays."""

    def __init__(self, kinds: Sequence[Kind], sheet: tuple[int, int], kerf: int, most_waste: int) -> None:
        self.blocks: list[Block] = []
        self._is_dead: list[bool] = []
        self._sheet, self._kerf, self._most_waste = sheet, kerf, most_waste
        self._copies = np.array([kind.copies for kind in kinds], np.int64)
        self._sizes = np.array([kind.width * kind.height for kind in kinds], np.int64)
        self._best: dict[Counts, list[int]] = {}
        self._counts = np.zeros((256, len(kinds)), np.int64)
        self._sides = np.zeros((256, 2), np.int64)
        self._area = np.zeros(256, np.int64)

    def living(self) -> list[Block]:
        """Blocks that no other beats."""
        return [block for block, is_dead in zip(self.blocks, self._is_dead, strict=True) if not is_dead]

    def add(self, block: Block) -> None:
        """Take a block in, unless another beats it; those that it beats are out."""
        if block.width > self._sheet[0] or block.height > self._sheet[1]:
            return
        rivals = self._best.setdefault(block.counts, [])
        for index in rivals:
            one = self.blocks[index]
            if one.width <= block.width and one.height <= block.height and one.cuts <= block.cuts:
                return
        for index in list(rivals):
            one = self.blocks[index]
            if block.width <= one.width and block.height <= one.height and block.cuts <= one.cuts:
                self._is_dead[index] = True
                rivals.remove(index)
        number = len(self.blocks)
        if number == len(self._counts):
            self._counts, self._sides = _double(self._counts), _double(self._sides)
            self._area = np.concatenate([self._area, np.zeros_like(self._area)])
        self._counts[number], self._sides[number] = block.counts, (block.width, block.height)
        self._area[number] = int(np.dot(block.counts, self._sizes))
        self.blocks.append(block)
        self._is_dead.append(False)
        rivals.append(number)

    def join(self, at: int) -> None:
        """Set a block and every one up to it together."""
        if self._is_dead[at]:
            return
        own, upto = self.blocks[at], at + 1
        area = self._area[:upto] + self._area[at]
        fits = ((self._counts[:upto] + self._counts[at]) <= self._copies).all(axis=1)
        wide = self._sides[:upto, 0] + own.width + self._kerf
        high = np.maximum(self._sides[:upto, 1], own.height)
        self._set(at, fits & (wide <= self._sheet[0]) & (wide * high - area <= self._most_waste), beside=True)
        wide = np.maximum(self._sides[:upto, 0], own.width)
        high = self._sides[:upto, 1] + own.height + self._kerf
        self._set(at, fits & (high <= self._sheet[1]) & (wide * high - area <= self._most_waste), beside=False)

    def _set(self, at: int, chosen: NDArray[np.bool_], *, beside: bool) -> None:
        own = self.blocks[at]
        for index in np.flatnonzero(chosen).tolist():
            if self._is_dead[index]:
                continue
            other = self.blocks[index]
            counts = tuple(a + b for a, b in zip(own.counts, other.counts, strict=True))
            if beside:
                width, height = own.width + other.width + self._kerf, max(own.height, other.height)
                more = 1 + (own.height != other.height)
            else:
                width, height = max(own.width, other.width), own.height + other.height + self._kerf
                more = 1 + (own.width != other.width)
            self.add(Block(width, height, counts, own.cuts + other.cuts + more, (own, other), beside))


def _double(rows: Ints) -> Ints:
    return np.concatenate([rows, np.zeros_like(rows)])
