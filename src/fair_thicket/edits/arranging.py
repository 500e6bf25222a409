"""Several pieces at once: aligned, spread evenly, copied, mirrored, in rows, and put at the points where they meet."""

import math
from collections.abc import Callable, Collection, Sequence
from types import MappingProxyType

import msgspec
import shapely.ops
from shapely.geometry import Point as Spot

from fair_thicket.edits.pieces import add_piece, clamp, free_id, move_by, normalise_angle, set_pieces
from fair_thicket.model.basics import Point, Ring
from fair_thicket.model.card import Work, carried_by, find_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Cutout, Flap, Hold, Impression, PaperPiece, Piece
from fair_thicket.shape.outline import turn_points
from fair_thicket.shape.paper import footprint

MOST_IN_ROWS = 60
"""So often a piece is repeated at most, all rows together."""
GRASP_MM = 5.0
"""A piece without marks is grasped where it is nearest, no farther than this from the hand."""
LINES = MappingProxyType(
    {"left": (0, 0.0), "middle": (0, 0.5), "right": (0, 1.0), "top": (1, 0.0), "centre": (1, 0.5), "foot": (1, 1.0)}
)


def align(work: Work, keys: Collection[str], line: str) -> Work:
    """Bring pieces to one line: ``left``, ``middle``, ``right`` across, ``top``, ``centre``, ``foot`` down.

    A single piece is brought to the panel's own line; several to the line of their common box.
    """
    axis, share = LINES[line]
    boxes = _boxes(work, keys)
    if len(boxes) == 1:
        low, high = 0.0, work.card.panel[axis]
    else:
        low = min(box[axis] for box in boxes.values())
        high = max(box[axis + 2] for box in boxes.values())
    target = low + (high - low) * share
    for key, box in boxes.items():
        off = target - (box[axis] + (box[axis + 2] - box[axis]) * share)
        work = move_by(work, {key}, (off, 0.0) if axis == 0 else (0.0, off))
    return work


def distribute(work: Work, keys: Collection[str], *, across: bool) -> Work:
    """Spread pieces so that the gaps between them are equal; the outermost two stay.

    Raises
    ------
    PaperError
        With fewer than three.
    """
    axis = 0 if across else 1
    boxes = sorted(_boxes(work, keys).items(), key=lambda one: one[1][axis] + one[1][axis + 2])
    if len(boxes) < 3:
        raise PaperError("Choose three or more pieces to spread them evenly.")
    room = boxes[-1][1][axis] - boxes[0][1][axis + 2]
    gap = (room - sum(box[axis + 2] - box[axis] for _, box in boxes[1:-1])) / (len(boxes) - 1)
    at = boxes[0][1][axis + 2] + gap
    for key, box in boxes[1:-1]:
        off = at - box[axis]
        work = move_by(work, {key}, (off, 0.0) if across else (0.0, off))
        at += box[axis + 2] - box[axis] + gap
    return work


def _boxes(work: Work, keys: Collection[str]) -> dict[str, tuple[float, float, float, float]]:
    return {piece.id: footprint(piece, work.stash).bounds for piece in find_pieces(work.card.pieces, keys)}


def duplicate(work: Work, keys: Collection[str], by: tuple[float, float] = (4.0, 4.0)) -> tuple[Work, list[str]]:
    """Make copies of pieces, with all that lies on them, moved by (x, y) mm; copies know what they are copies of."""
    wanted = set(keys).union(*(carried_by(work.card.pieces, key) for key in keys)) if keys else set()
    new: dict[str, str] = {}
    for piece in find_pieces(work.card.pieces, wanted):
        key = free_id(work, _stem(piece.id))
        new[piece.id] = key
        work = add_piece(work, _copy(piece, key, new, by))
    return work, list(new.values())


def _stem(key: str) -> str:
    head, _, tail = key.rpartition("-")
    return head if head and tail.isdigit() else key


def _copy(piece: Piece, key: str, new: dict[str, str], by: tuple[float, float]) -> Piece:
    fields: dict[str, object] = {
        "id": key,
        "x": clamp(piece.x + by[0]),
        "y": clamp(piece.y + by[1]),
        "copy_of": piece.copy_of or piece.id,
        "on": new.get(piece.on, piece.on),
        "trim_to": new.get(piece.trim_to, piece.trim_to),
        "name": "",
    }
    if piece.held is not None:
        held = new.get(piece.held.by)
        fields["held"] = msgspec.structs.replace(piece.held, by=held) if held else None
    if isinstance(piece, PaperPiece):
        fields["flaps"] = tuple(
            msgspec.structs.replace(flap, past=new[flap.past]) for flap in piece.flaps if flap.past in new
        )
    return msgspec.structs.replace(piece, **fields)


def half_turn(work: Work, keys: Collection[str]) -> tuple[Work, list[str]]:
    """Copy pieces half-turned about the panel's middle, as when the stamp stays in place and the panel is turned."""
    width, height = work.card.panel
    work, made = duplicate(work, keys, (0.0, 0.0))

    def turn(piece: Piece) -> Piece:
        return msgspec.structs.replace(
            piece,
            x=clamp(width - piece.x),
            y=clamp(height - piece.y),
            angle_deg=normalise_angle(piece.angle_deg + 180),
        )

    return _change(work, made, turn), made


def mirror_cluster(
    work: Work, keys: Collection[str], *, axis_x: float | None = None
) -> tuple[Work, list[str], list[str]]:
    """Place copies of a cluster as its mirror image about an upright line, by default the panel's middle.

    Returns
    -------
    (Work, ids of the copies, ids of those that could not be mirrored)
        Plain paper is turned over. What cannot be mirrored is turned to fit: it leans the other way.
    """
    axis = work.card.panel[0] / 2 if axis_x is None else axis_x
    work, made = duplicate(work, keys, (0.0, 0.0))
    only_turned: list[str] = []

    def reflect(piece: Piece) -> Piece:
        fields: dict[str, object] = {"x": clamp(2 * axis - piece.x), "angle_deg": normalise_angle(-piece.angle_deg)}
        if isinstance(piece, Cutout) and work.stash.find(piece.stamp).may_flip:
            fields["flipped"] = not piece.flipped
        elif isinstance(piece, Impression | Cutout):
            only_turned.append(piece.id)
        return msgspec.structs.replace(piece, **fields)

    return _change(work, made, reflect), made, only_turned


def _change(work: Work, keys: Collection[str], change: Callable[[Piece], Piece]) -> Work:
    pieces = tuple(change(piece) if piece.id in keys else piece for piece in work.card.pieces)
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=pieces))


def row(
    work: Work, key: str, count: int, step_mm: float, *, rows: int = 1, down_mm: float = 0.0, stagger: bool = True
) -> tuple[Work, list[str]]:
    """Repeat a piece in a row, or in several: staggered, each second row stands in the gaps; lower rows are in front.

    Parameters
    ----------
    count : int
        Pieces in a row, the first one included.
    step_mm, down_mm : float
        From middle to middle, across and down.

    Raises
    ------
    PaperError
        When there would be none or more than `MOST_IN_ROWS`.
    """
    if not 1 <= count * rows <= MOST_IN_ROWS or count < 1 or rows < 1:
        raise PaperError(f"A piece is repeated up to {MOST_IN_ROWS} times; type a smaller number.")
    made: list[str] = []
    for line in range(rows):
        shift = step_mm / 2 if stagger and line % 2 else 0.0
        for place in range(count):
            if line or place:
                work, new = duplicate(work, {key}, (place * step_mm + shift, line * down_mm))
                made += new
    return work, made


def place_at_contact(work: Work, key: str, *, by: str, at: Point, own: Point, hand: Ring | None = None) -> Work:
    """Put a point of a piece on a point of another, and keep the two together.

    Parameters
    ----------
    key, by : str
        The piece that is put there, and the one that holds it.
    own, at : point
        The points, mm from the middles of the two.
    hand : ring or None
        Part of the holder, mm from its middle, that goes over the piece, as fingers round a stick. Only cut paper can.

    Raises
    ------
    PaperError
        When a stamped holder is asked to put its hand over.
    """
    piece, holder = work.card.find(key), work.card.find(by)
    target = turn_points([_faced(holder, at)], holder.angle_deg, holder.x, holder.y)[0]
    present = turn_points([_faced(piece, own)], piece.angle_deg, piece.x, piece.y)[0]
    work = move_by(work, {key}, (float(target[0] - present[0]), float(target[1] - present[1])))
    work = set_pieces(work, {key}, held=Hold(by, (clamp(own[0]), clamp(own[1])), (clamp(at[0]), clamp(at[1]))))
    if hand is None:
        return work
    if not isinstance(holder, PaperPiece):
        raise PaperError("A stamped hand cannot lie over what is put into it; cut the figure out first.")
    flap = Flap(hand, key, "over", "hand")
    return set_pieces(work, {by}, flaps=(*holder.flaps, flap))


def _faced(piece: Piece, point: Point) -> Point:
    return (-point[0], point[1]) if isinstance(piece, Cutout) and piece.flipped else point


def nearest_contact(work: Work, key: str, *, within_mm: float = 12.0) -> tuple[str, Point, Point] | None:
    """Find where a piece could be held: the holder, its marked point, and the piece's own point there; None for none.

    The own point is the piece's nearest marked contact, else where the holder's point lies on it now, else its foot.
    """
    piece = work.card.find(key)
    best: tuple[float, str, Point, Point] | None = None
    for other in work.card.pieces:
        if other.id == key or not isinstance(other, Impression | Cutout):
            continue
        for contact in work.stash.find(other.stamp).marks.contacts:
            target = turn_points([_faced(other, contact.at)], other.angle_deg, other.x, other.y)[0]
            for own in _own_points(work, piece, (float(target[0]), float(target[1]))):
                place = turn_points([_faced(piece, own)], piece.angle_deg, piece.x, piece.y)[0]
                apart = math.dist(place.tolist(), target.tolist())
                if apart <= within_mm and (best is None or apart < best[0]):
                    best = (apart, other.id, contact.at, own)
    return best[1:] if best else None


def _own_points(work: Work, piece: Piece, target: Point) -> Sequence[Point]:
    if isinstance(piece, Impression | Cutout):
        marks = work.stash.find(piece.stamp).marks
        if marks.contacts:
            return [contact.at for contact in marks.contacts]
        if marks.feet:
            (x0, y0), (x1, y1) = marks.feet
            return [((x0 + x1) / 2, (y0 + y1) / 2)]
    area = footprint(piece, work.stash)
    if area.distance(Spot(target)) > GRASP_MM:
        return []
    there, _ = shapely.ops.nearest_points(area, Spot(target))
    x, y = turn_points([(there.x - piece.x, there.y - piece.y)], -piece.angle_deg, 0, 0)[0].tolist()
    return [(x, y)]
