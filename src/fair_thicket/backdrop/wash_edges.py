"""Where washes end: an edge in plain sight, and a dark rim that a frame hides."""

import itertools

import msgspec
import numpy as np
import shapely

from fair_thicket.ink.contrast import luminance
from fair_thicket.ink.gradients import is_blended, tones_at, wash_shares
from fair_thicket.laid.stack import Leaf, paper_of, stack
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.finding import Finding, Remedy, Weight
from fair_thicket.model.palette import name_of
from fair_thicket.model.pieces import AnyWash, Blend, Form, Wash
from fair_thicket.model.units import say_area, say_length
from fair_thicket.shape.outline import Area, only_areas, to_rings, turn_points
from fair_thicket.shape.paper import form_area, place
from fair_thicket.shape.raster import fill

EDGE_MM, SEEN_MM = 0.6, 5.0
"""Within this of the sheet's edge a wash ends there; a shorter stretch in sight is not told."""
PALE = 0.06
"""An edge that differs from bare paper by less, sRGB, fades out unseen."""
RIM_SHARE, LOST_SHARE = 0.12, 0.25
"""An ink that has this much of a wash is meant to be seen; less of it left than that is lost."""
LEAST_SIDE_MM = 20.0
PX_PER_MM = 2.0
BIT_MM = 1.0


def judge_edges(work: Work) -> list[Finding]:
    """Judge where every blended or even wash ends."""
    leaves = stack(work)
    findings = []
    for index, leaf in enumerate(leaves):
        piece = leaf.piece
        if not isinstance(piece, Blend) or leaf.area.is_empty:
            continue
        fronts = only_areas(shapely.union_all([one.area for one in leaves[index + 1 :] if one.hides]))
        findings += _ends_in_sight(work, piece, leaf, leaves, fronts) + _hidden_rim(work, piece, leaf, fronts)
    return findings


def _sheet(work: Work, piece: AnyWash, leaves: tuple[Leaf, ...]) -> Area:
    if not piece.on:
        return paper_of(work.card)
    return next(leaf.sheet for leaf in leaves if leaf.piece.id == piece.on)


def _ends_in_sight(work: Work, piece: AnyWash, leaf: Leaf, leaves: tuple[Leaf, ...], fronts: Area) -> list[Finding]:
    """Tell of stretches of a wash's own edge that run over bare paper in plain sight; covers are meant."""
    sheet = _sheet(work, piece, leaves)
    form = place(form_area(piece.form), piece)
    others = [one.area for one in leaves if isinstance(one.piece, Wash) and one.piece is not piece]
    edge = shapely.intersection(shapely.boundary(form), shapely.buffer(leaf.area, 0.05))
    edge = shapely.intersection(edge, shapely.buffer(sheet, -EDGE_MM))
    edge = shapely.difference(edge, shapely.union_all([fronts, *others]))
    shown = _dark_bits(piece, edge)
    length = sum(line.length for line in shown)
    if length < SEEN_MM:
        return []
    name, unit = name_pieces(work)[piece.id], work.card.unit
    left, top, right, bottom = sheet.bounds
    whole = msgspec.structs.replace(
        piece, form=Form("rectangle", right - left, bottom - top), x=(left + right) / 2, y=(top + bottom) / 2,
        angle_deg=0.0,
    )  # fmt: skip
    is_simple = piece.form.kind == "rectangle" and not piece.covers and not piece.angle_deg
    return [
        Finding(
            code="wash-ends",
            weight=Weight.NOTE,
            title=f"The {name} ends in sight",
            text=f"Over {say_length(length, unit)} its edge runs across bare paper; fade it out, let it reach the "
            "edge, or tear paper along it so that it looks meant.",
            measure=round(float(length), 1),
            unit="mm",
            pieces=(piece.id,),
            places=to_rings(only_areas(shapely.union_all([line.buffer(0.8) for line in shown]))),
            remedy=Remedy("Let it reach all edges", pieces=(whole,)) if is_simple else None,
        )
    ]


def _dark_bits(piece: AnyWash, edge: shapely.Geometry) -> list[shapely.LineString]:
    """Return the short bits of a wash's edge at which its ink differs from bare paper."""
    bits = [
        shapely.LineString(pair)
        for line in shapely.get_parts(edge)
        if isinstance(line, shapely.LineString) and line.length > 0
        for pair in itertools.pairwise(shapely.segmentize(line, BIT_MM).coords)
    ]
    if not bits:
        return []
    middles = np.array([line.interpolate(0.5, normalized=True).coords[0] for line in bits])
    dark = 1.0 - tones_at(piece, middles).min(axis=1) > PALE
    return [line for line, is_dark in zip(bits, dark.tolist(), strict=True) if is_dark]


def _hidden_rim(work: Work, piece: AnyWash, leaf: Leaf, fronts: Area) -> list[Finding]:
    """Tell of the darkest ink of a blend that was meant for the rim and is hidden by what lies over the rim."""
    if not is_blended(piece) or fronts.is_empty:
        return []
    dark = min(range(len(piece.inks)), key=lambda number: luminance(piece.inks[number]))
    if dark != len(piece.inks) - 1:
        return []
    seen = only_areas(shapely.difference(leaf.area, fronts))
    all_of_it, left_over = (_share_area(piece, area, dark) for area in (leaf.area, seen))
    if all_of_it < RIM_SHARE * leaf.area.area or left_over >= LOST_SHARE * all_of_it or seen.is_empty:
        return []
    pull = _pull_in(piece, seen)
    name, unit, ink = name_pieces(work)[piece.id], work.card.unit, name_of(piece.inks[dark])
    form = piece.form
    smaller = msgspec.structs.replace(form, width_mm=form.width_mm - 2 * pull, height_mm=form.height_mm - 2 * pull)
    remedy = None
    if pull > 0.5 and min(smaller.width_mm, smaller.height_mm) > LEAST_SIDE_MM:
        remedy = Remedy(
            f"Pull it in by {say_length(pull, unit)}", pieces=(msgspec.structs.replace(piece, form=smaller),)
        )
    return [
        Finding(
            code="hidden-rim",
            weight=Weight.NOTE,
            title=f"The dark rim of the {name} is hidden",
            text=f"Only {say_area(left_over)} of {say_area(all_of_it)} of its {ink} stay in sight; the rest is "
            f"under what lies over its rim.{f' Pulled in by {say_length(pull, unit)}, it shows.' if remedy else ''}",
            measure=round(pull, 2),
            unit="mm",
            pieces=(piece.id,),
            places=to_rings(only_areas(shapely.intersection(leaf.area, fronts))),
            remedy=remedy,
        )
    ]


def _share_area(piece: AnyWash, area: Area, number: int) -> float:
    """Area of an ink of a blend within an area, mm2: every place counts by the ink's share there."""
    if area.is_empty:
        return 0.0
    left, top, right, bottom = area.bounds
    size = (int(np.ceil((bottom - top) * PX_PER_MM)), int(np.ceil((right - left) * PX_PER_MM)))
    if 0 in size:
        return 0.0
    inside = fill(area, size, PX_PER_MM, left=left, top=top)
    return float(wash_shares(piece, (left, top), size, PX_PER_MM)[inside][:, number].sum()) / PX_PER_MM**2


def _pull_in(piece: AnyWash, seen: Area) -> float:
    """How far a wash's edges lie beyond what is seen of it, on the mean of its four sides, mm."""
    points = shapely.get_coordinates(seen) - (piece.x, piece.y)
    local = turn_points(points, -piece.angle_deg, 0, 0)
    half = np.array([piece.form.width_mm / 2, piece.form.height_mm / 2])
    beyond = np.concatenate([half + local.min(axis=0), half - local.max(axis=0)])
    return float(np.clip(beyond, 0, None).mean())
