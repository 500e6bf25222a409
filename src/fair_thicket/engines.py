"""The engines as records: what each says of a card, what it adds to steps and pages.

What prints is loaded when something is printed.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, NamedTuple

from fair_thicket import backdrop, colour, masks, scene
from fair_thicket.laid.pinned import as_planned
from fair_thicket.laid.visibility import View, look
from fair_thicket.masks import Refused, Rehearsal
from fair_thicket.model.card import Work
from fair_thicket.model.finding import Finding
from fair_thicket.model.performance import Action
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.sides import sides_of
from fair_thicket.model.steps import Step
from fair_thicket.model.supplies import Ink, Supply
from fair_thicket.model.wanted import GoOn

if TYPE_CHECKING:
    from fair_thicket.assembly import Assembly
    from fair_thicket.printing.page import Sheets
    from fair_thicket.printing.plan_pdf import Pages, Side

Judge = Callable[[Work], Sequence[Finding]]
PLAN_S = 3.0


class Known(NamedTuple):
    """What is known of a work already, or beside it.

    Attributes
    ----------
    plan, rehearsal, view
        Of this very work, where there are some; without a plan the masks have nothing to say.
    refused : sequence of Refused
        Pins that the plan could not hold.
    supplies : sequence of Supply
        The maker's own.
    pictures : mapping of picture name to PNG bytes, or None
        Needed to rehearse what the masks offer; without them the masks offer nothing.
    """

    plan: MaskPlan | None = None
    rehearsal: Rehearsal | None = None
    view: View | None = None
    refused: Sequence[Refused] = ()
    supplies: Sequence[Supply] = ()
    pictures: Mapping[str, bytes] | None = None

    @property
    def inks(self) -> list[Ink]:
        """The maker's own inks."""
        return [one for one in self.supplies if isinstance(one, Ink)]


class Engine(NamedTuple):
    """An engine.

    Attributes
    ----------
    key : str
    station : str
        Key of the station where its advice is shown.
    judge : callable of (work, known, go_on)
        Its findings, remedies as offered.
    again : callable of (work, known, go_on), or None
        Makes what judges a changed card, so that a remedy can be tried before it is offered; that may give None, then
        nothing is offered. None for an engine that has tried what it offers itself.
    share : float
        By this share of the time for advice it must have come to an end.
    turn : int
        In which turn its steps and pages come.
    steps : callable of (work, plan), or None
        What is done at the table, in order.
    pages : callable of (sheets, side, pictures), or None
        Prints what it has to print of a side of a card.
    """

    key: str
    station: str
    judge: Callable[[Work, Known, GoOn], Sequence[Finding]]
    again: Callable[[Work, Known, GoOn], Judge | None] | None = None
    share: float = 1.0
    turn: int = 100
    steps: Callable[[Work, MaskPlan], Sequence[Step]] | None = None
    pages: "Pages | None" = None


def _judge_scene(work: Work, known: Known, go_on: GoOn) -> Sequence[Finding]:
    return scene.judge(work, known.view, go_on=go_on)


def _judge_backdrop(work: Work, known: Known, go_on: GoOn) -> Sequence[Finding]:
    return backdrop.judge(work, known.inks, go_on=go_on)


def _backdrop_again(work: Work, known: Known, go_on: GoOn) -> Judge:
    del work
    return lambda after: backdrop.judge(after, known.inks, go_on=go_on)


def _judge_masks(work: Work, known: Known, go_on: GoOn) -> Sequence[Finding]:
    del go_on
    if known.plan is None:
        return ()
    return masks.judge(work, known.plan, known.rehearsal, known.refused, known.pictures)


def _masks_again(work: Work, known: Known, go_on: GoOn) -> Judge | None:
    del go_on
    plan, pictures = known.plan, known.pictures
    if plan is None or pictures is None:
        return None

    def judge(after: Work) -> Sequence[Finding]:
        is_same = after.card.pieces == work.card.pieces and after.card.masking.pins == work.card.masking.pins
        made, refused = (plan, ()) if is_same else masks.plan_with_pins(after, seconds=PLAN_S)
        done = masks.rehearse(after, pictures, made, actions=actions_of(after, made))
        return masks.judge(after, made, done, refused, pictures)

    return judge


def _judge_colour(work: Work, known: Known, go_on: GoOn) -> Sequence[Finding]:
    del go_on
    picture = known.rehearsal.scene if known.rehearsal is not None else None
    view = known.view or look(work)
    return colour.judge(work, view=view, picture=picture, supplies=known.supplies)


def _colour_again(work: Work, known: Known, go_on: GoOn) -> Judge:
    del work, go_on  # figures are held against what is behind them in the card's own picture alone
    return lambda after: colour.judge(after, supplies=known.supplies)


def _mask_pages(sheets: "Sheets", side: "Side", pictures: Mapping[str, bytes]) -> None:
    from fair_thicket.printing.mask_sheets import draw_mask_pages
    from fair_thicket.printing.platform_pages import draw_platform_pages
    from fair_thicket.printing.wash_pages import draw_wash_pages

    draw_mask_pages(sheets, side.work, pictures, side.plan)
    draw_platform_pages(sheets, side.work, pictures, side.plan)
    draw_wash_pages(sheets, side.work)


def _colour_pages(sheets: "Sheets", side: "Side", pictures: Mapping[str, bytes]) -> None:
    from fair_thicket.printing.colour_pages import draw_colour_pages

    draw_colour_pages(sheets, side.work, pictures)


def _sheet_pages(sheets: "Sheets", side: "Side", pictures: Mapping[str, bytes]) -> None:
    from fair_thicket.printing.sheet_pages import draw_sheet_pages
    from fair_thicket.printing.trim_pages import draw_trim_pages
    from fair_thicket.sheets import list_masks

    if side.name == "front":
        draw_sheet_pages(sheets, side.work, list_masks(side.work, side.plan), side.sheets)
        draw_trim_pages(sheets, side.work, pictures)


def _judge_sheets(work: Work, known: Known, go_on: GoOn) -> Sequence[Finding]:
    from fair_thicket import sheets

    del go_on
    return sheets.judge(work, known.supplies)


def _assembly_pages(sheets: "Sheets", side: "Side", pictures: Mapping[str, bytes]) -> None:
    from fair_thicket.printing.assembly_pages import draw_assembly_pages

    if side.name == "front":
        draw_assembly_pages(sheets, assemble(side.work, {"front": side.plan}, go_on=sheets.go_on), pictures)


def assemble(
    whole: Work, plans: Mapping[str, MaskPlan], *, seconds: float = 1.2, go_on: GoOn = lambda: True
) -> "Assembly":
    """Plan how a card is put together: what pins have cut out is cut out, colouring takes what its list says.

    Parameters
    ----------
    plans : mapping of ``front`` and ``inside`` to MaskPlan
        Those that are known.
    seconds : float
        How long to look for the quickest order; less is taken when it is proven.
    """
    from fair_thicket.assembly import plan_assembly

    sides = [
        (name, as_planned(work), plans[name] if name in plans else masks.plan_with_pins(work)[0])
        for name, work in sides_of(whole)
    ]
    minutes: dict[str, float] = {}
    for _, work, _ in sides:
        minutes |= colour.minutes_of(work)
    return plan_assembly(sides, colour_min=minutes, seconds=seconds, go_on=go_on)


def actions_of(work: Work, plan: MaskPlan) -> "list[Action]":
    """Return what is done to one side of a card, in an order that keeps every rule of the work."""
    from fair_thicket.assembly.actions import list_actions
    from fair_thicket.assembly.planning import plan_side

    return list_actions(plan_side("front", as_planned(work), plan))


def actions_by_schedule(whole: Work, plans: Mapping[str, MaskPlan]) -> "dict[str, list[Action]]":
    """Return what is done to each side of a card, ``front`` and ``inside``, in the order of its schedule."""
    from fair_thicket.assembly.actions import list_actions

    made = assemble(whole, plans, seconds=0.0)
    steps = [one.operation for one in made.schedule.steps]
    return {side.name: list_actions(side, steps) for side in made.sides}


def _judge_assembly(work: Work, known: Known, go_on: GoOn) -> Sequence[Finding]:
    from fair_thicket import assembly

    del known
    return assembly.judge(as_planned(work), go_on=go_on)


def _assembly_again(work: Work, known: Known, go_on: GoOn) -> Judge:
    from fair_thicket import assembly

    del work, known
    return lambda after: assembly.judge(as_planned(after), go_on=go_on)


def _backdrop_pages(sheets: "Sheets", side: "Side", pictures: Mapping[str, bytes]) -> None:
    from fair_thicket.printing.border_pages import draw_border_pages, draw_frame_pages, draw_hill_pages

    del pictures
    draw_border_pages(sheets, side.work)
    draw_frame_pages(sheets, side.work)
    draw_hill_pages(sheets, side.work)


ENGINES = (
    Engine("scene", "scene", _judge_scene, share=0.6),  # it has most to try; the others must come to a turn as well
    Engine("backdrop", "scene", _judge_backdrop, _backdrop_again, share=0.8, turn=20, pages=_backdrop_pages),
    Engine(
        "colour",
        "colour",
        _judge_colour,
        _colour_again,
        share=0.9,
        turn=5,
        steps=colour.list_steps,
        pages=_colour_pages,
    ),
    Engine("sheets", "sheets", _judge_sheets, turn=8, pages=_sheet_pages),
    Engine("assembly", "assembly", _judge_assembly, _assembly_again, turn=30, pages=_assembly_pages),
    Engine("masks", "masks", _judge_masks, _masks_again, turn=10, steps=masks.list_steps, pages=_mask_pages),
)
