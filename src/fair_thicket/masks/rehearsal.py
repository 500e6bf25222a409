"""The plan performed on simulated paper, and held against the card as it was composed (see `witness`)."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass

from fair_thicket.ink.ink_patch import Ink
from fair_thicket.ink.inking import Paper, to_levels
from fair_thicket.ink.painting import paint_sheets
from fair_thicket.laid.masking_paper import MaskingPaper
from fair_thicket.laid.pinned import as_planned
from fair_thicket.masks.as_composed import as_composed
from fair_thicket.masks.differences import Difference
from fair_thicket.masks.performance import Performance, perform
from fair_thicket.masks.sheet_pictures import Frames
from fair_thicket.masks.timetable import list_steps
from fair_thicket.masks.witness import witness
from fair_thicket.model.card import Work
from fair_thicket.model.errors import check_wanted
from fair_thicket.model.performance import Action
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.steps import Step
from fair_thicket.model.tolerance import REHEARSAL_DPI


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
        How much of what differs on the sheets will lie under what is glued over it, or is explained by a tolerance.
    is_finished : bool
        Whether the last picture is of the finished card and not of the last press.
    performance : Performance
        What was done, sheet by sheet.
    """

    papers: Frames
    scene: Paper
    differences: tuple[Difference, ...]
    steps: tuple[Step, ...]
    masking: MaskingPaper
    performance: Performance
    accepted_mm2: float = 0.0
    is_finished: bool = False


def rehearse(
    work: Work,
    pictures: Mapping[str, bytes],
    plan: MaskPlan,
    *,
    actions: Sequence[Action] | None = None,
    as_done: Work | None = None,
    left_out: Collection[int] = (),
    with_counters: bool = True,
    slips: Mapping[int, tuple[float, float]] | None = None,
    inks: Mapping[str, Ink] | None = None,
    go_on: Callable[[], bool] = lambda: True,
) -> Rehearsal:
    """Perform a plan on simulated paper and hold what comes of it against the card as composed.

    Parameters
    ----------
    work : Work
        As composed.
    pictures : mapping of picture name to PNG bytes
    plan : MaskPlan
        Performed as it stands, whatever rules it breaks.
    actions : sequence of Action or None
        All that is done, in its order; None colours and glues in the order of the composed card.
    as_done : Work or None
        What the hands do in the place of `work`: images slipped, turned or in another ink, covers and lays forgotten,
        other shades, pieces glued beside their place.
    left_out : indices of masks
        Masks that are forgotten, to see what would come of it.
    with_counters : bool
        Whether the counter masks are laid as well.
    slips : mapping of index of a mask to (x, y)
        Masks that lie beside their place, mm.
    inks : mapping
        What `lay_inks` gives for this work at 300 dpi, where it is known already.
    go_on : callable
        Asked between actions; False ends the rehearsal: nobody wants it any more.

    Raises
    ------
    StoppedError
        When `go_on` said so.
    PictureError
        When a stamp's picture is missing or damaged.

    Notes
    -----
    Paper at 300 dpi, every sheet in its own colour and where it will lie; ink mixes where no mask lies. Each stamp
    meets only its own patch of its sheet.
    """
    wanted, done = as_planned(work), as_planned(as_done if as_done is not None else work)
    masking = MaskingPaper(as_done if as_done is not None else work, plan)
    known = inks if done is work else None
    order = as_composed(done, plan) if actions is None else actions
    made = perform(
        done,
        pictures,
        plan,
        order,
        masking,
        left_out=left_out,
        with_counters=with_counters,
        slips=slips,
        inks=known,
        go_on=go_on,
    )
    frames = made.frames()
    finished = to_levels(made.picture_pile(made.pile))
    check_wanted(go_on, "the card")
    scene, sheets = paint_sheets(wanted, pictures, dpi=REHEARSAL_DPI)
    check_wanted(go_on, "the card")
    verdict = witness(wanted, pictures, made, finished, scene, sheets, inks=known, go_on=go_on)
    made.settle()
    is_finished = finished.tobytes() != frames[-1].tobytes()
    if is_finished:
        frames.add_whole(finished)
    return Rehearsal(
        frames,
        scene,
        verdict.differences,
        list_steps(work, plan),
        masking,
        made,
        verdict.accepted_mm2,
        is_finished,
    )
