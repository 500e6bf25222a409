"""Cut files of a card's sheets: images with registration corners, and what a plotter can cut instead of dies."""

import csv
import io
from collections import defaultdict
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

from fair_thicket.files.atomic import write_all
from fair_thicket.files.press_pictures import make_folder
from fair_thicket.packing.layouts import NestPiece
from fair_thicket.packing.nesting import nest
from fair_thicket.printing.cut_file import CutFile, cut_file, laid, to_dxf, to_svg
from fair_thicket.shape.outline import Area, to_outline
from fair_thicket.sheets.planning import SheetsPlan
from fair_thicket.sheets.stocks import Stock, is_within
from fair_thicket.sheets.things import Thing

PLOTTER_GAP_MM, PLOTTER_EDGE_MM = 3.0, 6.0
SECONDS = 0.0
"""The first layout will do: it is not worth the wait to make it shorter."""


class Written(NamedTuple):
    """Names of the files that were written, and sentences about what no cut file holds."""

    names: list[str]
    left_out: list[str]


def cut_files_of(plan: SheetsPlan) -> list[CutFile]:
    """Make the cut files of a plan, a sheet each; no two have one name."""
    labels = _labels(plan)
    files = []
    for one in plan.stamping:
        for number, sheet in enumerate(one.nesting.sheets, 1):
            areas = [laid(plan.find(spot.id).area, spot) for spot in sheet.spots]
            files.append(cut_file(f"images-{labels[one.stock]}-{number}", one.sheet_mm, areas, with_corners=True))
    return files + _shapes(plan, labels)


def left_out_of(plan: SheetsPlan) -> list[str]:
    """Tell what dies or a knife would cut out that is too large for the machine's margins on its sheet."""
    return [
        f"The {one.name} is too large to be cut by the machine from {plan.stock_of(one).name}: cut it by hand."
        for one in _for_machine(plan)
        if not _fits(one, plan.stock_of(one))
    ]


def _labels(plan: SheetsPlan) -> dict[Stock, str]:
    """Give each paper a name that a file can have; papers of one name are told apart by number."""
    labels: dict[Stock, str] = {}
    for need in plan.needs:
        plain = _plain(need.stock.name)
        others = sum(_plain(stock.name) == plain for stock in labels)
        labels[need.stock] = f"{plain}-paper-{others + 1}" if others else plain
    return labels


def _for_machine(plan: SheetsPlan) -> list[Thing]:
    return [one for one in plan.things if one.tool in {"die", "knife"} and not one.is_stamped and one.copies]


def _shapes(plan: SheetsPlan, labels: Mapping[Stock, str]) -> list[CutFile]:
    """Lay what dies or a knife would cut out on sheets of its paper, for the machine to cut."""
    by_paper: dict[Stock, list[Thing]] = defaultdict(list)
    for one in _for_machine(plan):
        by_paper[plan.stock_of(one)].append(one)
    files = []
    for stock, things in by_paper.items():
        size = tuple(sorted(stock.sheet_mm, reverse=True))
        fitting = [one for one in things if _fits(one, stock)]
        pieces = [NestPiece(one.key, to_outline(_largest(one.area))[0], one.copies) for one in fitting]
        made = nest(pieces, (size[0], size[1]), gap_mm=PLOTTER_GAP_MM, edge_mm=PLOTTER_EDGE_MM, seconds=SECONDS)
        for number, sheet in enumerate(made.sheets, 1):
            areas = [laid(plan.find(spot.id).area, spot) for spot in sheet.spots]
            files.append(cut_file(f"shapes-{labels[stock]}-{number}", (size[0], size[1]), areas))
    return files


def _fits(thing: Thing, stock: Stock) -> bool:
    width, height = stock.sheet_mm
    return is_within(thing.size_mm, (width - 2 * PLOTTER_EDGE_MM, height - 2 * PLOTTER_EDGE_MM))


def _largest(area: Area) -> Area:
    import shapely

    found: Area = max(shapely.get_parts(area), key=lambda part: part.area)
    return found


def _plain(name: str) -> str:
    return "-".join("".join(letter if letter.isalnum() else " " for letter in name.lower()).split()) or "paper"


def write_sheet_files(plan: SheetsPlan, folder: str | Path, masks: Sequence[Thing] = ()) -> Written:
    """Write the cut list, masks to be cut by hand too, and every cut file as SVG and DXF, into a folder.

    Raises
    ------
    ThicketError
        When the folder cannot be made, or a file not written.
    """
    place = Path(folder)
    make_folder(place)
    files = {"cut-list.csv": cut_list([*plan.things, *masks])}
    for one in cut_files_of(plan):
        files[f"{one.name}.svg"] = to_svg(one)
        files[f"{one.name}.dxf"] = to_dxf(one)
    write_all(place, files.items())
    return Written(sorted(files), left_out_of(plan))


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
