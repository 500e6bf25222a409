"""New pieces: what a maker asks for in a few words becomes a piece of the right size in the right place."""

import random

import msgspec
import shapely
import shapely.affinity

from fair_thicket.edits.pieces import add_piece, clamp, free_id, set_pieces, surface_at
from fair_thicket.ink.lettering import words_height, words_width
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.formats import all_round
from fair_thicket.model.pieces import (
    WASH,
    AnyWash,
    Blend,
    Border,
    Colour,
    Cutout,
    Embellishment,
    End,
    Form,
    Impression,
    Lay,
    Panel,
    PaperPiece,
    Piece,
    Stencilled,
    Strip,
    Window,
)
from fair_thicket.model.stash import Kind, Stamp
from fair_thicket.model.tolerance import OVERLAP_MM2
from fair_thicket.shape.paper import footprint, form_area, local_area

STRIP_ROOM_MM = 5.0
"""Left and right of the words on a strip, so that a fishtail does not reach them (common practice)."""
STRIP_HIGH = 2.2
"""Height of a strip in heights of its letters."""
EDGE_REACH_MM = 19.05
"""How far above a stencil's edge ink reaches at first: 3/4 in (our own guess)."""
LEAST_BAR_MM = 1.0
"""Narrower bars of paper tear (common practice)."""
OPEN_KINDS = frozenset({Kind.DIE, Kind.BACKDROP})

Added = tuple[Work, str]


def add_from_stash(
    work: Work, stamp: str, at: tuple[float, float], *, cut: bool = False, on: str | None = None
) -> Added:
    """Put a thing of the stash on the card: an image is stamped, or cut out; a die is cut; a border die spans.

    A stencil is inked through where it is laid; one without openings above its edge, fading out.

    Where something is glued over the place, stamping would be hidden at once: the image is cut out instead.

    Parameters
    ----------
    at : (x, y), mm
        Its middle.
    cut : bool
        Stamp an image on other paper and cut it out.
    on : str or None
        Surface; None takes the topmost panel there.

    Raises
    ------
    PaperError
        For patterned paper, which is no piece by itself.
    """
    thing = work.stash.find(stamp)
    surface = surface_at(work, at) if on is None else on
    key = free_id(work, stamp)
    x, y = clamp(at[0]), clamp(at[1])
    piece: Piece
    if thing.kind is Kind.PAPER:
        raise PaperError(f"“{thing.name}” is patterned paper and no piece by itself; cut a panel from it.")
    if thing.kind is Kind.STENCIL:
        wash = _inked_through(thing, free_id(work, "wash"), (x, y), surface)
        return add_piece(work, wash), wash.id
    if thing.kind is Kind.BORDER:
        width = work.card.panel[0]
        piece = Border(key, stamp, clamp(width), clamp(width / 2), y, on=surface)
    elif cut or thing.kind in OPEN_KINDS or _is_glued_over(work, Impression(key, stamp, x, y, on=surface)):
        piece = Cutout(key, stamp, x, y, on=surface)
    else:
        piece = Impression(key, stamp, x, y, on=surface)
    return add_piece(work, piece), key


def _inked_through(stencil: Stamp, key: str, at: tuple[float, float], surface: str) -> AnyWash:
    """Return a wash of a stencil's own size, inked through its openings, or above its edge."""
    name = f"{stencil.name} wash"
    if stencil.pockets:
        form = Form("rectangle", stencil.width_mm, stencil.height_mm)
        return Stencilled(key, form, *at, on=surface, name=name, colour=WASH, stencil=stencil.id)
    form = Form("rectangle", stencil.width_mm, stencil.height_mm + 2 * EDGE_REACH_MM)
    return Stencilled(
        key, form, *at, on=surface, name=name, colour=WASH, stencil=stencil.id, lays=(Lay(0.0, 0.0),),
        reach_mm=EDGE_REACH_MM,
    )  # fmt: skip


def _is_glued_over(work: Work, wanted: Impression) -> bool:
    """Whether something lies glued over what is to be stamped, on its surface or on what that lies on."""
    area = footprint(wanted, work.stash)
    leaves = stack(work)
    order = [leaf.key for leaf in leaves]
    first = order.index(wanted.on) + 1 if wanted.on in order else 0
    return any(
        isinstance(leaf.piece, PaperPiece) and leaf.area.intersection(area).area > OVERLAP_MM2
        for leaf in leaves[first:]
    )


def add_panel(
    work: Work, form: Form, *, at: tuple[float, float] | None = None, on: str = "", **fields: object
) -> Added:
    """Put plain paper on the card, in its middle unless said otherwise."""
    x, y = at or (work.card.panel[0] / 2, work.card.panel[1] / 2)
    key = free_id(work, "ring" if fields.get("windows") and form.kind == "ellipse" else "panel")
    piece = Panel(key, form, clamp(x), clamp(y), on=on)
    return add_piece(work, msgspec.structs.replace(piece, **fields)), key


def add_layer(work: Work, border_mm: float, *, colour: Colour | None = None) -> Added:
    """Put a layer on the card that leaves a border all round: of the topmost layer, or of the card itself.

    Raises
    ------
    PaperError
        When nothing would be left.
    """
    under = top_layer(work)
    outer = (under.form.width_mm, under.form.height_mm) if under else work.card.panel
    width, height = all_round(outer, border_mm)
    at = (under.x, under.y) if under else None
    return add_panel(work, Form("rectangle", width, height), at=at, on=under.id if under else "", colour=colour)


INSERT_MM = 6.35
"""An insert leaves 1/4 in all round (common practice)."""


def add_insert(work: Work, *, border_mm: float = INSERT_MM, colour: Colour | None = None) -> Added:
    """Put an insert panel on the page that is looked at: for words and a pen where the base is dark.

    Parameters
    ----------
    border_mm : float
        What of the base shows all round; images that are trimmed to the insert may bleed off it.

    Raises
    ------
    PaperError
        When nothing would be left.
    """
    width, height = all_round(work.card.panel, border_mm)
    return add_panel(work, Form("rectangle", width, height), colour=colour, name="insert")


def top_layer(work: Work) -> Panel | None:
    """Find the last of the panels that lie on one another from the card upward."""
    top: Panel | None = None
    while True:
        key = top.id if top else ""
        layers = [
            piece
            for piece in work.card.pieces
            if isinstance(piece, Panel) and piece.on == key and not piece.windows and piece.form.kind == "rectangle"
        ]
        if not layers:
            return top
        top = max(layers, key=lambda piece: piece.form.width_mm * piece.form.height_mm)


def frame_of(form: Form, bar_mm: float) -> tuple[Window, ...]:
    """Window that leaves bars of one width in a panel.

    Raises
    ------
    PaperError
        When the bars would meet.
    """
    width, height = all_round((form.width_mm, form.height_mm), bar_mm)
    return (Window(Form(form.kind, width, height, max(0.0, form.corner_mm - bar_mm))),)


def cut_window(work: Work, key: str, window: Window) -> Work:
    """Cut a window into a panel beside those that it has.

    Raises
    ------
    PaperError
        When it is no panel, the window reaches the panel's edge, or meets another window.
    """
    piece = work.card.find(key)
    if not isinstance(piece, Panel):
        raise PaperError("Only a panel can have windows; choose one.")
    cut = place_window(window)
    if not shapely.buffer(form_area(piece.form), -LEAST_BAR_MM).covers(cut):
        raise PaperError(f"That window would leave under {LEAST_BAR_MM:g} mm of paper at the panel's edge; move it.")
    if any(place_window(other).distance(cut) < LEAST_BAR_MM for other in piece.windows):
        raise PaperError(f"That window would leave less than {LEAST_BAR_MM:g} mm of paper beside another; move it.")
    return set_pieces(work, {key}, windows=(*piece.windows, window))


def place_window(window: Window) -> shapely.Polygon:
    """Area of a window about its panel's middle, mm."""
    return shapely.affinity.translate(form_area(window.form), window.x, window.y)


def break_lines(typed: str) -> str:
    """Return words as typed, with a new line for every “ / ”."""
    return "\n".join(part.strip() for part in typed.split(" / "))


def strip_for(words: str, words_mm: float, ends: tuple[str, str] = ("straight", "straight")) -> tuple[float, float]:
    """Width and height, mm, of a strip that takes words: their length with room on both sides."""
    height = words_height(words, words_mm) + words_mm * (STRIP_HIGH - 1)
    notches = sum(height / 2 for end in ends if end == "fishtail")
    return round(words_width(words, words_mm) + 2 * STRIP_ROOM_MM + notches, 1), round(height, 1)


def add_strip(
    work: Work, words: str, *, at: tuple[float, float], words_mm: float = 4.0, on: str = "", **fields: object
) -> Added:
    """Put a strip on the card, cut to the length of its words."""
    ends = (str(fields.get("left", "straight")), str(fields.get("right", "straight")))
    width, height = strip_for(words or "greeting", words_mm, ends)
    key = free_id(work, "strip")
    piece = Strip(key, width, height, clamp(at[0]), clamp(at[1]), words=words, words_mm=words_mm, on=on)
    return add_piece(work, msgspec.structs.replace(piece, **fields)), key


def add_strip_under(work: Work, greeting: str, *, ends: End = "straight") -> Added:
    """Put a strip beneath a stamped greeting, cut to its length; the greeting is then stamped on the strip.

    Raises
    ------
    PaperError
        When the piece is no stamped image.
    """
    piece = work.card.find(greeting)
    if not isinstance(piece, Impression):
        raise PaperError("Only a stamped greeting can be put on a strip; choose one.")
    stamp = work.stash.find(piece.stamp)
    height = stamp.height_mm + 2 * 2.5
    notch = height / 2 if ends == "fishtail" else 0.0
    width = stamp.width_mm + 2 * STRIP_ROOM_MM + 2 * notch
    key = free_id(work, "strip")
    strip = Strip(
        key,
        round(width, 1),
        round(height, 1),
        piece.x,
        piece.y,
        piece.angle_deg,
        on=piece.on,
        left=ends,
        right=ends,
    )
    work = add_piece(work, strip)
    moved = msgspec.structs.replace(piece, on=key, trim_to="")
    pieces = tuple(moved if one.id == piece.id else one for one in work.card.pieces)
    return add_piece(_without(work, pieces, greeting), moved), key


def _without(work: Work, pieces: tuple[Piece, ...], key: str) -> Work:
    kept = tuple(one for one in pieces if one.id != key)
    return msgspec.structs.replace(work, card=msgspec.structs.replace(work.card, pieces=kept))


def add_wash(work: Work, colour: Colour, *, on: str = "") -> Added:
    """Ink all of a surface in one colour."""
    width, height = work.card.panel
    middle = (width / 2, height / 2)
    if on:
        piece = work.card.find(on)
        left, top, right, bottom = local_area(piece, work.stash).bounds
        width, height, middle = right - left, bottom - top, (piece.x, piece.y)
    key = free_id(work, "wash")
    wash = Blend(key, Form("rectangle", width, height), clamp(middle[0]), clamp(middle[1]), on=on, colour=colour)
    return add_piece(work, wash), key


def add_embellishment(
    work: Work,
    pattern: str,
    *,
    at: tuple[float, float],
    size_mm: float = 4.0,
    count: int = 5,
    reach_mm: float = 30.0,
    seed: int = 1,
    on: str = "",
    **fields: object,
) -> Added:
    """Put sequins on the card: ``one``, a ``line`` of equal steps, or a ``scatter`` that keeps them apart.

    Raises
    ------
    PaperError
        When so many do not fit into the reach.
    """
    spots = {"one": [(0.0, 0.0)], "line": _line(count, reach_mm), "scatter": []}[pattern]
    if pattern == "scatter":
        spots = _scatter(count, size_mm, reach_mm, seed)
    key = free_id(work, "sequin")
    piece = Embellishment(key, size_mm, clamp(at[0]), clamp(at[1]), spots=tuple(spots), on=on)
    return add_piece(work, msgspec.structs.replace(piece, **fields)), key


def _line(count: int, reach_mm: float) -> list[tuple[float, float]]:
    step = reach_mm / max(1, count - 1)
    return [(round(-reach_mm / 2 + step * number, 4), 0.0) for number in range(max(1, count))]


def _scatter(count: int, size_mm: float, reach_mm: float, seed: int) -> list[tuple[float, float]]:
    """Scatter spots in a disc, each at least a spot and a half from the next; the same seed scatters alike."""
    dice = random.Random(seed)  # noqa: S311 - a pattern, not a secret
    spots: list[tuple[float, float]] = []
    for _ in range(4000):
        if len(spots) == count:
            return spots
        x, y = (dice.uniform(-reach_mm / 2, reach_mm / 2) for _ in range(2))
        if x * x + y * y <= reach_mm * reach_mm / 4 and all(
            (x - a) ** 2 + (y - b) ** 2 >= (1.5 * size_mm) ** 2 for a, b in spots
        ):
            spots.append((round(x, 4), round(y, 4)))
    raise PaperError(f"{count} sequins of {size_mm:g} mm do not fit into {reach_mm:g} mm; take fewer or more room.")
