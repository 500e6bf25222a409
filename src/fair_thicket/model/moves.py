"""How a stencil is moved from one lay to the next, and how a maker says it."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from fair_thicket.model.pieces import Lay
from fair_thicket.model.units import Unit, say_length

LEAST_MM = 0.05


@dataclass(frozen=True)
class Move:
    """How the stencil gets from one lay to the next, mm; to the right and down are positive."""

    right_mm: float
    down_mm: float
    turns: bool


def moves_of(lays: Sequence[Lay]) -> list[Move]:
    """Return how the stencil is moved from each lay to the next."""
    return [
        Move(round(after.x - before.x, 4), round(after.y - before.y, 4), after.flipped != before.flipped)
        for before, after in itertools.pairwise(lays)
    ]


def say_move(move: Move, unit: Unit) -> str:
    """Say a move in the maker's unit, such as ``up 7/8 in, turn over, 1/2 in to the right``."""
    told = []
    if abs(move.down_mm) >= LEAST_MM:
        told.append(f"{'down' if move.down_mm > 0 else 'up'} {say_length(abs(move.down_mm), unit)}")
    if move.turns:
        told.append("turn over")
    if abs(move.right_mm) >= LEAST_MM:
        told.append(f"{say_length(abs(move.right_mm), unit)} to the {'right' if move.right_mm > 0 else 'left'}")
    return ", ".join(told) or "leave it where it is"
