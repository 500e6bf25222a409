"""Washes to ink, a page each: where ink is needed, where it may stay bare, how a stencil is stepped; and the recipe."""

import shapely
from reportlab.lib.colors import HexColor
from shapely.affinity import translate
from shapely.geometry import MultiLineString

from fair_thicket.estimate.minutes import wash_dry_min
from fair_thicket.ink.contrast import luminance
from fair_thicket.ink.ink_needed import bare_area, ink_needs, needed_area
from fair_thicket.ink.naming import say_colour
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.moves import moves_of, say_move
from fair_thicket.model.pieces import WASH, AnyThrough, AnyWash, Wash, is_stepped
from fair_thicket.model.units import say_length
from fair_thicket.printing.page import MARGIN_MM, RULE, SOFT, Sheets
from fair_thicket.shape.outline import turn_area
from fair_thicket.shape.wash_kinds import kind_of
from fair_thicket.shape.washes import Marks, cover_area, list_lays, registration

TOP_MM, LINE_MM = 40.0, 5.2
STRIPE_MM = 3.0
BARE_MM2 = 25.0
MARK = HexColor("#b06f0e")
Frame = tuple[float, float]


def draw_wash_pages(sheets: Sheets, work: Work) -> None:
    """Print a page for every wash of a side; one that lands nowhere has none."""
    names = name_pieces(work)
    landing = {leaf.piece.id for leaf in stack(work) if not leaf.area.is_empty}
    for piece in work.card.pieces:
        if isinstance(piece, Wash) and piece.id in landing:
            _draw_wash(sheets, work, piece, names[piece.id])


def _draw_wash(sheets: Sheets, work: Work, piece: AnyWash, name: str) -> None:
    width, height = work.card.panel
    sheets.start_page(f"Ink the {name}", wide_mm=width)
    words = "Life size. Inside the green line ink is needed; where it is striped something covers it: leave it bare."
    sheets.text(MARGIN_MM, MARGIN_MM + 9, words, size=10, colour=SOFT)
    if is_stepped(piece):
        words = "Lay the panel on its outline and the stencil's lower corners on the marks of each lay, by number."
        sheets.text(MARGIN_MM, MARGIN_MM + 14, words, size=10, colour=SOFT)
    left, top = (sheets.width_mm - width) / 2, TOP_MM
    panel = shapely.box(left, top, left + width, top + height)
    sheets.shape(panel, width_pt=0.8)
    needed, bare = (translate(area, left, top) for area in (needed_area(work, piece), bare_area(work, piece)))
    if bare.area > BARE_MM2:
        sheets.shape(_stripes(bare), width_pt=0.3, colour=RULE)
    sheets.shape(needed, width_pt=0.9, colour=HexColor("#4b8050"))
    _draw_covers(sheets, piece, (left, top), panel)
    if is_stepped(piece):
        _draw_lays(sheets, work, piece, (left, top))
    y = top + height + 9
    for line in _recipe(work, piece):
        y += sheets.paragraph(MARGIN_MM, y, line, width_mm=sheets.width_mm - 2 * MARGIN_MM) + 0.8


def _stripes(area: shapely.Geometry) -> shapely.Geometry:
    left, top, right, bottom = shapely.bounds(area).tolist()
    reach, at, lines = bottom - top, left - (bottom - top), []
    while at < right:
        lines.append([(at, bottom), (at + reach, top)])
        at += STRIPE_MM
    return shapely.intersection(MultiLineString(lines), area)


def _draw_covers(sheets: Sheets, piece: AnyWash, frame: Frame, panel: shapely.Geometry) -> None:
    for cover in piece.covers:
        placed = turn_area(cover_area(cover), piece.angle_deg, piece.x + frame[0], piece.y + frame[1])
        sheets.shape(shapely.intersection(placed, panel), width_pt=0.6, colour=SOFT, dashes=(2, 2))


def _draw_lays(sheets: Sheets, work: Work, piece: AnyThrough, frame: Frame) -> None:
    """Draw the stencil's outline for every lay, and its marks where they fall on the sheet."""
    sheet = shapely.box(MARGIN_MM / 2, TOP_MM - 12, sheets.width_mm - MARGIN_MM / 2, sheets.height_mm - 24)
    for number, laid in enumerate(list_lays(piece, work.stash), 1):
        placed = turn_area(laid.lines(), piece.angle_deg, piece.x + frame[0], piece.y + frame[1])
        tint, dashes = HexColor(laid.lay.ink or piece.colour or WASH), () if number % 2 else (4, 2)
        sheets.shape(shapely.intersection(placed, sheet), width_pt=0.6, colour=tint, dashes=dashes)
    for number, marks in enumerate(registration(work.stash.find(piece.stencil), piece), 1):
        _draw_marks(sheets, marks, frame, sheet, number)


def _draw_marks(sheets: Sheets, marks: Marks, frame: Frame, sheet: shapely.Geometry, number: int) -> None:
    """Draw an angle at each lower corner; where one falls off the sheet its foot line is drawn to the sheet's edge."""
    spots = [(x + frame[0], y + frame[1]) for x, y in marks]
    foot = shapely.intersection(shapely.LineString(spots), sheet)
    for (x, y), (to_x, to_y) in ((spots[0], spots[1]), (spots[1], spots[0])):
        if not shapely.contains_xy(sheet, x, y):
            continue
        far = max(((to_x - x) ** 2 + (to_y - y) ** 2) ** 0.5, 1e-6)
        along = ((to_x - x) / far, (to_y - y) / far)
        up = (along[1], -along[0]) if to_x >= x else (-along[1], along[0])
        corner = [(x + 6 * along[0], y + 6 * along[1]), (x, y), (x + 6 * up[0], y + 6 * up[1])]
        sheets.line(corner, width_pt=1.1, colour=MARK)
        sheets.text(x - 4 * along[0] - 0.8, y - 4 * along[1] + 1.2, f"{number}", size=8.5, style="Bold", colour=MARK)
    if not foot.is_empty and not shapely.contains_xy(sheet, *spots[0]):
        sheets.shape(foot, width_pt=0.3, colour=MARK, dashes=(1, 3))


def _lays(work: Work, piece: AnyWash) -> list[str]:
    """Say each lay of a stencil that is stepped: its move and its ink."""
    if not is_stepped(piece):
        return []
    inks = [say_colour(lay.ink or piece.colour or WASH) for lay in piece.lays]
    lines = [f"Lay 1 of the {work.stash.find(piece.stencil).name}: {inks[0]}."]
    for number, (move, ink) in enumerate(zip(moves_of(piece.lays), inks[1:], strict=True), 2):
        lines.append(f"Lay {number}: {say_move(move, work.card.unit)}; {ink}.")
    return [*lines, "Wipe the stencil before each move: wet ink on it prints where it is laid."]


def _recipe(work: Work, piece: AnyWash) -> list[str]:
    """Say inks with what each is needed on, coats and waits, the moves of a stencil, and what may stay bare."""
    unit = work.card.unit
    needs = list(ink_needs(work, piece))
    if not is_stepped(piece):
        needs.sort(key=lambda need: -luminance(need.ink))
    told = ", ".join(f"{say_colour(need.ink)} on {need.area_mm2 / 100:.1f} cm²" for need in needs)
    first = "Ink" if len(needs) == 1 else "Inks" if is_stepped(piece) else "Inks, the lightest first"
    coats = "One thin coat" if piece.coats == 1 else f"{piece.coats} thin coats, a pause after each"
    kind = kind_of(piece)
    dry = wash_dry_min(work.card.masking.rates, piece)
    lines = [f"{kind.coats or coats}. Dry in about {dry:g} min; only then lift covers and masks."]
    if kind.has_colour:
        lines.insert(0, f"{first}: {told}.")
    bare = bare_area(work, piece).area
    if bare > BARE_MM2:
        margin = say_length(work.card.limits.ink_margin_mm, unit)
        lines.append(f"{bare / 100:.1f} cm² may stay bare; ink reaches {margin} under what covers it.")
    lines += _lays(work, piece)
    if kind.last:
        lines.append(kind.last)
    if piece.strays:
        reach = say_length(work.card.masking.splatter_mm, unit)
        lines.append(f"Cover, or take away, all within {reach} that is to stay clean.")
    return lines
