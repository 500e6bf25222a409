"""What a pen will write over: pale enough for the pen, and still seen."""

from collections.abc import Iterator
from functools import partial

from fair_thicket import edits
from fair_thicket.ink.contrast import channels, contrast, luminance
from fair_thicket.ink.overlay import covers, lay_colour
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import INK, WASH, AnyWash, Colour, Impression, PaperPiece, Piece, Through, Wash
from fair_thicket.scene.judges.facts import Draft, Facts, Offer
from fair_thicket.shape.outline import to_rings

PEN_CONTRAST = 4.5
"""A pen's words over it want as much as any (WCAG 2.1, success criterion 1.4.3)."""
SEEN_CONTRAST = 1.15
"""Paler against its ground than this an image is hardly seen (our own estimate)."""
STEPS = 20


def judge_written(facts: Facts) -> Iterator[Draft]:
    """Tell ink that is too strong to be written over with a dark pen, and ink that is so pale that nothing is seen."""
    for piece in facts.pieces:
        if isinstance(piece, Impression | AnyWash) and piece.written_over:
            yield from _judge(facts, piece)


def _judge(facts: Facts, piece: Impression | AnyWash) -> Iterator[Draft]:
    ground = _ground(facts, piece)
    shown = _shown(_ink_of(piece), ground)
    pen, seen = contrast(INK, shown), contrast(shown, ground)
    if pen >= PEN_CONTRAST and seen >= SEEN_CONTRAST:
        return
    is_strong = pen < PEN_CONTRAST
    ratio = pen if is_strong else seen
    title = "Too strong to be written over" if is_strong else "So pale that it is hardly seen"
    text = (
        f"A dark pen over {facts.the(piece.id)} has a contrast of {pen:.1f} to 1; words want {PEN_CONTRAST:g} to 1."
        if is_strong
        else f"{facts.the(piece.id).capitalize()} has a contrast of {seen:.2f} to 1 against its ground; from "
        f"{SEEN_CONTRAST:g} to 1 on it is seen, and a pen still goes over it."
    )
    weight = Weight.CAUTION
    finding = Finding("written", weight, title, text, ratio, "ratio", (piece.id,), to_rings(facts.area(piece.id)))

    def offers() -> Iterator[Offer]:
        better = _between(_ink_of(piece), ground)
        if better:
            yield "Take a paler ink" if is_strong else "Take a stronger ink", partial(_inked, facts.work, piece, better)

    yield Draft(finding, offers)


def _ink_of(piece: Impression | Wash) -> Colour:
    if isinstance(piece, Wash):  # of several inks a pen is lost on the darkest first
        laid = tuple(lay.ink for lay in piece.lays if lay.ink) if isinstance(piece, Through) else ()
        return min((*piece.inks, *laid) or (piece.colour or WASH,), key=luminance)
    return piece.ink or INK


def _ground(facts: Facts, piece: Piece) -> Colour:
    """Return the paper that it is inked on."""
    surface = next((one for one in facts.card.pieces if one.id == piece.on), None)
    return (surface.colour or WHITE) if isinstance(surface, PaperPiece) else facts.card.paper


def _shown(ink: Colour, ground: Colour) -> Colour:
    return ink if covers(ink) or ground == WHITE else lay_colour(ground, ink)


def _between(ink: Colour, ground: Colour) -> Colour:
    """Return the strongest tint of an ink's hue that a pen still goes over and that is seen; nothing where none is."""
    own = channels(ink)
    for step in range(STEPS + 1):
        share = step / STEPS
        tint = "#" + "".join(f"{round(255 * (level + (1 - level) * share)):02x}" for level in own)
        shown = _shown(tint, ground)
        if contrast(INK, shown) >= PEN_CONTRAST and contrast(shown, ground) >= SEEN_CONTRAST:
            return tint
    return ""


def _inked(work: Work, piece: Impression | AnyWash, colour: Colour) -> Work:
    return edits.set_pieces(work, {piece.id}, **({"colour": colour} if isinstance(piece, Wash) else {"ink": colour}))
