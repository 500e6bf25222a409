"""What is seen of borders: ends short of the panel, crests behind words, and paper that is hidden and need not be."""

from collections.abc import Callable

import shapely

from fair_thicket.backdrop.profile import profile_of
from fair_thicket.backdrop.reaching import Reach, reach_across, reach_of, slide_border
from fair_thicket.backdrop.rows import crests_of
from fair_thicket.laid.hidden import GLUE_MM, fronts_of, spare_foot
from fair_thicket.laid.stack import Leaf, stack
from fair_thicket.model.card import Work, is_greeting, name_pieces
from fair_thicket.model.errors import GeometryError, PaperError
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.pieces import Border
from fair_thicket.model.units import say_length
from fair_thicket.shape.outline import Area, only_areas, to_rings, turn_points
from fair_thicket.shape.paper import local_area, place

SPANS_SHARE = 0.6
"""A border that takes up more of its sheet's length is meant to span it (our own guess)."""
SHORT_MM, SEEN_MM2 = 0.4, 1.0
MEANT_MM = 15.0
"""A border that ends so far before the edge may be meant to (our own guess): then it is a note only."""
BEHIND_MM = 1.0
"""A crest must stand this high behind words to be told."""
SPARE_MM = 5.0
"""Less paper to save at a border's foot is not worth a thought (our own guess)."""
TRIES_MM = (4.0, 8.0, 12.0, 16.0, 20.0, 26.0, 32.0, 40.0)


def judge_borders(work: Work, *, go_on: Callable[[], bool] = lambda: True) -> list[Finding]:
    """Judge how every border lies on its sheet and what is seen of it, as long as it may go on."""
    leaves = stack(work)
    findings = []
    for piece in work.card.pieces:
        if isinstance(piece, Border) and go_on():
            findings += _short_ends(work, piece, leaves)
            findings += _crests_behind_words(work, piece, leaves)
            findings += _spare_foot(work, piece, leaves)
    return findings


# -- ends ------------------------------------------------------------------------------------------------------------


def _short_ends(work: Work, piece: Border, leaves: tuple[Leaf, ...]) -> list[Finding]:
    try:
        reach = reach_of(work, piece)
    except PaperError:
        return []
    half = piece.length_mm / 2
    if min(half, reach.right) - max(-half, reach.left) < SPANS_SHARE * reach.length:
        return []
    gaps = {"left": max(0.0, -half - reach.left), "right": max(0.0, reach.right - half)}
    short = {side: gap for side, gap in gaps.items() if gap > SHORT_MM and _is_seen(piece, work, leaves, reach, side)}
    if not short:
        return []
    name, unit = name_pieces(work)[piece.id], work.card.unit
    told = " and ".join(f"{say_length(gap, unit)} at the {side}" for side, gap in short.items())
    try:
        remedy = Remedy("Let it reach across", pieces=(reach_across(work, piece),))
    except (PaperError, GeometryError):
        remedy = None
    return [
        Finding(
            code="short",
            weight=Weight.CAUTION if max(short.values()) < MEANT_MM else Weight.NOTE,
            title=f"The {name} ends short of its sheet",
            text=f"It ends {told} before the edge, and its end is seen. It needs {say_length(reach.length, unit)}.",
            measure=round(max(short.values()), 2),
            unit="mm",
            pieces=(piece.id,),
            places=tuple(ring for side in short for ring in to_rings(_gap(piece, work, reach, side))),
            remedy=remedy,
        )
    ]


def _gap(piece: Border, work: Work, reach: Reach, side: str) -> Area:
    """Return the ground beside an end of a border that the border should cover, mm on the panel."""
    _, top, _, bottom = local_area(piece, work.stash).bounds
    half = piece.length_mm / 2
    box = shapely.box(reach.left, top, -half, bottom) if side == "left" else shapely.box(half, top, reach.right, bottom)
    return place(box, piece)


def _is_seen(piece: Border, work: Work, leaves: tuple[Leaf, ...], reach: Reach, side: str) -> bool:
    gap = _gap(piece, work, reach, side)
    return bool(shapely.difference(gap, fronts_of(leaves, piece.id)).area > SEEN_MM2)


# -- crests ----------------------------------------------------------------------------------------------------------


def crest_spots(work: Work, piece: Border) -> list[tuple[float, float]]:
    """Places of a border's crests on the panel, mm."""
    area = local_area(piece, work.stash)
    left, top, _, bottom = area.bounds
    spots = []
    for x in crests_of(profile_of(shapely.affinity.translate(area, -left, 0))):
        line = shapely.intersection(area, shapely.LineString([(x + left, top - 1), (x + left, bottom + 1)]))
        if not line.is_empty:
            spots.append((x + left, line.bounds[1]))
    return [(float(x), float(y)) for x, y in turn_points(spots, piece.angle_deg, piece.x, piece.y)] if spots else []


def _words_in_front(work: Work, piece: Border, leaves: tuple[Leaf, ...]) -> list[Leaf]:
    at = next(index for index, leaf in enumerate(leaves) if leaf.key == piece.id)
    return [leaf for leaf in leaves[at + 1 :] if is_greeting(leaf.piece, work.stash)]


def _crests_behind_words(work: Work, piece: Border, leaves: tuple[Leaf, ...]) -> list[Finding]:
    """Tell of an edge that runs up and down behind words: it draws a line through them, or pushes out above them."""
    words = [leaf for leaf in _words_in_front(work, piece, leaves) if leaf.area.intersects(place_bounds(piece, work))]
    if not words:
        return []
    high, which = _highest_behind(work, piece, words)
    if which is None or high < BEHIND_MM:
        return []
    names, unit = name_pieces(work), work.card.unit
    return [
        Finding(
            code="crest-behind",
            weight=Weight.NOTE,
            title=f"A crest of the {names[piece.id]} stands behind the {names[which.piece.id]}",
            text=f"It runs {say_length(high, unit)} up behind the words; slid along, the edge passes them lower.",
            measure=round(high, 2),
            unit="mm",
            pieces=(piece.id, which.piece.id),
            places=to_rings(only_areas(shapely.intersection(which.area, place(local_area(piece, work.stash), piece)))),
            remedy=_sliding(work, piece, words),
        )
    ]


def place_bounds(piece: Border, work: Work) -> Area:
    """Box round a border in place, turned with it, mm on the panel."""
    return place(shapely.box(*local_area(piece, work.stash).bounds), piece)


def _highest_behind(work: Work, piece: Border, words: list[Leaf]) -> tuple[float, Leaf | None]:
    """How high the highest crest stands behind words, from their foot, and behind which."""
    best: tuple[float, Leaf | None] = (0.0, None)
    for x, y in crest_spots(work, piece):
        for leaf in words:
            left, top, right, bottom = leaf.area.bounds
            if left <= x <= right and top - 1.0 <= y < bottom and bottom - y > best[0]:
                best = (float(bottom - y), leaf)
    return best


def _sliding(work: Work, piece: Border, words: list[Leaf]) -> Remedy | None:
    """Find the least way to slide the border along itself so that no crest stands behind the words."""
    unit = work.card.unit
    for step in (side * by for by in TRIES_MM for side in (1, -1)):
        try:
            slid = slide_border(work, piece, step)
        except (PaperError, GeometryError):
            continue
        if _highest_behind(work, slid, words)[0] < BEHIND_MM:
            told = f"Slide it {say_length(abs(step), unit)} to the {'left' if step > 0 else 'right'}"
            return Remedy("Join it so that none does" if len(slid.cuts) > 1 else told, pieces=(slid,))
    return None


# -- hidden paper ----------------------------------------------------------------------------------------------------


def _spare_foot(work: Work, piece: Border, leaves: tuple[Leaf, ...]) -> list[Finding]:
    spare = spare_foot(work, piece, leaves)
    if spare < SPARE_MM:
        return []
    name, unit = name_pieces(work)[piece.id], work.card.unit
    own = next(leaf.area for leaf in leaves if leaf.key == piece.id)
    hidden = only_areas(shapely.intersection(own, fronts_of(leaves, piece.id)))
    return [
        Finding(
            code="spare-foot",
            weight=Weight.NOTE,
            title=f"The foot of the {name} is hidden",
            text=f"{hidden.area / 100:.0f} cm² of it are behind others: {say_length(spare, unit)} may be cut off its "
            f"foot, and that much less inked; {GLUE_MM:g} mm are left for the glue.",
            measure=round(spare, 2),
            unit="mm",
            pieces=(piece.id,),
            places=to_rings(hidden),
        )
    ]
