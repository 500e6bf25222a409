"""Balance of a card: where its visual weight lies, how evenly it is spread, thirds and likeness of its two halves.

Glossary
--------
weight
    What draws the eye: the visible area of a piece times how much it differs from the card's paper.
moment
    Weight times its distance from the middle line.
"""

from collections.abc import Callable, Sequence

import msgspec
import numpy as np
import shapely
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from fair_thicket.ink.contrast import luminance
from fair_thicket.laid.visibility import View, within
from fair_thicket.model.card import WHITE, is_sheet
from fair_thicket.model.pieces import Cutout, Impression, Piece, Wash
from fair_thicket.scene.room import Room, largest_room
from fair_thicket.shape.outline import NOTHING, Area, only_areas
from fair_thicket.shape.raster import add_cover

LINE_ART = 0.35
"""Weight of an uncoloured image per area: its lines against white (common practice: about a third is ink)."""
LEAST = 0.08
HALF_COLUMNS = 60
"""Pixels across each half, so that the middle line lies between two of them."""


class Balance(msgspec.Struct, frozen=True):
    """How a card is balanced.

    Attributes
    ----------
    centre : (x, y)
        Centre of visual weight, mm; the panel's middle when there is nothing.
    off : (x, y)
        The same from the panel's middle, mm, right and down.
    left_share, top_share : float
        Share of the weight left of and above the middle lines.
    value : float
        Balance after Ngo, Teo and Byrne, 0 (all on one side) to 1 (even both ways).
    thirds_mm : float
        How far the centre of the heaviest piece lies from the nearest crossing of the thirds.
    heaviest : str
        Id of the piece that weighs most; empty for none.
    symmetry : float
        Likeness of the left half with the mirrored right one, 0..1: shared area over joint area.
    room : Room or None
        The largest free rectangle for a greeting.
    """

    centre: tuple[float, float]
    off: tuple[float, float]
    left_share: float
    top_share: float
    value: float
    thirds_mm: float
    heaviest: str
    symmetry: float
    room: Room | None = None


def weigh(view: View, *, proportion: float | None = 3.0) -> Balance:
    """Weigh a card.

    Parameters
    ----------
    view : View
    proportion : float or None
        Width by height of the greeting that room is wanted for; None looks for none.
    """
    width, height = view.card.panel
    weights = [
        (leaf.piece, area, tone(leaf.piece, view.card.paper))
        for leaf, area in zip(view.leaves, view.seen, strict=True)
        if not is_sheet(leaf.piece) and not area.is_empty
    ]
    paper = box(0, 0, width, height)
    parts = [(only_areas(within(area, paper)), tone) for _, area, tone in weights]
    centre = _centre(parts, (width / 2, height / 2))
    left, top = _share(parts, box(-1, -1, width / 2, height + 1)), _share(parts, box(-1, -1, width + 1, height / 2))
    heaviest = max(weights, key=lambda one: one[1].area * one[2], default=None)
    taken = [leaf.area for leaf in view.leaves if not is_sheet(leaf.piece)]
    return Balance(
        centre,
        (centre[0] - width / 2, centre[1] - height / 2),
        left,
        top,
        balance_value(parts, (width, height)),
        _from_thirds(heaviest[1], (width, height)) if heaviest else 0.0,
        heaviest[0].id if heaviest else "",
        _symmetry([area for area, _ in parts], (width, height)),
        largest_room(taken, (width, height), proportion) if proportion else None,
    )


def tone(piece: Piece, paper: str) -> float:
    """How much a piece draws the eye per area, 0..1: by the difference of its lightness from the card's."""
    if isinstance(piece, Wash):
        return 0.0
    if isinstance(piece, Impression | Cutout) and piece.colouring:
        runs = [part.shades for part in piece.colouring if part.shades]
        seen = [run[len(run) // 2].colour for run in runs]
    else:
        seen = [piece.colour] if piece.colour is not None else []
    if not seen:
        return LINE_ART if isinstance(piece, Impression) or paper == WHITE else LEAST + LINE_ART
    # the cube root makes equal steps of luminance look equal (CIE 1976 lightness)
    ground = float(np.cbrt(luminance(paper)))
    apart = float(np.mean([abs(float(np.cbrt(luminance(colour))) - ground) for colour in seen]))
    return max(LEAST, LINE_ART, min(1.0, apart * 1.4))


def _centre(parts: Sequence[tuple[Area, float]], middle: tuple[float, float]) -> tuple[float, float]:
    total = sum(area.area * tone for area, tone in parts)
    if total <= 0:
        return middle
    x = sum(area.area * tone * area.centroid.x for area, tone in parts if not area.is_empty) / total
    y = sum(area.area * tone * area.centroid.y for area, tone in parts if not area.is_empty) / total
    return float(x), float(y)


def _share(parts: Sequence[tuple[Area, float]], side: shapely.Polygon) -> float:
    total = sum(area.area * tone for area, tone in parts)
    if total <= 0:
        return 0.5
    return float(sum(_beside(area, side).area * tone for area, tone in parts) / total)


def _beside(area: Area, side: shapely.Polygon) -> BaseGeometry:
    """Cut an area at one side of a middle line; most lie wholly on one."""
    if area.is_empty:
        return area
    left, top, right, bottom = area.bounds
    low_x, low_y, high_x, high_y = side.bounds
    if right <= low_x or left >= high_x or bottom <= low_y or top >= high_y:
        return NOTHING
    return within(area, side)


def balance_value(parts: Sequence[tuple[Area, float]], panel: tuple[float, float]) -> float:
    """Balance of weighted areas about the middle lines of a panel, 0..1.

    Parameters
    ----------
    parts : sequence of (area in mm, weight per mm2)
    panel : (width, height), mm

    Notes
    -----
    D. C. L. Ngo, L. S. Teo, J. G. Byrne, “Modelling interface aesthetics”, Information Sciences 152 (2003) 25-46,
    equations for balance (formula written down from memory): BM = 1 - (|BM_v| + |BM_h|) / 2 with
    BM_v = (w_L - w_R) / max(|w_L|, |w_R|), BM_h = (w_T - w_B) / max(|w_T|, |w_B|), and w of a side the sum of area
    times distance from the middle line. What lies across a middle line is cut there; each part
    counts on its own side.
    """
    width, height = panel
    far = 10 * max(panel)
    sides = {
        "left": (box(-far, -far, width / 2, far), 0, width / 2),
        "right": (box(width / 2, -far, far, far), 0, width / 2),
        "top": (box(-far, -far, far, height / 2), 1, height / 2),
        "bottom": (box(-far, height / 2, far, far), 1, height / 2),
    }
    moments = {}
    for name, (side, axis, middle) in sides.items():
        moment = 0.0
        for area, tone in parts:
            part = _beside(area, side)
            if part.area > 0:
                moment += part.area * tone * abs(part.centroid.coords[0][axis] - middle)
        moments[name] = moment
    across = _apart(moments["left"], moments["right"])
    down = _apart(moments["top"], moments["bottom"])
    return 1 - (across + down) / 2


def _apart(first: float, second: float) -> float:
    larger = max(first, second)
    return abs(first - second) / larger if larger > 0 else 0.0


def _from_thirds(area: Area, panel: tuple[float, float]) -> float:
    x, y = area.centroid.x, area.centroid.y
    return min(
        float(np.hypot(x - panel[0] * across / 3, y - panel[1] * down / 3)) for across in (1, 2) for down in (1, 2)
    )


def _symmetry(areas: Sequence[Area], panel: tuple[float, float]) -> float:
    px_per_mm = 2 * HALF_COLUMNS / panel[0]
    size = (max(1, round(panel[1] * px_per_mm)), 2 * HALF_COLUMNS)
    count = np.zeros(size, np.int16)
    for area in areas:
        add_cover(count, area, px_per_mm)
    taken = count > 0
    mirrored = taken[:, ::-1]
    either = int((taken | mirrored).sum())
    return int((taken & mirrored).sum()) / either if either else 1.0


def tell_balance(balance: Balance, speak: Callable[[float], str]) -> list[str]:
    """Say a balance in short lines; `speak` turns a length in mm into the maker's words."""
    off_x, off_y = balance.off
    ways = []
    if abs(off_x) >= 1:
        ways.append(f"{_bare(speak(abs(off_x)))} {'right' if off_x > 0 else 'left'}")
    if abs(off_y) >= 1:
        ways.append(f"{_bare(speak(abs(off_y)))} {'low' if off_y > 0 else 'high'}")
    lines = [
        f"Left {balance.left_share:.0%} · right {1 - balance.left_share:.0%}",
        f"Top {balance.top_share:.0%} · foot {1 - balance.top_share:.0%}",
        f"Centre {', '.join(ways)}" if ways else "Centre in the middle",
        f"Even {balance.value:.0%} · alike {balance.symmetry:.0%}",
    ]
    if balance.room is not None:
        wide, high = speak(balance.room.width_mm), speak(balance.room.height_mm)
        lines.append(f"Room {_bare(wide)} × {high}")
    return lines


def _bare(words: str) -> str:
    """Return a length without its unit, where another beside it names the unit."""
    return words.removesuffix(" in").removesuffix(" mm")
