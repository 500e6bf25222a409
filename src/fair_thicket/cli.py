"""The shell face: the same engines as the desk, in words for people or one JSON document.

Exit codes: 0 done, 1 cannot (one line on stderr), 2 wrong usage.
"""

import argparse
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from fair_thicket import __version__
from fair_thicket.model.card import Work
from fair_thicket.model.errors import InputError, ThicketError
from fair_thicket.model.formats import SHEETS
from fair_thicket.model.plan import SHEET, MaskPlan
from fair_thicket.model.units import Unit, parse_length, say_length


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the shell face; returns the exit code."""
    options = _parser().parse_args(arguments)
    try:
        code: int = options.run(options)
    except ThicketError as problem:
        print(f"fair-thicket: {problem}", file=sys.stderr)
        return 1
    except BrokenPipeError:
        return 1
    return code


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="fair-thicket",
        description="Rehearse a stamped scene card before the first impression.",
        epilog="Without a subcommand the desk opens, with CARD when one is named first: fair-thicket open CARD.thicket",
    )
    parser.add_argument("--version", action="version", version=f"Fair Thicket {__version__}")
    parser.add_argument("--demo", action="store_true", help="open the demo card")
    parser.set_defaults(run=_open_desk, card=None)
    commands = parser.add_subparsers(title="subcommands", metavar="")

    opened = _command(commands, "open", _open_desk, "open a card on the desk")
    opened.add_argument("card", type=Path)
    opened.set_defaults(demo=False)

    scan = _command(commands, "scan", _scan, "find the stamped images on a scanned sheet")
    scan.add_argument("sheet", type=Path, metavar="SHEET")
    scale = scan.add_mutually_exclusive_group()
    scale.add_argument("--dpi", type=float, help="resolution of the scan, when the file does not say it")
    scale.add_argument(
        "--sheet",
        dest="size",
        metavar="letter|a4|WxH",
        help="size of the sheet, to work the resolution out from; WxH in mm, or with a unit: 8.5inx11in",
    )
    scan.add_argument("--gap", type=float, metavar="MM", help="parts nearer than this are one image")
    _json_flag(scan)

    for name, run, words in (("masks", _masks, "plan presses and masks"), ("visible", _visible, "what is seen of all")):
        command = _command(commands, name, run, words)
        command.add_argument(
            "scene", type=Path, metavar="SCENE", help="a card's card.json, a .thicket file or bare JSON"
        )
        _json_flag(command)

    spanned = _command(commands, "span", _span, "span a length with cuts of a border die")
    spanned.add_argument("border", type=Path, metavar="BORDER.svg", help="the die's outline, life size")
    spanned.add_argument("--to", required=True, metavar="LENGTH", help="such as 8.5in or 216mm; a bare number is mm")
    spanned.add_argument("--flip", action="store_true", help="cuts may be turned over")
    spanned.add_argument(
        "--frame", action="store_true", help="both ends stay as they are, as a window frame's bars must"
    )
    spanned.add_argument("--overlap", metavar="LENGTH", help="for the glue; 6 mm unless said otherwise")
    _json_flag(spanned)

    advice = _command(commands, "advice", _advice, "judge a card")
    rehearse = _command(commands, "rehearse", _rehearse, "perform the plan on simulated paper")
    printed = _command(commands, "print", _print, "print the plan as PDF, life size")
    render = _command(commands, "render", _render, "picture the composed scene")
    for command in (advice, rehearse, printed, render):
        command.add_argument("card", type=Path, metavar="CARD.thicket")
    _json_flag(advice)
    _json_flag(rehearse)
    rehearse.add_argument("-o", dest="out", type=Path, required=True, metavar="DIR", help="folder for the pictures")
    printed.add_argument("-o", dest="out", type=Path, required=True, metavar="FILE.pdf")
    printed.add_argument("--svg", type=Path, metavar="DIR", help="also write the sheets of masks as SVG to cut")
    printed.add_argument("--paper", choices=["letter", "a4"], help="default: by the card's unit")
    render.add_argument("-o", dest="out", type=Path, required=True, metavar="FILE.png")
    render.add_argument("--dpi", type=float, default=300.0)
    return parser


def _command(commands: Any, name: str, run: Any, words: str) -> argparse.ArgumentParser:
    parser: argparse.ArgumentParser = commands.add_parser(name, help=words, description=f"{words.capitalize()}.")
    parser.set_defaults(run=run)
    return parser


def _json_flag(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--json", action="store_true", help="print one JSON document, lengths in mm")


def _open_desk(options: argparse.Namespace) -> int:
    from fair_thicket.desk.application import run

    return run(card=options.card, demo=options.demo)


def _print_json(document: object) -> int:
    print(json.dumps(document, ensure_ascii=False))
    return 0


def _sheet_size(words: str) -> tuple[float, float]:
    if words.lower() in SHEETS:
        return SHEETS[words.lower()]
    parts = words.lower().replace("×", "x").split("x")
    if len(parts) != 2:
        raise InputError(f"“{words[:30]}” is not a sheet; say letter, a4, or a width and height like 216x279.")
    width, height = (parse_length(part, Unit.MM) for part in parts)
    return width, height


def _scan(options: argparse.Namespace) -> int:
    from fair_thicket.intake import scan_file

    size = _sheet_size(options.size) if options.size else None
    sheet = scan_file(options.sheet, dpi=options.dpi, sheet_mm=size, gap_mm=options.gap)
    if options.json:
        return _print_json(
            {
                "dpi": sheet.dpi,
                "page": {"w_mm": sheet.width_mm, "h_mm": sheet.height_mm, "skew_deg": sheet.skew_deg},
                "images": [
                    {
                        "name": image.name,
                        "cx_mm": round(image.cx, 3),
                        "cy_mm": round(image.cy, 3),
                        "w_mm": round(image.width_mm, 3),
                        "h_mm": round(image.height_mm, 3),
                        "outline": [[round(x + image.cx, 3), round(y + image.cy, 3)] for x, y in image.outline],
                    }
                    for image in sheet.images
                ],
            }
        )
    turned = f", turned {sheet.skew_deg:.1f}°" if sheet.skew_from != "none" else ""
    print(
        f"{len(sheet.images)} images on a page of {sheet.width_mm:.1f} × {sheet.height_mm:.1f} mm "
        f"at {sheet.dpi:g} dpi{turned}"
    )
    for image in sheet.images:
        print(f"  {image.name:10} {image.width_mm:6.1f} × {image.height_mm:.1f} mm at {image.cx:.1f}, {image.cy:.1f}")
    return 0


def _masks(options: argparse.Namespace) -> int:
    from fair_thicket.files.bare_scene import read_scene
    from fair_thicket.masks import plan_problem, plan_with_pins, pose_bare

    scene = read_scene(options.scene)
    if isinstance(scene, Work):
        plan, refused = plan_with_pins(scene)
        for one in refused:
            print(f"fair-thicket: {one.reason}", file=sys.stderr)
    else:
        rows = [(one.id, one.stamp, one.outline, one.holes) for one in scene.impressions]
        plan = plan_problem(pose_bare(rows, scene.copies))
    if options.json:
        return _print_json(_plan_document(plan))
    print(
        f"{plan.press_count} presses, {len(plan.masks)} masks to cut, {plan.careful_mm:.0f} mm with care, "
        f"{'proven best' if plan.optimal else 'best found, not proven'}"
    )
    for index, press in enumerate(plan.presses):
        covered = f"; masks on {', '.join(press.masked)}" if press.masked else ""
        what = "ink" if press.is_ink else f"press {plan.number_of(index)}"
        where = f" on {'the sheet to cut from' if press.surface == SHEET else press.surface}" if press.surface else ""
        print(f"  {what}{where}: {', '.join(press.impressions)}{covered}")
    return 0


def _plan_document(plan: MaskPlan) -> dict[str, object]:
    """Give a plan as documented; what only cards have is said only where it is so."""
    presses = []
    for press in plan.presses:
        told: dict[str, object] = {"impressions": list(press.impressions), "masked": list(press.masked)}
        told |= {"surface": press.surface} if press.surface else {}
        told |= {"ink": True} if press.is_ink else {}
        told |= {"turned": list(press.turned)} if press.turned else {}
        presses.append(told)
    document: dict[str, object] = {
        "presses": presses,
        "masks": [
            {"stamp": mask.stamp, "for": list(mask.serves), "careful_mm": mask.careful_mm, "full_mm": mask.full_mm}
            for mask in plan.masks
        ],
        "placements": plan.placements,
        "deepest_pile": plan.deepest_pile,
        "optimal": plan.optimal,
    }
    if plan.counters:
        document["counters"] = [
            {"opening": one.opening, "for": list(one.serves), "careful_mm": one.careful_mm, "full_mm": one.full_mm}
            for one in plan.counters
        ]
    if not plan.optimal:
        document["at_least"] = {"presses": plan.fewest_presses, "careful_mm": plan.least_careful_mm}
    return document


def _visible(options: argparse.Namespace) -> int:
    from fair_thicket.files.bare_scene import read_scene
    from fair_thicket.scene import see, see_areas
    from fair_thicket.shape.outline import to_area

    scene = read_scene(options.scene)
    if isinstance(scene, Work):
        sights = see(scene)
    else:
        areas = [to_area(one.outline, one.holes) for one in scene.impressions]
        sights = see_areas([one.id for one in scene.impressions], areas, (scene.panel.w_mm, scene.panel.h_mm))
    if options.json:
        return _print_json(
            {
                "pieces": [
                    {
                        "id": sight.id,
                        "area_mm2": round(sight.area_mm2, 4),
                        "visible_mm2": round(sight.visible_mm2, 4),
                        "hidden_by": {key: round(area, 4) for key, area in sight.hidden_by.items()},
                    }
                    for sight in sights
                ]
            }
        )
    for sight in sights:
        hidden = f", under {', '.join(sight.hidden_by)}" if sight.hidden_by else ""
        print(f"  {sight.id:24} {sight.visible_mm2:8.1f} of {sight.area_mm2:.1f} mm²{hidden}")
    return 0


def _span(options: argparse.Namespace) -> int:
    from fair_thicket.backdrop import Joining, span_area
    from fair_thicket.intake.drawing_file import read_drawing
    from fair_thicket.shape.outline import to_area

    length = parse_length(options.to, Unit.MM)
    overlap = parse_length(options.overlap, Unit.MM) if options.overlap else 6.0
    if not 0.5 <= length <= 5000:
        raise InputError(f"{length:g} mm is out of range; take 0.5 to 5000 mm.")
    if not 0.25 <= overlap <= 50:
        raise InputError(f"An overlap of {overlap:g} mm is out of range; take 0.25 to 50 mm.")
    sheet = read_drawing(options.border, as_dies=True)
    largest = max(sheet.images, key=lambda image: image.width_mm)
    area = to_area(largest.outline, largest.pockets)
    joining = Joining(may_flip=options.flip, overlap_mm=overlap, keep_ends=options.frame)
    found = span_area(area, length, joining)
    if options.json:
        return _print_json(
            {
                "pieces": [
                    {"from_mm": cut.from_mm, "to_mm": cut.to_mm, "flipped": cut.flipped, "at_mm": cut.at_mm}
                    for cut in found.cuts
                ],
                "joints": [
                    {"at_mm": joint.at_mm, "mismatch_mm": joint.mismatch_mm, "peek_mm2": joint.peek_mm2}
                    for joint in found.joints
                ],
                "optimal": found.optimal,
            }
        )
    again = f", repeats every {found.repeat_mm:.2f} mm" if found.repeat_mm else ""
    print(f"{len(found.cuts)} cut{'s' * (len(found.cuts) > 1)} of a die of {largest.width_mm:.1f} mm{again}")
    for number, cut in enumerate(found.cuts, 1):
        over = ", turned over" if cut.flipped else ""
        print(f"  cut {number}: {cut.from_mm:.2f} to {cut.to_mm:.2f} mm of the die{over}, laid at {cut.at_mm:.2f} mm")
    for joint in found.joints:
        side = "left" if joint.left_over else "right"
        print(
            f"  joint at {joint.at_mm:.2f} mm, the {side} cut on top: edges {joint.mismatch_mm:.2f} mm apart, "
            f"{joint.peek_mm2:.1f} mm² peek out"
        )
    return 0


def _advice(options: argparse.Namespace) -> int:
    from fair_thicket import masks
    from fair_thicket.advice import advise
    from fair_thicket.files.card_file import open_card

    work, pictures = open_card(options.card)
    plan, refused = masks.plan_with_pins(work)
    rehearsal = masks.rehearse(work, pictures, plan)
    findings = advise(work, plan, rehearsal, refused=refused, pictures=pictures)
    if options.json:
        return _print_json(
            {
                "findings": [
                    {
                        "code": one.code,
                        "weight": one.weight.name.lower(),
                        "title": one.title,
                        "text": one.text,
                        "measure": round(one.measure, 4),
                        "unit": one.unit,
                        "pieces": list(one.pieces),
                        "station": one.station,
                        "dismissed": one.is_dismissed,
                        "remedy": one.remedy.words if one.remedy else None,
                    }
                    for one in findings
                ]
            }
        )
    for one in findings:
        if one.is_dismissed:
            continue
        print(f"[{one.weight.name.lower()}] {one.title}. {one.text}{f' → {one.remedy.words}.' if one.remedy else ''}")
    return 0


def _rehearse(options: argparse.Namespace) -> int:
    from fair_thicket import masks
    from fair_thicket.files.card_file import open_card
    from fair_thicket.files.frames import write_frames

    work, pictures = open_card(options.card)
    plan, _ = masks.plan_with_pins(work)
    rehearsal = masks.rehearse(work, pictures, plan)
    frames = write_frames(options.out, list(rehearsal.papers), rehearsal.scene, is_finished=rehearsal.is_finished)
    if options.json:
        return _print_json(
            {
                "presses": plan.press_count,
                "equal": not rehearsal.differences,
                "differences": [
                    {
                        "kind": one.kind,
                        "front": one.front,
                        "back": one.back,
                        "width_mm": one.width_mm,
                        "length_mm": one.length_mm,
                        "area_mm2": one.area_mm2,
                    }
                    for one in rehearsal.differences
                ],
                "frames": frames,
            }
        )
    print(f"{plan.press_count} presses rehearsed; pictures in {options.out}")
    for one in rehearsal.differences:
        print(
            f"  {one.kind}: {one.back} at {one.front}, {one.width_mm:.2f} mm wide, "
            f"{say_length(one.length_mm, Unit.MM)} of line"
        )
    if not rehearsal.differences:
        print("  the rehearsal equals the scene")
    return 0


def _print(options: argparse.Namespace) -> int:
    from fair_thicket import masks
    from fair_thicket.files.atomic import write_whole
    from fair_thicket.files.card_file import open_card
    from fair_thicket.files.mask_sheets import write_mask_sheets
    from fair_thicket.files.places import refuse_target
    from fair_thicket.files.plan_pdf import plan_pdf

    refuse_target(options.out, options.card, what="the PDF")
    work, pictures = open_card(options.card)
    plan, _ = masks.plan_with_pins(work)
    steps = [(step.kind, step.press, step.words) for step in masks.list_steps(work, plan)]
    write_whole(options.out, plan_pdf(work, pictures, plan, steps, paper=options.paper))
    print(f"Printed to {options.out}; print it at 100 % and check its bar with a ruler.")
    if options.svg:
        written = write_mask_sheets(options.svg, work, plan)
        print(f"{len(written)} sheets of masks to cut in {options.svg}")
    return 0


def _render(options: argparse.Namespace) -> int:
    from fair_thicket.files.atomic import write_whole
    from fair_thicket.files.card_file import encode_png, open_card
    from fair_thicket.files.places import refuse_target
    from fair_thicket.shape.painting import paint

    if not 30 <= options.dpi <= 1200:
        raise InputError(f"{options.dpi:g} dpi is out of range; take 30 to 1200.")
    refuse_target(options.out, options.card, what="the picture")
    work, pictures = open_card(options.card)
    write_whole(options.out, encode_png(paint(work, pictures, dpi=options.dpi), options.dpi))
    print(f"Pictured at {options.dpi:g} dpi in {options.out}")
    return 0
