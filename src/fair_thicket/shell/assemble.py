"""How a card is put together, from the shell."""

import argparse
from collections.abc import Iterator
from typing import TYPE_CHECKING

from fair_thicket.shell.output import print_json

if TYPE_CHECKING:
    from shapely.geometry.base import BaseGeometry

    from fair_thicket.assembly import Assembly

THINK_S = 20.0
"""Nobody drags a piece here: a proof is worth waiting for, and on most cards comes within a second."""


def assemble(options: argparse.Namespace) -> int:
    """Plan heights, foam, glue, the order of the work and the post of a card; print it where that is wanted."""
    from fair_thicket.engines import assemble as plan_card
    from fair_thicket.files.atomic import write_whole
    from fair_thicket.files.card_file import open_card
    from fair_thicket.files.places import refuse_target
    from fair_thicket.printing.assembly_pages import draw_assembly_pages
    from fair_thicket.printing.page import Sheets, paper_for

    if options.out is not None:
        refuse_target(options.out, options.card, what="the PDF")
    whole, pictures = open_card(options.card)
    made = plan_card(whole, {}, seconds=THINK_S)
    if options.out is not None:
        sheets = Sheets(whole.card.title or "untitled card", options.paper or paper_for(whole.card.unit))
        draw_assembly_pages(sheets, made, pictures)
        write_whole(options.out, sheets.finish())
    if options.json:
        return print_json(_document(made))
    _say(made)
    if options.out is not None:
        print(f"Printed to {options.out}; print it at 100 % and check its bar with a ruler.")
    return 0


def _document(made: "Assembly") -> dict[str, object]:
    return {
        "heights": {
            "most_mm": made.front.heights.most_mm,
            "pieces": [
                {
                    "id": rest.key,
                    "side": side.name,
                    "bottom_mm": rest.bottom_mm,
                    "top_mm": rest.top_mm,
                    "rests": rest.how,
                }
                for side in made.sides
                for rest in side.heights.rests
            ],
        },
        "foam": [
            {"piece": one.piece, "side": side.name, "thick_mm": one.thick_mm} | outline
            for side in made.sides
            for one in side.foam.strips
            for outline in _outlines(one.area)
        ],
        "glue": [
            {"piece": one.piece, "side": side.name, "kind": one.kind} | outline
            for side in made.sides
            for one in side.glue.glues
            for outline in _outlines(one.area)
        ],
        "steps": [
            {
                "key": one.operation.key,
                "words": one.operation.words,
                "pieces": list(one.operation.pieces),
                "start_min": round(one.start_min, 2),
                "minutes": round(one.operation.minutes, 2),
                "after": [{"key": edge.key, "because": edge.because} for edge in one.operation.after],
            }
            for one in made.schedule.steps
        ],
        "post": {
            "thickness_mm": made.post.thickness_mm,
            "grams": made.post.grams,
            "envelope": made.post.envelope,
            "reasons": list(made.post.reasons),
        },
        "minutes": round(made.schedule.minutes, 2),
        "optimal": made.schedule.is_best,
    }


def _outlines(area: "BaseGeometry") -> Iterator[dict[str, object]]:
    """Yield the parts of an area, each with its outline and what is left open within it."""
    from fair_thicket.shape.outline import polygons_of

    for part in polygons_of(area):
        rings = [[[round(x, 3), round(y, 3)] for x, y in ring.coords[:-1]] for ring in (part.exterior, *part.interiors)]
        yield {"outline": rings[0], "holes": rings[1:]}


def _say(made: "Assembly") -> None:
    proof = "no order takes less time" if made.schedule.is_best else f"at least {made.schedule.bound:.0f} in any order"
    print(f"About {made.schedule.minutes:.0f} minutes with all drying; {proof}.")
    for one in made.schedule.steps:
        print(f"{one.start_min:7.1f} min  {one.operation.words}")
    post = made.post
    print(f"{post.thickness_mm:.1f} mm thick, {post.grams:.0f} g; envelope: {post.envelope or 'none of the usual'}")
    for reason in post.reasons:
        print(f"  {reason}")
