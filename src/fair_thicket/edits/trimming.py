"""The base trimmed so that its borders round a panel are equal."""

from typing import NamedTuple

import msgspec

from fair_thicket.edits.pieces import clamp, set_card
from fair_thicket.model.bounds import LEAST_FRONT_MM
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Panel

LEAST_BORDER_MM, MOST_BORDER_MM = 0.5, 30.0
"""Narrower is no border; wider is a scene of its own (our own guess)."""


class EqualBorders(NamedTuple):
    """A panel on the base, and how high the base must be for borders equal all round, mm."""

    panel: str
    height_mm: float
    border_mm: float


def find_equal_borders(work: Work) -> EqualBorders | None:
    """Find the largest upright panel that lies on the base, and the height of a base with equal borders round it.

    Notes
    -----
    Height = panel height + base width - panel width (common practice).
    """
    width, _ = work.card.panel
    panels = [
        piece
        for piece in work.card.pieces
        if isinstance(piece, Panel) and not piece.on and piece.form.kind == "rectangle" and not piece.angle_deg
    ]
    largest = max(panels, key=lambda piece: piece.form.width_mm * piece.form.height_mm, default=None)
    if largest is None:
        return None
    border = (width - largest.form.width_mm) / 2
    if not LEAST_BORDER_MM <= border <= MOST_BORDER_MM:
        return None
    return EqualBorders(largest.id, largest.form.height_mm + width - largest.form.width_mm, border)


def trim_base(work: Work) -> Work:
    """Trim the base to equal borders round its panel, at its foot; everything on it moves along.

    It is cut as it was, and trimmed when the front is finished (`AssemblyRules.shortened_mm`).

    Raises
    ------
    PaperError
        Without such a panel, or where the base is not high enough.
    """
    found = find_equal_borders(work)
    if found is None:
        raise PaperError("Lay an upright panel on the base first, a little narrower than it.")
    width, height = work.card.panel
    if not LEAST_FRONT_MM <= found.height_mm <= height + 1e-6:
        raise PaperError(
            f"The base would have to be {found.height_mm:.1f} mm high and is {height:.1f} mm; cut the panel lower, or "
            "begin with a larger base."
        )
    panel = work.card.find(found.panel)
    right, down = width / 2 - panel.x, found.height_mm / 2 - panel.y
    pieces = tuple(
        msgspec.structs.replace(piece, x=clamp(piece.x + right), y=clamp(piece.y + down)) for piece in work.card.pieces
    )
    size = (width, round(found.height_mm, 3))
    longer = round(work.card.assembly.shortened_mm + height - size[1], 3)
    rules = msgspec.structs.replace(work.card.assembly, shortened_mm=max(0.0, longer))
    return set_card(
        work,
        format="custom",
        custom_mm=(min(size), max(size)),
        landscape=size[0] >= size[1],
        pieces=pieces,
        assembly=rules,
    )
