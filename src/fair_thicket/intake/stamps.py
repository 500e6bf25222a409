"""Images of a sheet become stamps of the stash."""

import hashlib
from collections.abc import Sequence

import shapely

from fair_thicket.model.basics import Point, Ring
from fair_thicket.model.bounds import MOST_POCKETS
from fair_thicket.model.card import Work
from fair_thicket.model.plan import SheetImage
from fair_thicket.model.stash import Kind, Marks, Stamp, Stash, new_key
from fair_thicket.shape.outline import to_area

KINDS = frozenset({kind.value for kind in Kind})
OPEN_MM2 = 100.0
"""Pockets from this on are open until the maker says otherwise: a wreath's middle, no cup's handle (our own guess)."""
FOOT_MM = 0.6
"""Parts of an outline this near its lowest point touch the ground together."""


def keep_images(
    work: Work, images: Sequence[SheetImage], *, names: Sequence[str] | None = None
) -> tuple[Work, dict[str, bytes]]:
    """Put found images into the stash.

    Parameters
    ----------
    work : Work
    images : sequence of SheetImage
    names : same length, or None for the names the sheet gave

    Returns
    -------
    (Work, dict)
        The work with its stash grown, and the new pictures by name. A name holds a digest of the picture, so that one
        name never stands for two pictures, whatever is undone in between.
    """
    taken = {stamp.id for stamp in work.stash.stamps}
    stamps, pictures = list(work.stash.stamps), {}
    for index, image in enumerate(images):
        name = names[index] if names is not None else image.name
        key = new_key(name, taken)
        taken.add(key)
        picture = f"images/{key}-{hashlib.sha256(image.picture).hexdigest()[:10]}.png"
        kind = Kind(image.kind) if image.kind in KINDS else Kind.STAMP
        marks = Marks() if kind.is_plain or kind is Kind.GREETING else guess_marks(image.outline, image.pockets)
        stamps.append(
            Stamp(
                key,
                name,
                round(image.width_mm, 4),
                round(image.height_mm, 4),
                image.outline,
                picture,
                _largest(image.pockets),
                kind=kind,
                may_flip=kind.is_plain,
                marks=marks,
            )
        )
        pictures[picture] = image.picture
    return Work(work.card, Stash(tuple(stamps))), pictures


def guess_marks(outline: Ring, pockets: Sequence[Ring] = ()) -> Marks:
    """Guess where an image stands, and which of its pockets are open.

    It stands on the lowest run of its outline, from its leftmost to its rightmost touch. A run that is narrow beside
    the image's width is no stand: what hangs or flies touches the ground with a tip.
    """
    opened = tuple(_place_in(ring) for ring in _largest(tuple(pockets)) if to_area(ring).area >= OPEN_MM2)
    lowest = max(y for _, y in outline)
    touching = [x for x, y in outline if y >= lowest - FOOT_MM]
    left, right = min(touching), max(touching)
    width = max(x for x, _ in outline) - min(x for x, _ in outline)
    if right - left < 0.15 * width:
        return Marks(open_at=opened)
    foot = round(lowest, 4)
    return Marks(feet=((round(left, 4), foot), (round(right, 4), foot)), is_guess=True, open_at=opened)


def _place_in(ring: Ring) -> Point:
    """Return a place well within a ring, mm."""
    place = shapely.maximum_inscribed_circle(to_area(ring), 0.1).coords[0]
    return round(place[0], 3), round(place[1], 3)


def _largest(rings: tuple[Ring, ...]) -> tuple[Ring, ...]:
    """Return as many pockets as one thing may have, the largest of them, in their order."""
    if len(rings) <= MOST_POCKETS:
        return rings
    least = sorted((to_area(ring).area for ring in rings), reverse=True)[MOST_POCKETS - 1]
    return tuple(ring for ring in rings if to_area(ring).area >= least)[:MOST_POCKETS]
