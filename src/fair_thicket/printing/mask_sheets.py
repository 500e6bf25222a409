"""All masks of a plan laid out on the maker's sheets of masking paper: for printing, and as SVG to cut."""

import io
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from xml.sax.saxutils import escape

import rectpack
import shapely
from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader

from fair_thicket.files.atomic import write_all
from fair_thicket.files.press_pictures import make_folder
from fair_thicket.laid.masking_paper import CutMask, MaskingPaper
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PictureError
from fair_thicket.model.plan import MaskPlan
from fair_thicket.model.stash import Stamp
from fair_thicket.model.units import say_length, say_size
from fair_thicket.printing.page import INK, MARGIN_MM, RULE, SOFT, Sheets

FOOT_MM = 22.0
TOP_MM = 35.0
EDGE_MM = 2.0
"""Left free at the edge of a sheet of masking paper."""
GAP_MM = 1.5
LABEL_MM = 7.0
LABEL_WIDE_MM = 30.0
KNIFE = (
    "Craft knife: use a metal ruler, cut away from the hand that holds, cap the blade. "
    "The tool's own label and local rules come first."
)
HONEY = HexColor("#b06f0e")


@dataclass(frozen=True)
class Placed:
    """A mask on its sheet: what it is called, and where the middle of its image lies, mm from the sheet's corner."""

    cut: CutMask
    label: str
    x: float
    y: float


@dataclass(frozen=True)
class MaskSheet:
    """A sheet of masking paper with its masks; larger than the maker's where a single mask does not fit otherwise."""

    width_mm: float
    height_mm: float
    masks: tuple[Placed, ...]
    is_larger: bool = False


def lay_out_masks(work: Work, plan: MaskPlan) -> tuple[MaskSheet, ...]:
    """Lay all masks out on sheets of masking paper, as many together as fit.

    Notes
    -----
    Boxes of the masks are packed; what fits no sheet gets a larger one of its own.
    """
    masking = MaskingPaper(work, plan)
    cuts = (*masking.cuts, *masking.counter_cuts)
    names = name_pieces(work)
    boxes = [_box(cut) for cut in cuts]
    width, height = sorted(work.card.masking.sheet_mm, reverse=True)
    bins = _pack(boxes, (width - 2 * EDGE_MM, height - 2 * EDGE_MM))
    sheets = []
    for places in bins:
        masks = [
            _place(cuts[index], boxes[index], (EDGE_MM + x, EDGE_MM + y), names) for index, (x, y) in places.items()
        ]
        sheets.append(MaskSheet(width, height, tuple(masks)))
    placed = {index for places in bins for index in places}
    for index, cut in enumerate(cuts):
        if index not in placed:
            wide, high = boxes[index]
            alone = _place(cut, boxes[index], (EDGE_MM, EDGE_MM), names)
            sheets.append(MaskSheet(wide + 2 * EDGE_MM, high + 2 * EDGE_MM, (alone,), is_larger=True))
    return tuple(sheets)


def _pack(boxes: Sequence[tuple[float, float]], room: tuple[float, float]) -> list[dict[int, tuple[float, float]]]:
    """Pack boxes into as few rooms as the packer's rules find: every rule is tried, the fewest rooms are kept."""
    best: list[dict[int, tuple[float, float]]] = []
    for rule in (rectpack.MaxRectsBssf, rectpack.MaxRectsBaf, rectpack.MaxRectsBlsf, rectpack.SkylineBlWm):
        for order in (rectpack.SORT_AREA, rectpack.SORT_LSIDE, rectpack.SORT_SSIDE, rectpack.SORT_PERI):
            packer = rectpack.newPacker(pack_algo=rule, sort_algo=order, rotation=False)
            for index, (wide, high) in enumerate(boxes):
                packer.add_rect(math.ceil(wide * 10), math.ceil(high * 10), rid=index)
            packer.add_bin(int(room[0] * 10), int(room[1] * 10), count=float("inf"))
            packer.pack()
            bins: dict[int, dict[int, tuple[float, float]]] = {}
            for number, x, y, _, _, index in packer.rect_list():
                bins.setdefault(number, {})[index] = (x / 10, y / 10)
            found = [bins[number] for number in sorted(bins)]
            if not best or len(found) < len(best):
                best = found
    return best


def _box(cut: CutMask) -> tuple[float, float]:
    left, top, right, bottom = cut.paper.bounds
    return max(right - left, LABEL_WIDE_MM) + GAP_MM, bottom - top + LABEL_MM + GAP_MM


def _place(cut: CutMask, box: tuple[float, float], at: tuple[float, float], names: Mapping[str, str]) -> Placed:
    left, top, right, _ = cut.paper.bounds
    x = at[0] + box[0] / 2 - (left + right) / 2
    serves = cut.mask.serves
    if not cut.paper.covers(cut.edge.representative_point()):
        label = f"counter mask for {names[serves[0]]}"
    elif cut.stamp is not None and len(serves) > 1:
        label = f"{cut.stamp.name}, used {len(serves)} times"
    else:
        label = names[serves[0]]
    return Placed(cut, label, x, at[1] + GAP_MM / 2 - top)


# -- printing --------------------------------------------------------------------------------------------------------


def draw_mask_pages(sheets: Sheets, work: Work, pictures: Mapping[str, bytes], plan: MaskPlan) -> None:
    """Print the sheets of masks life size, as many on a page as fit."""
    laid = lay_out_masks(work, plan)
    y = math.inf
    for number, one in enumerate(laid, 1):
        room = sheets.height_mm - FOOT_MM
        if y + 6 + one.height_mm > room:
            _start_mask_page(sheets, work, one)
            y = TOP_MM
        told = f"Sheet {number} of {len(laid)}: {say_size(one.width_mm, one.height_mm, work.card.unit)}"
        told += ", larger than your masking paper: take two pieces with their edges taped" if one.is_larger else ""
        sheets.text(MARGIN_MM, y + 3.5, told, size=9, style="SemiBold")
        y += 5.5
        left = (
            max(1.0, (sheets.width_mm - one.width_mm) / 2)
            if one.width_mm > sheets.width_mm - 2 * MARGIN_MM
            else MARGIN_MM
        )
        ring = [
            (left, y),
            (left + one.width_mm, y),
            (left + one.width_mm, y + one.height_mm),
            (left, y + one.height_mm),
        ]
        sheets.line(ring, closed=True, width_pt=0.5, colour=SOFT)
        for placed in one.masks:
            _draw_mask(sheets, work, pictures, placed, (left + placed.x, y + placed.y))
        y += one.height_mm + 2


def _start_mask_page(sheets: Sheets, work: Work, first: MaskSheet) -> None:
    rim = work.card.mask_rim_mm
    where = "on the line" if not rim else f"{abs(rim):g} mm {'outside' if rim > 0 else 'inside'} the line"
    sheets.start_page("Masks to cut", wide_mm=first.width_mm)
    sheets.text(
        MARGIN_MM,
        MARGIN_MM + 9,
        f"Life size, {where}. Follow the heavy line with care; along the light one "
        "cut as you like. Tape the mask down at the ring.",
        size=10,
        colour=SOFT,
    )
    sheets.paragraph(MARGIN_MM, MARGIN_MM + 12.5, KNIFE, width_mm=sheets.width_mm - 2 * MARGIN_MM, size=9, colour=HONEY)


def _draw_mask(
    sheets: Sheets, work: Work, pictures: Mapping[str, bytes], placed: Placed, shift: tuple[float, float]
) -> None:
    cut = placed.cut

    def put(shape: shapely.Geometry) -> shapely.Geometry:
        return shapely.transform(shape, lambda points: points + shift)

    if cut.stamp is not None:
        _draw_stamp(sheets, cut.stamp, pictures, shift)
    sheets.shape(put(cut.edge), width_pt=0.3, colour=RULE)
    sheets.shape(put(cut.paper), width_pt=0.5, colour=SOFT)
    sheets.shape(put(cut.careful), width_pt=1.5, colour=INK)
    if cut.hinge is not None:
        hinge = shapely.Point(cut.hinge[0] + shift[0], cut.hinge[1] + shift[1]).buffer(1.1)
        sheets.shape(hinge, width_pt=0.6, colour=HONEY)
    unit = work.card.unit
    left, _, right, bottom = cut.paper.bounds
    middle, y = (left + right) / 2 + shift[0], bottom + shift[1]
    words = f"{say_length(cut.mask.careful_mm, unit)} with care of {say_length(cut.mask.full_mm, unit)}"
    sheets.text(middle, y + 3.2, placed.label, size=8, style="SemiBold", centred=True)
    sheets.text(middle, y + 6.2, words, size=7, colour=SOFT, centred=True)


def _draw_stamp(sheets: Sheets, stamp: Stamp, pictures: Mapping[str, bytes], shift: tuple[float, float]) -> None:
    """Draw the stamp's own picture, faint, so that the maker sees which way up the mask is."""
    width, height = stamp.width_mm, stamp.height_mm
    sheets.canvas.drawImage(
        faint_picture(pictures[stamp.picture]),
        (shift[0] - width / 2) * mm,
        (sheets.height_mm - shift[1] - height / 2) * mm,
        width * mm,
        height * mm,
        mask="auto",
    )


def faint_picture(data: bytes, share: float = 0.3) -> ImageReader:
    """Make a stamp's picture faint, on clear paper."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data), formats=("PNG",)) as picture:
            alpha = picture.convert("RGBA").getchannel("A").point(lambda value: round(value * share))
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        raise PictureError("A stamp's picture is damaged; scan the stamp again.") from None
    else:
        faint = Image.new("RGBA", alpha.size, (0, 0, 0, 0))
        faint.putalpha(alpha)
        buffer = io.BytesIO()
        faint.save(buffer, "PNG")
    buffer.seek(0)
    return ImageReader(buffer)


# -- SVG -------------------------------------------------------------------------------------------------------------


def mask_sheet_svg(title: str, sheet: MaskSheet) -> bytes:
    """Write one sheet of masks as an SVG to cut: a user unit a millimetre, one path a mask.

    Returns
    -------
    bytes
        SVG 1.1, UTF-8; group ``cut`` holds what is cut, group ``careful`` the stretches that want care.
    """
    cut, careful = [], []
    for placed in sheet.masks:
        shift = (placed.x, placed.y)
        name = escape(placed.label, {'"': "&quot;"})
        cut.append(f'<path id="{name}" d="{_path(placed.cut.paper, shift)}"/>')
        if not shapely.is_empty(placed.cut.careful):
            careful.append(f'<path d="{_path(placed.cut.careful, shift)}"/>')
    size = f'width="{sheet.width_mm:.4f}mm" height="{sheet.height_mm:.4f}mm"'
    inner = "\n".join(cut)
    told = "\n".join(careful)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" {size} '
        f'viewBox="0 0 {sheet.width_mm:.4f} {sheet.height_mm:.4f}">\n<title>{escape(title)}</title>\n'
        f'<g id="cut" fill="none" stroke="#000000" stroke-width="0.1" fill-rule="evenodd">\n{inner}\n</g>\n'
        f'<g id="careful" fill="none" stroke="#a92c48" stroke-width="0.3" display="none">\n{told}\n</g>\n</svg>\n'
    ).encode()


def _path(shape: shapely.Geometry, shift: tuple[float, float]) -> str:
    lines = []
    for part in shapely.get_parts(shape):
        closed = isinstance(part, shapely.Polygon)
        rings = (part.exterior, *part.interiors) if closed else (part,)
        for ring in rings:
            points = shapely.get_coordinates(ring) + shift
            points = points[:-1] if closed else points
            if len(points) > 1:
                lines.append("M " + " L ".join(f"{x:.4f} {y:.4f}" for x, y in points) + (" Z" if closed else ""))
    return " ".join(lines)


def write_mask_sheets(folder: str | Path, work: Work, plan: MaskPlan, *, side: str = "front") -> list[Path]:
    """Write every sheet of masks as `masks-1.svg` and on, `inside-masks-1.svg` for the inside; gives the files.

    Raises
    ------
    StorageError
        When the folder cannot be made or written to.
    """
    place = make_folder(folder)
    files = {}
    for number, sheet in enumerate(lay_out_masks(work, plan), 1):
        title = f"{work.card.title or 'untitled card'}, {side}, masks, sheet {number}"
        files[f"{'' if side == 'front' else f'{side}-'}masks-{number}.svg"] = mask_sheet_svg(title, sheet)
    write_all(place, files.items())
    return [place / name for name in files]
