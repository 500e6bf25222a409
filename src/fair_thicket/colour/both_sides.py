"""The other side of a card coloured after the one that colours were proposed for, in the same families."""

from collections.abc import Sequence

from fair_thicket.colour.suggesting import Proposal, suggest
from fair_thicket.laid.visibility import look
from fair_thicket.model.sides import turn_over
from fair_thicket.model.supplies import Marker
from fair_thicket.model.wanted import GoOn

SECONDS = 1.2


def with_other_side(
    proposal: Proposal, markers: Sequence[Marker], *, seed: int = 0, keeps: bool = False, go_on: GoOn = lambda: True
) -> Proposal:
    """Return a proposal with the images of the other side coloured as well, in its own families.

    An inside repeats colours of its front (common practice). Where there is nothing to colour it stays as it is.
    """
    turned = turn_over(proposal.work)
    if not turned.card.pieces or not go_on():
        return proposal
    found = suggest(
        turned,
        look(turned),
        markers,
        seed=seed,
        keeps=keeps,
        only=proposal.families,
        palettes=1,
        seconds=SECONDS,
        go_on=go_on,
    )
    if not found:
        return proposal
    done = found[0].work
    return proposal._replace(work=turn_over(done))
