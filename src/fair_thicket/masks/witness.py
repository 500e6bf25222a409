"""The rehearsed card held against the composed picture itself, in the finished picture and sheet by sheet.

What differs so that it is seen is told by its cause; what a named tolerance explains, or what will lie under something
glued on, is summed; what nothing explains is told as such.
"""

import logging
from collections.abc import Callable, Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.difference import levels_differ
from fair_thicket.ink.ink_patch import Ink
from fair_thicket.ink.inking import Paper, to_levels
from fair_thicket.ink.painter import SOFT_MM
from fair_thicket.laid.by_hand import stamped_by_hand
from fair_thicket.laid.hidden import covers_of
from fair_thicket.laid.stack import stack
from fair_thicket.masks.cause import Cause
from fair_thicket.masks.causes import Causes
from fair_thicket.masks.differences import (
    PX_PER_MM,
    Difference,
    area_of,
    measure_by_edge,
    patches_of,
    places_of,
    side_of,
)
from fair_thicket.masks.performance import Performance
from fair_thicket.masks.tolerances import SEEN_DELTA, SEEN_MM2
from fair_thicket.masks.wanted_inks import WantedInks
from fair_thicket.model.card import Work
from fair_thicket.model.errors import check_wanted
from fair_thicket.model.pieces import PaperPiece
from fair_thicket.shape.raster import BoolArray, fill
from fair_thicket.shape.windows import Window

_log = logging.getLogger(__name__)
Sheets = Mapping[str, tuple[Window, Paper]]
EDGE_PX = 2
"""The soft edge of what is explained is explained with it."""
BY_EDGE = MappingProxyType({"ghost": True, "spill": False, "halo": False})
"""Kinds that are measured from an edge, and whether inward."""


class Verdict(NamedTuple):
    """What a witness says.

    Attributes
    ----------
    differences : tuple of Difference
        By kind, then the largest first.
    accepted_mm2 : float
        What differs on the sheets and will lie under what is glued over it, or is explained by a tolerance.
    """

    differences: tuple[Difference, ...]
    accepted_mm2: float


def witness(
    wanted: Work,
    pictures: Mapping[str, bytes],
    made: Performance,
    finished: Paper,
    scene: Paper,
    sheets: Sheets,
    *,
    inks: Mapping[str, Ink] | None = None,
    go_on: Callable[[], bool] = lambda: True,
) -> Verdict:
    """Hold what was performed against the card as composed.

    Parameters
    ----------
    wanted : Work
        As composed; what pins have cut out is cut out.
    finished, scene : (rows, columns, 3) uint8
        The card as performed to its last action, and as composed.
    sheets : mapping of id to (window, picture)
        Surfaces as composed, before anything is glued on them (see `painting.paint_sheets`).
    inks : mapping
        What `lay_inks` gives for `wanted` at 300 dpi, where it is known already.
    """
    seen = levels_differ(finished, scene, SEEN_DELTA)
    hidden, opened = _on_sheets(wanted, made, sheets, seen.shape)
    check_wanted(go_on, "the card")
    whole = seen.copy()
    for pixels in opened.values():
        whole |= pixels
    told = _large(whole)
    if not told.any():
        return Verdict((), round(area_of(hidden), 2))
    causes = Causes(wanted, WantedInks(wanted, pictures, inks), made)
    moved = list(causes.of_moved(told))
    left = told.copy()
    for one in moved:
        left &= ~one.pixels
    found, same = causes.of_paper(seen & left)
    found += moved
    check_wanted(go_on, "the card")
    for surface in dict.fromkeys([*same, *opened]):
        none = np.zeros(seen.shape, bool)
        found += causes.of_ink(surface, (same.get(surface, none) | opened.get(surface, none)) & left)
    differences = tuple(_tell(_with_unlike(found, told, causes)))
    accepted = area_of(hidden | causes.accepted)
    return Verdict(tuple(sorted(differences, key=_rank)), round(accepted, 2))


def _rank(one: Difference) -> tuple[str, float, str, str]:
    return one.kind, -one.area_mm2, one.front, one.back


def _on_sheets(
    wanted: Work, made: Performance, sheets: Sheets, size: tuple[int, int]
) -> tuple[BoolArray, dict[str, BoolArray]]:
    """Tell where sheets differ side by side: what will be covered, and by surface what will not."""
    hidden, opened = np.zeros(size, bool), {}
    leaves = stack(wanted)
    covers, by_hand = covers_of(wanted, leaves), stamped_by_hand(wanted)
    by_id = {piece.id: piece for piece in wanted.card.pieces}
    for key, (window, picture) in sheets.items():
        sheet, piece = made.sheets.get(key), by_id.get(key)
        if sheet is None or sheet.window != window or (isinstance(piece, PaperPiece) and piece.translucent):
            continue  # what was moved, or shows what is under it, is seen in the finished picture
        differ = np.zeros(size, bool)
        differ[window] = levels_differ(to_levels(sheet.canvas), picture, SEEN_DELTA)
        if not differ.any():
            continue
        own = next((leaf.sheet for leaf in made.leaves if leaf.piece.id == key), None)
        if own is not None:
            differ &= fill(own, size, PX_PER_MM)
        for leaf in leaves:  # what is stamped by hand is not there yet: it is seen in the finished picture
            if leaf.piece.id in by_hand and leaf.piece.on == key:
                differ &= ~fill(shapely.buffer(leaf.whole, SOFT_MM * 2), size, PX_PER_MM)
        cover = fill(covers.get(key, shapely.Polygon()), size, PX_PER_MM)
        hidden |= differ & cover
        opened[key] = differ & ~cover
    return hidden, opened


def _large(pixels: BoolArray) -> BoolArray:
    """Return pixels of the patches that are large enough to be seen."""
    if not pixels.any():
        return pixels
    count, labels = patches_of(pixels)
    areas = np.bincount(labels.ravel(), minlength=count + 1) / PX_PER_MM**2
    areas[0] = 0.0
    return np.asarray(areas[labels] >= SEEN_MM2, bool)


def _with_unlike(found: Sequence[Cause], told: BoolArray, causes: Causes) -> list[Cause]:
    """Return causes as told: those that are seen for themselves, and what none of them explains."""
    _, labels = patches_of(told)
    kept = _seen_for_themselves(_merged(found), labels)
    explained = causes.accepted.copy()
    for one in found:
        explained |= one.pixels
    near = cv2.dilate(explained.astype(np.uint8), np.ones((2 * EDGE_PX + 1, 2 * EDGE_PX + 1), np.uint8)) > 0
    rest = _large(told & ~near & ~_led_by_causes(labels, told & near))
    for key, pixels in causes.by_piece(rest).items() if rest.any() else ():
        _log.info("%s differs by %.2f mm2 without a known cause", key or "the base", area_of(pixels))
        kept.append(Cause("unlike", "ink", key, key, -1, pixels))
    return kept


def _merged(found: Sequence[Cause]) -> list[Cause]:
    """Take together what has the same cause."""
    merged: dict[tuple[str, str, str, str, int], Cause] = {}
    for one in found:
        key = one[:5]
        known = merged.get(key)
        merged[key] = one if known is None else known._replace(pixels=known.pixels | one.pixels)
    return list(merged.values())


def _seen_for_themselves(causes: Sequence[Cause], labels: NDArray[np.int32]) -> list[Cause]:
    """Leave out small causes in patches that have a larger one; of several small ones the first is told."""
    kept = [one for one in causes if area_of(one.pixels) >= SEEN_MM2]
    known = set().union(*(np.unique(labels[one.pixels]).tolist() for one in kept))
    for one in sorted(causes, key=lambda one: -area_of(one.pixels)):
        patches = set(np.unique(labels[one.pixels]).tolist())
        if not patches & known:
            kept.append(one)
            known |= patches
    return kept


def _led_by_causes(labels: NDArray[np.int32], explained: BoolArray) -> BoolArray:
    """Return patches of which the larger part is explained: what is left in them comes of the same."""
    count = int(labels.max(initial=0)) + 1
    known = np.bincount(labels[explained], minlength=count)
    whole = np.bincount(labels.ravel(), minlength=count)
    return np.asarray((2 * known > whole)[labels], bool)


def _tell(causes: Sequence[Cause]) -> Iterator[Difference]:
    for one in causes:
        width, length = side_of(one.pixels), 0.0
        if one.edge is not None and one.kind in BY_EDGE:
            width, length = measure_by_edge(one.pixels, one.edge, inward=BY_EDGE[one.kind])
        elif one.kind == "skip" and one.edge is not None:
            width, length = measure_by_edge(one.pixels, one.edge, inward=False)
        places, area = places_of(one.pixels), round(area_of(one.pixels), 3)
        yield Difference(one.kind, one.front, one.back, width, length, area, places, one.what, one.press)
