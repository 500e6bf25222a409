"""The plan performed on simulated paper, and compared with the scene as it was composed (see `differences`)."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass

import cv2
import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.finishing import covers_of, finish
from fair_thicket.ink.inking import Ink, Paper, bare_paper, compose_inks, lay_inks, to_levels
from fair_thicket.ink.painting import paint
from fair_thicket.laid.masking_paper import Lying, MaskingPaper, is_on_panel
from fair_thicket.laid.stack import stack
from fair_thicket.masks.differences import (
    PX_PER_MM,
    ROUNDING,
    Difference,
    Kept,
    find_differences,
    find_unlike,
    levels_apart,
)
from fair_thicket.masks.problem_of_card import cut_by_pins
from fair_thicket.masks.sheet_pictures import Frames
from fair_thicket.masks.timetable import list_steps
from fair_thicket.model.card import Work, order_pieces
from fair_thicket.model.errors import check_wanted
from fair_thicket.model.pieces import Impression, as_cut
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.steps import Step
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.shape.outline import Area
from fair_thicket.shape.raster import BoolArray

SKIP_MM = 0.4
"""Band that a stamp skips beside a pile, for every layer of masking paper beyond the first (our own estimate)."""


@dataclass(frozen=True)
class Rehearsal:
    """What came of a rehearsal.

    Attributes
    ----------
    papers : Frames
        Pictures of the panel, (rows, columns, 3) uint8, before the first press and after each; then, where anything is
        coloured or glued on, the finished card.
    scene : (rows, columns, 3) uint8
        The card as composed, everything on it.
    differences : tuple of Difference
    steps : tuple of Step
    masking : MaskingPaper
        The masks as cut, and where they lie.
    accepted_mm2 : float
        How much of what differs on the sheets will lie under what is glued over it.
    is_finished : bool
        Whether the last picture is of the finished card and not of the last press.
    """

    papers: Frames
    scene: Paper
    differences: tuple[Difference, ...]
    steps: tuple[Step, ...]
    masking: MaskingPaper
    accepted_mm2: float = 0.0
    is_finished: bool = False


def rehearse(
    work: Work,
    pictures: Mapping[str, bytes],
    plan: MaskPlan,
    *,
    left_out: Collection[int] = (),
    with_counters: bool = True,
    slips: Mapping[int, tuple[float, float]] | None = None,
    inks: Mapping[str, Ink] | None = None,
    go_on: Callable[[], bool] = lambda: True,
) -> Rehearsal:
    """Perform a plan on simulated paper and compare the outcome with the composed scene.

    Parameters
    ----------
    work : Work
    pictures : mapping of picture name to PNG bytes
    plan : MaskPlan
        For exactly this work.
    left_out : indices of masks
        Masks that are forgotten, to see what would come of it.
    with_counters : bool
        Whether the counter masks are laid as well.
    slips : mapping of index of a mask to (x, y)
        Masks that lie beside their place, mm.
    inks : mapping
        What `lay_inks` gives for this work at 300 dpi, where it is known already.
    go_on : callable
        Asked between presses; False ends the rehearsal: nobody wants it any more.

    Raises
    ------
    StoppedError
        When `go_on` said so.
    PictureError
        When a stamp's picture is missing or damaged.

    Notes
    -----
    Paper at 300 dpi, every sheet that is inked on in its own colour and where it will lie; ink mixes where no mask
    lies. Each stamp meets only its own patch of the panel. What is stamped elsewhere to be cut out leaves the panel as
    it is.
    """
    whole, made = work, as_planned(work)
    work = stamped_only(work)
    inks = lay_inks(work, pictures, REHEARSAL_DPI) if inks is None else inks
    masking = MaskingPaper(whole, plan)
    areas = _lay_masks(masking, plan, left_out, slips or {})
    paper = bare_paper(work, pictures, REHEARSAL_DPI)
    frames = Frames(to_levels(paper))
    kept: dict[str, Kept] = {}
    for p, press in enumerate(plan.presses):
        check_wanted(go_on, "the card")
        lying = [one for one in areas if one.first <= p <= one.last]
        patches = []
        for ink in (inks[key] for key in press.impressions if key in inks):
            near = [(one.impression, areas[one]) for one in lying if areas[one].intersects(ink.area)]
            kept[ink.key] = _lay(paper, ink, near, with_counter=with_counters)
            patches.append(ink.window)
        frames.add(paper, patches)
    check_wanted(go_on, "the card")
    stamped = compose_inks(work, pictures, inks, REHEARSAL_DPI)
    pressed = frames[-1]
    covers = covers_of(made, stack(made))
    differences = find_differences(work, inks, kept, pressed, stamped, covers)
    check_wanted(go_on, "the card")
    scene = paint(made, pictures, dpi=REHEARSAL_DPI)
    check_wanted(go_on, "the card")
    finished = finish(made, pictures, pressed, scene, inks, dpi=REHEARSAL_DPI)
    is_finished = finished.tobytes() != pressed.tobytes()
    if is_finished:
        frames.add_whole(finished)
    explained: BoolArray = levels_apart(pressed, stamped) > ROUNDING
    accepted = float((explained & (levels_apart(finished, scene) <= ROUNDING)).sum()) / PX_PER_MM**2
    differences += find_unlike(made, finished, scene, explained)
    return Rehearsal(frames, scene, differences, list_steps(whole, plan), masking, round(accepted, 2), is_finished)


def _lay_masks(
    masking: MaskingPaper, plan: MaskPlan, left_out: Collection[int], slips: Mapping[int, tuple[float, float]]
) -> dict[Lying, Area]:
    """Give the paper of every mask where it lies on the panel, moved by its slip; mm."""
    areas = {}
    for one in masking.lyings:
        if one.mask not in left_out and is_on_panel(plan, one):
            area = masking.lying_area(one)
            areas[one] = shapely.affinity.translate(area, *slips[one.mask]) if one.mask in slips else area
    return areas


def as_planned(work: Work) -> Work:
    """Give the work with what pins have cut out instead as cut images, glued on in its place."""
    cut = cut_by_pins(work)
    if not cut:
        return work
    pieces = tuple(
        as_cut(piece) if piece.id in cut and isinstance(piece, Impression) else piece for piece in work.card.pieces
    )
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=order_pieces(pieces)))


def stamped_only(work: Work) -> Work:
    """Give the work without what pins have cut out instead: it is glued on later."""
    cut = cut_by_pins(work)
    if not cut:
        return work
    pieces = tuple(piece for piece in work.card.pieces if piece.id not in cut)
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))


def _lay(
    paper: np.ndarray[tuple[int, ...], np.dtype[np.float32]],
    ink: Ink,
    near: list[tuple[str, Area]],
    *,
    with_counter: bool,
) -> Kept:
    """Press one stamp, or ink one wash, with masks lying near it."""
    beyond = ~ink.cover(ink.limit) if ink.limit is not None and with_counter else None
    if not near:
        ink.lay(paper, beyond)
        return Kept(off=beyond)
    layers = np.zeros(ink.passing.shape, np.uint8)
    for _, area in near:
        layers += ink.cover(area)
    skipped = None if ink.is_wash else skips_beside(layers)
    kept_off = layers > 0 if skipped is None else (layers > 0) | skipped
    if beyond is not None:
        kept_off = kept_off | beyond
    ink.lay(paper, kept_off)
    return Kept(near, kept_off, skipped)


def skips_beside(layers: NDArray[np.uint8]) -> BoolArray | None:
    """Bare paper that a stamp does not reach beside piles of masks; None where there is no pile.

    Parameters
    ----------
    layers : (rows, columns) uint8
        Layers of masking paper at 300 dpi.
    """
    most = int(layers.max(initial=0))
    if most < 2:
        return None
    skipped = np.zeros(layers.shape, bool)
    for pile in range(2, most + 1):
        away = cv2.distanceTransform((layers < pile).astype(np.uint8), cv2.DIST_L2, 5)
        skipped |= away <= (pile - 1) * SKIP_MM * PX_PER_MM
    beside: BoolArray = skipped & (layers == 0)
    return beside
