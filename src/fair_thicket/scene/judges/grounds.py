"""What lies right behind words: papers and washes, each in the colour that every picture gives it there."""

import math
from collections.abc import Iterator

import numpy as np
import shapely

from fair_thicket.ink.contrast import channels, luminance, to_colour, veil
from fair_thicket.ink.ground import VEIL, inked, lay_wash
from fair_thicket.laid.stack import Leaf
from fair_thicket.model.card import WHITE
from fair_thicket.model.pieces import AnyWash, Colour, Impression, PaperPiece, Piece
from fair_thicket.scene.judges.facts import Facts
from fair_thicket.shape.outline import Area, only_areas
from fair_thicket.shape.raster import fill

GROUND_SHARE = 0.05
"""A ground that takes less of the words' box is not looked at."""
PX_PER_MM = 3.0
SHADES = 9
"""Of a ground that goes from one colour to another so many are told, a share of it between each and the next."""


def ground_colours(facts: Facts, piece: Piece, words: Area) -> list[Colour]:
    """Colours that lie right behind words, each where it takes a twentieth of their box or more."""
    if isinstance(piece, PaperPiece) and not piece.translucent:
        return [piece.colour or WHITE]
    colours: list[Colour] = []
    left = words
    if isinstance(piece, Impression):  # ink that falls beside its paper is no ink
        surface = facts.leaves(piece.on)[0].area if piece.on in facts.leaves_of else facts.paper
        left = only_areas(shapely.intersection(words, surface))
    for leaf in _hiding_behind(facts, piece):
        part = only_areas(shapely.intersection(left, leaf.area))
        if part.area > GROUND_SHARE * words.area:
            colours += _washed(facts, leaf.piece.id, leaf.piece.colour or WHITE, part)
        left = only_areas(shapely.difference(left, leaf.area))
    if left.area > GROUND_SHARE * words.area:
        colours += _washed(facts, "", facts.card.paper, left)
    if isinstance(piece, PaperPiece):
        colours = [veil(colour, piece.colour or WHITE, VEIL) for colour in colours]
    return colours


def _hiding_behind(facts: Facts, piece: Piece) -> Iterator[Leaf]:
    """Yield what lies behind a piece and hides what is behind it, the front one first; not ink of its own surface."""
    for leaf in reversed(facts.view.leaves[: facts.leaves_of[piece.id][0]]):
        if leaf.hides and not (isinstance(leaf.piece, Impression) and leaf.piece.on == piece.on):
            yield leaf


def _washed(facts: Facts, surface: str, paper: Colour, part: Area) -> list[Colour]:
    """Return the colours of a surface under its washes within a part of it, but for its darkest and palest twentieth.

    They are laid on dots as they are for every picture: an ink that runs from one colour to another, a stepped stencil
    and drops are each other colours at another place.
    """
    leaves = facts.view.leaves
    washes = [(leaf, leaf.piece) for leaf in leaves if isinstance(leaf.piece, AnyWash) and leaf.piece.on == surface]
    washes = [(leaf, wash) for leaf, wash in washes if leaf.area.intersects(part)]
    if not washes:
        return [paper]
    left, top, right, bottom = part.bounds
    size = (math.ceil((bottom - top) * PX_PER_MM) + 1, math.ceil((right - left) * PX_PER_MM) + 1)
    sheet = np.full((*size, 3), channels(paper), np.float32)
    for leaf, wash in washes:
        laid = inked(leaf, wash, facts.work, leaves)
        lay_wash([sheet], laid, fill(leaf.area, size, PX_PER_MM, left=left, top=top), (left, top), PX_PER_MM)
    here = fill(part, size, PX_PER_MM, left=left, top=top)
    dots = sheet[here] if here.any() else sheet.reshape(-1, 3)
    tones = [to_colour((red, green, blue)) for red, green, blue in dots.tolist()]
    tones.sort(key=luminance)
    at = np.linspace(GROUND_SHARE, 1 - GROUND_SHARE, SHADES) * (len(tones) - 1)
    return list(dict.fromkeys(tones[index] for index in np.rint(at).astype(int).tolist()))
