"""Lays outlines into the shortest strip, in a process of its own: a library that cannot be stopped is killed instead.

Reads one JSON document from standard input and writes one to standard output. See `strips.shorten`, which starts it.
"""

import json
import sys


def main() -> None:
    """Read what is to be laid out, search as long as is said, write where everything lies."""
    import spyrrow

    asked = json.load(sys.stdin)
    items = [
        spyrrow.Item(one["id"], [tuple(point) for point in one["outline"]], 1, asked["angles"])
        for one in asked["outlines"]
    ]
    strip = spyrrow.StripPackingInstance("strip", asked["height_mm"], items)
    config = spyrrow.StripPackingConfig(
        early_termination=True,
        total_computation_time=asked["seconds"],
        num_workers=asked["workers"],
        seed=asked["seed"],
        min_items_separation=asked["gap_mm"] or None,
    )
    found = strip.solve(config)
    placed = [[one.id, one.translation[0], one.translation[1], one.rotation] for one in found.placed_items]
    json.dump({"width_mm": found.width, "placed": placed}, sys.stdout)


if __name__ == "__main__":
    main()
