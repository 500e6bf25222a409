"""The assembly of a whole card: heights, foam, glue, operations in their order, post."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from fair_thicket.assembly.foam import plan_foam
from fair_thicket.assembly.glue import plan_glue
from fair_thicket.assembly.operation import Operation
from fair_thicket.assembly.operations import list_operations
from fair_thicket.assembly.own_order import Broken, with_own_order
from fair_thicket.assembly.post import Post, weigh_post
from fair_thicket.assembly.scheduling import Schedule, schedule
from fair_thicket.assembly.side import NONE, Side
from fair_thicket.laid.heights import find_heights
from fair_thicket.model.card import Work
from fair_thicket.model.errors import check_wanted
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.wanted import GoOn


class Assembly(NamedTuple):
    """How a card is put together.

    Attributes
    ----------
    sides : tuple of Side
        The front first.
    operations : tuple of Operation
    schedule : Schedule
    post : Post
    broken : tuple of Broken
        Of the maker's own order what rules stand against.
    """

    sides: tuple[Side, ...]
    operations: tuple[Operation, ...]
    schedule: Schedule
    post: Post
    broken: tuple[Broken, ...] = ()

    @property
    def front(self) -> Side:
        """The side that is looked at."""
        return self.sides[0]


def plan_side(name: str, work: Work, plan: MaskPlan, colour_min: Mapping[str, float] = NONE) -> Side:
    """Find heights, foam and glue of one side; `work` has it in front."""
    heights = find_heights(work)
    return Side(name, work, plan, heights, plan_foam(work, heights), plan_glue(work, heights), colour_min)


def plan_assembly(
    sides: Sequence[tuple[str, Work, MaskPlan]],
    *,
    colour_min: Mapping[str, float] = NONE,
    seconds: float = 1.2,
    go_on: GoOn = lambda: True,
) -> Assembly:
    """Plan how a card is put together, its sides with their plans of stamping.

    Parameters
    ----------
    colour_min : mapping of str to float
        Minutes of colouring by piece, where they are known; else they are guessed by parts.

    Raises
    ------
    PaperError
        When operations wait for each other in a circle.
    StoppedError
        When `go_on` said so.
    """
    made = []
    for side in sides:
        check_wanted(go_on, "the assembly")
        made.append(plan_side(*side, colour_min))
    # the inside is stamped before the front gets its height: it is listed first
    listed = list_operations(sorted(made, key=lambda side: side.name == "front"))
    front = next((side for side in made if side.name == "front"), made[0])
    inside = next((side.heights for side in made if side.name == "inside" and side is not front), None)
    cards = front.work.card.sheets.cards
    operations, broken = with_own_order(listed, front.work.card.assembly.order)
    foams, glues = [side.foam for side in made], [side.glue for side in made]
    post = weigh_post(front.work, front.heights, inside, foams, glues)
    check_wanted(go_on, "the assembly")
    scheduled = schedule(operations, seconds=seconds, cards=cards, go_on=go_on)
    return Assembly(tuple(made), tuple(operations), scheduled, post, tuple(broken))
