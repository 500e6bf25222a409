"""How a stamp is inked and what keeps a wash off, as edits: in part, in zones, as a resist; covers and torn paper."""

import msgspec

from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Colour, Cover, Impression, InkZone, Wash
from fair_thicket.model.stash import Point as Spot
from fair_thicket.scene.edits import place_pieces
from fair_thicket.scene.flaps import side_of_line, to_local
from fair_thicket.shape.gradients import wash_colour
from fair_thicket.shape.paper import local_area

MOST_ZONES, MOST_COVERS = 12, 30


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


def cover_wash(work: Work, key: str, cover: Cover, at: Spot) -> Work:
    """Keep a wash off a shape, or within it; the shape's middle lies at a place of the panel, mm.

    Raises
    ------
    PaperError
        When it is no wash, or nothing of it would be inked any more.
    """
    piece = _wash(work, key)
    ((x, y),) = to_local(piece, [at])
    return _add_cover(work, piece, msgspec.structs.replace(cover, x=round(x, 3), y=round(y, 3)))


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
    return _add_cover(work, piece, Cover("torn", line=told, ragged_mm=ragged_mm, seed=seed))


def _rounded(spot: Spot) -> Spot:
    return round(spot[0], 3), round(spot[1], 3)


def uncover_wash(work: Work, key: str) -> Work:
    """Take all covers of a wash away."""
    return _put(work, msgspec.structs.replace(_wash(work, key), covers=()))


def set_wash(work: Work, key: str, **fields: object) -> Work:
    """Change how a wash is inked: ``how``, ``stencil``, ``drops``, ``seed``."""
    return _put(work, msgspec.structs.replace(_wash(work, key), **fields))


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


def _add_cover(work: Work, piece: Wash, cover: Cover) -> Work:
    if len(piece.covers) >= MOST_COVERS:
        raise PaperError(f"A wash has at most {MOST_COVERS} covers; take some away first.")
    after = msgspec.structs.replace(piece, covers=(*piece.covers, cover))
    if local_area(after, work.stash).area < 1.0:
        raise PaperError(f"Nothing of the {name_pieces(work)[piece.id]} would be inked any more; cover less of it.")
    return _put(work, after)


def _stamped(work: Work, key: str) -> Impression:
    piece = work.card.find(key)
    if not isinstance(piece, Impression):
        raise PaperError(f"The {name_pieces(work)[key]} is not stamped here: there is no stamp to ink.")
    return piece


def _wash(work: Work, key: str) -> Wash:
    piece = work.card.find(key)
    if not isinstance(piece, Wash):
        raise PaperError(f"The {name_pieces(work)[key]} is no wash; choose one.")
    return piece


def _put(work: Work, piece: Impression | Wash) -> Work:
    return msgspec.structs.replace(work, card=place_pieces(work.card, (piece,)))
