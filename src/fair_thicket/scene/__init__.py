"""Arrangement: what a friend would say of it, balance, room."""

from fair_thicket.scene.judging import judge

__all__ = ["judge"]
