"""Texture in place: dots, waves and tufts stamped late, each only where the ground is still flat and free."""

import msgspec
import numpy as np
import shapely

from fair_thicket.laid.stack import stack
from fair_thicket.model.basics import Point
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.pieces import AnyWash, Texture, Wash
from fair_thicket.shape.outline import only_areas, to_rings, turn_area_back
from fair_thicket.shape.paper import form_area, place
from fair_thicket.shape.prepared import prepared
from fair_thicket.shape.washes import marks_at

MOST_MARKS = 3000
STRAY = 0.22
"""How far a mark strays from its place in the pattern, in pitches: stamped by hand, not by rule."""
COVERED_SHARE = 0.05
"""A mark of which more is under something was stamped for nothing, or over it."""


def free_ground(work: Work, piece: AnyWash) -> shapely.Geometry:
    """Return where a texture may be stamped, mm on the panel: within its form, clear of all that stands there."""
    leaves = stack(work)
    form = place(form_area(piece.form), piece)
    under = max((index for index, leaf in enumerate(leaves) if leaf.key == piece.on), default=-1)
    taken = [
        leaf.area
        for leaf in leaves[under + 1 :]  # what lies behind the ground is not on it
        if not isinstance(leaf.piece, Wash) and leaf.piece.id != piece.on and leaf.area.intersects(form)
    ]
    sheet = next((leaf.sheet for leaf in leaves if leaf.piece.id == piece.on), None)
    ground = form if sheet is None else shapely.intersection(form, sheet)
    width, height = work.card.panel
    ground = shapely.intersection(ground, shapely.box(0, 0, width, height))
    if not taken:
        return ground
    return shapely.difference(ground, shapely.buffer(shapely.union_all(taken), work.card.limits.near_mm))


def lay_texture(work: Work, piece: Texture) -> Texture:
    """Stamp a texture's marks wherever a whole mark finds free ground.

    Raises
    ------
    PaperError
        When none finds any, or there would be too many.

    Notes
    -----
    Rows half a pitch out of step, each mark straying a little by the wash's seed; a mark is stamped when all of it lies
    on free ground.
    """
    form, pitch = piece.form, piece.pitch_mm
    count = int((form.width_mm / pitch + 1) * (form.height_mm / pitch + 1))
    if count > MOST_MARKS:
        raise PaperError(f"That makes some {count} marks; {MOST_MARKS} are the most, set them further apart.")
    ground = free_ground(work, piece)
    local = prepared(turn_area_back(ground, piece.angle_deg, piece.x, piece.y))
    places = _pattern(piece)
    is_free = shapely.contains_properly(local, marks_at(piece.mark, piece.mark_mm, places))
    spots = tuple(spot for spot, free in zip(places, is_free.tolist(), strict=True) if free)
    if not spots:
        raise PaperError("No mark finds free ground there; make marks smaller, or move what stands on it.")
    return msgspec.structs.replace(piece, spots=spots)


def _pattern(piece: Texture) -> list[Point]:
    dice = np.random.default_rng(piece.seed)
    pitch, half_x, half_y = piece.pitch_mm, piece.form.width_mm / 2, piece.form.height_mm / 2
    spots: list[Point] = []
    for row, y in enumerate(np.arange(-half_y + pitch / 2, half_y, pitch)):
        shift = pitch / 2 if row % 2 else 0.0
        for x in np.arange(-half_x + pitch / 2 - shift, half_x, pitch):
            stray = dice.uniform(-STRAY, STRAY, 2) * pitch
            spots.append((round(float(x + stray[0]), 3), round(float(y + stray[1]), 3)))
    return spots


def judge_textures(work: Work) -> list[Finding]:
    """Find marks of textures that lie under or beside what stands on the ground by now."""
    findings = []
    names = name_pieces(work)
    for piece in work.card.pieces:
        if not isinstance(piece, Texture) or not piece.spots:
            continue
        covered = _covered_marks(work, piece)
        if not covered:
            continue
        try:
            anew = lay_texture(work, piece)
        except PaperError:
            anew = None
        which = "A mark" if len(covered) == 1 else f"{len(covered)} marks"
        verb = "does" if len(covered) == 1 else "do"
        findings.append(
            Finding(
                code="texture-covered",
                weight=Weight.NOTE,
                title=f"{which} of the {names[piece.id]} {verb} not find free ground",
                text="Texture is stamped late, and only where nothing stands: what is stamped there lands on other "
                "images or is covered.",
                measure=len(covered) / len(piece.spots),
                unit="share",
                pieces=(piece.id,),
                places=to_rings(only_areas(shapely.union_all(covered))),
                remedy=Remedy("Stamp it where the ground is free", pieces=(anew,)) if anew is not None else None,
            )
        )
    return findings


def _covered_marks(work: Work, piece: Texture) -> list[shapely.Geometry]:
    ground = prepared(turn_area_back(free_ground(work, piece), piece.angle_deg, piece.x, piece.y))
    marks = marks_at(piece.mark, piece.mark_mm, piece.spots)
    doubtful = marks[~shapely.covers(ground, marks)]
    least = shapely.area(doubtful) * (1 - COVERED_SHARE)
    return [place(mark, piece) for mark in doubtful[shapely.area(shapely.intersection(doubtful, ground)) < least]]
