"""What a card's file is asked: its plan, what is seen, advice, rehearsal, print and picture; both its sides."""

import argparse
import itertools
import sys
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

from fair_thicket.model.card import Work
from fair_thicket.model.errors import InputError
from fair_thicket.model.plan import SHEET, MaskPlan
from fair_thicket.model.sides import sides_of, turn_over
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.shell.output import print_json

if TYPE_CHECKING:
    from fair_thicket.masks.differences import Difference

Document = dict[str, object]
MOST_PIXELS = 60_000_000
"""A larger picture would take more memory than a small machine has."""


def masks(options: argparse.Namespace) -> int:
    """Plan presses and masks of a scene."""
    from fair_thicket.files.bare_scene import read_scene
    from fair_thicket.masks import plan_problem, plan_with_pins, pose_bare

    scene = read_scene(options.scene)
    if not isinstance(scene, Work):
        rows = [(one.id, one.stamp, one.outline, one.holes) for one in scene.impressions]
        plans = [("front", plan_problem(pose_bare(rows, scene.copies)))]
    else:
        plans = []
        for side, work in sides_of(scene):
            plan, refused = plan_with_pins(work)
            plans.append((side, plan))
            for one in refused:
                print(f"fair-thicket: {one.reason}", file=sys.stderr)
    if options.json:
        return print_json(_by_side({side: plan_document(plan) for side, plan in plans}))
    for side, plan in plans:
        _say_plan(plan, side if len(plans) > 1 else "")
    return 0


def _by_side(documents: dict[str, Document]) -> Document:
    """Return one document: the front's, with the inside's in it; the inside's alone where the front bears nothing."""
    if "front" not in documents:
        return {"inside": documents["inside"]}
    return documents["front"] | ({"inside": documents["inside"]} if "inside" in documents else {})


def _say_plan(plan: MaskPlan, side: str) -> None:
    print(
        f"{f'{side}: ' if side else ''}{plan.press_count} presses, {len(plan.masks)} masks to cut, "
        f"{plan.careful_mm:.0f} mm with care, {'proven best' if plan.optimal else 'best found, not proven'}"
    )
    for index, press in enumerate(plan.presses):
        covered = f"; masks on {', '.join(press.masked)}" if press.masked else ""
        what = plan.name_of(index).lower()
        where = f" on {'the sheet to cut from' if press.surface == SHEET else press.surface}" if press.surface else ""
        print(f"  {what}{where}: {', '.join(press.impressions)}{covered}")


def plan_document(plan: MaskPlan) -> Document:
    """Return a plan as documented; what only cards have is said only where it is so."""
    presses = []
    for press in plan.presses:
        told: Document = {"impressions": list(press.impressions), "masked": list(press.masked)}
        told |= {"surface": press.surface} if press.surface else {}
        told |= {"ink": True} if press.is_ink else {}
        told |= {"by_hand": True} if press.by_hand else {}
        told |= {"turned": list(press.turned)} if press.turned else {}
        presses.append(told)
    document: Document = {
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


def visible(options: argparse.Namespace) -> int:
    """Say what is seen of every piece."""
    from fair_thicket.files.bare_scene import read_scene
    from fair_thicket.laid.visibility import see, see_areas
    from fair_thicket.shape.outline import to_area

    scene = read_scene(options.scene)
    if isinstance(scene, Work):
        seen = [(side, see(work)) for side, work in sides_of(scene)]
    else:
        areas = [to_area(one.outline, one.holes) for one in scene.impressions]
        panel = (scene.panel.w_mm, scene.panel.h_mm)
        seen = [("front", see_areas([one.id for one in scene.impressions], areas, panel))]
    if options.json:
        told: dict[str, Document] = {
            side: {
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
            for side, sights in seen
        }
        return print_json(_by_side(told))
    for side, sights in seen:
        if len(seen) > 1:
            print(f"{side}:")
        for sight in sights:
            hidden = f", under {', '.join(sight.hidden_by)}" if sight.hidden_by else ""
            print(f"  {sight.id:24} {sight.visible_mm2:8.1f} of {sight.area_mm2:.1f} mm²{hidden}")
    return 0


def advice(options: argparse.Namespace) -> int:
    """Judge both sides of a card."""
    from fair_thicket import masks as engine
    from fair_thicket.advice import advise
    from fair_thicket.engines import Known, actions_of
    from fair_thicket.files.card_file import open_card

    whole, pictures = open_card(options.card)
    found = []
    for side, work in sides_of(whole):
        plan, refused = engine.plan_with_pins(work)
        made = engine.rehearse(work, pictures, plan, actions=actions_of(work, plan))
        known = Known(plan, made, refused=refused, pictures=pictures)
        found += [(side, one) for one in advise(work, known)]
    if options.json:
        return print_json(
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
                        "side": side,
                        "station": one.station,
                        "dismissed": one.is_dismissed,
                        "remedy": one.remedy.words if one.remedy else None,
                        "more": [other.words for other in one.more],
                    }
                    for side, one in found
                ]
            }
        )
    has_two = len({side for side, _ in found}) > 1
    for side, one in found:
        if not one.is_dismissed:
            where = f"{side}: " if has_two else ""
            then = f" → {one.remedy.words}." if one.remedy else ""
            print(f"[{one.weight.name.lower()}] {where}{one.title}. {one.text}{then}")
    return 0


def rehearse(options: argparse.Namespace) -> int:
    """Perform the plan of both sides, or one that is given, on simulated paper."""
    from fair_thicket import masks as engine
    from fair_thicket.engines import actions_by_schedule
    from fair_thicket.files.card_file import open_card
    from fair_thicket.files.plan_file import read_plans
    from fair_thicket.files.press_pictures import name_landing, write_frames

    whole, pictures = open_card(options.card)
    sides = dict(sides_of(whole))
    plans = read_plans(options.plan, sides) if options.plan is not None else {}
    plans |= {side: engine.plan_with_pins(work)[0] for side, work in sides.items() if side not in plans}
    actions = actions_by_schedule(whole, plans)
    documents: dict[str, Document] = {}
    for side, work in sides.items():
        made = engine.rehearse(work, pictures, plans[side], actions=actions[side])
        folder = options.out if side == "front" else options.out / side
        landing = engine.land(plans[side], made)
        landed = itertools.islice(landing.papers, 1, None)
        frames = write_frames(folder, made.papers, made.scene, is_finished=made.is_finished, landed=landed)
        documents[side] = {
            "presses": plans[side].press_count,
            "equal": not made.differences,
            "accepted_mm2": made.accepted_mm2,
            "differences": [_difference(one) for one in made.differences],
            "frames": frames,
            "landed": [
                {"piece": key, "how": how, "frame": name_landing(number)}
                for number, (key, how) in enumerate(zip(landing.pieces, landing.kinds, strict=True), 1)
            ],
        }
        if not options.json:
            print(f"{plans[side].press_count} presses of the {side} rehearsed; pictures in {folder}")
            for one in made.differences:
                print("  {}. {}".format(*engine.tell_difference(one, work, plans[side])))
            if not made.differences:
                print("  the rehearsal equals the scene")
    return print_json(_by_side(documents)) if options.json else 0


def _difference(one: "Difference") -> Document:
    return {
        "kind": one.kind,
        "what": one.what,
        "front": one.front,
        "back": one.back,
        "press": one.press + 1 if one.press >= 0 else None,
        "width_mm": one.width_mm,
        "length_mm": one.length_mm,
        "area_mm2": one.area_mm2,
        "places": [[list(corner) for corner in ring] for ring in one.places],
    }


def print_plan(options: argparse.Namespace) -> int:
    """Print the plan of both sides as PDF, and the masks as SVG where that is wanted."""
    from fair_thicket import masks as engine
    from fair_thicket.files.atomic import write_whole
    from fair_thicket.files.card_file import open_card
    from fair_thicket.files.places import refuse_target
    from fair_thicket.making import list_all_steps, print_card
    from fair_thicket.printing.mask_sheets import write_mask_sheets
    from fair_thicket.printing.plan_pdf import Side

    refuse_target(options.out, options.card, what="the PDF")
    whole, pictures = open_card(options.card)
    sides = []
    for name, work in sides_of(whole):
        plan, _ = engine.plan_with_pins(work)
        sides.append(Side(name, work, plan, list_all_steps(work, plan)))
    write_whole(options.out, print_card(sides, pictures, paper=options.paper))
    print(f"Printed to {options.out}; print it at 100 % and check its bar with a ruler.")
    if options.svg:
        written = [path for one in sides for path in write_mask_sheets(options.svg, one.work, one.plan, side=one.name)]
        print(f"{len(written)} sheets of masks to cut in {options.svg}")
    return 0


def ask_of_sides(
    ask: Callable[[Work, Mapping[str, bytes]], Mapping[str, object]],
    say: Callable[[Mapping[str, object]], Sequence[str]],
    options: argparse.Namespace,
) -> int:
    """Ask about both sides of a card, and print it as one document or as lines."""
    from fair_thicket.files.card_file import open_card

    whole, pictures = open_card(options.card)
    told = {side: dict(ask(work, pictures)) for side, work in sides_of(whole)}
    if options.json:
        return print_json(_by_side(told))
    for side, document in told.items():
        if len(told) > 1:
            print(f"{side}:")
        for line in say(document):
            print(line)
    return 0


def render(options: argparse.Namespace) -> int:
    """Picture one side of the composed card."""
    from fair_thicket.files.atomic import write_whole
    from fair_thicket.files.card_file import encode_png, open_card
    from fair_thicket.files.places import refuse_target
    from fair_thicket.ink.painting import paint

    if not 30 <= options.dpi <= 1200:
        raise InputError(f"{options.dpi:g} dpi is out of range; take 30 to 1200.")
    refuse_target(options.out, options.card, what="the picture")
    whole, pictures = open_card(options.card)
    work = turn_over(whole) if options.side == "inside" else whole
    width, height = work.card.panel
    pixels = width * height * (options.dpi / MM_PER_INCH) ** 2
    if pixels > MOST_PIXELS:
        most = int(MM_PER_INCH * (MOST_PIXELS / (width * height)) ** 0.5)
        told = f"{options.dpi:g} dpi would make {pixels / 1e6:.0f} million dots"
        raise InputError(f"{told}; take {most} dpi at the most.")
    write_whole(options.out, encode_png(paint(work, pictures, dpi=options.dpi), options.dpi))
    print(f"Pictured at {options.dpi:g} dpi in {options.out}")
    return 0
