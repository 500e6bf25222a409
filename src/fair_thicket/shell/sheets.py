"""Sheets from the shell: outlines nested, rectangles cut from stock, and the sheets of a card."""

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Literal

import msgspec

from fair_thicket.model.basics import Outline
from fair_thicket.model.errors import InputError
from fair_thicket.model.reading import Unreadable, read_file
from fair_thicket.shell.output import print_json

if TYPE_CHECKING:
    from fair_thicket.packing.stock import StockPlan

MOST_BYTES = 40_000_000
Length = Annotated[float, msgspec.Meta(gt=0, le=5000)]
Gap = Annotated[float, msgspec.Meta(ge=0, le=500)]
Name = Annotated[str, msgspec.Meta(min_length=1, max_length=200)]
Count = Annotated[int, msgspec.Meta(ge=1, le=10_000)]


class _Size(msgspec.Struct, forbid_unknown_fields=True):
    w_mm: Length
    h_mm: Length


class _Outlined(msgspec.Struct, forbid_unknown_fields=True):
    id: Name
    outline: Outline
    count: Count = 1


class NestJob(msgspec.Struct, forbid_unknown_fields=True):
    """What `nest` is asked."""

    sheet: _Size
    pieces: list[_Outlined]
    gap_mm: Gap = 3.0
    edge_mm: Gap = 10.0
    turns: Literal["any", "half", "none"] = "any"


class _Sheet(msgspec.Struct, forbid_unknown_fields=True):
    id: Name
    w_mm: Length
    h_mm: Length
    count: Annotated[int, msgspec.Meta(ge=0, le=100_000)] | None = None


class _Rectangle(msgspec.Struct, forbid_unknown_fields=True):
    id: Name
    w_mm: Length
    h_mm: Length
    count: Count = 1
    turns: bool = True


class StockJob(msgspec.Struct, forbid_unknown_fields=True):
    """What `stock` is asked."""

    sheets: list[_Sheet]
    pieces: list[_Rectangle]
    kerf_mm: Gap = 0.0


def _read(path: Path, kind: type[NestJob] | type[StockJob]) -> NestJob | StockJob:
    try:
        return msgspec.json.decode(read_file(path, MOST_BYTES), type=kind)
    except Unreadable as problem:
        raise InputError(f"{path.name} {problem}.") from None
    except UnicodeDecodeError:
        raise InputError(f"{path.name} is no JSON in UTF-8.") from None
    except msgspec.ValidationError as problem:
        raise InputError(f"{path.name} is no such job: {problem}.") from None
    except msgspec.DecodeError as problem:
        raise InputError(f"{path.name} is no JSON ({problem}).") from None


def _check_unlike(ids: list[str], name: str) -> None:
    if len(set(ids)) < len(ids):
        raise InputError(f"{name} has two pieces, or two sheets, of one id; give each its own.")


def nest(options: argparse.Namespace) -> int:
    """Nest outlines on sheets."""
    from fair_thicket.packing.layouts import NestPiece
    from fair_thicket.packing.nesting import nest as lay_out

    job = _read(options.job, NestJob)
    if not isinstance(job, NestJob):
        raise TypeError
    _check_unlike([one.id for one in job.pieces], options.job.name)
    found = lay_out(
        [NestPiece(one.id, one.outline, one.count) for one in job.pieces],
        (job.sheet.w_mm, job.sheet.h_mm),
        gap_mm=job.gap_mm,
        edge_mm=job.edge_mm,
        turns=job.turns,
        seconds=options.seconds,
    )
    if options.json:
        sheets = [
            {"pieces": [spot._asdict() for spot in sheet.spots], "used_mm": sheet.used_mm} for sheet in found.sheets
        ]
        return print_json({"sheets": sheets, "bound": found.bound})
    proof = "none fewer will do" if len(found.sheets) == found.bound else f"at least {found.bound} are wanted"
    print(f"{len(found.sheets)} sheets, {proof}.")
    for number, sheet in enumerate(found.sheets, 1):
        print(f"Sheet {number}: {len(sheet.spots)} pieces, {sheet.used_mm:.1f} mm of its width taken")
        for spot in sheet.spots:
            print(f"  {spot.id}: {spot.x_mm:.1f}, {spot.y_mm:.1f} mm, turned {spot.angle_deg:.1f}°")
    return 0


def stock(options: argparse.Namespace) -> int:
    """Plan how rectangles are cut from sheets."""
    from fair_thicket.packing.stock import StockPiece, StockSheet, plan_cuts

    job = _read(options.job, StockJob)
    if not isinstance(job, StockJob):
        raise TypeError
    for ids in ([one.id for one in job.pieces], [one.id for one in job.sheets]):
        _check_unlike(ids, options.job.name)
    plan = plan_cuts(
        [StockSheet(one.id, one.w_mm, one.h_mm, one.count) for one in job.sheets],
        [StockPiece(one.id, one.w_mm, one.h_mm, one.count, one.turns) for one in job.pieces],
        kerf_mm=job.kerf_mm,
        seconds=options.seconds,
    )
    if plan.missing:
        told = ", ".join(f"{count} of {name}" for name, count in plan.missing.items())
        raise InputError(f"There are too few sheets: {told} more are wanted.")
    if options.json:
        return print_json(_stock_document(plan))
    _say_stock(plan)
    return 0


def _stock_document(plan: "StockPlan") -> dict[str, object]:
    sheets = [
        {
            "sheet": one.sheet,
            "cuts": [cut._asdict() for cut in one.cuts],
            "pieces": [
                {"id": piece.id, "x_mm": piece.x_mm, "y_mm": piece.y_mm, "turned": piece.turned} for piece in one.pieces
            ],
            "offcut": {"w_mm": one.offcut_mm[0], "h_mm": one.offcut_mm[1]},
        }
        for one in plan.sheets
    ]
    return {"sheets": sheets, "optimal": plan.is_fewest, "bound": plan.bound, "best": plan.is_best}


def _say_stock(plan: "StockPlan") -> None:
    proof = "none fewer will do" if plan.is_fewest else f"at least {plan.bound} are wanted"
    print(f"{len(plan.sheets)} sheets, {proof}.")
    for number, one in enumerate(plan.sheets, 1):
        print(f"Sheet {number}, {one.sheet}: {len(one.cuts)} cuts")
        for cut in one.cuts:
            print(f"  cut from {cut.x1:.1f}, {cut.y1:.1f} to {cut.x2:.1f}, {cut.y2:.1f} mm")
        for piece in one.pieces:
            print(f"  {piece.id} at {piece.x_mm:.1f}, {piece.y_mm:.1f} mm{', turned' if piece.turned else ''}")


def sheets(options: argparse.Namespace) -> int:
    """Write the cut list and the cut files of a card into a folder."""
    from fair_thicket.files.card_file import open_card
    from fair_thicket.masks import plan_with_pins
    from fair_thicket.model.sides import sides_of
    from fair_thicket.printing.sheet_files import write_sheet_files
    from fair_thicket.sheets import list_masks, plan_sheets

    work, _ = open_card(options.card)
    plan = plan_sheets(work, _supplies(options), seconds=options.seconds)
    masks = [one for side, turned in sides_of(work) for one in list_masks(turned, plan_with_pins(turned)[0], side)]
    written = write_sheet_files(plan, options.out, masks)
    document = {
        "things": [
            {
                "key": one.key, "name": one.name, "what": one.what, "tool": one.tool, "count": one.copies,
                "w_mm": one.size_mm[0], "h_mm": one.size_mm[1], "paper": one.paper,
            }
            for one in (*plan.things, *masks)
        ],
        "stamping": [
            {
                "paper": one.stock.name, "sheets": len(one.nesting.sheets), "bound": one.nesting.bound,
                "placings": [len(placings) for placings in one.placings],
            }
            for one in plan.stamping
        ],
        "passes": {"count": len(plan.passes.passes), "bound": plan.passes.bound},
        "stock": [
            {
                "paper": one.stock.name, "sheets": len(one.plan.sheets), "bound": one.plan.bound,
                "cuts": sum(len(sheet.cuts) for sheet in one.plan.sheets), "optimal": one.plan.is_fewest,
            }
            for one in plan.stock
        ],
        "papers": [{"paper": one.stock.name, "wanted": one.wanted, "left": one.stock.left} for one in plan.needs],
        "misfits": [*plan.misfits, *written.left_out],
        "files": written.names,
    }  # fmt: skip
    if options.json:
        return print_json(document)
    print(f"{len(plan.things) + len(masks)} things to make; {len(written.names)} files in {options.out}.")
    for need in plan.needs:
        print(f"  {need.stock.name}: {need.wanted} sheets")
    for words in (*plan.misfits, *written.left_out):
        print(f"  {words}")
    return 0


def _supplies(options: argparse.Namespace) -> list:  # type: ignore[type-arg]  # what the table holds
    if options.supplies is None:
        return []
    from fair_thicket.files.supplies_csv import read_supplies
    from fair_thicket.intake.apart import TABLE_S, run_apart

    return run_apart(read_supplies, options.supplies, name=options.supplies.name, seconds=TABLE_S)
