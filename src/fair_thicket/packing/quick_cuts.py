"""Plans of cutting found quickly, by a library's guillotine packers under many rules; and their cuts found again."""

import itertools
import math
import random
import time
from collections.abc import Sequence
from typing import NamedTuple

import rectpack

from fair_thicket.packing.blocks import Block, Kind

RULES = (
    rectpack.GuillotineBssfSas, rectpack.GuillotineBssfMaxas, rectpack.GuillotineBafSas, rectpack.GuillotineBafMaxas,
    rectpack.GuillotineBssfLas, rectpack.GuillotineBafLas, rectpack.GuillotineBlsfMinas,
)  # fmt: skip
ORDERS = (rectpack.SORT_AREA, rectpack.SORT_LSIDE, rectpack.SORT_SSIDE, rectpack.SORT_DIFF)


class Box(NamedTuple):
    """A piece where a packer put it: its corner, its sides, its kind, and whether it is turned."""

    x: int
    y: int
    width: int
    height: int
    kind: int
    turned: bool


def pack_quickly(
    kinds: Sequence[Kind], sheet: tuple[int, int], kerf: int, *, tries: int = 24, end: float = math.inf
) -> list[list[Block]]:
    """Pack all pieces on as few sheets of one size as the rules find, until `end` (`time.monotonic`) and a plan.

    Returns
    -------
    list of list of Block
        Every plan of that few sheets, a block a sheet; none where a piece fits no sheet.
    """
    chance = random.Random(1)  # noqa: S311 - not a secret
    plans: list[list[Block]] = []
    lying = [0] * len(kinds)
    ways = [(way, lies) for way in itertools.product(RULES, ORDERS) for lies in (lying, [-1] * len(kinds))]
    for _ in range(tries):
        way = (chance.choice(RULES), chance.choice(ORDERS))
        ways.append((way, [chance.choice((0, -1)) for _ in kinds]))
    for way, lies in ways:
        if plans and time.monotonic() > end:
            break
        plans += _pack(kinds, sheet, kerf, way, lies)
    fewest = min((len(plan) for plan in plans), default=0)
    return [plan for plan in plans if len(plan) == fewest]


def _pack(
    kinds: Sequence[Kind], sheet: tuple[int, int], kerf: int, how: tuple[object, object], lying: Sequence[int]
) -> list[list[Block]]:
    """Pack by one rule and order, each kind lying one of its ways; each piece takes its kerf with it, and so the sheet.

    Gives one plan, or none.
    """
    packer = rectpack.newPacker(pack_algo=how[0], sort_algo=how[1], rotation=False)
    for number, kind in enumerate(kinds):
        ways = [way for way in kind.ways if way[0] <= sheet[0] and way[1] <= sheet[1]]
        if not ways:
            return []
        width, height, turned = ways[lying[number]]
        for _ in range(kind.copies):
            packer.add_rect(width + kerf, height + kerf, rid=(number, turned))
    packer.add_bin(sheet[0] + kerf, sheet[1] + kerf, count=float("inf"))
    packer.pack()
    if sum(len(one) for one in packer) != sum(kind.copies for kind in kinds):
        return []
    blocks = []
    for one in packer:
        boxes = [Box(rect.x, rect.y, rect.width - kerf, rect.height - kerf, *rect.rid) for rect in one]
        block = block_of(boxes, len(kinds), kerf)
        if block is None:
            return []
        blocks.append(block)
    return [blocks]


def block_of(boxes: Sequence[Box], kinds: int, kerf: int) -> Block | None:
    """Find the cuts that part boxes, as a block; None where no cut goes right across."""
    if len(boxes) == 1:
        box = boxes[0]
        counts = tuple(int(number == box.kind) for number in range(kinds))
        return Block(box.width, box.height, counts, 0, kind=box.kind, turned=box.turned)
    for beside in (True, False):
        parted = _parted(boxes, kerf, beside=beside)
        if parted is None:
            continue
        first, second = (block_of(part, kinds, kerf) for part in parted)
        if first is None or second is None:
            return None
        counts = tuple(a + b for a, b in zip(first.counts, second.counts, strict=True))
        if beside:
            sides = (first.width + second.width + kerf, max(first.height, second.height))
            more = 1 + (first.height != second.height)
        else:
            sides = (max(first.width, second.width), first.height + second.height + kerf)
            more = 1 + (first.width != second.width)
        return Block(*sides, counts, first.cuts + second.cuts + more, (first, second), beside)
    return None


def _parted(boxes: Sequence[Box], kerf: int, *, beside: bool) -> tuple[list[Box], list[Box]] | None:
    """Part boxes by the first cut that goes between them all."""
    low, size = (0, 2) if beside else (1, 3)
    ordered = sorted(boxes, key=lambda box: box[low])
    reach = ordered[0][low] + ordered[0][size]
    for index, box in enumerate(ordered[1:], 1):
        if box[low] >= reach + kerf:
            return ordered[:index], ordered[index:]
        reach = max(reach, box[low] + box[size])
    return None
