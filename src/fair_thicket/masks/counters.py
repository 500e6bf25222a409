"""Counter masks: the opening left when a shape is cut out of masking paper, for what is stamped inside it."""

from collections.abc import Sequence

import numpy as np
import shapely

from fair_thicket.model.card import Work
from fair_thicket.model.keys import piece_key
from fair_thicket.model.pieces import Impression
from fair_thicket.model.plan import CounterMask, Press
from fair_thicket.model.tolerance import REACH_MM
from fair_thicket.shape.paper import footprint, opening_of
from fair_thicket.shape.stretch import measure, stretches_within


def find_counters(work: Work, presses: Sequence[Press]) -> tuple[CounterMask, ...]:
    """List the counter masks that a plan takes: one for every shape that something is stamped inside of.

    Notes
    -----
    An impression that is trimmed along another piece, not at the card's edge nor along its own surface, is kept
    within it by a counter mask; ink beyond an edge of paper falls on scrap.
    """
    found: dict[str, list[tuple[int, str]]] = {}
    shapes = {piece.id for piece in work.card.pieces}
    for index, press in enumerate(presses):
        for key in press.impressions:
            piece = next((one for one in work.card.pieces if one.id == piece_key(key)), None)
            if isinstance(piece, Impression) and piece.trim_to in shapes - {piece.on}:
                found.setdefault(piece.trim_to, []).append((index, key))
    return tuple(_counter(work, opening, used) for opening, used in found.items())


def _counter(work: Work, opening: str, used: list[tuple[int, str]]) -> CounterMask:
    area = opening_of(work.card.find(opening), work.stash)
    reach = shapely.union_all(
        [
            shapely.buffer(footprint(work.card.find(key), work.stash), REACH_MM, quad_segs=32)
            for key in {piece_key(key) for _, key in used}
        ]
    )
    rings = [np.asarray(part.exterior.coords)[:-1] for part in shapely.get_parts(area) if not part.is_empty]
    lengths = [float(shapely.LinearRing(ring).length) for ring in rings]
    careful = sum(measure(stretches_within(ring, reach)) * length for ring, length in zip(rings, lengths, strict=True))
    return CounterMask(
        opening,
        tuple(dict.fromkeys(key for _, key in used)),
        tuple(dict.fromkeys(index for index, _ in used)),
        round(careful, 6),
        round(sum(lengths), 6),
    )
