"""How a stamp is inked and what keeps a wash off, as edits: in part, in zones, as a resist; covers and torn paper."""

import math
from collections.abc import Collection

import msgspec
import shapely

from fair_thicket.edits.flaps import side_of_line, to_local
from fair_thicket.edits.pieces import add_piece, free_id, place_pieces
from fair_thicket.ink.contrast import luminance
from fair_thicket.ink.gradients import wash_colour
from fair_thicket.ink.mixing import mix
from fair_thicket.laid.by_hand import why_not_by_hand
from fair_thicket.model.basics import Point as Spot
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import AnyWash, Colour, Cover, Form, Impression, InkZone, Strip, Wash, as_kind
from fair_thicket.shape.paper import footprint, local_area

MOST_ZONES, MOST_COVERS = 12, 30
TINT = 0.2
"""How much of an ink its pale tint is."""
RAGGED_MM = 2.5
LEAST_MM2 = 1.0
MOST_GAP_MM = 50.0
"""What is left white between two zones of a wash at most."""


def ink_only(work: Work, key: str, start: Spot, end: Spot, toward: Spot, *, is_taped: bool = False) -> Work:
    """Ink only what of a stamp lies on one side of a line across it; the rest is left out, or taped off.

    Raises
    ------
    PaperError
        When it is not stamped, or the line does not part it.
    """
    piece = _stamped(work, key)
    ring = side_of_line(work, piece, start, end, toward)
    return _put(work, msgspec.structs.replace(piece, inked=ring, is_taped=is_taped))


def ink_zone(work: Work, key: str, line: tuple[Spot, Spot], toward: Spot, ink: Colour) -> Work:
    """Ink what of a stamp lies on one side of a line in a colour of its own.

    Raises
    ------
    PaperError
        When it is not stamped, the line does not part it, or it has twelve zones already.
    """
    piece = _stamped(work, key)
    if len(piece.zones) >= MOST_ZONES:
        raise PaperError(f"A stamp is inked in at most {MOST_ZONES} zones; ink all of it again first.")
    zone = InkZone(side_of_line(work, piece, *line, toward), ink)
    return _put(work, msgspec.structs.replace(piece, zones=(zone, *piece.zones)))


def ink_whole(work: Work, key: str) -> Work:
    """Ink all of a stamp again, in one colour."""
    return _put(work, msgspec.structs.replace(_stamped(work, key), inked=None, is_taped=False, zones=()))


def set_resist(work: Work, key: str, *, resists: bool) -> Work:
    """Emboss an impression clear, so that washes do not take on it; or stamp it in ink again."""
    return _put(work, msgspec.structs.replace(_stamped(work, key), resists=resists))


def set_powder(work: Work, keys: Collection[str], colour: Colour | None) -> Work:
    """Emboss images, or the words of strips, with powder of a colour; None stamps them in ink again.

    Raises
    ------
    PaperError
        For what is neither stamped nor a strip with words.
    """
    for key in keys:
        piece = work.card.find(key)
        if not isinstance(piece, Impression) and not (isinstance(piece, Strip) and piece.words):
            raise PaperError("Powder goes on what is stamped, or on the words of a strip.")
        fields: dict[str, object] = {"powder": colour is not None}
        if isinstance(piece, Impression):
            fields["resists"] = False
        if colour is not None:
            fields["ink"] = colour
        work = _put(work, msgspec.structs.replace(piece, **fields))
    return work


def set_stamped(work: Work, keys: Collection[str], when: str) -> Work:
    """Stamp images before the inks, over them when they are dry, or by hand when everything is glued.

    Raises
    ------
    PaperError
        When one is not stamped, or cannot be stamped by hand then: told with what is in the way.
    """
    for key in keys:
        work = _put(work, msgspec.structs.replace(_stamped(work, key), stamped=when))
        why, others = why_not_by_hand(work, _stamped(work, key)) if when == "by hand" else ("", ())
        if why:
            names = name_pieces(work)
            told = f": {', '.join(names[one] for one in others[:3])}" if others else ""
            raise PaperError(f"The {names[key]} {why}{told}. Stamp it before, or clear the ground round it.")
    return work


def cover_wash(work: Work, key: str, cover: Cover, at: Spot) -> Work:
    """Keep a wash off a shape, or within it; the shape's middle lies at a place of the panel, mm.

    Raises
    ------
    PaperError
        When it is no wash, or nothing of it would be inked any more.
    """
    piece = _wash(work, key)
    ((x, y),) = to_local(piece, [at])
    return add_cover(work, piece, msgspec.structs.replace(cover, x=round(x, 3), y=round(y, 3)))


def tear_wash(work: Work, key: str, line: tuple[Spot, Spot], toward: Spot, *, ragged_mm: float, seed: int) -> Work:
    """Cover what of a wash lies on one side of a line with torn paper.

    Raises
    ------
    PaperError
        When it is no wash, or nothing of it would be inked any more.
    """
    piece = _wash(work, key)
    start, end, meant = to_local(piece, [*line, toward])
    # a torn cover lies to the right of its line
    along = (end[0] - start[0], end[1] - start[1])
    side = along[0] * (meant[1] - start[1]) - along[1] * (meant[0] - start[0])
    first, last = (start, end) if side > 0 else (end, start)
    told = (_rounded(first), _rounded(last))
    return add_cover(work, piece, Cover("torn", line=told, ragged_mm=ragged_mm, seed=seed))


def _rounded(spot: Spot) -> Spot:
    return round(spot[0], 3), round(spot[1], 3)


def uncover_wash(work: Work, key: str) -> Work:
    """Take all covers of a wash away."""
    return _put(work, msgspec.structs.replace(_wash(work, key), covers=()))


def set_wash(work: Work, key: str, kind: type[AnyWash] | None = None, **fields: object) -> Work:
    """Make a wash one of another kind, or change how it is inked: its stencil, its drops, its coats."""
    piece = _wash(work, key)
    return _put(work, as_kind(piece, kind or type(piece), **fields))


def blend_wash(
    work: Work, key: str, inks: tuple[Colour, ...], way: str, *, toward_deg: float = 90.0, at: Spot | None = None
) -> Work:
    """Blend a wash of several inks; its flat colour becomes that of its middle.

    A glow's middle is a place of the panel.

    Raises
    ------
    PaperError
        When it is no wash, or no ink is named.
    """
    piece = _wash(work, key)
    if not inks:
        raise PaperError("A wash needs an ink; choose one at least.")
    ((x, y),) = to_local(piece, [at or (piece.x, piece.y)])
    fields = {"inks": inks, "way": way if len(inks) > 1 else "even", "toward_deg": toward_deg}
    blended = msgspec.structs.replace(piece, centre=(round(x, 3), round(y, 3)), **fields)
    return _put(work, msgspec.structs.replace(blended, colour=wash_colour(blended)))


def glow_from(work: Work, key: str, other: str) -> Work:
    """Let a wash glow from the middle of another piece, lightest there; one of a single ink glows from a tint of it.

    Raises
    ------
    PaperError
        When it is no wash.
    """
    piece, centre = _wash(work, key), work.card.find(other)
    inks = piece.inks or (wash_colour(piece),)
    if len(inks) == 1:
        inks = (mix([inks[0]], [TINT]), inks[0])
    ordered = tuple(sorted(inks, key=luminance, reverse=True))
    work = blend_wash(work, key, ordered, "glow", at=(centre.x, centre.y))
    return _put(work, msgspec.structs.replace(_wash(work, key), glows_from=other))


def spotlight(work: Work, key: str, other: str, *, rim_mm: float = 3.0) -> Work:
    """Keep a disc round a piece free of a wash and let the wash glow from there: a spotlight.

    Raises
    ------
    PaperError
        When it is no wash, or nothing of it would be inked any more.
    """
    centre = work.card.find(other)
    left, top, right, bottom = footprint(centre, work.stash).bounds
    across = round(2 * (max(right - left, bottom - top) / 2 + rim_mm), 1)
    middle = ((left + right) / 2, (top + bottom) / 2)
    disc = Cover("disc", Form("ellipse", across, across))
    return glow_from(cover_wash(work, key, disc, middle), key, other)


def part_wash(work: Work, key: str, line: tuple[Spot, Spot], *, gap_mm: float, seed: int, ink: Colour) -> Work:
    """Part a wash into two zones along a torn line, with a gap left white between them; the second takes another ink.

    Raises
    ------
    PaperError
        When it is no wash, the line does not part it, or the gap takes all of a zone.
    """
    if not 0 <= gap_mm <= MOST_GAP_MM:
        raise PaperError(f"The gap is between 0 and {MOST_GAP_MM:g} mm; say another.")
    piece = _wash(work, key)
    (x0, y0), (x1, y1) = line
    length = math.hypot(x1 - x0, y1 - y0)
    if length < 1.0:
        raise PaperError("That line is too short to tear along; draw a longer one.")
    across = (-(y1 - y0) / length * gap_mm / 2, (x1 - x0) / length * gap_mm / 2)
    first = tuple((x - across[0], y - across[1]) for x, y in line)
    second = tuple((x + across[0], y + across[1]) for x, y in line)
    # a torn cover lies to the right of its line: the first zone keeps the left side, the second the right
    start, end = to_local(piece, [first[0], first[1]])
    work = add_cover(work, piece, Cover("torn", line=(_rounded(start), _rounded(end)), ragged_mm=RAGGED_MM, seed=seed))
    start, end = to_local(piece, [second[1], second[0]])
    other = Cover("torn", line=(_rounded(start), _rounded(end)), ragged_mm=RAGGED_MM, seed=seed + 1)
    twin = msgspec.structs.replace(
        piece, id=free_id(work, "wash"), name="", inks=(), colour=ink, covers=(*piece.covers, other)
    )
    if local_area(twin, work.stash).area < LEAST_MM2:
        raise PaperError("The line leaves nothing on one of its sides; draw it across the wash.")
    return add_piece(work, twin)


def keep_off(work: Work, key: str, others: Collection[str], *, room_mm: float = 2.0) -> Work:
    """Tape the boxes round some pieces over, so that a wash or a stencil leaves them room: for a greeting.

    Raises
    ------
    PaperError
        When it is no wash, there are too many, or nothing of it would be inked any more.
    """
    for other in others:
        piece, kept = _wash(work, key), footprint(work.card.find(other), work.stash)
        corners = to_local(piece, shapely.get_coordinates(shapely.envelope(kept)).tolist())
        xs, ys = [x for x, _ in corners], [y for _, y in corners]
        form = Form("rectangle", max(xs) - min(xs) + 2 * room_mm, max(ys) - min(ys) + 2 * room_mm)
        middle = _rounded(((max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2))
        work = add_cover(work, piece, Cover("tape", form, *middle))
    return work


def add_cover(work: Work, piece: AnyWash, cover: Cover) -> Work:
    """Lay one cover more on a wash.

    Raises
    ------
    PaperError
        When it has as many as it can, or nothing of it would be inked any more.
    """
    if len(piece.covers) >= MOST_COVERS:
        raise PaperError(f"A wash has at most {MOST_COVERS} covers; take some away first.")
    after = msgspec.structs.replace(piece, covers=(*piece.covers, cover))
    if local_area(after, work.stash).area < LEAST_MM2:
        raise PaperError(f"Nothing of the {name_pieces(work)[piece.id]} would be inked any more; cover less of it.")
    return _put(work, after)


def _stamped(work: Work, key: str) -> Impression:
    piece = work.card.find(key)
    if not isinstance(piece, Impression):
        raise PaperError(f"The {name_pieces(work)[key]} is not stamped here: there is no stamp to ink.")
    return piece


def _wash(work: Work, key: str) -> AnyWash:
    piece = work.card.find(key)
    if not isinstance(piece, Wash):
        raise PaperError(f"The {name_pieces(work)[key]} is no wash; choose one.")
    return piece


def _put(work: Work, piece: Impression | AnyWash | Strip) -> Work:
    return msgspec.structs.replace(work, card=place_pieces(work.card, (piece,)))
