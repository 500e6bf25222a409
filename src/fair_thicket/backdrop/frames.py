"""Frame dies made wider or higher: cut twice and more, joined on their straight sides, their bars kept as they are."""

from dataclasses import dataclass
from functools import lru_cache

import msgspec
import shapely

from fair_thicket.backdrop.joining import Joining
from fair_thicket.backdrop.spanning import span_area
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout
from fair_thicket.model.spans import Span
from fair_thicket.model.stash import Stamp
from fair_thicket.shape.outline import to_area
from fair_thicket.shape.paper import grow_area

SAME_MM = 0.05


@dataclass(frozen=True)
class Growth:
    """A frame die grown.

    Attributes
    ----------
    across, down : Span or None
        None where it stays as wide, or as high, as it is.
    mismatch_mm : float
        How far edges differ at the worst joint.
    """

    across: Span | None
    down: Span | None

    @property
    def mismatch_mm(self) -> float:
        """How far edges differ at the worst joint."""
        spans = [one for one in (self.across, self.down) if one is not None]
        return max((joint.mismatch_mm for one in spans for joint in one.joints), default=0.0)

    @property
    def count(self) -> int:
        """How many pieces are cut in all."""
        return (len(self.across.cuts) if self.across else 1) * (len(self.down.cuts) if self.down else 1)


def is_frame(work: Work, piece: object) -> bool:
    """Whether a piece is a die cut with an opening, that can be grown."""
    if not isinstance(piece, Cutout) or piece.opening is not None or piece.joined:
        return False
    stamp = work.stash.find(piece.stamp)
    return stamp.kind.is_plain and bool(stamp.pockets)


def grow_frame(stamp: Stamp, width_mm: float, height_mm: float) -> Growth:
    """Join cuts of a frame die so that it becomes as wide and as high as wanted, or smaller.

    Raises
    ------
    PaperError
        When the die cannot be joined to that size.

    Notes
    -----
    Both ends of the die are kept, so that its bars are; the columns between are joined as a border's are, the height
    with rows for columns.
    """
    return _grow(stamp.outline, stamp.pockets, width_mm, height_mm)


@lru_cache(maxsize=32)
def _grow(outline: Ring, pockets: tuple[Ring, ...], width_mm: float, height_mm: float) -> Growth:
    area = to_area(outline, pockets)
    left, top, right, bottom = area.bounds
    joining = Joining(keep_ends=True)
    across = span_area(area, width_mm, joining) if abs(right - left - width_mm) > SAME_MM else None
    down = None
    if abs(bottom - top - height_mm) > SAME_MM:
        wide = grow_area(area, across.cuts, ()) if across else area
        lying = shapely.transform(wide, lambda points: points[:, ::-1])
        down = span_area(lying, height_mm, joining)
    return Growth(across, down)


def grow_piece(work: Work, key: str, width_mm: float, height_mm: float) -> tuple[Cutout, Growth]:
    """Make a frame of the card wider and higher about its own middle.

    Raises
    ------
    PaperError
        When the piece is no frame, or its die cannot be joined to that size.
    """
    piece = work.card.find(key)
    if not isinstance(piece, Cutout) or not is_frame(work, piece):
        raise PaperError(f"The {name_pieces(work)[key]} has no opening; only frames of a die are grown.")
    growth = grow_frame(work.stash.find(piece.stamp), width_mm, height_mm)
    across = growth.across.cuts if growth.across else ()
    down = growth.down.cuts if growth.down else ()
    return msgspec.structs.replace(piece, across=across, down=down), growth
