"""Colouring from the shell: regions of an image, and runs out of a list of markers."""

import argparse
import re
from pathlib import Path
from typing import TYPE_CHECKING

from fair_thicket.model.errors import InputError
from fair_thicket.shell.output import print_json

if TYPE_CHECKING:
    from fair_thicket.model.supplies import Marker

COLOUR = re.compile(r"#[0-9a-f]{6}")


def regions(options: argparse.Namespace) -> int:
    """Find the regions of an image."""
    from fair_thicket.colour.likes import find_parts
    from fair_thicket.colour.regions import find_regions
    from fair_thicket.intake.apart import PAGE_S, run_apart
    from fair_thicket.intake.single import find_body, read_single
    from fair_thicket.shape.outline import to_outline

    name = options.image.name
    single = run_apart(read_single, options.image, dpi=options.dpi, name=name, seconds=PAGE_S)
    found = find_regions(single.ink, single.px_per_mm, find_body(single))
    parts = find_parts(found.areas)
    rows, columns = single.ink.shape
    size = (columns / single.px_per_mm, rows / single.px_per_mm)
    if options.json:
        listed = []
        for number, area in enumerate(found.areas, 1):
            outer, holes = to_outline(area)
            rings = [[[round(x, 3), round(y, 3)] for x, y in ring] for ring in (outer, *holes)]
            listed.append({"id": number, "area_mm2": round(area.area, 3), "outline": rings[0], "holes": rings[1:]})
        document = {
            "image": {"w_mm": round(size[0], 3), "h_mm": round(size[1], 3)},
            "regions": listed,
            "parts": [[index + 1 for index in part] for part in parts],
        }
        return print_json(document)
    if not found.areas:
        raise InputError(f"{name} has no region that its lines close; colour it as a whole, or scan it again darker.")
    print(f"{len(found.areas)} regions in {len(parts)} parts on {size[0]:.1f} × {size[1]:.1f} mm")
    for part in parts:
        told = ", ".join(f"{index + 1}" for index in part)
        total = sum(found.areas[index].area for index in part)
        print(f"  {told:20} {total:8.1f} mm²")
    return 0


def runs(options: argparse.Namespace) -> int:
    """Find the best run of shades out of a list of markers."""
    from fair_thicket.colour.runs import find_gaps, find_run

    name, box = options.markers.name, _markers(options.markers)
    if not box:
        raise InputError(f"{name} has no marker with a colour; put a line with a name and a colour for each.")
    found = find_run([one.colour for one in box], options.colour, options.shades, paper=options.paper)
    if found is None:
        raise InputError(
            f"{name} has no {options.shades} markers each lighter than the one before; ask for fewer shades."
        )
    chosen = [box[index] for index in found.markers]
    if options.json:
        run = [{"name": one.name, "colour": one.colour} for one in chosen]
        return print_json({"run": run, "steps": [round(step, 3) for step in found.steps], "optimal": True})
    print(f"from dark to light, the lead {found.off:.1f} off the wanted colour:")
    for index, one in enumerate(chosen):
        step = f"{found.steps[index - 1]:6.1f}" if index else "      "
        print(f"{step}  {one.name}, {one.colour}")
    for gap in find_gaps(found.laid):
        pair = f"{chosen[gap.after].name} and {chosen[gap.after + 1].name}"
        if gap.is_far:
            print(f"  a hard line stays between {pair}: put {gap.between} between, or mix the two tip to tip")
        else:
            print(f"  {pair} are too alike: one of them is wasted")
    return 0


def colour(options: argparse.Namespace) -> int:
    """Colour a card by the first suggestion."""
    from fair_thicket.colour.both_sides import with_other_side
    from fair_thicket.colour.offers import markers_on
    from fair_thicket.colour.reading import read_regions
    from fair_thicket.colour.suggesting import suggest
    from fair_thicket.edits.colouring import set_regions
    from fair_thicket.files.card_file import open_card, save_card
    from fair_thicket.laid.visibility import look
    from fair_thicket.model.stash import Kind

    if options.out.suffix.lower() != ".thicket":
        raise InputError(f"{options.out.name} is no card; give -o a name that ends in .thicket.")
    if options.out.resolve() == options.card.resolve():
        raise InputError("The coloured card would take the place of the card itself; give -o another name.")
    work, pictures = open_card(options.card)
    for stamp in work.stash.stamps:
        if stamp.kind is Kind.STAMP and not stamp.regions:
            work = set_regions(work, stamp.id, *read_regions(stamp, pictures.get(stamp.picture, b"")))
    markers = _markers(options.markers) if options.markers is not None else markers_on(work)
    if not markers:
        raise InputError("No markers are known; give a list of yours with --markers MARKERS.csv.")
    found = suggest(work, look(work), markers, seed=options.seed)
    if not found:  # a card of plain papers is as coloured as it can be
        save_card(options.out, work, pictures)
        if options.json:
            return print_json({"families": [], "score": None, "terms": {}, "reasons": [], "optimal": True})
        print(f"No image on the card has a region to colour: it is written as it was, in {options.out}")
        return 0
    best = with_other_side(found[0], markers, seed=options.seed)
    save_card(options.out, best.work, pictures)
    if options.json:
        terms = {name: round(value, 4) for name, value in best.terms._asdict().items()}
        return print_json(
            {
                "families": list(best.families),
                "score": round(best.score, 4),
                "terms": terms,
                "reasons": list(best.reasons),
                "optimal": best.is_best,
            }
        )
    print(f"Coloured in {options.out}")
    for reason in best.reasons:
        print(f"  {reason}")
    return 0


def _markers(path: Path) -> "list[Marker]":
    """Read the markers of a list, in a child process."""
    from fair_thicket.colour.runs import markers_among
    from fair_thicket.files.supplies_csv import read_supplies
    from fair_thicket.intake.apart import TABLE_S, run_apart

    return markers_among(run_apart(read_supplies, path, as_markers=True, name=path.name, seconds=TABLE_S))


def colour_of(words: str) -> str:
    """Read a colour such as ``#3c6e47``; argparse tells what is wrong with any other."""
    if not COLOUR.fullmatch(words.lower()):
        raise argparse.ArgumentTypeError(f"“{words[:20]}” is no colour; write it like #3c6e47")
    return words.lower()
