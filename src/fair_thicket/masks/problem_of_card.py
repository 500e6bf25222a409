"""From a card, or from bare outlines, to the stamping problem of each surface.

Glossary
--------
sheet
    The paper on which images are stamped that are to be cut out; they lie apart there, so nothing masks anything.
"""

from collections.abc import Mapping, Sequence

import numpy as np

from fair_thicket.ink.overlay import covers
from fair_thicket.laid.by_hand import stamped_by_hand
from fair_thicket.laid.cutting import shares_print
from fair_thicket.laid.hidden import covers_of
from fair_thicket.laid.pinned import cut_by_pins
from fair_thicket.laid.stack import stack
from fair_thicket.masks.problem import Pins, Problem, Stamping
from fair_thicket.model.basics import Ring
from fair_thicket.model.card import Work, name_pieces, stamping_keys
from fair_thicket.model.errors import SceneError
from fair_thicket.model.keys import part_key
from fair_thicket.model.masking import Pin
from fair_thicket.model.pieces import INK, Cutout, Impression, Piece, Wash
from fair_thicket.model.plan import SHEET
from fair_thicket.model.speech import join_words
from fair_thicket.model.stash import Stash
from fair_thicket.shape.outline import Area, FloatArray, image_area, placed_outline, to_area, turn_area, turn_points

APART_MM = 5000.0
"""Pieces on the sheet to cut from lie farther apart than anything reaches."""


def surfaces_of(work: Work) -> tuple[str, ...]:
    """Keys of the surfaces that are stamped on: the card itself (an empty key), other pieces, the sheet to cut from."""
    cut = cut_by_pins(work)
    found = dict.fromkeys(
        piece.on for piece in work.card.pieces if isinstance(piece, Impression | Wash) and piece.id not in cut
    )
    stamped = sorted(found, key=lambda key: key != "")
    sheet = [SHEET] if cut or any(_is_cut_image(piece, work.stash) for piece in work.card.pieces) else []
    return (*stamped, *sheet)


def _is_cut_image(piece: Piece, stash: Stash) -> bool:
    return isinstance(piece, Cutout) and piece.opening is None and not stash.find(piece.stamp).kind.is_plain


def pose(work: Work, surface: str | None = None) -> Problem:
    """Pose the problem of a card: its impressions front first, with their footprints, then its washes.

    Parameters
    ----------
    work : Work
    surface : str or None
        Only what is stamped on this piece (empty: on the card itself; `SHEET`: on the sheet to cut from); None for
        the first that is stamped on.
    """
    known = surfaces_of(work)
    if surface is None:
        surface = known[0] if known else ""
    stampings, copies = _on_sheet(work) if surface == SHEET else _on_surface(work, surface)
    pins = _pins(work, stampings)
    hidden = None if surface == SHEET else covers_of(work, stack(work)).get(surface)
    return Problem(tuple(stampings), copies, pins, _middle_of(work, surface), hidden)


def _on_surface(work: Work, surface: str) -> tuple[list[Stamping], dict[str, int]]:
    stampings: list[Stamping] = []
    copies: dict[str, int] = {}
    areas = {leaf.piece.id: leaf.whole for leaf in stack(work)}
    elsewhere = cut_by_pins(work) | stamped_by_hand(work)
    for piece in reversed(work.card.pieces):
        if not isinstance(piece, Impression) or piece.on != surface or piece.id in elsewhere:
            continue
        stamp = work.stash.find(piece.stamp)
        ring, area = placed_outline(piece, stamp), areas[piece.id]
        waits = _waits(piece)
        for key in stamping_keys(piece, stamp):
            rubber = stamp.id + key.removeprefix(piece.id)
            stampings.append(
                Stamping(
                    key,
                    rubber,
                    ring,
                    area,
                    piece.id,
                    stamp.id,
                    shuns_wash=piece.shuns_washes,
                    waits=waits,
                    resists=piece.keeps_washes_off,
                )
            )
            copies[rubber] = stamp.copies
    for piece in work.card.pieces:
        if isinstance(piece, Wash) and piece.on == surface and not areas[piece.id].is_empty:
            nothing = np.empty((0, 2))
            stampings.append(Stamping(piece.id, piece.id, nothing, areas[piece.id], piece.id, "", is_wash=True))
    return stampings, copies


def _waits(piece: Impression) -> bool:
    """Whether an image is stamped once the washes under it are dry."""
    inks = (piece.ink or INK, *(zone.ink for zone in piece.zones))
    pale = not piece.resists and any(map(covers, inks))
    return pale or piece.powder or piece.stamped == "over dry inks"


def _on_sheet(work: Work) -> tuple[list[Stamping], dict[str, int]]:
    """Lay all images to be cut out apart; those of a joint cutout keep their places to each other."""
    stampings: list[Stamping] = []
    copies: dict[str, int] = {}
    cut = cut_by_pins(work)
    number = 0
    for piece in reversed(work.card.pieces):
        if isinstance(piece, Impression) and piece.id in cut:
            images = [(piece.id, piece.stamp, (0.0, 0.0, piece.angle_deg))]
        elif shares_print(piece, work.card.pieces):
            continue
        elif isinstance(piece, Cutout) and _is_cut_image(piece, work.stash):
            images = [
                (part_key(piece.id, index), part.stamp, (part.x, part.y, part.angle_deg))
                for index, part in reversed(list(enumerate(piece.joined)))
            ]
            images.append((piece.id, piece.stamp, (0.0, 0.0, 0.0)))
        else:
            continue
        number += 1
        for key, name, (x, y, angle) in images:
            stamp = work.stash.find(name)
            ring = turn_points(stamp.outline, angle, x + number * APART_MM, y)
            area = turn_area(image_area(stamp), angle, x + number * APART_MM, y)
            layers = [key + layer.removeprefix(piece.id) for layer in stamping_keys(piece, stamp)]
            for layer in layers:
                rubber = stamp.id + layer.removeprefix(key)
                stampings.append(Stamping(layer, rubber, ring, area, key, stamp.id))
                copies[rubber] = stamp.copies
    return stampings, copies


def _middle_of(work: Work, surface: str) -> tuple[float, float] | None:
    if surface == SHEET:
        return None
    if not surface:
        width, height = work.card.panel
        return width / 2, height / 2
    piece = work.card.find(surface)
    return piece.x, piece.y


def _pins(work: Work, stampings: Sequence[Stamping]) -> Pins:
    first: dict[str, int] = {}
    last: dict[str, int] = {}
    for index, one in enumerate(stampings):
        if one.is_wash:  # a wash has a column of its own: no pin binds it
            continue
        first.setdefault(one.piece, index)
        last[one.piece] = index
    at: dict[int, int] = {}
    together: list[tuple[int, ...]] = []
    unmasked: set[int] = set()
    for pin in work.card.masking.pins:
        here = [key for key in pin.pieces if key in last]
        if pin.kind == "first":
            at |= {first[key]: 0 for key in here}
        elif pin.kind == "press":
            at |= {last[key]: min(pin.press, len(stampings) - 1) for key in here}  # no plan has more presses
        elif pin.kind == "unmasked":
            unmasked |= {last[key] for key in here}
        elif pin.kind == "together" and len(here) > 1:
            together.append(tuple(last[key] for key in here))
    return Pins(at, tuple(together), frozenset(unmasked))


def say_pin(work: Work, pin: Pin) -> str:
    """Say a pin in words."""
    names = name_pieces(work)
    which = [names.get(key, key) for key in pin.pieces]
    told = join_words(which)
    return {
        "first": f"{told} in the first press",
        "unmasked": f"{told}: never masked",
        "together": f"{told} in one press",
        "press": f"{told} in press {pin.press + 1}",
        "cut": f"{told} cut out instead",
    }[pin.kind]


def pose_bare(impressions: Sequence[tuple[str, str, Ring, Sequence[Ring]]], copies: Mapping[str, int]) -> Problem:
    """Pose the problem of bare outlines.

    Parameters
    ----------
    impressions : sequence of (id, stamp, outline, holes)
        Front first, outlines in place, mm.
    copies : mapping of stamp to number owned

    Raises
    ------
    SceneError
        When impressions of one stamp have different numbers of vertices: no stretch of one could be found on another.
    """
    stampings: list[Stamping] = []
    first_of: dict[str, Stamping] = {}
    for key, stamp, ring, holes in impressions:
        area: Area = to_area(ring, holes)
        points = placed_ring(ring)
        one = Stamping(key, stamp, points, area)
        twin = first_of.setdefault(stamp, one)
        if len(twin.ring) != len(points):
            raise SceneError(
                f"Impressions “{twin.id}” and “{key}” are of the stamp “{stamp}”, but their outlines have "
                f"{len(twin.ring)} and {len(points)} vertices; give both the same vertices in the same order."
            )
        stampings.append(one)
    return Problem(tuple(stampings), dict(copies))


def placed_ring(ring: Ring) -> FloatArray:
    """Turn a ring that is already in place into an array, without the closing point."""
    points = np.asarray(ring, dtype=np.float64)
    return points[:-1] if len(points) > 3 and (points[0] == points[-1]).all() else points
