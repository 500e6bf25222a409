"""The base shortened when the front is finished, so that the borders round its panel are all equal."""

import msgspec

from fair_thicket.edits.pieces import clamp
from fair_thicket.model.bounds import LEAST_FRONT_MM
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.formats import Fold
from fair_thicket.model.pieces import Panel
from fair_thicket.model.units import say_length
from fair_thicket.shape.paper import footprint

LEAST_CUT_MM = 0.5
SPANS = 0.5
"""A panel of more than this share of the front is the one that borders run round."""


def shorten_base(work: Work) -> Work:
    """Shorten the base at its open edge: its height then is the panel's height, and its width less the panel's.

    The front's pieces move so that the fold's border is like those beside it. The base is cut as it was, and trimmed
    last (`AssemblyRules.shortened_mm`). With the fold at the side it is the width that is shortened.

    Raises
    ------
    PaperError
        When there is no panel, or nothing can come off.
    """
    card = work.card
    panel = _main_panel(work)
    left, top, right, bottom = footprint(panel, work.stash).bounds
    width, height = card.panel
    is_top = card.fold is Fold.TOP
    border = (width - (right - left)) / 2 if is_top else (height - (bottom - top)) / 2
    along = height if is_top else width
    new = (bottom - top if is_top else right - left) + 2 * border
    if border < 0 or along - new < LEAST_CUT_MM or new < LEAST_FRONT_MM:
        raise PaperError(
            f"Equal borders round this panel want a base {say_length(new, card.unit)} long, and it is "
            f"{say_length(along, card.unit)}: nothing is to be cut off. Take a smaller panel, or a larger base."
        )
    size = (width, new) if is_top else (new, height)
    dx, dy = border - left, border - top
    pieces = tuple(msgspec.structs.replace(one, x=clamp(one.x + dx), y=clamp(one.y + dy)) for one in card.pieces)
    rules = msgspec.structs.replace(card.assembly, shortened_mm=round(card.assembly.shortened_mm + along - new, 3))
    made: Card = msgspec.structs.replace(
        card,
        format="custom",
        custom_mm=(round(size[0], 3), round(size[1], 3)),
        landscape=size[0] >= size[1],
        pieces=pieces,
        assembly=rules,
    )
    return msgspec.structs.replace(work, card=made)


def _main_panel(work: Work) -> Panel:
    """Give the largest panel that lies straight on the base."""
    width, height = work.card.panel
    panels = [one for one in work.card.pieces if isinstance(one, Panel) and not one.on and not one.angle_deg % 90]
    largest = max(panels, key=lambda one: footprint(one, work.stash).area, default=None)
    if largest is None or footprint(largest, work.stash).area < SPANS * width * height:
        raise PaperError("There is no straight panel on the base that borders run round; put one there first.")
    return largest
