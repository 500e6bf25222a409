"""The card after every step that puts something more on it, six pictures a page."""

from collections.abc import Mapping

import numpy as np
import shapely
from PIL import Image
from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader

from fair_thicket.assembly import Assembly
from fair_thicket.assembly.landing import landed_after, lands
from fair_thicket.assembly.operation import Operation
from fair_thicket.assembly.picturing import picture_steps
from fair_thicket.ink.painting import Picture
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work
from fair_thicket.model.keys import image_key
from fair_thicket.printing.page import MARGIN_MM, RULE, Sheets

WORDS_MM, GAP_MM, FOOT_MM, TOP_MM = 15.0, 8.0, 24.0, 10.0
COLUMNS, ROWS = 2, 3
DPI = 110
LIT = HexColor("#d6921e")


def draw_step_pages(sheets: Sheets, assembly: Assembly, pictures: Mapping[str, bytes]) -> None:
    """Print the steps of the front with their pictures; what is new is lit up."""
    work = next(side for side in assembly.sides if side.name == "front").work
    landing = [(number, one.operation) for number, one in enumerate(assembly.schedule.steps) if lands(one.operation)]
    wide = (sheets.width_mm - 2 * MARGIN_MM + GAP_MM) / COLUMNS
    high = (sheets.height_mm - MARGIN_MM - TOP_MM - FOOT_MM) / ROWS
    painted = picture_steps(work, pictures, [landed_after(assembly, number) for number, _ in landing], dpi=DPI)
    for place, ((number, operation), part) in enumerate(zip(landing, painted, strict=True)):
        if place % (COLUMNS * ROWS) == 0:
            sheets.start_page("Step by step")
        row, column = divmod(place % (COLUMNS * ROWS), COLUMNS)
        corner = (MARGIN_MM + column * wide, MARGIN_MM + TOP_MM + row * high)
        _draw(sheets, work, (number, operation), part, (corner, (wide - GAP_MM, high - WORDS_MM)))


def _draw(
    sheets: Sheets,
    work: Work,
    step: tuple[int, Operation],
    picture: Picture,
    where: tuple[tuple[float, float], tuple[float, float]],
) -> None:
    """Print one step: its picture, what is new in it, its words."""
    number, operation = step
    (x, y), room = where
    width, height = work.card.panel
    scale = min(room[0] / width, room[1] / height)
    wide, high = width * scale, height * scale
    image = ImageReader(Image.fromarray(picture))
    sheets.canvas.drawImage(image, x * mm, (sheets.height_mm - y - high) * mm, wide * mm, high * mm)
    frame = shapely.box(x, y, x + wide, y + high)
    sheets.shape(frame, width_pt=0.4, colour=RULE)
    new = {image_key(key) for key in operation.pieces}
    for leaf in stack(work):
        if leaf.key in new:
            lit = shapely.transform(leaf.area, lambda points: points * scale + np.array([x, y]))
            sheets.shape(shapely.intersection(lit, frame), width_pt=1.4, colour=LIT)
    sheets.paragraph(x, y + high + 1, f"{number + 1}.  {operation.words}.", width_mm=room[0], size=8.5)
