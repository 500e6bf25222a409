"""How far a mask may slip before it shows: shifted pixel by pixel in every direction against the inks over it.

Glossary
--------
slip
    A mask lying beside its place: on one side it uncovers its image, on the other it keeps ink off what is behind.
tolerance
    The largest slip, in the worst direction, at which nothing is seen that is not seen without it.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.ink_patch import Ink
from fair_thicket.ink.inking import Paper, lay_inks
from fair_thicket.ink.painting import compose
from fair_thicket.laid.masking_paper import Lying, MaskingPaper, is_on_panel
from fair_thicket.laid.pinned import stamped_only
from fair_thicket.masks.differences import PX_PER_MM
from fair_thicket.masks.wanted_inks import fronts_of
from fair_thicket.model.card import Work
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.tolerance import REHEARSAL_DPI, SLIGHT_MM
from fair_thicket.shape.outline import Area
from fair_thicket.shape.raster import BoolArray

MOST_SLIP_MM = 3.0
"""Nobody lays a mask farther beside its place than this."""
DIRECTIONS = 24
ROOM_PX = int(MOST_SLIP_MM * PX_PER_MM) + 2
SEEN_STEP = 64
"""Levels (of 255) by which a place must change for a slip to be seen; less for a paler ink."""
SEEN_SHARE = 0.45
"""Share of an ink's own strength that must be there, or missing, to be seen."""
SEEN_MM2 = 0.03
"""A slip is seen by less than a patch of a card: the maker looks at the very edge (a full stop of fine print)."""


@dataclass(frozen=True)
class Slip:
    """How far one mask may slip.

    Attributes
    ----------
    tolerance_mm : float
        At most `MOST_SLIP_MM`: then nothing shows at any slip that was tried.
    toward_deg : float
        The worst direction, 0 to the right, clockwise as seen.
    shows : str
        What is seen first beyond it: ``ghost`` or ``halo``; empty for nothing.
    impression : str
        On which of its images that happens.
    """

    tolerance_mm: float
    toward_deg: float
    shows: str
    impression: str


def list_slips(
    work: Work,
    pictures: Mapping[str, bytes],
    plan: MaskPlan,
    *,
    inks: Mapping[str, Ink] | None = None,
    go_on: Callable[[], bool] = lambda: True,
) -> tuple[Slip, ...]:
    """Work out the tolerance of every mask, in the order of the plan's masks.

    Notes
    -----
    A ghost or a halo is seen from 0.3 mm on beyond what there is at no slip, if it is large enough to be seen at all.
    Along each of 24 directions the slip is searched by halving, in steps of a pixel at 300 dpi.
    """
    whole = work
    work = stamped_only(work)
    inks = lay_inks(work, pictures, REHEARSAL_DPI) if inks is None else inks
    masking = MaskingPaper(whole, plan)
    areas = {one: masking.lying_area(one) for one in masking.lyings if is_on_panel(plan, one)}
    fronts = fronts_of(work, inks)
    composed = compose(work, pictures, dpi=REHEARSAL_DPI)
    found = []
    for index in range(len(plan.masks)):
        slips = [
            _slip_over(ink, one, areas, plan, fronts[ink.key], composed)
            for one in areas
            if one.mask == index and go_on()
            for press in plan.presses[one.first : one.last + 1]
            for ink in (inks[key] for key in press.impressions if key in inks)
            if areas[one].intersects(ink.area) and ink.strength and ink.passing.size
        ]
        found.append(min(slips, key=lambda slip: slip.tolerance_mm, default=Slip(MOST_SLIP_MM, 0.0, "", "")))
    return tuple(found)


@dataclass(frozen=True)
class _Scene:
    """What one ink meets over one mask, all on the ink's patch grown by the room for slips.

    Attributes
    ----------
    ghostly : bool
        Where the ink would be seen on the image: on none of its own lines, and under no other mask.
    wanted : bool
        Where the ink is wanted, beside the image.
    mask : bool
    inside, outside : float32
        Pixels to the image's edge.
    """

    ghostly: BoolArray
    wanted: BoolArray
    mask: BoolArray
    inside: NDArray[np.float32]
    outside: NDArray[np.float32]


def seen_step(ink: Ink) -> float:
    """Levels by which a picture must change for an ink to be seen."""
    strength = max([ink.strength, *(1 - min(tone) for _, tone, _ in ink.zones)])
    return min(SEEN_STEP, SEEN_SHARE * strength * 255)


def _slip_over(
    ink: Ink,
    lying: Lying,
    areas: Mapping[Lying, Area],
    plan: MaskPlan,
    fronts: list[tuple[str, Area]],
    composed: Paper,
) -> Slip:
    """Search the tolerance of a mask while one ink goes over it."""
    press = next(p for p in range(lying.first, lying.last + 1) if ink.key in plan.presses[p].impressions)
    others = [area for one, area in areas.items() if one is not lying and one.first <= press <= one.last]
    image = next((area for key, area in fronts if key == lying.impression), areas[lying])
    scene = _prepare(ink, areas[lying], image, others, fronts, composed)
    base = _seen(scene, 0, 0)
    worst = Slip(MOST_SLIP_MM, 0.0, "", "")
    for step in range(DIRECTIONS):
        angle = 2 * np.pi * step / DIRECTIONS
        low, high = 0.0, worst.tolerance_mm
        told = _shows(scene, angle, high, base)
        if not told:
            continue
        while high - low > 0.5 / PX_PER_MM:
            middle = (low + high) / 2
            seen = _shows(scene, angle, middle, base)
            low, high, told = (low, middle, seen) if seen else (middle, high, told)
        if high < worst.tolerance_mm:
            worst = Slip(round(low, 2), round(float(np.degrees(angle)), 1), told, lying.impression)
    return worst


def _prepare(
    ink: Ink,
    mask: Area,
    image: Area,
    others: list[Area],
    fronts: list[tuple[str, Area]],
    composed: Paper,
) -> _Scene:
    grown = ink.grown(ROOM_PX)
    inked = np.pad(ink.passing < 1 - SEEN_STEP / 255 / 2, ROOM_PX)
    if ink.limit is not None:
        inked &= grown.cover(ink.limit)
    own = grown.cover(image)
    light = np.pad(composed[ink.window].max(axis=2), ROOM_PX)
    ghostly = inked & own & (light * ink.strength >= seen_step(ink))
    near = [area for area in others if area.intersects(ink.area)]
    if near:
        ghostly &= ~grown.cover(shapely.union_all(near))
    wanted = inked & ~own
    ahead = [area for _, area in fronts]
    if ahead:
        wanted &= ~grown.cover(shapely.union_all(ahead))
    return _Scene(
        ghostly,
        wanted,
        grown.cover(mask),
        cv2.distanceTransform(own.astype(np.uint8), cv2.DIST_L2, 5),
        cv2.distanceTransform((~own).astype(np.uint8), cv2.DIST_L2, 5),
    )


def _shows(scene: _Scene, angle: float, slip_mm: float, base: tuple[float, float]) -> str:
    shift = slip_mm * PX_PER_MM
    ghost, halo = _seen(scene, round(shift * np.cos(angle)), round(shift * np.sin(angle)))
    if ghost > base[0] + SLIGHT_MM:
        return "ghost"
    return "halo" if halo > base[1] + SLIGHT_MM else ""


def _seen(scene: _Scene, x: int, y: int) -> tuple[float, float]:
    """Reach of ghost and halo, mm, with the mask shifted by pixels."""
    lying = _shifted(scene.mask, x, y)
    return _reach(scene.ghostly & ~lying, scene.inside), _reach(scene.wanted & lying, scene.outside)


def _reach(pixels: BoolArray, away: NDArray[np.float32]) -> float:
    if pixels.sum() < SEEN_MM2 * PX_PER_MM**2:
        return 0.0
    return (float(away[pixels].max()) - 0.5) / PX_PER_MM


def _shifted(mask: BoolArray, x: int, y: int) -> BoolArray:
    rows, columns = mask.shape
    moved = np.zeros_like(mask)
    moved[max(0, y) : rows + min(0, y), max(0, x) : columns + min(0, x)] = mask[
        max(0, -y) : rows + min(0, -y), max(0, -x) : columns + min(0, -x)
    ]
    return moved
