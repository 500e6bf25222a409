"""The plan on paper: a placement sheet, the masks to cut, and a build sheet, life size."""

import io
import math
from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

import numpy as np
import shapely
from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader

from fair_thicket.ink.painter import Look
from fair_thicket.ink.painting import Picture, paint
from fair_thicket.laid.visibility import look
from fair_thicket.model.card import Card, Work, is_sheet, name_format, name_pieces
from fair_thicket.model.errors import check_wanted
from fair_thicket.model.keys import piece_key
from fair_thicket.model.pieces import Piece, Wash, is_glued
from fair_thicket.model.plan import SHEET, MaskPlan
from fair_thicket.model.steps import Step
from fair_thicket.model.tolerance import REHEARSAL_DPI
from fair_thicket.model.units import MM_PER_INCH, Unit, say_length, say_size
from fair_thicket.printing.mask_sheets import HONEY, KNIFE
from fair_thicket.printing.page import INK, MARGIN_MM, RULE, SOFT, Sheets, paper_for, shorten, spread
from fair_thicket.shape.paper import footprint, window_area
from fair_thicket.sheets import SheetsPlan

FOOT_MM, BADGE_MM, NAME_MM, SEEN_MM2 = 22.0, 5.2, 29.0, 0.05


class Side(NamedTuple):
    """A side of a card with its plan.

    Attributes
    ----------
    name : str
        ``front`` or ``inside``.
    work : Work
        With that side in front.
    plan : MaskPlan
        For exactly this side.
    steps : sequence of Step
        The build sheet's, in order.
    sheets : SheetsPlan or None
        Of the whole card, where its sheets have been laid out; None has them laid out for the print.
    """

    name: str
    work: Work
    plan: MaskPlan
    steps: Sequence[Step]
    sheets: SheetsPlan | None = None


Pages = Callable[[Sheets, Side, Mapping[str, bytes]], None]
"""Prints what one engine has to print of a side of a card."""


def plan_pdf(
    sides: Sequence[Side],
    pictures: Mapping[str, bytes],
    *,
    pages: Sequence[Pages] = (),
    paper: str | None = None,
    go_on: Callable[[], bool] = lambda: True,
) -> bytes:
    """Print a card's plan, side by side.

    Parameters
    ----------
    sides : sequence of Side
    pictures : mapping of picture name to PNG bytes
    pages : sequence of callables
        What comes between the placement page and the build sheet, in order.
    paper : str or None
        ``letter`` or ``a4``; None goes by the maker's unit.
    go_on : callable
        Asked at every page; False ends the printing.

    Raises
    ------
    StoppedError
        When `go_on` said so.

    Returns
    -------
    bytes
        A PDF whose lengths are true to 0.1 mm when printed at 100 %.
    """
    card = sides[0].work.card
    sheets = Sheets(card.title or "untitled card", paper or paper_for(card.unit), go_on=go_on)
    for side in sides:
        is_named = len(sides) > 1 or side.name != "front"
        sheets.side = side.name if is_named else ""
        _placement_page(sheets, side, pictures)
        for draw in pages:
            check_wanted(go_on, "the plan")
            draw(sheets, side, pictures)
        _build_pages(sheets, side.work, side.plan, side.steps)
    return sheets.finish()


def _placement_page(sheets: Sheets, side: Side, pictures: Mapping[str, bytes]) -> None:
    work, plan = side.work, side.plan
    card = work.card
    width, height = card.panel
    sheets.start_page("Where everything goes", wide_mm=width)
    left, top = (sheets.width_mm - width) / 2, 36.0
    words = f"{name_format(card)} {side.name}, {say_size(width, height, card.unit)}, life size"
    sheets.text(MARGIN_MM, MARGIN_MM + 9, words, size=10.5, colour=SOFT)
    _draw_picture(sheets, _picture(work, pictures), left, top, width, height, dim=0.55)
    sheets.line(
        [(left, top), (left + width, top), (left + width, top + height), (left, top + height)],
        closed=True,
        width_pt=0.8,
    )
    _draw_rulers(sheets, card, left, top)
    names = name_pieces(work)
    pieces = _by_press(work, plan)
    seen = _marked_at(work, pieces)
    wanted = [
        _corner(piece, work, left, top)
        if _is_ground(piece, work)
        else (left + seen[piece.id][0], top + seen[piece.id][1])
        for piece in pieces
    ]
    for number, (x, y) in enumerate(spread(wanted, BADGE_MM), 1):
        sheets.canvas.setFillColor(HexColor("#ffffff"))
        sheets.canvas.setStrokeColor(INK)
        sheets.canvas.setLineWidth(0.7)
        sheets.canvas.circle(x * mm, (sheets.height_mm - y) * mm, BADGE_MM / 2 * mm, stroke=1, fill=1)
        sheets.text(x, y + 1.1, str(number), size=9, style="Bold", centred=True)
    _key_list(sheets, work, plan, names, top + height + 10)


def _picture(work: Work, pictures: Mapping[str, bytes]) -> Picture:
    """Return the card in grey lines, cut edges shown."""
    washes = frozenset(piece.id for piece in work.card.pieces if isinstance(piece, Wash))
    look = Look(colours=False, grey=True, edge_mm=0.25, without=washes)
    return np.ascontiguousarray(paint(work, pictures, dpi=REHEARSAL_DPI, look=look)[:, :, 0])


def _by_press(work: Work, plan: MaskPlan) -> list[Piece]:
    """Pieces in the order in which they are put on, stamped ones first: that is how they are numbered."""
    on_card = [press for press in plan.presses if press.surface != SHEET and not press.is_ink]
    keys = dict.fromkeys(piece_key(key) for press in on_card for key in press.impressions)
    return [*(work.card.find(key) for key in keys), *(piece for piece in work.card.pieces if is_glued(piece))]


def _marked_at(work: Work, pieces: Sequence[Piece]) -> dict[str, tuple[float, float]]:
    """Return where on the card each piece is marked, mm: at its middle, or where it is seen when its middle is not."""
    view, spots = look(work), {}
    for piece in pieces:
        seen = [area for leaf, area in zip(view.leaves, view.seen, strict=True) if leaf.piece.id == piece.id]
        parts = [part for area in seen for part in shapely.get_parts(area) if part.area > SEEN_MM2]
        middle = shapely.Point(piece.x, piece.y)
        if parts and not any(part.contains(middle) for part in parts):
            middle = max(parts, key=shapely.area).representative_point()
        spots[piece.id] = (middle.x, middle.y)
    return spots


def _is_ground(piece: Piece, work: Work) -> bool:
    """Whether others lie over its middle, so that its number belongs at its corner."""
    return is_sheet(piece) or not window_area(piece, work.stash).is_empty


def _corner(piece: Piece, work: Work, left: float, top: float) -> tuple[float, float]:
    """Place of a number just inside the upper left corner; later layers a little farther right, so that all show."""
    low_x, low_y, _, _ = footprint(piece, work.stash).bounds
    number = [one.id for one in work.card.pieces if _is_ground(one, work)].index(piece.id)
    return left + max(0.0, low_x) + 4 + 6.5 * number, top + max(0.0, low_y) + 4


def _key_list(sheets: Sheets, work: Work, plan: MaskPlan, names: Mapping[str, str], top: float) -> None:
    """List the numbers with the place of each image's middle, in columns."""
    pieces = _by_press(work, plan)
    unit = work.card.unit
    columns = 2
    each = math.ceil(len(pieces) / columns)
    sheets.text(MARGIN_MM, top, "Middle of each image: from the left, from the top", size=9, colour=SOFT)
    top += 5.5
    wide = (sheets.width_mm - 2 * MARGIN_MM) / columns
    room = sheets.height_mm - FOOT_MM - top
    step = min(5.2, room / max(each, 1))
    for number, piece in enumerate(pieces, 1):
        column, row = divmod(number - 1, each)
        x, y = MARGIN_MM + column * wide, top + row * step
        turned = "" if abs(piece.angle_deg) < 0.05 else f", turned {piece.angle_deg:g}°"
        where = f"{say_length(piece.x, unit)}, {say_length(piece.y, unit)}{turned}"
        size = min(9.5, step * 2.1)
        sheets.text(x, y, shorten(f"{number}  {names[piece.id]}", NAME_MM, size), size=size, style="SemiBold")
        sheets.text(x + 33, y, where, size=min(9, step * 2), colour=SOFT)


def _draw_rulers(sheets: Sheets, card: Card, left: float, top: float) -> None:
    width, height = card.panel
    inches = card.unit is Unit.INCH
    step, long = (MM_PER_INCH / 8, 8) if inches else (5.0, 2)
    for along_x, length in ((True, width), (False, height)):
        for tick in range(math.floor(length / step + 1e-6) + 1):
            size = 3.0 if tick % long == 0 else 2.2 if inches and tick % 4 == 0 else 1.4
            at = tick * step
            start, end = (
                ((left + at, top - 1), (left + at, top - 1 - size))
                if along_x
                else ((left - 1, top + at), (left - 1 - size, top + at))
            )
            sheets.line([start, end], width_pt=0.5, colour=SOFT)
            if tick % long == 0:
                words = str(tick // long if inches else tick * 5)
                x, y = (end[0], end[1] - 0.8) if along_x else (end[0] - 2.4, end[1] + 1)
                sheets.text(x, y, words, size=7, colour=SOFT, centred=True)


def _draw_picture(
    sheets: Sheets, grey: Picture, left: float, top: float, width: float, height: float, *, dim: float = 1.0
) -> None:
    """Draw a grey picture into a box, mm; `dim` below 1 fades it toward paper."""
    from PIL import Image

    faded = (255 - (255 - grey.astype("float32")) * dim).astype("uint8")
    buffer = io.BytesIO()
    Image.fromarray(faded).save(buffer, "PNG")
    buffer.seek(0)
    sheets.canvas.drawImage(
        ImageReader(buffer), left * mm, (sheets.height_mm - top - height) * mm, width * mm, height * mm
    )


def _build_pages(sheets: Sheets, work: Work, plan: MaskPlan, steps: Sequence[Step]) -> None:
    card = work.card
    sheets.start_page("Build sheet")
    facts = (
        f"{plan.press_count} presses · {len(plan.masks)} masks to cut · "
        f"{say_length(plan.careful_mm, card.unit)} of careful cutting · masks laid {plan.placements} times"
    )
    sheets.text(MARGIN_MM, MARGIN_MM + 9, facts, size=10.5, colour=SOFT)
    y = MARGIN_MM + 14
    wide = sheets.width_mm - 2 * MARGIN_MM
    before = []
    if plan.masks:
        before.append(f"Cut the masks of the mask pages from low-tack masking paper. {KNIFE}")
    before.append("Stamping runs from front to back: what is stamped first stands in front.")
    for words in before:
        y += (
            sheets.paragraph(MARGIN_MM, y, words, width_mm=wide, size=9.5, colour=HONEY if "knife" in words else SOFT)
            + 1
        )
    shown = -1
    for number, step in enumerate(steps, 1):
        kind, press, words = step.kind, step.press, step.words
        if y > sheets.height_mm - FOOT_MM - 12:
            sheets.start_page("Build sheet, continued")
            y = MARGIN_MM + 9
        if press != shown:
            shown = press
            y += 4
            sheets.line([(MARGIN_MM, y - 1), (sheets.width_mm - MARGIN_MM, y - 1)], colour=RULE, width_pt=0.5)
            y += 4
            sheets.text(MARGIN_MM, y, _heading(plan, press), size=11.5, style="Bold")
            y += 2.5
        sheets.line(
            [(MARGIN_MM, y + 0.8), (MARGIN_MM + 3.4, y + 0.8), (MARGIN_MM + 3.4, y + 4.2), (MARGIN_MM, y + 4.2)],
            closed=True,
            width_pt=0.7,
            colour=SOFT,
        )
        sheets.text(MARGIN_MM + 6, y + 4, f"{number}", size=10.5, style="SemiBold")
        y += max(
            6.0,
            sheets.paragraph(MARGIN_MM + 13, y, words, width_mm=wide - 13, colour=SOFT if kind == "check" else INK) + 1,
        )


def _heading(plan: MaskPlan, press: int) -> str:
    if press >= len(plan.presses):
        return "After the presses"
    return plan.name_of(press)
