"""Edits of what is marked on an image: round parts, folds and ribs, cheeks, eyes, white dots; lamps; open pockets."""

import math
from collections.abc import Collection, Mapping, Sequence
from types import MappingProxyType

import msgspec
import shapely

from fair_thicket.edits.colouring import parts_of, set_regions
from fair_thicket.model.basics import Point, Ring
from fair_thicket.model.bounds import MOST_FOLDS, MOST_REGIONS
from fair_thicket.model.card import Work
from fair_thicket.model.colouring import Fold, Region, RegionKind, Rounding
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout, Impression
from fair_thicket.model.stash import Marks
from fair_thicket.shape.outline import to_area

TOUCH_MM: Mapping[RegionKind, float] = MappingProxyType({"cheek": 2.4, "eye": 1.6, "white dot": 0.6})
"""How wide a touch is unless the maker says otherwise (our own guess)."""
CORNERS = 20
LEAST_FOLD_MM = 0.5


def set_rounding(work: Work, key: str, regions: Collection[int], rounding: Rounding) -> Work:
    """Say of regions of an image of the stash that they are shaded plainly, as round, or as panels between folds."""
    return _change(work, key, regions, rounding=rounding)


def add_fold(work: Work, key: str, line: Fold) -> Work:
    """Mark a fold or a rib on the regions that a line lies in, mm from the image's middle.

    Raises
    ------
    PaperError
        When it lies in none, or they have as many as can be.
    """
    drawn = shapely.LineString(line)
    stamp = work.stash.find(key)
    on = [
        region
        for region in stamp.regions
        if not region.is_touch
        and shapely.length(shapely.intersection(drawn, to_area(region.ring, region.holes))) >= LEAST_FOLD_MM
    ]
    if not on:
        raise PaperError("The line lies in no region; draw it along a fold or a rib of one.")
    if any(len(region.folds) >= MOST_FOLDS for region in on):
        raise PaperError(f"A region bears at most {MOST_FOLDS} folds; forget some of them first.")
    found = {region.id for region in on}
    regions = tuple(
        msgspec.structs.replace(region, folds=(*region.folds, line)) if region.id in found else region
        for region in stamp.regions
    )
    return set_regions(work, key, regions, stamp.parts)


def clear_folds(work: Work, key: str, regions: Collection[int]) -> Work:
    """Forget the folds of regions."""
    return _change(work, key, regions, folds=())


def add_touch(work: Work, key: str, kind: RegionKind, at: tuple[float, float], size_mm: float | None = None) -> Work:
    """Mark where a cheek is, an eye to be glazed, or a white dot: those of a kind are one part.

    Parameters
    ----------
    at : (float, float)
        Its middle, mm from the image's middle.
    size_mm : float or None
        Its width; None for the usual one.

    Raises
    ------
    PaperError
        When it lies beside the image, or the image has as many regions as can be.
    """
    stamp = work.stash.find(key)
    if not to_area(stamp.outline).covers(shapely.Point(at)):
        raise PaperError(f"Click on the image to mark a {kind} there.")
    if len(stamp.regions) >= MOST_REGIONS:
        raise PaperError(f"An image has at most {MOST_REGIONS} regions; join or take some away first.")
    radius = (size_mm or TOUCH_MM[kind]) / 2
    ring = tuple(
        (
            round(at[0] + radius * math.cos(math.tau * turn / CORNERS), 3),
            round(at[1] + radius * math.sin(math.tau * turn / CORNERS), 3),
        )
        for turn in range(CORNERS)
    )
    made = Region(max((region.id for region in stamp.regions), default=0) + 1, ring, kind=kind)
    alike = {region.id for region in stamp.regions if region.kind == kind}
    own = next((part for part in parts_of(stamp) if set(part) & alike), ())
    rest = tuple(part for part in stamp.parts if part != own)
    return set_regions(work, key, (*stamp.regions, made), (*rest, (*own, made.id)))


def drop_touches(work: Work, key: str, regions: Collection[int]) -> Work:
    """Take touches off an image; what lines close stays."""
    stamp = work.stash.find(key)
    gone = {region.id for region in stamp.regions if region.is_touch and region.id in set(regions)}
    if not gone:
        raise PaperError("Choose cheeks, eyes or white dots; what lines close cannot be taken away.")
    kept = tuple(region for region in stamp.regions if region.id not in gone)
    parts = tuple(left for part in stamp.parts if (left := tuple(one for one in part if one not in gone)))
    return set_regions(work, key, kept, parts)


def open_mark(marks: Marks, pockets: Sequence[Ring], at: Point) -> Marks:
    """Open the pocket that a place lies in, or close it again; a place in none changes nothing."""
    pocket = next((area for area in map(to_area, pockets) if area.covers(shapely.Point(at))), None)
    if pocket is None:
        return marks
    kept = tuple(one for one in marks.open_at if not pocket.covers(shapely.Point(one)))
    opened = kept if len(kept) < len(marks.open_at) else (*kept, (round(at[0], 3), round(at[1], 3)))
    return msgspec.structs.replace(marks, open_at=opened)


def set_lamp(work: Work, keys: Collection[str], reach_mm: float) -> Work:
    """Say of images on a card that they give light as far as this; 0 for no light."""
    pieces = tuple(
        msgspec.structs.replace(piece, lamp_mm=reach_mm)
        if piece.id in keys and isinstance(piece, Impression | Cutout)
        else piece
        for piece in work.card.pieces
    )
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))


def _change(work: Work, key: str, regions: Collection[int], **fields: object) -> Work:
    stamp = work.stash.find(key)
    wanted = set(regions)
    changed = tuple(
        msgspec.structs.replace(region, **fields) if region.id in wanted else region for region in stamp.regions
    )
    return set_regions(work, key, changed, stamp.parts)
