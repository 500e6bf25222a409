"""Regions, colours, runs and proposals: python -m bench.colour."""

import time
from collections.abc import Callable

import msgspec
import numpy as np

from bench.timing import best_of, tell
from fair_thicket.colour.regions import find_regions
from fair_thicket.colour.runs import find_run
from fair_thicket.colour.suggesting import suggest
from fair_thicket.demo import CARD_FILE, SUPPLIES_FILE
from fair_thicket.files.card_file import open_card
from fair_thicket.files.supplies_csv import read_supplies
from fair_thicket.ink.drawn import new_drawn
from fair_thicket.ink.layings import Laying, laying_of
from fair_thicket.ink.prints import decode_picture
from fair_thicket.ink.shading import colour_all, colour_image
from fair_thicket.laid.stack import stack
from fair_thicket.laid.visibility import look
from fair_thicket.model.card import Work
from fair_thicket.model.supplies import Marker

IMAGES, MARKERS = 20, 60


def layings(work: Work) -> list[Laying]:
    """All images of a card as they are coloured, and again until there are twenty."""
    leaves = stack(work)
    found = [one for leaf in leaves if (one := laying_of(work.card, work.stash, leaves, leaf)) is not None]
    turned = [one._replace(shadow_deg=one.shadow_deg + 1 + number) for number, one in enumerate(found)]
    return [*found, *turned][:IMAGES]


def timed(run: Callable[[], object]) -> float:
    begun = time.perf_counter()
    run()
    return time.perf_counter() - begun


def main() -> None:
    work, pictures = open_card(CARD_FILE)
    newt = work.stash.find("ink-newt")
    ink = 1 - decode_picture(pictures[newt.picture])
    px_per_mm = ink.shape[1] / newt.width_mm
    tell(
        f"regions of an image of {newt.width_mm:.0f} mm",
        1000 * (best_of(5, lambda: find_regions(ink, px_per_mm))),
        "ms",
        0.060 * 1000,
    )
    every = layings(work)
    colour_image(every[0])
    colour = new_drawn().image
    tell(
        f"{len(every)} images coloured from nothing",
        1000 * (timed(lambda: colour_all(every, colour))),
        "ms",
        0.6 * 1000,
    )
    toad = next(one for one in every if one.stamp.id == "toad-postmaster")
    times = []
    for number in range(5):
        part = msgspec.structs.replace(toad.colouring[5], shadow_deg=float(number))
        colouring = (*toad.colouring[:5], part, *toad.colouring[6:])
        changed = toad._replace(colouring=colouring)
        times.append(timed(lambda changed=changed: colour(changed)))
    tell("one part of the toad recoloured", 1000 * (float(np.median(times))), "ms", 0.030 * 1000)
    markers = [one for one in read_supplies(SUPPLIES_FILE) if isinstance(one, Marker)]
    chance = np.random.default_rng(1)
    box = [f"#{value:06x}" for value in chance.integers(0, 1 << 24, 300)]
    tell(
        "a run out of 300 markers, the first of a box",
        1000 * (timed(lambda: find_run(box, "#4f8a4a", 4))),
        "ms",
        0.020 * 1000,
    )
    tell("another run of the same box", 1000 * (best_of(3, lambda: find_run(box, "#a86f38", 4))), "ms", 0.020 * 1000)
    found = []
    tell(
        "proposals for the demo card",
        1000 * (timed(lambda: found.extend(suggest(work, look(work), markers)))),
        "ms",
        3.0 * 1000,
    )
    print(f"  {len(found)} proposals, the best {found[0].score:.3f}")


if __name__ == "__main__":
    main()
