"""Images of a sheet become stamps of the stash."""

import hashlib
from collections.abc import Sequence

from fair_thicket.model.card import Work
from fair_thicket.model.plan import SheetImage
from fair_thicket.model.stash import Stamp, Stash, new_key


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
        stamps.append(
            Stamp(key, name, round(image.width_mm, 4), round(image.height_mm, 4), image.outline, picture, image.pockets)
        )
        pictures[picture] = image.picture
    return Work(work.card, Stash(tuple(stamps))), pictures
