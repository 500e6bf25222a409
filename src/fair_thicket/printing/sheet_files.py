"""Cut files of a card's sheets: images with registration corners, and what a plotter can cut instead of dies."""

import csv
import io
from collections import defaultdict
from collections.abc import Sequence
from pathlib import Path

from fair_thicket.files.atomic import write_whole
from fair_thicket.files.press_pictures import make_folder
from fair_thicket.model.palette import name_of
from fair_thicket.packing.nesting import NestPiece, nest
from fair_thicket.printing.cut_file import CutFile, cut_file, laid, to_dxf, to_svg
from fair_thicket.shape.outline import Area, to_outline
from fair_thicket.sheets.planning import SheetsPlan
from fair_thicket.sheets.things import Thing

PLOTTER_GAP_MM, PLOTTER_EDGE_MM = 3.0, 6.0
SECONDS = 0.0
"""The first layout will do: it is not worth the wait to make it shorter."""


def cut_files_of(plan: SheetsPlan) -> list[CutFile]:
    """Make the cut files of a plan, a sheet each."""
    files = []
    for one in plan.stamping:
        for number, sheet in enumerate(one.nesting.sheets, 1):
            areas = [laid(plan.find(spot.id).area, spot) for spot in sheet.spots]
            name = f"images-{_plain(one.stock.name)}-{number}"
            files.append(cut_file(name, one.sheet_mm, areas, with_corners=True))
    return files + _shapes(plan)


def _shapes(plan: SheetsPlan) -> list[CutFile]:
    """Lay what dies or a knife would cut out on sheets of its paper, for the machine to cut."""
    by_paper: dict[str, list[Thing]] = defaultdict(list)
    sheets = {need.stock.colour: need.stock.sheet_mm for need in plan.needs}
    for one in plan.things:
        if one.tool in {"die", "knife"} and not one.is_stamped and one.copies:
            by_paper[one.paper].append(one)
    files = []
    for colour, things in by_paper.items():
        size = tuple(sorted(sheets[colour], reverse=True))
        fitting = [one for one in things if _fits(one, (size[0], size[1]))]
        pieces = [NestPiece(one.key, to_outline(_largest(one.area))[0], one.copies) for one in fitting]
        made = nest(pieces, (size[0], size[1]), gap_mm=PLOTTER_GAP_MM, edge_mm=PLOTTER_EDGE_MM, seconds=SECONDS)
        for number, sheet in enumerate(made.sheets, 1):
            areas = [laid(plan.find(spot.id).area, spot) for spot in sheet.spots]
            files.append(cut_file(f"shapes-{_plain(name_of(colour))}-{number}", (size[0], size[1]), areas))
    return files


def _fits(thing: Thing, size: tuple[float, float]) -> bool:
    long, short = sorted(thing.size_mm, reverse=True)
    room = 2 * PLOTTER_EDGE_MM
    return long <= size[0] - room and short <= size[1] - room


def _largest(area: Area) -> Area:
    import shapely

    found: Area = max(shapely.get_parts(area), key=lambda part: part.area)
    return found


def _plain(name: str) -> str:
    return "-".join("".join(letter if letter.isalnum() else " " for letter in name.lower()).split()) or "paper"


def write_sheet_files(plan: SheetsPlan, folder: str | Path) -> int:
    """Write the cut list, and every cut file as SVG and DXF, into a folder; gives how many files those are.

    Raises
    ------
    ThicketError
        When the folder cannot be made, or a file not written.
    """
    place = Path(folder)
    make_folder(place)
    files = {"cut-list.csv": cut_list(plan.things)}
    for one in cut_files_of(plan):
        files[f"{one.name}.svg"] = to_svg(one)
        files[f"{one.name}.dxf"] = to_dxf(one)
    for name, data in files.items():
        write_whole(place / name, data)
    return len(files)


def cut_list(things: Sequence[Thing]) -> bytes:
    """Write what there is to make as CSV (UTF-8)."""
    table = io.StringIO()
    writer = csv.writer(table, lineterminator="\n")
    writer.writerow(("what", "name", "count", "width mm", "height mm", "paper", "cut with", "side", "note"))
    for one in things:
        width, height = one.size_mm
        row = (one.what, one.name, one.copies, f"{width:.1f}", f"{height:.1f}", one.paper, one.tool, one.side, one.note)
        writer.writerow([f"'{cell}" if str(cell).startswith(("=", "+", "-", "@")) else cell for cell in row])
    return table.getvalue().encode("utf-8")
