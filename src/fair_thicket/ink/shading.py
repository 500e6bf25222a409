"""A coloured image as its markers lay it: shades from dark to light, soft where they blend, pooling at the edges.

Glossary
--------
share
    How much of a part each shade takes: shadow a quarter to a third, the lightest at least a third (common practice).
pooling
    Ink gathers at the lines that stop it.
"""

import itertools
import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache, partial
from types import MappingProxyType
from typing import NamedTuple

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from fair_thicket.ink.contrast import channels
from fair_thicket.ink.difference import difference_of
from fair_thicket.ink.layings import Laid, Laying
from fair_thicket.ink.overlay import k_of, levels_of
from fair_thicket.ink.prints import Window, print_picture
from fair_thicket.ink.shadow_field import PX_PER_MM, Shadow, find_field, lit_share
from fair_thicket.ink.strokes import HANDS, Hand, freckles, texture
from fair_thicket.model.colouring import ColouredPart, Region, ShadeOrder
from fair_thicket.model.stash import Stamp
from fair_thicket.model.supplies import Medium
from fair_thicket.shape.outline import image_area, to_area, turn_area
from fair_thicket.shape.raster import fill, grow_labels

Floats = NDArray[np.float32]
Bool = NDArray[np.bool_]
Own = tuple[tuple[Region, ...], tuple[tuple[float, float], ...], tuple[float, float]]
"""Regions, outline and size of an image."""
Patch = tuple[NDArray[np.intp], Floats]
"""Places of a region in an image's pixels, row by row, and their K/S."""
SHARES = MappingProxyType(
    {
        1: (1.0,),
        2: (0.4, 0.6),
        3: (0.28, 0.34, 0.38),
        4: (0.22, 0.2, 0.22, 0.36),
        5: (0.18, 0.15, 0.16, 0.17, 0.34),
        6: (0.15, 0.13, 0.12, 0.13, 0.14, 0.33),
    }
)
"""Of shades from dark to light (common practice: shadow a quarter to a third, the lightest at least a third)."""
UNDER = 0.9
"""How much more ink is laid beside what overlaps: a further coat."""
UNDER_MM = 2.2
"""So far the shadow of what overlaps reaches, in sigmas of its fading."""
SOFT, FAR_STEP = 0.13, 22.0
"""Softness of the way from shade to shade, as a share of the field; steps larger than this (CIEDE2000) stay hard."""
LINE_MM = 0.6
"""Colour goes under lines as far as this."""
POOL_MM = 0.22
SAMPLES = 2000
SHIFT = 4
"""Binary places of a pixel that outlines are drawn to."""
COVERING: frozenset[Medium] = frozenset({"pencil", "pigment"})
"""What hides what it is put on; markers and water colour let it through."""
CHEEK_COATS = 0.75
"""A cheek is dabbed on softly: so much of its ink in the middle, none at its edge."""


def lay_tones(
    laid: Sequence[Laid],
    window: Window,
    px_per_mm: float,
    colour: "Colourer",
    *,
    off: tuple[float, float] = (0.0, 0.0),
) -> Floats | None:
    """Return what images are coloured with on a window, as it is on white paper.

    Parameters
    ----------
    laid : sequence of Laid
        What comes later covers the colours of what lies behind it.
    colour : callable of Laying
        As `colour_image`.
    off : (float, float)
        Added to their places, mm, so that they lie in the window.

    Returns
    -------
    (rows, columns, 3) float32, sRGB 0..1, or None
        None where there is none.
    """
    tones: Floats | None = None
    for laying, (x, y, angle_deg) in laid:
        stamp = laying.stamp
        place = (x + off[0], y + off[1], angle_deg, False)
        over = print_picture(colour(laying), (stamp.width_mm, stamp.height_mm), place, window, px_per_mm)
        if tones is not None:
            corner = (window[1].start / px_per_mm, window[0].start / px_per_mm)
            area = turn_area(image_area(stamp), angle_deg, place[0], place[1])
            inside = fill(area, over.shape[:2], px_per_mm, left=corner[0], top=corner[1])
            over = np.where(inside[:, :, None], over, tones)
        tones = over
    return tones


def new_colourer() -> "Colourer":
    """Return what colours images as `colour_image` does, and keeps those of late, and the parts of them."""
    draw = lru_cache(48)(_draw)
    lay = lru_cache(100)(partial(_lay_part, draw))
    absorb = lru_cache(6)(partial(_absorb, draw, lay))
    return lru_cache(48)(partial(_colour, absorb))


def colour_image(laying: Laying) -> Floats:
    """Colour an image.

    Returns
    -------
    (rows, columns, 3) float32, read-only
        What its inks are on white paper at 300 dpi, its box exactly, sRGB 0..1; white where nothing is laid.
    """
    return _colour(partial(_absorb, _draw, partial(_lay_part, _draw)), laying)


def _colour(absorb: "Colourer", laying: Laying) -> Floats:
    absorbed = absorb(laying._replace(over=b""))
    if laying.over:
        absorbed = absorbed * (1 + UNDER * _under(laying, absorbed.shape[:2]))[:, :, None]
    tones = levels_of(absorbed)
    tones.setflags(write=False)
    return tones


def colour_all(layings: Sequence[Laying], colour: "Colourer") -> None:
    """Colour images on all processors, so that each is there when it is asked for."""
    fresh = list(dict.fromkeys(layings))
    if len(fresh) > 1:
        with ThreadPoolExecutor(os.cpu_count() or 1) as pool:  # numpy and OpenCV work outside the interpreter's lock
            list(pool.map(colour, fresh))


def _absorb(draw: "Draw", lay: "LayPart", laying: Laying) -> Floats:
    """K/S of all inks of an image on which nothing lies, (rows, columns, 3)."""
    stamp = laying.stamp
    own = (stamp.regions, stamp.outline, (stamp.width_mm, stamp.height_mm))
    absorbed = np.zeros((*draw(*own).labels.shape, 3), np.float32)
    pixels = absorbed.reshape(-1, 3)
    touches = {region.id for region in stamp.regions if region.is_touch}
    for part in laying.colouring:
        turned = part.shadow_deg is not None  # by hand, whatever light there is
        shadow = Shadow(part.shadow_deg or 0.0) if turned else Shadow(laying.shadow_deg, laying.lamps)
        for at, k in lay(own, part, shadow, laying.order):
            pixels[at] = k
    for part in laying.colouring:
        if part.shades and touches & set(part.regions):
            _touch(absorbed, stamp, part)
    absorbed.setflags(write=False)
    return absorbed


def _lay_part(draw: "Draw", own: Own, part: ColouredPart, shadow: Shadow, order: ShadeOrder) -> tuple[Patch, ...]:
    """Lay a part: for each of its regions where it is, and its K/S."""
    if not (part.shades or part.undertone or part.dots):
        return ()  # it stays white
    drawing, size = draw(*own), own[2]
    hand = HANDS[_medium(part)]
    grain = texture(_medium(part), drawing.labels.shape)
    known = {region.id: region for region in own[0]}
    patches: list[Patch] = []
    for key in part.regions:
        window = drawing.windows.get(key)
        if window is not None:
            inside = drawing.labels[window] == key
            corner = (window[1].start / PX_PER_MM - size[0] / 2, window[0].start / PX_PER_MM - size[1] / 2)
            k = _lay_region(part, (inside, known[key], corner), shadow, order, hand)
            k *= grain[window][inside][:, None]
            np.maximum(k, 0, out=k)  # where a run goes from light to dark and back, and in hollows: no less than none
            patches.append((drawing.places[window][inside], k))
    return tuple(patches)


def _medium(part: ColouredPart) -> Medium:
    return next(shade.medium for shade in (*part.shades, part.undertone, part.dots) if shade is not None)


def _lay_region(
    part: ColouredPart,
    where: tuple[Bool, Region, tuple[float, float]],
    shadow: Shadow,
    order: ShadeOrder,
    hand: Hand,
) -> Floats:
    """K/S of a region of a part, (pixels inside, 3)."""
    inside, region, corner = where
    depth = _depth(inside)
    own = depth[inside]
    k: Floats = np.zeros((len(own), 3), np.float32)
    if part.shades:
        field = find_field(inside, depth, shadow, region, corner)[inside]
        k = _lay_run(part, field, order, hand.soft, lit_share(inside, shadow.lamps, corner))
    if part.undertone is not None:
        k += np.float32(0.6) * _k(part.undertone.colour)
    if part.dots is not None:
        k += freckles(inside.shape)[inside][:, None] * _k(part.dots.colour)
    k *= (hand.strength * (1 + hand.pool * np.exp(own * np.float32(-1 / (POOL_MM * PX_PER_MM)))))[:, None]
    return k


def _depth(inside: Bool) -> Floats:
    """Way of every place of a region to its edge, pixels; the window's rim is an edge."""
    padded = np.zeros((inside.shape[0] + 2, inside.shape[1] + 2), np.uint8)
    padded[1:-1, 1:-1] = inside
    return np.asarray(cv2.distanceTransform(padded, cv2.DIST_L2, 5)[1:-1, 1:-1], np.float32)


def _touch(absorbed: Floats, stamp: Stamp, part: ColouredPart) -> None:
    """Lay touches over what is coloured: cheeks softly, a glazed eye full, a white dot covering."""
    shade = part.shades[0]
    ink = _k(shade.colour)
    for region in stamp.regions:
        if region.id not in part.regions or not region.is_touch:
            continue
        window, area = _cover(region, absorbed.shape[:2], (stamp.width_mm, stamp.height_mm))
        if not area.any():
            continue
        view = absorbed[window]
        if region.kind == "eye":
            view[area] += ink
        elif region.kind == "white dot":
            view[area] = ink
        else:
            depth = _depth(area)
            soft = (CHEEK_COATS * np.clip(depth / max(float(depth.max()), 1.0) * 1.6, 0, 1))[:, :, None]
            if shade.medium in COVERING:
                tone = np.array(channels(shade.colour), np.float32)
                view[:] = np.where(soft > 0, k_of(levels_of(view) * (1 - soft) + tone * soft), view)
            else:
                view += soft * ink


def _cover(region: Region, shape: tuple[int, int], size_mm: tuple[float, float]) -> tuple[tuple[slice, slice], Bool]:
    """Window of a region on its image, and which of its pixels are inside."""
    corner_mm = (size_mm[0] / 2, size_mm[1] / 2)
    rings = [(np.array(ring) + corner_mm) * PX_PER_MM for ring in (region.ring, *region.holes)]
    low = np.floor(rings[0].min(axis=0)).astype(int).clip(0).tolist()
    high = (np.ceil(rings[0].max(axis=0)).astype(int) + 1).clip(0).tolist()
    window = slice(low[1], min(high[1], shape[0])), slice(low[0], min(high[0], shape[1]))
    patch = (window[0].stop - window[0].start, window[1].stop - window[1].start)
    if min(patch) <= 0:
        return (slice(0, 0), slice(0, 0)), np.zeros((0, 0), bool)
    inside = np.zeros(patch, np.uint8)
    corner = (low[0] + 0.5, low[1] + 0.5)
    drawn = [np.rint((ring - corner) * (1 << SHIFT)).astype(np.int32) for ring in rings]
    cv2.fillPoly(inside, drawn, 1, shift=SHIFT)  # to half a pixel: regions grow under their lines as well
    return window, inside.view(np.bool_)


def _lay_run(part: ColouredPart, field: Floats, order: ShadeOrder, softer: float, darkness: float) -> Floats:
    """Lay shades from dark to light by the field; each way from one to the next is as soft as the two blend."""
    colours = [shade.colour for shade in part.shades]
    values = np.sort(field[:: max(1, len(field) // SAMPLES)])  # shares to a hundredth need no more
    reach = float(values[-1] - values[0]) or 1.0
    edge = 1.2 if order == "dark first" else 0.75  # a light marker laid last pushes a darker edge out
    upto = 0.0
    shares = np.empty((len(colours) - 1, len(field)), np.float32)
    for row, share, dark, light in zip(shares, SHARES[len(colours)], colours, colours[1:], strict=False):
        upto += share * darkness
        limit = values[min(len(values) - 1, int((1 - upto) * len(values)))]
        step = difference_of(dark, light)
        soft = max(0.02, SOFT * softer * edge * min(1.0, FAR_STEP / max(step, 1.0)) ** 2) * reach
        np.multiply(field - limit, np.float32(0.5 / soft), out=row)
        np.clip(row + np.float32(0.5), 0, 1, out=row)
        np.multiply(row * row, 3 - 2 * row, out=row)
    k = np.empty((len(field), 3), np.float32)
    k[:] = _k(colours[-1])
    if len(shares):
        ways = np.stack([_k(dark) - _k(light) for dark, light in itertools.pairwise(colours)])
        k += shares.T @ ways
    return k


def _under(laying: Laying, shape: tuple[int, int]) -> Floats:
    """Tell how deep every place lies in the shadow of what overlaps the image."""
    if not laying.over:
        return np.zeros(shape, np.float32)
    stamp = laying.stamp
    over = fill(shapely.from_wkb(laying.over), shape, PX_PER_MM, left=-stamp.width_mm / 2, top=-stamp.height_mm / 2)
    if not over.any():  # what overlaps it is too thin for any pixel: then nothing is near
        return np.zeros(shape, np.float32)
    away = cv2.distanceTransform((~over).astype(np.uint8), cv2.DIST_L2, 5)
    return np.asarray(np.exp(-0.5 * (away / (UNDER_MM * PX_PER_MM)) ** 2), np.float32)


class _Drawing(NamedTuple):
    """An image's regions in pixels, grown under its lines.

    Attributes
    ----------
    labels : (rows, columns) int32
        Number of each pixel's region; 0 for none.
    places : (rows, columns) intp
        Place of each pixel, row by row.
    windows : dict of int to window
        Of every region of which something is left.
    """

    labels: NDArray[np.int32]
    places: NDArray[np.intp]
    windows: dict[int, tuple[slice, slice]]


def _draw(
    regions: tuple[Region, ...], outline: tuple[tuple[float, float], ...], size_mm: tuple[float, float]
) -> _Drawing:
    """Draw an image's regions in pixels; a region of which nothing is left has no window."""
    shape = (max(1, round(size_mm[1] * PX_PER_MM)), max(1, round(size_mm[0] * PX_PER_MM)))
    labels = np.zeros(shape, np.int32)
    drawn: dict[int, tuple[slice, slice]] = {}
    for region in regions:
        if not region.is_touch:
            window, inside = _cover(region, shape, size_mm)
            labels[window][inside] = region.id
            drawn[region.id] = window
    whole = fill(to_area(outline), shape, PX_PER_MM, left=-size_mm[0] / 2, top=-size_mm[1] / 2)
    labels = _grow(labels, whole)
    windows = {key: found for key, window in drawn.items() if (found := _grown_window(labels, key, window))}
    return _Drawing(labels, np.arange(labels.size, dtype=np.intp).reshape(shape), windows)


def _grow(labels: NDArray[np.int32], inside: Bool) -> NDArray[np.int32]:
    """Grow regions under the lines between them, each to the middle of a line, not beyond the image."""
    grown = np.where(inside, grow_labels(labels, LINE_MM * PX_PER_MM), labels).astype(np.int32)
    grown.setflags(write=False)
    return grown


def _grown_window(labels: NDArray[np.int32], key: int, window: tuple[slice, slice]) -> tuple[slice, slice] | None:
    """Window of a region as it has grown under the lines; None where nothing is left of it."""
    room = int(LINE_MM * PX_PER_MM) + 2
    first_row, first_column = max(0, window[0].start - room), max(0, window[1].start - room)
    near = labels[first_row : window[0].stop + room, first_column : window[1].stop + room] == key
    left, top, wide, high = cv2.boundingRect(near.view(np.uint8))
    left, top = left + first_column, top + first_row
    return (slice(top, top + high), slice(left, left + wide)) if wide and high else None


Colourer = Callable[[Laying], Floats]
Draw = Callable[[tuple[Region, ...], tuple[tuple[float, float], ...], tuple[float, float]], _Drawing]
LayPart = Callable[[Own, ColouredPart, Shadow, ShadeOrder], tuple[Patch, ...]]


@lru_cache(maxsize=512)
def _k(colour: str) -> Floats:
    return k_of(np.array(channels(colour), np.float32))
