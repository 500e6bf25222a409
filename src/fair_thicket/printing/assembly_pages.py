"""The order of the work with its whys, and the backs of pieces life size with their foam and glue."""

from collections.abc import Mapping, Sequence

import numpy as np
import shapely
from reportlab.lib.colors import HexColor

from fair_thicket.assembly import Assembly
from fair_thicket.assembly.at_hand import AT_HAND
from fair_thicket.assembly.foam import Strip
from fair_thicket.assembly.glue import BECAUSE, Glue
from fair_thicket.assembly.post import ASK
from fair_thicket.assembly.side import Side
from fair_thicket.laid.heights import Rest
from fair_thicket.model.card import name_pieces
from fair_thicket.printing.page import INK, MARGIN_MM, RULE, SOFT, Sheets
from fair_thicket.printing.step_pages import draw_step_pages
from fair_thicket.shape.outline import only_areas

FOAM, GLUE, PAPER = HexColor("#eec25a"), HexColor("#cfe0d6"), HexColor("#ffffff")
FOAM_EDGE = HexColor("#8a5a00")
GAP_MM, WORDS_MM, FOOT_MM, LEAST_MM = 8.0, 19.0, 24.0, 58.0
CAUTION = (
    "Blades: cut away from the hand, cap them. Glue and markers: air the room, keep them from flames. The maker's own "
    "label and local rules come first."
)


def draw_assembly_pages(sheets: Sheets, assembly: Assembly, pictures: Mapping[str, bytes] | None = None) -> None:
    """Print how a card is put together; nothing where nothing is glued.

    Parameters
    ----------
    pictures : mapping of picture name to PNG bytes, or None
        Of the stamps; None leaves the pictures of the steps out.
    """
    if not any(side.heights.rests for side in assembly.sides):
        return
    _draw_order(sheets, assembly)
    if pictures is not None:
        draw_step_pages(sheets, assembly, pictures)
    for side in assembly.sides:
        _draw_backs(sheets, side)


def _draw_order(sheets: Sheets, assembly: Assembly) -> None:
    """Print what to have at hand, and every operation with its start, its minutes and why it waits."""
    made = assembly.schedule
    proof = "no order takes less time" if made.is_best else f"at least {made.bound:.0f} min in any order"
    ends = {one.operation.key: one.end_min for one in made.steps}
    y = float("inf")
    for number, one in enumerate(made.steps, 1):
        why = max(one.operation.after, key=lambda edge: ends.get(edge.key, 0.0) + edge.wait_min, default=None)
        if y > sheets.height_mm - FOOT_MM - 12:
            sheets.start_page("From the first sheet to the envelope")
            width = sheets.width_mm - 2 * MARGIN_MM
            y = MARGIN_MM + 7
            if number == 1:
                hand = "; ".join(dict.fromkeys(AT_HAND.get(s.operation.tool, s.operation.tool) for s in made.steps))
                told = f"About {made.minutes:.0f} min with all drying, {proof}. At hand: {hand}. {CAUTION}"
                y += sheets.paragraph(MARGIN_MM, y, told, width_mm=width, size=9.5, colour=SOFT) + 3
                y += sheets.paragraph(MARGIN_MM, y, _say_post(assembly), width_mm=width, size=9.5, colour=SOFT)
            y += 5
        box = [(MARGIN_MM, y), (MARGIN_MM + 4, y), (MARGIN_MM + 4, y + 4), (MARGIN_MM, y + 4)]
        sheets.line(box, closed=True, width_pt=0.8)
        sheets.text(MARGIN_MM + 7, y + 3.4, f"{one.start_min:.0f} min", size=9, colour=SOFT)
        width = sheets.width_mm - 2 * MARGIN_MM - 24
        words = f"{number}.  {one.operation.words}."
        deep = sheets.paragraph(MARGIN_MM + 24, y - 0.6, words, width_mm=width, size=10)
        if why is not None:
            told = f"because {why.because}"
            deep += sheets.paragraph(MARGIN_MM + 24, y - 0.6 + deep, told, width_mm=width, size=8, colour=SOFT)
        y += max(7.0, deep + 2.2)


def _say_post(assembly: Assembly) -> str:
    post = assembly.post
    envelope = f" Envelope: {post.envelope}." if post.envelope else " No usual envelope takes it; a box does."
    return f"{post.thickness_mm:.1f} mm thick, {post.grams:.0f} g.{envelope} {' '.join((*post.reasons, ASK))}"


def _draw_backs(sheets: Sheets, side: Side) -> None:
    """Print the back of every piece that bears foam, or glue only in places, life size."""
    names = name_pieces(side.work)
    x, y, deep = MARGIN_MM, float("inf"), 0.0
    for rest in side.heights.rests:
        strips = side.foam.of(rest.key)
        glue = next((one for one in side.glue.glues if one.piece == rest.key), None)
        if not strips and (glue is None or glue.kind in {"liquid glue", "tape", "drop"}):
            continue
        left, top, right, bottom = rest.from_behind(rest.area).bounds
        wide, high = max(right - left, LEAST_MM), bottom - top + WORDS_MM
        if x + wide > sheets.width_mm - MARGIN_MM and x > MARGIN_MM:
            x, y, deep = MARGIN_MM, y + deep + GAP_MM, 0.0
        if y + high > sheets.height_mm - FOOT_MM or sheets.is_too_narrow(wide):
            sheets.start_page("Backs, with foam and glue", wide_mm=wide)
            words = "Life size, seen from behind. Honey is foam, green is where glue may go; nothing of either is seen."
            sheets.text(MARGIN_MM, MARGIN_MM + 9, words, size=10, colour=SOFT)
            x, y, deep = MARGIN_MM, MARGIN_MM + 16, 0.0
        _draw_back(sheets, rest, (strips, glue), names[rest.piece.id], (x, y))
        x, deep = x + wide + GAP_MM, max(deep, high)


def _draw_back(
    sheets: Sheets, rest: Rest, holds: tuple[Sequence[Strip], Glue | None], name: str, corner: tuple[float, float]
) -> None:
    strips, glue = holds
    x, y = corner
    sheets.text(x, y + 3.4, name[:1].upper() + name[1:], size=10, style="SemiBold")
    whole = rest.from_behind(rest.area)
    left, top, right, _ = whole.bounds
    words = "; ".join(_say_back(strips, glue))
    sheets.paragraph(x, y + 4.6, words, width_mm=max(right - left, LEAST_MM), size=8, colour=SOFT)
    off = np.array([x - left, y + WORDS_MM - top])
    sheets.shape(shapely.transform(whole, lambda points: points + off), width_pt=0.7, colour=INK, fill=PAPER)
    if glue is not None:
        area = shapely.transform(rest.from_behind(glue.area), lambda points: points + off)
        sheets.shape(area, width_pt=0.3, colour=RULE, fill=GLUE)
    for one in strips:
        area = shapely.transform(rest.from_behind(only_areas(one.area)), lambda points: points + off)
        sheets.shape(area, width_pt=0.5, colour=FOAM_EDGE, fill=FOAM)


def _say_back(strips: Sequence[Strip], glue: Glue | None) -> list[str]:
    """Say how much foam of which height and width, and what glue."""
    told = []
    for thick in sorted({one.thick_mm for one in strips}):
        by_width = {
            width: sum(one.length_mm for one in strips if (one.thick_mm, one.width_mm) == (thick, width))
            for width in sorted({one.width_mm for one in strips if one.thick_mm == thick}, reverse=True)
        }
        lengths = ", ".join(f"{length:.0f} mm of {width:g} mm" for width, length in by_width.items())
        told.append(f"foam {thick:g} mm high: {lengths}")
    if glue is not None:
        told.append(f"{glue.kind}: {BECAUSE[glue.kind]}")
    return told[:2]
