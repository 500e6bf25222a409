"""Platform sheets: where each stamp sits on the open lid in each press, life size, as the maker sees it there."""

import math
from collections.abc import Mapping

import numpy as np
import shapely
from reportlab.lib.units import mm

from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.keys import piece_key, read_key
from fair_thicket.model.pieces import Impression
from fair_thicket.model.plan import SHEET, MaskPlan, Press
from fair_thicket.printing.mask_sheets import faint_picture
from fair_thicket.printing.page import INK, MARGIN_MM, RULE, SOFT, Sheets
from fair_thicket.shape.outline import Area, FloatArray, image_area, turn_area, turn_points

FOOT_MM = 22.0
TOP_MM = 34.0
LABEL_MM = 9.0


def mirrored(point: tuple[float, float], panel: tuple[float, float], lid: str) -> tuple[float, float]:
    """Place of a point of the panel on the open lid, seen from its inside, mm.

    Parameters
    ----------
    point, panel : (x, y), mm
        From the panel's top left; the panel's width and height.
    lid : str
        The side from which the lid closes; opening it turns it over about that side.
    """
    x, y = point
    return (x, panel[1] - y) if lid == "top" else (panel[0] - x, y)


def draw_platform_pages(sheets: Sheets, work: Work, pictures: Mapping[str, bytes], plan: MaskPlan) -> None:
    """Print a picture of the open lid for every press on the card, as many on a page as fit."""
    presses = [
        (plan.number_of(index), press)
        for index, press in enumerate(plan.presses)
        if press.is_on_platform and press.surface != SHEET
    ]
    if not presses:
        return
    width, height = work.card.panel
    lid = work.card.masking.lid
    y = math.inf
    areas = {leaf.key: leaf.whole for leaf in stack(work)}
    for number, press in presses:
        if y + LABEL_MM + height > sheets.height_mm - FOOT_MM:
            sheets.start_page("On the platform", wide_mm=width)
            words = f"The open lid from its inside; it closes from the {lid}. Life size, mirrored: lay the stamps so."
            sheets.text(MARGIN_MM, MARGIN_MM + 9, words, size=10, colour=SOFT)
            y = TOP_MM
        _draw_press(sheets, work, pictures, number, press, ((sheets.width_mm - width) / 2, y + LABEL_MM - 3), areas)
        y += LABEL_MM + height + 3


def _draw_press(
    sheets: Sheets,
    work: Work,
    pictures: Mapping[str, bytes],
    number: int,
    press: Press,
    corner: tuple[float, float],
    areas: Mapping[str, Area],
) -> None:
    panel, lid = work.card.panel, work.card.masking.lid
    names = name_pieces(work)
    left, top = corner
    upon = f", on the {names[press.surface]}" if press.surface else ""
    sheets.text(left, top - 2, f"Press {number}{upon}", size=10, style="Bold")
    ring = [(left, top), (left + panel[0], top), (left + panel[0], top + panel[1]), (left, top + panel[1])]
    sheets.line(ring, closed=True, width_pt=0.6, colour=SOFT)
    hinge = {"left": (ring[1], ring[2]), "right": (ring[0], ring[3]), "top": (ring[3], ring[2])}[lid]
    sheets.line(list(hinge), width_pt=3, colour=RULE)
    if press.surface:
        sheets.shape(_on_lid(areas[press.surface], panel, lid, corner), width_pt=0.4, colour=RULE)
    for key in press.impressions:
        piece = work.card.find(key)
        if not isinstance(piece, Impression):
            continue
        stamp = work.stash.find(piece.stamp)
        part = stamp
        x, y, picture, wide, high = piece.x, piece.y, part.picture, part.width_mm, part.height_mm
        which = read_key(key).layer
        if which is not None:
            layer = stamp.layers[which - 1]
            x, y = turn_points([(layer.x, layer.y)], piece.angle_deg, piece.x, piece.y)[0].tolist()
            picture, wide, high = layer.picture, layer.width_mm, layer.height_mm
        at = mirrored((x, y), panel, lid)
        _draw_mirrored(sheets, pictures[picture], (left + at[0], top + at[1]), (wide, high), piece.angle_deg, lid)
        outline = turn_area(image_area(stamp), piece.angle_deg, piece.x, piece.y)
        placed = _on_lid(outline, panel, lid, corner)
        sheets.shape(placed, width_pt=0.6, colour=INK)
        name = names[piece_key(key)] + (", left in place" if key in press.turned else "")
        low, _, high, bottom = placed.bounds
        y = min(bottom + 3.2, top + panel[1] + 3.2)  # what runs off the panel is named below it
        sheets.text((low + high) / 2, y, name, size=7.5, style="SemiBold", centred=True)


def _on_lid(area: Area, panel: tuple[float, float], lid: str, corner: tuple[float, float]) -> Area:
    def move(points: FloatArray) -> FloatArray:
        x, y = points.T
        return np.array([x, panel[1] - y] if lid == "top" else [panel[0] - x, y]).T + corner

    return shapely.transform(area, move)


def _draw_mirrored(
    sheets: Sheets,
    picture: bytes,
    at: tuple[float, float],
    size: tuple[float, float],
    angle_deg: float,
    lid: str,
) -> None:
    """Draw a stamp's picture about a place as it lies on the lid."""
    canvas = sheets.canvas
    canvas.saveState()
    canvas.translate(at[0] * mm, (sheets.height_mm - at[1]) * mm)
    canvas.scale(*((1, -1) if lid == "top" else (-1, 1)))
    canvas.rotate(-angle_deg)  # a PDF turns against the clock
    width, height = size[0] * mm, size[1] * mm
    canvas.drawImage(faint_picture(picture, 0.45), -width / 2, -height / 2, width, height, mask="auto")
    canvas.restoreState()
