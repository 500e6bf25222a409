"""The two sides of a closed card that are worked on: its front, and the page inside."""

import msgspec

from fair_thicket.model.card import Work
from fair_thicket.model.derived import begin_with, derive


def turn_over(work: Work) -> Work:
    """Return the work with its other side in the front's place; the same object each time."""

    def turn(before: Work | None) -> Work:
        turned = msgspec.structs.replace(work, card=work.card.turned())
        return turned if before is None else begin_with(turned, before)

    return derive(work, "other side", turn)


def sides_of(work: Work) -> list[tuple[str, Work]]:
    """Return the sides of a closed card that bear anything, each named and in the place of the front.

    Returns
    -------
    list of (str, Work)
        ``front`` and ``inside``; a card that bears nothing has its front.
    """
    sides = [(name, side) for name, side in (("front", work), ("inside", turn_over(work))) if side.card.pieces]
    return sides or [("front", work)]
