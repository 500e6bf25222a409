"""Outlines of images that were taken in before silhouettes were read: found again from their own clean pictures."""

import io
from collections.abc import Callable, Iterable, Mapping
from typing import NamedTuple

import msgspec
import numpy as np
import shapely
from PIL import Image
from PIL.PngImagePlugin import PngImageFile

from fair_thicket.intake.taking import GRAIN, ring_from_middle
from fair_thicket.intake.tracing import trace
from fair_thicket.model.basics import Ring
from fair_thicket.model.errors import StoppedError
from fair_thicket.model.stash import Kind, Stamp
from fair_thicket.shape.outline import to_area

ROOM_PX = 12
"""Bare paper round a clean picture, which is cut exactly to its ink."""
MOST_AGREED = 0.9
"""An outline that agrees with the one found again by this share (overlap over union) need not be renewed."""
LEAST_GROWN = 1.05
"""One that runs along its lines holds so much less at least; what holds more was shaped by its maker."""


class Renewal(NamedTuple):
    """An image whose outline runs along its lines, as it is and as it would be."""

    before: Stamp
    after: Stamp

    @property
    def grown(self) -> float:
        """How many times as much paper the new outline holds."""
        return held_area(self.after) / max(held_area(self.before), 1e-6)


def find_renewals(
    stamps: Iterable[Stamp], pictures: Mapping[str, bytes], go_on: Callable[[], bool] = lambda: True
) -> list[Renewal]:
    """List the images whose outlines run along their lines; dies, borders and words are as they are cut.

    Raises
    ------
    StoppedError
        When `go_on` said so.
    """
    found = []
    for stamp in stamps:
        if not go_on():
            raise StoppedError("outlines")
        if stamp.kind is Kind.STAMP and stamp.picture in pictures:
            after = renew_outline(stamp, pictures[stamp.picture])
            if after is not None and _runs_along_lines(stamp, after):
                found.append(Renewal(stamp, after))
    return found


def renew_outline(stamp: Stamp, picture: bytes) -> Stamp | None:
    """Find an image's outline and pockets again; None where its picture shows no ink, or is damaged."""
    try:
        with PngImageFile(io.BytesIO(picture)) as opened:
            alpha = np.asarray(opened.convert("RGBA").getchannel("A"), np.float32) / 255
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        return None
    ink = np.where(alpha > 0, alpha * (1 - GRAIN) + GRAIN, 0).astype(np.float32)  # as it was before grain was taken out
    px_per_mm = ink.shape[1] / stamp.width_mm
    traced = trace(np.pad(ink, ROOM_PX), px_per_mm)
    if traced is None:
        return None
    middle = (ROOM_PX / px_per_mm + stamp.width_mm / 2, ROOM_PX / px_per_mm + stamp.height_mm / 2)

    def from_middle(ring: Ring) -> Ring:
        return ring_from_middle(ring, middle)

    pockets = tuple(from_middle(ring) for ring in traced.pockets)
    return msgspec.structs.replace(stamp, outline=from_middle(traced.outline), pockets=pockets)


def held_area(stamp: Stamp) -> float:
    """Return how much paper an image's outline holds, its pockets too: a mask covers them, mm2."""
    return float(shapely.area(to_area(stamp.outline)))


def _runs_along_lines(before: Stamp, after: Stamp) -> bool:
    if held_area(after) < LEAST_GROWN * held_area(before):
        return False
    one, other = to_area(before.outline), to_area(after.outline)
    return bool(one.intersection(other).area < MOST_AGREED * one.union(other).area)
